"""The parts of a form on the sheets they are cut from."""

from __future__ import annotations

from html import escape

from ..core.common.units import Unit, format_length
from ..core.plan.result import Plan
from .svg import named, num, tag

WIDTH_PX = 322.0
MOST_SHEETS = 6


def nest_svgs(plan: Plan, unit: Unit) -> list[str]:
    """One drawing for each sheet, to scale, every part with its number; none where nothing is cut from sheets."""
    nest = plan.build.nest
    if nest is None:
        return []
    numbers = [p.number for p in plan.build.parts] if plan.form.build != "solid" else []
    px = nest.sheet_long_mm / (WIDTH_PX - 4)
    made = []
    for sheet in range(min(nest.sheets, MOST_SHEETS)):
        message = f"sheet {sheet + 1} of {nest.sheets}"
        items = [
            named(message),
            tag("rect", x=0, y=0, width=num(nest.sheet_long_mm), height=num(nest.sheet_short_mm), class_="sheet-whole"),
        ]
        for at in (p for p in nest.placed if p.sheet == sheet):
            size = {"width": num(at.width_mm), "height": num(at.height_mm)}
            name = plan.build.parts[at.part].name
            box = f"{format_length(at.width_mm, unit)} × {format_length(at.height_mm, unit)}"
            items.append(
                tag(
                    "rect",
                    named(f"{name}, {box}"),
                    x=num(at.x_mm),
                    y=num(nest.sheet_short_mm - at.y_mm - at.height_mm),
                    class_="sheet-blank",
                    **size,
                )
            )
            if min(at.width_mm, at.height_mm) > 14 * px:
                middle = nest.sheet_short_mm - at.y_mm - at.height_mm / 2 + 4 * px
                items.append(
                    tag(
                        "text",
                        str(numbers[at.part]),
                        x=num(at.x_mm + at.width_mm / 2),
                        y=num(middle),
                        font__size=num(12 * px),
                        text__anchor="middle",
                        class_="figure",
                    )
                )
        foot = {"x": 0, "y": num(nest.sheet_short_mm + 13 * px), "font__size": num(11.5 * px)}
        items.append(tag("text", escape(message), class_="note", **foot))
        view = f"{num(-2 * px)} {num(-2 * px)} {num(nest.sheet_long_mm + 4 * px)} {num(nest.sheet_short_mm + 20 * px)}"
        made.append(
            tag(
                "svg",
                "".join(items),
                class_="sheet-drawing nest",
                viewBox=view,
                role="img",
                xmlns="http://www.w3.org/2000/svg",
            )
        )
    return made
