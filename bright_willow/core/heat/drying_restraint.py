"""What holds a bent piece while it dries: a frame, a tie between its ends, a strip across, a disc in its bend."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..common.arrays import Array
from ..common.errors import ENDLESS, check_range
from ..common.units import Unit, format_length
from ..shape.curve import Curve

HeldBy = Literal["frame", "tie", "strip", "disc", "none"]
HELD_BY: dict[HeldBy, str] = {
    "frame": "a frame",
    "tie": "a tie",
    "strip": "a strip across",
    "disc": "a disc",
    "none": "nothing",
}
OVER_MM = 40.0  # that a strip stands beyond the ends it is tacked to. Grade: allowance.
STRAIGHT = 1e-6  # 1/mm: no bend a disc lies in


@dataclass(frozen=True, slots=True)
class DryingRestraint:
    """How the released shape is held. ends_mm: the ends of its inner face; opening_mm: between them; strip_mm:
    length of a strip tacked across; lean_deg: between that strip and the inner face at each end.

    disc: middle and radius of one that fills the inside of the tightest bend; none where nothing is bent.
    """

    by: HeldBy
    ends_mm: tuple[tuple[float, float], tuple[float, float]]
    opening_mm: float
    strip_mm: float
    lean_deg: tuple[float, float]
    disc: tuple[float, float, float] | None

    def message(self, unit: Unit) -> str:
        """What is made, with its figures."""
        if self.by == "none":
            return "Nothing holds it while it dries."
        apart, strip = (format_length(v, unit) for v in (self.opening_mm, self.strip_mm))
        if self.by == "tie":
            return f"Tie the ends {apart} apart between their inside faces. Twist a stick in the cord to adjust it."
        if self.by == "strip":
            return f"Tack a strip of {strip} across the extra length at both ends, {apart} between their inside faces."
        if self.by == "disc" and self.disc:
            return (
                f"Put a disc {format_length(2 * self.disc[2], unit)} across in the bend and tie the ends {apart} apart."
            )
        if self.by == "disc":
            return "There is no bend for a disc: use a frame or a strip."
        return f"A frame holds the ends {apart} apart between the inside faces, with stops on both sides of each."


def held(target: Curve, thickness_mm: float, by: HeldBy) -> DryingRestraint:
    """How a piece with this mid-line is held. Valid: thickness above 0. Raises: PlanError. Source: geometry.

    >>> bend = Curve.of([100.0, 100 * math.pi, 100.0], [0.0, 0.01, 0.0])
    >>> made = held(bend, 20.0, "disc")
    >>> round(made.opening_mm, 6), round(made.disc[2], 6)
    (180.0, 90.0)
    """
    check_range("part.thickness_mm", thickness_mm, 0, ENDLESS, "mm", above=True)
    k, half = target.curvature, thickness_mm / 2
    turns_right = float(k @ target.lengths_mm) >= 0  # the hollow side lies where it turns
    inward = -half if turns_right else half
    first, last = (target.points_mm[i] + _left(float(target.headings_rad[i])) * inward for i in (0, -1))
    across = last - first
    opening, angle = float(np.hypot(*across)), math.atan2(across[1], across[0])
    lean = [abs(math.degrees(math.remainder(float(target.headings_rad[i]) - angle, 2 * math.pi))) for i in (0, -1)]
    ends = ((float(first[0]), float(first[1])), (float(last[0]), float(last[1])))
    strip = opening + 2 * (thickness_mm + OVER_MM)
    return DryingRestraint(by, ends, opening, strip, (lean[0], lean[1]), _disc(target, half))


def _disc(target: Curve, half_mm: float) -> tuple[float, float, float] | None:
    """Middle and radius of a disc that fills the inside of the tightest bend; none where nothing is bent."""
    k = target.curvature
    at = int(np.argmax(np.abs(k)))
    if abs(k[at]) < STRAIGHT or 1 / abs(k[at]) <= half_mm:
        return None
    (foot,), (heading,) = target.at(np.array([target.stations_mm[at : at + 2].mean()]))
    x, y = foot - _left(float(heading)) / k[at]
    return float(x), float(y), float(1 / abs(k[at]) - half_mm)


def _left(heading: float) -> Array:
    """(2,) unit vector to the left of a heading."""
    return np.array([-math.sin(heading), math.cos(heading)])
