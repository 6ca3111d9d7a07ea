"""The cut list and the labels on paper: boards in section with every strip, then a box to tick for each strip."""

from __future__ import annotations

import io
from collections.abc import Iterator, Sequence
from itertools import groupby
from typing import Any

from ..core.common.units import Unit, format_length
from ..core.job.job import Job
from ..core.shop.labels import PAPERS_MM, label_places
from ..core.shop.shop import Shop
from ..core.stock.boards import SawnBoard
from ..core.stock.prepared_stock import Prepared
from .cut_list import HOWS, CutStrip, cut_strips, paper_mm
from .flowing import MARGIN_MM, MM, drawn, flow, table, within, words
from .print_font import font, text_width

TEXT, HEAD, TITLE = 12.0, 14.5, 22.0
SECTION_HIGH_MM, MOST_SECTIONS = 46.0, 6
CELL_WIDE_MM, CELL_HIGH_MM, BOX_MM = 21.0, 11.5, 4.5
NUMBER_PT = 8.0  # of the number of a strip in the section


def cut_list_pdf(job: Job, ready: Prepared, *, paper: str, unit: Unit) -> bytes:
    """The cut list as pages: boards with what each gives, then every strip. Raises: PlanError for unknown paper."""
    from reportlab.pdfgen.canvas import Canvas

    page = paper_mm(paper)
    out = io.BytesIO()
    canvas = Canvas(out)
    canvas.setTitle(f"{job.name}: cut list")
    canvas.setCreator("Bright Willow")
    numbers = iter(range(1, 1_000))
    flow(canvas, _story(job, ready, page[0] - 2 * MARGIN_MM, unit), page, foot=lambda c: _foot(c, job, next(numbers)))
    canvas.save()
    return out.getvalue()


def _foot(canvas: Any, job: Job, number: int) -> None:
    canvas.setFont(font(), 9)
    canvas.drawString(MARGIN_MM * MM, MARGIN_MM * MM, f"{job.name[:80]}: cut list, sheet {number}")


def _story(job: Job, ready: Prepared, width: float, unit: Unit) -> list[Any]:
    cut, strips = ready.cut, list(cut_strips(ready))
    assert cut is not None
    lot = f"Lot: {ready.lot}. " if ready.lot else ""
    message = f"{lot}Rough sizes. Number each strip as it comes off the saw; every cut takes "
    message += f"{format_length(ready.strips.kerf_mm, unit)}."
    story = [words(f"{job.name[:70]}: cut list", size=TITLE, bold=True, after_mm=2.5), words(message, size=TEXT)]
    story += [words(line, size=TEXT, bold=True) for line in _sizes(ready, strips, unit)]
    for board in _unlike(cut.boards)[:MOST_SECTIONS]:
        story += [words(_board_text(board, cut.boards), size=HEAD, bold=True, after_mm=0.5)]
        story.append(_section(board, width, unit))
    boards = [("board", "thick", "wide", "long", "strips", "lengths begin at")]
    for b in cut.boards:
        sizes = [format_length(v, unit) for v in (b.board.thickness_mm, b.board.width_mm, b.board.length_mm)]
        begins = ", ".join(format_length(x.start_mm, unit) for x in b.lengths)
        boards.append((f"{b.letter} ({b.number})", *sizes, str(b.strips), begins))
    story += [table(boards, [22.0, 26.0, 26.0, 30.0, 20.0, 60.0], size=TEXT - 1, head=1), words("", after_mm=2)]
    for piece, own in groupby(strips, key=lambda s: (s.piece, s.hand)):
        story += _piece(piece, list(own), width)
    return story


def _sizes(ready: Prepared, strips: Sequence[CutStrip], unit: Unit) -> Iterator[str]:
    """The rough size of each kind of strip, and which plies it is for."""
    for number, kind in enumerate(ready.strips.kinds):
        size = " × ".join(format_length(v, unit) for v in (kind.thick_mm, ready.strips.wide_mm, kind.long_mm))
        plies = list(dict.fromkeys(s.layer for s in strips if s.kind == number and s.layer.isdecimal()))
        others = list(dict.fromkeys(s.layer for s in strips if s.kind == number and not s.layer.isdecimal()))
        named = [f"ply {', '.join(plies)}"] if plies else []
        whose = "Every strip" if len(ready.strips.kinds) == 1 else ", ".join(named + others).capitalize()
        yield f"{whose}: {size}"


def _unlike(boards: Sequence[SawnBoard]) -> list[SawnBoard]:
    """One of all boards that are sawn alike."""
    return list({_layout(b): b for b in reversed(boards)}.values())[::-1]


def _layout(board: SawnBoard) -> tuple[Any, ...]:
    """How the first length of a board is sawn; the same for boards sawn alike."""
    places = tuple(round(v, 1) for s in board.lengths[0].sawn for p in s.places for v in (p.x_mm, p.y_mm, p.high_mm))
    return (round(board.board.width_mm, 1), round(board.board.thickness_mm, 1), *places)


def _board_text(board: SawnBoard, boards: Sequence[SawnBoard]) -> str:
    alike = [b.letter for b in boards if _layout(b) == _layout(board)]
    first = board.lengths[0]
    return f"Board{'s' if len(alike) > 1 else ''} {', '.join(alike)}: {first.strips} strips {HOWS[board.lanes.how]}"


def _section(board: SawnBoard, width: float, unit: Unit) -> Any:
    """The section of a board to scale across the page, its strips numbered, its width and thickness on it."""
    wide, thick = board.board.width_mm, board.board.thickness_mm
    low, left = 8.0, 24.0
    scale = min((width - 2 * left) / wide, SECTION_HIGH_MM / thick)
    left = (width - wide * scale) / 2

    def draw(canvas: Any) -> None:
        canvas.setLineWidth(1.0)
        canvas.setFillGray(0.75)
        canvas.rect(left * MM, low * MM, wide * scale * MM, thick * scale * MM, fill=1)
        canvas.setLineWidth(0.4)
        for strip in board.lengths[0].sawn:
            for n, place in enumerate(strip.places):
                x, y = left + place.x_mm * scale, low + place.y_mm * scale
                across, high = place.wide_mm * scale, place.high_mm * scale
                canvas.setFillGray(1)
                canvas.rect(x * MM, y * MM, across * MM, high * MM, fill=1)
                text = str(strip.number)
                canvas.setFillGray(0)
                if n == 0 and high * MM >= NUMBER_PT and across * MM >= text_width(text, NUMBER_PT) + 1:
                    canvas.setFont(font(), NUMBER_PT)
                    canvas.drawCentredString((x + across / 2) * MM, (y + high / 2) * MM - NUMBER_PT * 0.35, text)
        canvas.setFillGray(0)
        canvas.setFont(font(bold=True), TEXT - 1)
        canvas.drawCentredString(width / 2 * MM, 2.5 * MM, f"{format_length(wide, unit)} wide")
        canvas.drawRightString((left - 2) * MM, (low + thick * scale / 2) * MM - 4, format_length(thick, unit))

    return drawn(width, low + thick * scale + 3, draw)


def _piece(piece: tuple[int, str], strips: Sequence[CutStrip], width: float) -> list[Any]:
    """The strips of a piece from the inside out, each with a box to tick; of no piece what is left over."""
    number, hand = piece
    title = f"Piece {number}{f', {hand}' if hand else ''}" if number else "Left over"
    columns = max(1, int(width // CELL_WIDE_MM))
    rows = -(-len(strips) // columns)

    def draw(canvas: Any) -> None:
        for i, strip in enumerate(strips):
            x, y = (i % columns) * CELL_WIDE_MM, (rows - i // columns) * CELL_HIGH_MM - BOX_MM - 1.5
            canvas.setLineWidth(0.8)
            canvas.rect(x * MM, y * MM, BOX_MM * MM, BOX_MM * MM)
            canvas.setFont(font(bold=True), HEAD)
            canvas.drawString((x + BOX_MM + 1.5) * MM, (y + 0.6) * MM, strip.label)
            canvas.setFont(font(), 9)
            place = f"ply {strip.layer}" if strip.layer.isdecimal() else strip.layer
            canvas.drawString((x + BOX_MM + 1.5) * MM, (y - 3.4) * MM, within(place, 9, CELL_WIDE_MM - BOX_MM - 2.5))

    heading = words(title, size=HEAD, bold=True, after_mm=0.5)
    return [heading, drawn(width, rows * CELL_HIGH_MM, draw), words("", size=4, after_mm=0)]


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
    plies = max((len(piece.strips) for piece in ready.pieces), default=0)
    for i, strip in enumerate(cut_strips(ready)):
        if i and i % len(places) == 0:
            canvas.showPage()
        x, y = places[i % len(places)]
        _label(canvas, job, strip, plies, shop, x, high - y)
    canvas.save()
    return out.getvalue()


def _label(canvas: Any, job: Job, strip: CutStrip, plies: int, shop: Shop, x: float, top: float) -> None:
    """One label, its upper left corner at x, top, mm from the lower left of the sheet."""
    wide, high = shop.label_wide_mm, shop.label_high_mm
    inside = min(4.0, wide * 0.08)
    big = min(24.0, high * MM * 0.42)
    canvas.setFont(font(bold=True), big)
    canvas.drawString((x + inside) * MM, top * MM - big - 2, strip.label)
    if strip.layer.isdecimal():
        used = text_width(strip.label, big, bold=True) / MM + 2 * inside
        _stack(canvas, int(strip.layer), plies, x + used, top - 2.5, wide - used - inside, big / MM - 1.5)
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


def _stack(canvas: Any, ply: int, plies: int, x: float, top: float, wide: float, high: float) -> None:
    """The layup from its edge, the outside of the bend up, this ply black: where a strip goes, without reading."""
    each = min(2.0, high / max(1, plies))
    if wide < 8.0 or each < 0.5:
        return
    canvas.setLineWidth(0.4)
    for n in range(plies):
        canvas.setFillGray(0.0 if plies - n == ply else 1.0)
        canvas.rect(x * MM, (top - (n + 1) * each) * MM, min(wide, 22.0) * MM, each * MM, fill=1)
    canvas.setFillGray(0.0)
