"""Presets, two variants compared, and the list of jobs: what is begun, changed and found stays as it was asked."""

import base64
import datetime as dt
import html
import re
from urllib.parse import parse_qsl, urlsplit

import pypdfium2
import pytest
from starlette.testclient import TestClient

from bright_willow.core.common.glossary import glossary
from bright_willow.core.job.common_parts import common_parts
from bright_willow.core.job.schedule_choice import Days
from bright_willow.core.learning.belief import NOTHING_LEARNT
from bright_willow.core.methods.method_registry import stages_for
from bright_willow.core.plan.plan import plan
from bright_willow.core.plan.quick import HOWS
from bright_willow.core.shop.shop import Shop
from bright_willow.demo.marrow_lane import EXAMPLES, SHOP
from bright_willow.drawing.job_pack import PACK, pack_papers
from bright_willow.store.repositories.presets import MOST_PRESETS
from bright_willow.store.tables import PresetRow
from bright_willow.web.app import create_app
from bright_willow.web.compare_view import compare_rows, variant_of
from bright_willow.web.pages.help import DOCUMENTS, PICTURES
from bright_willow.web.quick_view import answered, question_of

NOW = dt.datetime(2026, 11, 30, 9, tzinfo=dt.UTC)
RIB = EXAMPLES[4].job


@pytest.fixture
def client(store):
    with store.connected():
        store.shop_settings.save(SHOP)
    with TestClient(create_app(store, lambda: NOW), base_url="http://127.0.0.1", follow_redirects=False) as made:
        yield made


@pytest.fixture
def job_id(store):
    with store.connected():
        return store.jobs.add(RIB)


def pages_of(raw):
    """The text of each page of a PDF."""
    document = pypdfium2.PdfDocument(raw)
    said = [page.get_textpage().get_text_range() for page in document]
    document.close()
    return said


def job_of(store, job_id):
    with store.connected():
        return store.jobs.get(job_id).job


@pytest.mark.parametrize("unit", ["mm", "in"])
def test_a_common_part_opens_with_its_own_figures(client, store, unit):
    with store.connected():
        store.shop_settings.save(Shop(units=unit))
    hrefs = [html.unescape(h) for h in re.findall(r'class="tile" href="([^"]+)"', client.get("/presets").text)]
    parts = common_parts(unit)
    assert len(hrefs) == len(parts) == 10 and len({p.job.shape.kind for p in parts}) == 8
    for part, href in zip(parts, hrefs, strict=True):
        question = question_of(dict(parse_qsl(urlsplit(href).query)), Shop(units=unit))
        assert not question.faults and question.job is not None and question.how == part.how in HOWS, part.name
        asked, wanted = question.job.shape.model_dump(), part.job.shape.model_dump()
        assert {k: v if isinstance(v, str) else pytest.approx(v) for k, v in wanted.items()} == asked, part.name
        assert question.job.stock.species == part.job.stock.species
        for size in ("thickness_mm", "width_mm"):
            assert getattr(question.job.part, size) == pytest.approx(getattr(part.job.part, size), abs=0.2), part.name
        assert not isinstance(answered(question, Shop(units=unit), NOTHING_LEARNT), Exception), part.name


def test_a_job_begins_from_a_preset_with_all_its_settings(client, store, job_id):
    in_week = RIB.model_copy(update={"days": Days(in_week=True, due_day="2026-12-24")})
    with store.connected():
        store.jobs.save(job_id, in_week, "into the schedule")
    assert client.post(f"/jobs/{job_id}/preset").headers["location"].startswith("/presets")
    with store.connected():
        (kept,) = store.presets.find()
    assert kept.job == RIB.model_copy(update={"days": Days()}) and RIB.name in client.get("/presets").text
    begun = client.post(f"/presets/{kept.id}/job").headers["location"]
    assert job_of(store, int(begun.split("/")[2])) == kept.job
    assert client.post(f"/presets/{kept.id}/remove").status_code == 303
    assert client.post(f"/presets/{kept.id}/job").status_code == 404
    assert job_of(store, job_id) == in_week  # the job it came from is left alone


def test_a_preset_is_renamed_and_a_bad_name_loses_nothing(client, store, job_id):
    client.post(f"/jobs/{job_id}/preset")
    with store.connected():
        (kept,) = store.presets.find()
    for name in ("  ", "x" * 121):
        refused = client.post(f"/presets/{kept.id}/rename", data={"name": name})
        assert refused.status_code == 422 and re.search(r'id="preset-\d+-name-fault">Enter a name', refused.text)
    assert f'value="{"x" * 121}"' in refused.text
    assert client.post(f"/presets/{kept.id}/rename", data={"name": " Apron,  wide "}).status_code == 303
    begun = client.post(f"/presets/{kept.id}/job").headers["location"]
    assert (
        job_of(store, int(begun.split("/")[2])).name == "Apron, wide" and "Apron, wide" in client.get("/presets").text
    )
    assert job_of(store, job_id).name == RIB.name
    assert client.post("/presets/999/rename", data={"name": "other"}).status_code == 404


def test_a_preset_that_cannot_be_read_or_has_no_room_is_said(client, store, job_id):
    with store.connected():
        bad = PresetRow.create(name="Old bow", at=NOW, body="{").id
    assert "can no longer be read" in client.get("/presets").text
    assert client.post(f"/presets/{bad}/job").status_code == 422
    with store.connected():
        for n in range(MOST_PRESETS - 1):
            PresetRow.create(name=f"Bow {n}", at=NOW, body="{}")
    full = client.post(f"/jobs/{job_id}/preset")
    assert full.status_code == 422 and "Remove one first" in full.text
    with store.connected():
        assert len(store.presets.find()) == MOST_PRESETS and store.presets.find()[0].name != RIB.name


def test_only_what_differs_is_marked_and_the_other_can_be_used(client, store, job_id):
    asked = {"build_up.laminae": "6"}
    other = variant_of(RIB, asked, SHOP).job
    rows = {r.about: r for r in compare_rows(plan(RIB, SHOP), plan(other, SHOP), SHOP, NOTHING_LEARNT)}
    assert rows["Make"].values[1].startswith("6 strips of ") and rows["Make"].differs
    assert rows["Springback, each end"].differs and not rows["Method"].differs and not rows["Clamps"].differs
    page = client.get(f"/jobs/{job_id}/compare", params=asked).text
    assert page.count('class="differs"') == sum(r.differs for r in rows.values()) and "Use this one" in page
    assert "Use this one" not in client.get(f"/jobs/{job_id}/compare").text  # both are the job as it is
    sent = dict(re.findall(r'type="hidden" name="([^"]+)" value="([^"]*)"', page))
    assert client.post(f"/jobs/{job_id}/compare", data=sent).status_code == 303
    assert job_of(store, job_id) == other and other.build_up.laminae == 6
    with store.connected():
        assert store.jobs.undo(job_id) and store.jobs.get(job_id).job == RIB


def test_another_method_is_compared_and_a_fault_stands_beside_its_field(client, store, job_id):
    page = client.get(f"/jobs/{job_id}/compare", params={"way": "steam_strap", "heat.on_form_h": "48"}).text
    assert "Steam bend with strap" in page and 'name="heat.on_form_h" value="48"' in page
    bad = client.get(f"/jobs/{job_id}/compare", params={"part.thickness_mm": "soon", "build_up.laminae": "6"})
    assert bad.status_code == 422 and "“soon” is not a length" in bad.text and 'value="soon"' in bad.text
    assert client.post(f"/jobs/{job_id}/compare", data={"way": "by_magic"}).status_code == 422
    assert job_of(store, job_id) == RIB


def test_tags_find_a_job_and_a_bad_one_is_said_beside_the_field(client, store, job_id):
    keep = f"/jobs/{job_id}/shape/keep"
    assert client.post(keep, data={"tags": " gates, garden,gates "}).status_code == 303
    assert job_of(store, job_id).tags == ("gates", "garden")
    with store.connected():
        other = store.jobs.add(RIB.model_copy(update={"name": "Another", "tags": ("gate",)}))
    assert client.get("/", params={"tag": "gates"}).text.count('class="job-row"') == 1
    gate = client.get("/", params={"tag": "gate"}).text
    assert gate.count('class="job-row"') == 1 and f"/jobs/{other}/" in gate  # gates is another tag
    for text, message in (
        ("x" * 31, "At most 30 characters"),
        (",".join("abcdefghi"), "At most 8"),
        ('a"b', "no comma"),
    ):
        answer = client.post(keep, data={"tags": text})
        assert answer.status_code == 422 and message in html.unescape(answer.text), text
    assert job_of(store, job_id).tags == ("gates", "garden")


def test_strips_count_the_waste_strips_as_the_cut_list_does(client, store):
    brace = next(e.job for e in EXAMPLES if e.job.way == "steam_laminae")
    with store.connected():
        made_id = store.jobs.add(brace)
    page = html.unescape(client.get(f"/jobs/{made_id}/prepare", follow_redirects=True).text)
    cut = re.search(r"rip (\d+) strips", page)[1]
    stock = plan(brace, SHOP).quantities.stock
    assert stock.waste_strips and int(cut) == stock.strips + stock.waste_strips * stock.sets
    assert re.search(r"<dt>Strips .*?</dt><dd><span[^>]*>(?:<[^>]*>)?(\d+)", page, re.DOTALL)[1] == cut


def test_archiving_can_be_undone_at_once(client, store, job_id):
    to = client.post(f"/jobs/{job_id}/away").headers["location"]
    page = client.get(to).text
    assert f"Archived: {RIB.name}" in page and f'action="/jobs/{job_id}/back"' in page
    client.post(f"/jobs/{job_id}/back")
    assert "Archived: " not in client.get(to).text  # it is on the list again


def test_a_pack_holds_what_was_ticked_in_its_order(client, store, job_id):
    pages = {}
    for parts in (("form",), ("stick",), ("sheet",), ("sheet", "form", "stick")):
        query = "&".join(f"part={p}" for p in reversed(parts))
        answer = client.get(f"/jobs/{job_id}/pack.pdf?{query}&paper=letter")
        assert answer.headers["content-type"] == "application/pdf", parts
        pages[parts] = pages_of(answer.content)
    whole = pages["sheet", "form", "stick"]
    assert whole == pages["sheet",] + pages["form",] + pages["stick",]


def test_a_pack_says_what_it_cannot_print(client, store, job_id):
    page = client.get(f"/jobs/{job_id}/pack")
    assert 'value="cutlist" checked' in page.text and 'value="frame"' not in page.text  # glued strips dry in no jig
    assert "Tick at least one" in client.get(f"/jobs/{job_id}/pack.pdf").text
    assert "no drying jig" in client.get(f"/jobs/{job_id}/pack.pdf?part=frame").text
    assert client.get(f"/jobs/{job_id}/pack.pdf?part=sheet&paper=napkin").status_code == 422
    days = client.get(f"/jobs/{job_id}/pack.pdf?part=schedule")
    said = pages_of(days.content)[0]
    assert RIB.name in said and "Rip the strips" in said


def test_a_job_is_shared_as_one_page_that_asks_for_nothing(client, store, job_id):
    answer = client.get(f"/jobs/{job_id}/share.html")
    assert answer.status_code == 200 and ".html" in answer.headers["content-disposition"]
    page = answer.text
    assert not re.findall(r'(?:href|src|action)="(?!data:)', page) and "<script" not in page and "<form" not in page
    assert not [u for u in re.findall(r"url\(([^)]*)", page) if not u.startswith(("#", '"data:', "'data:", "data:"))]
    made = plan(RIB, SHOP)
    assert "<svg" in page and all(html.escape(o.name, quote=False) in page for o in made.operations)
    sheets = re.findall(r'href="data:application/pdf;base64,([^"]+)" download="(\w+)-', page)
    assert [name for _, name in sheets] == ["sheet", "form", "stick", "cutlist", "labels"]
    assert all(base64.b64decode(data).startswith(b"%PDF") for data, _ in sheets)
    assert "8 strips of " in page.split("<dt>Layup</dt>")[1][:60]


def test_a_trade_term_is_explained_where_it_stands_and_found_in_the_glossary(client, store, job_id):
    page = client.get(f"/jobs/{job_id}/shape").text
    opened = re.findall(r'popovertarget="([^"]+)" aria-label="What is ([^"]+)\?"', page)
    assert {"Chord", "Rise", "Springback", "Spares"} <= {name for _, name in opened}
    ids = re.findall(r'<span popover id="([^"]+)"', page)
    assert sorted(ids) == sorted(target for target, _ in opened) and len(set(ids)) == len(ids)
    found = client.get("/glossary", params={"find": "glue wets"}).text
    assert "Closed time" in found and "Story stick" not in found
    assert "No term holds “zeppelin”" in client.get("/glossary", params={"find": "zeppelin"}).text
    terms = glossary()
    every = client.get("/glossary").text
    assert all(
        f'<div id="{t.key}">' in every and html.escape(t.message, quote=False) in html.unescape(every) for t in terms
    )
    assert all(t.message.count(". ") == 1 and t.message.endswith(".") for t in terms)  # two sentences each
    labels = [label for t in terms for label in t.labels]
    assert len(labels) == len(set(labels))


def test_help_shows_every_document_its_links_and_current_pictures(client):
    opened = {}
    for name in DOCUMENTS:
        page = client.get(f"/help/{name}")
        assert page.status_code == 200, name
        opened[name] = page.text.partition("<main")[2]
    for name, text in opened.items():
        for link in re.findall(r'href="([^"]+)"', text):
            to, _, anchor = link.partition("#")
            if to.startswith("/") and anchor and to.startswith("/help/"):
                assert f'id="{anchor}"' in opened[to.removeprefix("/help/")], (name, link)
            elif to.startswith("/"):
                assert client.get(to, follow_redirects=True).status_code == 200, (name, link)
            else:
                assert not to or to.startswith("http"), (name, link)  # nothing that leads nowhere from here
    pictures = re.findall(r'src="(/help/pictures/[^"]+)"', opened["using"])
    assert len(pictures) == sum(len(p) for p in PICTURES.values()) >= 15
    assert all(client.get(p).content.startswith(b"\x89PNG") for p in pictures)
    for nowhere in ("/help/README", "/help/nothing", "/help/pictures/nothing.png", "/help/..%2Fpyproject"):
        assert client.get(nowhere).status_code == 404, nowhere


def test_a_pack_offers_what_can_be_printed_and_nothing_else(client, store):
    """Of every kind of job: a full-size sheet for an iron too, and none where no form is built or it cannot be."""
    for example in EXAMPLES:
        with store.connected():
            made_id = store.jobs.add(example.job)
        offered = set(re.findall(r'name="part" value="(\w+)"', client.get(f"/jobs/{made_id}/pack").text))
        printed = {key for key in PACK if pack_papers(plan(example.job, SHOP), [key], paper="a4", unit="mm")[0]}
        if "form" not in {row.key for row in stages_for(example.job)}:
            printed.discard("form")
        assert offered - {"schedule"} == printed, example.job.name
