"""Bends of the book over time: what each opened over mechanics, by the day it was measured; where drift was found."""

from __future__ import annotations

import datetime as dt
import math
from collections.abc import Sequence
from dataclasses import dataclass

from .canvas import WIDTH_PX, Canvas, Frame
from .learning_chart import TICKS
from .svg import named, polyline, tag

HIGH_PX = 300.0
LEFT_PX, RIGHT_PX, FOOT_PX, TOP_PX = 52.0, 24.0, 48.0, 24.0
MOST_MONTHS = 9


@dataclass(frozen=True)
class DatedBend:
    """One bend: its day, its loss ratio with the error of measuring, what it is called, whether it is left out."""

    day: dt.date
    ratio: float
    error: float
    message: str
    left_out: bool


@dataclass(frozen=True)
class SpringbackShift:
    """From a day on a kind springs back otherwise: its mean before and after."""

    day: dt.date
    before: float
    after: float
    message: str


def book_chart(bends: Sequence[DatedBend], shifts: Sequence[SpringbackShift] = ()) -> str:
    """bends: one or more. Ratios beyond the scale stand at its end."""
    canvas = Canvas(Frame(0.0, HIGH_PX, WIDTH_PX, HIGH_PX))
    first, last = min(b.day for b in bends), max(b.day for b in bends)
    span = max(14, (last - first).days)

    def x(day: dt.date) -> float:
        return LEFT_PX + (WIDTH_PX - LEFT_PX - RIGHT_PX) * (min(max((day - first).days, 0), span) / span)

    def y(ratio: float) -> float:
        low, high = math.log(TICKS[0]), math.log(TICKS[-1])
        at = math.log(min(max(ratio, TICKS[0]), TICKS[-1]))
        return FOOT_PX + (HIGH_PX - FOOT_PX - TOP_PX) * (at - low) / (high - low)

    for tick in TICKS:
        look = "base-line" if tick == 1.0 else "grid"
        canvas.parts.append(canvas.line(LEFT_PX, y(tick), WIDTH_PX - RIGHT_PX, y(tick), look))
        canvas.parts.append(canvas.text(LEFT_PX - 8, y(tick) - 4, f"{tick:g}", "note", "end", 12))
    for day in _months(first, first + dt.timedelta(span)):
        canvas.parts.append(canvas.line(x(day), FOOT_PX, x(day), HIGH_PX - TOP_PX, "grid"))
        canvas.parts.append(canvas.text(x(day), FOOT_PX - 18, f"{day:%b %Y}", "note", "middle", 12))
    for shift in shifts:
        if first <= shift.day <= last:
            at = x(shift.day)
            title = named(shift.message)
            canvas.parts.append(tag("path", title, d=polyline([(at, FOOT_PX), (at, HIGH_PX - TOP_PX)]), class_="shift"))
            for level, a, b in ((shift.before, LEFT_PX, at), (shift.after, at, WIDTH_PX - RIGHT_PX)):
                canvas.parts.append(
                    tag("path", title, d=polyline([(a, y(level)), (b, y(level))]), class_="shift-level")
                )
    for bend in bends:
        look = "dot left-out" if bend.left_out else "dot"
        low, high = y(max(1e-3, bend.ratio - bend.error)), y(max(1e-3, bend.ratio + bend.error))
        canvas.parts.append(tag("path", d=polyline([(x(bend.day), low), (x(bend.day), high)]), class_="whisker"))
        spot = tag("circle", named(bend.message), cx=x(bend.day), cy=-y(max(1e-3, bend.ratio)), r=4.0, class_=look)
        canvas.parts.append(spot)
    canvas.parts.append(
        canvas.text(WIDTH_PX - RIGHT_PX, 8, "day first measured; measured ÷ calculated", "note", "end", 12)
    )
    return canvas.drawn("Springback of the pieces found, over time", "board book-chart", role="img")


def _months(first: dt.date, last: dt.date) -> list[dt.date]:
    """First days of months between two days, so many that their names stand apart."""
    made, day = list[dt.date](), dt.date(first.year, first.month, 1)
    while day <= last:
        if day >= first:
            made.append(day)
        day = dt.date(day.year + day.month // 12, day.month % 12 + 1, 1)
    return made[:: max(1, math.ceil(len(made) / MOST_MONTHS))] or [first]
