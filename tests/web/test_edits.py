"""Changes are worked out on what their maker saw; odd requests are answered with a sentence."""

import json
import re
import sqlite3

import pytest

from tests.conftest import RIB

PARTS = {"x-parts": "yes", "accept": "text/html"}


def seen(client, path="/jobs/5/shape"):
    return re.search(r"/keep\?(seen=\d+&amp;in=\w+)", client.get(path).text)[1].replace("&amp;", "&")


def value(client, name, path="/jobs/5/shape"):
    return re.search(rf'name="{re.escape(name)}" value="([^"]*)"', client.get(path).text)[1]


def keep(client, q, stage="shape", **fields):
    data = {k.replace("__", "."): v for k, v in fields.items()}
    return client.post(f"/jobs/5/{stage}/keep?{q}", data=data, headers=PARTS)


def test_an_old_page_writes_back_only_what_was_changed_on_it(demo_client):
    old = seen(demo_client)
    form = {
        "shape__chord_mm": value(demo_client, "shape.chord_mm"),
        "part__width_mm": value(demo_client, "part.width_mm"),
    }
    keep(demo_client, old, shape__rise_mm="480")
    answer = keep(demo_client, old, **form | {"part__width_mm": "77"}, shape__rise_mm="500")
    assert answer.status_code == 200 and "made in another window" in answer.text
    assert value(demo_client, "shape.rise_mm") == "480" and value(demo_client, "part.width_mm") == "77"
    answer = keep(demo_client, old, **form | {"part__width_mm": "66", "shape__chord_mm": "1790"})
    assert (
        answer.status_code == 409
        and "your change “66”, the other change “77”" in answer.text
        and 'data-mine="66"' in answer.text
    )
    assert value(demo_client, "part.width_mm") == "77" and value(demo_client, "shape.chord_mm") == "1790"


def test_a_figure_filled_in_from_a_drag_is_not_a_change_of_its_own(demo_client, demo_store):
    """The page shows it rounded; sent along with another field it must not stand against what was dragged."""
    old = seen(demo_client, "/jobs/4/form")
    with demo_store.connected():
        job = demo_store.jobs.get(4).job
        form = job.form.model_copy(update={"close_deg": 3.123456789})
        demo_store.jobs.save(4, job.model_copy(update={"form": form}), "dragged on the drawing")
    sent = {"form.close_deg": "3.123", "form.build": "ribs"}
    answer = demo_client.post(f"/jobs/4/form/keep?{old}", data=sent, headers=PARTS)
    assert answer.status_code == 200
    with demo_store.connected():
        kept = demo_store.jobs.get(4).job.form
        assert (kept.close_deg, kept.build) == (3.123456789, "ribs")


def test_what_was_typed_in_mm_is_read_in_mm_when_another_window_turned_to_inches(demo_client):
    old = seen(demo_client)
    demo_client.post("/units?to=in")
    assert keep(demo_client, old, shape__rise_mm="480").status_code == 200
    demo_client.post("/units?to=mm")
    assert value(demo_client, "shape.rise_mm") == "480"


def test_a_fault_on_an_old_page_does_not_put_back_what_stood_there(demo_client):
    old = seen(demo_client)
    width = value(demo_client, "part.width_mm")
    keep(demo_client, old, part__width_mm="77")
    answer = keep(demo_client, old, part__width_mm=width, shape__rise_mm="high")
    assert (
        answer.status_code == 422 and f"/keep?{old}".replace("&", "&amp;") in answer.text
    )  # it goes on from what it saw
    assert keep(demo_client, old, part__width_mm=width, shape__rise_mm="490").status_code == 200
    assert (value(demo_client, "part.width_mm"), value(demo_client, "shape.rise_mm")) == ("77", "490")


@pytest.mark.parametrize(
    "path",
    ["pull?handle=rise_mm-0&x=0&y=-470&keep=1&", "way/choose?way=sheet_layup&", "shape/undo?", "built?", "lot?lot=1&"],
)
def test_what_rests_on_an_old_page_never_takes_back_what_came_since(demo_client, path):
    old = seen(demo_client)
    keep(demo_client, old, shape__rise_mm="480", part__width_mm="81")
    answer = demo_client.post(f"/jobs/5/{path}{old}", headers=PARTS)
    assert value(demo_client, "shape.rise_mm") == "480" and value(demo_client, "part.width_mm") == "81"
    if path.startswith(("pull", "shape", "built")):
        assert answer.status_code == 409 and "Changed in another window" in answer.text


def test_rows_and_advice_are_joined_too(demo_client, demo_store):
    with demo_store.connected():
        chain = next(s.id for s in demo_store.jobs.find() if s.job.shape.kind == "polycurve")
    q = seen(demo_client, f"/jobs/{chain}/shape")
    count = len(re.findall(r"data-row=", demo_client.get(f"/jobs/{chain}/shape").text))
    demo_client.post(f"/jobs/{chain}/shape/keep?{q}", data={"part.width_mm": "55"}, headers=PARTS)
    for _ in range(2):  # the second is the first one sent again, its answer having been lost
        answer = demo_client.post(f"/jobs/{chain}/shape/rows?{q}&do=add&to=0", headers=PARTS)
        assert answer.status_code == 200
    page = demo_client.get(f"/jobs/{chain}/shape").text
    assert len(re.findall(r"data-row=", page)) == count + 1 and 'value="55"' in page


def test_a_file_that_is_locked_is_a_sentence_and_others_read_on(demo_client, demo_store):
    with sqlite3.connect(demo_store.path, isolation_level=None) as holder:
        holder.execute("begin immediate")
        for path in ("/jobs/5/shape/keep", "/shop", "/rack/lots/1", "/jobs/5/away", "/jobs"):
            answer = demo_client.post(path, data={"name": "Other"}, headers={"accept": "text/html"})
            assert answer.status_code in (503, 422), path
            if answer.status_code == 503:
                assert "Another program is using" in answer.text and answer.headers["retry-after"]
        for path in ("/", "/rack", "/jobs/5/shape", "/book"):
            assert demo_client.get(path).status_code == 200
        holder.execute("rollback")
    assert keep(demo_client, seen(demo_client), name="Other").status_code == 200


@pytest.mark.parametrize(
    ("method", "path", "status"),
    [
        ("GET", "/rack/lots/10000000000000000000", 404),
        ("POST", "/jobs/1/lot?lot=10000000000000000000", 422),
        ("POST", "/jobs/1/build_up/rows?do=add", 422),
        ("POST", "/jobs/1/way/rows?do=add", 422),
        ("POST", "/jobs/5/pull?handle=add-0&x=1e5&y=1e5", 422),
        ("GET", "/jobs/99999999999999999999/shape", 404),
    ],
)
def test_odd_requests_get_a_sentence(demo_client, method, path, status):
    answer = demo_client.request(method, path, headers={"accept": "text/html"})
    assert answer.status_code == status and ("<p" in answer.text or "says" in answer.text)


def test_the_plus_of_a_chain_goes_as_far_as_it_goes(demo_client, demo_store):
    with demo_store.connected():
        chain = next(s.id for s in demo_store.jobs.find() if s.job.shape.kind == "polycurve")
    for x, y in ((1e5, 1e5), (-9e5, 9e5), (9e5, -9e5)):
        for _ in range(3):
            answer = demo_client.post(f"/jobs/{chain}/pull?handle=add-0&x={x}&y={y}&keep=1", headers=PARTS)
            assert answer.status_code in (200, 204)


def test_odd_texts(demo_client):
    utf7 = {"content-type": "application/x-www-form-urlencoded; charset=utf-7"}
    assert demo_client.post("/jobs/5/shape/keep", content=b"name=%ff", headers=utf7).status_code < 500
    digits = b'{"job": {"part": {"count": ' + b"9" * 5000 + b"}}}"
    assert demo_client.post("/api/plan", content=digits, headers={"content-type": "application/json"}).status_code in (
        400,
        422,
    )
    assert keep(demo_client, seen(demo_client), part__count="9" * 5000).status_code == 422
    marked = b"\xef\xbb\xbf" + json.dumps(RIB).encode()
    brought = demo_client.post("/jobs/bring", files={"file": ("rib.json", marked)})
    assert brought.status_code == 200 and 'value="Rib"' in brought.text


def test_names_are_only_names_in_drawings(demo_client, demo_store):
    with demo_store.connected():
        form = demo_store.forms.find(1)[-1]
        m = form.pieces[0].measurements[0]
        demo_store.logbook.add_piece(
            form.id, label="<i>&", day=m.day, chord_mm=m.chord_mm, rise_mm=m.rise_mm, face=m.face, error_mm=0.5
        )
    for path in ("/jobs/1/measure", "/book"):
        text = demo_client.get(path).text
        assert "<i>" not in text and "&lt;i&gt;" in text


def test_the_shop_page_gives_a_copy_and_takes_one(demo_client, demo_store):
    copy = demo_client.get("/shop/backup")
    assert copy.content.startswith(b"SQLite format 3") and "bright-willow-" in copy.headers["content-disposition"]
    with demo_store.connected():
        demo_store.jobs.archive(5)
    bad = demo_client.post("/shop/restore", files={"file": ("x.sqlite3", b"a letter" * 50)})
    assert bad.status_code == 422 and "That file is not a shop" in bad.text
    assert demo_client.post("/shop/restore").status_code == 422
    with demo_store.connected():
        assert demo_store.jobs.count(away=True) == 1
    good = demo_client.post("/shop/restore", files={"file": ("x.sqlite3", copy.content)})
    assert good.status_code == 200 and "restored from the backup" in good.text
    with demo_store.connected():
        assert demo_store.jobs.count(away=True) == 0


def test_an_own_record_of_nothing_is_a_sentence_at_every_key(client):
    client.post("/jobs")
    client.post("/jobs/1/form/keep", data={"form.school": "own_record"})
    for path in ("shape", "way", "stock", "build_up", "form", "measure", "shape/steps"):
        assert client.get(f"/jobs/1/{path}").status_code == 200
    tried = client.post("/jobs/1/shape/try", data={"shape.rise_mm": "21"}, headers=PARTS)
    assert tried.status_code == 200 and "no bend" in tried.text.lower()


def test_marks_of_ones_own_are_added_named_refused_and_removed(client, store, rib):
    def marks():
        with store.connected():
            return [m.model_dump() for m in store.jobs.get(job_id).job.part.marks]

    with store.connected():
        job_id = store.jobs.add(rib)
    add = f"/jobs/{job_id}/shape/rows?list=marks&do="
    for _ in range(2):
        assert client.post(f"{add}add", headers=PARTS).status_code == 200
    keep = f"/jobs/{job_id}/shape/keep"
    typed = {"part.marks.0.name": "notch", "part.marks.0.at_mm": "7 1/16 in", "part.marks.0.counted_from": "left"}
    assert client.post(keep, data=typed, headers=PARTS).status_code == 200
    assert marks()[0] == {"name": "notch", "at_mm": pytest.approx(7.0625 * 25.4), "counted_from": "left"}
    assert marks()[1] == {"name": "mark 2", "at_mm": 0.0, "counted_from": "center"}
    for field, text, message in (("name", " ", "name"), ("at_mm", "far", "For example"), ("at_mm", "90000", "50")):
        page = client.post(keep, data={**typed, f"part.marks.1.{field}": text}, headers=PARTS)
        assert page.status_code == 422 and message in page.text and f"f-part-marks-1-{field}-fault" in page.text
    assert client.post(f"{add}remove&row=0", headers=PARTS).status_code == 200
    assert client.post(f"{add}remove&row=0", headers=PARTS).status_code == 200
    assert client.post(f"{add}remove&row=0", headers=PARTS).status_code == 422
    assert marks() == []
