"""The shapes a maker can ask for. Each is stated on one face and gives the mid-line of the part.

Lengths mm, angles degrees. A positive angle or radius bends the usual way (the outer face outwards); where a shape may
bend both ways, a negative angle bends the other way.
"""

from __future__ import annotations

import math
from abc import abstractmethod
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from ..ground.arrays import Array
from ..ground.document import Document, Length
from ..ground.errors import OutOfRange
from .arc import Arc, Face, face_offset_mm
from .crossing import crossing_mm
from .curve import Curve

Radius = Annotated[float, Field(ge=5, le=50_000, allow_inf_nan=False)]
Straight = Annotated[float, Field(ge=0, le=20_000, allow_inf_nan=False)]
Place = Annotated[float, Field(ge=-50_000, le=50_000, allow_inf_nan=False)]
Point = Annotated[tuple[Place, Place], Field(strict=False)]
CELLS = 240  # of a shape whose curvature changes all along it


class ShapeBase(Document):
    """What every shape has: the face its figures are of, and the mid-line that follows."""

    face: Face = "inner"

    @abstractmethod
    def face_curve(self) -> Curve:
        """The curve of the stated face. Raises: OutOfRange."""

    def mid_line(self, thickness_mm: float) -> Curve:
        """The mid-line of a part so thick.

        Raises: OutOfRange where a face would keep less than a quarter of the thickness as radius, or where the strip
        would run into itself; with the place.
        """
        own = self.face_curve().parallel(-face_offset_mm(self.face, thickness_mm), self.tight_field)
        mid = Curve(own.lengths_mm, own.curvature)  # laid by its own middle
        tight = int(np.argmax(np.abs(mid.curvature)))
        if abs(float(mid.curvature[tight])) < 1e-7:
            raise OutOfRange("shape.kind", "There is no bend in this shape.")
        inner = 1 / abs(mid.curvature[tight]) - thickness_mm / 2
        if inner < thickness_mm / 4:
            sharp = np.abs(mid.curvature) > 1 / (thickness_mm * 0.75)
            starts, ends = mid.stations_mm[:-1][sharp], mid.stations_mm[1:][sharp]
            raise OutOfRange(
                self.tight_field,
                "This leaves the inside of the bend a radius of {inner} under a part {thickness} thick, "
                "{place} from the start.",
                hint="Use a larger radius, or a thinner part.",
                lengths_mm={
                    "inner": max(0.0, inner),
                    "thickness": thickness_mm,
                    "place": float(mid.stations_mm[tight]),
                },
                at_mm=tuple(((starts + ends) / 2).tolist()),
            )
        where = None if self.is_closed else crossing_mm(mid, thickness_mm)
        if where is not None:
            raise OutOfRange(
                self.tight_field,
                "The curve would run into itself, {first} and {second} from the start.",
                hint="Turn it less, or lengthen what lies between.",
                lengths_mm={"first": where[0], "second": where[1]},
                at_mm=where,
            )
        return mid

    @property
    def is_closed(self) -> bool:
        """Whether the ends are joined to one another."""
        return False

    @property
    def tight_field(self) -> str:
        """The field to blame when the shape is too tight."""
        return "shape.radius_mm"


class ArcByRadius(ShapeBase):
    """An arc given by its radius on one face and the angle it sweeps."""

    kind: Literal["arc_by_radius"]
    radius_mm: Radius
    angle_deg: Length = Field(ge=1, le=340)

    def face_curve(self) -> Curve:
        return Arc(self.radius_mm, math.radians(self.angle_deg)).curve()


class ArcByChord(ShapeBase):
    """An arc given by chord and rise, both measured on one face."""

    kind: Literal["arc_by_chord"]
    chord_mm: Length = Field(ge=10, le=50_000)
    rise_mm: Length = Field(ge=1, le=25_000)

    def face_curve(self) -> Curve:
        arc = Arc.from_chord_and_rise(chord_mm=self.chord_mm, rise_mm=self.rise_mm)
        if math.degrees(arc.angle_rad) > 340:
            raise OutOfRange(
                "shape.chord_mm",
                "With this rise the chord is too short: the ends would meet.",
                hint="Lengthen the chord or lower the rise.",
            )
        if math.degrees(arc.angle_rad) < 1:
            raise OutOfRange("shape.rise_mm", "With this chord the rise is too small to be a bend: less than 1°.")
        return arc.curve()

    @property
    def tight_field(self) -> str:
        return "shape.rise_mm"


class ArcByLength(ShapeBase):
    """An arc given by its radius and the length along the same face."""

    kind: Literal["arc_by_length"]
    radius_mm: Radius
    length_mm: Length = Field(ge=5, le=50_000)

    def face_curve(self) -> Curve:
        turn = math.degrees(self.length_mm / self.radius_mm)
        if not 1 <= turn <= 340:
            raise OutOfRange(
                "shape.length_mm", f"So long an arc of this radius turns {turn:.0f}°; from 1° to 340° can be planned."
            )
        return Arc(self.radius_mm, self.length_mm / self.radius_mm).curve()


class ArcByPoints(ShapeBase):
    """An arc through three points: one end, a point between, the other end."""

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
            raise OutOfRange("shape.x2_mm", "The three points must lie apart from one another.")
        # the angle at the middle point stands on the arc that is left out: turn = 2 (180° − angle)
        inside = abs(
            math.remainder(math.atan2((a - b).imag, (a - b).real) - math.atan2((c - b).imag, (c - b).real), math.tau)
        )
        turn = 2 * (math.pi - inside)
        if not math.radians(1) <= turn <= math.radians(340):
            raise OutOfRange("shape.x2_mm", "These three points lie on a line, or nearly; there is no arc to bend.")
        return Arc(abs(c - a) / 2 / math.sin(turn / 2), turn).curve()

    @property
    def tight_field(self) -> str:
        return "shape.x2_mm"


class Hook(ShapeBase):
    """A straight, an arc, a straight."""

    kind: Literal["hook"]
    start_mm: Straight
    radius_mm: Radius
    angle_deg: Length = Field(ge=1, le=300)
    end_mm: Straight

    def face_curve(self) -> Curve:
        return _chain((self.start_mm, 0.0), _arc(self.radius_mm, self.angle_deg), (self.end_mm, 0.0))


class UBend(ShapeBase):
    """Leg, corner, flat, corner, leg. A lean above 0 turns a leg inwards past square."""

    kind: Literal["u"]
    left_leg_mm: Straight
    left_radius_mm: Radius
    left_lean_deg: Length = Field(default=0.0, ge=-80, le=60)
    flat_mm: Straight
    right_radius_mm: Radius
    right_lean_deg: Length = Field(default=0.0, ge=-80, le=60)
    right_leg_mm: Straight

    def face_curve(self) -> Curve:
        return _chain(
            (self.left_leg_mm, 0.0),
            _arc(self.left_radius_mm, 90 + self.left_lean_deg),
            (self.flat_mm, 0.0),
            _arc(self.right_radius_mm, 90 + self.right_lean_deg),
            (self.right_leg_mm, 0.0),
        )

    @property
    def tight_field(self) -> str:
        return "shape.left_radius_mm" if self.left_radius_mm <= self.right_radius_mm else "shape.right_radius_mm"


class SBend(ShapeBase):
    """Two opposed arcs with a straight between, and straights at the ends."""

    kind: Literal["s"]
    start_mm: Straight = 0.0
    first_radius_mm: Radius
    first_angle_deg: Length = Field(ge=1, le=270)
    straight_mm: Straight = 0.0
    second_radius_mm: Radius
    second_angle_deg: Length = Field(ge=1, le=270)
    end_mm: Straight = 0.0

    def face_curve(self) -> Curve:
        length, curvature = _arc(self.second_radius_mm, self.second_angle_deg)
        return _chain(
            (self.start_mm, 0.0),
            _arc(self.first_radius_mm, self.first_angle_deg),
            (self.straight_mm, 0.0),
            (length, -curvature),
            (self.end_mm, 0.0),
        )

    @property
    def tight_field(self) -> str:
        return "shape.first_radius_mm" if self.first_radius_mm <= self.second_radius_mm else "shape.second_radius_mm"


class Hoop(ShapeBase):
    """A ring that stays open: its diameter on the stated face, and the gap between its ends along that face."""

    kind: Literal["hoop"]
    diameter_mm: Length = Field(ge=10, le=20_000)
    gap_mm: Length = Field(ge=1, le=20_000)

    def face_curve(self) -> Curve:
        around = math.pi * self.diameter_mm
        if not 0.02 * around <= self.gap_mm <= 0.9 * around:
            raise OutOfRange(
                "shape.gap_mm",
                "A gap from {least} to {most} can be planned for this hoop.",
                lengths_mm={"least": 0.02 * around, "most": 0.9 * around},
            )
        return Curve.of([around - self.gap_mm], [2 / self.diameter_mm])

    @property
    def tight_field(self) -> str:
        return "shape.diameter_mm"


class Ring(ShapeBase):
    """A closed ring: each layer runs once around and meets itself in a joint; its diameter on the stated face."""

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


class EasedArc(ShapeBase):
    """An arc whose bend comes on gradually: straights, easings of even change, and the arc between."""

    kind: Literal["eased_arc"]
    straight_mm: Straight = 0.0
    easing_mm: Length = Field(ge=1, le=10_000)
    radius_mm: Radius
    angle_deg: Length = Field(ge=1, le=300, description="of the whole bend, easings included")

    def face_curve(self) -> Curve:
        arc_turn = math.radians(self.angle_deg) - self.easing_mm / self.radius_mm
        if arc_turn < 0:
            raise OutOfRange(
                "shape.easing_mm",
                "The easings alone turn further than the whole bend; at most {most} each.",
                lengths_mm={"most": math.radians(self.angle_deg) * self.radius_mm},
            )
        up = easing(self.easing_mm, 0.0, 1 / self.radius_mm)
        down = [(length, k) for length, k in reversed(up)]
        middle = [(arc_turn * self.radius_mm, 1 / self.radius_mm)]
        return _chain((self.straight_mm, 0.0), *up, *middle, *down, (self.straight_mm, 0.0))


class Parabola(ShapeBase):
    """A parabola by chord and rise: tightest at the crown, flattening towards the ends."""

    kind: Literal["parabola"]
    chord_mm: Length = Field(ge=10, le=50_000)
    rise_mm: Length = Field(ge=1, le=25_000)

    def face_curve(self) -> Curve:
        x = np.linspace(-0.5, 0.5, CELLS + 1) * self.chord_mm
        slope = -8 * self.rise_mm * x / self.chord_mm**2
        root = np.sqrt(1 + slope**2)
        # arc length of a parabola from its crown: (m√(1+m²) + asinh m) / (2 · dm/dx)
        along = (slope * root + np.arcsinh(slope)) / (-16 * self.rise_mm / self.chord_mm**2)
        return from_headings(along, np.arctan(slope))

    @property
    def tight_field(self) -> str:
        return "shape.rise_mm"


class Ellipse(ShapeBase):
    """Half an ellipse over its width, or a quarter from the crown down."""

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
        """(length, curvature) of its cells. Raises: OutOfRange with the field that is missing."""

        def need(value: float | None, name: str) -> float:
            if value is None or (name in ("radius_mm", "length_mm") and value <= 0):
                raise OutOfRange(f"shape.stretches.{number}.{name}", f"This {self.kind} needs a {name.split('_')[0]}.")
            return value

        if self.kind == "straight":
            return [(need(self.length_mm, "length_mm"), 0.0)]
        if self.kind == "arc":
            angle = need(self.angle_deg, "angle_deg")
            if abs(angle) < 0.1:
                raise OutOfRange(f"shape.stretches.{number}.angle_deg", "An arc that hardly turns is a straight.")
            length, k = _arc(need(self.radius_mm, "radius_mm"), abs(angle))
            return [(length, math.copysign(k, angle))]
        ends = []
        for name, value in (("from_radius_mm", self.from_radius_mm), ("to_radius_mm", self.to_radius_mm)):
            if value is not None and abs(value) < 5:
                raise OutOfRange(f"shape.stretches.{number}.{name}", "At least 5 mm, or leave it empty for straight.")
            ends.append(1 / value if value else 0.0)
        return easing(need(self.length_mm, "length_mm"), ends[0], ends[1])


class Polycurve(ShapeBase):
    """A chain of stretches, each setting out where the one before ends."""

    kind: Literal["polycurve"]
    stretches: tuple[Stretch, ...] = Field(min_length=1, max_length=60, strict=False)

    def face_curve(self) -> Curve:
        return _chain(*(cell for i, s in enumerate(self.stretches) for cell in s.cells(i)))

    @property
    def tight_field(self) -> str:
        return "shape.stretches"


class Outline(ShapeBase):
    """A curve through measured or imported points, smoothed as far as `slack_mm` lets it leave them.

    It is laid so that it bulges outwards on the whole; `turned_over` bends it the other way, `from_other_end` starts at
    its last point (seen in a mirror: the left end becomes the right).
    """

    kind: Literal["outline"]
    points_mm: tuple[Point, ...] = Field(min_length=3, max_length=20_000, strict=False)
    slack_mm: Length = Field(default=0.5, ge=0, le=100)
    source: str = Field(default="typed", max_length=200)
    turned_over: bool = False
    from_other_end: bool = False

    def face_curve(self) -> Curve:
        from .outline import fitted

        fit = fitted(self.points_mm, self.slack_mm).curve
        k = -fit.curvature if self.turned_over else fit.curvature
        return Curve(fit.lengths_mm[::-1], k[::-1]) if self.from_other_end else Curve(fit.lengths_mm, k)

    @property
    def tight_field(self) -> str:
        return "shape.slack_mm"


Shape = Annotated[
    ArcByRadius
    | ArcByChord
    | ArcByLength
    | ArcByPoints
    | Hook
    | UBend
    | SBend
    | Hoop
    | Ring
    | EasedArc
    | Parabola
    | Ellipse
    | Polycurve
    | Outline,
    Field(discriminator="kind"),
]
SHAPES: dict[str, type[ShapeBase]] = {
    "arc_by_chord": ArcByChord,
    "arc_by_radius": ArcByRadius,
    "arc_by_length": ArcByLength,
    "arc_by_points": ArcByPoints,
    "hook": Hook,
    "u": UBend,
    "s": SBend,
    "hoop": Hoop,
    "ring": Ring,
    "eased_arc": EasedArc,
    "parabola": Parabola,
    "ellipse": Ellipse,
    "polycurve": Polycurve,
    "outline": Outline,
}
KINDS = tuple(SHAPES)


def _arc(radius_mm: float, angle_deg: float) -> tuple[float, float]:
    """Length and curvature of an arc."""
    return radius_mm * math.radians(angle_deg), 1 / radius_mm


def _chain(*cells: tuple[float, float]) -> Curve:
    """A curve out of (length, curvature) cells, those without length left out."""
    kept = [(length, k) for length, k in cells if length > 1e-9]
    if not kept:
        raise OutOfRange("shape", "Every stretch of this shape has no length.")
    return Curve.of((length for length, _ in kept), (k for _, k in kept))


def easing(length_mm: float, start: float, end: float) -> list[tuple[float, float]]:
    """Cells of a stretch whose curvature runs evenly from start to end, 1/mm; headings at the joints are exact."""
    cells = 24
    return [(length_mm / cells, start + (end - start) * (i + 0.5) / cells) for i in range(cells)]


def from_headings(along_mm: Array, headings_rad: Array) -> Curve:
    """A curve through given headings at given lengths along it: each cell carries its mean curvature."""
    lengths = np.abs(np.diff(along_mm))
    return Curve(lengths, -np.diff(headings_rad) / lengths)
