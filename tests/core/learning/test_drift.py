"""A change in what a shop springs back: found where it is, and not where there is none."""

from __future__ import annotations

import numpy as np
import pytest

from bright_willow.core.common.errors import PlanError
from bright_willow.core.learning.drift import FEWEST, PRIOR_BENDS, _scatter2, drift


def shop(dice, n, mean, scatter=0.25, error=0.05):
    return (mean * np.exp(dice.normal(0, scatter, n)) + dice.normal(0, error, n)).tolist()


def is_ever_told(ratios, scatter, error=0.05, first=2 * FEWEST) -> bool:
    """Whether a shop that looks after every bend is told of a change at some time."""
    return any(drift(ratios[:n], [error] * n, scatter) for n in range(first, len(ratios) + 1))


@pytest.mark.parametrize("scatter", [0.10, 0.15, 0.25, 0.35])
def test_steady_shops_that_look_after_every_bend_are_seldom_told(scatter):
    """Careful shops and rough ones alike, over sixty bends: one in twenty."""
    dice = np.random.default_rng(11)
    told = sum(is_ever_told(shop(dice, 60, 1.1, scatter), scatter) for _ in range(250))
    assert told / 250 <= 0.075  # one in twenty, and what 250 shops may differ


@pytest.mark.parametrize("times", [1.25, 0.8])
def test_a_quarter_more_or_less_is_found_within_fifteen_bends(times):
    dice = np.random.default_rng(12)
    found = 0
    for _ in range(250):
        ratios = [*shop(dice, 15, 1.0, 0.15), *shop(dice, 15, times, 0.15)]
        found += is_ever_told(ratios, 0.15, first=16)
    assert found / 250 >= 0.65  # seven in ten, and what 250 shops may differ


def test_a_change_by_half_is_found_where_it_is():
    dice = np.random.default_rng(11)
    found = [drift([*shop(dice, 15, 1.0), *shop(dice, 15, 1.5)], [0.05] * 30) for _ in range(300)]
    seen = [f for f in found if f]
    assert len(seen) / 300 > 0.75
    assert np.median([f.at for f in seen]) == pytest.approx(15, abs=1)
    assert np.median([f.times for f in seen]) == pytest.approx(1.5, abs=0.12)


def test_by_hand():
    made = drift([1.0] * 6 + [2.0] * 6, [0.01] * 12)
    assert made.at == 6
    assert (made.before.likely, made.after.likely, made.times) == pytest.approx((1.0, 2.0, 2.0))
    assert made.before.low < 1.0 < made.before.high
    down = drift([2.0] * 6 + [1.0] * 6, [0.01] * 12)
    assert down.times == pytest.approx(0.5)


def test_few_bends_and_rough_ones_say_nothing():
    assert drift([1.0] * 4 + [3.0] * 4, [0.01] * 8) is None  # too few on either side
    assert drift([1.0] * FEWEST + [3.0] * FEWEST, [8.0] * (2 * FEWEST)) is None  # measured too roughly to tell
    assert drift([], []) is None


@pytest.mark.parametrize("bad", [([1.0], []), ([1.0], [0.0]), ([float("nan")], [1.0]), ([1.0], [float("nan")])])
def test_ranges_are_kept(bad):
    with pytest.raises(PlanError):
        drift(*bad)


def test_the_scatter_about_two_means_by_hand():
    """1, 2, 3 | 7, 9: squares left about the means 2 and 8 are 2 + 2; over 5 − 2 degrees, less what measuring makes."""
    x, measured = np.array([1.0, 2.0, 3.0, 7.0, 9.0]), np.full(5, 0.1)
    own = 4 / 3 - 0.1
    splits = np.array([2, 3])
    wanted = (PRIOR_BENDS * 0.25**2 + 3 * own) / (PRIOR_BENDS + 3)
    assert _scatter2(x, measured, splits, 0.25) == pytest.approx(wanted)
