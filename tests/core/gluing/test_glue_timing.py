"""The race: against a clock run step by step here; laws; what is advised clears it."""

import itertools

import pytest
from hypothesis import given
from hypothesis import strategies as st

from bright_willow.core.common.errors import PlanError
from bright_willow.core.gluing.glue_timing import Moves, at_temperature, clamp_order, lines_of_goes, race
from bright_willow.core.plan.plan import plan, sketch
from bright_willow.core.plan.read_job import read_job
from bright_willow.core.shop.shop import Shop
from tests.conftest import RIB

HOOK = {"kind": "hook", "start_mm": 900, "radius_mm": 300, "angle_deg": 100, "end_mm": 60}
SLOW = {"build_up": {"laminae": 18, "adhesive": "pva"}, "glue_up": {"hands": 1, "spread_by": "brush"}}


def by_the_clock(moves, hands, goes, brush):
    """Second by second, as it is done: spread a line, lay a lamina on it, and so on; then set, then close."""
    lines = -(-moves.lines // min(goes, moves.lines))
    tasks = []
    for i in range(lines):
        tasks.append(("spread", i, moves.spread_s * (2.5 / 1.2 if brush else 1) / hands))
        tasks.append(("lay", i, moves.lay_on_s))
    tasks += [("set", 0, moves.set_s), ("close", 0, moves.close_s / hands)]
    clock, spread, covered = 0.0, {}, {}
    for what, line, lasts in tasks:
        if what == "spread":
            spread[line] = clock
        clock += lasts
        if what == "lay":
            covered[line] = clock
    return [(spread[i], covered[i], clock) for i in range(lines)]


@given(
    lines=st.integers(1, 40),
    spread=st.floats(1, 300),
    lay=st.floats(0, 60),
    close=st.floats(0, 3000),
    hands=st.integers(1, 6),
    goes=st.integers(1, 6),
    brush=st.booleans(),
    closed=st.one_of(st.none(), st.floats(60, 5000)),
)
def test_the_bars_are_those_of_a_clock(lines, spread, lay, close, hands, goes, brush, closed):
    moves = Moves(lines, spread, lay, 60.0, close)
    made = race(moves, hands=hands, open_s=900, pot_s=1800, closed_s=closed, goes=goes, brush=brush)
    told = [(b.spread_s, b.covered_s, b.pressed_s) for b in made.bars]
    for bar, other in zip(told, by_the_clock(moves, hands, goes, brush), strict=True):
        assert bar == pytest.approx(other)
    waits = [max((c - s) / 900, (p - c) / (closed or 1350), told[-1][1] / 1800) for s, c, p in told]
    assert made.share == pytest.approx(max(waits))


@given(lines=st.integers(2, 40), hands=st.integers(1, 5), goes=st.integers(1, 4))
def test_more_hands_more_goes_and_a_cooler_hour_never_make_it_worse(lines, hands, goes):
    moves = Moves(lines, 40.0, 10.0, 60.0, 600.0)

    def share(**how):
        return race(moves, **{"hands": hands, "goes": goes, "open_s": 600, "pot_s": None} | how).share

    assert share(hands=hands + 1) < share()
    assert share(goes=goes + 1) <= share() + 1e-12
    assert share(open_s=at_temperature(600, 10)) == pytest.approx(share(open_s=600) / 2)
    assert (
        sum(lines_of_goes(lines, goes)) == lines
        and max(lines_of_goes(lines, goes)) - min(lines_of_goes(lines, goes)) <= 1
    )


def test_clamps_go_from_the_middle_outwards_or_from_the_held_end():
    for count, start in itertools.product((1, 2, 7, 12), (0.0, 0.3, 0.5, 1.0)):
        order = clamp_order(count, start)
        assert sorted(order) == list(range(1, count + 1))
        done = sorted(range(count), key=lambda i: order[i])
        for k in range(1, count):  # the next is always beside those already on
            assert min(abs(done[k] - d) for d in done[:k]) == 1
    rib = sketch(read_job(RIB)).glued_up.order
    assert rib.index(1) in (len(rib) // 2, len(rib) // 2 - 1)
    hook = sketch(read_job({**RIB, "shape": HOOK})).glued_up.order
    assert hook[0] == 1 and hook[-1] == len(hook)


def test_what_is_advised_clears_it_with_the_sum_it_text():
    job = read_job({**RIB, **SLOW})
    made = plan(job)
    finding = next(f for f in made.findings if f.code == "press.race")
    assert finding.level == "stop" and made.glued_up.race.share > 1
    assert made.glued_up.clears and finding.fix == made.glued_up.clears[0].change
    for clear in made.glued_up.clears:
        data = job.model_dump()
        for name, value in clear.change.sets.items():
            room, field = name.split(".")
            data[room][field] = value
        again = sketch(read_job(data)).glued_up
        assert again.race.share == pytest.approx(clear.race.share) and not again.is_tight
    warm = plan(job, Shop(temperature_c=35)).glued_up.race
    assert warm.open_s == pytest.approx(made.glued_up.race.open_s * 2 ** ((21 - 35) / 10))


def test_a_bag_has_no_order_and_odd_figures_are_refused():
    bag = sketch(read_job({**RIB, "build_up": {"laminae": 10, "press": "vacuum"}})).glued_up
    assert bag.order == () and bag.race.bars
    for bad in (0, -1, float("nan")):
        with pytest.raises(PlanError):
            race(Moves(3, 10, 10, 10, 10), hands=1, open_s=bad, pot_s=None)
    with pytest.raises(PlanError):
        at_temperature(10, 200)
