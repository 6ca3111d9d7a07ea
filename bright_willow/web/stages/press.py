"""Press: the glue mixed, spread and under pressure in time; in what order clamps are closed; when it may come off."""

from __future__ import annotations

from typing import Any

from markupsafe import Markup

from ...core.bend.glue_up import GluedUp
from ...core.job.job import Job
from ...core.prepare.race import batches
from ...core.wood.species import OwnWood
from ...drawing.press_drawing import clamps_svg, race_svg
from ..figures import FigureRow, Figures, Item, Note, grid
from ..forms.fields import Choices, Field, of_job
from .base import THE_BOARD, BoardView, Look, StagePage, cautions

SPREADERS: Choices = (("roller", "roller"), ("brush", "brush"))
POT_G = 900.0  # of a glue that sets in the pot, more of which grows hot there. Grade: allowance.
FIELDS = (
    of_job("glue_up.hands", "Pairs of hands", "spreading and clamping"),
    of_job("glue_up.goes", "Glued up in goes", "1: all at once"),
    of_job("glue_up.spread_by", "Spread by", choices=SPREADERS, look="pills"),
)


def _fields(job: Job, woods: tuple[OwnWood, ...]) -> tuple[Field, ...]:
    return FIELDS


def _made(look: Look) -> GluedUp | None:
    return look.drawn.glued_up if look.drawn else None


def _items(look: Look) -> list[Item]:
    made = _made(look)
    if made is None or look.drawn is None or look.drawn.laid_up is None:
        return []
    w, laid_up = look.words, look.drawn.laid_up
    pieces = look.drawn.quantities.pieces + look.drawn.quantities.spares
    each = laid_up.glue_g.value / pieces
    glue = laid_up.glue
    rows = [
        FigureRow("glue for one piece", f"{each:.0f} g", "allowance"),
        FigureRow("it stays open here", f"{made.race.open_s / 60:.0f} min", "allowance"),
        FigureRow("covered it may wait", f"{made.race.closed_s / 60:.0f} min", "allowance"),
        FigureRow("from spreading to pressure", f"{made.race.lasts_s / 60:.0f} min", "allowance"),
    ]
    if made.race.pot_s:
        rows.insert(1, FigureRow("pot life here", f"{made.race.pot_s / 60:.0f} min", "allowance"))
        rows.insert(2, FigureRow("pots to mix", str(batches(each, POT_G)), "allowance"))
    rows.append(FigureRow("under pressure at least", f"{laid_up.press_h:.0f} h", "allowance"))
    rows.append(FigureRow("loaded, not before", f"{glue.full_cure_h:.0f} h", "allowance"))
    made_items: list[Item] = [Figures(f"At {w.temperature(made.temperature_c)}", tuple(rows))]
    if made.clears:
        shown = [(c.says.rstrip("."), f"{c.race.share:.0%}", f"{c.race.lasts_s / 60:.0f} min") for c in made.clears]
        made_items.append(grid("What clears it", ("", "of what it stands", "to pressure"), shown, grade="allowance"))
    return made_items


def _views(look: Look) -> list[BoardView]:
    made, plan = _made(look), look.drawn
    if made is None or plan is None:
        return [THE_BOARD]
    race = BoardView("race", "The race", Markup(race_svg(made.race)))
    return [race, BoardView("clamps", "Order of clamps", Markup(clamps_svg(plan, made, look.unit)))]


def _notes(look: Look) -> list[Item]:
    says = (
        "A dry run first, with every clamp. The data sheet comes first for ratio, open time and pressure; weigh both "
        "parts. Squeeze-out all along both edges; where none comes, tighten or it starves."
    )
    return [Note(says, "hint"), *cautions(look)]


def _extra(look: Look) -> dict[str, Any]:
    made = _made(look)
    return {"clears": made.clears if made else ()}


PAGE = StagePage(fields=_fields, items=_items, notes=_notes, extra=_extra, views=_views)
