"""The middle of a bar from what the chamber showed: against a section cut in squares, and by law."""

from __future__ import annotations

import numpy as np
import pytest

from bright_willow.core.common.errors import PlanError
from bright_willow.core.common.operation import Warming
from bright_willow.core.execution.core_temperature import STALE_S, HeatHistory, core_c, core_now
from bright_willow.core.heat.conduction import HeatedBar

BAR = Warming(30.0, 45.0, 1.6e-7, 15.0, 98.0, 88.0)


def squares(bar: Warming, chamber, until_s: float) -> np.ndarray:
    """The middle every second, by explicit finite differences over the whole section; chamber: °C at a time."""
    n, m = 31, 31
    dx, dy = bar.thickness_mm / 1000 / (n - 1), bar.width_mm / 1000 / (m - 1)
    step = 0.2 / (bar.diffusivity_m2_s * (1 / dx**2 + 1 / dy**2))
    temps, at, shown = np.full((n, m), bar.start_c), 0.0, []
    while at <= until_s:
        temps[[0, -1], :] = temps[:, [0, -1]] = chamber(at)
        inner = temps[1:-1, 1:-1]
        bent = (temps[2:, 1:-1] - 2 * inner + temps[:-2, 1:-1]) / dx**2
        bent += (temps[1:-1, 2:] - 2 * inner + temps[1:-1, :-2]) / dy**2
        shown.append((at, temps[n // 2, m // 2]))
        temps[1:-1, 1:-1] = inner + bar.diffusivity_m2_s * step * bent
        at += step
    times, middle = np.array(shown).T
    return np.interp(np.arange(0, until_s), times, middle)


def showed(at: float) -> float:
    """A chamber that warms on, has its door opened, and runs dry for a while."""
    if 400 <= at < 460:
        return 60.0
    return 70.0 if 1200 <= at < 1600 else min(98.0, 80.0 + at / 20)


def test_against_a_section_cut_in_squares():
    readings = [(t, showed(t)) for t in np.arange(0.0, 2400.0, 5.0)]
    exact = squares(BAR, showed, 2400)
    for now in (300.0, 900.0, 1500.0, 2300.0):
        mine = core_now(BAR, in_s=0.0, now_s=now, readings=[r for r in readings if r[0] <= now])
        assert mine.at_c == pytest.approx(exact[int(now)], abs=0.6)
        assert mine.measured_to_s == now - (now % 5)
    late = core_now(BAR, in_s=0.0, now_s=2395.0, readings=readings)
    first = int(np.flatnonzero(exact >= BAR.goal_c)[0])
    assert late.hot_s == pytest.approx(first, abs=15)


def test_as_the_plan_where_the_chamber_does_as_planned():
    plan = HeatedBar(BAR.thickness_mm, BAR.width_mm, BAR.diffusivity_m2_s, BAR.start_c, BAR.chamber_c, least_c=85.0)
    steady = [(t, BAR.chamber_c) for t in np.arange(0.0, 1000.0, 7.0)]
    for readings in ((), steady):
        core = core_now(BAR, in_s=0.0, now_s=700.0, readings=readings)
        assert core.at_c == pytest.approx(float(plan.core_c(np.array([700.0]))[0]), abs=0.05)
        assert core.hot_s == pytest.approx(plan.heat_through_s(), abs=2)


def test_hot_through_moves_with_the_thermometer_and_falls_back_when_it_is_lost():
    cool = [(t, 91.0) for t in np.arange(0.0, 500.0, 5.0)]
    plain = core_now(BAR, in_s=0.0, now_s=500.0, readings=())
    live = core_now(BAR, in_s=0.0, now_s=500.0, readings=cool)
    assert live.hot_s > plain.hot_s + 120 and live.at_c < plain.at_c - 3
    lost = core_now(BAR, in_s=0.0, now_s=1200.0, readings=cool)  # silent for 700 s: from then on as planned
    assert lost.measured_to_s == 495.0
    assert plain.hot_s < lost.hot_s < live.hot_s
    exact = squares(BAR, lambda t: 91.0 if t < 495 + STALE_S else BAR.chamber_c, 1200)
    assert lost.at_c == pytest.approx(exact[1199], abs=0.6)


def test_a_chamber_below_the_goal_never_gets_it_there():
    core = core_now(BAR, in_s=0.0, now_s=600.0, readings=[(t, 80.0) for t in range(0, 601, 10)])
    assert core.hot_s is None


def test_readings_from_before_it_went_in_count_only_as_what_it_met():
    early = [(t, 20.0) for t in range(-4000, -40, 10)]
    assert core_now(BAR, in_s=0.0, now_s=300.0, readings=early) == core_now(BAR, in_s=0.0, now_s=300.0, readings=())
    met = core_now(BAR, in_s=0.0, now_s=300.0, readings=[(-8.0, 60.0), (12.0, 60.0), (290.0, 60.0)])
    assert met.measured_to_s == 290.0 and met.at_c < core_now(BAR, in_s=0.0, now_s=300.0, readings=()).at_c


def test_warmth_adds_up():
    """Half the rise of the chamber, half the rise from the middle, at every time."""
    times, steps = np.linspace(1, 3000, 50), np.array([0.0, 300.0, 900.0])
    full = core_c(BAR, HeatHistory(steps, np.array([95.0, 45.0, 98.0])), times) - BAR.start_c
    half = core_c(BAR, HeatHistory(steps, np.array([55.0, 30.0, 56.5])), times) - BAR.start_c
    assert half * 2 == pytest.approx(full, abs=1e-9)


def test_ranges_are_kept():
    with pytest.raises(PlanError):
        core_now(BAR, in_s=10.0, now_s=0.0, readings=())
    with pytest.raises(PlanError):
        core_c(BAR, HeatHistory(np.array([0.0]), np.array([float("nan")])), np.array([1.0]))
