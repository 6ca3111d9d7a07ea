"""Open ends under pressure against the cantilever integrated step by step; the atmosphere against its tables."""

import numpy as np
import pytest

from bright_willow.core.common.atmosphere import atmosphere_mpa
from bright_willow.core.common.errors import PlanError
from bright_willow.core.gluing.pressing import (
    band_mpa,
    band_pull_kn,
    open_end_gap_mm,
    open_end_mm,
    turned_from_ends,
    vacuum_mpa,
)


def test_open_end_against_integrating_the_cantilever():
    """A strip of stiffness EI that wants to be straight over a form of radius R, pressed by p on its free end."""
    stiffness, radius, pressure, width = 4.0e7, 900.0, 0.07, 45.0
    cells = np.array([4000.0]), np.array([stiffness / radius])
    length = open_end_mm(*cells, pressure_mpa=pressure, width_mm=width)
    s = np.linspace(0, length, 20_001)
    moment = pressure * width * (length - s) ** 2 / 2
    assert moment[0] == pytest.approx(stiffness / radius)  # just enough, at the last place that touches
    lift = 1 / radius - moment / stiffness  # curvature of form less that of strip
    slope = np.concatenate(([0.0], np.cumsum((lift[1:] + lift[:-1]) / 2 * np.diff(s))))
    gap = np.concatenate(([0.0], np.cumsum((slope[1:] + slope[:-1]) / 2 * np.diff(s))))
    tip = open_end_gap_mm(*cells, np.array([1 / radius]), pressure_mpa=pressure, width_mm=width, open_mm=length)
    assert tip == pytest.approx(length**2 / 4 / radius, rel=1e-4) == pytest.approx(gap[-1], rel=1e-4)


def test_legs_before_a_bend_are_not_closed_by_being_straight():
    """The bend behind a leg needs its moment from what lies outside it; a leg longer than that is pressed wholly."""
    arc, moment, at = 600.0, 20_000.0, {"pressure_mpa": 0.08, "width_mm": 50.0}
    wanted = np.sqrt(2 * moment / (0.08 * 50))

    def left_open(leg):
        lengths = np.array([leg, arc, leg] if leg else [arc])
        moments = np.array([0.0, moment, 0.0] if leg else [moment])
        return open_end_mm(lengths, moments, **at)

    assert left_open(0) == left_open(5) == left_open(60) == pytest.approx(wanted)
    assert left_open(wanted + 1) == 0
    # against looking at every place: M(x) from the tip, what pressure gives there, the last place that is not enough
    rng = np.random.default_rng(5)
    for _ in range(50):
        lengths, moments = rng.uniform(5, 200, 12), rng.uniform(0, 30_000, 12) * (rng.random(12) > 0.3)
        x = np.linspace(0, lengths.sum() / 2, 200_001)[:-1]
        own = moments[np.searchsorted(np.cumsum(lengths), x, side="right").clip(0, 11)]
        short = x[0.08 * 50 * x**2 / 2 < own]
        found, brute = open_end_mm(lengths, moments, **at), float(short.max()) if short.size else 0.0
        if brute < x[-1] - 0.01:
            assert found == pytest.approx(brute, abs=0.01)
        else:
            assert found >= brute - 0.01  # not even the middle comes down


def test_a_band_loses_its_pull_as_it_turns():
    """Euler's rope, step by step: dF = −μ F dθ."""
    turn = np.full(1000, np.pi / 1000)
    pull, steps = 2.5, []
    for d in turn:
        steps.append(pull * (1 - 0.3 * d / 2))
        pull *= 1 - 0.3 * d
    made = band_pull_kn(tension_kn=2.5, turned_rad=turned_from_ends(turn, from_both=False), friction=0.3)
    assert made == pytest.approx(steps, rel=2e-3)
    both = band_pull_kn(tension_kn=2.5, turned_rad=turned_from_ends(turn, from_both=True), friction=0.3)
    assert both.min() == pytest.approx(
        2.5 * np.exp(-0.3 * np.pi / 2), rel=1e-3
    )  # pulled from both ends the angle halves


@pytest.mark.parametrize(("altitude", "kpa"), [(0, 101.325), (1000, 89.87), (2000, 79.50), (3000, 70.11)])
def test_atmosphere_against_tables(altitude, kpa):
    assert atmosphere_mpa(altitude) * 1000 == pytest.approx(kpa, abs=0.05)


def test_a_gauge_is_cut_to_what_the_air_gives():
    assert vacuum_mpa(gauge_kpa=80, altitude_m=1500) == 0.08
    assert vacuum_mpa(gauge_kpa=95, altitude_m=1500) == atmosphere_mpa(1500)
    cells = np.array([1.0]), np.array([1.0])
    for bad in (
        lambda: atmosphere_mpa(9_000),
        lambda: vacuum_mpa(gauge_kpa=0, altitude_m=0),
        lambda: band_mpa(tension_kn=0, radius_mm=1, width_mm=1),
        lambda: open_end_mm(*cells, pressure_mpa=0, width_mm=5),
        lambda: open_end_gap_mm(*cells, np.array([1.0]), pressure_mpa=1, width_mm=1, open_mm=-1),
    ):
        with pytest.raises(PlanError):
            bad()
