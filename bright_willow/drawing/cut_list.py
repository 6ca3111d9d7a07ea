"""What is sawn, as a table: as CSV, as a page, and as labels for every strip."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from ..core.common.errors import PlanError
from ..core.common.units import Unit, format_length
from ..core.job.job import Job
from ..core.shop.labels import PAPERS_MM, label_places
from ..core.shop.shop import Shop
from ..core.stock.prepared_stock import Prepared
from .flowing import MM, flow, table, within, words
from .print_font import font

RESERVE, WASTE = "reserve", "waste strip, outside"


@dataclass(frozen=True)
class CutStrip:
    """One strip: its number, the piece it is for, which hand, which layer from the inside, its kind."""

    label: str
    piece: int
    hand: str
    layer: str
    kind: int


def cut_strips(ready: Prepared) -> Iterator[CutStrip]:
    """Every strip, piece by piece from the inside out; what is left over last. Valid where boards are sawn."""
    cut = ready.cut
    assert cut is not None
    kinds = dict(zip(cut.labels, cut.kinds, strict=True))
    left = dict(kinds)
    for piece in ready.pieces:
        for layer, label in enumerate(piece.strips, 1):
            last = ready.has_waste_strip and layer == len(piece.strips)
            yield CutStrip(label, piece.number, piece.hand, WASTE if last else str(layer), left.pop(label))
        for label in piece.reserve:
            yield CutStrip(label, piece.number, piece.hand, RESERVE, left.pop(label))
    for label, kind in left.items():
        yield CutStrip(label, 0, "", ready.strips.kinds[kind].name or "left over", kind)


def strips_csv(ready: Prepared) -> str:
    """One row a strip: its piece and place in it from the inside out, hand, rough size in mm."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(["strip", "piece", "hand", "layer_from_inside", "thick_mm", "wide_mm", "long_mm"])
    for s in cut_strips(ready):
        kind = ready.strips.kinds[s.kind]
        size = [f"{v:.2f}" for v in (kind.thick_mm, ready.strips.wide_mm, kind.long_mm)]
        writer.writerow([s.label, s.piece or "", s.hand, s.layer, *size])
    return out.getvalue()


def cut_list_pdf(job: Job, ready: Prepared, *, paper: str, unit: Unit) -> bytes:
    """The cut list as pages: boards with what each gives, then every strip. Raises: PlanError for unknown paper."""
    from reportlab.pdfgen.canvas import Canvas

    page = paper_mm(paper)
    cut = ready.cut
    assert cut is not None
    boards = [("board", "thick", "wide", "long", "strips", "lengths begin at")]
    for b in cut.boards:
        sizes = [format_length(v, unit) for v in (b.board.thickness_mm, b.board.width_mm, b.board.length_mm)]
        begins = ", ".join(format_length(x.start_mm, unit) for x in b.lengths)
        boards.append((f"{b.letter} ({b.number})", *sizes, str(b.strips), begins))
    strips = [("strip", "piece", "ply", "thick", "wide", "long", "done")]
    for s in cut_strips(ready):
        kind = ready.strips.kinds[s.kind]
        sizes = [format_length(v, unit) for v in (kind.thick_mm, ready.strips.wide_mm, kind.long_mm)]
        piece = f"{s.piece}{f' {s.hand}' if s.hand else ''}" if s.piece else ""
        strips.append((s.label, piece, s.layer, *sizes, "____"))
    out = io.BytesIO()
    canvas = Canvas(out)
    canvas.setTitle(f"{job.name}: cut list")
    canvas.setCreator("Bright Willow")
    lot = f"Lot: {ready.lot}. " if ready.lot else ""
    message = f"{lot}Rough sizes. Number each strip as it comes off the saw; every cut takes "
    message += f"{format_length(ready.strips.kerf_mm, unit)}."
    story = [
        words(f"{job.name[:70]}: cut list", size=16, bold=True, after_mm=3),
        words(message, after_mm=3),
        table(boards, [22.0, 24.0, 24.0, 26.0, 18.0, 70.0], size=10, head=1),
        words("", after_mm=4),
        table(strips, [22.0, 26.0, 34.0, 26.0, 26.0, 30.0, 20.0], size=10, head=1),
    ]
    flow(canvas, story, page, foot=lambda c: None)
    canvas.save()
    return out.getvalue()


def paper_mm(paper: str) -> tuple[float, float]:
    """The size of a paper, mm. Raises: PlanError for one that is not known."""
    if paper not in PAPERS_MM:
        raise PlanError("paper", f"Paper is one of {', '.join(PAPERS_MM)}.")
    return PAPERS_MM[paper]


def labels_pdf(job: Job, ready: Prepared, shop: Shop) -> bytes:
    """A label for every strip on the shop's own label sheets: number, job, piece, layer, hand, which face is up.

    Raises: PlanError where the shop's labels run off their paper.
    """
    from reportlab.pdfgen.canvas import Canvas

    places, (wide, high) = label_places(shop), PAPERS_MM[shop.label_paper]
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(wide * MM, high * MM))
    canvas.setTitle(f"{job.name}: labels")
    canvas.setCreator("Bright Willow")
    for i, strip in enumerate(cut_strips(ready)):
        if i and i % len(places) == 0:
            canvas.showPage()
        x, y = places[i % len(places)]
        _label(canvas, job, strip, shop, x, high - y)
    canvas.save()
    return out.getvalue()


def _label(canvas: Any, job: Job, strip: CutStrip, shop: Shop, x: float, top: float) -> None:
    """One label, its upper left corner at x, top, mm from the lower left of the sheet."""
    wide, high = shop.label_wide_mm, shop.label_high_mm
    inside = min(4.0, wide * 0.08)
    big = min(24.0, high * MM * 0.42)
    canvas.setFont(font(bold=True), big)
    canvas.drawString((x + inside) * MM, top * MM - big - 2, strip.label)
    small = min(9.0, high * MM * 0.14)
    place = f"ply {strip.layer}" if strip.layer.isdecimal() else strip.layer
    lines = [
        job.name,
        f"piece {strip.piece}{f', {strip.hand}' if strip.hand else ''}, {place}" if strip.piece else place,
        "this face up: outside of the bend",
        *(["marks: " + ", ".join(mark.name for mark in job.part_as_drawn.marks)] if job.part.marks else []),
    ]
    for n, line in enumerate(lines, 1):
        foot = top * MM - big - 4 - n * small * 1.2
        if foot < (top - high) * MM:
            break
        canvas.setFont(font(), small)
        canvas.drawString((x + inside) * MM, foot, within(line, small, wide - 2 * inside))
