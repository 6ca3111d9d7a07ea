"""An arc with transitions."""

from __future__ import annotations

import math
from typing import ClassVar, Literal

from pydantic import Field

from ...common.document import Length
from ...common.errors import PlanError
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
    at_end,
    at_joint,
    at_middle,
    chain_of,
    easing,
)


class EasedArc(ShapeBase):
    """An arc whose bend comes on gradually: straights, easings of even change, and the arc between."""

    named: ClassVar[str] = "arc with transitions"
    asks: ClassVar[tuple[Ask, ...]] = (
        Ask("radius_mm", "Radius"),
        Ask("angle_deg", "Angle", "transitions included"),
        Ask("easing_mm", "Transition, each"),
        Ask("straight_mm", "Straight, each"),
    )
    grips: ClassVar[tuple[Grip, ...]] = (
        Grip("radius_mm", at_middle, "Drag to change the radius"),
        Grip("easing_mm", at_joint(after("straight_mm"), 12.0), "Drag to change the transition"),
        Grip("angle_deg", at_joint(after("straight_mm"), 0.0), "Drag to change the angle"),
        Grip("straight_mm", at_end, "Drag to change the straight"),
    )

    kind: Literal["eased_arc"]
    straight_mm: Straight = 0.0
    easing_mm: Length = Field(ge=1, le=10_000)
    radius_mm: Radius
    angle_deg: Length = Field(ge=1, le=300, description="of the whole bend, transitions included")

    def face_curve(self) -> Curve:
        arc_turn = math.radians(self.angle_deg) - self.easing_mm / self.radius_mm
        if arc_turn < 0:
            raise PlanError(
                "shape.easing_mm",
                "The transitions alone use more than the whole bend angle; at most {most} each.",
                lengths_mm={"most": math.radians(self.angle_deg) * self.radius_mm},
            )
        up = easing(self.easing_mm, 0.0, 1 / self.radius_mm)
        down = [(length, k) for length, k in reversed(up)]
        middle = [(arc_turn * self.radius_mm, 1 / self.radius_mm)]
        return chain_of((self.straight_mm, 0.0), *up, *middle, *down, (self.straight_mm, 0.0))

    @classmethod
    def started_from(cls, sized: StartingCurve) -> Start:
        return sized.shares(easing_mm=0.2, radius_mm=0.5) | {"angle_deg": 90.0}
