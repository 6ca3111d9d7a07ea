"""Boards sawn into strips: each section with every strip and kerf, each board along its length with its flaws."""

from __future__ import annotations

import csv
import io

import numpy as np

from ..core.ground.units import Unit, format_length
from ..core.prepare.boards import CutPlan, SawnBoard
from ..core.prepare.stock import Prepared
from .canvas import Canvas, Frame
from .svg import named, num, tag

SECTIONS_PX, HEIGHT_PX = 230.0, 230.0
MOST_SECTIONS, MOST_BOARDS = 4, 7
NUMBER_PX = 9.0  # a strip thinner than that on paper is counted, not numbered
GAP_PX = 30.0
HOWS = {
    "rip": "ripped off its edge",
    "resaw": "resawn off its face",
    "joined": "ripped at half the width, two side by side",
}


def sections_svg(cut: CutPlan, unit: Unit) -> str:
    """The section of the boards at true scale: strips numbered, every kerf, what is held back."""
    board = cut.boards[0]
    wide, thick = board.board.width_mm, board.board.thickness_mm
    corners = np.array([[0.0, 0.0], [wide, thick]])
    canvas = Canvas(Frame.around(corners, height_px=SECTIONS_PX, margin_px=(54, 60, 58, 60)))
    px = canvas.px
    size = {"x": 0, "y": num(-thick), "width": num(wide), "height": num(thick)}
    canvas.parts.append(tag("rect", named("the board in section"), class_="board-wood", **size))
    for n, place in enumerate(board.sawing.places, 1):
        at = {
            "x": num(place.x_mm),
            "y": num(-place.y_mm - place.high_mm),
            "width": num(place.wide_mm),
            "height": num(place.high_mm),
        }
        number = (n + 1) // 2 if board.sawing.how == "joined" else n
        canvas.parts.append(tag("rect", named(f"strip {number}"), class_="strip", **at))
        if min(place.wide_mm, place.high_mm) / px >= NUMBER_PX:
            x, y = place.x_mm + place.wide_mm / 2, place.y_mm + place.high_mm / 2 - 3.6 * px
            canvas.parts.append(canvas.text(x, y, str(number), "note", size=10.5))
    if board.sawing.held_mm:
        reach = max(p.x_mm + p.wide_mm for p in board.sawing.places)
        held = {"x": num(reach), "y": num(-thick), "width": num(wide - reach), "height": num(thick)}
        canvas.parts.append(tag("rect", named("held back for the hand, and off-cut"), class_="held", **held))
    x, y = canvas.place(16, 24)
    other = f"; {HOWS[cut.other.how]} it would give {cut.other.strips}" if cut.other else ""
    says = f"{board.sawing.strips} strips, {HOWS[board.sawing.how]}{other}"
    canvas.parts.append(canvas.text(x, y, says, "figure", "start", 14))
    low = -30 * px
    canvas.parts.append(canvas.arrows(0.0, low, wide, low))
    size_says = f"{format_length(wide, unit)} wide, {format_length(thick, unit)} thick"
    canvas.parts.append(canvas.text(wide / 2, low - 18 * px, size_says, "note"))
    return canvas.drawn("The board in section, true to scale", "board sections", role="img")


def lengths_svg(ready: Prepared, unit: Unit) -> str:
    """The boards used, along their length: the lengths taken out, flaws, what is left over."""
    cut = ready.cut
    assert cut is not None
    shown = cut.boards[:MOST_BOARDS]
    long = max(b.board.length_mm for b in shown)
    rows = len(shown)
    canvas = Canvas(Frame(-long * 0.09, 0.0, long * 1.14, long * 1.14 * HEIGHT_PX / 780))
    px = canvas.px
    for i, board in enumerate(shown):
        top = -(26 + i * min(GAP_PX, (HEIGHT_PX - 40) / rows)) * px
        _along(canvas, board, top, min(18.0, (HEIGHT_PX - 40) / rows * 0.6) * px)
    more = f" and {len(cut.boards) - rows} more alike" if len(cut.boards) > rows else ""
    x, y = canvas.place(16, HEIGHT_PX - 8)
    each = format_length(ready.strips.long_mm, unit)
    says = f"{len(cut.boards)} boards{more}; {cut.found} strips, {each} long"
    canvas.parts.append(canvas.text(x, y, says, "note", "start"))
    return canvas.drawn("The boards along their length, true to scale", "board lengths", role="img")


def _along(canvas: Canvas, board: SawnBoard, top: float, high: float) -> None:
    px = canvas.px
    whole = {"x": 0, "y": num(-top), "width": num(board.board.length_mm), "height": num(high)}
    canvas.parts.append(tag("rect", named(f"board {board.letter}"), class_="board-wood", **whole))
    foot = top - high / 2 - 4.5 * px
    canvas.parts.append(canvas.text(-8 * px, foot, f"{board.letter} ({board.number})", "figure", "end"))
    for length in board.lengths:
        size = {
            "x": num(length.start_mm),
            "y": num(-top),
            "width": num(length.end_mm - length.start_mm),
            "height": num(high),
        }
        canvas.parts.append(tag("rect", named("a length for strips"), class_="strip", **size))
        last = length.first + length.strips - 1
        says = f"{board.letter}{length.first} to {board.letter}{last}"
        canvas.parts.append(canvas.text((length.start_mm + length.end_mm) / 2, foot, says, "note", size=11))
    for start, end in board.board.flaws:
        size = {"x": num(start), "y": num(-top), "width": num(end - start), "height": num(high)}
        canvas.parts.append(tag("rect", named("flaw"), class_="flaw", **size))


def strips_csv(ready: Prepared) -> str:
    """One row a strip: its piece and place in it from the inside out, hand, board, rough size in mm."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(["strip", "piece", "hand", "layer_from_inside", "thick_mm", "wide_mm", "long_mm"])
    size = [f"{v:.2f}" for v in (ready.strips.thick_mm, ready.strips.wide_mm, ready.strips.long_mm)]
    for piece in ready.pieces:
        for layer, label in enumerate(piece.strips, 1):
            writer.writerow([label, piece.number, piece.hand, layer, *size])
        if piece.reserve:
            writer.writerow([piece.reserve, piece.number, piece.hand, "reserve", *size])
    return out.getvalue()
