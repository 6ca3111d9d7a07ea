"""Settling over weeks, learnt from pieces measured again: by hand, by law, and over simulated shops."""

from __future__ import annotations

import math

import numpy as np
import pytest

from bright_willow.core.common.errors import PlanError
from bright_willow.core.learning.settling import (
    PIECES_SD,
    TAU_DAYS,
    TAU_SD,
    Remeasurement,
    Settling,
    learn_settling,
    prior_sd,
    settled_curvature,
)


def test_one_piece_by_hand():
    """Measured after three times τ, without error to speak of: s∞ = s ÷ (1 − e⁻³), its spread that of pieces."""
    gone, dice = 1 - math.exp(-3), np.random.default_rng(3)
    seen = [("slight", [Remeasurement(3 * TAU_DAYS, s * gone, 1e-6)]) for s in dice.normal(0.03, PIECES_SD, 200)]
    made = learn_settling(seen)["slight"]
    assert made.pieces == 200 and made.mean == pytest.approx(0.03, rel=0.08)
    shrunk = made.with_allowance(0.01)
    assert 0.01 < shrunk.likely < made.mean + 1e-9 and shrunk.grade == "learned"


def test_with_nothing_measured_it_is_the_allowance():
    made = Settling().with_allowance(0.03)
    assert (made.likely, made.grade) == (0.03, "allowance")
    assert made.high - made.likely == pytest.approx(1.2816 * math.hypot(prior_sd(0.03), PIECES_SD))
    assert (
        learn_settling([("slight", []), ("rigid", [Remeasurement(0.1, 0.02, 0.01)])]) == {}
    )  # the same day says nothing


@pytest.mark.parametrize("tau", [5.0, 30.0])
def test_how_long_it_takes_is_found(tau):
    rows = [Remeasurement(d, 0.08 * (1 - math.exp(-d / tau)), 0.001) for d in (2, 5, 10, 20, 40, 80)]
    made = learn_settling([("noticeable", rows)] * 6)["noticeable"]
    assert made.tau_days == pytest.approx(tau, rel=0.1) and made.mean == pytest.approx(0.08, abs=0.003)
    assert made.after(tau, 0.08) == pytest.approx(0.08 * (1 - 1 / math.e), rel=0.06)


def test_more_pieces_make_it_surer_and_a_rough_one_hardly_does():
    one = learn_settling([("x", [Remeasurement(30, 0.05, 0.01)])])["x"]
    four = learn_settling([("x", [Remeasurement(30, 0.05, 0.01)])] * 4)["x"]
    rough = learn_settling([("x", [Remeasurement(30, 0.05, 0.01)]), ("x", [Remeasurement(30, 0.2, 0.2)])])["x"]
    assert four.variance < one.variance and rough.mean == pytest.approx(one.mean, abs=0.005)


def test_measuring_one_piece_often_does_not_mend_its_first_measurement():
    """Forty later measurements are all held against the same first one: half of its error's square stays."""
    error = 0.02
    rows = [Remeasurement(120.0, 0.05, error)] * 40
    made = learn_settling([("x", rows)])["x"]
    assert 0.9 * error**2 / 2 < made.variance < 1.5 * error**2 / 2
    apart = learn_settling([("x", [row]) for row in rows])["x"]
    assert apart.variance < made.variance / 4  # of forty pieces each has a first of its own


def test_classes_are_learnt_apart():
    made = learn_settling(
        [("rigid", [Remeasurement(40, 0.0, 0.002)]), ("noticeable", [Remeasurement(40, 0.06, 0.002)])]
    )
    assert made["rigid"].mean < 0.01 < made["noticeable"].mean


def test_its_band_holds_in_eight_of_ten_simulated_shops():
    """500 shops as the belief has them: the next piece's share falls within the band in some eight of ten."""
    dice, held = np.random.default_rng(12), 0
    for _ in range(500):
        allowed = float(dice.choice([0.003, 0.02, 0.03]))
        share, tau = dice.normal(allowed, prior_sd(allowed)), TAU_DAYS * math.exp(dice.normal(0, TAU_SD))
        seen = []
        for _ in range(int(dice.integers(1, 6))):
            own, first = dice.normal(share, PIECES_SD), dice.normal(0, 0.005)
            days = sorted(dice.uniform(3, 60, int(dice.integers(1, 4))))
            rows = [
                Remeasurement(d, own * (1 - math.exp(-d / tau)) + dice.normal(0, 0.005) - first, 0.005 * math.sqrt(2))
                for d in days
            ]
            seen.append(("k", rows))
        band = learn_settling(seen)["k"].with_allowance(allowed)
        held += band.low <= dice.normal(share, PIECES_SD) <= band.high
    assert 0.74 < held / 500 < 0.86


@pytest.mark.parametrize("share", [math.nan, 1.0, -0.6])
def test_a_share_that_is_none(share):
    with pytest.raises(PlanError):
        settled_curvature(np.array([0.002]), share)
    with pytest.raises(PlanError):
        Settling().with_allowance(share)
