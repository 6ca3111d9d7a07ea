"""An arc given by radius and angle."""

from __future__ import annotations

import math
from typing import ClassVar, Literal

from pydantic import Field

from ...common.document import Length
from ..arc import Arc
from ..curve import Curve
from .shape_base import (
    Ask,
    Grip,
    Radius,
    ShapeBase,
    Start,
    StartingCurve,
    at_end,
    at_middle,
    at_start,
)


def angle_there(shape: ArcByRadius, x_mm: float, y_mm: float) -> float:
    """The angle of an arc of the same radius whose end comes to lie in the direction of the hand."""
    arc = Arc(shape.radius_mm, math.radians(shape.angle_deg))
    return math.degrees(2 * math.atan2(abs(x_mm), y_mm - arc.rise_mm + arc.radius_mm))


class ArcByRadius(ShapeBase):
    """An arc given by its radius on one face and the angle it sweeps."""

    named: ClassVar[str] = "arc: radius and angle"
    asks: ClassVar[tuple[Ask, ...]] = (
        Ask("radius_mm", "Radius"),
        Ask("angle_deg", "Angle", "total angle of the bend"),
    )
    grips: ClassVar[tuple[Grip, ...]] = (
        Grip("radius_mm", at_middle, "Drag to change the radius"),
        Grip("angle_deg", at_start, "Drag to change the angle", angle_there),
        Grip("angle_deg", at_end, "Drag to change the angle", angle_there),
    )
    drag_text: ClassVar[str] = "Drag the high point or an end on the drawing to change it."

    kind: Literal["arc_by_radius"]
    radius_mm: Radius
    angle_deg: Length = Field(ge=1, le=340)

    def face_curve(self) -> Curve:
        return Arc(self.radius_mm, math.radians(self.angle_deg)).curve()

    @classmethod
    def started_from(cls, sized: StartingCurve) -> Start:
        return {"radius_mm": sized.radius_mm, "angle_deg": sized.angle_deg}
