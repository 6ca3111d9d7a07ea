"""A sheet as it must be bought and cut: which way it rolls, how the blanks lie on it, and the joints of its layers."""

from __future__ import annotations

import math
from html import escape

from ..core.common.fineness import format_sold
from ..core.common.units import Unit, format_length
from ..core.stock.sheet_cutting import SheetCut
from .svg import named, num, polyline, tag

WIDTH_PX = 322.0
MOST_DRAWN = 60


def sheet_svg(cut: SheetCut, unit: Unit) -> str:
    """The sheet to scale with its blanks; the part runs left to right, the sheet rolls about the up-and-down lines."""
    along, across = cut.run_mm, cut.cross_mm
    px = along / (WIDTH_PX - 4)
    top = 30 * px
    height = top + across + 70 * px
    parts = [named(f"{cut.sheet.name}: how to cut it")]
    parts.append(tag("rect", x=0, y=num(top), width=num(along), height=num(across), class_="sheet-whole"))
    length, width = min(cut.blank_length_mm, along), min(cut.blank_width_mm, across)
    across_count = max(1, math.floor(across / width + 1e-9))
    along_count = max(1, math.floor(along / length + 1e-9))
    drawn = 0
    for j in range(across_count):
        for i in range(along_count):
            if drawn < min(MOST_DRAWN, max(1, cut.per_sheet or across_count)):
                parts.append(
                    tag(
                        "rect",
                        x=num(i * length),
                        y=num(top + j * width),
                        width=num(length),
                        height=num(width),
                        class_="sheet-blank",
                    )
                )
                drawn += 1
    lines = max(6, round(along / 120))
    for i in range(1, lines):
        x = along * i / lines
        parts.append(tag("path", d=f"M{num(x)} {num(top)}V{num(top + across)}", class_="sheet-roll"))
    said = {
        "long": f"must bend along its {format_sold(cut.sheet.sheet_long_mm, unit)} side",
        "short": f"must bend along its {format_sold(cut.sheet.sheet_short_mm, unit)} side",
        "either": "either sheet works; cut it so it rolls like this",
    }[cut.bends_along]
    parts.append(_text(0, 12 * px, cut.sheet.name, 13 * px, "figure"))
    parts.append(_text(0, 25 * px, said, 11.5 * px, "note"))
    parts.append(_rolled(along, top + across + 14 * px, px))
    parts.append(_text(150 * px, top + across + 34 * px, "← along the part →", 11.5 * px, "note"))
    size = f"{format_length(along, unit)} × {format_length(across, unit)}"
    parts.append(_text(0, top + across + 62 * px, f"{size}; {_counted(cut)}", 11.5 * px, "note faint"))
    return tag(
        "svg",
        "".join(parts),
        class_="sheet-drawing",
        viewBox=f"{num(-2 * px)} 0 {num(along + 4 * px)} {num(height)}",
        role="img",
        xmlns="http://www.w3.org/2000/svg",
    )


def _counted(cut: SheetCut) -> str:
    many = f"{cut.sheets} sheet{'s' if cut.sheets > 1 else ''}"
    if cut.leaves > 1:
        return f"{many}, {cut.leaves} leaves edge to edge"
    return f"{many}, {cut.per_sheet} blanks from each" if cut.per_sheet else f"{many}, joined end to end"


def _rolled(along: float, y: float, px: float) -> str:
    """The same sheet seen on edge, bent the way it bends."""
    left, right, sag = 8 * px, 132 * px, 30 * px
    points = [(left + (right - left) * t / 12, -(y + sag * 4 * (t / 12 - 0.5) ** 2)) for t in range(13)]
    return tag("path", named("it rolls this way"), d=polyline(points), class_="sheet-edge")


def _text(x: float, y: float, text: str, size: float, class_: str) -> str:
    return tag("text", escape(text), x=num(x), y=num(y), font__size=num(size), class_=class_)
