"""Way: the ways of bending side by side for this curve."""

from __future__ import annotations

from typing import Any

from ...core.plan.compare import WayRow, compare_ways
from ..figures import FigureRow, Figures, Item
from .base import Look, StagePage


def _items(look: Look) -> list[Item]:
    if look.drawn is None:
        return []
    w, g = look.words, look.drawn.geometry
    return [
        Figures(
            "",
            (
                FigureRow("tightest radius, inside", w.length(g.inner.least_radius_mm), "physics"),
                FigureRow("thickness", w.length(look.job.part.thickness_mm)),
                FigureRow("it turns", w.angle(g.mid.sweep_deg), "physics"),
                FigureRow("wood", look.drawn.way.wood.name),
            ),
        )
    ]


def _line(row: WayRow, look: Look) -> dict[str, Any]:
    """A row of the table, in words."""
    w, made = look.words, row.made
    line: dict[str, Any] = {"row": row, "made": made}
    if made:
        line |= {
            "tip": w.length(made.tip_mm.likely),
            "band": f"{w.bare(made.tip_mm.low)} to {w.bare(made.tip_mm.high)}",
            "days": w.number(made.days, 0) if made.days >= 2 else w.number(made.days),
            "wood": w.wood(made.wood_m3) if made.wood_m3 else "",
            "sheets": f"{w.number(made.sheets_m2)} m² sheets" if made.sheets_m2 else "",
            "days_grade": "allowance",
        }
    return line


def _extra(look: Look) -> dict[str, Any]:
    rows = compare_ways(look.job, look.shop, look.learnt) if look.drawn else ()
    return {"lines": [_line(r, look) for r in rows], "cures_at": look.words.temperature(look.shop.temperature_c)}


PAGE = StagePage(items=_items, extra=_extra, board="parts/ways.html")
