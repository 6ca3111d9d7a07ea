"""A U: legs, corners, flat."""

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

RIGHT = after("left_leg_mm", "arc", "flat_mm")  # cell of the right corner


class UBend(ShapeBase):
    """Leg, corner, flat, corner, leg. A lean above 0 turns a leg inwards past square."""

    named: ClassVar[str] = "U: legs, corners, flat"
    asks: ClassVar[tuple[Ask, ...]] = (
        Ask("left_leg_mm", "Left leg"),
        Ask("right_leg_mm", "Right leg"),
        Ask("left_radius_mm", "Left radius"),
        Ask("right_radius_mm", "Right radius"),
        Ask("left_lean_deg", "Left leg leans in", "0 is square"),
        Ask("right_lean_deg", "Right leg leans in", "0 is square"),
        Ask("flat_mm", "Flat between"),
    )
    grips: ClassVar[tuple[Grip, ...]] = (
        Grip("left_leg_mm", at_start, "Drag to change the left leg"),
        Grip("left_lean_deg", at_joint(after("left_leg_mm"), 0.0), "Drag to lean the left leg"),
        Grip("left_radius_mm", at_joint(after("left_leg_mm"), 0.5), "Drag to change the left radius"),
        Grip("flat_mm", at_joint(after("left_leg_mm", "arc"), 1.0), "Drag to change the flat"),
        Grip("right_radius_mm", at_joint(RIGHT, 0.5), "Drag to change the right radius"),
        Grip("right_lean_deg", at_joint(RIGHT, 1.0), "Drag to lean the right leg"),
        Grip("right_leg_mm", at_end, "Drag to change the right leg"),
    )

    kind: Literal["u"]
    left_leg_mm: Straight
    left_radius_mm: Radius
    left_lean_deg: Length = Field(default=0.0, ge=-80, le=60)
    flat_mm: Straight
    right_radius_mm: Radius
    right_lean_deg: Length = Field(default=0.0, ge=-80, le=60)
    right_leg_mm: Straight

    def face_curve(self) -> Curve:
        return chain_of(
            (self.left_leg_mm, 0.0),
            arc_cell(self.left_radius_mm, 90 + self.left_lean_deg),
            (self.flat_mm, 0.0),
            arc_cell(self.right_radius_mm, 90 + self.right_lean_deg),
            (self.right_leg_mm, 0.0),
        )

    @property
    def tight_field(self) -> str:
        return "shape.left_radius_mm" if self.left_radius_mm <= self.right_radius_mm else "shape.right_radius_mm"

    @classmethod
    def started_from(cls, sized: StartingCurve) -> Start:
        return sized.shares(left_leg_mm=0.5, left_radius_mm=0.2, flat_mm=0.4, right_radius_mm=0.2, right_leg_mm=0.5)
