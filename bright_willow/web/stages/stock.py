"""Stock: the wood, its figures, and what the job takes out of the board."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from ...core.job.job import Job
from ...core.plan.result import Sketch
from ...core.shop.shop import Shop
from ...core.wood.lot import DRYNESS
from ...core.wood.species import Species, wood_table
from ..formatting import FigureGroup, FigureRow, Formatter, Item, Note
from ..forms.fields import Choices, Field, of_job, wood_choices
from ..summary_figures import Quantity, to_cut, wood_of
from .base import StageContext, StagePage

SLOPES: Choices = (
    ("0.0", "straight"),
    ("0.04", "1 in 25"),
    ("0.05", "1 in 20"),
    ("0.06666666666666667", "1 in 15"),
    ("0.1", "1 in 10"),
    ("0.2", "1 in 5"),
)
FIELDS = (
    of_job("stock.species", "Species", choices=wood_choices()),
    of_job("stock.dryness", "Dryness", choices=tuple(DRYNESS.items()), look="pills"),
    of_job("stock.moisture_pct", "Moisture, %", "if it was measured"),
    of_job("stock.figured", "Figured", look="pills"),
    of_job(
        "stock.grain_slope",
        "Grain run-out",
        "1 in 12 or straighter is good.",
        choices=SLOPES,
    ),
)


def _fields(job: Job, shop: Shop) -> tuple[Field, ...]:
    choices = {"stock.species": wood_choices(shop.woods), "stock.grain_slope": slope_choices(job.stock.grain_slope)}
    return tuple(replace(f, choices=choices.get(f.name, f.choices)) for f in FIELDS)


def slope_choices(slope: float) -> Choices:
    """The run-outs of the table, and the one that was measured where it is another."""
    if str(slope) in dict(SLOPES):
        return SLOPES
    return (*SLOPES, (str(slope), f"1 in {1 / slope:.0f}, as measured"))


def _items(look: StageContext) -> list[Item]:
    w, woods = look.words, wood_table(look.shop.woods)
    wood = woods.get(look.job.stock.species) or next(iter(woods.values()))
    made: list[Item] = [_wood(wood, look.drawn, w)]
    if wood.note:
        made.append(Note(f"{wood.note[:1].upper()}{wood.note[1:].rstrip('.')}."))
    made.append(Note(f"Source: {wood.stiffness_source}.", "hint"))
    if look.drawn:
        made.append(_at_hand(look.drawn, w))
    advice = "Inspect every board: reject knots, checks and pith in the bend, and run-out steeper than 1 in 12."
    return [*made, Note(advice)]


def _wood(wood: Species, drawn: Sketch | None, w: Formatter) -> FigureGroup:
    rows = [
        FigureRow("stiffness", f"{wood.moe_gpa:g} GPa", wood.stiffness_grade),
        FigureRow("bending strength", f"{wood.mor_mpa:g} MPa", wood.stiffness_grade),
    ]
    if drawn:
        stands = drawn.make.breaking_strain
        rows.append(w.row("breaking strain", stands, f"{stands.value * 100:.2f}%"))
    rows.append(FigureRow("specific gravity", f"{wood.sg12}", wood.stiffness_grade))
    return FigureGroup(wood.name, tuple(rows))


def _at_hand(drawn: Sketch, w: Formatter) -> FigureGroup:
    q = drawn.quantities
    whole, stock = q.expected_yield, q.stock
    share = f"{w.percent(whole.likely)} ({w.percent(whole.low)} to {w.percent(whole.high)})"
    rows = []
    if q.boards:
        each = f"{q.boards.boards}, {q.boards.strips_per_board} strips each"
        rows.append(FigureRow(f"boards of “{q.boards.lot}”", each, "allowance"))
    rows += [
        w.row("success rate", whole, share),
        w.row("spares to prepare", whole, str(q.spares_advised)),
        FigureRow("strips, with spares", str(stock.strips)),
        FigureRow("each, as sawn", w.size2(stock.strip_rough_mm, stock.strip_width_mm), "allowance"),
        FigureRow("length", w.length(stock.strip_length_mm), "physics"),
        FigureRow("board width per part", w.length(stock.board_width_per_piece_mm), "allowance"),
        FigureRow("sawdust and planing waste", w.percent(stock.kerf_share), "allowance"),
    ]
    return FigureGroup("To have at hand", tuple(rows))


def _extra(look: StageContext) -> dict[str, Any]:
    return {"lots": look.more.get("lots") or []}


def _answer(look: StageContext) -> str:
    """How much wood to have at hand."""
    if look.drawn is None:
        return ""
    w, q = look.words, look.drawn.quantities
    wood = look.drawn.way.wood.name
    if not q.stock.strips:
        return f"{wood}: nothing to saw for this job."
    what = ("strip" if look.drawn.laid_up else "blank") + ("s" if q.stock.strips != 1 else "")
    size = w.size(q.stock.strip_rough_mm, q.stock.strip_width_mm, q.stock.strip_length_mm)
    return f"{wood}: {w.wood(q.stock.volume_m3)} for {q.stock.strips} {what} of {size}, rough."


def _figures(look: StageContext) -> list[Quantity]:
    if look.drawn is None:
        return []
    w, q = look.words, look.drawn.quantities
    whole = q.expected_yield
    rate = Quantity(
        "Success rate", w.percent(whole.likely), whole.grade, f"{w.percent(whole.low)} to {w.percent(whole.high)}"
    )
    spares = Quantity("Spares", str(q.spares), whole.grade, f"{q.spares_advised} proposed")
    return [wood_of(look.drawn, w), to_cut(look.drawn, w), rate, spares]


PAGE = StagePage(fields=_fields, items=_items, extra=_extra, answer=_answer, figures=_figures)
