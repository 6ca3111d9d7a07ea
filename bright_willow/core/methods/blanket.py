"""A thin strip between spring-steel slats under a heating blanket, pulled over a form (side bending)."""

from __future__ import annotations

from ..common.operation import Move, Operation
from ..common.units import format_temperature
from ..form.construction import FormSketch
from ..gluing.stack_section import Section, StackLayer
from ..heat.handling import timed
from ..heat.iron_and_blanket import DryHeat, blanket_steps, dry_bends
from ..workpiece.bend import Bend
from ..workpiece.workpiece import HotBlank
from .dry_heat import DryHeatBend
from .steps.bending_dry import under_the_blanket

SLAT_MM, BLANKET_MM = 0.2, 2.0  # of spring steel and of the rubber of a blanket. Grade: allowance.


class Blanket(DryHeatBend):
    """Under a heat blanket; its slats hold the outside together."""

    key = "blanket"
    name = "Heating blanket"
    description = "A thin strip between spring-steel slats under a heating blanket, pulled over a form (side bending)."
    held_hot = "mold"
    has_strap = True

    def _heat(self, bend: Bend) -> DryHeat:
        surface = self.job.heat.iron_c
        steps = blanket_steps(
            surface_c=surface, thickness_mm=self.job.part.thickness_mm, cool_min=60 * self.setting.cool_h
        )
        return DryHeat(surface, dry_bends(bend.target, bend.on_form), steps)

    def lies_on(self, make: HotBlank, form: FormSketch) -> tuple[Section, ...]:
        layers = (
            StackLayer("form, middle and ends", "form", self.job.form.depth_mm),
            StackLayer("spring-steel slat", "slat", SLAT_MM),
            StackLayer("damp paper: keeps the wood from scorching and staining", "paper", 0.2),
            StackLayer("wood", "wood", self.job.part.thickness_mm),
            StackLayer("damp paper", "paper", 0.2),
            StackLayer("spring-steel slat", "slat", SLAT_MM),
            StackLayer("heating blanket, its sensor under it", "heater", BLANKET_MM),
            StackLayer("spring-steel slat", "slat", SLAT_MM),
        )
        return (Section("Under the blanket", layers, "Wrapped and tied, it goes over the form as one."),)

    def moves(self, bend: Bend, make: HotBlank) -> tuple[Move, ...]:
        return timed(
            [
                (f"{x.message} {format_temperature(round(x.temperature_c), self.shop.units)}", 60 * x.minutes)
                for x in (make.heat.blanket if isinstance(make.heat, DryHeat) else ())
            ]
        )

    def operations(self, bend: Bend, make: HotBlank, form: FormSketch) -> tuple[Operation, ...]:
        return under_the_blanket(self.job, self.shop, bend, make)

    def needs(self, make: HotBlank, form: FormSketch) -> tuple[str, ...]:
        return "a heating blanket and spring-steel slats", "a form and a drying jig"
