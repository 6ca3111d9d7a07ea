"""How warm the middle of a bar is, from what the thermometer in its chamber really showed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..common.arrays import Array
from ..common.errors import ENDLESS, check_range
from ..common.operation import Warming
from ..heat.conduction import slab_share

STEPS = 90  # into which a history is gathered
STALE_S = 30.0  # a reading older than this is not live. Grade: allowance.
LOOK_AHEAD_S = 24 * 3600.0
NEAR_S = 1.0


@dataclass(frozen=True, slots=True)
class CoreTemperature:
    """The middle of a bar at a time. at_c: its warmth; hot_s: when it is hot through, None where it never is at this
    heat; measured_to_s: until when that rests on readings; None where on the plan alone. Grade: physics."""

    at_c: float
    hot_s: float | None
    measured_to_s: float | None


@dataclass(frozen=True, slots=True)
class HeatHistory:
    """What a bar was in, step by step: (n,) times its steps begin, s, and °C in each."""

    from_s: Array
    chamber_c: Array


def core_c(bar: Warming, heat: HeatHistory, at_s: Array) -> Array:
    """(n,) °C of the middle at times: every step of the chamber's warmth acts from when it came, Σ ΔT (1 − share(t)).

    Exact for a chamber that changes in steps, for conduction adds up. Valid: steps in order of time, °C −60 to 250.
    Raises: PlanError. Source: superposition (Duhamel) over the series of docs/model.md#steam. Grade: physics.

    >>> bar = Warming(25.0, 50.0, 1.5e-7, 20.0, 100.0, 90.0)
    >>> heat = HeatHistory(np.array([0.0, 600.0]), np.array([100.0, 20.0]))
    >>> core_c(bar, heat, np.array([600.0, 6000.0])).round(1)
    array([78.5, 20. ])
    """
    check_range("heat.chamber_c", float(np.min(heat.chamber_c)), -60, 250, "°C")
    check_range("heat.chamber_c", float(np.max(heat.chamber_c)), -60, 250, "°C")
    check_range("heat.own_min", float(np.abs(at_s).max()), 0, ENDLESS, "s")
    since = np.asarray(at_s, dtype=float)[:, None] - heat.from_s[None, :]
    left = np.ones_like(since)
    begun = since > 0
    for size in (bar.thickness_mm, bar.width_mm) if begun.any() else ():
        left[begun] *= slab_share(since[begun], thickness_mm=size, diffusivity=bar.diffusivity_m2_s)
    steps = np.diff(heat.chamber_c, prepend=bar.start_c)
    return np.asarray(bar.start_c + ((1 - left) * steps).sum(axis=1))


def core_now(bar: Warming, *, in_s: float, now_s: float, readings: Sequence[tuple[float, float]]) -> CoreTemperature:
    """A bar that went in at a time: how warm now, and hot through when, if the chamber stays as it is.

    readings: time and °C of the thermometer, in order; those from before it went in are passed over but for the last.
    Where they end too long ago, and before the first, the chamber is taken as planned. Valid: now not before in_s.
    Raises: PlanError. Grade: physics, of measured warmth or the planned.

    >>> bar = Warming(25.0, 50.0, 1.5e-7, 20.0, 100.0, 90.0)
    >>> plain = core_now(bar, in_s=0.0, now_s=600.0, readings=())
    >>> cooler = core_now(bar, in_s=0.0, now_s=600.0, readings=[(t, 94.0) for t in range(0, 601, 10)])
    >>> round(plain.hot_s), round(cooler.hot_s), cooler.measured_to_s
    (864, 1148, 600.0)
    """
    check_range("heat.own_min", now_s - in_s, 0, ENDLESS, "s")
    heat, measured = _heat(bar, in_s, now_s, readings)
    at = float(core_c(bar, heat, np.array([now_s]))[0])
    return CoreTemperature(at, _hot_s(bar, heat, in_s, now_s), measured)


def _heat(
    bar: Warming, in_s: float, now_s: float, readings: Sequence[tuple[float, float]]
) -> tuple[HeatHistory, float | None]:
    """The chamber step by step, and until when it was measured."""
    times = np.array([r[0] for r in readings], dtype=float)
    shown = np.array([r[1] for r in readings], dtype=float)
    first = max(0, int(np.searchsorted(times, in_s, "right")) - 1)
    times, shown = times[first:], shown[first:]
    own = (times >= in_s - STALE_S) & (times <= now_s)
    times, shown = times[own], shown[own]
    if not times.size:
        return HeatHistory(np.array([in_s]), np.array([bar.chamber_c])), None
    times = np.maximum(times, in_s)
    step = max(1.0, (now_s - in_s) / STEPS)
    which = ((times - in_s) / step).astype(int)
    bins, at = np.unique(which, return_index=True)
    mean = np.add.reduceat(shown, at) / np.diff(at, append=times.size)
    begins = in_s + bins * step
    begins[0] = times[0]
    # a reading stands until the next, but no longer than it is fresh: then the plan stands in for it
    last = np.maximum.reduceat(times, at)
    rows: list[tuple[float, float]] = [(in_s, bar.chamber_c)] if times[0] > in_s + STALE_S else []
    if not rows:
        begins[0] = in_s
    for n, (begin, c) in enumerate(zip(begins, mean, strict=True)):
        rows.append((float(begin), float(c)))
        follows = begins[n + 1] if n + 1 < begins.size else now_s
        if follows > last[n] + STALE_S + step:
            rows.append((float(last[n] + STALE_S), bar.chamber_c))
    made = np.array(rows)
    return HeatHistory(made[:, 0], made[:, 1]), float(times[-1])


def _hot_s(bar: Warming, heat: HeatHistory, in_s: float, now_s: float) -> float | None:
    """When the middle first reaches its goal, the chamber staying as it was last; to the second."""
    looked = np.unique(np.concatenate((np.linspace(in_s, now_s, 40), now_s + np.geomspace(1.0, LOOK_AHEAD_S, 40))))
    hot = np.flatnonzero(core_c(bar, heat, looked) >= bar.goal_c)
    if not hot.size:
        return None
    if hot[0] == 0:
        return float(looked[0])
    low, high = float(looked[hot[0] - 1]), float(looked[hot[0]])
    while high - low > NEAR_S:
        between = np.linspace(low, high, 17)
        first = int(np.flatnonzero(core_c(bar, heat, between) >= bar.goal_c)[0])
        low, high = float(between[max(0, first - 1)]), float(between[first])
    return high
