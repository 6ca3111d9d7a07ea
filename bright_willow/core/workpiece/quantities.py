"""What to cut and to have at hand, for all pieces and spares."""

from __future__ import annotations

from dataclasses import dataclass

from ..common.estimate import Estimate
from ..job.job import Job
from ..learning.yields import expected_yield, spares_for
from ..shop.shop import Shop
from ..stock.board_count import BoardUse, board_use
from ..stock.stock_use import Cutting, StockUse


@dataclass(frozen=True, slots=True)
class Quantities:
    """What to cut and to have at hand. boards: of the lot the stock is taken from, none where it is from no lot."""

    pieces: int
    spares: int
    trim_mm: float
    stock: StockUse
    expected_yield: Estimate
    spares_advised: int
    boards: BoardUse | None


def cutting(job: Job, shop: Shop, *, finished_mm: float, blank_mm: float) -> Cutting:
    """What is cut for a job: section, lengths (mm), pieces, and the shop's allowances."""
    return Cutting(
        total_mm=job.part.thickness_mm,
        width_mm=job.part.width_mm,
        finished_length_mm=finished_mm,
        blank_length_mm=blank_mm,
        pieces=job.part.count,
        spares=job.part.spares,
        kerf_mm=shop.kerf_mm,
        planing_mm=shop.planing_mm,
        clean_up_mm=shop.clean_up_mm,
    )


def quantities(
    job: Job, shop: Shop, *, stock: StockUse, trim_mm: float, whole_share: float, made: tuple[float, float]
) -> Quantities:
    """Quantities for a stock, with the share of pieces (0 to 1) that its way is known to bring out whole.

    made: pieces of this kind that came out whole here, and that failed. Raises: PlanError.
    """
    whole = expected_yield(whole_share, *made)
    lot = job.stock.lot
    return Quantities(
        pieces=job.part.count,
        spares=job.part.spares,
        trim_mm=trim_mm,
        stock=stock,
        expected_yield=whole,
        spares_advised=spares_for(job.part.count, whole.likely),
        boards=board_use(lot, stock, shop.kerf_mm) if lot and stock.strips else None,
    )
