"""Whether a form holds its shape under the press."""

from __future__ import annotations

from dataclasses import dataclass

from ..common.errors import ENDLESS, check_range

# Stiffness in bending and weight of what forms are built of. Grade: allowance. Source: typical of the kind.
GOODS: dict[str, tuple[str, float, float]] = {
    "plywood": ("plywood", 6.0, 600.0),
    "mdf": ("MDF", 3.0, 740.0),
    "chipboard": ("chipboard", 2.3, 680.0),
    "solid": ("solid wood", 9.0, 520.0),
}
WATCH_MM = 0.3
STOP_MM = 1.5


@dataclass(frozen=True, slots=True)
class Deflection:
    """How far the weakest place gives under the press, what that place is, and its free span. Grade: allowance."""

    value_mm: float
    where: str
    span_mm: float


def beam_deflection_mm(
    *, pressure_mpa: float, width_mm: float, span_mm: float, depth_mm: float, modulus_gpa: float
) -> float:
    """Middle of a simply supported beam under even pressure on its whole width: 5 w L⁴ / (384 E I), I = b d³/12.

    The width falls out. Valid: all above 0. Raises: PlanError. Source: beam theory (physics on typical stiffness).

    >>> round(beam_deflection_mm(pressure_mpa=0.5, width_mm=60, span_mm=200, depth_mm=60, modulus_gpa=6), 4)
    0.0965
    """
    message = "A form under pressure has a depth and a span above zero."
    for value in (pressure_mpa, width_mm, span_mm, depth_mm, modulus_gpa):
        check_range("form.depth_mm", value, 0, ENDLESS, above=True, message=message)
    second_moment = width_mm * depth_mm**3 / 12
    return 5 * pressure_mpa * width_mm * span_mm**4 / (384 * modulus_gpa * 1000 * second_moment)


def span_for(*, deflection_mm: float, pressure_mpa: float, depth_mm: float, modulus_gpa: float) -> float:
    """The span over which so much is given: the inverse. Valid: all above 0. Raises: PlanError. Source: beam theory.

    >>> round(span_for(deflection_mm=0.0965, pressure_mpa=0.5, depth_mm=60, modulus_gpa=6))
    200
    """
    for value in (deflection_mm, pressure_mpa, depth_mm, modulus_gpa):
        check_range("form.skin_mm", value, 0, ENDLESS, above=True, message="A skin has a thickness above zero.")
    return float((deflection_mm * 384 * modulus_gpa * 1000 * depth_mm**3 / (12 * 5 * pressure_mpa)) ** 0.25)
