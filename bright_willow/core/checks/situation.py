"""What the checks of a lamination look at."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from ..ground.estimate import Estimate
from ..ground.findings import Finding
from ..ground.units import format_length, format_temperature
from ..job.job import Job
from ..laws.ring import RingLayer
from ..plan.result import Press, Rung
from ..shop.adhesive import Adhesive
from ..shop.boards import BoardUse
from ..shop.shop import Shop
from ..wood.species import Species


@dataclass(frozen=True, eq=False, kw_only=True)
class WoodSituation:
    """What the checks of wood and pieces look at, whatever the way."""

    job: Job
    shop: Shop
    wood_said: str
    blank_length_mm: float
    spares_advised: int
    expected_yield: Estimate
    boards: BoardUse | None
    ring: tuple[RingLayer, ...]
    is_its_own_mirror: bool
    legs_turn_deg: float = 0.0

    def length(self, mm: float) -> str:
        return format_length(mm, self.shop.units)

    def temperature(self, celsius: float) -> str:
        return format_temperature(round(celsius), self.shop.units)


@dataclass(frozen=True, eq=False, kw_only=True)
class Situation(WoodSituation):
    """Everything the checks of a lamination look at."""

    wood: Species
    glue: Adhesive
    use: float
    worst_layer: str
    thinnest_sawn_mm: float
    loss: float
    tip_mm: Estimate
    bends: int
    settling_tip_mm: float
    missed_mm: float
    press: Press
    form_sweep_deg: float
    rungs: Callable[[], tuple[Rung, ...]]

    @property
    def ladder(self) -> tuple[Rung, ...]:
        """The rungs to choose from, worked out only when something is to be suggested."""
        return self.rungs()


Check = Callable[[Situation], Finding | None]
