"""An arc given by chord and rise."""

from __future__ import annotations

import math
from typing import ClassVar, Literal

from pydantic import Field

from ...common.document import Length
from ...common.errors import PlanError
from ..arc import Arc
from ..curve import Curve
from .shape_base import (
    Ask,
    Grip,
    ShapeBase,
    Start,
    StartingCurve,
    at_end,
    at_middle,
    at_start,
)


class ArcByChord(ShapeBase):
    """An arc given by chord and rise, both measured on one face."""

    named: ClassVar[str] = "arc: chord and rise"
    asks: ClassVar[tuple[Ask, ...]] = (
        Ask("chord_mm", "Chord", "straight line from end to end"),
        Ask("rise_mm", "Rise", "bow height, chord to high point"),
    )
    grips: ClassVar[tuple[Grip, ...]] = (
        Grip("rise_mm", at_middle, "Drag to change the rise", lambda shape, x, y: y),
        Grip("chord_mm", at_start, "Drag to change the chord", lambda shape, x, y: 2 * abs(x)),
        Grip("chord_mm", at_end, "Drag to change the chord", lambda shape, x, y: 2 * abs(x)),
    )
    drag_text: ClassVar[str] = "Drag the high point or an end on the drawing to change it."

    kind: Literal["arc_by_chord"]
    chord_mm: Length = Field(ge=10, le=50_000)
    rise_mm: Length = Field(ge=1, le=25_000)

    def face_curve(self) -> Curve:
        arc = Arc.from_chord_and_rise(chord_mm=self.chord_mm, rise_mm=self.rise_mm)
        if math.degrees(arc.angle_rad) > 340:
            raise PlanError(
                "shape.chord_mm",
                "This chord is too short for the rise: the ends would meet.",
                hint="Lengthen the chord or lower the rise.",
            )
        if math.degrees(arc.angle_rad) < 1:
            raise PlanError("shape.rise_mm", "This rise is too small for the chord: it bends less than 1°.")
        return arc.curve()

    @property
    def tight_field(self) -> str:
        return "shape.rise_mm"

    @classmethod
    def started_from(cls, sized: StartingCurve) -> Start:
        chord, rise = sized.curve.chord_and_rise_mm() if sized.is_arc else (sized.size, sized.rise_mm)
        return {"chord_mm": chord, "rise_mm": rise}
