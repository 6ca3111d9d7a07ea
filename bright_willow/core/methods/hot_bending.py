"""What all ways that bend one solid piece hot share: its law, its limit, what it is made of and what follows."""

from __future__ import annotations

import math
from dataclasses import replace
from functools import cached_property
from typing import ClassVar, Self, TypeVar

import numpy as np

from ..checks import bend as on_bend
from ..checks import heat as on_heat
from ..checks import prepare as on_prepare
from ..checks import wood as on_wood
from ..checks.check_context import Check
from ..common.arrays import Array
from ..common.errors import PlanError
from ..common.estimate import Estimate, Figure, Grade
from ..common.operation import Batches, Move
from ..common.stages import Trait
from ..form.construction import FormSketch
from ..form.site import PressedBy
from ..gluing.adhesive import adhesive
from ..gluing.stack_section import Section, StackLayer
from ..heat.bag import bag_bend
from ..heat.chamber import BAG, STEAM_KG_PER_KWH
from ..heat.drying import (
    COOL_H,
    AfterHours,
    Drying,
    DryingSetup,
    cooling_h,
    drying,
    pulled_curvature,
    springback_by_hours,
)
from ..heat.drying_restraint import HeldBy
from ..heat.elastica import Bowstring, bowstring
from ..heat.extra_length import ends_need_mm
from ..heat.iron_and_blanket import DryHeat
from ..heat.limits import HotLimit
from ..heat.relaxation import LEFT_BY_HEAT, Drying1D
from ..heat.steam_plan import (
    HotStock,
    Steam,
    SteamHeat,
    chamber_for,
    in_box,
    steam_for,
)
from ..heat.strap_mechanics import HOT_SHARE, strap_for
from ..job.job import Job
from ..learning.belief import LearnedFigures
from ..shape.curve import Curve
from ..shop.shop import Shop
from ..springback.hot_set import YIELD_STRAIN, HotSetLaw
from ..stock.stock_use import stock_use
from ..wood.species import Species
from ..workpiece.bend import Bend
from ..workpiece.quantities import Quantities, cutting, quantities
from ..workpiece.workpiece import Forces, HotBlank, LimitUse, Make, StraightenedPiece
from .method import BendingMethod
from .steps.in_the_bag import pulls_of

HANDLED_WELL = 0.97  # of pieces that do not break, the share no mishap spoils. Grade: allowance.
DRY_END_MM = 30.0  # at each end to hold it by over dry heat. Grade: allowance.
COMMON: tuple[Check[Make], ...] = (
    on_bend.points_tell,
    on_bend.ends_cut,
    on_bend.marks_on_the_piece,
    on_wood.run_out,
    on_wood.figured,
    on_wood.lot_flaws,
    on_wood.lot_short,
    on_prepare.strips_come_out,
    on_prepare.joined_strips,
    on_wood.pairs,
    on_wood.no_spare,
)


H = TypeVar("H", HotBlank, StraightenedPiece)


class BentHot(BendingMethod[H]):
    """One solid piece, bent hot. set_key: how it yields; held_hot: by what it is held while hot, over dry heat."""

    traits = frozenset[Trait](("hot", "steamed", "to_form", "dries"))
    forms_field = "heat.forms"
    set_key: ClassVar[str]
    held_hot: ClassVar[str] = "hand"
    steams: ClassVar[bool] = True
    has_strap: ClassVar[bool] = False
    can_be_backed: ClassVar[bool] = False

    @classmethod
    def set_up(cls, job: Job, shop: Shop) -> Self:
        """Raises: PlanError for a wood that is not in the tables, or a ring, which is glued up of layers."""
        made = super().set_up(job, shop)
        if job.shape.is_closed:
            raise PlanError("shape.kind", "A closed ring is glued up from plies; bend an open hoop with heat.")
        return made

    @classmethod
    def turn(cls, job: Job) -> Job:
        """The job bent so, with ends long enough to bend by where it is steamed."""
        part = job.part
        if cls.steams:
            needs = ends_need_mm(job.mid_line(), part.thickness_mm)
            left, right = (max(own, math.ceil(least)) for own, least in zip(part.trims_mm, needs, strict=True))
            longer = {"trim_mm": left, "right_trim_mm": None if right == left else right}
            part = part.model_copy(update=longer)
        return job.model_copy(update={"way": cls.key, "part": part})

    @property
    def group(self) -> str:
        """Species and dryness."""
        return f"{self.wood.key}|{self.job.stock.dryness}"

    @property
    def settles(self) -> tuple[str, float]:
        """By dryness. A piece that comes off moist and is held by nothing goes on springing back; another stays."""
        return self.job.stock.dryness, self._grows_share if self.setting.held_by == "none" else 0.0

    @cached_property
    def _grows_share(self) -> float:
        """Share of its curvature, at the tightest place, that it goes on losing when nothing holds it."""
        target = self.target.curvature
        form = self.law.form_curvature_for(target)
        grown = self.setting.growth(self.law, form, loss_ratio=1.0)
        at = int(np.abs(target - self.law.start).argmax())
        return min(0.5, abs(float(grown[at] / target[at]))) if abs(target[at]) > 1e-9 else 0.0

    # -- the law ---------------------------------------------------------------------------------------------------
    @cached_property
    def setting(self) -> DryingSetup:
        """How it sets: hours on the form, what is left of its moment then, and what holds it afterwards."""
        heat, T = self.job.heat, self.job.part.thickness_mm
        times = Drying1D.of(T, self.wood.sg12, heat.climate)
        if self.steams:
            hours = self._hours_on_form(times)
            held_by: HeldBy = "strip" if self.is_pulled else heat.held_by
            return DryingSetup.steamed(times, on_form_h=hours, cool_h=cooling_h(T), held_by=held_by)
        cool, by = COOL_H[self.held_hot], heat.held_by if heat.dry_jig else "none"
        held: HeldBy = by
        return DryingSetup(times, cool, cool, LEFT_BY_HEAT[self.held_hot], held, heat.dry_jig)

    def _hours_on_form(self, times: Drying1D) -> float:
        return self.job.heat.on_form_h

    @cached_property
    def law(self) -> HotSetLaw:
        return self.law_at(self.job.part.thickness_mm, self.start_of(self.target.curvature, self.stated.curvature))

    def law_at(self, thickness_mm: float, start: Array | float = 0.0) -> HotSetLaw:
        """Return the law of a piece of another thickness that sets under the same conditions. Raises: PlanError."""
        return HotSetLaw(thickness_mm, YIELD_STRAIN[self.set_key], self.setting_at(thickness_mm).share_left, start)

    def setting_at(self, thickness_mm: float) -> DryingSetup:
        """Return how a piece of another thickness sets under the same conditions. Raises: PlanError."""
        if not self.steams or thickness_mm == self.job.part.thickness_mm:
            return self.setting
        times = Drying1D.of(thickness_mm, self.wood.sg12, self.job.heat.climate)
        return DryingSetup.steamed(times, on_form_h=self._hours_on_form(times), cool_h=0.0, held_by="none")

    def predicted_anew(self, form: Array, *, wanted: Array, stated: Array) -> Array:
        return self.law_at(self.job.part.thickness_mm, self.start_of(wanted, stated)).release(form)

    def start_of(self, wanted: Array, stated: Array) -> Array:
        """Curvature before the bend: a share of the wanted one, where it is bent again. stated: as drawn, 1/mm."""
        return np.asarray(wanted * self.job.heat.start_share)

    @property
    def jig_keeps(self) -> float:
        return self.setting.jig_keeps

    @property
    def is_pulled(self) -> bool:
        return self.steams and self.school.is_pulled

    def jig_curvature(self, target: Array, released: Array) -> Array:
        return pulled_curvature(target, released, keeps=self.jig_keeps) if self.is_pulled else target

    def dried(self, released: Array, target: Array) -> Array:
        return self.setting.dried(released, self.jig_curvature(target, released[1]))

    def set_strain(self, bend: Bend) -> Estimate:
        """Curvature lost at the tightest place times the thickness, at both ends of the loss ratio and between."""
        change = float(np.abs(bend.on_form.curvature - self.law.start).max())
        ratio, T = bend.loss_ratio, self.job.part.thickness_mm
        ratios = np.array([ratio.low, ratio.likely, ratio.high])
        return Estimate.around(T * self.law.lost(np.full(3, change), loss_ratio=ratios), ratio.grade)

    @cached_property
    def steam(self) -> Steam:
        """Times, temperatures and moves of the steam, however long the piece is. Raises: PlanError."""
        return steam_for(self.hot_stock(0.0), self.job, self.shop, has_strap=self.has_strap)

    @property
    def is_in_bag(self) -> bool:
        """Whether it is bent little by little inside a steam bag."""
        return self.steams and self.job.heat.in_bag and self.job.heat.wall == BAG

    @cached_property
    def limit(self) -> HotLimit:
        """The strain this stock may take, with the moves as slow as they are planned."""
        hurries = self.steams and not self.is_in_bag
        return self.limit_at(
            self.job.part.thickness_mm, moves_share=self.steam.handling_s / self.steam.window_s if hurries else 0.0
        )

    def limit_at(self, thickness_mm: float, *, moves_share: float, wood: Species | None = None) -> HotLimit:
        """Return the limit of a piece of another thickness, or of another wood. Raises: PlanError."""
        return HotLimit.of(
            wood or self.wood,
            self.job.stock,
            thickness_mm=thickness_mm,
            soaked=self.job.heat.soaked,
            has_strap=self.has_strap,
            is_dry_heat=not self.steams,
            is_backed=self.can_be_backed and self.job.heat.backing == "by_hand",
            moves_share=moves_share,
        )

    # -- make ------------------------------------------------------------------------------------------------------
    def _bow(self, bend: Bend, heat: SteamHeat | DryHeat) -> Bowstring | None:
        """The bow its ends draw it to, where it is bent in the bag."""
        if not isinstance(heat, SteamHeat) or not heat.in_bag:
            return None
        moment = self.forces(heat, None).holding_moment_nmm.value
        return bowstring(bend.blank, thickness_mm=self.job.part.thickness_mm, moment_nmm=moment)

    def _heat(self, bend: Bend) -> SteamHeat | DryHeat:
        return self.steam_heat(bend)

    def use(self, bend: Bend) -> LimitUse:
        """How much of its limit the bend takes."""
        change = np.abs(bend.on_form.curvature - self.law.start)
        use = self.limit.use(change, self.job.part.thickness_mm)
        return LimitUse.over(bend.on_form, use[None, :], of="limit", grade=self.limit.grade)

    @property
    def stands(self) -> Figure:
        """The strain it stands: stretch of its outside, in a strap shortening of its inside."""
        return Figure(self.limit.allowed, self.limit.grade)

    def hot_stock(self, length_mm: float) -> HotStock:
        """What goes into the heat, cut so long."""
        part = self.job.part
        width, pieces = part.width_mm + self.shop.clean_up_mm, part.count + part.spares
        return HotStock(self.wood, part.thickness_mm, width, length_mm, pieces)

    def cut_length_mm(self, bend: Bend) -> float:
        """How long the piece is cut: in a strap as long as its convex face, which keeps its length, trims included."""
        blank, T = bend.blank, self.job.part.thickness_mm
        if not self.has_strap:
            return blank.length_mm
        return float(((1 + np.abs(blank.curvature) * T / 2) * blank.lengths_mm).sum())

    def steam_heat(self, bend: Bend) -> SteamHeat:
        """Steam, chamber, and the strap where it has one. Raises: PlanError."""
        stock = in_box(self.hot_stock(self.cut_length_mm(bend)), self.job.heat, self.shop.week.places)
        bag, more_min = None, 0.0
        if self.is_in_bag:
            lasts_h = self.job.heat.reservoir_l / (STEAM_KG_PER_KWH * self.job.heat.power_kw)
            bag = bag_bend(thickness_mm=stock.thickness_mm, reservoir_h=lasts_h)
            more_min = bag.pull_min + bag.hold_min
        chamber = chamber_for(stock, self.job, self.shop, self.steam, more_min=more_min)
        bent_in = strap_for(self.job, self.wood, self.cut_length_mm(bend), bend.blank) if self.has_strap else None
        return SteamHeat(self.steam, chamber, bent_in, stock, bag)

    def drying(self, bend: Bend) -> Drying:
        """What follows the bend."""
        return drying(
            self.setting,
            thickness_mm=self.job.part.thickness_mm,
            straps=self.job.heat.forms if self.has_strap else 0,
            target=bend.target,
            form=bend.on_form,
            jig=self._jig(bend),
            law=self.law,
            loss_ratio=bend.loss_ratio.likely,
        )

    def _jig(self, bend: Bend) -> Curve:
        """What it is held to while it dries."""
        return bend.target.with_curvature(self.jig_curvature(bend.target.curvature, bend.likely.curvature))

    def by_hours(self, bend: Bend, hours: tuple[float, ...]) -> tuple[AfterHours, ...]:
        if not self.steams:
            return ()
        return springback_by_hours(
            self.setting, hours, jig=self._jig(bend), form=bend.on_form, law=self.law, loss_ratio=bend.loss_ratio.likely
        )

    def forces(self, heat: SteamHeat | DryHeat, bow: Bowstring | None) -> Forces:
        """The moment that bends it: of the strap, or of a hot bar beyond yielding, σ b T²/4; and the pull for it, of a
        lever, or of the string of a bow. Grade: allowance."""
        part, own = self.job.part, heat.strap if isinstance(heat, SteamHeat) else None
        free = HOT_SHARE * self.wood.crush_mpa * part.width_mm * part.thickness_mm**2 / 4
        moment, lever = own.moment_nmm if own else free, self.job.heat.lever_mm
        if bow:  # hardest at first, when the string has least of a lever
            lever = moment / bow.pulls[0][1]
        return Forces(Figure(moment, "allowance"), lever, Figure(moment / lever, "allowance"))

    def moves(self, bend: Bend, make: H) -> tuple[Move, ...]:
        heat = make.heat
        if not isinstance(heat, SteamHeat):
            return ()
        return pulls_of(heat.bag) if heat.bag else heat.steam.moves

    def lies_on(self, make: H, form: FormSketch) -> tuple[Section, ...]:
        T, own = self.job.part.thickness_mm, make.heat.strap if isinstance(make.heat, SteamHeat) else None
        layers = [StackLayer("form", "form", self.job.form.depth_mm), StackLayer("wood, hot", "wood", T)]
        message = "Center mark to center mark, with nothing between wood and form that could mark it."
        if own:
            layers.append(StackLayer("strap, its stops tight on both ends", "strap", self.job.heat.strap_mm))
            message = "The strap runs along the whole outside of the bend, with no gap at either stop."
            if own.stains:
                layers.insert(2, StackLayer("paper or film: iron stains this wood", "paper", 0.2))
        return (Section("On the form", tuple(layers), message),)

    @property
    def pressed_by(self) -> PressedBy:
        """Nothing presses solid stock: it is held where it lies."""
        return "held"

    def pressure_mpa(self, make: H) -> float:
        return adhesive(self.job.build_up.adhesive).pressure_mpa_low

    # -- stock -----------------------------------------------------------------------------------------------------
    def quantities(self, bend: Bend, make: H, learnt: LearnedFigures) -> Quantities:
        cut = cutting(self.job, self.shop, finished_mm=bend.target.length_mm, blank_mm=self.cut_length_mm(bend))
        return quantities(
            self.job,
            self.shop,
            stock=replace(
                stock_use(1, cut),
                layers_mm=(self.job.part.thickness_mm + self.shop.planing_mm,),
                sets=self.job.part.count + self.job.part.spares,
            ),
            trim_mm=bend.trim_mm,
            whole_share=self.whole_share(make.use),
            made=learnt.made.get((self.job.way, self.group), (0, 0)),
        )

    def whole_share(self, use: LimitUse) -> float:
        """Share of pieces expected whole: the chance of the bend, and what handling costs."""
        return float(min(HANDLED_WELL, max(0.005, HANDLED_WELL * self.limit.chance(use.worst.value))))

    # -- what is said ----------------------------------------------------------------------------------------------
    @property
    def batches(self) -> Batches:
        heat, part = self.job.heat, self.job.part
        return Batches(part.count + part.spares, heat.at_once, heat.forms)

    @property
    def assumptions(self) -> tuple[str, ...]:
        figures = f"{self.wood.bend_source or 'none for this way'}; {self.wood.stiffness_source}"
        return (
            "Hot wood yields beyond a small strain. Springback comes from the moment left in it, which falls with "
            "hours on the form and with drying there.",
            "Limits of radius ÷ thickness are for clear, straight wood heated through; grain and moisture change them.",
            f"Figures of {self.wood.said}: {figures}.",
            "Use plain water: no additive has been shown to help.",
        )

    @property
    def source(self) -> tuple[Grade, str]:
        return self.limit.grade, self.wood.bend_source or "most steamed woods: 2 % stretch, 25 % shortening"


STEAMED: tuple[Check[HotBlank], ...] = (on_heat.can_it, on_heat.no_data, *on_heat.STEAM)
ENDS: tuple[Check[HotBlank], ...] = (*on_heat.SPRUNG, on_heat.short_ends, on_bend.overlaps)
