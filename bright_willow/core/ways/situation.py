"""What the checks of a lamination look at."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from ..estimate import Estimate
from ..findings import Finding
from ..job import Job
from ..plan_parts import Press, Rung
from ..shop.adhesive import Adhesive
from ..shop.boards import BoardUse
from ..shop.shop import Shop
from ..units import format_length
from ..wood.species import Species
from .ring import RingLayer


@dataclass(frozen=True, eq=False)
class Situation:
    """Everything the checks look at."""

    job: Job
    shop: Shop
    wood: Species
    glue: Adhesive
    use: float
    worst_layer: str
    thinnest_sawn_mm: float
    blank_length_mm: float
    loss: float
    tip_mm: Estimate
    bends: int
    settling_tip_mm: float
    missed_mm: float
    press: Press
    form_sweep_deg: float
    spares_advised: int
    expected_yield: Estimate
    boards: BoardUse | None
    ring: tuple[RingLayer, ...]
    is_its_own_mirror: bool
    rungs: Callable[[], tuple[Rung, ...]]

    @property
    def ladder(self) -> tuple[Rung, ...]:
        """The rungs to choose from, worked out only when something is to be suggested."""
        return self.rungs()

    def length(self, mm: float) -> str:
        return format_length(mm, self.shop.units)


Check = Callable[[Situation], Finding | None]
