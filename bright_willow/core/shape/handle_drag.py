"""A handle pulled: the shape it leaves behind, by one search for the figure that brings it nearest to the hand."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import replace
from typing import Any

import numpy as np
from pydantic import ValidationError

from ..common.arrays import Array
from ..common.errors import PlanError
from ..common.units import MM_PER_INCH, Unit
from .kinds.arc_by_points import ArcByPoints
from .kinds.outline import Outline
from .kinds.point_editing import to_step
from .kinds.polycurve import Polycurve, Stretch
from .kinds.shape_base import Grip, Handle, LaidFace, ShapeBase

SPOTS = 15  # of a coarse look before the search
REACH_DEG, REACH_MM = 60.0, 200.0


def handles(shape: ShapeBase, thickness_mm: float, *, mirrored: bool = False) -> tuple[Handle, ...]:
    """Everything on the drawing that can be taken hold of for a shape; seen in a mirror for a right hand.

    Raises: PlanError.
    """
    found = shape.handles(LaidFace.of(shape, thickness_mm))
    return tuple(replace(h, x_mm=-h.x_mm) for h in found) if mirrored else found


def laid_points(shape: ShapeBase, thickness_mm: float, *, mirrored: bool = False) -> Array:
    """(n, 2) points a shape was made from, where they lie on the drawing; none for a shape of figures."""
    laid = shape.own_points(LaidFace.of(shape, thickness_mm))
    return laid * np.array([-1.0, 1.0]) if mirrored else laid


def pulled(
    shape: ShapeBase, thickness_mm: float, *, handle: str, x_mm: float, y_mm: float, unit: Unit, mirrored: bool = False
) -> ShapeBase:
    """The shape after a handle is pulled to (x, y), its figure rounded to 1 mm or 1/16 in (angles to half a degree).

    Raises: PlanError for a handle the shape does not have, or where nothing to bend would be left.
    """
    hand = np.array([-x_mm if mirrored else x_mm, y_mm])
    step = 1.0 if unit == "mm" else MM_PER_INCH / 16
    name, _, tail = handle.rpartition("-")
    number = int(tail) if tail.isascii() and tail.isdigit() and len(tail) < 6 else -1
    if isinstance(shape, Polycurve):
        return _pulled_stretch(shape, thickness_mm, name, number, hand, step)
    if isinstance(shape, ArcByPoints | Outline) and name == "point":
        laid = LaidFace.of(shape, thickness_mm)
        if not 0 <= number < (3 if isinstance(shape, ArcByPoints) else len(shape.points_mm)):
            raise _nothing_there()
        return _valid(shape, shape.with_point(number, hand, step, laid))
    if not 0 <= number < len(shape.grips) or shape.grips[number].field != name:
        raise _nothing_there()
    grip = shape.grips[number]
    is_angle = grip.field.endswith("_deg")
    if grip.exact:
        value = grip.exact(shape, float(hand[0]), float(hand[1]))
    else:
        value = _nearest(shape, grip, thickness_mm, hand, 0.2 if is_angle else step / 4)
    return _within(shape, grip.field, to_step(value, 0.5 if is_angle else step))


def _nothing_there() -> PlanError:
    return PlanError("handle", "There is no such handle.")


def _nearest(shape: ShapeBase, grip: Grip, thickness_mm: float, hand: Array, near: float) -> float:
    """The value of a figure that brings its handle nearest to the hand."""
    field, now = grip.field, float(getattr(shape, grip.field))
    low, high = limits(type(shape), field)
    reach = REACH_DEG if field.endswith("_deg") else max(REACH_MM, 1.2 * abs(now))

    def apart(value: float) -> float:
        try:
            moved = shape.model_copy(update={field: value})
            laid = LaidFace.of(moved, thickness_mm)
            return float(np.hypot(*(laid.one(grip.where(moved, laid.curve)) - hand)))
        except PlanError:
            return math.inf

    return searched(apart, f"shape.{field}", max(low, now - reach), min(high, now + reach), near)


def searched(apart: Callable[[float], float], field: str, low: float, high: float, near: float) -> float:
    """Where a function of one valley is least between low and high, to within `near`: a coarse look, then a golden
    section. Raises: PlanError where it is infinite everywhere."""
    spots = np.linspace(low, high, SPOTS)
    far = [apart(float(v)) for v in spots]
    best = int(np.argmin(far))
    if not math.isfinite(far[best]):
        raise PlanError(field, "It cannot be pulled there.")
    return _golden(apart, float(spots[max(0, best - 1)]), float(spots[min(SPOTS - 1, best + 1)]), near)


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


# -- stretches of a chain -------------------------------------------------------------------------------------------
def _pulled_stretch(
    shape: Polycurve, thickness_mm: float, name: str, number: int, hand: Array, step: float
) -> ShapeBase:
    rows = list(shape.stretches)
    laid = LaidFace.of(shape, thickness_mm)
    if name == "add":
        (end,), (heading,) = laid.curve.at(np.array([laid.curve.length_mm]))
        along = float((hand - end - np.array([0.0, laid.lift])) @ np.array([math.cos(heading), math.sin(heading)]))
        length = min(max(step, to_step(along, step)), limits(Stretch, "length_mm")[1])
        straight = Stretch(kind="straight", length_mm=length)
        return _valid(shape, shape.of_rows([*rows, straight]))
    if not 0 <= number < len(rows):
        raise _nothing_there()
    if name == "move":
        middles = laid.at(np.array([(a + b) / 2 for a, b in shape.spans(laid.curve)]))
        return moved_stretch(shape, number, int(np.argmin(np.hypot(*(middles - hand).T))))
    row = rows[number]
    figure = {"joint": "angle_deg" if row.kind == "arc" else "length_mm", "radius": "radius_mm"}.get(name)
    if figure is None or (name == "radius" and row.kind != "arc"):
        raise _nothing_there()
    share = 0.5 if name == "radius" else 1.0

    def changed(value: float) -> list[Stretch]:
        return [*rows[:number], row.model_copy(update={figure: value}), *rows[number + 1 :]]

    def apart(value: float) -> float:
        try:
            moved = shape.model_copy(update={"stretches": tuple(changed(value))})
            there = LaidFace.of(moved, thickness_mm)
            a, b = moved.spans(there.curve)[number]
            return float(np.hypot(*(there.one(a + share * (b - a)) - hand)))
        except PlanError:
            return math.inf

    now, is_angle = float(getattr(row, figure)), figure == "angle_deg"
    reach = REACH_DEG if is_angle else max(150.0, now)
    low, high = limits(Stretch, figure)
    field = f"shape.stretches.{number}.{figure}"
    value = searched(apart, field, max(low, now - reach), min(high, now + reach), 0.2 if is_angle else step / 4)
    value = to_step(value, 0.5 if is_angle else step)
    if is_angle and abs(value) < 0.5:
        value = math.copysign(0.5, value)
    return _valid(shape, shape.of_rows(changed(value)))


def moved_stretch(shape: Polycurve, number: int, to: int) -> ShapeBase:
    """The chain with one stretch taken to another place."""
    return _valid(shape, shape.moved(number, to))


# -- limits ---------------------------------------------------------------------------------------------------------
def _valid(shape: ShapeBase, sets: dict[str, Any]) -> ShapeBase:
    try:
        return type(shape).model_validate({**shape.model_dump(), **sets})
    except ValidationError:
        raise PlanError("shape", "It cannot be pulled there.") from None


def _within(shape: ShapeBase, field: str, value: float) -> ShapeBase:
    low, high = limits(type(shape), field)
    if not low <= value <= high:
        end = "small" if value < low else "large"
        raise PlanError(f"shape.{field}", f"That would make it too {end} to plan.")
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
