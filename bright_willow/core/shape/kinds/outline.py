"""A curve through measured or imported points."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from ...common.arrays import Array
from ...common.document import Length
from ..curve import Curve
from .point_editing import moved_onto, shifted
from .shape_base import (
    Ask,
    Handle,
    LaidFace,
    Point,
    ShapeBase,
    Start,
    StartingCurve,
)

MOST_POINTS = 60  # that still can be taken hold of one by one


class Outline(ShapeBase):
    """A curve through measured or imported points; slack_mm: how far off one of them may be.

    It is laid so that it bulges outwards on the whole; `turned_over` bends it the other way, `from_other_end` starts at
    its last point (seen in a mirror: the left end becomes the right).
    """

    named: ClassVar[str] = "measured or imported points"
    asks: ClassVar[tuple[Ask, ...]] = (
        Ask("points_mm", "Points, one a line: across, up", "typed, or pasted from a spreadsheet"),
        Ask("slack_mm", "Measuring error", "of a point; a larger error smooths the curve more"),
        Ask("from_other_end", "Start at the other end", "swaps left and right"),
        Ask("turned_over", "Bend the other way", "if it bulges the wrong way"),
    )

    kind: Literal["outline"]
    points_mm: tuple[Point, ...] = Field(min_length=3, max_length=20_000, strict=False)
    slack_mm: Length = Field(default=0.5, ge=0, le=100)
    source: str = Field(default="typed", max_length=200)
    turned_over: bool = False
    from_other_end: bool = False

    def face_curve(self) -> Curve:
        from ..smooth_curve import fitted

        fit = fitted(self.points_mm, self.slack_mm).curve
        k = -fit.curvature if self.turned_over else fit.curvature
        return Curve(fit.lengths_mm[::-1], k[::-1]) if self.from_other_end else Curve(fit.lengths_mm, k)

    @property
    def tight_field(self) -> str:
        return "shape.slack_mm"

    @property
    def doubtful_mm(self) -> tuple[float, float] | None:
        from ..smooth_curve import fitted

        fit = fitted(self.points_mm, self.slack_mm)
        return None if fit.tells else fit.radius_mm

    @classmethod
    def started_from(cls, sized: StartingCurve) -> Start:
        return {"points_mm": sized.points(13), "slack_mm": 0.2, "source": "typed"}

    def own_points(self, laid: LaidFace) -> Array:
        """(n, 2) its points where they lie on the drawing."""
        from ..smooth_curve import fitted

        fit = fitted(self.points_mm, self.slack_mm)
        placed, curve = fit.placed_mm, fit.curve
        flip = np.array([-1.0 if self.from_other_end else 1.0, -1.0 if self.turned_over else 1.0])
        if self.turned_over:  # bending the other way, it runs from the same end and lies upside down
            placed = placed * np.array([1.0, -1.0])
        if self.from_other_end:
            placed = placed * np.array([-1.0, 1.0])
        ends = curve.points_mm[[0, -1]] * flip
        ends = ends[::-1] if self.from_other_end else ends
        return moved_onto(placed, ends, laid.at(np.array([0.0, laid.curve.length_mm])))

    def handles(self, laid: LaidFace) -> tuple[Handle, ...]:
        if len(self.points_mm) > MOST_POINTS:
            return ()
        return tuple(
            Handle(f"point-{i}", float(x), float(y), f"Point {i + 1}: drag it")
            for i, (x, y) in enumerate(self.own_points(laid))
        )

    def with_point(self, number: int, hand: Array, step: float, laid: LaidFace) -> Start:
        """What a point pulled to the hand changes. Raises: IndexError for a point there is not."""
        own = np.array(self.points_mm)
        points = [tuple(map(float, p)) for p in own]
        points[number] = shifted(own, self.own_points(laid), hand, range(len(own))[number], step)
        return {"points_mm": tuple(points)}
