"""The maker's own marks on the board: lines across the strip, and their names where there is room."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from ..core.shape.curve import Curve

if TYPE_CHECKING:
    from .board import BoardDrawing


def own_marks_drawn(board: BoardDrawing, curve: Curve) -> None:
    """A line across the strip at each mark. curve: the centerline of the finished piece as it is drawn."""
    for mark in board.plan.own_marks:
        (point,), (heading,) = curve.at(np.array([mark.station_mm / board.target.length_mm * curve.length_mm]))
        out = np.array([-np.sin(heading), np.cos(heading)]) * (board.half + 5 * board.px)
        foot, head = point + board.lift - out, point + board.lift + out
        board.parts.append(board.line(*foot, *head, "own-mark"))
        board.own_marks.append((mark.name, head, foot))


def own_names(board: BoardDrawing) -> None:
    """The name of each mark beside it; called last, once everything else has its place."""
    for name, head, foot in board.own_marks:
        spots = [*board.around(*head, away=7), *board.around(*foot, away=7)]
        board.parts.append(board.label(spots, name, "note own-name", 12))
