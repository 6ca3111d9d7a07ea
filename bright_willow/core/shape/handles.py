"""What can be taken hold of on the drawing, and the shape a pull leaves behind.

Every shape lists its own handles: which figure each one moves, and where on the curve it stands. A pull is answered by
looking for the figure that brings the handle nearest to the hand.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import TYPE_CHECKING, Any

import numpy as np

from ..ground.arrays import Array
from ..ground.errors import OutOfRange
from ..ground.units import MM_PER_INCH, Unit
from .arc import Arc, face_offset_mm
from .curve import Curve
from .shapes import ArcByPoints, Outline, Polycurve, ShapeBase, Stretch

if TYPE_CHECKING:
    from ..job.job import Job

MOST_POINTS = 60  # of an outline that still can be taken hold of one by one
Where = Callable[[Any, Curve], float]  # the station of a handle on the stated face


@dataclass(frozen=True, slots=True)
class Handle:
    """A place to take hold of: x from the middle, y above the chord of the stated face, both mm.

    look: "knob" moves a figure, "tag" carries a number and moves a stretch among the others, "add" makes a new one.
    """

    name: str
    x_mm: float
    y_mm: float
    says: str
    look: str = "knob"
    text: str = ""


@dataclass(frozen=True)
class _Grip:
    """One figure of a shape that a handle moves: its field, where the handle stands, and what it says."""

    field: str
    where: Where
    says: str


def _end(shape: Any, curve: Curve) -> float:
    return curve.length_mm


def _start(shape: Any, curve: Curve) -> float:
    return 0.0


def _middle(shape: Any, curve: Curve) -> float:
    return curve.length_mm / 2


def _joint(cells: Callable[[Any], int], share: float) -> Where:
    """A place in a cell of the curve, counted with those left out that have no length."""

    def station(shape: Any, curve: Curve) -> float:
        cell = min(cells(shape), curve.lengths_mm.size - 1)
        return float(curve.stations_mm[cell] + curve.lengths_mm[cell] * share)

    return station


def _after(*straights: str) -> Callable[[Any], int]:
    """The cell that follows the straights that have a length, and one cell for each that is always there."""
    return lambda shape: sum(1 for name in straights if name == "arc" or getattr(shape, name) > 1e-9)


_U_RIGHT = _after("left_leg_mm", "arc", "flat_mm")  # cell of the right corner
_S_SECOND = _after("start_mm", "arc", "straight_mm")  # cell of the second arc

GRIPS: dict[str, tuple[_Grip, ...]] = {
    "arc_by_chord": (
        _Grip("rise_mm", _middle, "Drag to change the rise"),
        _Grip("chord_mm", _start, "Drag to change the chord"),
        _Grip("chord_mm", _end, "Drag to change the chord"),
    ),
    "arc_by_radius": (
        _Grip("radius_mm", _middle, "Drag to change the radius"),
        _Grip("angle_deg", _start, "Drag to change the angle"),
        _Grip("angle_deg", _end, "Drag to change the angle"),
    ),
    "arc_by_length": (
        _Grip("radius_mm", _middle, "Drag to change the radius"),
        _Grip("length_mm", _end, "Drag to change the length"),
    ),
    "hook": (
        _Grip("start_mm", _start, "Drag to change the straight before"),
        _Grip("radius_mm", _joint(_after("start_mm"), 0.5), "Drag to change the radius"),
        _Grip("angle_deg", _joint(_after("start_mm"), 1.0), "Drag to change the angle"),
        _Grip("end_mm", _end, "Drag to change the straight after"),
    ),
    "u": (
        _Grip("left_leg_mm", _start, "Drag to change the left leg"),
        _Grip("left_lean_deg", _joint(_after("left_leg_mm"), 0.0), "Drag to lean the left leg"),
        _Grip("left_radius_mm", _joint(_after("left_leg_mm"), 0.5), "Drag to change the left radius"),
        _Grip("flat_mm", _joint(_after("left_leg_mm", "arc"), 1.0), "Drag to change the flat"),
        _Grip("right_radius_mm", _joint(_U_RIGHT, 0.5), "Drag to change the right radius"),
        _Grip("right_lean_deg", _joint(_U_RIGHT, 1.0), "Drag to lean the right leg"),
        _Grip("right_leg_mm", _end, "Drag to change the right leg"),
    ),
    "s": (
        _Grip("start_mm", _start, "Drag to change the straight before"),
        _Grip("first_radius_mm", _joint(_after("start_mm"), 0.5), "Drag to change the first radius"),
        _Grip("first_angle_deg", _joint(_after("start_mm"), 0.97), "Drag to change the first angle"),
        _Grip("straight_mm", _joint(_S_SECOND, 0.0), "Drag to change the straight between"),
        _Grip(
            "second_radius_mm",
            _joint(_S_SECOND, 0.5),
            "Drag to change the second radius",
        ),
        _Grip(
            "second_angle_deg",
            _joint(_S_SECOND, 0.97),
            "Drag to change the second angle",
        ),
        _Grip("end_mm", _end, "Drag to change the straight after"),
    ),
    "hoop": (
        _Grip("diameter_mm", _middle, "Drag to change the diameter"),
        _Grip("gap_mm", _end, "Drag to change the gap"),
    ),
    "ring": (_Grip("diameter_mm", _start, "Drag to change the diameter"),),
    "eased_arc": (
        _Grip("radius_mm", _middle, "Drag to change the radius"),
        _Grip("easing_mm", _joint(_after("straight_mm"), 12.0), "Drag to change the easing"),
        _Grip("angle_deg", _joint(_after("straight_mm"), 0.0), "Drag to change the angle"),
        _Grip("straight_mm", _end, "Drag to change the straight"),
    ),
    "parabola": (
        _Grip("rise_mm", _middle, "Drag to change the rise"),
        _Grip("chord_mm", _start, "Drag to change the chord"),
        _Grip("chord_mm", _end, "Drag to change the chord"),
    ),
    "ellipse": (
        _Grip("height_mm", _middle, "Drag to change the height"),
        _Grip("half_width_mm", _start, "Drag to change the width"),
        _Grip("half_width_mm", _end, "Drag to change the width"),
    ),
}


def _angle_there(shape: Any, x_mm: float, y_mm: float) -> float:
    """The angle of an arc of the same radius whose end comes to lie in the direction of the hand."""
    arc = Arc(shape.radius_mm, math.radians(shape.angle_deg))
    return math.degrees(2 * math.atan2(abs(x_mm), y_mm - arc.rise_mm + arc.radius_mm))


# Where the figure can be read off the place of the hand: no search is needed. (shape, x, y above the chord) → figure.
EXACT: dict[tuple[str, str], Callable[[Any, float, float], float]] = {
    ("arc_by_chord", "rise_mm"): lambda shape, x, y: y,
    ("arc_by_chord", "chord_mm"): lambda shape, x, y: 2 * abs(x),
    ("arc_by_radius", "angle_deg"): _angle_there,
    ("parabola", "rise_mm"): lambda shape, x, y: y,
    ("parabola", "chord_mm"): lambda shape, x, y: 2 * abs(x),
}


@dataclass(frozen=True, eq=False)
class _Stage:
    """The stated face as the board lays it: anchor of the mid-line at x = 0, the mean of its ends at y = 0."""

    curve: Curve
    lift: float

    @classmethod
    def of(cls, shape: ShapeBase, thickness_mm: float) -> _Stage:
        own = shape.face_curve()
        offset = face_offset_mm(shape.face, thickness_mm)
        mid = own.parallel(-offset)
        face = Curve(mid.lengths_mm, mid.curvature).parallel(offset)
        return cls(face, -float(face.points_mm[[0, -1], 1].mean()))

    def at(self, stations_mm: Array) -> Array:
        points, _ = self.curve.at(stations_mm)
        return np.asarray(points + np.array([0.0, self.lift]))

    def one(self, station_mm: float) -> Array:
        return np.asarray(self.at(np.array([station_mm]))[0])


def handles(job: Job) -> tuple[Handle, ...]:
    """Everything on the drawing that can be taken hold of for the shape of a job. Raises: OutOfRange."""
    found = _handles(job)
    return tuple(replace(h, x_mm=-h.x_mm) for h in found) if job.is_right else found


def laid_points(job: Job) -> Array:
    """(n, 2) points an outline was made from, where they lie on the drawing; none for other shapes."""
    if not isinstance(job.shape, Outline):
        return np.zeros((0, 2))
    laid = _laid_outline(job.shape, _Stage.of(job.shape, job.part.thickness_mm))
    return laid * np.array([-1.0, 1.0]) if job.is_right else laid


def _handles(job: Job) -> tuple[Handle, ...]:
    shape = job.shape
    stage = _Stage.of(shape, job.part.thickness_mm)
    if isinstance(shape, ArcByPoints):
        names = ("One end", "The point between", "The other end")
        laid = _laid_points(shape, stage)
        return tuple(
            Handle(f"point-{i}", float(x), float(y), f"{name}: drag it")
            for i, ((x, y), name) in enumerate(zip(laid, names, strict=True))
        )
    if isinstance(shape, Polycurve):
        return _stretch_handles(shape, stage)
    if isinstance(shape, Outline):
        if len(shape.points_mm) > MOST_POINTS:
            return ()
        laid = _laid_outline(shape, stage)
        return tuple(
            Handle(f"point-{i}", float(x), float(y), f"Point {i + 1}: drag it") for i, (x, y) in enumerate(laid)
        )
    made = []
    for i, grip in enumerate(GRIPS[shape.kind]):
        x, y = stage.one(grip.where(shape, stage.curve))
        made.append(Handle(f"{grip.field}-{i}", float(x), float(y), grip.says))
    return tuple(made)


def pulled(job: Job, *, handle: str, x_mm: float, y_mm: float, unit: Unit) -> ShapeBase:
    """The shape after a handle is pulled to (x, y), its figure rounded to 1 mm or 1/16 in (angles to half a degree).

    Raises: OutOfRange for a handle the shape does not have, or where nothing to bend would be left.
    """
    x_mm = -x_mm if job.is_right else x_mm
    shape, hand = job.shape, np.array([x_mm, y_mm])
    step = 1.0 if unit == "mm" else MM_PER_INCH / 16
    name, _, tail = handle.rpartition("-")
    number = int(tail) if tail.isascii() and tail.isdigit() and len(tail) < 6 else -1
    if isinstance(shape, Polycurve):
        return _pulled_stretch(shape, job.part.thickness_mm, name, number, hand, step)
    if isinstance(shape, ArcByPoints | Outline) and name == "point":
        return _pulled_point(shape, job.part.thickness_mm, number, hand, step)
    grips = GRIPS.get(getattr(shape, "kind", ""), ())
    if not 0 <= number < len(grips) or grips[number].field != name:
        raise _nothing_there()
    grip = grips[number]
    exact = EXACT.get((getattr(shape, "kind", ""), grip.field))
    value = exact(shape, x_mm, y_mm) if exact else _nearest(shape, grip, job.part.thickness_mm, hand, step)
    return _within(shape, grip.field, _round(value, 0.5 if grip.field.endswith("_deg") else step))


def _nothing_there() -> OutOfRange:
    return OutOfRange("handle", "There is no such handle.")


def _nearest(shape: ShapeBase, grip: _Grip, thickness_mm: float, hand: Array, step: float) -> float:
    """The value of a figure that brings its handle nearest to the hand: a coarse look, then a golden section."""
    field, now = grip.field, float(getattr(shape, grip.field))
    low, high = limits(type(shape), field)
    is_angle = field.endswith("_deg")
    reach = 60.0 if is_angle else max(200.0, 1.2 * abs(now))

    def apart(value: float) -> float:
        try:
            moved = shape.model_copy(update={field: value})
            stage = _Stage.of(moved, thickness_mm)
            return float(np.hypot(*(stage.one(grip.where(moved, stage.curve)) - hand)))
        except OutOfRange:
            return math.inf

    spots = np.linspace(max(low, now - reach), min(high, now + reach), 15)
    far = [apart(float(v)) for v in spots]
    best = int(np.argmin(far))
    if not math.isfinite(far[best]):
        raise OutOfRange(f"shape.{field}", "It cannot be pulled there.")
    a, b = float(spots[max(0, best - 1)]), float(spots[min(spots.size - 1, best + 1)])
    return _golden(apart, a, b, 0.2 if is_angle else step / 4)


def _golden(apart: Callable[[float], float], a: float, b: float, near: float) -> float:
    """Where a function of one valley is least between a and b, to within `near`. Source: golden section."""
    ratio = (math.sqrt(5) - 1) / 2
    c, d = b - ratio * (b - a), a + ratio * (b - a)
    fc, fd = apart(c), apart(d)
    while b - a > near:
        if fc < fd:
            b, d, fd = d, c, fc
            c = b - ratio * (b - a)
            fc = apart(c)
        else:
            a, c, fc = c, d, fd
            d = a + ratio * (b - a)
            fd = apart(d)
    return (a + b) / 2


# -- points ---------------------------------------------------------------------------------------------------------
def _laid_points(shape: ArcByPoints, stage: _Stage) -> Array:
    """The three points where they lie on the drawing."""
    own = np.array([[shape.x1_mm, shape.y1_mm], [shape.x2_mm, shape.y2_mm], [shape.x3_mm, shape.y3_mm]])
    return _moved_onto(own, own[[0, 2]], stage.at(np.array([0.0, stage.curve.length_mm])), own[1])


def _moved_onto(points: Array, ends: Array, there: Array, inside: Array | None = None) -> Array:
    """Points turned and moved so that two of them come to lie on two places; seen in a mirror where `inside` would
    otherwise lie below."""
    a, b = complex(*ends[0]), complex(*ends[1])
    p, q = complex(*there[0]), complex(*there[1])
    z = points[:, 0] + 1j * points[:, 1]
    if inside is not None and ((complex(*inside) - a) * (b - a).conjugate()).imag < 0:
        z, a, b = z.conj(), a.conjugate(), b.conjugate()
    laid = p + (z - a) * (q - p) / (b - a)
    return np.stack((laid.real, laid.imag), axis=1)


def _laid_outline(shape: Outline, stage: _Stage) -> Array:
    """The points of an outline where they lie on the drawing."""
    from .outline import fitted

    fit = fitted(shape.points_mm, shape.slack_mm)
    placed, curve = fit.placed_mm, fit.curve
    flip = np.array([-1.0 if shape.from_other_end else 1.0, -1.0 if shape.turned_over else 1.0])
    if shape.turned_over:  # bending the other way, it runs from the same end and lies upside down
        placed = placed * np.array([1.0, -1.0])
    if shape.from_other_end:
        placed = placed * np.array([-1.0, 1.0])
    ends = curve.points_mm[[0, -1]] * flip
    ends = ends[::-1] if shape.from_other_end else ends
    return _moved_onto(placed, ends, stage.at(np.array([0.0, stage.curve.length_mm])))


def _pulled_point(
    shape: ArcByPoints | Outline, thickness_mm: float, number: int, hand: Array, step: float
) -> ShapeBase:
    stage = _Stage.of(shape, thickness_mm)
    if isinstance(shape, ArcByPoints):
        own = np.array([[shape.x1_mm, shape.y1_mm], [shape.x2_mm, shape.y2_mm], [shape.x3_mm, shape.y3_mm]])
        laid = _laid_points(shape, stage)
    else:
        own, laid = np.array(shape.points_mm), _laid_outline(shape, stage)
    if not 0 <= number < len(own):
        raise _nothing_there()
    moved = laid.copy()
    moved[number] = hand
    if isinstance(shape, ArcByPoints):
        x, y = _shifted(own, laid, hand, number, step)
        return _valid(shape, {f"x{number + 1}_mm": x, f"y{number + 1}_mm": y})
    points = [tuple(map(float, p)) for p in own]
    points[number] = _shifted(own, laid, hand, number, step)
    return _valid(shape, {"points_mm": tuple(points)})


def _shifted(own: Array, laid: Array, hand: Array, number: int, step: float) -> tuple[float, float]:
    """Where a point goes in its own coordinates, when it is pulled on the drawing."""
    a, b = (0, len(own) - 1)
    zo, zl = own[:, 0] + 1j * own[:, 1], laid[:, 0] + 1j * laid[:, 1]
    straight = (zl[b] - zl[a]) / (zo[b] - zo[a])
    same = np.allclose(zl[a] + (zo - zo[a]) * straight, zl, atol=1e-6 * max(1.0, float(np.abs(zl).max())))
    pull = complex(*hand) - zl[number]
    if same:
        moved = zo[number] + pull / straight
    else:  # seen in a mirror
        mirrored = (zl[b] - zl[a]) / (zo[b] - zo[a]).conjugate()
        moved = zo[number] + (pull / mirrored).conjugate()
    return _round(moved.real, step), _round(moved.imag, step)


# -- stretches of a chain -------------------------------------------------------------------------------------------
def _spans(shape: Polycurve, curve: Curve) -> list[tuple[float, float]]:
    """Start and end of each stretch along the stated face."""
    joints = [0]
    for number, stretch in enumerate(shape.stretches):
        joints.append(joints[-1] + len(stretch.cells(number)))
    at = curve.stations_mm
    return [(float(at[a]), float(at[b])) for a, b in pairwise(joints)]


def _stretch_handles(shape: Polycurve, stage: _Stage) -> tuple[Handle, ...]:
    made, up = [], np.array([0.0, stage.lift])
    aside, beyond = stage.curve.length_mm * 0.045, stage.curve.length_mm * 0.06

    def put(name: str, place: Array, says: str, look: str = "knob", text: str = "") -> None:
        made.append(Handle(name, float(place[0]), float(place[1]), says, look, text))

    for i, (stretch, (a, b)) in enumerate(zip(shape.stretches, _spans(shape, stage.curve), strict=True)):
        n, figure = i + 1, "angle" if stretch.kind == "arc" else "length"
        put(f"joint-{i}", stage.one(b), f"End of stretch {n}: drag to change its {figure}")
        (point,), (heading,) = stage.curve.at(np.array([(a + b) / 2]))
        if stretch.kind == "arc":
            put(f"radius-{i}", point + up, f"Stretch {n}: drag to change its radius")
        tag = point + up + np.array([-math.sin(heading), math.cos(heading)]) * aside
        put(f"move-{i}", tag, f"Stretch {n}: drag it to another place in the chain", "tag", str(n))
    (end,), (heading,) = stage.curve.at(np.array([stage.curve.length_mm]))
    further = end + up + np.array([math.cos(heading), math.sin(heading)]) * beyond
    put("add-0", further, "Drag to add a straight at the end", "add", "+")
    return tuple(made)


def _pulled_stretch(
    shape: Polycurve, thickness_mm: float, name: str, number: int, hand: Array, step: float
) -> Polycurve:
    rows = list(shape.stretches)
    stage = _Stage.of(shape, thickness_mm)
    if name == "add":
        (end,), (heading,) = stage.curve.at(np.array([stage.curve.length_mm]))
        along = float((hand - end - np.array([0.0, stage.lift])) @ np.array([math.cos(heading), math.sin(heading)]))
        return _chain([*rows, Stretch(kind="straight", length_mm=max(step, _round(along, step)))], shape)
    if not 0 <= number < len(rows):
        raise _nothing_there()
    if name == "move":
        middles = stage.at(np.array([(a + b) / 2 for a, b in _spans(shape, stage.curve)]))
        to = int(np.argmin(np.hypot(*(middles - hand).T)))
        return moved_stretch(shape, number, to)
    row = rows[number]
    figure = {"joint": "angle_deg" if row.kind == "arc" else "length_mm", "radius": "radius_mm"}.get(name)
    if figure is None or (name == "radius" and row.kind != "arc"):
        raise _nothing_there()
    share = 0.5 if name == "radius" else 1.0

    def apart(value: float) -> float:
        try:
            changed = shape.model_copy(
                update={"stretches": (*rows[:number], row.model_copy(update={figure: value}), *rows[number + 1 :])}
            )
            there = _Stage.of(changed, thickness_mm)
            a, b = _spans(changed, there.curve)[number]
            return float(np.hypot(*(there.one(a + share * (b - a)) - hand)))
        except OutOfRange:
            return math.inf

    value = float(getattr(row, figure))
    reach = 60.0 if figure == "angle_deg" else max(150.0, value)
    low, high = limits(Stretch, figure)
    for _ in range(5):  # a coarse look, narrowed five times
        spots = np.linspace(max(low, value - reach), min(high, value + reach), 17)
        value = float(spots[int(np.argmin([apart(float(v)) for v in spots]))])
        reach /= 6
    value = _round(value, 0.5 if figure == "angle_deg" else step)
    if figure == "angle_deg" and abs(value) < 0.5:
        value = math.copysign(0.5, value)
    return _chain([*rows[:number], row.model_copy(update={figure: value}), *rows[number + 1 :]], shape)


def moved_stretch(shape: Polycurve, number: int, to: int) -> Polycurve:
    """The chain with one stretch taken to another place."""
    rows = list(shape.stretches)
    rows.insert(to, rows.pop(number))
    return _chain(rows, shape)


def _chain(rows: list[Stretch], shape: Polycurve) -> Polycurve:
    return _valid(shape, {"stretches": tuple(row.model_dump() for row in rows)})  # type: ignore[return-value]


# -- limits ---------------------------------------------------------------------------------------------------------
def _valid(shape: ShapeBase, sets: dict[str, Any]) -> ShapeBase:
    from pydantic import ValidationError

    try:
        return type(shape).model_validate({**shape.model_dump(), **sets})
    except ValidationError:
        raise OutOfRange("shape", "It cannot be pulled there.") from None


def _round(value: float, step: float) -> float:
    return round(round(float(value) / step) * step, 6)


def _within(shape: ShapeBase, field: str, value: float) -> ShapeBase:
    low, high = limits(type(shape), field)
    if not low <= value <= high:
        end = "small" if value < low else "large"
        raise OutOfRange(f"shape.{field}", f"That would make it too {end} to plan.")
    return shape.model_copy(update={field: value})


def limits(model: type[Any], name: str) -> tuple[float, float]:
    """Least and largest value a field of a shape takes."""
    field = model.model_fields[name]
    bounds: dict[str, float] = {}
    for item in [*field.metadata, *_inner_metadata(field.annotation)]:
        for key in ("ge", "le"):
            if getattr(item, key, None) is not None:
                bounds[key] = float(getattr(item, key))
    return bounds.get("ge", -50_000.0), bounds.get("le", 50_000.0)


def _inner_metadata(annotation: Any) -> list[Any]:
    """Bounds that stand inside an annotation rather than on the field."""
    found: list[Any] = []
    for part in (annotation, *getattr(annotation, "__args__", ())):
        for item in getattr(part, "__metadata__", ()):
            found += getattr(item, "metadata", [item])
    return found
