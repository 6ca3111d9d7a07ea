"""Drying: how long it stays on the form, what holds it afterwards, and what that does to its springback."""

from __future__ import annotations

from typing import Any

from markupsafe import Markup

from ...core.common.estimate import Estimate
from ...core.common.fineness import days_said
from ...core.heat.drying import AfterHours, Drying
from ...core.heat.drying_restraint import HELD_BY
from ...core.heat.steam_plan import SteamHeat
from ...core.job.job import Job
from ...core.shop.shop import Shop
from ...drawing.drying_chart import drying_chart
from ...drawing.frame_drawing import frame_svg
from ..formatting import (
    FigureGroup,
    FigureRow,
    Item,
    Note,
    TemplatePart,
    grid,
)
from ..forms.fields import Choices, Field, of_job
from ..summary_figures import Quantity, springback_of
from .base import THE_BOARD, BoardView, StageContext, StagePage

CLIMATES: Choices = (("warm", "warm"), ("ordinary", "ordinary"), ("damp", "damp"))
FIELDS = (
    of_job("heat.on_form_h", "Hours on the form"),
    of_job("heat.forms", "Forms and straps"),
    of_job(
        "heat.dry_jig", "Hold it in a drying jig", "little to dry after dry heat; most benders skip it", look="pills"
    ),
    of_job("heat.held_by", "Held by", choices=tuple(HELD_BY.items()), look="pills"),
    of_job("heat.climate", "Shop while it dries", choices=CLIMATES, look="pills"),
)


def _fields(job: Job, shop: Shop) -> tuple[Field, ...]:
    return FIELDS


def _after(look: StageContext) -> Drying | None:
    return look.drawn.hot.drying if look.drawn and look.drawn.hot else None


def _items(look: StageContext) -> list[Item]:
    after = _after(look)
    if after is None or look.drawn is None:
        return []
    w = look.words
    rows = [FigureRow("cool on the form", f"{w.number(after.cool_h)} h at least", "allowance")]
    if after.dry_days.likely:
        days = f"{w.number(after.dry_days.likely)} days, likely {w.number(after.dry_days.low)}"
        rows.append(w.row("drying after the form", after.dry_days, f"{days} to {w.number(after.dry_days.high)}"))
    if look.plan and look.plan.elapsed.form_days:
        days = f"{w.number(look.plan.elapsed.form_days)} days"
        rows.append(FigureRow("all pieces on these forms", days, "allowance"))
    if after.has_jig:
        if after.held.by == "frame":
            rows.append(FigureRow("inside of the jig", w.size2(after.frame_width_mm, after.frame_height_mm), "physics"))
        rows.append(FigureRow("between the ends, inside", w.length(after.held.opening_mm), "physics"))
        if look.drawn.way.is_pulled:
            rows.append(FigureRow("that is past size by", w.length(after.pulled_past_mm), "allowance"))
        rows.append(FigureRow("share of an error the jig leaves", w.percent(after.jig_keeps), "allowance"))
    elif _steams(look):
        rows.append(FigureRow("more springback while drying, each end", w.about(after.early_tip_mm), "allowance"))
    return [FigureGroup("Until it is dry", tuple(rows))]


def _views(look: StageContext) -> list[BoardView]:
    plan, after = look.drawn, _after(look)
    if plan is None or plan.hot is None or after is None:
        return [THE_BOARD]
    jig = BoardView("frame", "While it dries", Markup(frame_svg(plan, plan.hot, look.unit)))
    if not plan.by_hours:
        return [jig]
    *compared, chosen = plan.compared_hours
    chart = Markup(drying_chart(plan.by_hours, chosen, look.unit))
    rows = sorted({row.hours: row for row in (*compared, chosen)}.values(), key=lambda row: row.hours)
    table = grid(
        "Springback now and when dry",
        ("hours on the form", "springs back", "once dry", "dry after"),
        [_row(row, look, plan.bend.tip_mm) for row in rows],
        chosen=next(i for i, row in enumerate(rows) if row.hours == chosen.hours),
        grade=plan.bend.tip_mm.grade,
    )
    hours = BoardView("hours", "Hours on the form", chart, (table,))
    return [jig, hours]


def _row(row: AfterHours, look: StageContext, tip: Estimate) -> tuple[str, ...]:
    """A row of the table, its lengths as fine as the springback of the plan."""
    w = look.words
    days = f"{w.number(row.days)} days" if row.days else "on the form"
    return f"{row.hours:g} h", w.as_sure(row.tip_mm, tip), w.as_sure(row.dried_tip_mm, tip), days


def _notes(look: StageContext) -> list[Item]:
    after = _after(look)
    if after is None:
        return []
    if not _steams(look):
        message = "Dry heat sets it as it cools: no jig and no drying days needed."
    elif after.has_jig:
        message = "Move it to the jig to free form and strap. Give it air on all sides, away from sun and stove."
    else:
        message = "Leave it on the form until it is dry, or hold it in a jig."
    return [Note(message, "hint"), TemplatePart("parts/frame.html")] if after.has_jig else [Note(message, "hint")]


def _steams(look: StageContext) -> bool:
    return bool(look.drawn and look.drawn.hot and isinstance(look.drawn.hot.heat, SteamHeat))


def _extra(look: StageContext) -> dict[str, Any]:
    steams = _steams(look)
    pulled = look.drawn is not None and look.drawn.way.is_pulled
    return {"steams": steams, "has_jig": steams or look.job.heat.dry_jig, "is_pulled": pulled}


def _answer(look: StageContext) -> str:
    """How long on the form and how long afterwards."""
    after = _after(look)
    if after is None:
        return ""
    on_form = days_said(after.on_form_h / 24)
    if not after.dry_days.likely:
        return f"{on_form} on the form, and it is dry."
    where = "in the jig" if after.has_jig else "to dry"
    return f"{on_form} on the form, then {days_said(after.dry_days.likely)} {where}."


def _figures(look: StageContext) -> list[Quantity]:
    drawn, after, w = look.drawn, _after(look), look.words
    if drawn is None or after is None:
        return []
    made = [
        springback_of(drawn, w),
        Quantity("Cool on the form", f"{w.number(after.cool_h)} h", "allowance", "at least"),
    ]
    if look.plan and look.plan.elapsed.form_days:
        made.append(Quantity("All pieces", days_said(look.plan.elapsed.form_days), "allowance", "on these forms"))
    if not after.has_jig and _steams(look):
        made.append(Quantity("More springback", w.about(after.early_tip_mm), "allowance", "each end, while it dries"))
    return made


PAGE = StagePage(
    fields=_fields, items=_items, notes=_notes, extra=_extra, views=_views, answer=_answer, figures=_figures
)
