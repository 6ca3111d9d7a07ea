"""A parabola."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from ...common.document import Length
from ..curve import Curve
from .shape_base import (
    CELLS,
    Ask,
    Grip,
    ShapeBase,
    Start,
    StartingCurve,
    at_end,
    at_middle,
    at_start,
    from_headings,
)


class Parabola(ShapeBase):
    """A parabola by chord and rise: tightest at the crown, flattening towards the ends."""

    named: ClassVar[str] = "parabola"
    asks: ClassVar[tuple[Ask, ...]] = (
        Ask("chord_mm", "Chord"),
        Ask("rise_mm", "Rise"),
    )
    grips: ClassVar[tuple[Grip, ...]] = (
        Grip("rise_mm", at_middle, "Drag to change the rise", lambda shape, x, y: y),
        Grip("chord_mm", at_start, "Drag to change the chord", lambda shape, x, y: 2 * abs(x)),
        Grip("chord_mm", at_end, "Drag to change the chord", lambda shape, x, y: 2 * abs(x)),
    )

    kind: Literal["parabola"]
    chord_mm: Length = Field(ge=10, le=50_000)
    rise_mm: Length = Field(ge=1, le=25_000)

    def face_curve(self) -> Curve:
        x = np.linspace(-0.5, 0.5, CELLS + 1) * self.chord_mm
        slope = -8 * self.rise_mm * x / self.chord_mm**2
        root = np.sqrt(1 + slope**2)
        # arc length of a parabola from its crown: (m√(1+m²) + asinh m) / (2 · dm/dx)
        along = (slope * root + np.arcsinh(slope)) / (-16 * self.rise_mm / self.chord_mm**2)
        return from_headings(along, np.arctan(slope))

    @property
    def tight_field(self) -> str:
        return "shape.rise_mm"

    @classmethod
    def started_from(cls, sized: StartingCurve) -> Start:
        return {"chord_mm": sized.size, "rise_mm": sized.rise_mm}
