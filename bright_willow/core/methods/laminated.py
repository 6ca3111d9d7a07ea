"""What all ways that glue layers to one another share: the lay-up, its law, its press, its stock."""

from __future__ import annotations

import math
from abc import abstractmethod
from dataclasses import replace
from functools import cached_property
from typing import ClassVar, Self, TypeVar

import numpy as np

from ..checks import bend as on_bend
from ..checks import cautions as caution
from ..checks import lamination as on_layup
from ..checks import prepare as on_prepare
from ..checks import press as on_press
from ..checks import wood as on_wood
from ..checks.check_context import Check, CheckContext, found
from ..common.arrays import Array
from ..common.estimate import Figure, Grade
from ..common.findings import Finding
from ..common.operation import Batches, Operation
from ..common.stages import Trait
from ..form.construction import FormSketch
from ..gluing.adhesive import Adhesive, adhesive, glue_mass_g
from ..gluing.press_hours import press_hours
from ..gluing.pressing import vacuum_mpa
from ..gluing.stack_section import Section
from ..gluing.tent_cure import cures_at_c, warm_hours
from ..job.job import Job
from ..job.job_rules import last_lamina_mm, layers_fit
from ..learning.belief import LearnedFigures, group_of
from ..learning.yields import LAMINATED_YIELD
from ..shape.curve import Curve
from ..shop.shop import Shop
from ..springback.closed_ring import RingLayer, ring_layers
from ..springback.glued import ClosedRing, Glued, SteamedThenGlued
from ..springback.layup import Layup
from ..stock.side_by_side import SideBySide, abreast
from ..stock.stock_use import StockUse, stock_use, stock_use_of_layers
from ..wood.grain import wood_factor
from ..wood.sheets import is_sheet
from ..wood.species import species
from ..workpiece.bend import Bend
from ..workpiece.quantities import Quantities, cutting, quantities
from ..workpiece.workpiece import (
    Forces,
    GluedLayup,
    Lamina,
    LayupOption,
    LimitUse,
    Press,
)
from .layers import is_bought, layer_of, stepped
from .method import BendingMethod, M
from .plies import joined_veneers, sheet_cuts
from .pressed import band_press, open_ends, pressed_section
from .steps.gluing import gluing
from .strip_table import StripTableInput, ladder, lay_ups_to_try

STRAIGHT = 1e-7
Lines = TypeVar("Lines", float, Array)  # of glue: a count, or an array of counts


class Laminated(BendingMethod[M]):
    """Layers of wood, sheets, or both, glued to one another on a form."""

    traits = frozenset[Trait](("laid_up", "to_form"))
    forms_field = "glue_up.forms"
    checks: ClassVar[tuple[Check[GluedLayup], ...]] = (
        *on_layup.LAMINATION,
        on_wood.green_wood,
        on_wood.moist,
        on_wood.run_out,
        on_wood.figured,
        on_wood.lot_flaws,
        on_wood.lot_short,
        on_wood.pairs,
        on_wood.no_spare,
        on_prepare.strips_come_out,
        on_prepare.joined_strips,
        on_prepare.kerf_eats,
        on_prepare.pressed_evenly,
        on_prepare.profile_survives,
        on_press.race_is_won,
        on_press.ratio_known,
        on_press.spread_in_the_cold,
        on_press.tent_is_warm,
        on_press.bleeds_through,
        on_wood.short_trim,
        on_bend.crossing,
        on_bend.points_tell,
        on_bend.ends_cut,
        on_bend.marks_on_the_piece,
        *on_layup.PRESSED,
        on_bend.misses,
        on_layup.little_known,
    )

    @classmethod
    def set_up(cls, job: Job, shop: Shop) -> Self:
        """Raises: PlanError for a wood, sheet or glue that is not in the tables, or layers that do not add up."""
        species(job.stock.species, shop.woods)
        adhesive(job.build_up.adhesive)
        layers_fit(job, shop.woods, shop.sheets)
        return cls(job, shop)

    @cached_property
    def glue(self) -> Adhesive:
        """The glue of the job."""
        return adhesive(self.job.build_up.adhesive)

    @cached_property
    def _layers(self) -> tuple[Layup, tuple[str, ...], Array]:
        """The lay-up flat, the name of each layer, and (n, 1) the strain each stands: breaking strain of a wood, or
        what a sheet shows at its least radius."""
        job, wood, slope = self.job, self.wood, self._grain
        if job.build_up.lay_up == "equal":
            count, last = job.build_up.laminae, last_lamina_mm(job)
            layup = stepped(((count, job.build_up.lamina_mm or last, last),), wood.moe_mpa, 0)
            layup = replace(layup, inner=job.build_up.tape_after) if job.build_up.tape_after else layup
            return layup, (wood.name,) * count, np.full((count, 1), wood.breaking_strain * slope)
        rows = [layer_of(layer, slope, self.shop) for layer in job.build_up.layers]
        thickness, modulus, start, limit, yields, left = (np.array([row[i] for row in rows]) for i in range(6))
        own = (yields, left) if np.isfinite(yields).any() else (None, None)
        layup = Layup(thickness, modulus, start, job.build_up.tape_after, *own)
        return layup, tuple(row[6] for row in rows), limit[:, None]

    @property
    def _grain(self) -> float:
        """Factor of run-out and figure on breaking strain."""
        return wood_factor(self.job.stock.grain_slope, figured=self.job.stock.figured)

    @cached_property
    def law(self) -> Glued | SteamedThenGlued | ClosedRing:
        layup = self._layers[0]
        return ClosedRing(Glued(layup)) if self.job.shape.is_closed else Glued(layup)

    @property
    def trims_mm(self) -> tuple[float, float]:
        return (0.0, 0.0) if self.job.shape.is_closed else super().trims_mm

    @property
    def group(self) -> str:
        """Species and class of glue; lay-ups with sheets, and of several woods, are learnt apart."""
        key = self.wood.key
        if self.job.build_up.lay_up == "layers":
            kinds = {layer.material for layer in self.job.build_up.layers}
            key = "sheets" if any(map(is_sheet, kinds)) else next(iter(kinds)) if len(kinds) == 1 else "mixed"
        return group_of(species_key=key, creep=self.glue.creep)

    @property
    def settles(self) -> tuple[str, float]:
        """By class of glue. A ring glued all round cannot open, and stays."""
        return self.glue.creep, 0.0 if self.job.shape.is_closed else self.glue.settle_pct / 100

    # -- make ------------------------------------------------------------------------------------------------------
    @abstractmethod
    def glued(self, make: M) -> GluedLayup:
        """The lay-up in what is made."""

    def laid_up(self, bend: Bend) -> GluedLayup:
        """The lay-up on its form. Raises: PlanError where a lamina would have no radius left."""
        _, materials, limits = self._layers
        k_form, blank = bend.on_form.curvature, bend.blank
        layup = self.law.on(k_form)
        strain = layup.strain(k_form)
        use = strain / limits
        grade = self.wood.stiffness_grade
        moment = float(np.abs(layup.holding_moment(k_form)).max()) * self.job.part.width_mm
        lever = blank.length_mm / 2
        ring: tuple[RingLayer, ...] = ()
        if self.job.shape.is_closed:
            ring = ring_layers(layup, bend.target.length_mm, float(k_form[0]))
        sheets = sheet_cuts(self.job, self.shop, self.on_form, blank.length_mm)
        return GluedLayup(
            glue=self.glue,
            laminae=self._laminae(layup, materials, bend, strain, use),
            ring=ring,
            use=LimitUse.over(bend.on_form, use, of="strain", grade=grade),
            breaking_strain=Figure(self.wood.breaking_strain * self._grain, grade),
            forces=Forces(Figure(moment, grade), lever, Figure(moment / lever, grade)),
            press=self._press(layup, blank),
            glue_g=Figure(self.glue_g(self.job.build_up.glue_lines, blank.length_mm), "allowance"),
            sheet_m2=self._sheet_m2(blank.length_mm),
            sheets=sheets,
            veneers=joined_veneers(self.job, self.shop, self.on_form, sheets),
            thinnest_sawn_mm=min(self.sawn_mm, default=math.inf),
            press_h=press_hours(self.glue, max(cures_at_c(self.job, self.shop), self.glue.min_temp_c)),
            warm_h=self._warm_h(float(layup.thickness_mm.sum()) + self.caul_mm),
            off_alone_mm=layup.off_alone_mm(bend.on_form.lengths_mm, k_form, loss_ratio=bend.loss_ratio.likely),
        )

    def _warm_h(self, stack_mm: float) -> float:
        """Hours until its middle is warm; 0 too where the tent never brings it there, which a finding says."""
        if cures_at_c(self.job, self.shop) <= self.glue.min_temp_c:
            return 0.0
        return warm_hours(self.job, self.shop, self.glue, self.wood, stack_mm)

    def _laminae(
        self, layup: Layup, materials: tuple[str, ...], bend: Bend, strain: Array, use: Array
    ) -> tuple[Lamina, ...]:
        cut = layup.lengths_mm(bend.blank.lengths_mm, bend.blank.curvature)
        t, most = layup.thickness_mm, strain.max(-1)
        moments = np.abs(layup.lamina_moments(bend.on_form.curvature)).max(-1)
        pull = moments * self.job.part.width_mm / (bend.blank.length_mm / 2)
        rows = zip(t, layup.modulus_mpa, most, use.max(-1), cut, pull, strict=True)
        named = zip(materials, rows, strict=True)
        return tuple(Lamina(i, name, *map(float, row)) for i, (name, row) in enumerate(named, 1))

    def _press(self, layup: Layup, blank: Curve) -> Press:
        """What the press that was chosen does, and the ends it cannot lay down."""
        choice, width = self.job.build_up, self.job.part.width_mm
        if choice.press == "clamps":
            return Press("clamps")
        if choice.press == "band":
            made = band_press(choice, blank, width, needs_mpa=self.glue.pressure_mpa_low)
        else:
            pressure = vacuum_mpa(gauge_kpa=choice.gauge_kpa, altitude_m=self.shop.altitude_m)
            over = max(0.0, choice.gauge_kpa - 1000 * pressure)
            made = Press("vacuum", Figure(pressure, "physics"), over_air_kpa=over if over > 0.05 else 0.0)
        if self.job.shape.is_closed or made.pressure_mpa is None:  # no end to stand off, or nothing that presses
            return made
        moments = np.abs(layup.holding_moment(blank.curvature)) * width
        longest, gap = open_ends(blank, moments, pressure_mpa=made.pressure_mpa.value, width_mm=width)
        grade = self.wood.stiffness_grade
        return replace(made, open_end_mm=Figure(longest, grade), open_end_gap_mm=Figure(gap, grade))

    def pressure_mpa(self, make: M) -> float:
        """Of the press, or, under clamps, the least its glue wants."""
        pressure = self.glued(make).press.pressure_mpa
        return pressure.value if pressure else self.glue.pressure_mpa_low

    # -- stock -----------------------------------------------------------------------------------------------------
    @property
    def sawn_mm(self) -> list[float]:
        """Thicknesses of the layers that are sawn, not bought as sheets or (layer by layer, under 1 mm) as veneer."""
        if self.job.build_up.lay_up == "equal":
            return [float(t) for t in self._layers[0].thickness_mm]
        return [x.thickness_mm for x in self.job.build_up.layers if not is_bought(x)]

    def quantities(self, bend: Bend, make: M, learnt: LearnedFigures) -> Quantities:
        return quantities(
            self.job,
            self.shop,
            stock=self._stock(bend),
            trim_mm=bend.trim_mm,
            whole_share=self.whole_share(make),
            made=learnt.made.get((self.job.way, self.group), (0, 0)),
        )

    def whole_share(self, make: M) -> float:
        """Share of pieces expected whole, by how hard the strips are bent."""
        return LAMINATED_YIELD[self.glued(make).use.feel]

    def _stock(self, bend: Bend) -> StockUse:
        """Wood for the whole job as it is built up. Strips are all cut as long as the longest, the outermost."""
        longest = float(self._layers[0].lengths_mm(bend.blank.lengths_mm, bend.blank.curvature).max())
        lies = self.on_form
        sets = lies.strips(1, self.job.part.count + self.job.part.spares)
        cut = cutting(self.job, self.shop, finished_mm=bend.target.length_mm, blank_mm=longest)
        cut = replace(cut, strip_wide_mm=lies.strip_wide_mm, sets=sets)
        if self.job.build_up.lay_up == "equal" and self.job.build_up.lamina_mm is None:
            made = stock_use(self.job.build_up.laminae, cut)
        else:
            made = stock_use_of_layers(self.sawn_mm, cut)
        layers = tuple(t + self.shop.planing_mm for t in self.sawn_mm)
        return replace(made, layers_mm=layers, sets=sets, waste_strips=self.waste_strips)

    @property
    def waste_strips(self) -> int:
        """Strips for each set that are bent outside the others and thrown away."""
        return 0

    @cached_property
    def on_form(self) -> SideBySide:
        return abreast(self.job, self.shop)

    @property
    def batches(self) -> Batches:
        return Batches(self.job.part.count + self.job.part.spares, self.on_form.pieces, self.job.glue_up.forms)

    @property
    def caul_mm(self) -> float:
        cauls = self.job.build_up.cauls
        return cauls * float(self._layers[0].thickness_mm[-1]) if cauls else 0.0

    def _sheet_m2(self, blank_mm: float) -> float:
        """Area of sheets and veneers for the whole job, clean-up included."""
        lies, pieces = self.on_form, self.job.part.count + self.job.part.spares
        sheets = self.job.build_up.count - len(self.sawn_mm)
        return lies.strips(sheets, pieces) * lies.strip_wide_mm * blank_mm * 1e-6

    def glue_g(self, lines: Lines, blank_mm: float) -> Lines:
        """Grams of glue for all pieces and spares. lines: of glue, a count or an array of counts."""
        lies, pieces = self.on_form, self.job.part.count + self.job.part.spares
        one: Lines = glue_mass_g(
            glue_lines=lines,
            width_mm=lies.strip_wide_mm,
            length_mm=blank_mm,
            spread_g_m2=self.glue.spread_g_m2,
            waste=self.shop.glue_waste_pct / 100,
        )
        all_pieces: Lines = one * lies.strips(1, pieces)
        return all_pieces

    # -- the ladder ------------------------------------------------------------------------------------------------
    def rungs(self, bend: Bend) -> tuple[LayupOption, ...]:
        """Every lay-up of equal laminae worth thinking of; none for a job built up layer by layer, or of two nested."""
        if self.job.build_up.lay_up == "layers" or self.job.build_up.tape_after:
            return ()
        rows = lay_ups_to_try(self.job, self.shop)
        return ladder(
            StripTableInput(
                job=self.job,
                shop=self.shop,
                rows=rows,
                layups=stepped(rows, self.wood.moe_mpa, 1),
                breaking_strain=self.wood.breaking_strain * self._grain,
                target=bend.target,
                blank_mm=bend.blank.length_mm,
                loss_ratio=0.0 if self.job.shape.is_closed else bend.loss_ratio.likely,
                hot_set=self._hot_set(tuple(row[1] for row in rows)),
                glue_g=self.glue_g(np.array([row[0] - 1 for row in rows]), bend.blank.length_mm),
            )
        )

    def predicted_anew(self, form: Array, *, wanted: Array, stated: Array) -> Array | None:
        """Only strips that keep some of the bend before they are glued follow another law than they did."""
        law = self.law
        sets = isinstance(law, SteamedThenGlued) or (isinstance(law, Glued) and law.layup.yields is not None)
        return law.release(form) if sets else None

    def _hot_set(self, thickness_mm: tuple[float, ...]) -> tuple[float, Array] | None:
        """Yield strain of strips so thick that are bent hot first, and ρ of each; none where they go on as they are."""
        return None

    # -- what is said ----------------------------------------------------------------------------------------------
    def findings(self, at: CheckContext[M]) -> list[Finding]:
        return found(self.checks, at.of(self.glued(at.make)))

    def cautions(self, make: M) -> tuple[str, ...]:
        return (*caution.gluing(self.glue, min(self.sawn_mm, default=math.inf)), caution.CARRIES, caution.FIRST)

    def operations(self, bend: Bend, make: M, form: FormSketch) -> tuple[Operation, ...]:
        return gluing(self.job, self.shop, bend, self.glued(make), form)

    def lies_on(self, make: M, form: FormSketch) -> tuple[Section, ...]:
        return (pressed_section(self.job, self.glued(make), form, self.caul_mm),)

    @abstractmethod
    def needs(self, make: M, form: FormSketch) -> tuple[str, ...]: ...

    def _pressed(self, form: FormSketch) -> str:
        """What presses it, in words."""
        press = self.job.build_up.press
        return {"vacuum": "a vacuum bag and pump", "band": "a band clamp"}.get(press, f"about {form.clamps} F-clamps")

    @property
    def assumptions(self) -> tuple[str, ...]:
        return (
            "Strips slide freely on each other until the glue sets; after that the glue lines carry the full load.",
            f"Stiffness and strength of {self.wood.said} at 12 % moisture: {self.wood.stiffness_source}.",
            "Springback is taken as the same along the bend; width, twist and end effects are left out.",
            "Breaking strain is strength ÷ stiffness, on the safe side for dry bending.",
        )

    @property
    def source(self) -> tuple[Grade, str]:
        return self.wood.stiffness_grade, self.wood.stiffness_source
