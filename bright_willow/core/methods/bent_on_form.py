"""A solid piece bent hot around a form: what is made of it, its checks and its steps."""

from __future__ import annotations

from typing import ClassVar

from ..checks.check_context import Check, CheckContext, found
from ..common.findings import Change, Finding
from ..common.operation import Operation
from ..form.construction import FormSketch
from ..heat.extra_length import end_spare_mm, ends_need_mm
from ..heat.limits import LimitFigures
from ..heat.springback_measures import gentle_stretches, openings
from ..shape.crossing import overlap_mm
from ..workpiece.bend import Bend
from ..workpiece.workpiece import HotBlank
from .hot_bending import DRY_END_MM, BentHot
from .hot_limits import fixes, limit_figures
from .steps.bending_hot import bending_hot


class BentOnForm(BentHot[HotBlank]):
    """One solid piece, bent hot around a form."""

    checks: ClassVar[tuple[Check[HotBlank], ...]]

    def make(self, bend: Bend) -> HotBlank:
        heat = self._heat(bend)
        T, grade = self.job.part.thickness_mm, bend.loss_ratio.grade
        use, bow = self.use(bend), self._bow(bend, heat)
        ends = openings(bend.on_form, bend.released_curvature, T, grade)
        change = bend.on_form.curvature - self.law.start
        lost = self.law.lost(change, loss_ratio=bend.loss_ratio.likely)
        return HotBlank(
            thickness_mm=T,
            limits=limit_figures(self, bend),
            use=use,
            breaking_strain=self.stands,
            set_strain=self.set_strain(bend),
            legs=ends.legs,
            opening_on_form_mm=ends.on_form_mm,
            opening_released_mm=ends.released_mm,
            overlap_mm=overlap_mm(bend.blank, T),
            bow=bow,
            gentle=gentle_stretches(change, lost, bend.target.stations_mm),
            heat=heat,
            drying=self.drying(bend),
            end_spare_mm=end_spare_mm(T) if self.steams else DRY_END_MM,
            ends_need_mm=ends_need_mm(bend.target, T) if self.steams else (0.0, 0.0),
            forces=self.forces(heat, bow),
        )

    @property
    def over_mm(self) -> float:
        return self.job.heat.strap_mm if self.has_strap else 0.0

    @property
    def is_wrapped_hot(self) -> bool:
        return self.steams and not self.is_in_bag

    def findings(self, at: CheckContext[HotBlank]) -> list[Finding]:
        return found(self.checks, at)

    def operations(self, bend: Bend, make: HotBlank, form: FormSketch) -> tuple[Operation, ...]:
        return bending_hot(self.job, self.shop, bend, make, form)

    def easier(self, limits: LimitFigures) -> tuple[Change, ...]:
        return fixes(self, limits)
