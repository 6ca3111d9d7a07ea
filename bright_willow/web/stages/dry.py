"""Dry: how long it stays on the form, its frame, and what coming off early costs."""

from __future__ import annotations

from typing import Any

from markupsafe import Markup

from ...core.heat.held import HELD_BY
from ...core.heat.steaming import SteamHeat
from ...core.job.job import Job
from ...core.wood.species import OwnWood
from ...drawing.frame_drawing import frame_svg
from ..figures import FigureRow, Figures, Include, Item, Note
from ..forms.fields import Choices, Field, of_job
from .base import THE_BOARD, BoardView, Look, StagePage

CLIMATES: Choices = (("warm", "warm"), ("ordinary", "ordinary"), ("damp", "damp"))
FIELDS = (
    of_job("heat.on_form_h", "Hours on the form"),
    of_job("heat.forms", "Forms and straps"),
    of_job("heat.held_by", "Held by", choices=tuple(HELD_BY.items()), look="pills"),
    of_job("heat.climate", "Shop while it dries", choices=CLIMATES, look="pills"),
    of_job("heat.early", "Taken off before it is dry", look="pills"),
)


def _fields(job: Job, woods: tuple[OwnWood, ...]) -> tuple[Field, ...]:
    return FIELDS


def _items(look: Look) -> list[Item]:
    if look.drawn is None or look.drawn.hot is None:
        return []
    w, after = look.words, look.drawn.hot.drying
    days = f"{w.number(after.dry_days.likely)} days, most likely {w.number(after.dry_days.low)}"
    rows = [
        FigureRow("cool on the form", f"{w.number(after.cool_h)} h at least", "allowance"),
        w.row("dry, held so", after.dry_days, f"{days} to {w.number(after.dry_days.high)}"),
        FigureRow("between its ends, inside", w.length(after.held.opening_mm), "physics"),
        FigureRow("off too early, the tip opens", f"{w.about(after.early_tip_mm)} more", "allowance"),
    ]
    if after.held.by == "frame":
        rows.insert(2, FigureRow("frame, inside", w.size2(after.frame_width_mm, after.frame_height_mm), "physics"))
    if look.plan and look.plan.elapsed.form_days:
        days = f"{w.number(look.plan.elapsed.form_days)} days"
        rows.insert(2, FigureRow("all pieces over the forms", days, "allowance"))
    return [Figures("Until it is dry", tuple(rows))]


def _views(look: Look) -> list[BoardView]:
    plan = look.drawn
    if plan is None or plan.hot is None:
        return [THE_BOARD]
    return [BoardView("frame", "While it dries", Markup(frame_svg(plan, plan.hot, look.unit)))]


def _notes(look: Look) -> list[Item]:
    if look.drawn is None or look.drawn.hot is None:
        return []
    says = (
        "Off the form as soon as it is cold and set, into what holds its ends: the form and strap are free "
        "again. Air on all sides, no sun and no stove."
    )
    return [Note(says, "hint"), Include("parts/frame.html")]


def _extra(look: Look) -> dict[str, Any]:
    hot = look.drawn.hot if look.drawn else None
    return {"steams": hot is not None and isinstance(hot.heat, SteamHeat)}


PAGE = StagePage(fields=_fields, items=_items, notes=_notes, extra=_extra, views=_views)
