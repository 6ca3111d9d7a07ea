"""A closed ring."""

from __future__ import annotations

import math
from typing import ClassVar, Literal

from pydantic import Field

from ...common.document import Length
from ..curve import Curve
from .shape_base import (
    Ask,
    Grip,
    ShapeBase,
    Start,
    StartingCurve,
    at_start,
)


class Ring(ShapeBase):
    """A closed ring: each layer runs once around and meets itself in a joint; its diameter on the stated face."""

    named: ClassVar[str] = "closed ring"
    asks: ClassVar[tuple[Ask, ...]] = (Ask("diameter_mm", "Diameter"),)
    grips: ClassVar[tuple[Grip, ...]] = (Grip("diameter_mm", at_start, "Drag to change the diameter"),)

    kind: Literal["ring"]
    diameter_mm: Length = Field(ge=10, le=20_000)

    def face_curve(self) -> Curve:
        return Curve.of([math.pi * self.diameter_mm], [2 / self.diameter_mm])

    @property
    def is_closed(self) -> bool:
        return True

    @property
    def tight_field(self) -> str:
        return "shape.diameter_mm"

    @classmethod
    def started_from(cls, sized: StartingCurve) -> Start:
        return dict(sized.shares(diameter_mm=0.5))
