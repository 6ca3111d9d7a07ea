"""Pages and their answers over HTTP."""

import datetime as dt
import json
import re
from pathlib import Path
from urllib.parse import quote

import pytest

from bright_willow.core.common.errors import PlanError
from bright_willow.core.common.stages import stages_of
from bright_willow.core.methods.method_registry import WAYS
from bright_willow.core.plan.plan import plan
from bright_willow.core.plan.read_job import read_job
from bright_willow.core.shape.kinds.ring import Ring
from bright_willow.core.shape.shape_registry import KINDS
from bright_willow.web.pages.shop import _seconds
from tests.conftest import RIB
from tests.core.methods.jobs import job_for

PARTS = {"x-parts": "yes"}
SHAPE = {
    "name": "Rib",
    "shape.kind": "arc_by_chord",
    "shape.face": "inner",
    "shape.chord_mm": "1800",
    "shape.rise_mm": "500",
    "part.thickness_mm": "40",
    "part.width_mm": "60",
    "part.count": "6",
    "part.spares": "1",
    "part.trim_mm": "40",
}


@pytest.fixture
def job_id(store, rib):
    with store.connected():
        return store.jobs.add(rib)


def job_of(store, job_id):
    with store.connected():
        return store.jobs.get(job_id).job


@pytest.mark.parametrize(
    "path",
    [
        "/",
        "/book",
        "/shop",
        "/jobs/5/shape",
        "/jobs/5/stock",
        "/jobs/5/build_up",
        "/jobs/5/form",
        "/jobs/5/measure",
        "/jobs/1/measure",
        "/jobs/5/shape/history",
        "/jobs/5/offsets/print",
    ],
)
@pytest.mark.parametrize("unit", ["mm", "in"])
def test_every_page_opens_in_both_units(demo_client, path, unit):
    demo_client.post(f"/units?to={unit}")
    answer = demo_client.get(path)
    assert answer.status_code == 200
    assert "<title>" in answer.text and "Bright Willow" in answer.text


def test_an_empty_shop_invites(client):
    assert "New job" in client.get("/").text
    assert "No bend is recorded yet" in client.get("/book").text


def test_start_a_job_in_inches_has_round_figures(client, store):
    client.post("/units?to=in")
    page = client.post("/jobs").text
    assert 'value="40"' in page and "New bend" in page
    client.post("/units?to=mm")
    assert 'value="1016"' in client.get("/jobs/1/shape").text


def test_keeping_a_shape(client, store, job_id):
    answer = client.post(f"/jobs/{job_id}/shape/keep", data={**SHAPE, "shape.rise_mm": "52 cm"}, headers=PARTS)
    assert answer.status_code == 200
    assert job_of(store, job_id).shape.rise_mm == 520
    assert 'data-place="board"' in answer.text and "rise 520 mm" in answer.text


def test_notes_keep_their_lines_and_are_shown_with_the_steps(client, store, job_id):
    message = "Show face outwards.\nAsk <b>before</b> cutting."
    kept = client.post(
        f"/jobs/{job_id}/shape/keep", data={**SHAPE, "notes": message.replace("\n", "\r\n")}, headers=PARTS
    )
    assert kept.status_code == 200
    assert job_of(store, job_id).notes == message
    assert "before&lt;/b&gt; cutting." in client.get(f"/jobs/{job_id}/shape/steps").text
    long = client.post(f"/jobs/{job_id}/shape/keep", data={**SHAPE, "notes": "x" * 4001}, headers=PARTS)
    assert 'id="f-notes" name="notes"' in long.text
    assert 'aria-describedby="f-notes-fault"' in long.text
    assert job_of(store, job_id).notes == message


def test_every_fault_at_once_beside_its_field_and_nothing_kept(client, store, job_id):
    bad = {
        **SHAPE,
        "shape.chord_mm": "abc",
        "shape.rise_mm": "-4",
        "part.thickness_mm": "0",
        "part.count": "1.5",
        "name": " ",
    }
    for headers in (PARTS, {}):
        answer = client.post(f"/jobs/{job_id}/shape/keep", data=bad, headers=headers)
        assert answer.status_code == 422
        for sentence in (
            "“abc” is not a length.",
            "At least 1 mm, please.",
            "At least 0.5 mm, please.",
            "is not a whole number.",
            "Give it a name.",
        ):
            assert sentence in answer.text, sentence
        for typed in ("abc", "-4", "1.5"):
            assert f'value="{typed}"' in answer.text
    assert job_of(store, job_id) == read_job(RIB)


def test_impossible_arcs_are_said_beside_the_field(client, job_id):
    answer = client.post(f"/jobs/{job_id}/shape/keep", data={**SHAPE, "shape.chord_mm": "60"}, headers=PARTS)
    assert answer.status_code == 422 and "This chord is too short" in answer.text
    answer = client.post(
        f"/jobs/{job_id}/shape/keep",
        data={
            **SHAPE,
            "shape.face": "outer",
            "part.thickness_mm": "300",
            "shape.chord_mm": "300",
            "shape.rise_mm": "140",
        },
        headers=PARTS,
    )
    assert answer.status_code == 422 and "thinner part" in answer.text


def test_a_length_left_alone_keeps_its_exact_value(client, store, job_id):
    client.post("/units?to=in")
    page = client.get(f"/jobs/{job_id}/shape").text
    assert 'value="70 7/8"' in page  # 1800 mm to the nearest sixteenth
    inches = {
        **SHAPE,
        "shape.chord_mm": "70 7/8",
        "shape.rise_mm": "20",
        "part.thickness_mm": "1 9/16",
        "part.width_mm": "2 3/8",
        "part.trim_mm": "1 37/64",
    }
    assert client.post(f"/jobs/{job_id}/shape/keep", data=inches, headers=PARTS).status_code == 200
    kept = job_of(store, job_id)
    assert (kept.shape.chord_mm, kept.shape.rise_mm, kept.part.thickness_mm) == (1800, 508, 40)
    assert kept.part.trim_mm == pytest.approx(25.4 * (1 + 37 / 64))  # entered so: kept so, and shown so
    assert 'value="1 37/64"' in client.get(f"/jobs/{job_id}/shape").text


def test_stating_the_same_arc_the_other_way(client, store, job_id):
    client.post(f"/jobs/{job_id}/shape/keep", data={**SHAPE, "shape.kind": "arc_by_radius"}, headers=PARTS)
    shape = job_of(store, job_id).shape
    assert shape.kind == "arc_by_radius" and shape.radius_mm == pytest.approx(1060)


@pytest.mark.parametrize(
    ("seconds", "message"), [(6.096, "6.1"), (8.0, "8"), (20.0, "20"), (99.7, "100"), (180.0, "180")]
)
def test_seconds_are_said_as_figures(seconds, message):
    assert _seconds(seconds) == message


def test_spares_are_proposed_with_the_count(client, store, job_id):
    with store.connected():
        job = store.jobs.get(job_id).job
        store.jobs.save(job_id, job.model_copy(update={"part": job.part.model_copy(update={"count": 40})}), "more")
        more = store.jobs.get(job_id).job
    advised = plan(more).quantities.spares_advised
    assert advised > 0 and f"{advised} proposed" in client.get(f"/jobs/{job_id}/shape").text


def test_trying_keeps_nothing(client, store, job_id):
    answer = client.post(f"/jobs/{job_id}/build_up/try", data={"build_up.laminae": "4", "build_up.adhesive": "epoxy"})
    assert answer.status_code == 200 and "4 strips of 10 mm" in answer.text
    assert client.post(f"/jobs/{job_id}/shape/try", data={**SHAPE, "shape.chord_mm": "18o"}).status_code == 204
    assert job_of(store, job_id) == read_job(RIB)


def test_pulling_a_handle(client, store, job_id):
    frame = "-1100 -900 2200 1400"
    moved = client.post(f"/jobs/{job_id}/pull?handle=rise_mm-0&x=3&y=-611.4&frame={frame}")
    assert moved.status_code == 200 and "rise 611 mm" in moved.text and f'viewBox="{frame}"' in moved.text
    assert job_of(store, job_id).shape.rise_mm == 500
    client.post(f"/jobs/{job_id}/pull?handle=chord_mm-2&x=850.2&y=-20&keep=1")
    assert job_of(store, job_id).shape.chord_mm == 1700
    assert client.post(f"/jobs/{job_id}/pull?handle=rise_mm-0&x=0&y=99999").status_code == 204
    for bad in (
        "handle=nose&x=1&y=1",
        "handle=rise_mm-0&x=nan&y=1",
        "handle=rise_mm-0&x=inf&y=1",
        "handle=rise_mm-0&x=a&y=1",
    ):
        assert client.post(f"/jobs/{job_id}/pull?{bad}").status_code == 422


def test_pulling_a_radius_keeps_its_radius_or_its_chord(client, store, job_id):
    client.post(f"/jobs/{job_id}/shape/keep", data={**SHAPE, "shape.kind": "arc_by_radius"}, headers=PARTS)
    client.post(f"/jobs/{job_id}/pull?handle=angle_deg-2&x=1000&y=60&keep=1")
    shape = job_of(store, job_id).shape
    assert shape.radius_mm == pytest.approx(1060) and shape.angle_deg > 116.5


def test_taking_advice(client, store, job_id):
    client.post(f"/jobs/{job_id}/build_up/keep", data={"build_up.laminae": "3"}, headers=PARTS)
    page = client.get(f"/jobs/{job_id}/build_up").text
    assert "Some strips may crack" in page and "Use 4 strips" in page
    client.post(f"/jobs/{job_id}/build_up/apply", data={"sets": json.dumps({"build_up.laminae": 4})}, headers=PARTS)
    assert job_of(store, job_id).build_up.laminae == 4
    for bad in ("{", "[]", '{"a.b": 1}', '{"build_up.laminae": "x"}', '{"name.x": 1}', "5", '{"": 1}'):
        assert client.post(f"/jobs/{job_id}/build_up/apply", data={"sets": bad}).status_code == 422, bad


def test_the_whole_round_to_learning(client, store, job_id):
    before = client.get(f"/jobs/{job_id}/build_up").text
    assert "calculated; the range is wide" in before
    assert "No form is built" in client.get(f"/jobs/{job_id}/measure").text
    assert client.post(f"/jobs/{job_id}/built").status_code == 200
    today = dt.date.today().isoformat()
    for n in range(1, 5):
        piece = {"label": str(n), "day": today, "chord": f"{1818 + n}", "rise": "478", "face": "inner"}
        answer = client.post(f"/jobs/{job_id}/pieces", data=piece, headers=PARTS)
        assert answer.status_code == 200
    assert "sprang back more than expected" in answer.text
    after = client.get(f"/jobs/{job_id}/build_up").text
    assert "from 4 of your measured bends" in after and "likely" in after
    first = client.get("/book").text
    assert "4 bends" in first
    assert client.get("/book/experience.json").json()["bends"][0]["group"] == "ash_white|rigid"
    client.post("/pieces/1/leave-out?out=true&back=book")
    assert "3 bends" in client.get("/book").text


def test_measuring_again_and_slips_of_the_pen(client, store, job_id):
    client.post(f"/jobs/{job_id}/built")
    piece = {"label": "1", "day": "2026-05-01", "chord": "1806", "rise": "493", "face": "inner"}
    client.post(f"/jobs/{job_id}/pieces", data=piece)
    bad = {**piece, "chord": "18 6", "rise": "", "day": "tomorrow", "label": "", "face": "front"}
    answer = client.post(f"/jobs/{job_id}/pieces", data=bad, headers=PARTS)
    assert answer.status_code == 422
    for sentence in ("Enter a date such as", "Type a length here", "Enter a short name", "18 6"):
        assert sentence in answer.text
    assert "of that name already" in client.post(f"/jobs/{job_id}/pieces", data=piece, headers=PARTS).text
    short = client.post(f"/jobs/{job_id}/pieces", data={**piece, "label": "2", "chord": "900"}, headers=PARTS)
    assert short.status_code == 422 and "check both" in short.text.lower()
    early = client.post("/pieces/1/again", data={**piece, "day": "2026-04-01"}, headers=PARTS)
    assert early.status_code == 422 and "first measured later" in early.text
    wrong = client.post("/pieces/1/again", data={**piece, "chord": "long"}, headers=PARTS).text
    assert wrong.count('value="long"') == 1 and 'id="again-1-chord-fault"' in wrong and "p-chord-fault" not in wrong
    later = client.post("/pieces/1/again", data={**piece, "day": "2026-05-09", "chord": "1807"}, headers=PARTS)
    assert later.status_code == 200 and "9 May" in later.text
    assert "9 May" not in client.post("/measurements/2/remove", headers=PARTS).text


def test_a_form_stays_as_it_was_built(client, store, job_id):
    client.post(f"/jobs/{job_id}/built")
    client.post(f"/jobs/{job_id}/build_up/keep", data={"build_up.laminae": "5"}, headers=PARTS)
    page = client.get(f"/jobs/{job_id}/measure").text
    assert "has changed since this form was built" in page
    with store.connected():
        assert store.forms.find(job_id)[0].built.laminae == 8


def test_a_plan_that_cannot_be_is_said_on_the_page(client, store, job_id):
    client.post(f"/jobs/{job_id}/build_up/keep", data={"build_up.laminae": "2"}, headers=PARTS)
    client.post(f"/jobs/{job_id}/built")
    for n in range(30):  # this ash opens nearly four times what mechanics says
        client.post(
            f"/jobs/{job_id}/pieces",
            data={"label": str(n), "day": "2026-05-01", "chord": "2149", "rise": "18", "face": "inner"},
        )
    page = client.get(f"/jobs/{job_id}/build_up")
    assert page.status_code == 200 and "thinner strips" in page.text
    assert client.get("/").status_code == 200
    assert client.get(f"/jobs/{job_id}/take/pdf").status_code == 422
    assert client.get(f"/jobs/{job_id}/offsets/print").status_code == 200


@pytest.mark.parametrize("way", WAYS)
def test_where_no_bend_can_be_drawn_every_page_of_it_still_opens_and_says_why(client, store, rib, monkeypatch, way):
    """A way refuses for many reasons, and each of its stages may be the one that is looked at then."""
    message = "Nothing bends so, for once."

    def refused(*_):
        return PlanError("shape", message)

    with store.connected():
        job_id = store.jobs.add(WAYS[way].turn(rib))
    for name in ("checked_plan", "checked_sketch"):
        monkeypatch.setattr(f"bright_willow.web.job_view.{name}", refused)
    for unit in ("mm", "in"):
        client.post(f"/units?to={unit}")
        for stage in stages_of(WAYS[way].traits):
            page = client.get(f"/jobs/{job_id}/{stage.key}")
            assert (page.status_code, message in page.text) == (200, True), stage.key
        page = client.get(f"/jobs/{job_id}/prepare").text
        assert ('data-fold="abreast"' in page, "off the saw" in page) == (("laid_up" in WAYS[way].traits),) * 2


def test_a_ring_that_is_to_be_bent_hot_is_told_under_prepare_too(client, store, rib):
    with store.connected():
        ring = rib.model_copy(update={"way": "steam_strap", "shape": Ring(kind="ring", diameter_mm=400)})
        job_id = store.jobs.add(ring)
    page = client.get(f"/jobs/{job_id}/prepare").text
    assert "A closed ring is glued up from plies" in page and "Straight grain to the outside" in page


@pytest.mark.parametrize(
    ("kind", "starts"), [("pdf", b"%PDF"), ("svg", b"<?xml"), ("dxf", b"  0"), ("csv", b"station"), ("job", b"{")]
)
def test_files_to_take_away(client, job_id, kind, starts):
    answer = client.get(f"/jobs/{job_id}/take/{kind}")
    assert answer.status_code == 200 and answer.content.startswith(starts)
    assert "rib." in answer.headers["content-disposition"]


def test_a_job_file_goes_out_and_comes_back(client, store, job_id):
    raw = client.get(f"/jobs/{job_id}/take/job").content
    assert client.post("/jobs/bring", files={"file": ("a.json", raw)}).status_code == 200
    assert job_of(store, job_id + 1) == read_job(RIB)
    for bad, message in (
        (b"", "Choose a job file"),
        (b"\xff\xfe", "cannot be read"),
        (b"[" * 100_000, "cannot be read"),
        (b'{"name": "x"}', "shape: This is missing."),
        (b"[1]", "not a job"),
    ):
        answer = client.post("/jobs/bring", files={"file": ("b.json", bad)})
        assert answer.status_code == 422 and message in answer.text


def test_the_shop_is_kept_or_told(client, store):
    fields = {
        "name": "Oxbow",
        "kerf_mm": "2.5",
        "planing_mm": "1",
        "clean_up_mm": "6",
        "thinnest_mm": "1.5 mm",
        "glue_waste_pct": "20",
        "temperature_c": "17",
        "thicknesses_mm.0": "2",
        "thicknesses_mm.1": "",
        "thicknesses_mm.2": "3.5",
        "clamps.0.count": "12",
        "clamps.0.kind": "f_clamp",
        "clamps.0.opening_mm": "30 cm",
        "clamps.1.count": "4",
        "clamps.1.kind": "g_clamp",
        "clamps.1.opening_mm": "",
        "rule_in": "16",
        "sheet_long_mm": "2440",
        "sheet_short_mm": "1220",
        "altitude_m": "430",
        "measuring_error_mm": "0.4",
    }
    assert "Saved." in client.post("/shop", data=fields).text
    with store.connected():
        assert (store.shop_settings.get().thinnest_mm, store.shop_settings.get().thicknesses_mm) == (1.5, (2, 3.5))
    answer = client.post("/shop", data={**fields, "kerf_mm": "-1", "glue_waste_pct": "lots", "name": ""})
    assert answer.status_code == 422
    for typed, message in (
        ({"clamps.0.count": "a few"}, "“a few” is not a number"),
        ({"clamps.2.count": "", "clamps.2.kind": "pipe", "clamps.2.opening_mm": "600"}, "How many of them?"),
        ({"clamps.0.kind": "vice"}, "Choose one from the list"),
        ({"thicknesses_mm.0": "thin"}, "“thin” is not a length"),
        ({"clamps.1.opening_mm": "5"}, "At least 20 mm"),
    ):
        wrong = client.post("/shop", data={**fields, **typed})
        assert wrong.status_code == 422 and message in wrong.text and 'value="30 cm"' in wrong.text, message
    with store.connected():
        assert [(c.kind, c.count, c.opening_mm) for c in store.shop_settings.get().clamps] == [
            ("f_clamp", 12, 300),
            ("g_clamp", 4, 300),
        ]
        assert store.shop_settings.get().rule.finest == 0.1
    client.post("/shop", data={**fields, "clamps.1.count": "0"})
    with store.connected():
        assert [c.kind for c in store.shop_settings.get().clamps] == ["f_clamp"]  # none of them: the row goes
    client.post("/shop", data={**fields, "times.rip_metre": "20", "times.mix": "100"})
    client.post("/units?to=in")
    page = client.get("/shop").text
    assert "Rip, per foot of strip, s" in page and "per meter" not in page and "per square meter" not in page
    assert 'name="times.rip_metre" value="6.096"' in page or re.search(r'value="6\.1"[^>]*name="times.rip_metre"', page)
    for typed, seconds in (({}, 20.0), ({"times.rip_metre": "6"}, 6 / 0.3048)):
        client.post("/shop", data=typed)
        with store.connected():
            kept = {t.key: t.seconds for t in store.shop_settings.get().times}
        assert kept == {"rip_metre": pytest.approx(seconds), "mix": 100}
    client.post("/units?to=mm")
    for sentence in ("At least 0 mm", "“lots” is not a number", "Give it a name"):
        assert sentence in answer.text


def test_undo_over_http(client, store, job_id):
    client.post(f"/jobs/{job_id}/build_up/keep", data={"build_up.laminae": "5"}, headers=PARTS)
    client.post(f"/jobs/{job_id}/build_up/undo", headers=PARTS)
    assert job_of(store, job_id).build_up.laminae == 8
    client.post(f"/jobs/{job_id}/build_up/redo", headers=PARTS)
    assert job_of(store, job_id).build_up.laminae == 5
    assert "changed layup" in client.get(f"/jobs/{job_id}/shape/history").text


def test_copy_and_put_away(client, store, job_id):
    client.post(f"/jobs/{job_id}/copy")
    assert job_of(store, job_id + 1).name == "Rib, copy"
    client.post(f"/jobs/{job_id}/away")
    assert "Archived (1)" in client.get("/").text
    client.post(f"/jobs/{job_id}/back")
    assert "Put away" not in client.get("/").text


@pytest.mark.parametrize("kind", KINDS)
def test_every_shape_is_chosen_typed_and_taken_away(client, store, job_id, kind):
    answer = client.post(f"/jobs/{job_id}/shape/keep", data={**SHAPE, "shape.kind": kind}, headers=PARTS)
    assert answer.status_code == 200 and job_of(store, job_id).shape.kind == kind
    for unit in ("in", "mm"):
        client.post(f"/units?to={unit}")
        for stage in ("shape", "stock", "build_up", "form"):
            assert client.get(f"/jobs/{job_id}/{stage}").status_code == 200
    before = job_of(store, job_id)
    page = client.get(f"/jobs/{job_id}/shape").text
    assert "<svg" in page
    bad = {
        "shape.stretches.0.radius_mm": "x",
        "shape.points_mm": "0, 0\n5",
        "shape.radius_mm": "x",
        "shape.chord_mm": "x",
        "shape.left_radius_mm": "x",
        "shape.first_radius_mm": "x",
        "shape.diameter_mm": "x",
        "shape.half_width_mm": "x",
        "shape.x2_mm": "x",
        "shape.kind": kind,
    }
    answer = client.post(f"/jobs/{job_id}/shape/keep", data=bad, headers=PARTS)
    assert answer.status_code == 422 and 'class="fault"' in answer.text
    assert job_of(store, job_id) == before
    for file in ("pdf", "svg", "dxf", "csv"):
        assert client.get(f"/jobs/{job_id}/take/{file}").status_code == 200


def test_a_chain_row_by_row(client, store, job_id):
    def rows(query, **typed):
        return client.post(f"/jobs/{job_id}/shape/rows?{query}", data=typed, headers=PARTS)

    def kinds():
        return [s.kind for s in job_of(store, job_id).shape.stretches]

    client.post(f"/jobs/{job_id}/shape/keep", data={"shape.kind": "polycurve"}, headers=PARTS)
    assert kinds() == ["arc"]
    assert rows("do=add&to=0").status_code == rows("do=add&to=2").status_code == 200
    rows("do=move&row=2&to=0", **{"shape.stretches.0.radius_mm": "50 cm"})  # what is typed is kept first
    assert kinds() == ["easing", "arc", "straight"] and job_of(store, job_id).shape.stretches[1].radius_mm == 500
    rows("do=reverse")
    assert kinds() == ["straight", "arc", "easing"]
    easing = job_of(store, job_id).shape.stretches[2]
    assert easing.from_radius_mm == 200 and easing.to_radius_mm is None
    before = job_of(store, job_id).mid_line().sweep_rad
    rows("do=over")
    assert job_of(store, job_id).mid_line().sweep_rad == pytest.approx(-before, rel=0.1)  # another face is the inner
    client.post(f"/jobs/{job_id}/shape/keep", data={"shape.stretches.0.kind": "arc"}, headers=PARTS)
    assert kinds() == ["arc", "arc", "easing"]
    rows("do=remove&row=0")
    assert kinds() == ["arc", "easing"]
    for query, typed, message in (
        ("do=remove&row=9", {}, "no such row"),
        ("do=dance", {}, "not possible"),
        ("do=add&to=0", {"shape.stretches.0.angle_deg": "round"}, "not a number"),
        ("do=add&to=0", {"shape.stretches.1.length_mm": ""}, "length"),
    ):
        answer = rows(query, **typed)
        assert answer.status_code == 422 and message in answer.text and kinds() == ["arc", "easing"], message
    rows("do=remove&row=0")
    assert "Something must be left" in rows("do=remove&row=0").text


def test_points_as_typed(client, store, job_id):
    client.post(f"/jobs/{job_id}/shape/keep", data={"shape.kind": "outline"}, headers=PARTS)
    pasted = "station\theight\n0\t0\n250\t180\n500\t240\n750\t180\n1000\t0"
    assert (
        client.post(
            f"/jobs/{job_id}/shape/keep", data={"shape.kind": "outline", "shape.points_mm": pasted}, headers=PARTS
        ).status_code
        == 200
    )
    assert job_of(store, job_id).shape.points_mm[2] == (500, 240)
    assert "the curve is off them by at most" in client.get(f"/jobs/{job_id}/shape").text
    for text, message in (
        ("0 0\n9 9", "Three points"),
        ("0 0\n0 0\n9 9", "repeats the point before it"),
        ("0 0\n900 10\n300 20\n1000 0", "doubles back"),
        ("0 0\n1 x\n9 9", "Line 2"),
    ):
        answer = client.post(
            f"/jobs/{job_id}/shape/keep", data={"shape.kind": "outline", "shape.points_mm": text}, headers=PARTS
        )
        assert answer.status_code == 422 and message in answer.text


def test_an_outline_out_of_a_file(client, store, job_id):
    drawing = b'<svg xmlns="http://www.w3.org/2000/svg" width="900mm" height="400mm" viewBox="0 0 900 400"><path d="M0 300C200 0 700 0 900 300"/></svg>'
    answer = client.post(
        f"/jobs/{job_id}/outline", files={"file": ("a.svg", drawing)}, data={"unit": "file", "scale": "1", "which": "1"}
    )
    assert answer.status_code == 200 and "smoothed through" in answer.text
    kept = job_of(store, job_id)
    assert kept.shape.kind == "outline" and kept.shape.source == "a.svg"
    for file, data, message in (
        (("a.svg", b"<svg"), {}, "cannot be read as SVG"),
        (("a.csv", b"0,0\n300,80\n600,0"), {"unit": "file"}, "does not say its unit"),
        (("a.svg", drawing), {"scale": "big"}, "is not a number"),
        (("a.svg", drawing), {"which": "7"}, "choose from 1 to 1"),
        (("a.svg", drawing), {"unit": "furlong"}, "Choose the unit"),
        (("", b""), {}, "Choose a file first"),
    ):
        answer = client.post(
            f"/jobs/{job_id}/outline", files={"file": file}, data={"unit": "mm", "scale": "1", "which": "1", **data}
        )
        assert answer.status_code == 422 and message in answer.text, message
    assert job_of(store, job_id) == kept


def test_the_schools_of_springback(client, store, job_id):
    for school, more in (
        ("to_size", {}),
        ("by_angle", {"form.left_deg": "2", "form.right_deg": "3.5"}),
        ("by_distance", {"form.left_mm": "12", "form.right_mm": "1/2 in"}),
    ):
        answer = client.post(f"/jobs/{job_id}/form/keep", data={"form.school": school, **more}, headers=PARTS)
        assert answer.status_code == 200 and job_of(store, job_id).form.school == school
    assert job_of(store, job_id).form.right_mm == 12.7
    answer = client.post(f"/jobs/{job_id}/form/keep", data={"form.school": "own_record"}, headers=PARTS)
    assert "has no bend of this kind" in answer.text


def test_layer_by_layer_as_typed(client, store, job_id):
    def keep(**typed):
        return client.post(f"/jobs/{job_id}/build_up/keep", data=typed, headers=PARTS)

    def rows(query):
        return client.post(f"/jobs/{job_id}/build_up/rows?{query}", headers=PARTS)

    assert keep(**{"build_up.lay_up": "layers"}).status_code == 200
    assert [x.thickness_mm for x in job_of(store, job_id).build_up.layers] == [5] * 8
    for typed, message in (
        ({"build_up.layers.1.material": "flex_ply_8"}, "is 8 mm thick"),
        ({"build_up.layers.1.material": "kryptonite"}, "Choose one from the list"),
        ({"build_up.layers.0.thickness_mm": "x"}, "not a length"),
        ({"build_up.layers.0.thickness_mm": "4"}, "add up to 39 mm"),
        ({"build_up.layers.0.bent_radius_mm": "2"}, "tighter than it is thick"),
    ):
        answer = keep(**typed)
        assert answer.status_code == 422 and message in answer.text, message
    good = {"build_up.layers.0.thickness_mm": "0.7 cm", "build_up.layers.7.thickness_mm": "3"}
    assert keep(**good, **{"build_up.layers.1.bent_radius_mm": "1200"}).status_code == 200
    layers = job_of(store, job_id).build_up.layers
    assert [x.thickness_mm for x in layers] == [7, 5, 5, 5, 5, 5, 5, 3] and layers[1].bent_radius_mm == 1200
    assert rows("do=remove&row=3").status_code == 200 and job_of(store, job_id).part.thickness_mm == 35
    rows("do=veneer")
    job = job_of(store, job_id)
    assert job.part.thickness_mm == pytest.approx(35) and job.build_up.layers[0].thickness_mm == 0.6
    assert len(job.build_up.layers) == 9 and rows("do=veneer&row=0").status_code == 200
    for stage in ("shape", "way", "stock", "build_up", "form", "measure"):
        assert client.get(f"/jobs/{job_id}/{stage}").status_code == 200
    assert client.get(f"/jobs/{job_id}/take/pdf").status_code == 200


LOT = {
    "name": "Ash, back wall",
    "species": "ash_white",
    "thickness_mm": "70",
    "width_mm": "200",
    "length_mm": "2.4 m",
    "count": "6",
    "dryness": "air_dried",
    "moisture_pct": "12",
    "rise_mm": "15",
    "run_mm": "300",
    "figured": "no",
    "flaws": "clear",
    "note": "",
}


def test_a_lot_feeds_a_job_and_tells_what_is_left(client, store, job_id):
    assert "Nothing on the rack yet" in client.get("/rack").text
    answer = client.post("/rack/lots/0", data={**LOT, "width_mm": "wide", "rise_mm": "-1", "name": " "})
    assert answer.status_code == 422 and "is not a length" in answer.text and "Give it a name" in answer.text
    assert 'value="wide"' in answer.text
    assert "Ash, back wall" in client.post("/rack/lots/0", data=LOT).text
    assert client.post("/rack/lots/0", data=LOT).status_code == 422  # two lots of one name
    client.post(f"/jobs/{job_id}/lot?lot=1", headers=PARTS)
    stock = job_of(store, job_id).stock
    assert (stock.dryness, stock.moisture_pct, stock.grain_slope, stock.lot.count) == ("air_dried", 12, 0.05, 6)
    page = client.get("/rack").text
    assert f"/jobs/{job_id}/wood" in page and "3 boards" in page
    client.post("/rack/lots/1", data={**LOT, "count": "2"})
    client.post(f"/jobs/{job_id}/lot?lot=1", headers=PARTS)
    assert "is short: you need 3 boards and have 2" in client.get(f"/jobs/{job_id}/wood").text
    client.post("/rack/lots/1", data={**LOT, "flaws": "checks"})
    assert "reject" in client.get("/rack").text
    client.post(f"/jobs/{job_id}/lot?lot=0", headers=PARTS)
    assert job_of(store, job_id).stock.lot is None
    client.post("/rack/lots/1/remove")
    assert client.post(f"/jobs/{job_id}/lot?lot=1").status_code == client.get("/rack/lots/1").status_code == 404


def test_own_woods_stand_beside_the_table(client, store, job_id):
    figures = {"sg12": "0.7", "moe_gpa": "9", "mor_mpa": "90", "crush_mpa": "45"}
    blank = {"steam_unbroken_pct": "", "rt_strap": "", "rt_free": "", "note": ""}
    said = client.post("/rack/woods", data={**blank, **figures, "mor_mpa": "", "name": "Pear", "kind": "hardwood"})
    assert said.status_code == 422 and "needs specific gravity" in said.text
    said = client.post("/rack/woods", data={**blank, **figures, "moe_gpa": "99", "name": "Pear", "kind": "hardwood"})
    assert said.status_code == 422 and "At most 40" in said.text
    client.post("/rack/woods", data={**blank, **figures, "name": "Pear", "kind": "hardwood"})
    client.post(
        "/rack/woods?key=ash_white", data={**blank, "sg12": "", "moe_gpa": "10", "mor_mpa": "", "crush_mpa": ""}
    )
    page = client.get("/rack").text
    assert "your own" in page and "corrected" in page
    with store.connected():
        woods = store.shop_settings.get().woods
    assert [w.key for w in woods] == ["pear", "ash_white"] and woods[1].mor_mpa is None
    softer = client.get(f"/jobs/{job_id}/wood").text
    assert "Ash, white (own figures)" in softer and "10 GPa" in softer and "this shop&#39;s own figure" in softer
    client.post(f"/jobs/{job_id}/stock/keep", data={"stock.species": "pear"}, headers=PARTS)
    assert job_of(store, job_id).stock.species == "pear"
    client.post("/rack/woods/remove?key=pear")
    gone = client.get(f"/jobs/{job_id}/wood")
    assert gone.status_code == 200 and "No wood called" in gone.text


def test_sheets_of_your_own_on_the_rack_in_both_units(client):
    typed = {"name": "Barrel ply", "kind": "flexible", "thickness_mm": "7", "min_radius_mm": "180",
             "sheet_long_mm": "2500", "sheet_short_mm": "1220", "note": "from the yard"}  # fmt: skip
    wrong = client.post("/rack/sheets", data={**typed, "thickness_mm": "thick", "sheet_short_mm": "3 m", "name": " "})
    assert wrong.status_code == 422 and wrong.text.count('class="fault"') == 2 and "thick" in wrong.text
    nameless = client.post("/rack/sheets", data={**typed, "name": " "})
    assert nameless.status_code == 422 and 'class="fault"' in nameless.text and 'value="180"' in nameless.text
    swapped = client.post("/rack/sheets", data={**typed, "sheet_short_mm": "2600"})
    assert swapped.status_code == 422 and "shorter side" in swapped.text and "2600" in swapped.text
    page = client.post("/rack/sheets", data=typed).text
    assert "Barrel ply" in page and "R 180 mm" in page and "2500 × 1220 mm" in page
    again = client.post("/rack/sheets", data=typed)
    assert again.status_code == 422 and "of that name already" in again.text
    client.post("/shop/units", data={"units": "in"})
    store = client.app.state.store
    with store.connected():
        store.shop_settings.save(store.shop_settings.get().model_copy(update={"units": "in"}))
        job_id = store.jobs.add(job_for("sheet_layup"))
        ribs = store.jobs.add(job_for("cold_lamination", form={"build": "ribs"}))
    form = client.get("/rack/sheets?key=own_sheet_barrel_ply").text
    assert 'value="7 3/32"' in form or 'value="7 1/16"' in form or "1/4" in form  # its lengths in inches
    client.post("/rack/sheets?key=own_sheet_barrel_ply", data={**typed, "min_radius_mm": "7 1/2", "thickness_mm": "1/4 in",
                "sheet_long_mm": "96", "sheet_short_mm": "48"})  # fmt: skip
    with store.connected():
        (own,) = store.shop_settings.get().sheets
    assert (own.min_radius_mm, own.thickness_mm, own.sheet_long_mm) == pytest.approx((190.5, 6.35, 2438.4))
    assert "Barrel ply" in client.get(f"/jobs/{job_id}/build_up").text
    assert '<option value="own_sheet_barrel_ply"' in client.get(f"/jobs/{ribs}/form").text
    client.post("/rack/sheets/remove?key=own_sheet_barrel_ply")
    assert "Barrel ply" not in client.get("/rack").text


def test_the_ways_are_compared_and_chosen(client, store, job_id):
    page = client.get(f"/jobs/{job_id}/way").text
    assert "Glued strips" in page and "Sheet layup" in page and "F-clamps" in page
    assert client.post(f"/jobs/{job_id}/way/choose?way=sheet_layup", headers=PARTS).status_code == 200
    job = job_of(store, job_id)
    assert job.way == "sheet_layup" and job.build_up.layers[0].material == "ash_white"
    assert job.part.thickness_mm == pytest.approx(sum(x.thickness_mm for x in job.build_up.layers))
    assert "it rolls this way" in client.get(f"/jobs/{job_id}/build_up").text
    client.post(f"/jobs/{job_id}/way/choose?way=cold_lamination", headers=PARTS)
    assert job_of(store, job_id).build_up.lay_up == "equal"
    assert client.post(f"/jobs/{job_id}/way/choose?way=magic").status_code == 404


def test_two_lefts_are_caught(client, store, job_id):
    odd = {"part.copies": "pairs", "part.count": "5"}
    answer = client.post(f"/jobs/{job_id}/shape/keep", data=odd, headers=PARTS)
    assert answer.status_code == 422 and "make it an even number" in answer.text
    client.post(f"/jobs/{job_id}/shape/keep", data={"part.copies": "pairs", "shape.kind": "hook"}, headers=PARTS)
    assert "LEFT of a pair" in client.get(f"/jobs/{job_id}/shape").text
    for hand, mate in (("left", "RIGHT"), ("right", "LEFT")):
        sheet = client.get(f"/jobs/{job_id}/take/svg?hand={hand}")
        assert f"{hand.upper()} of a pair; its mate is a {mate}" in sheet.text
        assert f"-{hand}.svg" in sheet.headers["content-disposition"]
    client.post(f"/jobs/{job_id}/built")
    with store.connected():
        (chord, rise) = (e.likely for e in store.forms.find(job_id)[0].built.expected_on("inner"))
    piece = {"day": dt.date.today().isoformat(), "face": "inner", "hand": "left"}
    for label, off in (("1", 0), ("2", 1)):
        answer = client.post(
            f"/jobs/{job_id}/pieces",
            data={**piece, "label": label, "chord": f"{chord + off:.1f}", "rise": f"{rise:.1f}"},
            headers=PARTS,
        )
    assert "Two lefts and no right: bend rights next." in answer.text
    answer = client.post(
        f"/jobs/{job_id}/pieces",
        data={**piece, "hand": "right", "label": "3", "chord": f"{chord + 2.5:.1f}", "rise": f"{rise:.1f}"},
        headers=PARTS,
    )
    assert "left 2 with right 3, 1.5 mm apart" in answer.text


def test_a_piece_that_broke_counts_for_the_spares(client, store, job_id):
    client.post(f"/jobs/{job_id}/built")
    piece = {"day": dt.date.today().isoformat(), "face": "inner", "chord": "", "rise": ""}
    for n in range(4):
        answer = client.post(
            f"/jobs/{job_id}/pieces", data={**piece, "label": f"b{n}", "mishap": "broke"}, headers=PARTS
        )
        assert answer.status_code == 200
    assert "Not measured: b0" in answer.text
    assert "spares: about" in client.get(f"/jobs/{job_id}/shape").text
    client.post("/pieces/1/remove", headers=PARTS)
    assert "b0" not in client.get(f"/jobs/{job_id}/measure").text
    answer = client.post(f"/jobs/{job_id}/pieces", data={**piece, "label": "x", "mishap": ""}, headers=PARTS)
    assert answer.status_code == 422
    assert client.get("/book").status_code == 200


def test_forms_are_chosen_pulled_and_taken_part_by_part(client, store, job_id):
    def keep(**typed):
        return client.post(f"/jobs/{job_id}/form/keep", data=typed, headers=PARTS)

    page = keep(**{"form.kind": "two_part", "form.build": "ribs"}).text
    assert (
        "outer half" in page
        and "Parts to cut" in page
        and "skin of the base" in page
        and 'class="presser-group"' in page
    )
    client.post(f"/jobs/{job_id}/form/pull?handle=close-0&x=400&y=-1200&keep=1")
    assert 10 < job_of(store, job_id).form.close_deg < 45
    for bad in ("handle=nose-0&x=1&y=1", "handle=close-x&x=1&y=1", "handle=split-0&x=nan&y=1"):
        assert client.post(f"/jobs/{job_id}/form/pull?{bad}").status_code == 422
    assert client.post(f"/jobs/{job_id}/form/pull?handle=split-5&x=1&y=1").status_code == 204
    for typed, message in (
        ({"form.close_deg": "90"}, "At most 84°"),
        ({"form.sheet_mm": "0"}, "At least 3 mm"),
    ):
        answer = keep(**typed)
        assert answer.status_code == 422 and message in answer.text
    keep(**{"form.kind": "three_part", "form.build": "stack"})
    for _ in (1, 2):
        assert client.post(f"/jobs/{job_id}/form/rows?do=add", headers=PARTS).status_code == 200
    assert "not a length" in keep(**{"form.splits_mm.0": "there"}).text
    keep(**{"form.splits_mm.0": "-500", "form.splits_mm.1": "500"})
    client.post(f"/jobs/{job_id}/form/pull?handle=split-0&x=-700&y=-200&keep=1")
    assert job_of(store, job_id).form.splits_mm[0] < -550 and job_of(store, job_id).form.splits_mm[1] == 500
    for part in (1, 2, 3, 4):
        assert client.get(f"/jobs/{job_id}/take/dxf?part={part}").status_code == 200
    assert client.get(f"/jobs/{job_id}/take/dxf?part=9").status_code == 422
    assert client.get(f"/jobs/{job_id}/take/zip").content.startswith(b"PK")
    assert keep(**{"form.splits_mm.1": "90000"}).status_code in (200, 422)
    for _ in job_of(store, job_id).form.splits_mm:
        client.post(f"/jobs/{job_id}/form/rows?do=remove&row=0", headers=PARTS)
    assert job_of(store, job_id).form.splits_mm == ()
    keep(**{"form.kind": "posts"})
    assert "Brackets on the table" in client.get(f"/jobs/{job_id}/form").text


def test_will_one_of_mine_do(demo_client):
    page = demo_client.get("/jobs/13/form/mine").text
    assert "works with shims" in page and "Trellis bow for the espaliers" in page and ">2 from" in page
    assert "works as it is" in demo_client.get("/jobs/13/form/mine?tolerance=3").text
    for bad in ("wide", "0", "-1"):
        answer = demo_client.get(f"/jobs/13/form/mine?tolerance={bad}")
        assert answer.status_code == 422 and 'class="fault"' in answer.text
    assert "round form of its own size" in demo_client.get("/jobs/10/form/mine").text
    assert "No form of another job" not in demo_client.get("/jobs/1/form/mine").text
    assert "5 pieces" in demo_client.get("/rack").text or "6 pieces" in demo_client.get("/rack").text


def test_a_heat_plan_is_typed_and_told(client, store, job_id):
    client.post(f"/jobs/{job_id}/way/choose?way=steam_strap", headers=PARTS)
    assert job_of(store, job_id).way == "steam_strap" and job_of(store, job_id).part.trim_mm == 150

    def keep(stage="steam", **typed):
        data = {f"heat.{k}": v for k, v in typed.items()}
        return client.post(f"/jobs/{job_id}/{stage}/keep", data=data, headers=PARTS)

    page = keep(school="hour_per_inch", hands="3").text
    for message in (
        "Time in the steam",
        "vent, always open",
        "drain, at the low end",
        "Never seal a steam box",
        "heat-chart",
    ):
        assert message in page, message
    assert "the clamps hold" in (bend := keep("bend", stop="clamps", stop_clamps="2").text) and "end pressure" in bend
    assert bend.count('class="step') == 9 and bend.count('class="step now"') == 1 and 'max="8"' in bend
    assert "A frame holds the ends" in keep("dry", climate="damp").text
    for stage, typed, message in (
        ("steam", {"chamber_c": "70"}, "At least 85"),
        ("steam", {"power_kw": "0"}, "More than 0"),
        ("steam", {"power_kw": "lots"}, "is not a power"),
        ("moves", {"carry_s": "-4"}, "At least 0"),
        ("bend", {"strap_mm": "thick"}, "not a length"),
        ("dry", {"on_form_h": "-1"}, "More than 0"),
    ):
        answer = keep(stage, **typed)
        assert answer.status_code == 422 and message in answer.text, message
    client.post("/units?to=in")
    assert "Steam box temperature" in keep(chamber_c="207").text and job_of(
        store, job_id
    ).heat.chamber_c == pytest.approx(97.2222)
    assert "At least 185 °F" in keep(chamber_c="120").text
    assert "°F" in keep(chamber_c="95 C").text and job_of(store, job_id).heat.chamber_c == 95
    client.post("/units?to=mm")
    answer = keep("bend", strap_length_mm="300")
    assert "cannot be shorter than the piece" in answer.text
    assert client.get(f"/jobs/{job_id}/take/pdf").status_code == 422
    keep("bend", strap_length_mm="")
    for kind in ("pdf", "stick", "dxf", "zip", "frame"):
        assert client.get(f"/jobs/{job_id}/take/{kind}").status_code == 200, kind
    client.post(f"/jobs/{job_id}/built")
    with store.connected():
        chord, rise = (e.likely for e in store.forms.find(job_id)[0].built.expected_on("inner"))
    piece = {
        "label": "1",
        "day": dt.date.today().isoformat(),
        "face": "inner",
        "chord": f"{chord + 2:.1f}",
        "rise": f"{rise - 1:.1f}",
    }
    assert client.post(f"/jobs/{job_id}/pieces", data=piece, headers=PARTS).status_code == 200
    assert "White ash, kiln-dried" in client.get("/book").text
    for way in ("steam_free", "dry_heat", "blanket", "straighten", "steam_laminae", "cold_lamination"):
        assert client.post(f"/jobs/{job_id}/way/choose?way={way}", headers=PARTS).status_code == 200, way
        for stage in ("shape", "way", "stock", "build_up", "bend", "form", "measure"):
            assert client.get(f"/jobs/{job_id}/{stage}").status_code == 200, (way, stage)
    assert client.get(f"/jobs/{job_id}/take/frame").status_code == 422


def test_colours_and_sizes_have_names_and_each_rule_its_line():
    css = (Path(__file__).parents[2] / "bright_willow/web/static/css/willow.css").read_text()
    colours, named = (re.search(block, css, re.DOTALL).group(0) for block in (r":root,.*?\n\}", r":root \{.*?\n\}"))
    assert re.findall(r"#[0-9a-fA-F]{3,8}\b", css.replace(colours, "")) == []
    tokens = set(re.findall(r"--([a-z0-9-]+):", css))
    used = {t for t in re.findall(r"var\(--([a-z0-9-]+)", css) if not t.startswith("bs-")}
    sizes = {t for t in tokens if t.split("-")[0] in ("space", "type", "word", "round", "line", "touch")}
    assert used <= tokens and sizes <= used and len(sizes) > 30
    measured = r"^\s+(?:margin|padding|gap|row-gap|column-gap|font-size|border|outline|stroke-width)[a-z-]*: (.*);"
    stray = [v for v in re.findall(measured, css.replace(named, ""), re.MULTILINE) if re.search(r"\d(rem|px)", v)]
    assert stray and all(v.startswith("clamp(") for v in stray)  # only what grows with the window
    assert all(line.count("{") <= 1 and line.count(";") <= 1 for line in css.splitlines() if "url(" not in line)


def test_dark_screens_change_names_only_and_leave_drawings_as_they_are():
    folder = Path(__file__).parents[2] / "bright_willow/web/static/css"
    colour = r"--((?!bs-)[a-z-]+): (#\w+);"
    names = re.search(r":root,\n(.*?) \{\n(.*?)\n\}", (folder / "willow.css").read_text(), re.DOTALL)
    dark = (folder / "dark.css").read_text()
    light, screens, top = (dict(re.findall(colour, rule)) for rule in (names[2], *dark.split("}")[:2]))
    assert f"{names[1]} {{\n    filter: invert" in dark  # what is turned over keeps the light colors
    assert screens.keys() | top.keys() < light.keys() and len(screens) > 30


def test_a_job_without_a_form_has_no_offsets_to_print(demo_client):
    answer = demo_client.get("/jobs/17/offsets/print", headers={"accept": "text/html"})
    assert answer.status_code == 404 and "without a form" in answer.text


@pytest.mark.parametrize("size", ["358x340", "1x1", "99999x3", "x", "12x-4", "٣x٤", "1e3x5", "", "8" * 400])
def test_whatever_a_page_says_of_its_board_there_is_a_drawing(demo_client, size):
    demo_client.cookies.set("board", quote(size))
    answer = demo_client.get("/jobs/5/form")
    wide = float(re.search(r'data-frame="([^"]*)"', answer.text).group(1).split()[4])
    assert answer.status_code == 200 and 240 <= wide <= 2400 and (wide == 358) == (size == "358x340")
    demo_client.cookies.set("quick-board", quote(size))
    assert demo_client.get("/quick").status_code == 200
