"""Cold lamination: thin strips bent dry, glued to one another on a form."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any, Literal

import numpy as np

from ..experience.belief import group_of
from ..ground.arrays import Array
from ..ground.findings import Level
from ..job.job import Job, Layer, last_lamina_mm, layers_fit
from ..laws.hot_set import SET_STRAIN, SetLaw
from ..laws.layup import Layup
from ..plan.result import Rung
from ..shape.curve import Curve, tip_distance_mm
from ..shop.adhesive import Adhesive, adhesive, glue_mass_g
from ..shop.shop import Shop
from ..shop.stock_use import Cutting, StockUse, stock_use, stock_use_of_layers
from ..wood.grain import wood_factor
from ..wood.sheet_cutting import SheetCut, sheet_cut
from ..wood.sheets import sheet_table, veneer_leaf
from ..wood.species import OwnWood, Species, species

Feel = Literal["easy", "firm", "risky", "expect breaks"]
# Use of strain up to which a lamina bends so. Grade: allowance. Source: docs/model.md#cold-lamination.
FEEL: tuple[tuple[float, Feel], ...] = ((0.5, "easy"), (0.7, "firm"), (0.9, "risky"))
GOOD_USE = 0.7
GOOD_LOSS = 0.05  # a rung is good when it loses no more than this share of its curvature
MOST_RUNGS = 24  # or as many as are chosen
THINNEST_RUNG_MM = 0.5
ACROSS_STIFF = 0.07  # of the stiffness along the grain, for wood laid across. Grade: allowance, from elastic ratios.
ACROSS_STRAIN = 0.005  # that wood across the grain, or a sheet the way it does not roll, stands. Grade: allowance.
VENEER_MM = 1.0  # thinner wood is bought as veneer


def feel_of(use: float) -> Feel:
    """How a lamina goes onto the form at this use of strain. Grade: allowance."""
    return next((word for limit, word in FEEL if use < limit), "expect breaks")


@dataclass(frozen=True, eq=False)
class ColdLamination:
    """Laminae of wood, sheets, or both, set up for a job.

    materials: name of each layer; limits: (n, 1) strain each stands, breaking strain of a wood or what a sheet shows at
    its least radius.
    """

    job: Job
    shop: Shop
    wood: Species
    glue: Adhesive
    layup: Layup
    materials: tuple[str, ...]
    limits: Array

    @classmethod
    def for_job(cls, job: Job, shop: Shop) -> ColdLamination:
        """Raises: OutOfRange for a wood, sheet or glue that is not in the tables, or layers that do not add up."""
        wood, glue = species(job.stock.species, shop.woods), adhesive(job.build_up.adhesive)
        slope = wood_factor(job.stock.grain_slope, figured=job.stock.figured)
        layers_fit(job, shop.woods)
        if job.build_up.lay_up == "equal":
            count, last = job.build_up.laminae, last_lamina_mm(job)
            layup = _stepped(((count, job.build_up.lamina_mm or last, last),), wood.moe_mpa, 0)
            return cls(
                job, shop, wood, glue, layup, (wood.name,) * count, np.full((count, 1), wood.breaking_strain * slope)
            )
        rows = [_layer(layer, slope, shop.woods) for layer in job.build_up.layers]
        thickness, modulus, start, limit = (np.array([row[i] for row in rows]) for i in range(4))
        names = tuple(row[4] for row in rows)
        return cls(job, shop, wood, glue, Layup(thickness, modulus, start), names, limit[:, None])

    def bent_hot_first(self, target: Curve) -> ColdLamination:
        """The same laminae, each steamed, bent to the form and dried there before they are glued.

        Each keeps the curvature of the form less d/t, by the law of hot wood; with that start the form that releases to
        the target is found again, until both agree. Raises: OutOfRange. Source: docs/model.md#steamed-laminae.
        """
        t = self.layup.thickness_mm
        k_form = np.array(target.curvature)
        start = np.zeros((t.size, k_form.size))
        for _ in range(6):
            start = np.stack([SetLaw(float(each), SET_STRAIN["free"].likely).release(k_form) for each in t])
            bent = replace(self, layup=Layup(t, self.layup.modulus_mpa, start))
            k_form = bent.form_curvature_for(target.curvature)
        return replace(self, layup=Layup(t, self.layup.modulus_mpa, start))

    @property
    def group(self) -> str:
        """Species and class of glue; lay-ups with sheets, and of several woods, are learnt apart."""
        key = self.wood.key
        if self.job.build_up.lay_up == "layers":
            kinds = {layer.material for layer in self.job.build_up.layers}
            sheets = kinds & set(sheet_table())
            key = "sheets" if sheets else next(iter(kinds)) if len(kinds) == 1 else "mixed"
        return group_of(species_key=key, creep=self.glue.creep)

    @property
    def breaking_strain(self) -> float:
        """MOR/E of the wood of the stock, times the grain factor."""
        factor = wood_factor(self.job.stock.grain_slope, figured=self.job.stock.figured)
        return self.wood.breaking_strain * factor

    @property
    def sawn_mm(self) -> list[float]:
        """Thicknesses of the layers that are sawn, not bought as sheets or (layer by layer, under 1 mm) as veneer."""
        if self.job.build_up.lay_up == "equal":
            return [float(t) for t in self.layup.thickness_mm]
        return [x.thickness_mm for x in self.job.build_up.layers if not self._is_bought(x)]

    def _cutting(self, part_length_mm: float, blank_length_mm: float) -> Cutting:
        part, shop = self.job.part, self.shop
        return Cutting(
            total_mm=part.thickness_mm,
            width_mm=part.width_mm,
            finished_length_mm=part_length_mm,
            blank_length_mm=blank_length_mm,
            pieces=part.count,
            spares=part.spares,
            kerf_mm=shop.kerf_mm,
            planing_mm=shop.planing_mm,
            clean_up_mm=shop.clean_up_mm,
        )

    def stock(self, *, part_length_mm: float, blank_length_mm: float) -> StockUse:
        """Wood for the whole job as it is built up."""
        cut = self._cutting(part_length_mm, blank_length_mm)
        if self.job.build_up.lay_up == "equal" and self.job.build_up.lamina_mm is None:
            return stock_use(self.job.build_up.laminae, cut)
        return stock_use_of_layers(self.sawn_mm, cut)

    def sheet_cuts(self, *, blank_length_mm: float) -> tuple[SheetCut, ...]:
        """How the layers that are sheets or veneer come out of what is bought; one for each kind."""
        if self.job.build_up.lay_up == "equal":
            return ()
        part, sheets, layers = self.job.part, sheet_table(), self.job.build_up.layers
        bought = [sheets.get(x.material, veneer_leaf()) for x in layers if self._is_bought(x)]
        return tuple(
            sheet_cut(
                sheet,
                layers=bought.count(sheet),
                pieces=part.count + part.spares,
                length_mm=blank_length_mm,
                width_mm=part.width_mm + self.shop.clean_up_mm,
                kerf_mm=self.shop.kerf_mm,
            )
            for sheet in dict.fromkeys(bought)
        )

    @staticmethod
    def _is_bought(layer: Layer) -> bool:
        return layer.material in sheet_table() or layer.thickness_mm < VENEER_MM

    def sheet_m2(self, *, blank_length_mm: float) -> float:
        """Area of sheets and veneers for the whole job, clean-up included."""
        part, sheets = self.job.part, self.job.build_up.count - len(self.sawn_mm)
        return sheets * (part.count + part.spares) * (part.width_mm + self.shop.clean_up_mm) * blank_length_mm * 1e-6

    def release(self, form_curvature: Array, *, loss_ratio: float | Array = 1.0) -> Array:
        return self.layup.release(form_curvature, loss_ratio=loss_ratio)

    def form_curvature_for(self, target: Array, *, loss_ratio: float = 1.0) -> Array:
        return self.layup.form_curvature_for(target, loss_ratio=loss_ratio)

    def settled(self, released: Array) -> Array:
        """κ∞ = κ₁ (1 − settle). Grade: allowance, by kind of glue."""
        return np.asarray(released * (1 - self.glue.settle_pct / 100))

    def glue_for(self, laminae: Any, *, blank_length_mm: float) -> Any:
        """Grams of glue for all pieces and spares."""
        part = self.job.part
        one = glue_mass_g(
            glue_lines=laminae - 1,
            width_mm=part.width_mm + self.shop.clean_up_mm,
            length_mm=blank_length_mm,
            spread_g_m2=self.glue.spread_g_m2,
            waste=self.shop.glue_waste_pct / 100,
        )
        return one * (part.count + part.spares)

    def rungs(self, *, lengths_mm: Array, target: Array, blank_length_mm: float, loss_ratio: float) -> tuple[Rung, ...]:
        """Every lay-up of equal laminae worth thinking of, from two up, and those of the thicknesses the shop makes
        with what is left as a thinner last one. All are answered in one sweep.

        lengths_mm, target: (n,) the finished mid-line. The form of each rung is the target bent further by its own
        loss; strain is taken on that form.
        """
        rows = self._rows()
        tight = int(np.argmax(np.abs(target)))
        ladder = _stepped(rows, self.wood.moe_mpa, 1)
        counts = np.array([row[0] for row in rows])
        kept = 1 - loss_ratio * (ladder.thickness_mm**3).sum(-1) / ladder.total_mm**3
        workable = kept > 0.1
        form = target / np.where(workable, kept, 1.0)[:, None]
        # one step of κ_f ← target + k·loss(κ_f): it shrinks an error of some (T/R)² by the share lost
        form = np.where(workable[:, None], target + form - ladder.release(form, loss_ratio=loss_ratio), form)
        lost = form - target
        tips = tip_distance_mm(lengths_mm, form, target)
        use = ladder.strain(form[:, tight : tight + 1]).max(axis=(-1, -2)) / self.breaking_strain
        loss = lost[:, tight] / form[:, tight]
        stock = stock_use(counts, self._cutting(float(lengths_mm.sum()), blank_length_mm))
        taken = (stock.board_width_per_piece_mm, stock.volume_m3, stock.times_finished, stock.kerf_share)
        glue = self.glue_for(counts, blank_length_mm=blank_length_mm)
        columns = (np.asarray(c).tolist() for c in (workable, use, loss, tips, *taken, glue))
        made = zip(rows, *columns, strict=True)
        return tuple(self._rung(lay_up, *row) for lay_up, can, *row in made if can)

    def _rows(self) -> tuple[tuple[int, float, float], ...]:
        """(count, thickness, last) of the lay-ups to try, by count."""
        total, build_up = self.job.part.thickness_mm, self.job.build_up
        most = max(int(min(MOST_RUNGS, max(2, total / THINNEST_RUNG_MM))), build_up.laminae)
        rows = {(n, total / n, total / n) for n in range(2, most + 1)}
        made = {*self.shop.thicknesses_mm, *([build_up.lamina_mm] if build_up.lamina_mm else [])}
        for each in made:
            count = math.ceil(total / each - 1e-6)
            last = total - (count - 1) * each
            if 2 <= count <= 120 and 0.2 <= last < each - 0.01:
                rows.add((count, each, last))
        if build_up.lamina_mm:
            rows.add((build_up.laminae, build_up.lamina_mm, last_lamina_mm(self.job)))
        return tuple(sorted(rows))

    def _rung(
        self,
        lay_up: tuple[int, float, float],
        use: float,
        loss: float,
        tip: float,
        board: float,
        wood: float,
        times: float,
        kerf: float,
        glue: float,
    ) -> Rung:
        n, thickness, last = lay_up
        feel, thinnest = feel_of(use), min(thickness, last)
        good = use < GOOD_USE and loss <= GOOD_LOSS and thinnest >= self.shop.thinnest_mm - 1e-9
        level: Level = "stop" if feel == "expect breaks" else "fit" if good else "watch"
        step = None if last == thickness else thickness
        own = self.job.build_up.lamina_mm
        chosen = n == self.job.build_up.laminae and (step == own or bool(step and own and abs(step - own) < 1e-6))
        return Rung(n, thickness, last, step, use, feel, level, loss, tip, board, wood, times, kerf, glue, chosen, good)


def _layer(layer: Layer, slope: float, woods: tuple[OwnWood, ...]) -> tuple[float, float, float, float, str]:
    """Thickness, modulus, starting curvature, strain it stands, and name of a layer."""
    start = 1 / layer.bent_radius_mm if layer.bent_radius_mm else 0.0
    sheet = sheet_table().get(layer.material)
    across = layer.grain == "across"
    if sheet is not None:
        modulus = sheet.e_across_gpa if across else sheet.e_along_bend_gpa
        return (
            layer.thickness_mm,
            modulus * 1000,
            start,
            ACROSS_STRAIN if across else sheet.least_bend_strain,
            sheet.name,
        )
    wood = species(layer.material, woods)
    if across:
        return layer.thickness_mm, wood.moe_mpa * ACROSS_STIFF, start, ACROSS_STRAIN, f"{wood.name}, across"
    return layer.thickness_mm, wood.moe_mpa, start, wood.breaking_strain * slope, wood.name


@lru_cache(maxsize=64)
def _stepped(rows: tuple[tuple[int, float, float], ...], modulus_mpa: float, axes: int) -> Layup:
    """Lay-ups of a part, all rows at once (axes 1) or the only one (axes 0); their stiffness is worked out once,
    whatever is done to the curve."""
    made = Layup.stepped(rows, modulus_mpa=modulus_mpa)
    return made if axes else Layup(made.thickness_mm[0], made.modulus_mpa[0], made.start_curvature[0])
