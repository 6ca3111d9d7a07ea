"""A thin strip between spring-steel slats under a heat blanket, drawn over a mould."""

from __future__ import annotations

from typing import Any

from ..bend.bend import Bend
from ..form.construction import FormSketch
from ..ground.operation import Operation
from ..heat.dry_heat import DryHeat, blanket_steps, dry_bends
from .dry_heat import DryHeatBend
from .steps.dry_heat import under_the_blanket


class Blanket(DryHeatBend):
    """Under a heat blanket; its slats hold the outside together."""

    key = "blanket"
    name = "Heat blanket and slats"
    says = "A thin strip between spring-steel slats under a heat blanket, drawn over a mould."
    has_strap = True

    def _heat(self, bend: Bend) -> DryHeat:
        surface = self.job.heat.iron_c
        steps = blanket_steps(surface_c=surface, thickness_mm=self.job.part.thickness_mm)
        return DryHeat(surface, dry_bends(bend.target, bend.on_form), steps)

    def operations(self, bend: Bend, make: Any, form: FormSketch) -> tuple[Operation, ...]:
        return under_the_blanket(self.job, self.shop, bend, make)

    def needs(self, make: Any, form: FormSketch) -> tuple[str, ...]:
        return "a heat blanket and spring-steel slats", "a form and a drying frame"
