"""What a lay-up takes out of the board: strips, kerf and planing."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from ..common.errors import ENDLESS, check_range


@dataclass(frozen=True, slots=True)
class Cutting:
    """What is cut, for how many, and with what allowances. All lengths mm; `total_mm` is the thickness cut up.

    strip_wide_mm: of every strip, none for one piece's width and clean-up; sets: of strips, none for one a piece.
    """

    total_mm: float
    width_mm: float
    finished_length_mm: float
    blank_length_mm: float
    pieces: int
    spares: int
    kerf_mm: float
    planing_mm: float
    clean_up_mm: float
    strip_wide_mm: float | None = None
    sets: int | None = None

    @property
    def rough_wide_mm(self) -> float:
        """Of every strip."""
        return self.strip_wide_mm or self.width_mm + self.clean_up_mm


@dataclass(frozen=True, slots=True)
class StockUse:
    """Wood taken for a job against wood that ends in finished pieces (or, from an array of counts, arrays of each)."""

    strips: int
    strip_rough_mm: float
    strip_width_mm: float
    strip_length_mm: float
    board_width_per_piece_mm: float
    volume_m3: float
    finished_m3: float
    kerf_share: float
    layers_mm: tuple[float, ...] = ()  # rough, of the sawn layers of one piece from its inner face out
    sets: int = 0  # of those, one for each piece or for each wide blank
    waste_strips: int = 0  # for each set, bent outside the others and thrown away

    @property
    def times_finished(self) -> float:
        """Wood bought over wood kept."""
        return self.volume_m3 / self.finished_m3


def stock_use(laminae: Any, cut: Cutting) -> StockUse:
    """Strips ripped from boards: each takes its finished thickness, the planing and one kerf.

    laminae: a count, or an array of counts for many lay-ups at once. Valid: counts and pieces 1 or more, spares 0 or
    more. Raises: PlanError. Grade: allowance (kerf, planing, clean-up).

    >>> use = stock_use(10, Cutting(total_mm=40, width_mm=60, finished_length_mm=2000, blank_length_mm=2060,
    ...                             pieces=2, spares=1, kerf_mm=3, planing_mm=1, clean_up_mm=6))
    >>> use.strips, use.board_width_per_piece_mm, round(use.times_finished, 2)
    (30, 80.0, 3.4)
    """
    message = "At least one piece of at least one strip is needed."
    check_range("part.count", float(np.min(laminae)), 1, ENDLESS, message=message)
    check_range("part.count", cut.pieces, 1, ENDLESS, message=message)
    check_range("part.count", cut.spares, 0, ENDLESS, message=message)
    for value in (cut.total_mm, cut.width_mm, cut.finished_length_mm, cut.blank_length_mm):
        check_range("part.thickness_mm", value, 0, ENDLESS, "mm", above=True)
    for value in (cut.kerf_mm, cut.planing_mm, cut.clean_up_mm):
        check_range("shop.kerf_mm", value, 0, ENDLESS, "mm")
    rough = cut.total_mm / laminae + cut.planing_mm
    strip = (rough + cut.kerf_mm) * cut.rough_wide_mm * cut.blank_length_mm
    strips = laminae * (cut.sets or cut.pieces + cut.spares)
    return StockUse(
        strips=strips,
        strip_rough_mm=rough,
        strip_width_mm=cut.rough_wide_mm,
        strip_length_mm=cut.blank_length_mm,
        board_width_per_piece_mm=laminae * (rough + cut.kerf_mm),
        volume_m3=strips * strip * 1e-9,
        finished_m3=cut.pieces * cut.total_mm * cut.width_mm * cut.finished_length_mm * 1e-9,
        kerf_share=cut.kerf_mm / (rough + cut.kerf_mm),
    )


def stock_use_of_layers(thicknesses_mm: Sequence[float], cut: Cutting) -> StockUse:
    """The same for sawn layers of unequal thickness: each is one lamina of its own; the sums are the job's.

    `cut.total_mm` is the whole part, sheets included. With no sawn layer nothing is taken from a board.
    """
    uses = [stock_use(1, replace(cut, total_mm=thickness)) for thickness in thicknesses_mm]
    board = sum(u.board_width_per_piece_mm for u in uses)
    return StockUse(
        strips=sum(u.strips for u in uses),
        strip_rough_mm=max((u.strip_rough_mm for u in uses), default=0.0),
        strip_width_mm=cut.rough_wide_mm,
        strip_length_mm=cut.blank_length_mm,
        board_width_per_piece_mm=board,
        volume_m3=sum(u.volume_m3 for u in uses),
        finished_m3=cut.pieces * cut.total_mm * cut.width_mm * cut.finished_length_mm * 1e-9,
        kerf_share=cut.kerf_mm * len(uses) / board if board else 0.0,
    )
