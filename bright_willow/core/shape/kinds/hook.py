"""A hook: straight, arc, straight."""

from __future__ import annotations

from typing import ClassVar, Literal

from pydantic import Field

from ...common.document import Length
from ..curve import Curve
from .shape_base import (
    Ask,
    Grip,
    Radius,
    ShapeBase,
    Start,
    StartingCurve,
    Straight,
    after,
    arc_cell,
    at_end,
    at_joint,
    at_start,
    chain_of,
)


class Hook(ShapeBase):
    """A straight, an arc, a straight."""

    named: ClassVar[str] = "hook: straight, arc, straight"
    asks: ClassVar[tuple[Ask, ...]] = (
        Ask("start_mm", "Straight before"),
        Ask("radius_mm", "Radius"),
        Ask("angle_deg", "Angle"),
        Ask("end_mm", "Straight after"),
    )
    grips: ClassVar[tuple[Grip, ...]] = (
        Grip("start_mm", at_start, "Drag to change the straight before"),
        Grip("radius_mm", at_joint(after("start_mm"), 0.5), "Drag to change the radius"),
        Grip("angle_deg", at_joint(after("start_mm"), 1.0), "Drag to change the angle"),
        Grip("end_mm", at_end, "Drag to change the straight after"),
    )

    kind: Literal["hook"]
    start_mm: Straight
    radius_mm: Radius
    angle_deg: Length = Field(ge=1, le=300)
    end_mm: Straight

    def face_curve(self) -> Curve:
        return chain_of((self.start_mm, 0.0), arc_cell(self.radius_mm, self.angle_deg), (self.end_mm, 0.0))

    @classmethod
    def started_from(cls, sized: StartingCurve) -> Start:
        return sized.shares(start_mm=0.4, radius_mm=0.25, end_mm=0.12) | {"angle_deg": 120.0}
