"""Way: the ways of bending side by side for this curve."""

from __future__ import annotations

from typing import Any

from markupsafe import Markup

from ...core.common.estimate import OWN_FIGURE
from ...core.common.findings import worst
from ...core.plan.compare import MethodRow, SuggestedMethod, compare_ways, offered_apart, suited
from ...drawing.way_sketch import way_sketches
from ..formatting import FigureGroup, FigureRow, Item
from ..summary_figures import Quantity
from .base import StageContext, StagePage


def _items(look: StageContext) -> list[Item]:
    if look.drawn is None:
        return []
    w, g = look.words, look.drawn.geometry
    return [
        FigureGroup(
            "",
            (
                FigureRow("tightest radius, inside", w.length(g.inner.least_radius_mm), "physics"),
                FigureRow("thickness", w.length(look.job.part.thickness_mm)),
                FigureRow("bend angle", w.angle(g.mid.sweep_deg), "physics"),
                FigureRow("wood", look.drawn.way.wood.name),
            ),
        )
    ]


def _line(row: MethodRow, look: StageContext, suits: SuggestedMethod | None = None) -> dict[str, Any]:
    """A row of the table, in words."""
    w, made = look.words, row.made
    line: dict[str, Any] = {
        "row": row,
        "made": made,
        "why": ", ".join(suits.why).capitalize() if suits else "",
        "dry": "",
    }
    if suits and suits.dry_tip_mm:
        line["dry"] = f"glued dry: {w.estimate(suits.dry_tip_mm)}"
    if made:
        line |= {
            "tip": w.estimate(made.tip_mm),
            "band": w.most_likely(made.tip_mm),
            "days": w.number(made.days, 0) if made.days >= 2 else w.number(made.days),
            "wood": w.wood(made.wood_m3) if made.wood_m3 else "",
            "sheets": f"{w.area(made.sheets_m2)} sheets" if made.sheets_m2 else "",
            "days_grade": OWN_FIGURE,
        }
    return line


def _extra(look: StageContext) -> dict[str, Any]:
    rows = compare_ways(look.job, look.shop, look.learnt) if look.drawn else ()
    drawn = way_sketches([r.made for r in rows])
    sketches = {r.key: Markup(svg) for r, svg in zip(rows, drawn, strict=True)}
    best, others = suited(rows)
    lines = [_line(s.row, look, s) | {"sketch": sketches[s.row.key]} for s in best]
    more = [_line(r, look) | {"sketch": sketches[r.key]} for r in others]
    apart = offered_apart(look.job) if look.drawn else ()
    return {"lines": lines, "more": more, "apart": apart, "cures_at": look.words.temperature(look.shop.temperature_c)}


def _answer(look: StageContext) -> str:
    """The chosen method, and whether it works."""
    drawn = look.drawn
    if drawn is None:
        return ""
    level = worst([f.level for f in drawn.findings if f.stage in ("build_up", "bend", "steam")])
    word = {"fit": "OK", "watch": "works, see its checks", "stop": "will not work like this"}[level]
    return f"{drawn.way.name}: {word}."


def _figures(look: StageContext) -> list[Quantity]:
    return []


PAGE = StagePage(notes=_items, extra=_extra, board="parts/ways.html", answer=_answer, figures=_figures)
