"""Laminae steamed, bent to the form one by one and dried there, then glued up on it."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from ..checks import cautions as caution
from ..checks import heat as on_heat
from ..checks import wood as on_wood
from ..checks.check_context import CheckContext
from ..common.arrays import Array
from ..common.findings import Change, Finding
from ..common.operation import Move, Operation
from ..common.stages import EVERY
from ..form.construction import FormSketch
from ..gluing.stack_section import Section, StackLayer
from ..heat.limits import LimitFigures
from ..heat.relaxation import Drying1D, form_hours_until_dry
from ..heat.steam_plan import HotStock
from ..job.job import Job
from ..springback.glued import ClosedRing, Glued, SteamedThenGlued
from ..springback.hot_set import YIELD_STRAIN
from ..workpiece.bend import Bend
from ..workpiece.workpiece import GluedLayup, HotBlank, SteamedLaminae
from .cold_lamination import ColdLamination, StripLayup, in_laminae
from .pressed import pressed_section
from .steam_free import SteamFree
from .steps.steamed_then_glued import steamed_then_glued


@dataclass(frozen=True, eq=False)
class _OneLamina(SteamFree):
    """The first bend: the strip that is bent hardest, as a steamed blank of its own. pack_mm: of all strips of a piece
    and the waste strip outside them."""

    pack_mm: float = 0.0
    can_be_backed = False
    is_pulled = False  # it dries on the form, and is glued there

    def _hours_on_form(self, times: Drying1D) -> float:
        """Until it is dry enough to glue, or longer where that was chosen."""
        return max(self.job.heat.on_form_h, form_hours_until_dry(times))

    def hot_stock(self, length_mm: float) -> HotStock:
        """Strips of a piece go in banded as one pack, which heats and cools as one body, or one by one."""
        one, strips = super().hot_stock(length_mm), self.job.build_up.count
        if self.job.heat.banded:
            return replace(one, thickness_mm=self.pack_mm)
        return replace(one, pieces=one.pieces * strips)


class SteamedLaminaeWay(StripLayup[SteamedLaminae]):
    """Laminae bent hot first, so that they lie on the form without a fight and hardly spring back."""

    key = "steam_laminae"
    name = "Steam, dry on form, then glue"
    description = "Strips steamed and dried on the form, then glued: almost no springback, and thicker strips."
    traits = EVERY
    # green and wet wood is welcome: it dries on the form before anything is glued
    checks = tuple(c for c in ColdLamination.checks if c not in (on_wood.green_wood, on_wood.moist))

    @classmethod
    def turn(cls, job: Job) -> Job:
        return in_laminae(job).model_copy(update={"way": cls.key})

    @cached_property
    def first(self) -> _OneLamina:
        """The first bend: the strip that is bent hardest, as a job of its own. Strips dry on the form until they can be
        glued, one face open; what is held back from one strip by the next is left out."""
        return self._strip_of(float(self._layers[0].thickness_mm.max()))

    def _strip_of(self, thickness_mm: float) -> _OneLamina:
        part = self.job.part.model_copy(update={"thickness_mm": thickness_mm})
        every = self._layers[0].thickness_mm
        pack_mm = float(every.sum() + self.waste_strips * every[-1])
        return _OneLamina(self.job.model_copy(update={"part": part}), self.shop, pack_mm)

    def _hot_set(self, thickness_mm: tuple[float, ...]) -> tuple[float, Array]:
        left = {t: self.first.setting_at(t).share_left for t in set(thickness_mm)}
        return YIELD_STRAIN["free"], np.array([left[t] for t in thickness_mm])

    @property
    def waste_strips(self) -> int:
        return 1

    @cached_property
    def law(self) -> Glued | SteamedThenGlued | ClosedRing:
        flat = self._layers[0]
        glued = SteamedThenGlued(flat, *self._hot_set(tuple(float(t) for t in flat.thickness_mm)))
        return ClosedRing(glued) if self.job.shape.is_closed else glued

    def _one(self, bend: Bend) -> tuple[_OneLamina, Array]:
        """The strip that is bent hardest as a job of its own, and its own curvature on the form."""
        flat = self._layers[0]
        own = flat.lamina_curvature(bend.on_form.curvature)
        hardest = int((flat.thickness_mm[:, None] * np.abs(own)).max(axis=1).argmax())
        thickness = float(flat.thickness_mm[hardest])
        if thickness == self.first.job.part.thickness_mm:
            return self.first, own[hardest]
        return self._strip_of(thickness), own[hardest]

    def _first_bend(self, bend: Bend) -> HotBlank:
        one, k = self._one(bend)
        law = one.law_at(one.job.part.thickness_mm)
        ratio = bend.loss_ratio
        kept = tuple(bend.target.with_curvature(law.release(k, loss_ratio=r)) for r in (ratio.low, 1.0, ratio.high))
        first = Bend(
            stated=bend.stated,
            target=bend.target,
            on_form=bend.on_form.with_curvature(k),
            blank=bend.blank,
            trims_mm=bend.trims_mm,
            released=(kept[0], kept[1], kept[2]),
            dried=(kept[0], kept[1], kept[2]),
            by_mechanics=kept[1],
            settled=kept[1],
            loss_ratio=ratio,
            opens=bend.opens,
        )
        return one.make(first)

    def make(self, bend: Bend) -> SteamedLaminae:
        return SteamedLaminae(self._first_bend(bend), self.laid_up(bend))

    def glued(self, make: SteamedLaminae) -> GluedLayup:
        return make.laid_up

    def thinner(self, thickness_mm: float, message: str) -> Change | None:
        laminae = min(120, math.ceil(self.job.part.thickness_mm / max(0.2, thickness_mm) - 1e-6))
        if self.job.build_up.lay_up == "layers" or laminae <= self.job.build_up.laminae:
            return None
        return Change(f"Use {laminae} strips.", {"build_up.laminae": laminae, "build_up.lamina_mm": None})

    def easier(self, limits: LimitFigures) -> tuple[Change, ...]:
        return tuple(c for c in (self.thinner(limits.thinner_mm, self.length(limits.thinner_mm)),) if c)

    def whole_share(self, make: SteamedLaminae) -> float:
        """Of the glue-up, and of the hardest strip's first bend."""
        return super().whole_share(make) * make.softened.limits.chance

    def findings(self, at: CheckContext[SteamedLaminae]) -> list[Finding]:
        """What there is to say about the glue-up, and about the steam before it."""
        glued = super().findings(at)
        steam = (on_heat.can_it, on_heat.no_data, *on_heat.STEAM)
        softened = [f for check in steam if (f := check(at.of(at.make.softened)))]
        return [*glued, *softened]

    def operations(self, bend: Bend, make: SteamedLaminae, form: FormSketch) -> tuple[Operation, ...]:
        return steamed_then_glued(self.job, self.shop, bend, make, form)

    def moves(self, bend: Bend, make: SteamedLaminae) -> tuple[Move, ...]:
        return self._one(bend)[0].moves(bend, make.softened)

    def lies_on(self, make: SteamedLaminae, form: FormSketch) -> tuple[Section, ...]:
        """The pack as it is bent hot, and the glue-up."""
        laminae = make.laid_up.laminae
        pack = [StackLayer("form", "form", self.job.form.depth_mm)]
        pack += [StackLayer(f"{x.number}: {x.material}, hot", "wood", x.thickness_mm) for x in laminae]
        pack.append(StackLayer("waste strip: it takes the breaks and marks", "waste", laminae[-1].thickness_mm))
        message = "The strips of a piece go on together in order, nothing between them, so they dry to fit each other."
        hot = Section("The pack, bent hot", tuple(pack), message)
        return hot, pressed_section(self.job, make.laid_up, form, self.caul_mm)

    def cautions(self, make: SteamedLaminae) -> tuple[str, ...]:
        return (*caution.STEAM, *super().cautions(make))

    def needs(self, make: SteamedLaminae, form: FormSketch) -> tuple[str, ...]:
        return "a steam box", *super().needs(make, form), "days to dry on the form in between"
