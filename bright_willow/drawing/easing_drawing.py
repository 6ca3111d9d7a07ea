"""The line a piece is checked on, with the places where gaps are read and the turns to change."""

from __future__ import annotations

import numpy as np

from ..core.common.units import Unit, format_length
from ..core.measuring.easing import CurveCheck, EasingPass, Turn
from .canvas import Canvas, Frame
from .svg import named, num, polyline, tag

WIDE_PX, HEIGHT_PX = 520.0, 380.0
OUT_PX = 26.0


def turn_words(turn: Turn) -> str:
    """Return a turn in a few words: "ease 3°", "2.5° tighter"."""
    degrees = f"{round(turn.degrees * 2) / 2:g}°"
    return f"ease {degrees}" if turn.direction == "ease" else f"{degrees} {turn.direction}"


def easing_svg(
    check: CurveCheck, thickness_mm: float, places_mm: tuple[float, ...], last: EasingPass | None, unit: Unit
) -> str:
    """Return the line at true scale, its places numbered from 1; the turns of the last pass in words where they are.

    places_mm: along the piece from its left end.
    """
    curve = check.curve
    faces = [curve.parallel(y).traced(96) for y in (-thickness_mm / 2, thickness_mm / 2)]
    canvas = Canvas(Frame.around(np.vstack(faces), height_px=HEIGHT_PX, margin_px=(56, 84, 56, 84), wide_px=WIDE_PX))
    canvas.space.take_line(curve.traced(96), thickness_mm / 2, gap_px=4.0)
    outline = polyline(np.vstack((faces[0], faces[1][::-1]))) + "Z"
    canvas.parts.append(tag("path", named("the line of the piece"), d=outline, class_="strip"))
    middle = curve.anchored_at_mm
    _side_words(canvas, curve.at(np.array([middle])), thickness_mm)
    for number, station in enumerate(places_mm, 1):
        (point,), (heading,) = curve.at(np.array([station]))
        out = np.array([-np.sin(heading), np.cos(heading)])
        x, y = point + out * (thickness_mm / 2 + OUT_PX * canvas.px)
        near = point + out * thickness_mm / 2
        canvas.parts += [
            canvas.line(*near, *(near + out * (OUT_PX - 11) * canvas.px), "extension"),
            tag("circle", cx=num(x), cy=num(-y), r=num(11 * canvas.px), class_="place"),
            canvas.text(x, y - 4.5 * canvas.px, str(number), "figure", size=13),
        ]
        canvas.space.take_line(np.array([[x, y], [x, y + 0.01]]), gap_px=12.0)
    for turn in last.turns if last else ():
        (point,), _ = curve.at(np.array([turn.station_mm]))
        canvas.parts.append(tag("circle", cx=num(point[0]), cy=num(-point[1]), r=num(6 * canvas.px), class_="turn"))
        canvas.parts.append(canvas.label(canvas.around(*point, away=14), turn_words(turn), "figure turn", 14))
    title = f"the line, {format_length(curve.length_mm, unit)} long"
    return canvas.drawn(title, "board easing-drawing", role="img")


def _side_words(canvas: Canvas, at: tuple[np.ndarray, np.ndarray], thickness_mm: float) -> None:
    """Which side of the line is outside, and which inside, at its middle; and the mark there."""
    (point,), (heading,) = at
    out = np.array([-np.sin(heading), np.cos(heading)])
    ends = point + out * thickness_mm, point - out * thickness_mm
    canvas.parts.append(canvas.line(*ends[0], *ends[1], "stick-mark centre"))
    for word, side in (("outside", 1), ("inside", -1)):
        x, y = point + out * side * (thickness_mm / 2 + 24 * canvas.px)
        canvas.parts.append(canvas.text(x, y - 4 * canvas.px, word, "note"))
