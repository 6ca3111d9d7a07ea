"""Boards sawn into strips: each section with every strip and kerf, each board along its length with its flaws."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from ..core.common.units import Unit, format_length
from ..core.job.stock_choice import Flaw
from ..core.stock.boards import Board, CutPlan, Length, SawnBoard
from ..core.stock.prepared_stock import Prepared
from ..core.stock.sawing import StripPlace
from .canvas import Canvas, Frame
from .cut_list import HOWS
from .svg import named, num, tag

SECTIONS_PX, HEIGHT_PX = 200.0, 150.0
MOST_SECTIONS, MOST_BOARDS = 12, 8
NUMBER_PX = 10.0  # numbers stand no closer than that
MOST_NUMBERS, FEW_NUMBERS = 8, 4  # strips of a length that are all numbered; of more, how many are
GAP_PX, KNOB_PX = 30.0, 6.0
LEAST_FLAW_MM = 10.0


def rect(name: str, class_: str, x: float, y: float, wide: float, high: float) -> str:
    """A named rectangle, its lower left corner at x, y, mm."""
    return tag("rect", named(name), class_=class_, x=num(x), y=num(-y - high), width=num(wide), height=num(high))


def sections_svg(ready: Prepared, unit: Unit) -> str:
    """The section of each board used at true scale, one a step: strips numbered, every kerf, what is held back."""
    cut = ready.cut
    assert cut is not None
    shown = cut.boards[:MOST_SECTIONS]
    wide = max(b.board.width_mm for b in shown)
    thick = max(b.board.thickness_mm for b in shown)
    corners = np.array([[0.0, 0.0], [wide, thick]])
    canvas = Canvas(Frame.around(corners, height_px=SECTIONS_PX, margin_px=(56, 60, 48, 60)))
    made = []
    for i, board in enumerate(shown):
        canvas.parts = []
        canvas.space.cells[:] = False
        _section(canvas, cut, board, unit)
        made.append(tag("g", "".join(canvas.parts), class_="step now" if i == 0 else "step", data_step=str(i)))
    canvas.parts = made
    return canvas.drawn("Each board in section, to scale", "board sections", role="img")


def _section(canvas: Canvas, cut: CutPlan, board: SawnBoard, unit: Unit) -> None:
    """One board's section: of its first length, and how many more are sawn alike."""
    px, wide, thick = canvas.px, board.board.width_mm, board.board.thickness_mm
    length = board.lengths[0]
    canvas.parts.append(rect(f"board {board.letter} in section", "board-wood", 0, 0, wide, thick))
    steps = [abs(b.x_mm - a.x_mm) + abs(b.y_mm - a.y_mm) for a, b in _neighbours(length)]
    apart = NUMBER_PX if board.lanes.how == "resaw" else 2 * NUMBER_PX
    every = max(1, math.ceil(apart * px / min(steps, default=apart * px)))  # strips too thin are numbered now and then
    if len(length.sawn) > MOST_NUMBERS:  # the order is plain from a few
        every = max(every, math.ceil(len(length.sawn) / FEW_NUMBERS))
    numbers: list[str] = []
    for strip in length.sawn:
        for n, place in enumerate(strip.places):
            half = f", half {n + 1}" if len(strip.places) > 1 else ""
            at = (place.x_mm, place.y_mm, place.wide_mm, place.high_mm)
            canvas.parts.append(rect(f"strip {board.letter}{strip.number}{half}", "strip", *at))
            if n == 0 and (strip.number - length.first) % every == 0:
                x, y = place.x_mm + place.wide_mm / 2, place.y_mm + place.high_mm / 2 - 3.2 * px
                numbers.append(canvas.text(x, y, str(strip.number), "note on-wood", size=12))
    canvas.parts += numbers
    if board.lanes.held_mm:
        reach = length.reach_mm
        canvas.parts.append(rect("held back for safety, and offcut", "held", reach, 0, wide - reach, thick))
    x, y = canvas.place(16, 24)
    other = f"; {HOWS[cut.other.how]} a length would yield {cut.other.strips}" if cut.other else ""
    message = f"Board {board.letter}: {length.strips} strips {HOWS[board.lanes.how]}{other}"
    canvas.parts.append(canvas.text(x, y, message, "figure", "start", 14))
    x, y = canvas.place(16, 44)
    canvas.parts.append(canvas.text(x, y, _alike(board, unit), "note", "start"))
    low = -30 * px
    canvas.parts.append(canvas.arrows(0.0, low, wide, low))
    size_text = f"{format_length(wide, unit)} wide, {format_length(thick, unit)} thick"
    canvas.parts.append(canvas.text(wide / 2, low - 18 * px, size_text, "note"))


def _neighbours(length: Length) -> Iterator[tuple[StripPlace, StripPlace]]:
    """Strips that lie beside one another in their lane."""
    for a, b in itertools.pairwise(s.places[0] for s in length.sawn):
        if (a.x_mm == b.x_mm) != (a.y_mm == b.y_mm):
            yield a, b


def _alike(board: SawnBoard, unit: Unit) -> str:
    """How many lengths a board gives, and the width of every kerf."""
    kerf = f"every cut {format_length(board.lanes.kerf_mm, unit)}"
    lengths = len(board.lengths)
    if lengths == 1:
        return f"one length; {kerf}"
    numbers = ", ".join(_numbers(board, x) for x in board.lengths[:4]) + (" …" if lengths > 4 else "")
    return f"{lengths} lengths: {numbers}; {kerf}"


def _numbers(board: SawnBoard, length: Length) -> str:
    last = length.sawn[-1].number
    first = f"{board.letter}{length.first}"
    return first if last == length.first else f"{first} to {board.letter}{last}"


@dataclass(frozen=True)
class BoardRow:
    """A board along its length: its number from 1, where its top lies, px from the top, and whether it is used."""

    number: int
    board: Board
    top_px: float
    used: SawnBoard | None


def rows_of(ready: Prepared) -> tuple[BoardRow, ...]:
    """The boards drawn along their length: those used, and those with something against them."""
    cut = ready.cut
    assert cut is not None
    used = {b.number: b for b in cut.boards}
    said = [n for n, b in enumerate(ready.boards, 1) if n in used or b.flaws or b.left_out][:MOST_BOARDS]
    step = min(GAP_PX, (HEIGHT_PX - 40) / max(1, len(said)))
    return tuple(BoardRow(n, ready.boards[n - 1], 26 + i * step, used.get(n)) for i, n in enumerate(said))


def _lengths_frame(rows: tuple[BoardRow, ...]) -> Frame:
    long = max(r.board.length_mm for r in rows)
    return Frame(-long * 0.09, 0.0, long * 1.14, long * 1.14 * HEIGHT_PX / 780)


def row_at(ready: Prepared, y_mm: float) -> BoardRow:
    """The board that lies nearest to a height of the drawing, mm, y upwards."""
    rows = rows_of(ready)
    px = _lengths_frame(rows).px
    return min(rows, key=lambda r: abs(r.top_px + 9 + y_mm / px))


def lengths_svg(ready: Prepared, flaws: Sequence[Flaw], unit: Unit) -> str:
    """Boards along their length: the lengths taken out, flaws to take hold of, what is kept of the rest."""
    cut = ready.cut
    assert cut is not None
    rows = rows_of(ready)
    canvas = Canvas(_lengths_frame(rows))
    px = canvas.px
    step = rows[1].top_px - rows[0].top_px if len(rows) > 1 else GAP_PX
    for row in rows:
        _along(canvas, row, flaws, min(18.0, step * 0.62) * px)
    shown = sum(1 for r in rows if r.used)
    more = f", {shown} of them drawn" if len(cut.boards) > shown else ""
    x, y = canvas.place(16, HEIGHT_PX - 8)
    each = format_length(ready.strips.long_mm, unit)
    kept = sum(len(b.off_cuts) for b in cut.boards)
    off = f"; {kept} usable offcut{'s' if kept != 1 else ''}" if kept else ""
    boards = "1 board" if len(cut.boards) == 1 else f"{len(cut.boards)} boards"
    message = f"{boards}{more}; {cut.found} strips, {each} long{off}"
    canvas.parts.append(canvas.text(x, y, message, "note", "start"))
    return canvas.drawn("Boards along their length, to scale", "board lengths", role="group")


def _along(canvas: Canvas, row: BoardRow, flaws: Sequence[Flaw], high: float) -> None:
    px, top = canvas.px, -row.top_px * canvas.px
    low, foot = top - high, top - high / 2 - 4.5 * canvas.px
    name = f"{row.used.letter} ({row.number})" if row.used else f"({row.number})"
    state = "left out" if row.board.left_out else "" if row.used else "not needed"
    look = "board-wood" if row.used else "board-wood idle"
    canvas.parts.append(rect(f"board {name}{f', {state}' if state else ''}", look, 0, low, row.board.length_mm, high))
    canvas.parts.append(canvas.text(-8 * px, foot, name, "figure", "end"))
    if state:
        canvas.parts.append(canvas.text(row.board.length_mm / 2, foot, state, "note", size=12))
    if row.used:
        for off in row.used.off_cuts:
            if off.width_mm == row.board.width_mm:
                canvas.parts.append(rect("offcut, usable", "kept", off.start_mm, low, off.length_mm, high))
        for length in row.used.lengths:
            wide = length.end_mm - length.start_mm
            canvas.parts.append(rect("a length for strips", "strip", length.start_mm, low, wide, high))
            middle = (length.start_mm + length.end_mm) / 2
            canvas.parts.append(canvas.text(middle, foot, _numbers(row.used, length), "note", size=12))
    for n, flaw in enumerate(flaws):
        if flaw.board == row.number:
            canvas.parts.append(rect("flaw", "flaw", flaw.start_mm, low, flaw.end_mm - flaw.start_mm, high))
            canvas.parts.append(_knob(canvas, f"flaw-{n}", (flaw.start_mm + flaw.end_mm) / 2, low + high / 2))


def _knob(canvas: Canvas, name: str, x: float, y: float) -> str:
    """What a flaw is taken hold of by."""
    r = KNOB_PX * canvas.px
    dots = tag("circle", class_="reach", cx=num(x), cy=num(-y), r=num(2.2 * r))
    dots += tag("circle", class_="knob", cx=num(x), cy=num(-y), r=num(r))
    message = named("drag the flaw along its board, or onto another")
    more = {"data-handle": name, "data-step": "10", "tabindex": "0", "role": "button", "aria-label": "flaw"}
    return tag("g", message + dots, class_="handle", **more)
