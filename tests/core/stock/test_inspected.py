"""Boards as they were looked at: the rejected are not sawn, and pieces keep to one set."""

import pytest

from bright_willow.core.common.errors import PlanError
from bright_willow.core.job.faults import JobFaulty
from bright_willow.core.plan.plan import plan
from bright_willow.core.stock.boards import MIXED, dealt
from bright_willow.core.stock.prepared_stock import boards_of
from tests.core.methods.jobs import job_for

BOARDS = {"thickness_mm": 52, "width_mm": 150, "length_mm": 2400, "boards": 12}


def test_pieces_are_made_of_one_set_while_it_lasts():
    labels = [f"A{n}" for n in range(1, 8)] + [f"B{n}" for n in range(1, 8)]
    sets = ["dark"] * 7 + ["light"] * 7
    got = dealt(labels, [0] * 14, pieces=4, layers=[0] * 3, pairs=True, sets=sets)
    assert [p.matched for p in got] == ["dark", "dark", "light", "light"], "two pairs, each of one set"
    assert all(s[0] == {"dark": "A", "light": "B"}[p.matched] for p in got for s in p.strips)
    assert len({s for p in got for s in p.strips}) == 12
    more = dealt(labels, [0] * 14, pieces=4, layers=[0] * 3 + [0], pairs=False, sets=sets)
    assert [p.matched for p in more] == ["dark", "light", MIXED], "what is left over is mixed, and there is no fourth"
    assert more[2].is_mixed and set(more[2].strips) <= set(labels)


def test_a_set_that_was_chosen_comes_before_boards_of_none():
    labels = ["A1", "A2", "B1", "B2"]
    got = dealt(labels, [0] * 4, pieces=2, layers=[0, 0], pairs=False, sets=["", "", "pale", "pale"])
    assert [p.strips for p in got] == [("B1", "B2"), ("A1", "A2")]


def test_no_set_can_be_named_like_what_mixed_pieces_are_called():
    with pytest.raises(JobFaulty):
        job_for("cold_lamination", prepare={**BOARDS, "inspected": [{"board": 1, "matched": MIXED}]})


def test_without_sets_strips_are_dealt_as_they_are_sawn():
    labels, kinds = [f"A{n}" for n in range(1, 11)], [0, 0, 1, 0, 0, 1, 0, 0, 1, 0]
    plain = dealt(labels, kinds, pieces=2, layers=[0, 1, 0], pairs=False)
    assert [p.strips for p in plain] == [("A1", "A3", "A2"), ("A5", "A6", "A7")]
    assert plain[0].reserve == ("A4",)
    assert {p.matched for p in plain} == {""} and not plain[0].is_mixed


def test_two_kinds_of_strips_come_from_the_same_set():
    labels = ["A1", "A2", "A3", "B1", "B2", "B3"]
    got = dealt(
        labels, [0, 0, 0, 1, 0, 0], pieces=1, layers=[0, 1, 0], pairs=False, sets=["x", "x", "x", "y", "y", "y"]
    )
    assert got[0].strips == ("B2", "B1", "B3") and got[0].matched == "y", "only one set has both kinds"


def test_a_rejected_board_is_not_sawn_and_a_kept_one_is():
    seen = [
        {"board": 1, "verdict": "reject", "note": "shake"},
        {"board": 3, "matched": "a"},
        {"board": 2, "matched": "b"},
    ]
    job = job_for("cold_lamination", prepare={**BOARDS, "inspected": seen})
    boards = boards_of(job)
    assert [b.left_out for b in boards[:4]] == [True, False, False, False]
    assert [b.matched for b in boards[:4]] == ["", "b", "a", ""]
    drawn = plan(job)
    ready = drawn.prepared
    assert next(o for o in drawn.operations if o.key == "look_over").steps[-1] == "Rejected: board 1."
    used = {b.number for b in ready.cut.boards}
    assert 1 not in used and used
    plain = plan(job_for("cold_lamination", prepare=BOARDS)).prepared
    assert len(ready.pieces) == len(plain.pieces) and 1 in {b.number for b in plain.cut.boards}
    of = {label: b.board.matched for b in ready.cut.boards for label in b.labels}
    for piece in ready.pieces:
        assert ({of[s] for s in piece.strips} == {piece.matched}) != piece.is_mixed


@pytest.mark.parametrize(
    ("seen", "row", "words"),
    [
        ([{"board": 13}], 0, "no board 13; the last is 12"),
        ([{"board": 4}, {"board": 4, "verdict": "reject"}], 1, "listed twice"),
    ],
)
def test_a_board_that_is_not_there_or_there_twice_is_named(seen, row, words):
    job = job_for("cold_lamination", prepare={**BOARDS, "inspected": seen})
    with pytest.raises(PlanError) as found:
        boards_of(job)
    assert found.value.field == f"prepare.inspected.{row}.board" and words in found.value.message("mm")
