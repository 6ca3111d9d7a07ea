"""What all ways that bend one solid piece hot share: its law, its limit, what it is made of and what follows."""

from __future__ import annotations

from abc import abstractmethod
from dataclasses import replace
from functools import cached_property
from typing import Any, ClassVar

import numpy as np

from ..bend.bend import Bend
from ..bend.lies_on import Lying, Section
from ..bend.makes import Forces, HotBlank, Use
from ..bend.quantities import Quantities, cutting, quantities
from ..checks import bend as on_bend
from ..checks import heat as on_heat
from ..checks import prepare as on_prepare
from ..checks import wood as on_wood
from ..checks.at import At, Check, found
from ..days.elapsed import Batches
from ..experience.belief import Learnt
from ..form.construction import FormSketch
from ..form.site import PressedBy
from ..ground.arrays import Array
from ..ground.errors import OutOfRange
from ..ground.estimate import Estimate, Figure, Grade
from ..ground.findings import Finding
from ..ground.operation import Move, Operation
from ..ground.stages import Trait
from ..heat.bowstring import Bowstring, bowstring
from ..heat.chamber import BAG
from ..heat.dry_heat import DryHeat
from ..heat.drying import drying
from ..heat.limits import COMFORT, HotLimit, LimitFigures, thinner_mm
from ..heat.opening import gentle_stretches, openings
from ..heat.steaming import HotStock, SteamHeat, chamber_for, steam_for
from ..heat.strap import HOT_SHARE, Strap, strap
from ..job.job import Job
from ..laws.hot_set import EARLY_TIMES, SET_STRAIN, SetLaw
from ..shape.crossing import overlap_mm
from ..shape.curve import Curve
from ..shop.adhesive import adhesive
from ..shop.shop import Shop
from ..shop.stock_use import stock_use
from .base import WayOfBending
from .steps.bending_hot import bending_hot

STEAMED_YIELD = 0.6  # of steamed pieces, where the species has no figure. Grade: allowance.
DRY_YIELD = 0.85  # of thin strips bent over dry heat. Grade: allowance.
NEAR_THE_LIMIT = {"risky": 0.8, "expect breaks": 0.4}  # of those, when the bend is so near what the stock takes
STEAM_END_MM, DRY_END_MM = 150.0, 30.0  # at each end to bend by. Grade: allowance.
COMMON: tuple[Check, ...] = (
    on_bend.points_tell,
    on_bend.ends_cut,
    on_wood.run_out,
    on_wood.figured,
    on_wood.lot_flaws,
    on_wood.lot_short,
    on_prepare.strips_come_out,
    on_prepare.joined_strips,
    on_wood.pairs,
    on_wood.no_spare,
)


def end_spare_mm(thickness_mm: float) -> float:
    """What a steamed piece needs beyond its bend at each end: 150 mm or three thicknesses. Grade: allowance.

    >>> end_spare_mm(60.0)
    180.0
    """
    return max(STEAM_END_MM, 3 * thickness_mm)


class BentHot(WayOfBending):
    """One solid piece, bent hot; it loses the same curvature whatever the bend."""

    traits = frozenset[Trait](("hot", "steamed"))
    forms_field = "heat.forms"
    set_key: ClassVar[str]
    steams: ClassVar[bool] = True
    has_strap: ClassVar[bool] = False
    can_be_backed: ClassVar[bool] = False
    checks: ClassVar[tuple[Check, ...]]

    @classmethod
    def set_up(cls, job: Job, shop: Shop) -> BentHot:
        """Raises: OutOfRange for a wood that is not in the tables, or a ring, which is glued up of layers."""
        made = super().set_up(job, shop)
        if job.shape.is_closed:
            raise OutOfRange("shape.kind", "A closed ring is glued up of layers; bend an open hoop with heat.")
        return made

    @classmethod
    def turn(cls, job: Job) -> Job:
        """The job bent so, with ends long enough to bend by where it is steamed."""
        part = job.part
        if cls.steams:
            least, right = end_spare_mm(part.thickness_mm), part.right_trim_mm
            longer = {
                "trim_mm": max(part.trim_mm, least),
                "right_trim_mm": None if right is None else max(right, least),
            }
            part = part.model_copy(update=longer)
        return job.model_copy(update={"way": cls.key, "part": part})

    @property
    def group(self) -> str:
        """Species and dryness."""
        return f"{self.wood.key}|{self.job.stock.dryness}"

    @property
    def settles(self) -> tuple[str, float]:
        """By dryness: solid wood dried on its form stays as it is, as long as nothing else is known."""
        return self.job.stock.dryness, 0.0

    # -- the law ---------------------------------------------------------------------------------------------------
    @cached_property
    def law(self) -> SetLaw:
        return SetLaw(self.job.part.thickness_mm, self._set_strain, self._start(self.target))

    @property
    def _set_strain(self) -> float:
        return SET_STRAIN[self.set_key].likely * (EARLY_TIMES if self.job.heat.early else 1.0)

    def _start(self, target: Curve) -> Array:
        """Curvature the piece has before the bend: a share of what is wanted, where it is bent again."""
        return np.asarray(target.curvature * self.job.heat.start_share)

    def set_strain(self, bend: Bend) -> Estimate:
        """The set strain: as documented, until this shop has learnt its own."""
        early = EARLY_TIMES if self.job.heat.early else 1.0
        known, ratio = SET_STRAIN[self.set_key], bend.loss_ratio
        if ratio.grade != "learned":
            return Estimate(early * known.low, early * known.likely, early * known.high, known.grade)
        d = early * known.likely
        return Estimate(d * ratio.low, d * ratio.likely, d * ratio.high, ratio.grade)

    @cached_property
    def limit(self) -> HotLimit:
        """What this stock takes."""
        return HotLimit.of(
            self.wood,
            self.job.stock,
            soaked=self.job.heat.soaked,
            has_strap=self.has_strap,
            dry_mm=None if self.steams else self.job.part.thickness_mm,
            is_backed=self.can_be_backed and self.job.heat.backing == "by_hand",
        )

    # -- make ------------------------------------------------------------------------------------------------------
    def make(self, bend: Bend) -> Any:
        heat = self._heat(bend)
        T, grade = self.job.part.thickness_mm, bend.loss_ratio.grade
        use = self.use(bend)
        ends = openings(bend.on_form, bend.released_curvature, T, grade)
        return HotBlank(
            thickness_mm=T,
            limits=self._limits(bend),
            use=use,
            breaking_strain=self.stands,
            set_strain=self.set_strain(bend),
            legs=ends.legs,
            opening_on_form_mm=ends.on_form_mm,
            opening_released_mm=ends.released_mm,
            overlap_mm=overlap_mm(bend.blank, T),
            bow=self._bow(bend, heat),
            gentle=gentle_stretches(
                np.abs(bend.target.curvature - self.law.start),
                self.law.lost * bend.loss_ratio.likely,
                bend.target.stations_mm,
            ),
            heat=heat,
            drying=self.drying(bend),
            end_spare_mm=end_spare_mm(T) if self.steams else DRY_END_MM,
            forces=self.forces(heat),
        )

    def _bow(self, bend: Bend, heat: SteamHeat | DryHeat) -> Bowstring | None:
        """The bow its ends draw it to, where it is bent in the bag."""
        if not isinstance(heat, SteamHeat) or not heat.in_bag:
            return None
        moment = self.forces(heat).holding_moment_nmm.value
        return bowstring(bend.blank, thickness_mm=self.job.part.thickness_mm, moment_nmm=moment)

    def _heat(self, bend: Bend) -> SteamHeat | DryHeat:
        return self.steam_heat(bend)

    def use(self, bend: Bend) -> Use:
        """How much of its limit the bend takes."""
        change = np.abs(bend.on_form.curvature - self.law.start)
        use = self.limit.use(change, self.job.part.thickness_mm)
        return Use.over(bend.on_form, use[None, :], of="limit", grade=self.limit.grade)

    @property
    def stands(self) -> Figure:
        """The strain it stands: stretch of its outside, in a strap shortening of its inside."""
        return Figure(self.limit.allowed, self.limit.grade)

    def _limits(self, bend: Bend) -> LimitFigures:
        T, limit = self.job.part.thickness_mm, self.limit
        change = np.abs(bend.on_form.curvature - self.law.start)
        cell = int(limit.use(change, T).argmax())
        inside = max(1e-6, 1 / max(float(change[cell]), 1e-12) - T / 2)
        wanted, comfort = abs(float(bend.target.curvature[cell])), limit.ratio_at(COMFORT)
        return LimitFigures(
            ratio=inside / T,
            table=limit.table,
            has_data=limit.has_data,
            needed=limit.needed,
            grain_factor=limit.grain,
            moisture_factor=limit.moisture,
            at_mm=float(bend.target.stations_mm[cell] + bend.target.lengths_mm[cell] / 2),
            thinner_mm=thinner_mm(wanted=wanted, thickness_mm=T, needed=comfort, set_strain=self.law.set_strain),
            gentler_mm=comfort * T,
            unbroken_pct=self.wood.steam_unbroken_pct,
            grade=limit.grade,
            without_data=limit.without_data,
        )

    def hot_stock(self, bend: Bend) -> HotStock:
        """What goes into the heat."""
        part = self.job.part
        width, pieces = part.width_mm + self.shop.clean_up_mm, part.count + part.spares
        return HotStock(self.wood, part.thickness_mm, width, self.cut_length_mm(bend), pieces)

    def cut_length_mm(self, bend: Bend) -> float:
        """How long the piece is cut. In a strap the convex face keeps its length and the concave one shortens, so it is
        cut as long as its convex face is bent, trims included."""
        blank, T = bend.blank, self.job.part.thickness_mm
        if not self.has_strap:
            return blank.length_mm
        return float(((1 + np.abs(blank.curvature) * T / 2) * blank.lengths_mm).sum())

    def steam_heat(self, bend: Bend) -> SteamHeat:
        """Steam, chamber, and the strap where it has one. Raises: OutOfRange."""
        stock = self.hot_stock(bend)
        steam = steam_for(stock, self.job, self.shop, has_strap=self.has_strap)
        chamber = chamber_for(stock, self.job, self.shop, steam)
        in_bag = self.job.heat.in_bag and self.job.heat.wall == BAG
        return SteamHeat(steam, chamber, self._strap(bend) if self.has_strap else None, in_bag)

    def _strap(self, bend: Bend) -> Strap:
        heat, part = self.job.heat, self.job.part
        return strap(
            crush_mpa=self.wood.crush_mpa,
            width_mm=part.width_mm,
            thickness_mm=part.thickness_mm,
            blank_mm=self.cut_length_mm(bend),
            pieces=heat.at_once,
            strap_width_mm=heat.strap_width_mm or part.width_mm * heat.at_once,
            strap_mm=heat.strap_mm,
            stop=heat.stop,
            clamp=heat.stop_clamp,
            clamps=heat.stop_clamps,
            lever_mm=heat.lever_mm,
            ratio=heat.ratio,
            own_length_mm=heat.strap_length_mm,
            iron=heat.strap_of == "mild_steel",
            tannin="iron stain" in self.wood.note,
        )

    def drying(self, bend: Bend) -> Any:
        """What follows the bend."""
        heat = self.job.heat
        return drying(
            steams=self.steams,
            thickness_mm=self.job.part.thickness_mm,
            climate=heat.climate,
            on_form_h=heat.on_form_h,
            early=heat.early,
            straps=heat.forms if self.has_strap else 0,
            target=bend.target,
            form=bend.on_form,
            law=self.law,
            loss_ratio=bend.loss_ratio.likely,
            held_by=heat.held_by,
        )

    def forces(self, heat: SteamHeat | DryHeat) -> Forces:
        """The moment that bends it: of the strap, or of a hot bar beyond yielding, σ b T²/4. Grade: allowance."""
        part, own = self.job.part, heat.strap if isinstance(heat, SteamHeat) else None
        free = HOT_SHARE * self.wood.crush_mpa * part.width_mm * part.thickness_mm**2 / 4
        moment, lever = own.moment_nmm if own else free, self.job.heat.lever_mm
        return Forces(Figure(moment, "allowance"), lever, Figure(moment / lever, "allowance"))

    def moves(self, bend: Bend, make: Any) -> tuple[Move, ...]:
        return make.heat.steam.moves if isinstance(make.heat, SteamHeat) and not make.heat.in_bag else ()

    def lies_on(self, make: Any, form: FormSketch) -> tuple[Section, ...]:
        T, own = self.job.part.thickness_mm, make.heat.strap if isinstance(make.heat, SteamHeat) else None
        layers = [Lying("form", "form", self.job.form.depth_mm), Lying("wood, hot", "wood", T)]
        says = "Centre mark to centre mark; nothing between wood and form that could mark it."
        if own:
            layers.append(Lying("strap, its stops hard on both ends", "strap", self.job.heat.strap_mm))
            says = "The strap lies on the outside of the bend, its whole length, no gap at either stop."
            if own.stains:
                layers.insert(2, Lying("paper or film: iron stains this wood", "paper", 0.2))
        return (Section("On the form", tuple(layers), says),)

    @property
    def pressed_by(self) -> PressedBy:
        """Nothing presses solid stock: it is held where it lies."""
        return "held"

    def pressure_mpa(self, make: Any) -> float:
        return adhesive(self.job.build_up.adhesive).pressure_mpa_low

    # -- stock -----------------------------------------------------------------------------------------------------
    def quantities(self, bend: Bend, make: Any, learnt: Learnt) -> Quantities:
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
            whole_share=self._whole_share(make.use.feel),
            made=learnt.made.get((self.job.way, self.group), (0, 0)),
        )

    def _whole_share(self, feel: str) -> float:
        """Share of pieces expected whole: the species' published share, less near and beyond the limit."""
        published = self.wood.steam_unbroken_pct
        share = (published / 100 if published else STEAMED_YIELD) if self.steams else DRY_YIELD
        return float(min(0.97, max(0.05, share * NEAR_THE_LIMIT.get(feel, 1.0))))

    # -- what is said ----------------------------------------------------------------------------------------------
    def findings(self, at: At[Any]) -> list[Finding]:
        return found(self.checks, at)

    @property
    def batches(self) -> Batches:
        heat, part = self.job.heat, self.job.part
        return Batches(part.count + part.spares, heat.at_once, heat.forms)

    def operations(self, bend: Bend, make: Any, form: FormSketch) -> tuple[Operation, ...]:
        return bending_hot(self.job, self.shop, bend, make, form)

    @abstractmethod
    def needs(self, make: Any, form: FormSketch) -> tuple[str, ...]: ...

    @property
    def assumptions(self) -> tuple[str, ...]:
        figures = f"{self.wood.bend_source or 'none for this way'}; {self.wood.stiffness_source}"
        return (
            "Hot wood yields and keeps what is bent beyond a set strain; "
            "it loses the same curvature whatever the bend.",
            "Limits of R/T are for clear, straight, heated-through stock; grain and moisture lower them.",
            f"Figures of {self.wood.said}: {figures}.",
            "Only plain water: nothing added to it has been shown to help.",
        )

    @property
    def source(self) -> tuple[Grade, str]:
        return self.limit.grade, self.wood.bend_source or "most steamed woods: 2 % stretch, 25 % shortening"


STEAMED: tuple[Check, ...] = (on_heat.can_it, on_heat.no_data, *on_heat.STEAM)
ENDS: tuple[Check, ...] = (*on_heat.SPRUNG, on_heat.short_ends, on_bend.overlaps)
