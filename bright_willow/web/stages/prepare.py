"""Prepare: from boards to numbered strips, in an order that keeps the grain together."""

from __future__ import annotations

from typing import Any

from markupsafe import Markup

from ...core.job.job import Job
from ...core.job.preparing import Flaw
from ...core.prepare.stock import Prepared
from ...core.wood.species import OwnWood
from ...drawing.prepare_drawing import HOWS, lengths_svg, sections_svg
from ..figures import FigureRow, Figures, Item, Note, grid
from ..forms.fields import Choices, Field, of, of_job
from .base import THE_BOARD, BoardView, Look, StagePage

SAWS: Choices = (("auto", "as gives most"), ("rip", "off the edge"), ("resaw", "off the face"))
FIELDS = (
    of_job("prepare.saw", "Strips are sawn", choices=SAWS, look="pills"),
    of_job("prepare.thickness_mm", "Boards, thickness"),
    of_job("prepare.width_mm", "Width"),
    of_job("prepare.length_mm", "Length"),
    of_job("prepare.boards", "How many", "0: as many as it takes"),
)


def _fields(job: Job, woods: tuple[OwnWood, ...]) -> tuple[Field, ...]:
    return (*FIELDS, *(f for i in range(len(job.prepare.flaws)) for f in flaw_fields(i)))


def flaw_fields(i: int) -> tuple[Field, ...]:
    """The inputs of one flaw."""
    made = (
        of(Flaw, "board", f"Board of flaw {i + 1}", "board"),
        of(Flaw, "start_mm", f"Flaw {i + 1} from", "from"),
        of(Flaw, "end_mm", f"Flaw {i + 1} to", "to"),
    )
    return tuple(Field(f"prepare.flaws.{i}.{f.name}", f.label, f.kind, f.hint) for f in made)


def _ready(look: Look) -> Prepared | None:
    return look.drawn.prepared if look.drawn else None


def _items(look: Look) -> list[Item]:
    ready, w = _ready(look), look.words
    if ready is None:
        return [Note("Nothing is sawn for this job: all its layers are bought.")]
    rough = w.size2(ready.strips.thick_mm, ready.strips.wide_mm)
    rows = [
        FigureRow("strips wanted, with spares", str(ready.strips.count)),
        FigureRow("each, rough", rough, "allowance"),
        FigureRow("length", w.length(ready.strips.long_mm), "physics"),
    ]
    if ready.problem:
        return [Figures("Strips", tuple(rows)), Note(ready.problem.says(look.unit))]
    if ready.cut:
        board = ready.cut.boards[0]
        rows += [
            FigureRow(
                "boards used",
                f"{len(ready.cut.boards)}" + (f" of {ready.boards_at_hand}" if ready.boards_at_hand else ""),
                "physics",
            ),
            FigureRow("strips out of a length", f"{board.sawing.strips}, {HOWS[board.sawing.how]}", "physics"),
            FigureRow("of those boards wasted", w.percent(ready.cut.wasted_share), "physics"),
        ]
    return [Figures("Strips", tuple(rows))]


def _views(look: Look) -> list[BoardView]:
    ready = _ready(look)
    if ready is None or ready.cut is None:
        return [THE_BOARD]
    drawn = Markup(sections_svg(ready.cut, look.unit))
    along = Markup(lengths_svg(ready, look.unit))
    rows = [
        (f"{p.number}{f', {p.hand}' if p.hand else ''}", " ".join(p.strips), p.reserve or "none") for p in ready.pieces
    ]
    dealt = grid("Strips of each piece, from its inner face outward", ("piece", "strips", "in reserve"), rows)
    return [
        BoardView("boards", "The boards", drawn, under=along),
        BoardView("strips", "Strips of each piece", Markup(""), (dealt,)),
    ]


def _notes(look: Look) -> list[Item]:
    says = (
        "Number each strip as it comes off the saw and keep that order: grain and colour stay together, and mates of a "
        "pair come from neighbours. Push block and splitter; the last 20 mm of a board is not ripped."
    )
    return [Note(says, "hint")]


def _extra(look: Look) -> dict[str, Any]:
    ready = _ready(look)
    return {
        "lot": ready.lot if ready else "",
        "saws": ready is not None,
        "sawn": ready is not None and ready.cut is not None,
    }


PAGE = StagePage(fields=_fields, items=_items, notes=_notes, extra=_extra, views=_views)
