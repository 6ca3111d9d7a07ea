"""An arc given by radius and length."""

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
    Radius,
    ShapeBase,
    Start,
    StartingCurve,
    at_end,
    at_middle,
)


class ArcByLength(ShapeBase):
    """An arc given by its radius and the length along the same face."""

    named: ClassVar[str] = "arc: radius and length"
    asks: ClassVar[tuple[Ask, ...]] = (
        Ask("radius_mm", "Radius"),
        Ask("length_mm", "Length", "along the arc"),
    )
    grips: ClassVar[tuple[Grip, ...]] = (
        Grip("radius_mm", at_middle, "Drag to change the radius"),
        Grip("length_mm", at_end, "Drag to change the length"),
    )

    kind: Literal["arc_by_length"]
    radius_mm: Radius
    length_mm: Length = Field(ge=5, le=50_000)

    def face_curve(self) -> Curve:
        turn = math.degrees(self.length_mm / self.radius_mm)
        if not 1 <= turn <= 340:
            raise PlanError(
                "shape.length_mm",
                f"This length and radius give a bend angle of {turn:.0f}°; 1° to 340° can be planned.",
            )
        return Arc(self.radius_mm, self.length_mm / self.radius_mm).curve()

    @classmethod
    def started_from(cls, sized: StartingCurve) -> Start:
        return {"radius_mm": sized.radius_mm, "length_mm": sized.length_mm}
