"""Thin strips bent by hand over a hot iron or pipe, bend by bend."""

from __future__ import annotations

from typing import Any

from ..bend.bend import Bend
from ..checks import cautions as caution
from ..checks import heat as on_heat
from ..form.construction import FormSketch
from ..ground.findings import Change
from ..ground.operation import Operation
from ..ground.stages import Trait
from ..heat.dry_heat import DryHeat, dry_bends
from .hot import COMMON, ENDS, BentHot
from .steps.dry_heat import over_the_iron


class DryHeatBend(BentHot):
    """Over dry heat."""

    key = "dry_heat"
    name = "Hot iron or pipe"
    says = "Thin strips bent by hand over dry heat, bend by bend."
    set_key = "dry"
    traits = frozenset[Trait](("hot",))
    steams = False
    can_be_backed = True
    checks = (on_heat.can_it, on_heat.no_data, *on_heat.DRY_HEAT, *ENDS, *COMMON)

    def _heat(self, bend: Bend) -> DryHeat:
        return DryHeat(self.job.heat.iron_c, dry_bends(bend.target, bend.on_form), ())

    @property
    def other_way(self) -> Change | None:
        return Change("Steam it.", {"way": "steam_free"})

    def operations(self, bend: Bend, make: Any, form: FormSketch) -> tuple[Operation, ...]:
        return over_the_iron(self.job, self.shop, bend, make)

    def cautions(self, make: Any) -> tuple[str, ...]:
        return (*caution.DRY_HEAT, caution.BENT, caution.CARRIES, caution.FIRST)

    def needs(self, make: Any, form: FormSketch) -> tuple[str, ...]:
        return "a hot iron or pipe", "a form and a drying frame"
