"""Moves: what is done between the heat and the last clamp, who does it, and against how many seconds."""

from __future__ import annotations

from typing import Any

from markupsafe import Markup

from ...core.heat.steam_plan import SteamHeat
from ...core.job.job import Job
from ...core.shop.shop import Shop
from ...drawing.moves_drawing import moves_svg, said_time
from ...drawing.section_drawing import section_svg
from ..formatting import FigureGroup, FigureRow, Item, Note, grid
from ..forms.fields import Field, of_job
from ..summary_figures import Quantity
from .base import THE_BOARD, BoardView, StageContext, StagePage, cautions

FIELDS = (
    of_job("heat.hands", "People"),
    of_job("heat.carry_s", "Out and over to the form", "seconds"),
    of_job("heat.moves", "Clamping steps"),
    of_job("heat.clamp_s", "Seconds for each", "for one person"),
)


def _fields(job: Job, shop: Shop) -> tuple[Field, ...]:
    return FIELDS


def _heat(look: StageContext) -> SteamHeat | None:
    heat = look.drawn.hot.heat if look.drawn and look.drawn.hot else None
    return heat if isinstance(heat, SteamHeat) else None


def _items(look: StageContext) -> list[Item]:
    if look.drawn is None or look.drawn.hot is None:
        return []
    w, heat, rows = look.words, _heat(look), list[FigureRow]()
    if heat and heat.bag:
        rows.append(FigureRow("pulled for", f"{w.minutes(heat.bag.pull_min)}, {heat.bag.pulls} pulls", "allowance"))
        rows.append(FigureRow("steam at full bend", w.minutes(heat.bag.hold_min), "allowance"))
        rows.append(FigureRow("look at the water every", w.minutes(heat.bag.water_every_min), "allowance"))
    elif heat:
        rows.append(FigureRow("working time", f"{heat.steam.window_s:.0f} s", "physics"))
        rows.append(FigureRow("the steps take", f"{heat.steam.handling_s:.0f} s", "allowance"))
    if heat and heat.strap:
        rows.append(FigureRow("strap between its stops", w.length(heat.strap.length_mm), "physics"))
        rows.append(FigureRow("pull on the lever", w.force(heat.strap.hand_n), "allowance"))
    rows.append(FigureRow("clamps at hand, about", str(look.drawn.form.clamps), "allowance"))
    after = look.drawn.hot.drying
    rows.append(FigureRow("held before it is released", f"{after.on_form_h:.0f} h", "allowance"))
    return [FigureGroup("While it is hot", tuple(rows))]


def _views(look: StageContext) -> list[BoardView]:
    plan, heat = look.drawn, _heat(look)
    if plan is None:
        return [THE_BOARD]
    made = []
    if plan.moves:
        svg = Markup(moves_svg(plan.moves, heat.window_s if heat else None))
        rows = [
            (str(i), m.message, m.who, said_time(m.takes_s), said_time(m.to_s)) for i, m in enumerate(plan.moves, 1)
        ]
        table = grid("Step by step", ("", "what", "who", "takes", "done at"), rows, grade="allowance")
        made.append(BoardView("moves", "Step by step", svg))
        made.append(BoardView("listed", "Listed", Markup(""), (table,)))
    hot = plan.lies_on[:1]
    made += [BoardView(f"section{i}", s.name, Markup(section_svg(s, look.unit))) for i, s in enumerate(hot)]
    return made or [THE_BOARD]


def _notes(look: StageContext) -> list[Item]:
    heat = _heat(look)
    if heat and heat.in_bag:
        message = "Gloves and sleeves: steam comes out of the drains and the vent all the time."
        return [Note(message, "hint"), *cautions(look)]
    message = (
        "Do a dry run with a cold piece and everyone who helps; each says aloud what comes next. Gloves and sleeves, "
        "and nobody in line with a strap or a bent end."
    )
    return [Note(message, "hint"), *cautions(look)]


def _extra(look: StageContext) -> dict[str, Any]:
    heat = _heat(look)
    return {"in_bag": bool(heat and heat.in_bag), "steams": heat is not None}


def _answer(look: StageContext) -> str:
    """How long the steps take against the time there is."""
    heat = _heat(look)
    if heat is None:
        return "No hurry: one bend at a time." if look.drawn else ""
    if heat.bag:
        return f"{heat.bag.pulls} pulls in {look.words.minutes(heat.bag.pull_min)}: no hurry in the bag."
    return f"The steps take {heat.steam.handling_s:.0f} s; you have {heat.steam.window_s:.0f} s."


def _figures(look: StageContext) -> list[Quantity]:
    drawn, w, heat = look.drawn, look.words, _heat(look)
    if drawn is None:
        return []
    people = look.job.heat.hands
    made = [Quantity("People", str(people), "allowance", "from box to last clamp")]
    if heat and heat.strap:
        made.append(Quantity("Pull on the lever", w.force(heat.strap.hand_n), "allowance", ""))
    return [*made, Quantity("Clamps at hand", str(drawn.form.clamps), "allowance", "about")]


PAGE = StagePage(
    fields=_fields, items=_items, notes=_notes, extra=_extra, views=_views, answer=_answer, figures=_figures
)
