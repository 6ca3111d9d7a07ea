"""The book: every bend measured, and what the shop has learnt from them."""

from __future__ import annotations

from dataclasses import dataclass

from fastapi import APIRouter, Request
from fastapi.responses import Response
from markupsafe import Markup

from ...core.book.built_form import compare
from ...core.experience.belief import ExperienceFile
from ...core.ground.errors import OutOfRange
from ...core.shop.adhesive import adhesive_table
from ...core.wood.lot import DRYNESS
from ...core.wood.species import OwnWood, wood_table
from ...drawing.learning_chart import Dot, Row, learning_chart
from ...store.book import Store
from ..common import page, store_of
from .take import attachment

router = APIRouter(include_in_schema=False)


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
    says: str
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


def _lines(store: Store) -> tuple[list[Bend], dict[tuple[str, str], list[Dot]]]:
    names: dict[int, str] = {s.id: s.job.name for s in [*store.jobs(), *store.jobs_put_away()]}
    lines: list[Bend] = []
    dots: dict[tuple[str, str], list[Dot]] = {}
    for form in store.forms():
        for piece in form.pieces:
            if not piece.measurements:
                continue
            m = piece.measurements[0]
            try:
                seen = compare(form.built, chord_mm=m.chord_mm, rise_mm=m.rise_mm, face=m.face, error_mm=m.error_mm)
            except OutOfRange:
                continue
            says = "left out" if piece.left_out else "" if seen.teaches else "springback lost in measuring"
            name = names.get(form.job_id, "")
            lines.append(
                Bend(
                    piece.id,
                    form.job_id,
                    name,
                    piece.label,
                    kind_says(form.built.group, store.shop().woods),
                    m.day.isoformat(),
                    f"{seen.ratio:.2f} ± {seen.ratio_error:.2f}",
                    seen.tip_off_mm,
                    says,
                    piece.left_out,
                )
            )
            dots.setdefault((form.built.way, form.built.group), []).append(
                Dot(
                    seen.ratio,
                    seen.ratio_error,
                    f"{name}, piece {piece.label}: {seen.ratio:.2f}",
                    piece.left_out or not seen.teaches,
                )
            )
    return lines[::-1], dots


@router.get("/book")
def book(request: Request) -> Response:
    store = store_of(request)
    with store.connected():
        lines, dots = _lines(store)
        learnt, shop = store.learnt(), store.shop()
    rows = []
    for (way, group), marks in sorted(dots.items()):
        belief = learnt.about(way=way, group=group)
        rows.append(Row(kind_says(group, shop.woods), belief.next_bend(), belief.bends, tuple(marks)))
    chart = Markup(learning_chart(rows)) if rows else Markup("")
    return page(
        "book.html",
        request,
        lines=lines,
        chart=chart,
        rows=rows,
        learnt=learnt,
        shop=shop,
        unit=shop.units,
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
