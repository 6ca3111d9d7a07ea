"""An arc through three points."""

from __future__ import annotations

import math
from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from ...common.arrays import Array
from ...common.document import Length
from ...common.errors import PlanError
from ..arc import Arc
from ..curve import Curve
from .point_editing import moved_onto, shifted
from .shape_base import (
    Ask,
    Handle,
    LaidFace,
    ShapeBase,
    Start,
    StartingCurve,
)


class ArcByPoints(ShapeBase):
    """An arc through three points: one end, a point between, the other end."""

    named: ClassVar[str] = "arc: three points"
    asks: ClassVar[tuple[Ask, ...]] = (
        Ask("x1_mm", "One end, across"),
        Ask("y1_mm", "One end, up"),
        Ask("x2_mm", "Between, across"),
        Ask("y2_mm", "Between, up"),
        Ask("x3_mm", "Other end, across"),
        Ask("y3_mm", "Other end, up"),
    )

    kind: Literal["arc_by_points"]
    x1_mm: Length = Field(ge=-50_000, le=50_000)
    y1_mm: Length = Field(ge=-50_000, le=50_000)
    x2_mm: Length = Field(ge=-50_000, le=50_000)
    y2_mm: Length = Field(ge=-50_000, le=50_000)
    x3_mm: Length = Field(ge=-50_000, le=50_000)
    y3_mm: Length = Field(ge=-50_000, le=50_000)

    def face_curve(self) -> Curve:
        a, b, c = (complex(self.x1_mm, self.y1_mm), complex(self.x2_mm, self.y2_mm), complex(self.x3_mm, self.y3_mm))
        if min(abs(a - b), abs(b - c), abs(c - a)) < 1:
            raise PlanError("shape.x2_mm", "The three points must be apart from each other.")
        # the angle at the middle point stands on the arc that is left out: turn = 2 (180° − angle)
        inside = abs(
            math.remainder(math.atan2((a - b).imag, (a - b).real) - math.atan2((c - b).imag, (c - b).real), math.tau)
        )
        turn = 2 * (math.pi - inside)
        if not math.radians(1) <= turn <= math.radians(340):
            raise PlanError("shape.x2_mm", "These three points are almost in a line; there is no arc to bend.")
        return Arc(abs(c - a) / 2 / math.sin(turn / 2), turn).curve()

    @property
    def tight_field(self) -> str:
        return "shape.x2_mm"

    @classmethod
    def started_from(cls, sized: StartingCurve) -> Start:
        points = sized.points(13)
        figures = [v for point in (points[0], points[6], points[-1]) for v in point]
        return dict(zip(("x1_mm", "y1_mm", "x2_mm", "y2_mm", "x3_mm", "y3_mm"), figures, strict=True))

    @property
    def _own(self) -> Array:
        return np.array([[self.x1_mm, self.y1_mm], [self.x2_mm, self.y2_mm], [self.x3_mm, self.y3_mm]])

    def _laid(self, laid: LaidFace) -> Array:
        """The three points where they lie on the drawing."""
        own = self._own
        return moved_onto(own, own[[0, 2]], laid.at(np.array([0.0, laid.curve.length_mm])), own[1])

    def handles(self, laid: LaidFace) -> tuple[Handle, ...]:
        names = ("One end", "The point between", "The other end")
        return tuple(
            Handle(f"point-{i}", float(x), float(y), f"{name}: drag it")
            for i, ((x, y), name) in enumerate(zip(self._laid(laid), names, strict=True))
        )

    def with_point(self, number: int, hand: Array, step: float, laid: LaidFace) -> Start:
        """What a point pulled to the hand changes. Raises: IndexError for a point there is not."""
        x, y = shifted(self._own, self._laid(laid), hand, range(3)[number], step)
        return {f"x{number + 1}_mm": x, f"y{number + 1}_mm": y}
