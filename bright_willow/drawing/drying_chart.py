"""Springback of a bend against its hours on the form: off the form, and once it has dried; today's choice marked."""

from __future__ import annotations

import math
from collections.abc import Callable
from html import escape

from ..core.common.units import Unit, format_length
from ..core.heat.drying import AfterHours
from .svg import named, num, polyline, tag

LEFT, RIGHT, TOP, BOTTOM = 66.0, 640.0, 30.0, 226.0
TICK_HOURS = (1.0, 2.0, 6.0, 12.0, 24.0, 48.0, 96.0, 240.0, 480.0)
PLENTY = 5  # of ticks up the side


def drying_chart(points: tuple[AfterHours, ...], chosen: AfterHours, unit: Unit) -> str:
    """The chart at fixed size. points: by rising hours; chosen: the hours planned now."""
    hours = [p.hours for p in points]
    low, high = math.log(hours[0]), math.log(hours[-1])
    top = 1.08 * max(max(p.tip_mm, p.dried_tip_mm) for p in points) or 1.0

    def x(at: float) -> float:
        share = (math.log(min(max(at, hours[0]), hours[-1])) - low) / (high - low)
        return LEFT + (RIGHT - LEFT) * share

    def y(mm: float) -> float:
        return BOTTOM - (BOTTOM - TOP) * mm / top

    parts = [named("Springback at each end against hours on the form")]
    step = _step(top, unit)
    for i in range(1, math.floor(top / step) + 1):
        parts.append(tag("path", d=f"M{num(LEFT)} {num(y(i * step))}H{num(RIGHT)}", class_="grid"))
        parts.append(_text(LEFT - 6, y(i * step) + 4, format_length(i * step, unit), "end", "tick"))
    for h in TICK_HOURS:
        parts.append(tag("path", d=f"M{num(x(h))} {num(BOTTOM)}v4", class_="grid"))
        message = f"{h:g} h" if h < 72 else f"{h / 24:g} days"
        parts.append(_text(x(h), BOTTOM + 17, message, "middle", "tick"))
    for value, name, look in (("tip_mm", "off the form", "core"), ("dried_tip_mm", "once it has dried", "dried")):
        line = [(x(p.hours), -y(getattr(p, value))) for p in points]
        parts.append(tag("path", named(name), d=polyline(line), class_=look))
    at = x(chosen.hours)
    parts.append(tag("path", d=f"M{num(at)} {num(TOP)}V{num(BOTTOM)}", class_="time time-planned"))
    anchor = "start" if at < RIGHT - 240 else "end"
    aside = at + (6 if anchor == "start" else -6)
    parts.append(_text(aside, TOP - 8, f"{chosen.hours:g} h on the form, as planned", anchor, "figure"))
    for mm, message, look in (
        (chosen.tip_mm, "off the form", "dot-now"),
        (chosen.dried_tip_mm, "once it has dried", "dot-dried"),
    ):
        title = named(f"{message}: {format_length(mm, unit)}")
        parts.append(tag("circle", title, cx=num(at), cy=num(y(mm)), r=5, class_=look))
    parts += _names(points[-1], y)
    return tag(
        "svg",
        "".join(parts),
        class_="heat-chart drying-chart",
        viewBox="0 0 780 254",
        role="img",
        xmlns="http://www.w3.org/2000/svg",
    )


def _names(last: AfterHours, y: Callable[[float], float]) -> list[str]:
    """The name of each line beside its right end, apart from one another."""
    now, dried = y(last.tip_mm), y(last.dried_tip_mm)
    lack = max(0.0, 18 - abs(now - dried)) / 2
    up = -lack if now <= dried else lack
    return [
        _text(RIGHT + 8, now + up + 4, "off the form", "start", "figure"),
        _text(RIGHT + 8, dried - up + 4, "once it has dried", "start", "figure"),
    ]


def _step(top: float, unit: Unit) -> float:
    """A round step up the side: 1, 2 or 5 of a power of ten, in inches halves of an inch."""
    if unit == "in":
        step = 25.4 / 16
        while top / step > PLENTY:
            step *= 2
        return step
    power = 10.0 ** math.floor(math.log10(top / PLENTY))
    return next(power * s for s in (1, 2, 5, 10) if top / (power * s) <= PLENTY)


def _text(x: float, y: float, text: str, anchor: str, class_: str) -> str:
    return tag("text", escape(text), x=num(x), y=num(y), text__anchor=anchor, class_=class_, font__size=13)
