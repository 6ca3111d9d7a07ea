"""A bow drawn by its ends, against the curve that is wanted, true to scale."""

from __future__ import annotations

import numpy as np

from ..core.common.units import Unit, format_length
from ..core.heat.elastica import Bowstring
from .svg import named, num, polyline, tag

WIDTH, EDGE, SIDE, HIGHEST = 330.0, 26.0, 62.0, 200.0
UP = np.array([1.0, -1.0])


def bow_svg(bow: Bowstring, unit: Unit) -> str:
    """The bow, the curve wanted, the string, and the brackets with what each must move."""
    both = np.vstack((bow.points, bow.wanted))
    low, high = both.min(axis=0), both.max(axis=0)
    across, up = (float(v) for v in high - low)
    scale = min((WIDTH - 2 * SIDE) / across, HIGHEST / up)
    left = (WIDTH - across * scale) / 2
    flip = np.array([scale, -scale])

    def at(points: np.ndarray) -> np.ndarray:
        return np.asarray((points - [low[0], high[1]]) * flip + [left, EDGE])

    drawn, wanted = at(bow.points), at(bow.wanted)
    parts = [
        named("The bow pulled by its ends, and the finished curve"),
        tag("path", d=polyline(wanted * UP), class_="outline target"),
        tag("path", d=polyline(drawn * UP), class_="bow"),
        tag("path", d=polyline(drawn[[0, -1]] * UP), class_="bowstring"),
    ]
    length = float(np.hypot(*np.diff(bow.points, axis=0).T).sum())
    for bracket in bow.brackets:
        x, y = wanted[round(bracket.at_mm / length * (len(wanted) - 1))]
        parts.append(tag("circle", cx=num(x), cy=num(y), r=4, class_="bracket"))
        said = format_length(abs(bracket.by_mm), unit)
        if abs(x - WIDTH / 2) < 8:
            parts.append(_words(x, y - 10, said))
        else:
            parts.append(_words(x + (9 if x > WIDTH / 2 else -9), y + 4, said, "start" if x > WIDTH / 2 else "end"))
    height = up * scale + 2 * EDGE
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


def _words(x: float, y: float, text: str, anchor: str = "middle") -> str:
    return tag("text", text, x=num(x), y=num(y), text__anchor=anchor, font__size="12", class_="note")
