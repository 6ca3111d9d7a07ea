"""The track record: what was promised for every measured piece, what came of it, and where predictions are biased."""

from __future__ import annotations

from dataclasses import dataclass

from fastapi import APIRouter, Request
from fastapi.responses import Response
from markupsafe import Markup

from ...core.common.errors import PlanError
from ...core.common.units import Unit, format_length
from ...core.measuring.track_record import FEWEST, ThicknessClass, TrackedPiece, classes, judged
from ...core.methods.method_registry import WAYS
from ...drawing.track_chart import track_chart
from ...store.records import Page
from ...store.store import Store
from ..common import page, planned, store_of

router = APIRouter(include_in_schema=False)
MOST_PIECES = 500  # the newest, looked at and drawn
MOST_LINES = 40  # of the table under the chart


@dataclass(frozen=True)
class ClassLine:
    """A bending method and class of thickness, in words."""

    way: str
    thickness: str
    of: ThicknessClass
    over: str
    message: str


@router.get("/book/track-record")
async def track_record(request: Request) -> Response:
    return await planned(request, _track_record, request)


def _track_record(request: Request) -> Response:
    store = store_of(request)
    with store.connected():
        shop, rows = store.shop_settings.get(), _judged(store)
    pieces = [p for p, _ in rows]
    every = classes(pieces)
    counted = sum(c.pieces for c in every)
    return page(
        "track_record.html",
        request,
        shop=shop,
        unit=shop.rule,
        here="book",
        chart=Markup(track_chart(pieces, shop.rule)) if pieces else Markup(""),
        lines=[_line(c, shop.rule) for c in every],
        pieces=counted,
        inside=sum(c.inside for c in every),
        left_out=len(pieces) - counted,
        newest=[(p, job, WAYS[p.way].name if p.way in WAYS else p.way) for p, job in rows[:MOST_LINES]],
        most=MOST_PIECES,
    )


def _judged(store: Store) -> list[tuple[TrackedPiece, int]]:
    """This shop's own measured pieces, the newest first, each with its job; what cannot be compared is left."""
    every = store.pieces.measured_page(Page(1, store.pieces.measured_count(), MOST_PIECES))
    names = store.jobs.names({form.job_id for form, _ in every})
    made = []
    for form, piece in every:
        if form.origin or not form.built.can_open:
            continue
        message = f"{names.get(form.job_id, '')}, piece {piece.label}"
        try:
            seen = form.compared(piece, piece.measurements[0])
            made.append((judged(form.built, seen, counts=not piece.left_out, message=message), form.job_id))
        except PlanError:
            continue
    return made


def _line(of: ThicknessClass, unit: Unit) -> ClassLine:
    low, high = format_length(of.low_mm, unit), format_length(of.high_mm, unit)
    ends = f"{low} to {high}" if of.low_mm else f"under {high}"
    thickness = ends if of.high_mm else f"{low} and thicker"
    way = WAYS[of.way].name if of.way in WAYS else of.way
    return ClassLine(way, thickness, of, f"{100 * of.bias:+.0f} %", _text(of))


def _text(of: ThicknessClass) -> str:
    if of.pieces < FEWEST:
        return f"too few to say: {FEWEST} are needed"
    more = "more" if of.bias > 0 else "less"
    said = [f"biased: pieces spring back {abs(of.bias):.0%} {more} than predicted"] if of.is_biased else []
    if of.is_too_narrow:
        said.append("the range is too narrow: fewer than eight in ten fall inside")
    return "; ".join(said) or "no bias found"
