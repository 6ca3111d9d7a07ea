"""What can be taken hold of on the drawing, and the shape a pull leaves behind."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from ..errors import OutOfRange
from ..units import MM_PER_INCH, Unit
from .arc import Arc
from .shapes import ArcByChord, ArcByRadius, ShapeBase

HandleName = Literal["rise", "start", "end"]


@dataclass(frozen=True, slots=True)
class Handle:
    """A place to take hold of: x from the middle, y above the chord of the stated face, both mm."""

    name: HandleName
    x_mm: float
    y_mm: float
    says: str


def stated_arc(shape: ArcByRadius | ArcByChord) -> Arc:
    """The arc of the face the maker speaks about."""
    if isinstance(shape, ArcByChord):
        return Arc.from_chord_and_rise(chord_mm=shape.chord_mm, rise_mm=shape.rise_mm)
    return Arc(shape.radius_mm, math.radians(shape.angle_deg))


def handles(shape: ShapeBase) -> tuple[Handle, ...]:
    """The crown and both ends of the stated face of an arc; other shapes are changed by their figures."""
    if not isinstance(shape, ArcByRadius | ArcByChord):
        return ()
    arc = stated_arc(shape)
    half = arc.chord_mm / 2
    at_end = "the chord" if isinstance(shape, ArcByChord) else "the angle"
    return (
        Handle("rise", 0.0, arc.rise_mm, "Drag to change the rise"),
        Handle("start", -half, 0.0, f"Drag to change {at_end}"),
        Handle("end", half, 0.0, f"Drag to change {at_end}"),
    )


def pulled(shape: ShapeBase, *, handle: HandleName, x_mm: float, y_mm: float, unit: Unit) -> ArcByChord | ArcByRadius:
    """The shape after a handle is pulled to (x, y), rounded to 1 mm or 1/16 in (angles to half a degree).

    The crown changes the rise over the same chord. An end changes the chord at the same rise, or, for an arc given by
    its radius, the angle at the same radius. Raises: OutOfRange where no arc would be left.
    """
    if not isinstance(shape, ArcByRadius | ArcByChord):
        raise OutOfRange("shape.kind", "This shape has nothing to take hold of.")
    arc = stated_arc(shape)
    step = 1.0 if unit == "mm" else MM_PER_INCH / 16
    if isinstance(shape, ArcByChord):
        if handle == "rise":
            return _within(shape, rise_mm=max(step, _round(y_mm, step)))
        return _within(shape, chord_mm=max(step, _round(2 * abs(x_mm), step)))
    if handle == "rise":
        moved = Arc.from_chord_and_rise(chord_mm=arc.chord_mm, rise_mm=max(step, y_mm))
    else:
        centre_y = arc.rise_mm - arc.radius_mm
        moved = Arc(arc.radius_mm, 2 * math.atan2(abs(x_mm), y_mm - centre_y))
    return _within(shape, radius_mm=_round(moved.radius_mm, step), angle_deg=_round(math.degrees(moved.angle_rad), 0.5))


def _round(value: float, step: float) -> float:
    return round(round(value / step) * step, 6)


def _within(shape: ArcByRadius | ArcByChord, **sets: float) -> ArcByChord | ArcByRadius:
    for name, value in sets.items():
        low, high = limits(type(shape), name)
        if not low <= value <= high:
            end = "small" if value < low else "large"
            raise OutOfRange(f"shape.{name}", f"That would make the arc too {end} to plan.")
    return shape.model_copy(update=sets)


def limits(model: type[ArcByRadius] | type[ArcByChord], name: str) -> tuple[float, float]:
    """Least and largest value a field of a shape takes."""
    bounds = {type(m).__name__: m for m in model.model_fields[name].metadata}
    return float(bounds["Ge"].ge), float(bounds["Le"].le)
