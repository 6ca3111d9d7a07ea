"""A smooth curve through points that were measured, typed or imported."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from ..common.arrays import Array
from ..common.errors import ENDLESS, PlanError, check_range
from .curve import Curve
from .smoothest_strip import Z_80, Strip, strip_through

CELLS = 240
MOST_APART = 1.35  # of the ends of the radius' band, beyond which the points do not tell it
MOST_POINTS = 1_200  # more are averaged in bins along the curve before the fit


@dataclass(frozen=True, eq=False)
class SmoothFit:
    """A fitted curve, how far it leaves the points at most and where (mm from the start; which point), and the points
    placed on it.

    placed_mm: (n, 2), the points as given, turned and moved so that they lie on `curve.points_mm`. error_mm: of one
    point, as found, or as stated where they are too few to say. radius_mm: the band of the tightest radius, 8 in 10.
    """

    curve: Curve
    largest_mm: float
    at_mm: float
    worst_point: int
    placed_mm: Array
    error_mm: float
    radius_mm: tuple[float, float]

    @property
    def tells(self) -> bool:
        """Whether the points tell the tightest radius: within a third."""
        return self.radius_mm[1] <= MOST_APART * self.radius_mm[0]


@lru_cache(maxsize=16)
def fitted(points_mm: Sequence[tuple[float, float]], slack_mm: float) -> SmoothFit:
    """The strip through points measured to about `slack_mm` whose curvature changes least.

    Points in order along the curve. Valid: three or more, none twice running, no turning back on itself between
    neighbours. The curve bulges upwards: an outline that runs the other way is taken from its other end.
    Raises: PlanError. Source: docs/model.md#measured.

    >>> round(fitted(((0, 0), (50, 0), (100, 0), (150, 0)), 0.1).curve.length_mm, 3)
    150.0
    """
    check_range("shape.slack_mm", slack_mm, 0, ENDLESS, "mm")
    points = _checked(np.array(points_mm, dtype=float))
    strip = strip_through(_thinned(points), slack_mm)
    fine = np.linspace(0, strip.s[-1], CELLS * 8 + 1)
    x, y, headings = (np.interp(fine, strip.s, v) for v in (strip.x, strip.y, strip.headings))
    along = np.concatenate(([0.0], np.cumsum(np.hypot(np.diff(x), np.diff(y)))))
    even = np.linspace(0, along[-1], CELLS + 1)
    turned = np.interp(even, along, headings)
    lengths = np.diff(even)
    curvature = -np.diff(turned) / lengths
    off, place, worst = _largest(points, np.stack((x, y), axis=1), along)
    middle = np.array([np.interp(along[-1] / 2, along, x), np.interp(along[-1] / 2, along, y)])
    heading = float(np.interp(along[-1] / 2, along, headings))
    if turned[0] < turned[-1]:  # it bends to the left: taken from its other end it bulges outwards
        curvature, heading, place = -curvature[::-1], heading + np.pi, float(along[-1]) - place
    c, s = np.cos(heading), np.sin(heading)
    placed = (points - middle) @ np.array([[c, -s], [s, c]])
    return SmoothFit(Curve(lengths, curvature), off, place, worst, placed, strip.error_mm, _radius_band(strip))


def _radius_band(strip: Strip) -> tuple[float, float]:
    """Where the tightest radius lies eight times in ten; its upper end without limit where it may be straight."""
    low, high = (strip.tightest + z * strip.tightest_sd for z in (Z_80, -Z_80))
    return 1 / max(low, 1e-9), 1 / high if high > 1e-9 else math.inf


def _checked(points: Array) -> Array:
    if not np.isfinite(points).all():
        raise PlanError("shape.points_mm", "Every point needs two numbers.")
    steps = np.hypot(*np.diff(points, axis=0).T)
    if (steps < 1e-6).any():
        raise PlanError("shape.points_mm", f"Point {int(np.argmin(steps)) + 2} repeats the point before it.")
    if steps.sum() < 5:
        raise PlanError("shape.points_mm", "These points span less than 5 mm: check the unit.")
    along = np.diff(points, axis=0) / steps[:, None]
    back = (along[1:] * along[:-1]).sum(axis=1) < -0.5
    if back.any():
        raise PlanError(
            "shape.points_mm", f"The curve doubles back at point {int(np.argmax(back)) + 2}: check the order."
        )
    return points


def _thinned(points: Array) -> Array:
    """At most MOST_POINTS points: neighbours averaged, the ends kept."""
    if len(points) <= MOST_POINTS:
        return points
    bins = np.linspace(0, len(points), MOST_POINTS).astype(int)[:-1]
    counts = np.diff(np.append(bins, len(points)))[:, None]
    inner = np.add.reduceat(points, bins) / counts
    return np.vstack((points[:1], inner[1:-1], points[-1:]))


def _largest(points: Array, curve: Array, along: Array) -> tuple[float, float, int]:
    """The largest distance of a point from the fitted curve, where along it, and which point."""
    worst, place, which, seen = 0.0, 0.0, 0, 0
    step = max(1, len(points) // 2_000)
    for chunk in np.array_split(points[::step], max(1, len(points[::step]) // 200)):
        apart = np.hypot(chunk[:, None, 0] - curve[None, :, 0], chunk[:, None, 1] - curve[None, :, 1])
        nearest = apart.min(axis=1)
        if nearest.max() > worst:
            worst = float(nearest.max())
            place = float(along[int(apart[int(nearest.argmax())].argmin())])
            which = (seen + int(nearest.argmax())) * step
        seen += len(chunk)
    return worst, place, which
