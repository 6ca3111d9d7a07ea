"""Core temperature against time in the steam box, with the times that matter; and the chamber cut across."""

from __future__ import annotations

from html import escape

from ..core.common.units import Unit, format_length, format_temperature
from ..core.heat.chamber import GAP_MM, Chamber
from ..core.heat.steam_plan import Steam
from .svg import named, num, polyline, tag

LEFT, RIGHT, TOP, BOTTOM = 40.0, 760.0, 24.0, 206.0
LOW_C = 15.0


def heat_chart(steam: Steam, unit: Unit) -> str:
    """The chart at fixed size; the curve of the core, the goal, the chamber, and the times."""
    minutes, core = steam.chart.minutes, steam.chart.core_c
    most, top_c = max(minutes), max(101.0, steam.chamber_c + 2)

    def x(minute: float) -> float:
        return LEFT + (RIGHT - LEFT) * minute / most

    def y(celsius: float) -> float:
        return BOTTOM - (BOTTOM - TOP) * (celsius - LOW_C) / (top_c - LOW_C)

    parts = [named("Core temperature against time in the steam box")]
    for c in (20, 40, 60, 80, 100):
        parts.append(tag("path", d=f"M{num(LEFT)} {num(y(c))}H{num(RIGHT)}", class_="grid"))
        parts.append(_text(LEFT - 6, y(c) + 4, format_temperature(c, unit, with_unit=False) + "°", "end", "tick"))
    step = next(s for s in (1, 2, 5, 10, 20, 30, 60, 120, 240, 480, 1440) if most / s <= 6)
    for i in range(int(most / step) + 1):
        at = i * step
        message = f"{at} min" if step < 60 else f"{at / 60:g} h"
        parts.append(_text(x(at), BOTTOM + 17, message, "middle", "tick"))
        parts.append(tag("path", d=f"M{num(x(at))} {num(BOTTOM)}v4", class_="grid"))
    parts.append(tag("path", d=f"M{num(LEFT)} {num(y(steam.chart.goal_c))}H{num(RIGHT)}", class_="goal"))
    goal = f"heated through from {format_temperature(round(steam.chart.goal_c), unit)}"
    parts.append(_text(RIGHT, y(steam.chart.goal_c) - 5, goal, "end", "note"))
    curve = polyline([(x(m), -y(c)) for m, c in zip(minutes, core, strict=True)])
    parts.append(tag("path", named("the middle of the piece"), d=curve, class_="core"))
    time = steam.time
    words = []
    marks = [(time.earliest_min, "earliest", 0), (time.planned_min, "planned", 1)]
    if time.latest_min is not None and time.latest_min <= most:
        marks.append((time.latest_min, "latest", 2))
    for minute, name, row in marks:
        at = x(min(minute, most))
        parts.append(tag("path", d=f"M{num(at)} {num(TOP)}V{num(BOTTOM)}", class_=f"time time-{name}"))
        anchor = "start" if at < RIGHT - 130 else "end"
        beside = at + (5 if anchor == "start" else -5)
        words.append(_text(beside, TOP + 76 + 17 * row, f"{name} {minute:.0f} min", anchor, "figure"))
    parts += words  # over the lines of the others
    return tag(
        "svg",
        "".join(parts),
        class_="heat-chart",
        viewBox="0 0 780 234",
        role="img",
        xmlns="http://www.w3.org/2000/svg",
    )


def chamber_svg(box: Chamber, *, thickness_mm: float, width_mm: float, pieces: int, unit: Unit) -> str:
    """The steam box in section: the stock in it with its gaps, to scale; vent above, drain below."""
    high, wide = box.inside_mm[0], box.inside_mm[1]
    px = max(wide / 210, high / 120)
    wall = 7 * px
    parts = [
        named("The steam box in section"),
        tag("rect", x=num(-wall), y=num(-wall), width=num(wide + 2 * wall), height=num(high + 2 * wall), class_="wall"),
        tag("rect", x=0, y=0, width=num(wide), height=num(high), class_="steam"),
    ]
    drawn = 0
    for row in range(box.rows):
        for column in range(box.columns):
            if drawn >= pieces:
                break
            x, y = GAP_MM + column * (width_mm + GAP_MM), GAP_MM + row * (thickness_mm + GAP_MM)
            if x + width_mm > wide + 0.5 or y + thickness_mm > high + 0.5:
                continue
            parts.append(
                tag("rect", x=num(x), y=num(y), width=num(width_mm), height=num(thickness_mm), class_="sheet-blank")
            )
            drawn += 1
    message = [
        f"inside {format_length(high, unit)} high × {format_length(wide, unit)} wide",
        f"× {format_length(box.inside_mm[2], unit)} long",
        "vent open at the top end, drain at the low end",
    ]
    for i, text in enumerate(message):
        parts.append(_text(wide + wall + 10 * px, (14 + 16 * i) * px, text, "start", "note", 12 * px))
    tall = max(high + 2 * wall, 60 * px) + 6 * px
    view = f"{num(-wall - 2 * px)} {num(-wall - 2 * px)} {num(wide + 2 * wall + 300 * px)} {num(tall)}"
    return tag(
        "svg",
        "".join(parts),
        class_="chamber-drawing",
        viewBox=view,
        role="img",
        xmlns="http://www.w3.org/2000/svg",
    )


def _text(x: float, y: float, text: str, anchor: str, class_: str, size: float = 13.0) -> str:
    return tag("text", escape(text), x=num(x), y=num(y), text__anchor=anchor, class_=class_, font__size=num(size))
