"""An S: two opposed arcs."""

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

SECOND = after("start_mm", "arc", "straight_mm")  # cell of the second arc


class SBend(ShapeBase):
    """Two opposed arcs with a straight between, and straights at the ends."""

    named: ClassVar[str] = "S: two opposed arcs"
    asks: ClassVar[tuple[Ask, ...]] = (
        Ask("start_mm", "Straight before"),
        Ask("end_mm", "Straight after"),
        Ask("first_radius_mm", "First radius"),
        Ask("first_angle_deg", "First angle"),
        Ask("second_radius_mm", "Second radius"),
        Ask("second_angle_deg", "Second angle"),
        Ask("straight_mm", "Straight between"),
    )
    grips: ClassVar[tuple[Grip, ...]] = (
        Grip("start_mm", at_start, "Drag to change the straight before"),
        Grip("first_radius_mm", at_joint(after("start_mm"), 0.5), "Drag to change the first radius"),
        Grip("first_angle_deg", at_joint(after("start_mm"), 0.97), "Drag to change the first angle"),
        Grip("straight_mm", at_joint(SECOND, 0.0), "Drag to change the straight between"),
        Grip("second_radius_mm", at_joint(SECOND, 0.5), "Drag to change the second radius"),
        Grip("second_angle_deg", at_joint(SECOND, 0.97), "Drag to change the second angle"),
        Grip("end_mm", at_end, "Drag to change the straight after"),
    )

    kind: Literal["s"]
    start_mm: Straight = 0.0
    first_radius_mm: Radius
    first_angle_deg: Length = Field(ge=1, le=270)
    straight_mm: Straight = 0.0
    second_radius_mm: Radius
    second_angle_deg: Length = Field(ge=1, le=270)
    end_mm: Straight = 0.0

    def face_curve(self) -> Curve:
        length, curvature = arc_cell(self.second_radius_mm, self.second_angle_deg)
        return chain_of(
            (self.start_mm, 0.0),
            arc_cell(self.first_radius_mm, self.first_angle_deg),
            (self.straight_mm, 0.0),
            (length, -curvature),
            (self.end_mm, 0.0),
        )

    @property
    def tight_field(self) -> str:
        return "shape.first_radius_mm" if self.first_radius_mm <= self.second_radius_mm else "shape.second_radius_mm"

    @classmethod
    def started_from(cls, sized: StartingCurve) -> Start:
        shares = sized.shares(first_radius_mm=0.5, straight_mm=0.1, second_radius_mm=0.4)
        return shares | {"first_angle_deg": 60.0, "second_angle_deg": 60.0}
