"""A bowed piece heated and bent back past straight; the shape of the job is the bow it has."""

from __future__ import annotations

from functools import cached_property

import numpy as np

from ..checks import bend as on_bend
from ..checks import cautions as caution
from ..checks import heat as on_heat
from ..checks import wood as on_wood
from ..checks.check_context import Check, CheckContext, found
from ..common.arrays import Array
from ..common.findings import Finding
from ..common.operation import Operation
from ..common.stages import Trait
from ..form.construction import FormSketch
from ..form.schools import SCHOOLS, School
from ..gluing.stack_section import Section, StackLayer
from ..heat.drying import DryingSetup, cooling_h
from ..heat.relaxation import Drying1D, share_left_steamed
from ..heat.steam_plan import HotStock
from ..heat.straightening_block import straightening
from ..job.job import FormChoice, Job
from ..shape.curve import Curve
from ..workpiece.bend import Bend, Straight
from ..workpiece.workpiece import StraightenedPiece
from .hot_bending import BentHot
from .steps.straightening import over_the_block

BESIDE_SPAN_MM = 100.0  # steamed beyond each clamp. Grade: allowance.


CHECKS: tuple[Check[StraightenedPiece], ...] = (
    on_bend.marks_on_the_piece,
    *on_heat.STEAM,
    *on_heat.STRAIGHTENED,
    on_wood.run_out,
    on_wood.figured,
    on_wood.lot_flaws,
    on_wood.no_spare,
)


class Straighten(BentHot[StraightenedPiece]):
    """Bent the other way over a block, until it springs back straight."""

    key = "straighten"
    traits = frozenset[Trait](("hot", "steamed"))
    name = "Straighten"
    description = "A bowed piece heated and bent past straight. Enter the bow it has as the shape."
    bends_a_straight_piece = False
    set_key = "free"
    forms_field = ""

    @classmethod
    def turn(cls, job: Job) -> Job:
        return job.model_copy(update={"way": cls.key})

    def _wanted(self, stated: Curve) -> Curve:
        return stated.with_curvature(np.zeros_like(stated.curvature))

    def start_of(self, wanted: Array, stated: Array) -> Array:
        return stated

    @property
    def cannot_open(self) -> Straight:
        return Straight()

    @cached_property
    def setting(self) -> DryingSetup:
        """Hours in the clamps, then nothing holds it: what it does is in the block."""
        heat, T = self.job.heat, self.job.part.thickness_mm
        times = Drying1D.of(T, self.wood.sg12, heat.climate)
        return DryingSetup(
            times, heat.clamps_h, cooling_h(T), share_left_steamed(heat.clamps_h, times.one_face_h), "none", False
        )

    def hot_stock(self, length_mm: float) -> HotStock:
        """Only the part that is bent back goes into the steam: the clamp span, and a hand's breadth at either side."""
        return super().hot_stock(min(length_mm, self.job.heat.span_mm + 2 * BESIDE_SPAN_MM))

    @property
    def school(self) -> School:
        return SCHOOLS["computed"]

    @property
    def form_choice(self) -> FormChoice:
        return self.job.form.model_copy(update={"kind": "in_place"})

    def make(self, bend: Bend) -> StraightenedPiece:
        heat = self.steam_heat(bend)
        base, bow = self.job.shape.face_curve().chord_and_rise_mm()
        return StraightenedPiece(
            thickness_mm=self.job.part.thickness_mm,
            use=self.use(bend),
            breaking_strain=self.stands,
            set_strain=self.set_strain(bend),
            block=straightening(
                bow_mm=bow,
                base_mm=base,
                span_mm=self.job.heat.span_mm,
                law=self.law,
                loss_ratio=bend.loss_ratio,
            ),
            heat=heat,
            drying=self.drying(bend),
            forces=self.forces(heat, None),
        )

    def findings(self, at: CheckContext[StraightenedPiece]) -> list[Finding]:
        return found(CHECKS, at)

    def lies_on(self, make: StraightenedPiece, form: FormSketch) -> tuple[Section, ...]:
        block = make.block
        layers = (
            StackLayer("bench or beam", "platen", 40.0),
            StackLayer("block under the middle, its top rounded", "form", block.block_mm.likely),
            StackLayer("the piece, hot, hollow side down", "wood", make.thickness_mm),
            StackLayer("clamps at both ends of the span", "caul", 6.0),
        )
        return (Section("Over the block", layers, f"{block.towards[0].upper()}{block.towards[1:]}."),)

    def operations(self, bend: Bend, make: StraightenedPiece, form: FormSketch) -> tuple[Operation, ...]:
        return over_the_block(self.job, self.shop, bend, make)

    def cautions(self, make: StraightenedPiece) -> tuple[str, ...]:
        return (*caution.STEAM, caution.BENT, caution.CARRIES, caution.FIRST)

    def needs(self, make: StraightenedPiece, form: FormSketch) -> tuple[str, ...]:
        return f"a vented steam box and {self.job.heat.power_kw:g} kW of steam", "strong hands", "blocks and clamps"
