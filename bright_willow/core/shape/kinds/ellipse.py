"""An ellipse, half or quarter."""

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


class Ellipse(ShapeBase):
    """Half an ellipse over its width, or a quarter from the crown down."""

    named: ClassVar[str] = "ellipse"
    asks: ClassVar[tuple[Ask, ...]] = (
        Ask("part_of", "Which part"),
        Ask("half_width_mm", "Half width"),
        Ask("height_mm", "Height"),
    )
    grips: ClassVar[tuple[Grip, ...]] = (
        Grip("height_mm", at_middle, "Drag to change the height"),
        Grip("half_width_mm", at_start, "Drag to change the width"),
        Grip("half_width_mm", at_end, "Drag to change the width"),
    )

    kind: Literal["ellipse"]
    part_of: Literal["half", "quarter"] = "half"
    half_width_mm: Length = Field(ge=10, le=20_000)
    height_mm: Length = Field(ge=10, le=20_000)

    def face_curve(self) -> Curve:
        a, b = self.half_width_mm, self.height_mm
        t = np.linspace(np.pi if self.part_of == "half" else np.pi / 2, 0, CELLS + 1)
        dense = np.linspace(t[0], t[-1], CELLS * 16 + 1)
        speed = np.hypot(a * np.sin(dense), b * np.cos(dense))
        step = abs(dense[1] - dense[0])
        along = np.concatenate(([0.0], np.cumsum((speed[1:] + speed[:-1]) / 2 * step)))[::16]
        headings = np.unwrap(np.arctan2(-b * np.cos(t), a * np.sin(t)))
        return from_headings(along, headings)

    @property
    def tight_field(self) -> str:
        return "shape.half_width_mm" if self.half_width_mm <= self.height_mm else "shape.height_mm"

    @classmethod
    def started_from(cls, sized: StartingCurve) -> Start:
        return {"part_of": "half"} | sized.shares(half_width_mm=0.5, height_mm=0.3)
