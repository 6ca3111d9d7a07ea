"""Whether a strip runs into itself."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from ..common.arrays import Array
from ..common.errors import ENDLESS, check_range
from .curve import Curve

STEPS = 160


def crossing_mm(mid: Curve, thickness_mm: float) -> tuple[float, float] | None:
    """The two stations (mm from the start) at which a strip meets itself, with the least of it between; or None.

    Two places of the mid-line nearer than the thickness, with more than a half turn of bend between them. A curve that
    turns no more than 180° in all cannot meet itself. Within about a hundred-and-sixtieth of the length.
    Valid: thickness 0 or more. Raises: PlanError. Source: geometry. Grade: physics.

    >>> crossing_mm(Curve.of([1000.0], [2 * math.pi / 1000]), 20.0) is not None
    True
    """
    check_range("part.thickness_mm", thickness_mm, 0, ENDLESS, "mm")
    turn = mid.turns_rad
    if float(turn.sum()) <= math.pi:
        return None
    stations = np.linspace(0, mid.length_mm, STEPS)
    points, _ = mid.at(stations)
    turned = np.interp(stations, mid.stations_mm, np.concatenate(([0.0], np.cumsum(turn))))
    # Only places with a half turn between them can meet: the first of a pair lies early, the second late.
    early, late = int(np.searchsorted(turned, turned[-1] - math.pi)), int(np.searchsorted(turned, math.pi, "right"))
    late = max(late - 1, 0)  # of the chords, from the one that ends where the half turn is full
    apart = np.hypot(*(points[:early, None] - points[None, late:]).transpose(2, 0, 1))
    near = (turned[None, late:] - turned[:early, None] > math.pi) & (apart < thickness_mm)
    if near.any():
        return _nearest(stations[:early], stations[late:], near)
    if apart.min(initial=math.inf) > 2 * stations[1]:  # two chords that cross begin less than both their lengths apart
        return None
    return _crossed(stations, points, early, late)


def _nearest(first: Array, second: Array, met: NDArray[np.bool_]) -> tuple[float, float]:
    """Of all pairs of places that meet, (n, m), those with the least of the strip between them."""
    between = np.where(met, second[None, :] - first[:, None], np.inf)
    i, j = np.unravel_index(int(np.argmin(between)), met.shape)
    return float(first[i]), float(second[j])


def overlap_mm(mid: Curve, thickness_mm: float) -> float:
    """How far the two ends of a strip lie past one another where it meets itself; 0 where it does not.

    Valid: thickness 0 or more. Raises: PlanError. Source: geometry. Grade: physics.

    >>> turn = Curve.of([1000.0], [2.5 * math.pi / 1000])
    >>> 150 < overlap_mm(turn, 1.0) < 250
    True
    """
    met = crossing_mm(mid, thickness_mm)
    return 0.0 if met is None else met[0] + mid.length_mm - met[1]


def _crossed(stations: Array, points: Array, early: int, late: int) -> tuple[float, float] | None:
    """Two chords of the polygon that cross, one of the first `early` and one from `late` on."""
    a, d = points[:-1], np.diff(points, axis=0)
    first, second = slice(None, early), slice(late, None)
    (ax, ay), (bx, by) = d[first, None].transpose(2, 0, 1), d[None, second].transpose(2, 0, 1)
    gap_x, gap_y = (a[None, second] - a[first, None]).transpose(2, 0, 1)
    cross = ax * by - ay * bx
    with np.errstate(divide="ignore", invalid="ignore"):
        t = (gap_x * by - gap_y * bx) / cross
        u = (gap_x * ay - gap_y * ax) / cross
    hit = np.triu((t > 0) & (t < 1) & (u > 0) & (u < 1), 2 - late)
    return _nearest(stations[:-1][first], stations[:-1][second], hit) if hit.any() else None
