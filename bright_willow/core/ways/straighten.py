"""A bowed piece heated and bent back past straight; the shape of the job is the bow it has."""

from __future__ import annotations

from typing import Any

import numpy as np

from ..bend.bend import Bend
from ..bend.lies_on import Lying, Section
from ..bend.makes import Straightened
from ..checks import cautions as caution
from ..checks import heat as on_heat
from ..form.construction import FormSketch
from ..form.schools import SCHOOLS, School
from ..ground.arrays import Array
from ..ground.operation import Operation
from ..heat.straightening import straightening
from ..job.job import FormChoice, Job
from ..shape.curve import Curve
from .hot import COMMON, BentHot
from .steps.straightening import over_the_block


class Straighten(BentHot):
    """Bent the other way over a block, until it springs back straight."""

    key = "straighten"
    name = "Straightening"
    says = "A bowed piece heated and bent past straight; the shape is the bow it has."
    set_key = "free"
    forms_field = ""
    checks = (*on_heat.STEAM, on_heat.early, *COMMON)

    @classmethod
    def turn(cls, job: Job) -> Job:
        return job.model_copy(update={"way": cls.key})

    def _wanted(self, stated: Curve) -> Curve:
        return stated.with_curvature(np.zeros_like(stated.curvature))

    def _start(self, target: Curve) -> Array:
        return self.stated.curvature

    @property
    def school(self) -> School:
        return SCHOOLS["computed"]

    @property
    def form_choice(self) -> FormChoice:
        return self.job.form.model_copy(update={"kind": "in_place"})

    def make(self, bend: Bend) -> Straightened:
        heat = self.steam_heat(bend)
        base, bow = self.job.shape.face_curve().chord_and_rise_mm()
        return Straightened(
            thickness_mm=self.job.part.thickness_mm,
            use=self.use(bend),
            breaking_strain=self.stands,
            set_strain=self.set_strain(bend),
            block=straightening(
                bow_mm=bow,
                base_mm=base,
                thickness_mm=self.job.part.thickness_mm,
                span_mm=self.job.heat.span_mm,
                set_strain=self.set_strain(bend),
            ),
            heat=heat,
            drying=self.drying(bend),
            forces=self.forces(heat),
        )

    def lies_on(self, make: Any, form: FormSketch) -> tuple[Section, ...]:
        block = make.block
        layers = (
            Lying("bench or beam", "platen", 40.0),
            Lying("block under the middle, its top rounded", "form", block.block_mm.likely),
            Lying("the piece, hot, its hollow side down", "wood", make.thickness_mm),
            Lying("clamps at both ends of the span", "caul", 6.0),
        )
        return (Section("Over the block", layers, f"{block.towards[0].upper()}{block.towards[1:]}."),)

    def operations(self, bend: Bend, make: Any, form: FormSketch) -> tuple[Operation, ...]:
        return over_the_block(self.job, self.shop, bend, make)

    def cautions(self, make: Any) -> tuple[str, ...]:
        return (*caution.STEAM, caution.BENT, caution.CARRIES, caution.FIRST)

    def needs(self, make: Any, form: FormSketch) -> tuple[str, ...]:
        return f"a vented chamber and {self.job.heat.power_kw:g} kW of steam", "strong hands", "blocks and clamps"
