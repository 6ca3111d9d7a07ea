"""Way: the ways of bending side by side for this curve."""

from __future__ import annotations

from typing import Any

from markupsafe import Markup

from ...core.ground.estimate import OWN_FIGURE
from ...core.plan.compare import WayRow, compare_ways, offered_apart
from ...drawing.way_sketch import way_sketches
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
            "tip": w.estimate(made.tip_mm),
            "band": w.most_likely(made.tip_mm),
            "days": w.number(made.days, 0) if made.days >= 2 else w.number(made.days),
            "wood": w.wood(made.wood_m3) if made.wood_m3 else "",
            "sheets": f"{w.number(made.sheets_m2)} m² sheets" if made.sheets_m2 else "",
            "days_grade": OWN_FIGURE,
        }
    return line


def _extra(look: Look) -> dict[str, Any]:
    rows = compare_ways(look.job, look.shop, look.learnt) if look.drawn else ()
    drawn = way_sketches([r.made for r in rows])
    lines = [_line(r, look) | {"sketch": Markup(svg)} for r, svg in zip(rows, drawn, strict=True)]
    apart = offered_apart(look.job) if look.drawn else ()
    return {"lines": lines, "apart": apart, "cures_at": look.words.temperature(look.shop.temperature_c)}


PAGE = StagePage(notes=_items, extra=_extra, board="parts/ways.html")
