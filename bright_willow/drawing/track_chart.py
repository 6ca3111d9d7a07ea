"""Measured against predicted springback, piece by piece: on the diagonal the prediction was right."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from html import escape

from ..core.common.units import Unit, format_length
from ..core.measuring.track_record import TrackedPiece
from .svg import named, num, polyline, tag

LEFT, RIGHT, TOP, BOTTOM = 74.0, 740.0, 26.0, 306.0
STEPS_MM = (0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100, 200, 500, 1_000, 2_000, 5_000)
STEPS_IN = tuple(25.4 * s for s in (1 / 64, 1 / 32, 1 / 16, 1 / 8, 1 / 4, 1 / 2, 1, 2, 4, 8, 16, 32, 64, 128))


def track_chart(pieces: Sequence[TrackedPiece], unit: Unit) -> str:
    """The chart. pieces: one or more. Both axes are logarithmic; what closed, or hardly moved, stands at their ends."""
    ends = [v for p in pieces for v in (p.predicted.low, p.predicted.likely, p.predicted.high, p.measured_mm) if v > 0]
    steps = STEPS_IN if unit == "in" else STEPS_MM
    low = max((s for s in steps if s <= min(ends)), default=steps[0])
    high = min((s for s in steps if s >= max(ends)), default=steps[-1])
    if high <= low:
        low, high = low / 2, 2 * high

    def share(mm: float) -> float:
        return math.log(min(max(mm, low), high) / low) / math.log(high / low)

    def x(mm: float) -> float:
        return LEFT + (RIGHT - LEFT) * share(mm)

    def y(mm: float) -> float:
        return BOTTOM - (BOTTOM - TOP) * share(mm)

    parts = [named("Measured against predicted springback at each end")]
    for step in (s for s in steps if low <= s <= high):
        parts.append(tag("path", d=f"M{num(LEFT)} {num(y(step))}H{num(RIGHT)}", class_="grid"))
        parts.append(tag("path", d=f"M{num(x(step))} {num(TOP)}V{num(BOTTOM)}", class_="grid"))
        message = format_length(step, unit)
        parts.append(_text(LEFT - 6, y(step) + 4, message, "end", "tick"))
        parts.append(_text(x(step), BOTTOM + 17, message, "middle", "tick"))
    parts.append(tag("path", d=polyline([(LEFT, -BOTTOM), (RIGHT, -TOP)]), class_="diagonal"))
    parts.append(_text((LEFT + RIGHT) / 2, BOTTOM + 38, "predicted springback at each end", "middle", "tick"))
    parts.append(_text(LEFT + 10, TOP + 18, "↑ measured: above the line it sprang back more", "start", "tick"))
    parts += [_mark(p, x, y, unit) for p in pieces]
    return tag(
        "svg",
        "".join(parts),
        class_="heat-chart track-chart",
        viewBox="0 0 780 354",
        role="img",
        xmlns="http://www.w3.org/2000/svg",
    )


def _mark(piece: TrackedPiece, x: Callable[[float], float], y: Callable[[float], float], unit: Unit) -> str:
    """A piece: its predicted range as a bar, a disc where it fell inside, a diamond where it did not."""
    predicted, at = piece.predicted, y(piece.measured_mm)
    where = "inside the range" if piece.is_inside else "outside the range"
    figures = (format_length(v, unit) for v in (predicted.likely, predicted.low, predicted.high, piece.measured_mm))
    message = "{}: {} predicted, likely {} to {}; {} measured, {}".format(piece.message, *figures, where)
    look = ("inside" if piece.is_inside else "outside") + ("" if piece.counts else " left-out")
    bar = tag("path", d=f"M{num(x(predicted.low))} {num(at)}H{num(x(predicted.high))}", class_="range")
    middle = x(predicted.likely)
    if piece.is_inside:
        mark = tag("circle", cx=num(middle), cy=num(at), r=5)
    else:
        mark = tag("path", d=f"M{num(middle)} {num(at - 7)}l7 7l-7 7l-7-7Z")
    return tag("g", named(message) + bar + mark, class_=look)


def _text(x: float, y: float, text: str, anchor: str, class_: str) -> str:
    return tag("text", escape(text), x=num(x), y=num(y), text__anchor=anchor, class_=class_, font__size=13)
