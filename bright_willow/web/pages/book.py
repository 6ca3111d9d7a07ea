"""The book: every bend measured, and what the shop has learnt from them."""

from __future__ import annotations

from dataclasses import dataclass

from fastapi import APIRouter, Request
from fastapi.responses import Response
from markupsafe import Markup

from ...core.book.built_form import compare
from ...core.experience.belief import Bend as BendOf
from ...core.experience.belief import ExperienceFile, Learnt, loss_ratio
from ...core.ground.errors import OutOfRange
from ...core.shop.adhesive import adhesive_table
from ...core.wood.lot import DRYNESS
from ...core.wood.species import OwnWood, wood_table
from ...drawing.learning_chart import Dot, Row, learning_chart
from ...store.book import Store
from ...store.records import KeptForm, Page, Piece
from ..common import Number, attachment, page, store_of

router = APIRouter(include_in_schema=False)
MOST_DOTS, FEWEST_DOTS, MOST_GROUPS = 400, 10, 40


@dataclass(frozen=True)
class Bend:
    """A line of the book."""

    piece_id: int
    job_id: int
    job: str
    label: str
    kind: str
    day: str
    ratio: str
    tip_off_mm: float
    weighs: str
    left_out: bool


def kind_says(group: str, woods: tuple[OwnWood, ...] = ()) -> str:
    """Words for a stock group."""
    wood, _, creep = group.partition("|")
    rows = wood_table(woods)
    words = {"sheets": "Bending sheets", "mixed": "Several woods"}
    name = rows[wood].name if wood in rows else words.get(wood, wood)
    example = {
        "rigid": "rigid glue",
        "slight": "glue that creeps a little",
        "noticeable": "glue that creeps",
        **DRYNESS,
    }
    return f"{name}, {example.get(creep, creep)}"


def _line(store: Store, form: KeptForm, piece: Piece, name: str) -> Bend | None:
    m = piece.measurements[0]
    belief = store.learnt().about(way=form.built.way, group=form.built.group)
    try:
        seen = compare(form.built, chord_mm=m.chord_mm, rise_mm=m.rise_mm, face=m.face, error_mm=m.error_mm)
    except OutOfRange:
        return None
    return Bend(
        piece.id,
        form.job_id,
        name,
        piece.label,
        kind_says(form.built.group, store.shop().woods),
        m.day.isoformat(),
        f"{seen.ratio:.2f} ± {seen.ratio_error:.2f}",
        seen.tip_off_mm,
        "nothing, left out" if piece.left_out else f"{belief.weighs(seen.ratio_error):.2f}",
        piece.left_out,
    )


def _rows(store: Store, learnt: Learnt) -> list[Row]:
    """The chart, group by group: every bend counts, the newest are drawn."""
    dots: dict[tuple[str, str], list[tuple[int, BendOf]]] = {}
    for job_id, _, bend in store.taught():
        dots.setdefault((bend.way, bend.group), []).append((job_id, bend))
    each = max(FEWEST_DOTS, MOST_DOTS // max(1, len(dots)))
    names = store.job_names({job_id for marks in dots.values() for job_id, _ in marks[-each:]})
    rows = []
    for (way, group), marks in sorted(dots.items()):
        belief = learnt.about(way=way, group=group)
        shown = [dot for job_id, bend in marks[-each:] if (dot := _dot(bend, names.get(job_id, "")))]
        name = kind_says(group, store.shop().woods)
        older = len(marks) - len(shown)
        rows.append(Row(name, belief.next_bend(), belief.bends, tuple(shown), older, belief.scatter))
    return rows[:MOST_GROUPS]


def _dot(bend: BendOf, job: str) -> Dot | None:
    try:
        seen = loss_ratio(bend)
    except OutOfRange:
        return None
    says = f"{job}, piece {bend.label}: {seen.ratio:.2f}"
    return Dot(seen.ratio, seen.error, says, bend.left_out)


@router.get("/book")
def book(request: Request, at: Number = 1) -> Response:
    store = store_of(request)
    with store.connected():
        pages = Page(at, store.measured_count())
        pieces = store.measured_page(pages)
        names = store.job_names({form.job_id for form, _ in pieces})
        lines = [x for f, p in pieces if (x := _line(store, f, p, names.get(f.job_id, "")))]
        learnt, shop = store.learnt(), store.shop()
        rows = _rows(store, learnt)
    chart = Markup(learning_chart(rows)) if rows else Markup("")
    return page(
        "book.html",
        request,
        lines=lines,
        chart=chart,
        rows=rows,
        pages=pages,
        learnt=learnt,
        shop=shop,
        unit=shop.rule,
        glues=adhesive_table(),
        here="book",
    )


@router.get("/book/experience.json")
def experience(request: Request) -> Response:
    """Every bend as an open file, for the command line or another shop."""
    store = store_of(request)
    with store.connected():
        file = ExperienceFile(bends=store.bends())
    return Response(
        file.model_dump_json(indent=2), media_type="application/json", headers=attachment("experience.json")
    )
