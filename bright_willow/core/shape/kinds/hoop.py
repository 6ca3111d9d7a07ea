"""An open hoop."""

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
    ShapeBase,
    Start,
    StartingCurve,
    at_end,
    at_middle,
)


class Hoop(ShapeBase):
    """A ring that stays open: its diameter on the stated face, and the gap between its ends along that face."""

    named: ClassVar[str] = "open hoop"
    asks: ClassVar[tuple[Ask, ...]] = (
        Ask("diameter_mm", "Diameter"),
        Ask("gap_mm", "Gap", "between the ends, along the face"),
    )
    grips: ClassVar[tuple[Grip, ...]] = (
        Grip("diameter_mm", at_middle, "Drag to change the diameter"),
        Grip("gap_mm", at_end, "Drag to change the gap"),
    )

    kind: Literal["hoop"]
    diameter_mm: Length = Field(ge=10, le=20_000)
    gap_mm: Length = Field(ge=1, le=20_000)

    def face_curve(self) -> Curve:
        around = math.pi * self.diameter_mm
        if not 0.02 * around <= self.gap_mm <= 0.9 * around:
            raise PlanError(
                "shape.gap_mm",
                "A gap from {least} to {most} can be planned for this hoop.",
                lengths_mm={"least": 0.02 * around, "most": 0.9 * around},
            )
        return Curve.of([around - self.gap_mm], [2 / self.diameter_mm])

    @property
    def tight_field(self) -> str:
        return "shape.diameter_mm"

    @classmethod
    def started_from(cls, sized: StartingCurve) -> Start:
        return dict(sized.shares(diameter_mm=0.5, gap_mm=0.1))
