"""Whether a strip runs into itself."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from ..ground.arrays import Array
from ..ground.errors import ENDLESS, require
from .curve import Curve

STEPS = 160


def crossing_mm(mid: Curve, thickness_mm: float) -> tuple[float, float] | None:
    """The two stations (mm from the start) at which a strip meets itself, with the least of it between; or None.

    Two places of the mid-line nearer than the thickness, with more than a half turn of bend between them. A curve that
    turns no more than 180° in all cannot meet itself. Within about a hundred-and-sixtieth of the length.
    Valid: thickness 0 or more. Raises: OutOfRange. Source: geometry. Grade: physics.

    >>> crossing_mm(Curve.of([1000.0], [2 * math.pi / 1000]), 20.0) is not None
    True
    """
    require("part.thickness_mm", thickness_mm, 0, ENDLESS, "mm")
    turn = mid.turns_rad
    if float(turn.sum()) <= math.pi:
        return None
    stations = np.linspace(0, mid.length_mm, STEPS)
    points, _ = mid.at(stations)
    turned = np.interp(stations, mid.stations_mm, np.concatenate(([0.0], np.cumsum(turn))))
    apart = np.hypot(points[:, None, 0] - points[None, :, 0], points[:, None, 1] - points[None, :, 1])
    far = (turned[None, :] - turned[:, None]) > math.pi
    near = far & (apart < max(thickness_mm, 0.0))
    return _nearest(stations, near) if near.any() else _crossed(stations, points)


def _nearest(stations: Array, met: NDArray[np.bool_]) -> tuple[float, float]:
    """Of all pairs of places that meet, (n, n), those with the least of the strip between them."""
    between = np.where(met, stations[None, : met.shape[1]] - stations[: met.shape[0], None], np.inf)
    i, j = np.unravel_index(int(np.argmin(between)), met.shape)
    return float(stations[i]), float(stations[j])


def overlap_mm(mid: Curve, thickness_mm: float) -> float:
    """How far the two ends of a strip lie past one another where it meets itself; 0 where it does not.

    Valid: thickness 0 or more. Raises: OutOfRange. Source: geometry. Grade: physics.

    >>> turn = Curve.of([1000.0], [2.5 * math.pi / 1000])
    >>> 150 < overlap_mm(turn, 1.0) < 250
    True
    """
    met = crossing_mm(mid, thickness_mm)
    return 0.0 if met is None else met[0] + mid.length_mm - met[1]


def _crossed(stations: Array, points: Array) -> tuple[float, float] | None:
    """Two chords of the polygon that cross."""
    a, d = points[:-1], np.diff(points, axis=0)
    cross = d[:, None, 0] * d[None, :, 1] - d[:, None, 1] * d[None, :, 0]
    gap = a[None, :, :] - a[:, None, :]
    with np.errstate(divide="ignore", invalid="ignore"):
        t = (gap[..., 0] * d[None, :, 1] - gap[..., 1] * d[None, :, 0]) / cross
        u = (gap[..., 0] * d[:, None, 1] - gap[..., 1] * d[:, None, 0]) / cross
    hit = np.triu((t > 0) & (t < 1) & (u > 0) & (u < 1), 2)
    return _nearest(stations, hit) if hit.any() else None
