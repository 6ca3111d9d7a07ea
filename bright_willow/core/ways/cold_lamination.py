"""Cold lamination: thin strips bent dry, glued to one another on a form."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import Any, Literal

import numpy as np

from ..arrays import Array
from ..findings import Level
from ..job import Job, Layer, layers_fit
from ..learning.experience import group_of
from ..plan_parts import Rung
from ..shape.curve import tip_distance_mm
from ..shop.adhesive import Adhesive, adhesive, glue_mass_g
from ..shop.shop import Shop
from ..shop.stock_use import Cutting, StockUse, stock_use, stock_use_of_layers
from ..wood.grain import grain_factor
from ..wood.sheets import sheet_table
from ..wood.species import Species, species
from .layup import Layup

Feel = Literal["easy", "firm", "risky", "expect breaks"]
# Use of strain up to which a lamina bends so. Grade: allowance. Source: docs/model.md#cold-lamination.
FEEL: tuple[tuple[float, Feel], ...] = ((0.5, "easy"), (0.7, "firm"), (0.9, "risky"))
GOOD_USE = 0.7
GOOD_LOSS = 0.05  # a rung is good when it loses no more than this share of its curvature
MOST_RUNGS = 24  # or as many as are chosen
THINNEST_RUNG_MM = 0.5
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
        wood, glue = species(job.stock.species), adhesive(job.build_up.adhesive)
        slope = grain_factor(job.stock.grain_slope)
        if job.build_up.lay_up == "equal":
            layup = _equal(job.build_up.laminae, job.part.thickness_mm, wood.moe_mpa)
            count = job.build_up.laminae
            return cls(
                job, shop, wood, glue, layup, (wood.name,) * count, np.full((count, 1), wood.breaking_strain * slope)
            )
        layers_fit(job)
        rows = [_layer(layer, slope) for layer in job.build_up.layers]
        thickness, modulus, start, limit = (np.array([row[i] for row in rows]) for i in range(4))
        names = tuple(row[4] for row in rows)
        return cls(job, shop, wood, glue, Layup(thickness, modulus, start), names, limit[:, None])

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
        return self.wood.breaking_strain * grain_factor(self.job.stock.grain_slope)

    @property
    def sawn_mm(self) -> list[float]:
        """Thicknesses of the layers that are sawn, not bought as sheets or (layer by layer, under 1 mm) as veneer."""
        if self.job.build_up.lay_up == "equal":
            return [float(t) for t in self.layup.thickness_mm]
        layers, sheets = self.job.build_up.layers, sheet_table()
        return [x.thickness_mm for x in layers if x.material not in sheets and x.thickness_mm >= VENEER_MM]

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
        if self.job.build_up.lay_up == "equal":
            return stock_use(self.job.build_up.laminae, cut)
        return stock_use_of_layers(self.sawn_mm, cut)

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
        """Every lay-up of equal laminae worth thinking of, from two up. All are answered in one sweep.

        lengths_mm, target: (n,) the finished mid-line. The form of each rung is the target bent further by its own
        loss; strain is taken on that form.
        """
        total = self.job.part.thickness_mm
        most = max(int(min(MOST_RUNGS, max(2, total / THINNEST_RUNG_MM))), self.job.build_up.laminae)
        tight = int(np.argmax(np.abs(target)))
        ladder = _ladder(most, total, self.wood.moe_mpa)
        counts = np.arange(1, most + 1)
        kept = 1 - loss_ratio / counts**2
        workable = kept > 0.1
        form = target / np.where(workable, kept, 1.0)[:, None]
        # one step of κ_f ← target + k·loss(κ_f): it shrinks an error of some (T/R)² by k/n²
        form = np.where(workable[:, None], target + form - ladder.release(form, loss_ratio=loss_ratio), form)
        lost = form - target
        tips = tip_distance_mm(lengths_mm, form, target)
        use = ladder.strain(form[:, tight : tight + 1]).max(axis=(-1, -2)) / self.breaking_strain
        loss = lost[:, tight] / form[:, tight]
        stock = stock_use(counts, self._cutting(float(lengths_mm.sum()), blank_length_mm))
        taken = (stock.board_width_per_piece_mm, stock.volume_m3, stock.times_finished, stock.kerf_share)
        glue = self.glue_for(counts, blank_length_mm=blank_length_mm)
        columns = (np.asarray(c).tolist() for c in (workable, counts, use, loss, tips, *taken, glue))
        return tuple(self._rung(*row) for can, *row in zip(*columns, strict=True) if can and row[0] > 1)

    def _rung(
        self,
        n: int,
        use: float,
        loss: float,
        tip: float,
        board: float,
        wood: float,
        times: float,
        kerf: float,
        glue: float,
    ) -> Rung:
        feel, thickness = feel_of(use), self.job.part.thickness_mm / n
        good = use < GOOD_USE and loss <= GOOD_LOSS and thickness >= self.shop.thinnest_mm - 1e-9
        level: Level = "stop" if feel == "expect breaks" else "fit" if good else "watch"
        chosen = n == self.job.build_up.laminae
        return Rung(n, thickness, use, feel, level, loss, tip, board, wood, times, kerf, glue, chosen, good)


def _layer(layer: Layer, slope: float) -> tuple[float, float, float, float, str]:
    """Thickness, modulus, starting curvature, strain it stands, and name of a layer."""
    start = 1 / layer.bent_radius_mm if layer.bent_radius_mm else 0.0
    sheet = sheet_table().get(layer.material)
    if sheet is not None:
        return layer.thickness_mm, sheet.e_along_bend_gpa * 1000, start, sheet.least_bend_strain, sheet.name
    wood = species(layer.material)
    return layer.thickness_mm, wood.moe_mpa, start, wood.breaking_strain * slope, wood.name


@lru_cache(maxsize=32)
def _equal(laminae: int, total_mm: float, modulus_mpa: float) -> Layup:
    return Layup.equal(laminae=laminae, total_mm=total_mm, modulus_mpa=modulus_mpa)


@lru_cache(maxsize=32)
def _ladder(most: int, total_mm: float, modulus_mpa: float) -> Layup:
    """The ladder of a part; its stiffness is worked out once, whatever is done to the curve."""
    return Layup.ladder(most=most, total_mm=total_mm, modulus_mpa=modulus_mpa)
