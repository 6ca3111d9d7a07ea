"""What a shop has learnt: each bend's loss ratio, and the band the next bend should fall in."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from html import escape

from ..core.common.estimate import Estimate
from .svg import named, num, tag

WIDTH, ROW, LEFT, RIGHT, TOP = 860.0, 64.0, 230.0, 20.0, 34.0
TICKS = (0.25, 0.5, 0.7, 1.0, 1.4, 2.0, 3.0, 4.0)


@dataclass(frozen=True)
class Dot:
    """One bend: its loss ratio, the error the measuring gives it, what it is called, whether it is left out."""

    ratio: float
    error: float
    message: str
    left_out: bool


@dataclass(frozen=True)
class LearningRow:
    """One stock group; not_drawn: how many older bends count but are not drawn; scatter: of its ln k."""

    name: str
    next_bend: Estimate
    bends: int
    dots: tuple[Dot, ...]
    not_drawn: int = 0
    scatter: float = 0.0


def _x(ratio: float) -> float:
    """Where a ratio stands; one beyond the scale stands at its end, and is marked there as beyond it."""
    low, high = math.log(TICKS[0]), math.log(TICKS[-1])
    share = (math.log(min(max(ratio, TICKS[0]), TICKS[-1])) - low) / (high - low)
    return LEFT + share * (WIDTH - LEFT - RIGHT)


def _dot(dot: Dot, y: float) -> str:
    """A bend; one off the scale is an arrow at its end with its number beside it."""
    x, look = _x(max(dot.ratio, 0.01)), "dot left-out" if dot.left_out else "dot"
    title = named(dot.message)
    if TICKS[0] <= dot.ratio <= TICKS[-1]:
        return tag("circle", title, cx=num(x), cy=num(y), r=4.5, class_=look)
    way = 1 if dot.ratio > TICKS[-1] else -1
    arrow = tag("path", title, d=f"M{num(x + 7 * way)} {num(y)}l{-9 * way} -5v10Z", class_=look)
    words = tag(
        "text",
        f"{dot.ratio:.1f}",
        x=num(x - 6 * way),
        y=num(y + 4),
        class_="tick",
        text__anchor="end" if way > 0 else "start",
    )
    return arrow + words


def learning_chart(rows: Sequence[LearningRow]) -> str:
    """Springback over what mechanics predicts, on a log scale; 1 means mechanics was right."""
    height = TOP + ROW * len(rows) + 26
    parts = []
    for tick in TICKS:
        x = _x(tick)
        kind = "unity" if tick == 1.0 else "grid"
        parts.append(tag("path", d=f"M{num(x)} {num(TOP)}V{num(height - 26)}", class_=kind))
        parts.append(tag("text", f"{tick:g}", x=num(x), y=num(height - 8), class_="tick", text__anchor="middle"))
    parts.append(tag("text", "as calculated", x=num(_x(1.0)), y=20, class_="tick", text__anchor="middle"))
    parts.append(tag("text", "springs back less", x=num(_x(0.27)), y=20, class_="tick"))
    parts.append(tag("text", "springs back more", x=num(_x(3.9)), y=20, class_="tick", text__anchor="end"))
    for i, row in enumerate(rows):
        middle = TOP + ROW * (i + 0.5)
        band = row.next_bend
        parts.append(tag("text", escape(row.name), x=8, y=num(middle - 2), class_="row-name"))
        bends = (
            f"{row.bends} bend{'' if row.bends == 1 else 's'} · next {band.likely:.2f} ({band.low:.2f}–{band.high:.2f})"
        )
        parts.append(tag("text", bends, x=8, y=num(middle + 16), class_="tick"))
        more = f"scatter ±{row.scatter:.0%}" + (f" · {row.not_drawn} older not drawn" if row.not_drawn else "")
        parts.append(tag("text", more, x=8, y=num(middle + 29), class_="tick"))
        parts.append(
            tag(
                "rect",
                named(f"the next bend, likely {band.low:.2f} to {band.high:.2f}"),
                x=num(_x(band.low)),
                y=num(middle - 17),
                width=num(_x(band.high) - _x(band.low)),
                height=34,
                rx=4,
                class_="band",
            )
        )
        parts.append(tag("path", d=f"M{num(_x(band.likely))} {num(middle - 17)}v34", class_="likely"))
        parts += [_dot(dot, middle + (j % 5 - 2) * 5) for j, dot in enumerate(row.dots)]
    label = named("Measured ÷ calculated springback of each bend, by kind of wood")
    return tag(
        "svg",
        label + "".join(parts),
        class_="learning-chart",
        viewBox=f"0 0 {num(WIDTH)} {num(height)}",
        role="img",
        xmlns="http://www.w3.org/2000/svg",
    )
