"""Laminae steamed, bent to the form one by one and dried there, then glued up on it."""

from __future__ import annotations

import math
from functools import cached_property
from typing import Any

import numpy as np

from ..bend.bend import Bend
from ..bend.lies_on import Lying, Section
from ..bend.makes import HotBlank, SteamedLaminae
from ..checks import cautions as caution
from ..checks import heat as on_heat
from ..checks import wood as on_wood
from ..checks.at import At
from ..form.construction import FormSketch
from ..ground.arrays import Array
from ..ground.findings import Change, Finding
from ..ground.operation import Move, Operation
from ..ground.stages import EVERY
from ..heat.steaming import HotStock
from ..job.job import Job
from ..laws.glued import ClosedRing, Glued, SteamedThenGlued
from ..laws.hot_set import SET_STRAIN, SetLaw
from .cold_lamination import ColdLamination, in_laminae
from .hot import BentHot
from .pressed import pressed_section
from .steam_free import SteamFree
from .steps.steamed_laminae import steamed_then_glued


class _OneLamina(SteamFree):
    """The first bend: the lamina that is bent hardest, as a steamed blank of its own."""

    can_be_backed = False

    def hot_stock(self, bend: Bend) -> HotStock:
        one = super().hot_stock(bend)
        laminae = self.job.build_up.count
        return HotStock(one.wood, one.thickness_mm, one.width_mm, one.length_mm, one.pieces * laminae)


class SteamedLaminaeWay(ColdLamination):
    """Laminae bent hot first, so that they lie on the form without a fight and hardly spring back."""

    key = "steam_laminae"
    name = "Steamed, dried in shape, laminated"
    says = "Laminae steamed and dried on the form, then glued: hardly any springback, thicker laminae."
    traits = EVERY
    # green and wet wood is welcome: it dries on the form before anything is glued
    checks = tuple(c for c in ColdLamination.checks if c not in (on_wood.green_wood, on_wood.moist))

    @classmethod
    def turn(cls, job: Job) -> Job:
        return in_laminae(job).model_copy(update={"way": cls.key})

    @property
    def _set_strain(self) -> float:
        return SET_STRAIN["free"].likely

    @property
    def waste_strips(self) -> int:
        return 1

    @cached_property
    def law(self) -> Glued | SteamedThenGlued | ClosedRing:
        flat = self._layers[0]
        if self.job.shape.is_closed:
            return ClosedRing(flat)
        return SteamedThenGlued(flat, self._set_strain)

    def _one(self, bend: Bend) -> tuple[BentHot, Array]:
        """The lamina that is bent hardest as a job of its own, and its own curvature on the form."""
        flat = self._layers[0]
        own = flat.lamina_curvature(bend.on_form.curvature)
        hardest = int((flat.thickness_mm[:, None] * np.abs(own)).max(axis=1).argmax())
        part = self.job.part.model_copy(update={"thickness_mm": float(flat.thickness_mm[hardest])})
        return _OneLamina(self.job.model_copy(update={"part": part}), self.shop), own[hardest]

    def _first_bend(self, bend: Bend) -> HotBlank:
        one, k = self._one(bend)
        law = SetLaw(one.job.part.thickness_mm, self._set_strain)
        ratio = bend.loss_ratio
        kept = tuple(bend.target.with_curvature(law.release(k, loss_ratio=r)) for r in (ratio.low, 1.0, ratio.high))
        first = Bend(
            stated=bend.stated,
            target=bend.target,
            on_form=bend.on_form.with_curvature(k),
            blank=bend.blank,
            trims_mm=bend.trims_mm,
            released=(kept[0], kept[1], kept[2]),
            by_mechanics=kept[1],
            settled=kept[1],
            loss_ratio=ratio,
            opens=bend.opens,
        )
        made: HotBlank = one.make(first)
        return made

    def make(self, bend: Bend) -> SteamedLaminae:
        return SteamedLaminae(self._first_bend(bend), self.laid_up(bend))

    def pressure_mpa(self, make: Any) -> float:
        return super().pressure_mpa(make.laid_up)

    def thinner(self, thickness_mm: float, says: str) -> Change | None:
        laminae = min(120, math.ceil(self.job.part.thickness_mm / max(0.2, thickness_mm) - 1e-6))
        if self.job.build_up.lay_up == "layers" or laminae <= self.job.build_up.laminae:
            return None
        return Change(f"Use {laminae} laminae.", {"build_up.laminae": laminae, "build_up.lamina_mm": None})

    def findings(self, at: At[Any]) -> list[Finding]:
        """What there is to say about the glue-up, and about the steam before it."""
        glued = super().findings(at.of(at.make.laid_up))
        steam = (on_heat.can_it, on_heat.no_data, *on_heat.STEAM)
        softened = [f for check in steam if (f := check(at.of(at.make.softened)))]
        return [*glued, *softened]

    def operations(self, bend: Bend, make: Any, form: FormSketch) -> tuple[Operation, ...]:
        return steamed_then_glued(self.job, self.shop, bend, make, form)

    def moves(self, bend: Bend, make: Any) -> tuple[Move, ...]:
        return self._one(bend)[0].moves(bend, make.softened)

    def lies_on(self, make: Any, form: FormSketch) -> tuple[Section, ...]:
        """The pack as it is bent hot, and the glue-up."""
        laminae = make.laid_up.laminae
        pack = [Lying("form", "form", self.job.form.depth_mm)]
        pack += [Lying(f"{x.number}: {x.material}, hot", "wood", x.thickness_mm) for x in laminae]
        pack.append(Lying("waste strip: it takes the breaks and the marks", "waste", laminae[-1].thickness_mm))
        says = "All of a piece go on together in their order, nothing between them, and dry so: they will mate."
        hot = Section("The pack, bent hot", tuple(pack), says)
        return hot, pressed_section(self.job, make.laid_up, form, self.caul_mm)

    def cautions(self, make: Any) -> tuple[str, ...]:
        return (*caution.STEAM, *super().cautions(make))

    def needs(self, make: Any, form: FormSketch) -> tuple[str, ...]:
        return "a steam chamber", *super().needs(make.laid_up, form), "days to dry in shape between"
