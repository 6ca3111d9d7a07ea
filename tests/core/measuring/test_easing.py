"""Gaps to turns: by hand, against a bent curve whose faults are known, and by the laws of the plane."""

import math

import numpy as np
import pytest

from bright_willow.core.common.errors import PlanError
from bright_willow.core.common.estimate import Estimate
from bright_willow.core.execution.events import Event
from bright_willow.core.learning.kept_turn import EasedSample, kept_turn
from bright_willow.core.measuring.easing import (
    CurveCheck,
    EasingPass,
    Gap,
    Turn,
    curve_check,
    easing_pass,
    passes_of,
    samples_of,
    turns_for,
)
from bright_willow.core.plan.plan import plan
from bright_willow.core.shape.curve import Curve
from tests.core.methods.jobs import job_for

ARC = Curve.of([120.0] * 4, [1 / 300] * 4)
S_SHAPE = Curve.of([150.0, 60.0, 150.0, 40.0], [1 / 250, 0.0, -1 / 200, 0.0])
HOOK = Curve.of([300.0, 200.0, 100.0], [0.0, 1 / 150, 0.0])
SIGNS = {"tighter": 1, "ease": -1, "inward": 1, "outward": -1}


def gap_between(line: Curve, piece: Curve, station: float) -> float:
    """How far the piece lies outside the line, square to it at a station, looked up among many points of the piece."""
    (point,), (heading,) = line.at(np.array([station]))
    points, _ = piece.at(np.linspace(station - 60, station + 60, 60_001))
    ahead = (points - point) @ [math.cos(heading), math.sin(heading)]
    nearest = points[int(np.argmin(np.abs(ahead)))]
    return float((nearest - point) @ [-math.sin(heading), math.cos(heading)])


def test_by_hand_a_straight_piece_bent_evenly_along_its_right_half():
    """A half of 500 mm that turns evenly by a lifts its end by a · 500 / 2: 10 mm ask for 0.04 rad, 2.29°."""
    line = Curve.of([1000.0], [0.0])
    (turn,) = turns_for(line, [Gap(1000.0, 10.0)])
    assert turn.direction == "inward" and turn.degrees == pytest.approx(math.degrees(0.04), rel=1e-3)
    assert turn.station_mm == pytest.approx(750.0, abs=1.0)
    assert turns_for(line, [Gap(0.0, -10.0)]) == (Turn(pytest.approx(250.0, abs=1.0), turn.degrees, "outward"),)


def test_by_hand_a_hook_is_eased_where_it_is_bent_and_not_in_its_straight_leg():
    """Middle at 300 mm, where the bend begins: turned as one from 300 to 500, then 100 mm of leg: a·∫cos over both."""
    (turn,) = turns_for(HOOK, [Gap(600.0, -8.0)])
    s = np.linspace(0.0, 300.0, 30_001)
    turned, left = np.minimum(s / 200, 1.0), np.maximum(0.0, (200 - s) / 150)
    lever = float(np.trapezoid(turned * np.cos(left), s))
    assert (turn.direction, turn.degrees) == ("ease", pytest.approx(math.degrees(8 / lever), rel=1e-3))
    assert turn.station_mm == pytest.approx(400.0, abs=1.5)


@pytest.mark.parametrize("line", [ARC, S_SHAPE, HOOK], ids=["arc", "S", "hook"])
@pytest.mark.parametrize("off_deg", [(2.5, -1.5, 3.0, 1.0), (0.0, 4.0, -2.0, 0.0)])
def test_turns_found_are_those_a_piece_was_bent_wrong_by(line, off_deg):
    """A curve bent too far by so many degrees in each quarter, outside in: its gaps ask for exactly these turns back."""
    long, middle = line.length_mm, line.length_mm / 2
    places = [0.0, middle / 2, middle + middle / 2, long]
    joints = np.unique(np.concatenate((line.stations_mm, [middle / 2, middle, 1.5 * middle])))
    cells, mids = np.diff(joints), (joints[:-1] + joints[1:]) / 2
    own = line.curvature[np.minimum(line.stations_mm[1:-1].searchsorted(mids, side="right"), line.lengths_mm.size - 1)]
    excess = np.zeros_like(cells)
    quarters = np.minimum((mids / (long / 4)).astype(int), 3)
    for quarter, degrees in enumerate(off_deg):
        inside = quarters == quarter
        bends = np.abs(own[inside]) @ cells[inside]
        weight = np.abs(own) if bends * 180 / math.pi >= 1 else np.ones_like(own)
        excess[inside] = math.radians(degrees) * weight[inside] / (weight[inside] @ cells[inside])
    piece = Curve(cells, own + excess)
    turns = turns_for(line, [Gap(s, gap_between(line, piece, s)) for s in places])
    asked = [0.0] * 4
    for turn in turns:
        quarter = min(3, int(turn.station_mm / (long / 4)))
        inside = quarters == quarter
        sign = np.sign(own[inside] @ cells[inside]) or 1.0
        asked[quarter] += (
            SIGNS[turn.direction] * turn.degrees * (sign if turn.direction in ("tighter", "ease") else 1.0)
        )
    assert asked == pytest.approx([-d for d in off_deg], abs=0.25)


def test_right_as_left_and_a_gap_twice_as_large_asks_for_twice_the_turn():
    left = turns_for(ARC, [Gap(0.0, 6.0), Gap(110.0, 2.0)])
    right = turns_for(ARC, [Gap(480.0, 6.0), Gap(370.0, 2.0)])
    assert [(t.degrees, t.direction) for t in right] == [(pytest.approx(t.degrees), t.direction) for t in left]
    assert [t.station_mm for t in right] == pytest.approx([480.0 - t.station_mm for t in left])
    twice = turns_for(ARC, [Gap(0.0, 12.0), Gap(110.0, 4.0)])
    assert [t.degrees for t in twice] == pytest.approx([2 * t.degrees for t in left])
    other = turns_for(ARC, [Gap(0.0, -6.0), Gap(110.0, -2.0)])
    assert [t.degrees for t in other] == pytest.approx([t.degrees for t in left])
    assert [t.direction for t in left] == ["tighter", "tighter"] and [t.direction for t in other] == ["ease", "ease"]


@pytest.mark.parametrize(
    ("gaps", "message"),
    [
        ([], "at one place at least"),
        ([Gap(10.0 * n, 1.0) for n in range(9)], "8 at most"),
        ([Gap(482.5, 1.0)], "beyond the end"),
        ([Gap(-2.5, 1.0)], "beyond the end"),
        ([Gap(480.0, 501.0)], "500"),
        ([Gap(480.0, 1.0), Gap(479.9, 1.0)], "too close together"),
    ],
)
def test_what_cannot_be_read_is_refused(gaps, message):
    with pytest.raises(PlanError, match=message):
        turns_for(ARC, gaps)
    assert turns_for(ARC, [Gap(481.9, 500.0)])  # at the end, as a rule may read it


def test_within_what_is_allowed_nothing_is_asked_for_and_a_pass_reads_back_as_written():
    check = CurveCheck(ARC, "sheet", Estimate(0.5, 0.8, 0.9, "physics"), 2.0)
    within = easing_pass(check, [Gap(480.0, -2.0), Gap(0.0, 1.5)], 2.0)
    assert within.is_within and within.turns == ()
    over = easing_pass(check, [Gap(480.0, -6.4), Gap(0.0, 0.5)], 2.0)
    assert not over.is_within and [t.direction for t in over.turns] == ["ease"]
    assert over.pushed_deg(over.turns[0]) == pytest.approx(over.turns[0].degrees / 0.8)
    told = (Event(1.0, "ease", "a", "ease", 2, over.text), Event(2.0, "ease", "b", "ease", 2, "{not a pass"))
    (read,) = passes_of(told, 2)
    assert read.text == over.text and read.largest_mm == 6.4 and passes_of(told, 1) == ()
    assert EasingPass((), over.turns, 0.04, 2.0).pushed_deg(over.turns[0]) is None
    with pytest.raises(PlanError):
        easing_pass(check, [Gap(480.0, 1.0)], 0.09)


def test_what_a_pass_left_tells_how_much_of_the_push_stayed():
    gaps = (Gap(0.0, 6.0), Gap(480.0, 3.0))
    first = EasingPass(gaps, (Turn(120.0, 8.0, "tighter"), Turn(360.0, 0.8, "ease")), 0.8, 2.0)
    less = EasingPass(gaps, (Turn(120.0, 3.0, "tighter"),), 0.8, 2.0)
    beyond = EasingPass(gaps, (Turn(120.0, 2.0, "ease"),), 0.8, 2.0)
    assert samples_of([first, less], way="dry_heat", group="ash") == [EasedSample("dry_heat", "ash", 10.0, 5.0)]
    assert samples_of([first, beyond], way="dry_heat", group="ash")[0].stayed_deg == 10.0
    elsewhere = EasingPass((Gap(5.0, 1.0),), (), 0.8, 2.0)
    assert samples_of([first, elsewhere], way="dry_heat", group="ash") == []


def test_the_share_kept_goes_from_what_is_expected_to_what_was_seen():
    expected = Estimate(0.7, 0.8, 0.9, "physics")
    seen = [EasedSample("dry_heat", "ash", 10.0, 5.0)] * 60
    assert kept_turn([], way="dry_heat", group="ash", expected=expected) == expected
    assert kept_turn(seen, way="dry_heat", group="oak", expected=expected) == expected
    assert kept_turn(seen, way="blanket", group="ash", expected=expected) == expected
    one, many = (kept_turn(seen[:n], way="dry_heat", group="ash", expected=expected) for n in (1, 60))
    assert one.likely == pytest.approx((3 * 0.8 + 0.5) / 4) and one.grade == "physics"
    assert many.likely == pytest.approx(0.5, abs=0.02) and many.grade == "learned"
    assert many.high - many.low < one.high - one.low
    for stayed, share in ((-20.0, 0.1), (30.0, 1.0)):  # what cannot be is brought to the ends of the range
        slips = [EasedSample("dry_heat", "ash", 10.0, stayed)] * 60
        assert kept_turn(slips, way="dry_heat", group="ash", expected=expected).likely == share
    with pytest.raises(PlanError):
        kept_turn([], way="x", group="y", expected=Estimate(1.0, 1.2, 1.3, "physics"))


@pytest.mark.parametrize(
    ("way", "changes", "against"),
    [
        ("dry_heat", {}, "sheet"),
        ("blanket", {}, "sheet"),
        ("straighten", {}, "straightedge"),
        ("steam_free", {"heat": {"wall": "bag", "in_bag": True}, "part": {"thickness_mm": 25, "width_mm": 30}}, "form"),
        ("steam_strap", {"form": {"kind": "posts"}}, "form"),
        ("steam_strap", {}, None),
        ("cold_lamination", {}, None),
    ],
)
def test_a_method_says_what_its_bends_are_checked_on(way, changes, against):
    made = plan(job_for(way, **changes))
    check = curve_check(made)
    assert (check.against if check else None) == against
    assert [o.key for o in made.operations].count("ease") == (against is not None)
    if check:
        on = made.bend.on_form if against == "form" else made.bend.target
        assert check.curve is on and check.tolerance_mm == made.job.part.mate_tolerance_mm
        assert (check.kept.likely == 1.0) == (against == "form")
