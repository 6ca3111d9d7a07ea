"""Boards as they are sawn, at full size: each along its length seen onto its face, and its section beside it."""

from __future__ import annotations

import numpy as np

from ..core.common.units import Unit, format_length
from ..core.job.job import Job
from ..core.stock.boards import Board, Length, SawnBoard
from ..core.stock.prepared_stock import Prepared
from .template_lines import Chain, Template, TemplateText

GAP_MM, TEXT_MM, NUMBER_MM = 60.0, 14.0, 5.0


def layout_template(job: Job, ready: Prepared, unit: Unit) -> Template:
    """Boards one above another, the first at the top: lower left corner of the first at 0, 0, sections left of 0.

    Valid where boards are sawn.
    """
    made = Template(f"{job.name}: cutting diagram")
    y = 0.0
    for board in ready.cut.boards if ready.cut else ():
        y -= board.board.width_mm + GAP_MM if made.chains else 0.0
        _board(made, board, y, unit)
    return made


def _rect(layer: str, x: float, y: float, long: float, high: float) -> Chain:
    corners = np.array([[x, y], [x + long, y], [x + long, y + high], [x, y + high]])
    return Chain(layer, corners, np.zeros(4), closed=True)


def _board(made: Template, sawn: SawnBoard, y: float, unit: Unit) -> None:
    board = sawn.board
    made.chains.append(_rect("BOARD", 0.0, y, board.length_mm, board.width_mm))
    size = " × ".join(format_length(v, unit) for v in (board.thickness_mm, board.width_mm, board.length_mm))
    made.words.append(
        TemplateText(0.0, y + board.width_mm + 8, f"{sawn.letter} ({sawn.number}): {size}", TEXT_MM, middle=False)
    )
    for length in sawn.lengths:
        _length(made, sawn, length, y)
    for off in sawn.off_cuts:
        across = 0.0 if off.width_mm == board.width_mm else board.width_mm - off.width_mm
        made.chains.append(_rect("KEPT", off.start_mm, y + across, off.length_mm, off.width_mm))
    for start, end in board.flaws:
        made.chains.append(_rect("FLAW", start, y, end - start, board.width_mm))
    _section(made, sawn, sawn.lengths[0], board, y)


def _length(made: Template, sawn: SawnBoard, length: Length, y: float) -> None:
    """Seen onto the face: every strip that lies uppermost, its numbers, and those below it in the same place."""
    lanes: dict[tuple[float, float], list[int]] = {}
    for strip in length.sawn:
        for place in strip.places:
            lanes.setdefault((place.x_mm, place.wide_mm), []).append(strip.number)
    for (x, wide), numbers in lanes.items():
        made.chains.append(_rect("STRIP", length.start_mm, y + x, length.end_mm - length.start_mm, wide))
        first, last = f"{sawn.letter}{numbers[0]}", f"{sawn.letter}{numbers[-1]}"
        middle = (length.start_mm + length.end_mm) / 2
        high = min(TEXT_MM, max(2.0, wide * 0.6))
        text = first if first == last else f"{first} to {last}"
        made.words.append(TemplateText(middle, y + x + wide / 2 - high / 2, text, high))


def _section(made: Template, sawn: SawnBoard, length: Length, board: Board, y: float) -> None:
    """The section of the first length, turned so that its width runs up, left of the board."""
    left = -GAP_MM - board.thickness_mm
    made.chains.append(_rect("BOARD", left, y, board.thickness_mm, board.width_mm))
    for strip in length.sawn:
        for place in strip.places:
            x, foot = left + place.y_mm, y + place.x_mm
            made.chains.append(_rect("STRIP", x, foot, place.high_mm, place.wide_mm))
            high = min(NUMBER_MM, 0.7 * min(place.high_mm, place.wide_mm))
            at = (x + place.high_mm / 2, foot + place.wide_mm / 2 - high / 2)
            made.words.append(TemplateText(*at, f"{sawn.letter}{strip.number}", high))
