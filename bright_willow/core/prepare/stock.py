"""The stock of a job prepared: its boards sawn into strips, the strips dealt out to its pieces."""

from __future__ import annotations

from dataclasses import dataclass

from ..ground.errors import OutOfRange
from ..job.job import Job
from ..shop.shop import Shop
from ..shop.stock_use import StockUse
from .boards import Board, CutPlan, PieceStrips, Strips, cut_plan, dealt

LEAST_CLEAR_MM, MOST_BOARDS = 1.0, 200


@dataclass(frozen=True, slots=True)
class Prepared:
    """Boards sawn and strips dealt; problem: why nothing can be sawn, and then neither. lot: of the rack, if any.

    boards_at_hand: 0 where nobody has said how many there are, and as many are taken as it takes.
    """

    lot: str
    boards_at_hand: int
    strips: Strips
    cut: CutPlan | None
    pieces: tuple[PieceStrips, ...]
    problem: OutOfRange | None


def boards_of(job: Job) -> tuple[Board, ...]:
    """The boards of the job's lot, or as typed, with their flaws. Raises: OutOfRange for a flaw that lies on none."""
    lot, typed = job.stock.lot, job.prepare
    size = (
        (lot.thickness_mm, lot.width_mm, lot.length_mm)
        if lot
        else (typed.thickness_mm, typed.width_mm, typed.length_mm)
    )
    count = min(MOST_BOARDS, lot.count) if lot else typed.boards or MOST_BOARDS
    for i, flaw in enumerate(typed.flaws):
        if flaw.board > count:
            raise OutOfRange(f"prepare.flaws.{i}.board", f"There are only {count} boards.", hint="Count them from 1.")
        if not flaw.start_mm + LEAST_CLEAR_MM <= flaw.end_mm <= size[2]:
            raise OutOfRange(
                f"prepare.flaws.{i}.end_mm",
                "A flaw ends after it starts, and on the board, which is {long} long.",
                lengths_mm={"long": size[2]},
            )
    return tuple(
        Board(*size, tuple((f.start_mm, f.end_mm) for f in typed.flaws if f.board == n + 1)) for n in range(count)
    )


def prepared(job: Job, shop: Shop, stock: StockUse) -> Prepared | None:
    """The strips of a lay-up out of its boards; None where nothing is sawn."""
    if not stock.strips:
        return None
    pieces = job.part.count + job.part.spares
    strips = Strips(stock.strips, stock.strip_rough_mm, stock.strip_width_mm, stock.strip_length_mm, shop.kerf_mm)
    lot = job.stock.lot
    try:
        boards = boards_of(job)
        cut = cut_plan(boards, strips, saw=job.prepare.saw)
    except OutOfRange as error:
        return Prepared(lot.name if lot else "", lot.count if lot else job.prepare.boards, strips, None, (), error)
    per_piece = stock.strips // pieces
    labels = cut.labels
    dealt_out = dealt(labels, pieces=pieces, laminae=per_piece, pairs=job.part.copies == "pairs")
    at_hand = lot.count if lot else job.prepare.boards
    return Prepared(lot.name if lot else "", at_hand, strips, cut, dealt_out, None)
