"""Prepare over HTTP: boards cut and taken back, flaws dragged, a profile out of a file, label sheets, what is refused."""

import io

import pytest

from bright_willow.core.plan.plan import sketch
from bright_willow.core.plan.read_job import read_job
from bright_willow.core.wood.lot import Lot
from bright_willow.services.rack_lists import lot_lines
from tests.conftest import RIB

PARTS = {"x-parts": "yes"}
LOT = {"name": "Ash", "species": "ash_white", "thickness_mm": 70, "width_mm": 200, "length_mm": 5600, "count": 6}
COVE = b"""<svg xmlns="http://www.w3.org/2000/svg" width="40mm" height="60mm" viewBox="0 0 40 60">
<path d="M0 60 L40 60 L40 20 A20 20 0 0 1 20 0 L0 0 Z" fill="none" stroke="black"/></svg>"""


@pytest.fixture
def job_id(store, client):
    with store.connected():
        made = store.jobs.add(read_job(RIB))
        lot = store.rack.save(Lot(**LOT))
    client.post(f"/jobs/{made}/lot?lot={lot}", headers=PARTS)
    return made


def job_of(store, job_id):
    with store.connected():
        return store.jobs.get(job_id).job


def rack(store):
    with store.connected():
        return {k.lot.name: k.lot.count for k in store.rack.lots()}


def test_cut_takes_boards_off_the_rack_and_taking_it_back_restores_them(client, store, job_id):
    client.get("/")  # what lists show of it is worked out
    page = client.get(f"/jobs/{job_id}/prepare").text
    used = len(sketch(job_of(store, job_id)).prepared.cut.boards)
    assert f"Cut: {used} board" in page and rack(store) == {"Ash": 6}
    with store.connected():
        assert lot_lines(store)[0].boards == used  # promised
    answer = client.post(f"/jobs/{job_id}/cut")
    assert "removed from the rack" in answer.text and "Undo" in answer.text
    after = rack(store)
    offs = {n: c for n, c in after.items() if n != "Ash"}
    assert after["Ash"] == 6 - used and offs and all(n.startswith("Ash offcut") for n in offs)
    with store.connected():
        assert {line.lot.name: line.boards for line in lot_lines(store)}["Ash"] == 0  # gone, no longer promised
        assert "prepare" in store.jobs.get(job_id).settled
    again = client.post(f"/jobs/{job_id}/cut")
    assert again.status_code == 409 and "It is cut already" in again.text and rack(store) == after
    client.post(f"/jobs/{job_id}/cut/back")
    assert rack(store) == {"Ash": 6}
    assert client.post(f"/jobs/{job_id}/cut/back").status_code == 404
    assert "Cut: " in client.get(f"/jobs/{job_id}/prepare").text


def test_an_off_cut_used_meanwhile_is_said_and_a_lot_that_is_gone_is_put_back(client, store, job_id):
    client.post(f"/jobs/{job_id}/cut")
    with store.connected():
        for kept in store.rack.lots():
            store.rack.remove(kept.id)
    said = client.post(f"/jobs/{job_id}/cut/back").text
    assert "No longer on the rack, so not removed: Ash offcut" in said
    used = len(sketch(job_of(store, job_id)).prepared.cut.boards)
    assert rack(store) == {"Ash": used}


def test_boards_that_are_no_longer_there_are_not_cut(client, store, job_id):
    with store.connected():
        (kept,) = store.rack.lots()
        store.rack.save(kept.lot.model_copy(update={"count": 1}), kept.id)
    refused = client.post(f"/jobs/{job_id}/cut")
    assert refused.status_code == 409 and "Only 1 of “Ash” is left" in refused.text.replace("are left", "are left")
    assert rack(store) == {"Ash": 1}
    old = client.post(f"/jobs/{job_id}/cut?seen=1")
    assert old.status_code == 409 and "another window" in old.text


def test_a_flaw_is_dragged_along_its_board_and_onto_another(client, store, job_id):
    client.post(f"/jobs/{job_id}/prepare/rows?list=flaws&do=add", headers=PARTS)
    path = f"/jobs/{job_id}/prepare/pull?handle=flaw-0&x=1500&y=-600"
    shown = client.post(path)
    assert shown.status_code == 200 and "flaw-0" in shown.text
    assert job_of(store, job_id).prepare.flaws[0].start_mm == 0  # only shown
    kept = client.post(path.replace("y=-600", "y=0") + "&keep=1")
    flaw = job_of(store, job_id).prepare.flaws[0]
    assert kept.status_code == 200 and (flaw.board, flaw.start_mm, flaw.end_mm) == (1, 1450, 1550)
    client.post(f"/jobs/{job_id}/prepare/pull?handle=flaw-0&x=700&y=900&keep=1")
    assert job_of(store, job_id).prepare.flaws[0].board > 1
    for handle in ("flaw-7", "flaw-x", "crown", "flaw-"):
        assert client.post(f"/jobs/{job_id}/prepare/pull?handle={handle}&x=1&y=1").status_code == 422
    moved = job_of(store, job_id)
    ready = sketch(moved).prepared
    for b in ready.cut.boards:
        for x in b.lengths:
            assert all(end <= x.start_mm or start >= x.end_mm for start, end in b.board.flaws)


def test_a_board_left_out_and_boards_of_other_sizes(client, store, job_id):
    client.post(f"/jobs/{job_id}/lot?lot=0", headers=PARTS)
    client.post(
        f"/jobs/{job_id}/prepare/keep", data={"prepare.length_mm": "2600", "prepare.boards": "6"}, headers=PARTS
    )
    page = client.post(f"/jobs/{job_id}/prepare/apply", data={"sets": '{"prepare.left_out": [1]}'}, headers=PARTS).text
    assert "left out" in page and next(iter(sketch(job_of(store, job_id)).prepared.cut.boards)).number == 2
    client.post(f"/jobs/{job_id}/prepare/rows?list=more&do=add", headers=PARTS)
    typed = {"prepare.more.0.width_mm": "320", "prepare.more.0.length_mm": "3 m", "prepare.more.0.count": "2"}
    client.post(f"/jobs/{job_id}/prepare/keep", data=typed, headers=PARTS)
    assert job_of(store, job_id).prepare.more[0].length_mm == 3000
    assert any(b.board.width_mm == 320 for b in sketch(job_of(store, job_id)).prepared.cut.boards)


def test_a_profile_out_of_a_file(client, store, job_id):
    def bring(raw, name, **data):
        return client.post(f"/jobs/{job_id}/prepare/profile", files={"file": (name, io.BytesIO(raw))}, data=data)

    taken = bring(COVE, "cove.svg")
    profile = job_of(store, job_id).prepare.profile
    assert "Imported" in taken.text and profile.kind == "points" and profile.source == "cove.svg"
    across, up = zip(*profile.points_mm, strict=True)
    assert (max(across), max(up)) == (pytest.approx(40, abs=0.02), pytest.approx(60, abs=0.02)) and min(across) == 0
    made = sketch(job_of(store, job_id)).profiled
    assert made.problem is None and len(made.bands) == 8 and made.lost_mm == pytest.approx(0, abs=1e-9)
    for raw, name, message in ((b"nothing", "x.svg", "cannot be read"), (b"0,0\n1,0\n1,1\n", "p.csv", "choose one")):
        bad = bring(raw, name)
        assert bad.status_code == 422 and job_of(store, job_id).prepare.profile == profile, message
    assert bring(b"0,0\n4,0\n4,6\n0,6\n0,0\n", "p.csv", unit="cm").status_code == 200
    assert max(x for x, _ in job_of(store, job_id).prepare.profile.points_mm) == pytest.approx(40)


@pytest.mark.parametrize(
    ("stage", "typed", "message"),
    [
        ("press", {"glue_up.pot_min": "0"}, "More than 0"),
        ("press", {"glue_up.by_weight": "0"}, "More than 0"),
        ("press", {"glue_up.tent_mm": "3"}, "At least 20 mm"),
        ("press", {"glue_up.temperature_c": "warm"}, "“warm” is not a number"),
        ("build_up", {"build_up.laminae": "200"}, "At most 120"),
        ("prepare", {"prepare.thickness_mm": "0"}, "At least 1 mm"),
        ("prepare", {"build_up.cauls": "9"}, "At most 3"),
        ("prepare", {"build_up.tape_after": "8"}, "between two plies"),
        ("prepare", {"prepare.abreast": "0"}, "At least 1"),
        ("prepare", {"prepare.profile.points_mm": "0, 0\n9, x\n9, 9"}, "Line 2"),
    ],
)
def test_what_cannot_be_is_said_beside_its_field_and_nothing_is_lost(client, store, job_id, stage, typed, message):
    client.post(f"/jobs/{job_id}/prepare/keep", data={"prepare.profile.kind": "points"}, headers=PARTS)
    client.post(f"/jobs/{job_id}/press/keep", data={"glue_up.tent": "film"}, headers=PARTS)
    client.post(f"/jobs/{job_id}/lot?lot=0", headers=PARTS)
    before = job_of(store, job_id)
    answer = client.post(f"/jobs/{job_id}/{stage}/keep", data=typed, headers=PARTS)
    assert answer.status_code == 422 and message in answer.text
    assert job_of(store, job_id) == before


def test_label_sheets_are_measured_once_and_refused_where_they_run_off(client, store):
    fields = {"label_columns": "2", "label_across_mm": "100", "label_wide_mm": "95", "label_left_mm": "5 mm"}
    assert client.post("/shop", data={"name": "Mine", **fields}, follow_redirects=False).status_code == 303
    with store.connected():
        shop = store.shop_settings.get()
    assert (shop.label_columns, shop.label_across_mm, shop.label_wide_mm, shop.name) == (2, 100, 95, "Mine")
    for typed, message in (
        ({"label_columns": "3"}, "These columns end 300 mm from the left; the paper is 210 mm wide"),
        ({"label_rows": "12"}, "These rows end"),
        ({"label_wide_mm": "104"}, "Labels overlap"),
        ({"label_high_mm": "lots"}, "not a length"),
    ):
        answer = client.post("/shop", data={"name": "Mine", **fields, **typed})
        assert answer.status_code == 422 and message in answer.text, message
    with store.connected():
        assert store.shop_settings.get() == shop
