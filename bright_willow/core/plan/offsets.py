"""The offsets of a form: heights of its face over the base line, at stations a rule finds at once."""

from __future__ import annotations

from dataclasses import dataclass

from ..common.units import MM_PER_INCH
from ..form.face import FormFace
from ..shop.shop import Shop

MOST_STATIONS = 30
STEPS_MM = (5.0, 10.0, 20.0, 25.0, 50.0, 100.0, 200.0, 500.0, 1000.0)
STEPS_IN = (0.25, 0.5, 1.0, 2.0, 4.0, 6.0, 12.0, 24.0, 48.0)


@dataclass(frozen=True, slots=True)
class Offset:
    """One station along the base line from the middle, and the height of the face above the base line there, mm."""

    station_mm: float
    height_mm: float


def offsets_of(face: FormFace, *, span_mm: float, shop: Shop) -> tuple[Offset, ...]:
    """Return the heights of a face at stations a round distance of the shop's unit apart, about thirty at most.

    span_mm: how far the face reaches along its base line, above 0. Raises: PlanError. Source: geometry.
    """
    steps = tuple(s * MM_PER_INCH for s in STEPS_IN) if shop.units == "in" else STEPS_MM
    step = next((s for s in steps if span_mm / s <= MOST_STATIONS), steps[-1])
    return tuple(Offset(x, y) for x, y in face.offsets(step))
