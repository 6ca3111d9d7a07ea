"""The stock of a job prepared: its boards sawn into strips, the strips dealt out to its pieces."""

from __future__ import annotations

from dataclasses import dataclass

from ..common.errors import PlanError
from ..job.job import Job
from ..job.stock_choice import Flaw, InspectedBoard, Prepare
from ..shop.shop import Shop
from ..wood.lot import Lot
from .boards import (
    Board,
    CutPlan,
    PieceStrips,
    StripDemand,
    Strips,
    dealt,
)
from .cutting import cut_plan
from .stock_use import StockUse

LEAST_CLEAR_MM, MOST_BOARDS = 1.0, 200
SAME_MM = 0.05  # strips that differ less are of one kind
LEFT_NAME = 38  # signs of a lot that stand in the name of its off-cuts
OUTSIDE = "waste strip on the outside"
CAUL = "caul, not glued"


@dataclass(frozen=True, slots=True)
class Prepared:
    """Boards sawn and strips dealt; problem: why nothing can be sawn, and then neither. lot: of the rack, if any.

    boards_at_hand: 0 where nobody has said how many there are, and as many are taken as it takes. layers: the kind of
    each strip of a piece from its inner face out; outside: that of the strip thrown away, if there is one.
    """

    lot: str
    boards_at_hand: int
    boards: tuple[Board, ...]
    strips: Strips
    layers: tuple[int, ...]
    cut: CutPlan | None
    pieces: tuple[PieceStrips, ...]
    problem: PlanError | None

    @property
    def has_waste_strip(self) -> bool:
        """Whether the outermost strip of each piece is bent with the others and thrown away."""
        return any(k.name == OUTSIDE for k in self.strips.kinds)


def boards_of(job: Job) -> tuple[Board, ...]:
    """The boards of the job's lot, or as typed, with their flaws. Raises: PlanError for a flaw that lies on none."""
    lot, typed = job.stock.lot, job.prepare
    sizes: list[tuple[float, float, float]] = []
    if lot:
        sizes = [(lot.thickness_mm, lot.width_mm, lot.length_mm)] * lot.count
    else:
        each = (typed.thickness_mm, typed.width_mm, typed.length_mm)
        sizes = [each] * (typed.boards or (0 if typed.more else MOST_BOARDS))
        for row in typed.more:
            sizes += [(row.thickness_mm, row.width_mm, row.length_mm)] * row.count
    sizes = sizes[:MOST_BOARDS]
    for i, flaw in enumerate(typed.flaws):
        if flaw.board > len(sizes):
            message = (
                f"There {'is' if len(sizes) == 1 else 'are'} only {len(sizes)} board{'s' if len(sizes) != 1 else ''}."
            )
            raise PlanError(f"prepare.flaws.{i}.board", message, hint="Count them from 1.")
        if not flaw.start_mm + LEAST_CLEAR_MM <= flaw.end_mm <= sizes[flaw.board - 1][2]:
            raise PlanError(
                f"prepare.flaws.{i}.end_mm",
                "A flaw ends after it starts, and on the board, which is {long} long.",
                lengths_mm={"long": sizes[flaw.board - 1][2]},
            )
    seen = _inspected(typed.inspected, len(sizes))
    return tuple(_board(size, n, typed, seen.get(n)) for n, size in enumerate(sizes, 1))


def _board(size: tuple[float, float, float], number: int, typed: Prepare, seen: InspectedBoard | None) -> Board:
    rejected = seen is not None and seen.verdict == "reject"
    left_out = rejected or number in typed.left_out
    return Board(*size, _flaws(typed.flaws, number), left_out, seen.matched if seen else "")


def _inspected(boards: tuple[InspectedBoard, ...], there: int) -> dict[int, InspectedBoard]:
    """What was seen of each board, by its number. Raises: PlanError for one that is not there, or is there twice."""
    seen: dict[int, InspectedBoard] = {}
    for i, one in enumerate(boards):
        field = f"prepare.inspected.{i}.board"
        if one.board > there:
            raise PlanError(field, f"There is no board {one.board}; the last is {there}.", hint="Count them from 1.")
        if one.board in seen:
            raise PlanError(field, f"Board {one.board} is listed twice.")
        seen[one.board] = one
    return seen


def _flaws(flaws: tuple[Flaw, ...], board: int) -> tuple[tuple[float, float], ...]:
    return tuple((f.start_mm, f.end_mm) for f in flaws if f.board == board)


def at_hand(job: Job) -> int:
    """Boards somebody has said there are; 0 where nobody has."""
    if job.stock.lot:
        return job.stock.lot.count
    return job.prepare.boards + sum(row.count for row in job.prepare.more)


def flaw_moved(job: Job, number: int, board: int, middle_mm: float, long_mm: float) -> Job:
    """The job with one of its flaws about another place of a board so long, as near to it as the board reaches."""
    flaws = list(job.prepare.flaws)
    long = min(flaws[number].end_mm - flaws[number].start_mm, long_mm)
    start = round(max(0.0, min(middle_mm - long / 2, long_mm - long)))
    sets = {"board": board, "start_mm": float(start), "end_mm": min(float(start) + long, long_mm)}
    flaws[number] = flaws[number].model_copy(update=sets)
    return job.model_copy(update={"prepare": job.prepare.model_copy(update={"flaws": tuple(flaws)})})


def left_over(lot: Lot, cut: CutPlan) -> list[Lot]:
    """What is left of the boards sawn, worth keeping: lots of their own with the lot's wood, to whole mm downward."""
    counted: dict[tuple[float, float, float], int] = {}
    for off in (o for b in cut.boards for o in b.off_cuts):
        size = (float(int(off.thickness_mm * 10) / 10), float(int(off.width_mm)), float(int(off.length_mm)))
        counted[size] = counted.get(size, 0) + 1
    made = []
    for (thick, wide, long), count in counted.items():
        name = f"{lot.name[:LEFT_NAME]} offcut {wide:.0f}×{long:.0f}"
        sets = {"name": name, "thickness_mm": thick, "width_mm": wide, "length_mm": long, "count": count}
        made.append(lot.model_copy(update=sets))
    return made


def strips_of(job: Job, shop: Shop, stock: StockUse) -> tuple[Strips, tuple[int, ...]]:
    """The kinds of strips a job's pieces are made of, and which of them each layer is, from the inner face out."""
    thick: list[float] = []
    layers = []
    for t in stock.layers_mm:
        near = next((i for i, known in enumerate(thick) if abs(known - t) < SAME_MM), None)
        if near is None:
            thick.append(t)
        layers.append(len(thick) - 1 if near is None else near)
    names = [""] * len(thick)
    if len(thick) > 1:
        names = [", ".join(str(n) for n, own in enumerate(layers, 1) if own == k) for k in range(len(thick))]
        names = [f"layer{'s' if ',' in n else ''} {n}" for n in names]
    long = stock.strip_length_mm
    kinds = [StripDemand(t, long, layers.count(k) * stock.sets, names[k]) for k, t in enumerate(thick)]
    if stock.waste_strips:
        layers.append(len(kinds))
        kinds.append(StripDemand(stock.layers_mm[-1], long, stock.waste_strips * stock.sets, OUTSIDE))
    if job.build_up.cauls and job.build_up.lay_up == "equal":
        kinds.append(StripDemand(stock.layers_mm[-1], long, job.build_up.cauls, CAUL))
    return Strips(tuple(kinds), stock.strip_width_mm, shop.kerf_mm, stock.sets), tuple(layers)


def prepared(job: Job, shop: Shop, stock: StockUse) -> Prepared | None:
    """The strips of a job out of its boards; None where nothing is sawn."""
    if not stock.layers_mm:
        return None
    strips, layers = strips_of(job, shop, stock)
    lot, given = job.stock.lot, at_hand(job)
    name = lot.name if lot else ""
    try:
        boards = boards_of(job)
        cut = cut_plan(boards, strips, saw=job.prepare.saw)
    except PlanError as error:
        return Prepared(name, given, (), strips, layers, None, (), error)
    pairs = job.part.copies == "pairs" and stock.sets == job.part.count + job.part.spares
    sets = [b.board.matched for b in cut.boards for _ in b.labels]
    pieces = dealt(cut.labels, cut.kinds, pieces=stock.sets, layers=layers, pairs=pairs, sets=sets)
    return Prepared(name, given, boards, strips, layers, cut, pieces, None)
