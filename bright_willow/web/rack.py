"""The rack as pages show it: each lot, what it is good for, which jobs it feeds, what is left."""

from __future__ import annotations

from dataclasses import dataclass

from ..core.errors import OutOfRange
from ..core.plan import plan
from ..core.wood.lot import Lot, Verdict, judged
from ..store.book import Store


@dataclass(frozen=True)
class Feeds:
    """A job that takes boards from a lot."""

    job_id: int
    job: str
    boards: int


@dataclass(frozen=True)
class LotLine:
    """A lot with its verdict, the jobs it feeds, and the boards left when they are cut."""

    id: int
    lot: Lot
    wood: str
    verdict: Verdict
    feeds: tuple[Feeds, ...]

    @property
    def left(self) -> int:
        return self.lot.count - sum(f.boards for f in self.feeds)

    @property
    def run_out(self) -> str:
        return f"1 in {1 / self.lot.grain_slope:.0f}" if self.lot.grain_slope > 1e-3 else "straight"


def lot_lines(store: Store) -> list[LotLine]:
    """Every lot on the rack. Needs a connection."""
    from ..core.wood.species import wood_table

    shop, learnt = store.shop(), store.learnt()
    fed: dict[str, list[Feeds]] = {}
    for state in store.jobs():
        lot = state.job.stock.lot
        if lot is None:
            continue
        try:
            boards = plan(state.job, shop, learnt, brief=True).quantities.boards
        except OutOfRange:
            continue
        if boards:
            fed.setdefault(lot.name, []).append(Feeds(state.id, state.job.name, boards.boards))
    woods = wood_table(shop.woods)
    return [
        LotLine(
            kept.id,
            kept.lot,
            woods[kept.lot.species].name if kept.lot.species in woods else kept.lot.species,
            judged(kept.lot),
            tuple(fed.get(kept.lot.name, ())),
        )
        for kept in store.lots()
    ]
