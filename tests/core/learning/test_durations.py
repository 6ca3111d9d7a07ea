"""What times seen teach: by hand, and over simulated shops."""

from __future__ import annotations

import math

import numpy as np
import pytest

from bright_willow.core.common.errors import PlanError
from bright_willow.core.learning.durations import SHOPS_SD, TIMES_SD, ObservedTime, learnt_times

TABLE = {"clamp": 20.0, "set_stack": 60.0}


def test_nothing_seen_nothing_learnt_and_slips_are_left_out():
    assert learnt_times([], TABLE) == {}
    one = (("clamp", 10.0, 20.0),)
    assert (
        learnt_times(
            [ObservedTime(0.5, 200.0, one), ObservedTime(9.0, 200.0, one), ObservedTime(4001.0, 200.0, one)], TABLE
        )
        == {}
    )
    assert learnt_times([ObservedTime(30.0, 20.0, (("unheard", 1.0, 20.0),))], TABLE) == {}
    with pytest.raises(PlanError):
        learnt_times([ObservedTime(3.0, 0.0, one)], TABLE)


def test_shared_between_moves_by_what_each_was_of_it():
    """By hand: half as long again, 200 s of clamps and 60 of setting. With shares s of unit prior σ² and times τ²,
    seen n times, what each is off is s n y σ² ÷ (τ² + n σ² |s|²)."""
    made = learnt_times([ObservedTime(390.0, 260.0, (("clamp", 10.0, 20.0), ("set_stack", 1.0, 60.0)))] * 4, TABLE)
    assert made["clamp"].times == pytest.approx(4 * 200 / 260)
    share = (200 / 260, 60 / 260)
    whole = 4 * math.log(1.5) * SHOPS_SD**2 / (TIMES_SD**2 + 4 * SHOPS_SD**2 * (share[0] ** 2 + share[1] ** 2))
    assert made["clamp"].seconds.likely == pytest.approx(20 * math.exp(share[0] * whole))
    assert made["set_stack"].seconds.likely == pytest.approx(60 * math.exp(share[1] * whole))


@pytest.mark.parametrize("third", [1 / 3, 2 / 3])
def test_two_moves_always_timed_together_know_only_their_sum(third):
    """Each move of a shop has a truth of its own: the band of the next time holds eight in ten all the same, and a
    hundred times together do not make it narrower than what is known of one of them."""
    dice, inside = np.random.default_rng(8), 0
    table = {"clamp": 20.0, "set_stack": 20.0 * (1 - third) / third}
    made_of = (("clamp", 1.0, 20.0), ("set_stack", 1.0, table["set_stack"]))
    planned = sum(table.values())
    for _ in range(400):
        own = {k: v * math.exp(dice.normal(0, SHOPS_SD)) for k, v in table.items()}
        seen = [
            ObservedTime(sum(own.values()) * math.exp(dice.normal(0, TIMES_SD)), planned, made_of) for _ in range(30)
        ]
        found = learnt_times(seen, table)["clamp"].seconds
        inside += found.low <= own["clamp"] * math.exp(dice.normal(0, TIMES_SD)) <= found.high
    assert 0.75 <= inside / 400 <= 0.86


def test_planned_with_learnt_seconds_it_stays_where_it_is():
    """A plan that already goes by this shop's 30 s, and takes that long, teaches 30 s and not 45."""
    made = learnt_times([ObservedTime(300.0, 300.0, (("clamp", 10.0, 30.0),))] * 50, TABLE)
    assert made["clamp"].seconds.likely == pytest.approx(30.0, rel=0.03)


def test_over_simulated_shops_the_band_holds_the_next_time():
    dice, inside, off = np.random.default_rng(3), 0, []
    for _ in range(500):
        own = 20.0 * math.exp(dice.normal(0, SHOPS_SD))
        times = own * np.exp(dice.normal(0, TIMES_SD, 9))
        made = learnt_times([ObservedTime(float(t), 20.0, (("clamp", 1.0, 20.0),)) for t in times[:8]], TABLE)["clamp"]
        inside += made.seconds.low <= times[8] <= made.seconds.high
        off.append(math.log(made.seconds.likely / own))
    assert 0.76 <= inside / 500 <= 0.84
    assert abs(float(np.median(off))) < 0.03
