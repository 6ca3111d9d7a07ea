"""How many strips a board gives, and how many boards a job takes from its lot."""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..ground.errors import ENDLESS, require
from ..wood.lot import Lot
from .stock_use import StockUse

HOLD_MM = 20.0  # the last of a board is never ripped: too near the blade to hold. Grade: allowance.


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


def strips_across(*, width_mm: float, rough_mm: float, kerf_mm: float, hold_mm: float = HOLD_MM) -> int:
    """Strips ripped off a width: floor((W − hold + kerf) / (rough + kerf)). Valid: rough > 0, hold ≥ 20.

    Source: geometry; the hold is a caution. Raises: OutOfRange.

    >>> strips_across(width_mm=150, rough_mm=6, kerf_mm=3)
    14
    """
    require("hold_mm", hold_mm, HOLD_MM, ENDLESS, "mm", says="At least 20 mm of a board is left to hold it by.")
    require("rough_mm", rough_mm, 0, ENDLESS, "mm", above=True, says="A strip has a thickness above zero.")
    require("kerf_mm", kerf_mm, 0, ENDLESS, "mm", says="A strip has a thickness above zero.")
    require("width_mm", width_mm, 0, ENDLESS, "mm")
    return max(0, math.floor((width_mm - hold_mm + kerf_mm) / (rough_mm + kerf_mm) + 1e-9))


def board_use(lot: Lot, stock: StockUse, kerf_mm: float) -> BoardUse:
    """Boards of a lot that a job's strips take: strips stand across the board's width, or across its thickness where
    the board is too thin to give them their width and wide enough to be resawn. 0 strips where neither fits."""
    wide, rough = stock.strip_width_mm, stock.strip_rough_mm
    off_width = strips_across(width_mm=lot.width_mm, rough_mm=rough, kerf_mm=kerf_mm)
    ripped = off_width * math.floor((lot.thickness_mm + kerf_mm) / (wide + kerf_mm) + 1e-9)
    resawn_layers = math.floor((lot.thickness_mm + kerf_mm) / (rough + kerf_mm) + 1e-9)
    resawn = resawn_layers * math.floor((lot.width_mm + kerf_mm) / (wide + kerf_mm) + 1e-9)
    along = math.floor((lot.length_mm + kerf_mm) / (stock.strip_length_mm + kerf_mm) + 1e-9)
    each = max(ripped, resawn) * along
    return BoardUse(lot.name, each, math.ceil(stock.strips / each) if each else 0, lot.count)
