"""Thin strips bent by hand over a hot iron or pipe, bend by bend."""

from __future__ import annotations

from ..checks import cautions as caution
from ..checks import heat as on_heat
from ..common.findings import Change
from ..common.operation import Move, Operation
from ..common.stages import Trait
from ..form.construction import FormSketch
from ..gluing.stack_section import Section, StackLayer
from ..heat.handling import timed
from ..heat.iron_and_blanket import DryHeat, dry_bends
from ..shop.times import Times
from ..workpiece.bend import Bend
from ..workpiece.workpiece import HotBlank
from .bent_on_form import BentOnForm
from .hot_bending import COMMON, ENDS
from .steps.bending_dry import over_the_iron

QUARTER_DEG, LEAST_BEND_S = 90.0, 20.0  # a bend however small. Grade: allowance.


class DryHeatBend(BentOnForm):
    """Over dry heat."""

    key = "dry_heat"
    name = "Hot iron or pipe"
    asked_as = "iron"
    description = "Thin strips bent by hand over dry heat, one bend at a time."
    set_key = "dry"
    traits = frozenset[Trait](("hot", "to_form", "dries"))
    steams = False
    can_be_backed = True
    checks = (on_heat.can_it, on_heat.no_data, *on_heat.DRY_HEAT, *ENDS, *COMMON)

    def _heat(self, bend: Bend) -> DryHeat:
        return DryHeat(self.job.heat.iron_c, dry_bends(bend.target, bend.on_form), ())

    @property
    def other_way(self) -> Change | None:
        return Change("Steam it.", {"way": "steam_free"})

    def lies_on(self, make: HotBlank, form: FormSketch) -> tuple[Section, ...]:
        layers = (
            StackLayer("hot iron or pipe", "iron", 40.0),
            StackLayer("damp cloth where it scorches", "paper", 0.5),
        )
        strip = StackLayer("the strip, kept moving", "wood", self.job.part.thickness_mm)
        backing = StackLayer("backing strip, pulled tight", "strap", 0.5)
        with_it = (strip, backing) if self.job.heat.backing == "by_hand" else (strip,)
        return (Section("Over the iron", (*layers, *with_it)),)

    def moves(self, bend: Bend, make: HotBlank) -> tuple[Move, ...]:
        each = Times(self.shop).seconds("bend_dry") / QUARTER_DEG
        bends = make.heat.bends if isinstance(make.heat, DryHeat) else ()
        order = sorted(bends, key=lambda b: b.order)
        rows = [
            (
                f"Heat and bend {self.length(b.start_mm)} to {self.length(b.end_mm)}, {b.bent_deg:.0f}°, {b.side}",
                max(LEAST_BEND_S, each * b.bent_deg),
            )
            for b in order
        ]
        return timed(rows)

    def operations(self, bend: Bend, make: HotBlank, form: FormSketch) -> tuple[Operation, ...]:
        return over_the_iron(self.job, self.shop, bend, make)

    def cautions(self, make: HotBlank) -> tuple[str, ...]:
        return (*caution.DRY_HEAT, caution.BENT, caution.CARRIES, caution.FIRST)

    def needs(self, make: HotBlank, form: FormSketch) -> tuple[str, ...]:
        return "a hot iron or pipe", "a form and a drying jig"
