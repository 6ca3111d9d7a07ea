"""Hold-downs where they are seen: the inputs each form and method has, what is wrong with them, the files of the parts."""

import io
import re
import zipfile

import ezdxf
import ezdxf.bbox
import pypdfium2
import pytest

from bright_willow.core.plan.plan import plan
from bright_willow.core.plan.read_job import read_job
from tests.core.methods.jobs import data_for

CROOK, RING, GLUED = 15, 10, 4
NAMES = ("start_hold", "start_end", "matched_cauls", "end_radius_mm", "clamp_holes", "drum_stand")


def inputs(client, job):
    page = client.get(f"/jobs/{job}/form").text
    return {n for n in NAMES if f'name="form.{n}"' in page}


def keep(client, job, **values):
    q = re.search(r"/keep\?(seen=\d+&amp;in=\w+)", client.get(f"/jobs/{job}/form").text)[1].replace("&amp;", "&")
    data = {f"form.{k}": v for k, v in values.items()}
    return client.post(f"/jobs/{job}/form/keep?{q}", data=data, headers={"accept": "application/json"})


def test_each_form_asks_only_what_it_can_have(demo_client):
    assert inputs(demo_client, CROOK) == {"start_hold", "matched_cauls", "end_radius_mm", "clamp_holes"}
    assert inputs(demo_client, RING) == {"drum_stand"}
    assert "start_hold" not in inputs(demo_client, GLUED), "glued strips are not bent from an end"
    keep(demo_client, CROOK, start_hold="notch")
    assert "start_end" in inputs(demo_client, CROOK)


def test_a_faulty_rounding_is_said_beside_it_and_nothing_is_lost(demo_client):
    for value, sentence in (("150", "At most 100 mm"), ("-1", "At least 0"), ("round", "")):
        answer = keep(demo_client, CROOK, end_radius_mm=value, start_hold="cleat")
        assert answer.status_code == 422 and sentence in answer.text and f'value="{value}"' in answer.text


def test_the_parts_are_listed_bought_and_bent_with(demo_client):
    keep(demo_client, CROOK, start_hold="cleat", start_end="right", matched_cauls="ends_and_middle")
    page = demo_client.get(f"/jobs/{CROOK}/form").text
    for words in (
        "start cleat",
        "left end caul",
        "middle caul",
        "base board",
        "Bolt form and cleat",
        "pull on the cleat",
    ):
        assert words in page, words
    assert "under the start cleat" in demo_client.get(f"/jobs/{CROOK}/form/steps").text
    sheets = pypdfium2.PdfDocument(demo_client.get(f"/jobs/{CROOK}/take/pdf?paper=a4").content)
    text = " ".join(page.get_textpage().get_text_range() for page in sheets)
    assert "start cleat" in text and "this edge to the strip" in text


def test_the_files_hold_each_part_at_its_size(demo_client, demo_store):
    keep(demo_client, CROOK, start_hold="cleat", matched_cauls="ends")
    with demo_store.connected():
        drawn = plan(demo_store.jobs.get(CROOK).job, demo_store.shop_settings.get(), demo_store.training.learned())
    with zipfile.ZipFile(io.BytesIO(demo_client.get(f"/jobs/{CROOK}/take/zip").content)) as folder:
        names = [n for n in folder.namelist() if n.endswith(".dxf") and n[0].isdigit()]
        assert any("start-cleat" in n for n in names) and any("caul" in n for n in names)
        for name in names:
            drawing = ezdxf.read(io.StringIO(folder.read(name).decode()))
            shown = [e for e in drawing.modelspace() if e.dxf.layer in ("FACE", "BODY")]
            size = ezdxf.bbox.extents(shown).size
            part = next(p for p in drawn.build.parts if name.startswith(f"{p.number:02d}"))
            assert (size.x, size.y) == pytest.approx((part.width_mm, part.height_mm), abs=0.2), name


def test_a_job_file_of_before_has_none_of_it():
    old = read_job(data_for("steam_strap"))
    assert old.form.start_hold == "clamps" and not plan(old).form.hold_downs
    assert not any(p.is_hold_down or p.role == "stand" for p in plan(old).build.parts)


def test_measured_blanks_are_rows_with_their_shims(demo_client, demo_store):
    def q():
        return re.search(r"/keep\?(seen=\d+&amp;in=\w+)", demo_client.get(f"/jobs/{CROOK}/bend").text)[1].replace(
            "&amp;", "&"
        )

    for _ in range(2):
        assert demo_client.post(f"/jobs/{CROOK}/bend/rows?list=blanks_mm&do=add&{q()}").status_code == 200
    kept = demo_client.post(
        f"/jobs/{CROOK}/bend/keep?{q()}",
        data={"heat.blanks_mm.0": "1199.5", "heat.blanks_mm.1": "1230", "heat.preload_mm": "2"},
    )
    assert kept.status_code == 200
    page = demo_client.get(f"/jobs/{CROOK}/bend").text
    assert "shim" in page and "too long, saw off" in page and "too long for the strap" in page
    assert "a blank arches before it is pressed in" in page
    bad = demo_client.post(
        f"/jobs/{CROOK}/bend/keep?{q()}", data={"heat.blanks_mm.1": "12"}, headers={"accept": "application/json"}
    )
    assert bad.status_code == 422 and "At least 50 mm" in bad.text and 'value="12"' in bad.text
    demo_client.post(f"/jobs/{CROOK}/bend/rows?list=blanks_mm&do=remove&row=1&{q()}")
    with demo_store.connected():
        assert demo_store.jobs.get(CROOK).job.heat.blanks_mm == (1199.5,)


def test_pulled_to_size_is_told_on_form_and_drying(demo_client):
    keep(demo_client, CROOK, school="pulled")
    assert "a strip is tacked" in demo_client.get(f"/jobs/{CROOK}/form").text.replace("\n", " ")
    page = demo_client.get(f"/jobs/{CROOK}/dry").text
    assert "that is past size by" in page and "strip tacked across" in page
    assert 'name="heat.held_by"' not in page and "Held by a strip across" in page
    keep(demo_client, CROOK, school="computed")
    assert 'name="heat.held_by"' in demo_client.get(f"/jobs/{CROOK}/dry").text
