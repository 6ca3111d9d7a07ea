"""Boards chosen and filled: against an exact answer, as laws, and in time."""

import itertools

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bright_willow.core.common.errors import PlanError
from bright_willow.core.plan.plan import plan, sketch
from bright_willow.core.plan.read_job import read_job
from bright_willow.core.stock.boards import Board, StripDemand, Strips
from bright_willow.core.stock.cutting import cut_plan
from bright_willow.core.stock.prepared_stock import OUTSIDE, flaw_moved, left_over
from tests.conftest import RIB
from tests.core.methods.test_contract import job_for
from tests.searching import examples
from tools.exact_cutting import small_case
from tools.yardstick import Measured

LOT = {"name": "Ash", "species": "ash_white", "thickness_mm": 70, "width_mm": 200, "length_mm": 5600, "count": 6}


@settings(max_examples=examples(20))
@given(seed=st.integers(100, 10_000))
def test_strips_lie_in_their_boards_apart_and_clear_of_flaws(seed):
    boards, strips = small_case(seed)
    made = cut_plan(boards, strips)
    counted = [0] * len(strips.kinds)
    for b in made.boards:
        for length in b.lengths:
            assert length.end_mm <= b.board.length_mm + 1e-6
            assert all(end <= length.start_mm + 1e-6 or start >= length.end_mm - 1e-6 for start, end in b.board.flaws)
            places = [(s.kind, p) for s in length.sawn for p in s.places]
            for kind, p in places:
                counted[kind] += 1
                assert p.x_mm + p.wide_mm <= b.board.width_mm + 1e-6
                assert p.y_mm + p.high_mm <= b.board.thickness_mm + 1e-6
                assert min(p.wide_mm, p.high_mm) == pytest.approx(strips.kinds[kind].thick_mm)
            for (_, p), (_, q) in itertools.combinations(places, 2):
                apart = max(q.x_mm - p.x_mm - p.wide_mm, p.x_mm - q.x_mm - q.wide_mm)
                above = max(q.y_mm - p.y_mm - p.high_mm, p.y_mm - q.y_mm - q.high_mm)
                assert max(apart, above) >= strips.kerf_mm - 1e-6
        ends = sorted((x.start_mm, x.end_mm) for x in b.lengths)
        assert all(b[0] - a[1] >= strips.kerf_mm - 1e-6 for a, b in itertools.pairwise(ends))
    assert sum(counted) + made.short == strips.count  # nothing in reserve was asked for
    assert 0 <= made.wasted_share < 1


def test_a_board_that_is_left_out_is_not_sawn():
    boards = [Board(52, 150, 2400), Board(52, 150, 2400, left_out=True), Board(52, 150, 2400)]
    made = cut_plan(boards, Strips.alike(30, 6.0, 46.0, 1100.0, 3.0))
    assert [b.number for b in made.boards] == [1] and made.short == 0
    more = cut_plan(boards, Strips.alike(60, 6.0, 46.0, 1100.0, 3.0))
    assert [b.number for b in more.boards] == [1, 3]
    with pytest.raises(PlanError, match="left out"):
        cut_plan([Board(52, 150, 2400, left_out=True)], Strips.alike(3, 6.0, 46.0, 1100.0, 3.0))


def test_strips_of_several_thicknesses_in_time():
    many = [Board(52, 150 + i, 2400 + 13 * i, ((400.0 + i, 460.0 + i),)) for i in range(30)]
    kinds = (StripDemand(6.0, 700.0, 120), StripDemand(4.0, 700.0, 50), StripDemand(9.0, 700.0, 30))
    with Measured() as took:
        made = cut_plan(many, Strips(kinds, 46.0, 3.0))
    assert took.seconds < 0.1 and not made.short


def test_layers_of_several_thicknesses_reach_the_boards_and_the_pieces():
    job = read_job(
        {
            **RIB,
            "part": {**RIB["part"], "thickness_mm": 20},
            "build_up": {
                "lay_up": "layers",
                "layers": [{"thickness_mm": t, "material": "ash_white"} for t in (6, 8, 6)],
            },
            "prepare": {"length_mm": 2600},
        }
    )
    ready = sketch(job).prepared
    assert sorted(round(k.thick_mm, 1) for k in ready.strips.kinds) == [7.0, 9.0]
    kinds = dict(zip(ready.cut.labels, ready.cut.kinds, strict=True))
    thick = [[round(ready.strips.kinds[kinds[s]].thick_mm, 1) for s in p.strips] for p in ready.pieces]
    assert thick == [[7.0, 9.0, 7.0]] * (job.part.count + job.part.spares)
    assert ready.strips.count == 3 * len(ready.pieces)


def test_steamed_laminae_have_one_more_that_is_thrown_away():
    ready = sketch(job_for("steam_laminae", prepare={"length_mm": 3000})).prepared
    assert ready.has_waste_strip and sum(k.count for k in ready.strips.kinds if k.name == OUTSIDE) == len(ready.pieces)
    assert all(len(p.strips) == len(ready.layers) for p in ready.pieces)


def test_cauls_are_sawn_but_not_glued():
    plain, with_cauls = (
        plan(read_job({**RIB, "build_up": {"laminae": 8, "cauls": n}, "prepare": {"length_mm": 2600}})) for n in (0, 2)
    )
    assert with_cauls.prepared.strips.count == plain.prepared.strips.count + 2
    assert len(with_cauls.laid_up.laminae) == len(plain.laid_up.laminae) == 8
    caul = plain.laid_up.laminae[-1].thickness_mm
    assert with_cauls.way.caul_mm == pytest.approx(2 * caul) and plain.way.caul_mm == 0
    assert with_cauls.size_mm[1] >= plain.size_mm[1]


def test_a_flaw_goes_where_it_is_dragged_and_stays_on_the_board():
    job = read_job({**RIB, "prepare": {"flaws": [{"board": 1, "start_mm": 100, "end_mm": 160}]}})
    assert flaw_moved(job, 0, 3, 800.0, 2400.0).prepare.flaws[0].model_dump() == {
        "board": 3,
        "start_mm": 770.0,
        "end_mm": 830.0,
    }
    for at, start in ((-500.0, 0.0), (9000.0, 2340.0)):
        assert flaw_moved(job, 0, 1, at, 2400.0).prepare.flaws[0].start_mm == start


def test_what_is_left_goes_back_with_its_wood_and_its_size():
    job = read_job({**RIB, "stock": {"lot": LOT}})
    ready = sketch(job).prepared
    offs = [o for b in ready.cut.boards for o in b.off_cuts]
    lots = left_over(job.stock.lot, ready.cut)
    assert offs and sum(x.count for x in lots) == len(offs)
    assert all(x.species == "ash_white" and x.name.startswith("Ash offcut") for x in lots)
    for b in ready.cut.boards:
        for o in b.off_cuts:
            assert o.length_mm >= 300 and o.width_mm >= 40 and o.start_mm + o.length_mm <= b.board.length_mm + 1e-6
