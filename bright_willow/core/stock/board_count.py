"""How many strips a board gives, and how many boards a job takes from its lot."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Protocol

from ..wood.lot import Lot
from .sawing import lengths_in, sawings
from .stock_use import StockUse


class SizedBoards(Protocol):
    """A board, or boards of one size, mm."""

    @property
    def thickness_mm(self) -> float: ...
    @property
    def width_mm(self) -> float: ...
    @property
    def length_mm(self) -> float: ...


@dataclass(frozen=True, slots=True)
class BoardUse:
    """What a job takes from a lot: strips from each board, boards needed, boards the lot holds."""

    lot: str
    strips_per_board: int
    boards: int
    at_hand: int

    @property
    def left(self) -> int:
        """Boards of the lot that remain."""
        return self.at_hand - self.boards


def board_use(lot: Lot, stock: StockUse, kerf_mm: float) -> BoardUse:
    """Boards of a lot that a job's strips take: strips stand across the board's width, or across its thickness where
    the board is too thin for that and wide enough to be resawn, or joined of two halves; 0 where none."""
    each = _strips_of(lot, stock, kerf_mm)
    return BoardUse(lot.name, each, math.ceil(stock.strips / each) if each else 0, lot.count)


def boards_to_inspect(board: SizedBoards, stock: StockUse, kerf_mm: float) -> int:
    """Boards of a size that a job takes; at least 1, also where they give no strip."""
    each = _strips_of(board, stock, kerf_mm) if stock.strips else 0
    return max(1, math.ceil(stock.strips / each)) if each else 1


def _strips_of(board: SizedBoards, stock: StockUse, kerf_mm: float) -> int:
    ways = sawings(
        board_thick_mm=board.thickness_mm,
        board_wide_mm=board.width_mm,
        strip_thick_mm=stock.strip_rough_mm,
        strip_wide_mm=stock.strip_width_mm,
        kerf_mm=kerf_mm,
    )
    along = lengths_in(length_mm=board.length_mm, each_mm=stock.strip_length_mm, kerf_mm=kerf_mm)
    return ways[0].strips * along if ways else 0
