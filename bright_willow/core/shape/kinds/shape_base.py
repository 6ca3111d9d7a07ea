"""What every kind of shape has: its face, its mid-line, its name and words, its handles, its start from another curve.

Lengths mm, angles degrees. A positive angle or radius bends the usual way (the outer face outwards); where a shape may
bend both ways, a negative angle bends the other way.
"""

from __future__ import annotations

import math
from abc import abstractmethod
from collections.abc import Callable
from dataclasses import dataclass
from typing import Annotated, Any, ClassVar

import numpy as np
from pydantic import Field

from ...common.arrays import Array
from ...common.document import Document, Length
from ...common.errors import PlanError
from ...common.units import MM_PER_INCH, Unit
from ..arc import Face, face_offset_mm
from ..crossing import crossing_mm
from ..curve import Curve

Radius = Annotated[float, Field(ge=5, le=50_000, allow_inf_nan=False)]
Straight = Annotated[float, Field(ge=0, le=20_000, allow_inf_nan=False)]
Place = Annotated[float, Field(ge=-50_000, le=50_000, allow_inf_nan=False)]
Point = Annotated[tuple[Place, Place], Field(strict=False)]
CELLS = 240  # of a shape whose curvature changes all along it
LEAST_INSIDE = 0.25  # of the thickness, that the inside of a bend keeps as radius
MOST_LONG_MM = 30_000.0  # of a part; longer is a slip of the pen. Grade: allowance.

__all__ = ["CELLS", "Ask", "Grip", "Handle", "LaidFace", "Length", "ShapeBase", "Start", "StartingCurve"]


@dataclass(frozen=True, slots=True)
class Ask:
    """A figure of a shape as it is asked for: its field, its label, a hint."""

    field: str
    label: str
    hint: str = ""


@dataclass(frozen=True, slots=True)
class Handle:
    """A place to take hold of: x from the middle, y above the chord of the stated face, both mm.

    look: "knob" moves a figure, "tag" carries a number and moves a stretch among the others, "add" makes a new one.
    """

    name: str
    x_mm: float
    y_mm: float
    message: str
    look: str = "knob"
    text: str = ""


Where = Callable[[Any, Curve], float]  # the station of a handle on the stated face
Exact = Callable[[Any, float, float], float]  # the figure read off the place of the hand: (shape, x, y) → figure


@dataclass(frozen=True)
class Grip:
    """One figure of a shape that a handle moves: its field, where the handle stands, what it says, and, where the
    figure can be read off the place of the hand, how."""

    field: str
    where: Where
    message: str
    exact: Exact | None = None


@dataclass(frozen=True, eq=False)
class StartingCurve:
    """A curve another shape may start from: its size over all, chord, rise, and its figures where it is one arc."""

    curve: Curve
    unit: Unit = "mm"

    @property
    def size(self) -> float:
        """A length to stand for the whole: the chord or the size over all, 40 mm at least."""
        along = self.curve.at(np.linspace(0, self.curve.length_mm, 33))[0]
        return max(40.0, self.curve.chord_and_rise_mm()[0], float(np.ptp(along, axis=0).max()))

    @property
    def is_arc(self) -> bool:
        """Whether one curvature runs through it."""
        return self.curve.lengths_mm.size == 1

    @property
    def radius_mm(self) -> float:
        """Of an arc its own, mm; of anything else its size."""
        return 1 / abs(float(self.curve.curvature[0])) if self.is_arc else self.size

    @property
    def length_mm(self) -> float:
        return self.curve.length_mm if self.is_arc else self.size

    @property
    def angle_deg(self) -> float:
        """Of an arc its turn, degrees; of anything else 60."""
        return math.degrees(self.length_mm / self.radius_mm) if self.is_arc else 60.0

    @property
    def rise_mm(self) -> float:
        """A rise that suits the size: half of it at most."""
        return max(5.0, min(self.curve.chord_and_rise_mm()[1], self.size / 2))

    def shares(self, **shares: float) -> dict[str, float]:
        """Figures as shares of the size, in round figures of the unit: whole 5 mm or quarter inches."""
        step = MM_PER_INCH / 4 if self.unit == "in" else 5.0
        return {name: round(max(2, round(self.size * share / step)) * step, 4) for name, share in shares.items()}

    def points(self, count: int) -> list[list[float]]:
        """Points along it, the first at the origin, to a hundredth."""
        points = self.curve.at(np.linspace(0, self.curve.length_mm, count))[0]
        return [[round(float(x), 2), round(float(y), 2)] for x, y in points - points[0]]


Start = dict[str, Any]


class ShapeBase(Document):
    """What every shape has: the face its figures are of, and the mid-line that follows.

    named: in the list of shapes; asks: its figures, in order; grips: what can be taken hold of; tight_field: the field
    to blame when it is too tight.
    """

    named: ClassVar[str]
    asks: ClassVar[tuple[Ask, ...]] = ()
    grips: ClassVar[tuple[Grip, ...]] = ()
    drag_text: ClassVar[str] = ""

    face: Face = "inner"

    @abstractmethod
    def face_curve(self) -> Curve:
        """The curve of the stated face. Raises: PlanError."""

    @classmethod
    @abstractmethod
    def started_from(cls, sized: StartingCurve) -> Start:
        """Its figures: the same curve where it can say it, else one of its size to start from."""

    def mid_line(self, thickness_mm: float) -> Curve:
        """The mid-line of a part so thick.

        Raises: PlanError where it is longer than anything that is bent, where a face would keep less than a quarter of
        the thickness as radius, or where the strip would run into itself; with the place.
        """
        own = self.face_curve().parallel(-face_offset_mm(self.face, thickness_mm), self.tight_field)
        mid = Curve(own.lengths_mm, own.curvature)  # laid by its own middle
        if mid.length_mm > MOST_LONG_MM:
            raise PlanError(
                self.tight_field,
                "This would be {long} long; no more than {most}, please.",
                hint="Check for an extra zero.",
                lengths_mm={"long": mid.length_mm, "most": MOST_LONG_MM},
            )
        tight = int(np.argmax(np.abs(mid.curvature)))
        if abs(float(mid.curvature[tight])) < 1e-7:
            raise PlanError("shape.kind", "This shape is straight.")
        if 1 / abs(mid.curvature[tight]) - thickness_mm / 2 < LEAST_INSIDE * thickness_mm:
            raise self._too_tight(mid, tight, thickness_mm)
        where = None if self.is_closed else crossing_mm(mid, thickness_mm)
        if where is not None:
            raise PlanError(
                self.tight_field,
                "The curve would run into itself, {first} and {second} from the start.",
                hint="Reduce the bend angle, or lengthen what is between.",
                lengths_mm={"first": where[0], "second": where[1]},
                at_mm=where,
            )
        return mid

    def _too_tight(self, mid: Curve, tight: int, thickness_mm: float) -> PlanError:
        inner = 1 / abs(float(mid.curvature[tight])) - thickness_mm / 2
        sharp = np.abs(mid.curvature) > 1 / (thickness_mm * (0.5 + LEAST_INSIDE))
        starts, ends = mid.stations_mm[:-1][sharp], mid.stations_mm[1:][sharp]
        return PlanError(
            self.tight_field,
            "The inside radius would be {inner} on a part {thickness} thick, {place} from the start.",
            hint="Use a larger radius, or a thinner part.",
            lengths_mm={
                "inner": max(0.0, inner),
                "thickness": thickness_mm,
                "place": float(mid.stations_mm[tight]),
            },
            at_mm=tuple(((starts + ends) / 2).tolist()),
        )

    @property
    def is_closed(self) -> bool:
        """Whether the ends are joined to one another."""
        return False

    @property
    def doubtful_mm(self) -> tuple[float, float] | None:
        """Where the tightest radius lies, 8 in 10, where points that were measured do not tell it; else none."""
        return None

    @property
    def tight_field(self) -> str:
        """The field to blame when the shape is too tight."""
        return "shape.radius_mm"

    # -- handles ---------------------------------------------------------------------------------------------------
    def handles(self, laid: LaidFace) -> tuple[Handle, ...]:
        """Everything on the drawing that can be taken hold of."""
        made = []
        for i, grip in enumerate(self.grips):
            x, y = laid.one(grip.where(self, laid.curve))
            made.append(Handle(f"{grip.field}-{i}", float(x), float(y), grip.message))
        return tuple(made)

    def own_points(self, laid: LaidFace) -> Array:
        """(n, 2) points it was made from, where they lie on the drawing; none for a shape of figures."""
        return np.zeros((0, 2))


@dataclass(frozen=True, eq=False)
class LaidFace:
    """The stated face as the board lays it: anchor of the mid-line at x = 0, the mean of its ends at y = 0."""

    curve: Curve
    lift: float

    @classmethod
    def of(cls, shape: ShapeBase, thickness_mm: float) -> LaidFace:
        own = shape.face_curve()
        offset = face_offset_mm(shape.face, thickness_mm)
        mid = own.parallel(-offset)
        face = Curve(mid.lengths_mm, mid.curvature).parallel(offset)
        return cls(face, -float(face.points_mm[[0, -1], 1].mean()))

    def at(self, stations_mm: Array) -> Array:
        points, _ = self.curve.at(stations_mm)
        return np.asarray(points + np.array([0.0, self.lift]))

    def one(self, station_mm: float) -> Array:
        """The point (2,) at one station."""
        return np.asarray(self.at(np.array([station_mm]))[0])


# -- where handles stand ------------------------------------------------------------------------------------------
def at_end(shape: Any, curve: Curve) -> float:
    """Station of the end, mm."""
    return curve.length_mm


def at_start(shape: Any, curve: Curve) -> float:
    """Station of the start: 0."""
    return 0.0


def at_middle(shape: Any, curve: Curve) -> float:
    """Station of the middle, mm."""
    return curve.length_mm / 2


def at_joint(cells: Callable[[Any], int], share: float) -> Where:
    """A place in a cell of the curve, counted with those left out that have no length."""

    def station(shape: Any, curve: Curve) -> float:
        cell = min(cells(shape), curve.lengths_mm.size - 1)
        return float(curve.stations_mm[cell] + curve.lengths_mm[cell] * share)

    return station


def after(*straights: str) -> Callable[[Any], int]:
    """The cell that follows the straights that have a length, and one cell for each arc."""
    return lambda shape: sum(1 for name in straights if name == "arc" or getattr(shape, name) > 1e-9)


# -- curves of several cells ----------------------------------------------------------------------------------------
def arc_cell(radius_mm: float, angle_deg: float) -> tuple[float, float]:
    """Length and curvature of an arc."""
    return radius_mm * math.radians(angle_deg), 1 / radius_mm


def chain_of(*cells: tuple[float, float]) -> Curve:
    """A curve out of (length, curvature) cells, mm and 1/mm, those without length left out. Raises: PlanError."""
    kept = [(length, k) for length, k in cells if length > 1e-9]
    if not kept:
        raise PlanError("shape", "Every segment of this shape has zero length.")
    return Curve.of((length for length, _ in kept), (k for _, k in kept))


def easing(length_mm: float, start: float, end: float) -> list[tuple[float, float]]:
    """Cells of a stretch whose curvature runs evenly from start to end, 1/mm; headings at the joints are exact."""
    cells = 24
    return [(length_mm / cells, start + (end - start) * (i + 0.5) / cells) for i in range(cells)]


def from_headings(along_mm: Array, headings_rad: Array) -> Curve:
    """A curve through given headings at given lengths along it: each cell carries its mean curvature."""
    lengths = np.abs(np.diff(along_mm))
    return Curve(lengths, -np.diff(headings_rad) / lengths)
