"""Bench: what stands ready for a run, rehearse it, play it, start it; the runs there were."""

from __future__ import annotations

from typing import Any

from markupsafe import Markup

from ...drawing.run_drawing import chain, run_svg
from ...drawing.steps import lasting
from ..formatting import FigureGroup, FigureRow, FoldedSentences, Item, Note
from ..summary_figures import Quantity
from .base import THE_BOARD, BoardView, StageContext, StagePage, cautions


def _items(look: StageContext) -> list[Item]:
    plan = look.plan
    if plan is None:
        return []
    rows = []
    window = next((o.window for o in plan.operations if o.window), None)
    if window:
        rows.append(FigureRow(window.message, lasting(window.seconds), window.grade))
        moves = sum(o.moves_s for o in plan.operations)
        rows.append(FigureRow("the steps take", lasting(moves), "allowance"))
    most = max(o.hands for o in plan.operations)
    rows.append(FigureRow("people at once, at most", str(most), "allowance"))
    return [FigureGroup("At the bench", tuple(rows))]


def _views(look: StageContext) -> list[BoardView]:
    if look.plan is None or not chain(look.plan.operations):
        return [THE_BOARD]
    return [BoardView("run", "One batch", Markup(run_svg(look.plan.operations))), THE_BOARD]


def _notes(look: StageContext) -> list[Item]:
    if look.plan is None:
        return []
    ready = tuple(dict.fromkeys(thing for o in look.plan.operations for thing in o.lay_out))
    made: list[Item] = [FoldedSentences("Lay out before you start", ready, is_open=True)] if ready else []
    message = "Before anything is hot or glued, everyone who helps does the dry run once."
    return [*made, Note(message, "hint"), *cautions(look)]


def _extra(look: StageContext) -> dict[str, Any]:
    plan = look.plan
    return {
        "can_rehearse": bool(plan and any(o.moves for o in plan.operations)),
        "can_play": bool(plan and any(o.window for o in plan.operations)),
        "runs": look.more.get("runs") or [],
    }


def _answer(look: StageContext) -> str:
    """What to do first."""
    plan = look.plan
    if plan is None:
        return ""
    if any(o.moves for o in plan.operations):
        return "Do a dry run first, then start the run."
    return "Start the run: it says what to do now."


def _figures(look: StageContext) -> list[Quantity]:
    plan = look.plan
    if plan is None:
        return []
    made = list[Quantity]()
    window = next((o.window for o in plan.operations if o.window), None)
    if window:
        steps = sum(o.moves_s for o in plan.operations)
        made.append(
            Quantity("The steps take", lasting(steps), "allowance", f"of {lasting(window.seconds)} {window.message}")
        )
    people = str(max(o.hands for o in plan.operations))
    return [*made, Quantity("People", people, "allowance", "at once, at most")]


PAGE = StagePage(items=_items, views=_views, notes=_notes, extra=_extra, answer=_answer, figures=_figures)
