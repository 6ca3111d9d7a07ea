"""A curve with what a maker would check on it, each figure worked out when it is first asked for."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property

from .curve import Curve


@dataclass(frozen=True, eq=False)
class CurveFigures:
    """A curve and its length, sweep, chord, rise and least radius. Lengths mm, angles degrees.

    least_radius_mm: none where nothing is bent. Source: geometry.
    """

    of: Curve

    @cached_property
    def curve(self) -> Curve:
        """The curve with neighbouring cells of equal curvature joined."""
        return self.of.merged()

    @cached_property
    def length_mm(self) -> float:
        return self.curve.length_mm

    @cached_property
    def sweep_deg(self) -> float:
        """Turn from end to end, degrees, positive outwards."""
        return math.degrees(self.curve.sweep_rad)

    @cached_property
    def _chord_and_rise(self) -> tuple[float, float]:
        return self.curve.chord_and_rise_mm()

    @property
    def chord_mm(self) -> float:
        """Straight distance from end to end, mm."""
        return self._chord_and_rise[0]

    @property
    def rise_mm(self) -> float:
        return self._chord_and_rise[1]

    @cached_property
    def least_radius_mm(self) -> float | None:
        """The tightest radius, mm; none for a straight."""
        tightest = self.curve.tightest_curvature
        return 1 / tightest if tightest > 1e-9 else None
