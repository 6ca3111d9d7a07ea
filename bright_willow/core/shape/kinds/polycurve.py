"""A custom: straights and arcs, each setting out where the one before ends."""

from __future__ import annotations

import math
from itertools import pairwise
from typing import Any, ClassVar, Literal

import numpy as np
from pydantic import Field

from ...common.arrays import Array
from ...common.document import Document, Length
from ...common.errors import PlanError
from ..curve import Curve
from .shape_base import (
    Handle,
    LaidFace,
    ShapeBase,
    Start,
    StartingCurve,
    arc_cell,
    chain_of,
    easing,
)

MOST_STRETCHES = 40


class Stretch(Document):
    """One stretch of a chain: straight (length), arc (radius, angle), or easing (length, from and to a radius).

    A negative angle bends the other way. An easing runs evenly from one curvature to another; no radius means straight,
    a negative radius bends the other way.
    """

    kind: Literal["straight", "arc", "easing"]
    length_mm: Length | None = Field(default=None, ge=0.5, le=20_000)
    radius_mm: Length | None = Field(default=None, ge=5, le=50_000)
    angle_deg: Length | None = Field(default=None, ge=-340, le=340)
    from_radius_mm: Length | None = Field(default=None, ge=-50_000, le=50_000)
    to_radius_mm: Length | None = Field(default=None, ge=-50_000, le=50_000)

    def cells(self, number: int) -> list[tuple[float, float]]:
        """(length, curvature) of its cells. Raises: PlanError with the field that is missing."""

        def need(value: float | None, name: str) -> float:
            """A figure this kind of stretch cannot do without. Raises: PlanError."""
            if value is None or (name in ("radius_mm", "length_mm") and value <= 0):
                raise PlanError(f"shape.stretches.{number}.{name}", f"This {self.kind} needs a {name.split('_')[0]}.")
            return value

        if self.kind == "straight":
            return [(need(self.length_mm, "length_mm"), 0.0)]
        if self.kind == "arc":
            angle = need(self.angle_deg, "angle_deg")
            if abs(angle) < 0.1:
                raise PlanError(f"shape.stretches.{number}.angle_deg", "An arc with almost no angle is a straight.")
            length, k = arc_cell(need(self.radius_mm, "radius_mm"), abs(angle))
            return [(length, math.copysign(k, angle))]
        ends = []
        for name, value in (("from_radius_mm", self.from_radius_mm), ("to_radius_mm", self.to_radius_mm)):
            if value is not None and abs(value) < 5:
                raise PlanError(f"shape.stretches.{number}.{name}", "At least 5 mm, or blank for straight.")
            ends.append(1 / value if value else 0.0)
        return easing(need(self.length_mm, "length_mm"), ends[0], ends[1])


class Polycurve(ShapeBase):
    """A custom: straights and arcs, each setting out where the one before ends."""

    named: ClassVar[str] = "custom: straights and arcs"

    kind: Literal["polycurve"]
    stretches: tuple[Stretch, ...] = Field(min_length=1, max_length=60, strict=False)

    def face_curve(self) -> Curve:
        return chain_of(*(cell for i, s in enumerate(self.stretches) for cell in s.cells(i)))

    @property
    def tight_field(self) -> str:
        return "shape.stretches"

    @classmethod
    def started_from(cls, sized: StartingCurve) -> Start:
        return {"stretches": _stretches(sized.curve)}

    def spans(self, curve: Curve) -> list[tuple[float, float]]:
        """Start and end of each stretch along the stated face, mm."""
        joints = [0]
        for number, stretch in enumerate(self.stretches):
            joints.append(joints[-1] + len(stretch.cells(number)))
        at = curve.stations_mm
        return [(float(at[a]), float(at[b])) for a, b in pairwise(joints)]

    def moved(self, number: int, to: int) -> Start:
        """What changes when one stretch is taken to another place."""
        rows = list(self.stretches)
        rows.insert(to, rows.pop(number))
        return self.of_rows(rows)

    @staticmethod
    def of_rows(rows: list[Stretch]) -> Start:
        """A chain of the rows given."""
        return {"stretches": tuple(row.model_dump() for row in rows)}

    def handles(self, laid: LaidFace) -> tuple[Handle, ...]:
        made, up = [], np.array([0.0, laid.lift])
        aside, beyond = laid.curve.length_mm * 0.045, laid.curve.length_mm * 0.06

        def put(name: str, place: Array, message: str, look: str = "knob", text: str = "") -> None:
            made.append(Handle(name, float(place[0]), float(place[1]), message, look, text))

        for i, (stretch, (a, b)) in enumerate(zip(self.stretches, self.spans(laid.curve), strict=True)):
            n, figure = i + 1, "angle" if stretch.kind == "arc" else "length"
            put(f"joint-{i}", laid.one(b), f"End of segment {n}: drag to change its {figure}")
            (point,), (heading,) = laid.curve.at(np.array([(a + b) / 2]))
            if stretch.kind == "arc":
                put(f"radius-{i}", point + up, f"Segment {n}: drag to change its radius")
            tag = point + up + np.array([-math.sin(heading), math.cos(heading)]) * aside
            put(f"move-{i}", tag, f"Segment {n}: drag it to another place", "tag", str(n))
        (end,), (heading,) = laid.curve.at(np.array([laid.curve.length_mm]))
        further = end + up + np.array([math.cos(heading), math.sin(heading)]) * beyond
        put("add-0", further, "Drag to add a straight at the end", "add", "+")
        return tuple(made)


def _stretches(curve: Curve) -> list[dict[str, Any]]:
    """A chain of straights and arcs; a curve of very many cells is gathered into fewer."""
    if curve.lengths_mm.size > MOST_STRETCHES:
        joints = np.linspace(0, curve.length_mm, 13)
        turned = np.interp(joints, curve.stations_mm, curve.headings_rad)
        curve = Curve(np.diff(joints), -np.diff(turned) / np.diff(joints))
    made: list[dict[str, Any]] = []
    for length, k in zip(curve.lengths_mm.tolist(), curve.curvature.tolist(), strict=True):
        if abs(k) < 2.1e-5:
            made.append({"kind": "straight", "length_mm": length})
        else:
            made.append({"kind": "arc", "radius_mm": 1 / abs(k), "angle_deg": math.degrees(length * k)})
    return made
