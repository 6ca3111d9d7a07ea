"""A change in what a shop springs back: found where it is, and not where there is none."""

from __future__ import annotations

import numpy as np
import pytest

from bright_willow.core.experience.drift import FEWEST, drift
from bright_willow.core.ground.errors import OutOfRange


def shop(dice, n, mean, error=0.12):
    return (mean * np.exp(dice.normal(0, 0.25, n)) + dice.normal(0, error, n)).tolist()


def test_steady_shops_are_seldom_told_of_one_and_changed_ones_nearly_always():
    dice = np.random.default_rng(11)
    false = sum(drift(shop(dice, 30, 1.1), [0.12] * 30) is not None for _ in range(400))
    assert false / 400 < 0.05
    found = [drift([*shop(dice, 15, 1.0), *shop(dice, 15, 1.5)], [0.12] * 30) for _ in range(300)]
    seen = [f for f in found if f]
    assert len(seen) / 300 > 0.82
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
    with pytest.raises(OutOfRange):
        drift(*bad)
