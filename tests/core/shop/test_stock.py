"""The rack: boards into strips, verdicts, own woods, spares, mates, sheets and the ways compared."""

import math

import pytest

from bright_willow.core.common.errors import PlanError
from bright_willow.core.gluing.adhesive import adhesive_table
from bright_willow.core.gluing.press_hours import press_hours
from bright_willow.core.learning.belief import LearnedFigures
from bright_willow.core.learning.yields import expected_yield, spares_for
from bright_willow.core.measuring.mates import PairReading, hands_say, mated
from bright_willow.core.methods.method_registry import WAYS
from bright_willow.core.methods.sheet_layup import suggested_layers
from bright_willow.core.plan.compare import compare_ways, offered_apart
from bright_willow.core.plan.plan import plan
from bright_willow.core.shop.clamps import clamp_table, clamps_needed
from bright_willow.core.shop.shop import Shop
from tests.core.methods.jobs import job_for
from tests.core.plan.test_plan import changed

LOT = {"name": "Ash", "species": "ash_white", "thickness_mm": 70, "width_mm": 200, "length_mm": 2400, "count": 6}


def test_boards_by_hand(rib):
    """The rib: strips 66 wide, 5 + 1 + 3 mm off the width, 2257 long; (200 − 20 + 3) / 9 = 20 to a board, 56 strips."""
    job = changed(stock={"lot": LOT})
    use = plan(job).quantities.boards
    assert (use.strips_per_board, use.boards, use.left) == (20, 3, 3)
    flat = changed(stock={"lot": {**LOT, "thickness_mm": 30, "width_mm": 210}})  # too thin: resawn, 3 across × 3
    assert plan(flat).quantities.boards.strips_per_board == 3 * 3
    kerf_counts = changed(stock={"lot": {**LOT, "thickness_mm": 33, "width_mm": 210}})  # (33 + 3) / 9 = 4, not 3
    assert plan(kerf_counts).quantities.boards.strips_per_board == 3 * 4
    short = changed(stock={"lot": {**LOT, "length_mm": 1500}})
    assert "stock.short" in {f.code for f in plan(short).findings}


def test_yield_starts_from_the_table_and_gives_way_to_the_record():
    assert expected_yield(0.9).likely == pytest.approx(0.9) and expected_yield(0.9).grade == "allowance"
    own = expected_yield(0.9, good=10, failed=30)
    assert own.likely == pytest.approx((7.2 + 10) / 48) and own.grade == "learned"
    wide, narrow = expected_yield(0.7), expected_yield(0.7, good=70, failed=30)
    assert narrow.high - narrow.low < 0.5 * (wide.high - wide.low)
    assert [spares_for(1, 0.97), spares_for(10, 0.5), spares_for(4, 1.0)] == [1, 10, 1]
    for bad in (0, 1, -0.1):
        with pytest.raises(PlanError):
            expected_yield(bad)
    record = LearnedFigures({}, {}, 0, 0, {("cold_lamination", "ash_white|rigid"): (2, 10)})
    assert plan(changed(), Shop(), record).quantities.spares_advised > plan(changed()).quantities.spares_advised
    assert "part.few_spares" in {f.code for f in plan(changed(), Shop(), record).findings}


def test_mates_are_matched_as_a_whole():
    """Nearest first would give 1–a (0.5) and leave 2–b 7 apart; together 1–b and 2–a are better."""
    lefts = [PairReading("1", 500, 80), PairReading("2", 497, 80)]
    rights = [PairReading("a", 499.5, 80), PairReading("b", 504, 80)]
    pairs = {(m.left, m.right): m for m in mated(lefts, rights, tolerance_mm=3)}
    assert set(pairs) == {("1", "b"), ("2", "a")} or set(pairs) == {("1", "a"), ("2", "b")}
    assert sum(m.apart_mm for m in pairs.values()) == pytest.approx(min(4 + 2.5, 0.5 + 7))
    assert not mated(lefts, [], tolerance_mm=1)
    assert [hands_say(1, 0), hands_say(3, 3)] == ["", ""] and "bend lefts next" in hands_say(0, 2)


def test_the_right_is_the_left_in_a_mirror():
    shape = {"kind": "hook", "face": "inner", "start_mm": 500, "radius_mm": 300, "angle_deg": 80, "end_mm": 120}
    form = {"school": "by_angle", "left_deg": 0, "right_deg": 6}
    both = [changed(shape=shape, form=form, part={"copies": "pairs", "hand": hand}) for hand in ("left", "right")]
    left, right = (plan(job) for job in both)
    for curve in ("target", "on_form", "likely"):
        a, b = getattr(left.bend, curve).merged(), getattr(right.bend, curve).merged()
        assert a.lengths_mm == pytest.approx(b.lengths_mm[::-1])
        assert a.curvature == pytest.approx(b.curvature[::-1])
    assert "pairs.turned" in {f.code for f in left.findings}
    assert "pairs.alike" in {f.code for f in plan(changed(part={"copies": "pairs"})).findings}


def test_suggested_sheets_stand_the_radius_and_add_up():
    layers = suggested_layers(total_mm=18, inner_radius_mm=200, veneer="walnut_black")
    assert {x.material for x in layers[1:-1]} <= {"flex_ply_3", "flex_ply_5"}  # 8 mm needs 250
    assert sum(x.thickness_mm for x in layers) == pytest.approx(18, abs=1.01)
    assert suggested_layers(total_mm=11.2, inner_radius_mm=500, veneer="walnut_black")[1].material == "flex_ply_5"
    with pytest.raises(PlanError, match="No bending sheet"):
        suggested_layers(total_mm=10, inner_radius_mm=40, veneer=None)


def test_ways_side_by_side(rib):
    rows = compare_ways(rib)
    beside = [key for key in WAYS if key != "straighten"]  # no answer to a curve that is wanted
    assert [r.key for r in rows] == beside and [r.key for r in rows if r.chosen] == ["cold_lamination"]
    bowed = job_for("straighten")
    assert [r.key for r in compare_ways(bowed) if r.chosen] == ["straighten"] and offered_apart(bowed) == ()
    assert [way.key for way in offered_apart(rib)] == ["straighten"]
    cold, sheets = rows[:2]
    assert cold.made.tip_mm == plan(rib).bend.opens.tip_mm and cold.made.wood_m3 > 0 and sheets.made.sheets_m2 > 0
    tight = changed(
        shape={"kind": "arc_by_radius", "face": "inner", "radius_mm": 60, "angle_deg": 90}, part={"thickness_mm": 8}
    )
    refused = compare_ways(tight)[1]
    assert refused.level == "stop" and refused.made is None and "can make an inside radius of 60 mm" in refused.reason
    assert compare_ways(tight, Shop(units="in"))[1].reason.count("2 23/64 in") == 1


def test_press_time_doubles_for_ten_degrees():
    glue = adhesive_table()["pva_crosslinking"]
    assert press_hours(glue, 10) == pytest.approx(2 * press_hours(glue, 20)) == 2 * press_hours(glue, 30)
    with pytest.raises(PlanError, match="does not cure below"):
        press_hours(glue, 5)
    assert "glue.cold" in {f.code for f in plan(changed(), Shop(temperature_c=12)).findings}


def test_clamps_by_force_or_by_reach():
    f = clamp_table()["f_clamp"]
    assert clamps_needed(pressure_mpa=1.0, width_mm=60, length_mm=2000, clamp=f) == math.ceil(1.0 * 60 * 2000 / 4000)
    assert clamps_needed(pressure_mpa=0.05, width_mm=60, length_mm=2000, clamp=f) == math.ceil(2000 / 70)
