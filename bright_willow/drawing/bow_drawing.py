"""A bow drawn by its ends, against the curve that is wanted, true to scale."""

from __future__ import annotations

import numpy as np

from ..core.ground.units import Unit, format_length
from ..core.heat.bowstring import Bowstring
from .svg import named, num, polyline, tag

WIDTH, EDGE = 330.0, 26.0


def bow_svg(bow: Bowstring, unit: Unit) -> str:
    """The bow, the curve wanted, the string, and the brackets with what each must move."""
    both = np.vstack((bow.points, bow.wanted))
    low, high = both.min(axis=0), both.max(axis=0)
    scale = (WIDTH - 2 * EDGE) / float(high[0] - low[0])
    flip = np.array([scale, -scale])

    def at(points: np.ndarray) -> np.ndarray:
        return (points - [low[0], high[1]]) * flip + EDGE

    drawn, wanted = at(bow.points), at(bow.wanted)
    parts = [
        named("The bow drawn by its ends, and the curve wanted"),
        tag("path", d=polyline(wanted), class_="outline target"),
        tag("path", d=polyline(drawn), class_="bow"),
        tag("path", d=polyline(drawn[[0, -1]]), class_="bowstring"),
    ]
    length = float(np.hypot(*np.diff(bow.points, axis=0).T).sum())
    for bracket in bow.brackets:
        x, y = wanted[round(bracket.at_mm / length * (len(wanted) - 1))]
        parts.append(tag("circle", cx=num(x), cy=num(y), r=4, class_="bracket"))
        parts.append(_words(x, y + (22 if bracket.by_mm < 0 else -10), format_length(abs(bracket.by_mm), unit)))
    height = float((high[1] - low[1]) * scale) + 2 * EDGE
    foot = height - 6
    parts.append(_words(WIDTH / 2, foot, f"string {format_length(bow.chord_mm, unit)}"))
    return tag(
        "svg",
        "".join(parts),
        class_="bow-drawing",
        viewBox=f"0 0 {num(WIDTH)} {num(height)}",
        role="img",
        xmlns="http://www.w3.org/2000/svg",
    )


def _words(x: float, y: float, text: str) -> str:
    return tag("text", text, x=num(x), y=num(y), text__anchor="middle", font__size="12", class_="note")
