"""Learnt figures as bars: what is rule of thumb as a mark, what was learnt as a band with its likely value; and what
pieces gave up in the weeks after release, day by day."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from html import escape

import numpy as np

from ..core.common.estimate import Estimate
from ..core.learning.settling import Remeasurement, Settling
from .canvas import WIDTH_PX, Canvas, Frame
from .measured_drawing import steps
from .svg import named, num, polyline, tag

WIDE, ROW, LEFT, RIGHT, TOP = 860.0, 46.0, 270.0, 160.0, 12.0
DAYS_HIGH_PX = 320.0
MOST_DAYS = 120.0


@dataclass(frozen=True)
class LearnedBand:
    """One learnt figure: what it is of, its band, what is rule of thumb in its place, and how it is said."""

    name: str
    learnt: Estimate
    allowed: float | None
    message: str


def band_chart(rows: Sequence[LearnedBand], name: str, *, log: bool = False) -> str:
    """Bars on one scale, from nothing unless it is a logarithm. rows: one or more, above 0 where log."""
    ends = [v for r in rows for v in (r.learnt.low, r.learnt.high, r.allowed) if v is not None]
    if log:
        low, high = math.log(max(1e-9, min(ends)) * 0.85), math.log(max(ends) * 1.15)
    else:
        low, high = min(0.0, *ends), max(1e-9, *ends) * 1.05

    def x(v: float) -> float:
        at = math.log(max(v, 1e-9)) if log else v
        return LEFT + (WIDE - LEFT - RIGHT) * (min(max(at, low), high) - low) / (high - low)

    parts = []
    for i, row in enumerate(rows):
        y = TOP + ROW * (i + 0.5)
        parts.append(tag("text", escape(row.name), x=LEFT - 14, y=y + 5, class_="row", text__anchor="end"))
        parts.append(tag("line", x1=LEFT, y1=y, x2=WIDE - RIGHT, y2=y, class_="axis"))
        a, b = x(row.learnt.low), x(row.learnt.high)
        band = named("your shop: 8 of 10 fall between")
        parts.append(tag("rect", band, x=a, y=y - 9, width=max(2.0, b - a), height=18.0, rx=9.0, class_="band"))
        parts.append(tag("circle", cx=x(row.learnt.likely), cy=y, r=5, class_="likely"))
        if row.allowed is not None:
            at = num(x(row.allowed))
            parts.append(tag("path", named("rule of thumb"), d=f"M{at} {num(y - 14)}V{num(y + 14)}", class_="allowed"))
        parts.append(tag("text", escape(row.message), x=WIDE - RIGHT + 10, y=y + 5, class_="tick"))
    high_px = TOP * 2 + ROW * len(rows)
    box = f"0 0 {num(WIDE)} {num(high_px)}"
    return tag("svg", named(name) + "".join(parts), viewBox=box, class_="learning band-chart", role="img")


@dataclass(frozen=True)
class SettledRow:
    """A class that settles: its name, what it comes to, and its pieces day by day."""

    name: str
    made: Settling
    share: Estimate
    pieces: Sequence[Sequence[Remeasurement]]


def settling_chart(rows: Sequence[SettledRow]) -> str:
    """Share of the curvature gone against days since the first measurement: pieces as dots, classes as curves."""
    canvas = Canvas(Frame(0.0, DAYS_HIGH_PX, WIDTH_PX, DAYS_HIGH_PX))
    left, right, foot, top = 60.0, 150.0, 44.0, 18.0
    seen = [later for row in rows for piece in row.pieces for later in piece]
    days = min(MOST_DAYS, max(14.0, *(s.days for s in seen))) * 1.05
    most = max(0.01, *(abs(s.share) for s in seen), *(abs(r.share.high) for r in rows)) * 1.1
    least = min(0.0, *(s.share for s in seen), *(r.share.likely for r in rows)) * 1.1

    def x(d: float) -> float:
        return left + (WIDTH_PX - left - right) * min(d, days) / days

    def y(share: float) -> float:
        return foot + (DAYS_HIGH_PX - foot - top) * (share - least) / (most - least)

    for d in steps(days):
        canvas.parts.append(canvas.line(x(d), y(least), x(d), y(most), "grid"))
        canvas.parts.append(canvas.text(x(d), foot - 20, f"{d:g}", "note", size=12))
    for s in steps(most):
        canvas.parts.append(canvas.line(left, y(s), x(days), y(s), "grid"))
        canvas.parts.append(canvas.text(left - 8, y(s) - 4, f"{s * 100:g} %", "note", "end", 12))
    canvas.parts.append(canvas.text(x(days), 6, "days since it was first measured", "note", "end", 12))
    ends: list[float] = []
    for n, row in enumerate(sorted(rows, key=lambda r: r.made.after(days, r.share.likely))):
        at = np.linspace(0, days, 60)
        curve = [(x(float(d)), y(row.made.after(float(d), row.share.likely))) for d in at]
        canvas.parts.append(tag("path", named(row.name), d=polyline(curve), class_=f"settling of-{n % 3}"))
        level = curve[-1][1]
        while any(abs(level - e) < 16 for e in ends):
            level += 16
        ends.append(level)
        canvas.parts.append(canvas.text(x(days) + 8, level - 4, row.name, "note", "start", 12))
        for piece in row.pieces:
            for later in piece:
                mark = named(f"{row.name}: {later.share:.1%} after {later.days:g} days")
                spot = tag("circle", mark, cx=x(later.days), cy=-y(later.share), r=4.0, class_=f"settled of-{n % 3}")
                canvas.parts.append(spot)
    return canvas.drawn("Creep since first measured", "board settling-chart", role="img")
