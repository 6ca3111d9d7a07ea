"""The circular arc, however the maker states it, and which face the statement is about."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from ..common.errors import check_range
from .curve import Curve

LARGEST_MM = 1e6
Face = Literal["inner", "mid", "outer"]
FACES: dict[str, str] = {"inner": "inside (concave)", "mid": "centerline", "outer": "outside (convex)"}

SIDES: dict[str, str] = {"inner": "inside", "outer": "outside"}  # of a part, without saying which is concave


def face_offset_mm(face: Face, thickness_mm: float) -> float:
    """How far a face lies outwards of the mid-line; inwards is negative.

    >>> face_offset_mm("inner", 40.0)
    -20.0
    """
    return {"inner": -0.5, "mid": 0.0, "outer": 0.5}[face] * thickness_mm


@dataclass(frozen=True, slots=True)
class Arc:
    """A circular arc by radius (mm) and angle (radians, 0 … 2π)."""

    radius_mm: float
    angle_rad: float

    @classmethod
    def from_chord_and_rise(cls, *, chord_mm: float, rise_mm: float) -> Arc:
        """R = c²/8h + h/2; angle = 4·atan(2h/c). Past a half circle the rise exceeds half the chord.

        Raises: PlanError unless both are above zero. Source: geometry.

        >>> Arc.from_chord_and_rise(chord_mm=1800.0, rise_mm=500.0).radius_mm
        1060.0
        """
        for field, value in (("shape.chord_mm", chord_mm), ("shape.rise_mm", rise_mm)):
            message = "An arc needs a chord and a rise above zero."
            check_range(field, value, 0, LARGEST_MM, "mm", above=True, message=message)
        radius = chord_mm**2 / (8 * rise_mm) + rise_mm / 2
        return cls(radius, 4 * math.atan2(2 * rise_mm, chord_mm))

    @property
    def chord_mm(self) -> float:
        """2 R sin(angle / 2), mm."""
        return 2 * self.radius_mm * math.sin(self.angle_rad / 2)

    @property
    def rise_mm(self) -> float:
        return self.radius_mm * (1 - math.cos(self.angle_rad / 2))

    @property
    def length_mm(self) -> float:
        return self.radius_mm * self.angle_rad

    def curve(self) -> Curve:
        return Curve.of([self.length_mm], [1 / self.radius_mm])


def curvature_from_chord_and_rise(*, chord_mm: float, rise_mm: float) -> float:
    """κ = 8h / (c² + 4h²), 1/mm. Valid: chord > 0, rise ≥ 0. Raises: PlanError. Source: geometry.

    >>> round(1 / curvature_from_chord_and_rise(chord_mm=1800.0, rise_mm=500.0), 6)
    1060.0
    """
    message = "A chord above zero and a rise of zero or more are needed."
    check_range("rise_mm", chord_mm, 0, LARGEST_MM, "mm", above=True, message=message)
    check_range("rise_mm", rise_mm, 0, LARGEST_MM, "mm", message=message)
    return 8 * rise_mm / (chord_mm**2 + 4 * rise_mm**2)


def curvature_error(*, chord_mm: float, rise_mm: float, error_mm: float) -> float:
    """Standard error of that curvature, 1/mm, when chord and rise each carry ±error_mm (one standard deviation).

    First order: dκ/dh = 8(c² − 4h²)/(c² + 4h²)², dκ/dc = −16hc/(c² + 4h²)². Valid: chord above 0, rise and error 0 or
    more. Raises: PlanError. Source: propagation of error.

    >>> round(curvature_error(chord_mm=1000.0, rise_mm=100.0, error_mm=0.5) * 1e6, 2)
    3.63
    """
    check_range("chord_mm", chord_mm, 0, LARGEST_MM, "mm", above=True)
    check_range("rise_mm", rise_mm, 0, LARGEST_MM, "mm")
    check_range("measuring_error_mm", error_mm, 0, LARGEST_MM, "mm")
    square = (chord_mm**2 + 4 * rise_mm**2) ** 2
    by_rise = 8 * (chord_mm**2 - 4 * rise_mm**2) / square
    by_chord = -16 * rise_mm * chord_mm / square
    return error_mm * math.hypot(by_rise, by_chord)
