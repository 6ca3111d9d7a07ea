"""Cold lamination: thin strips bent dry, glued to one another on a form."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import Any, Literal

import numpy as np

from ..arrays import Array
from ..findings import Level
from ..job import Job
from ..learning.experience import group_of
from ..plan_parts import Rung
from ..shape.curve import tip_distance_mm
from ..shop.adhesive import Adhesive, adhesive, glue_mass_g
from ..shop.shop import Shop
from ..shop.stock_use import StockUse, stock_use
from ..wood.grain import grain_factor
from ..wood.species import Species, species
from .layup import Layup

Feel = Literal["easy", "firm", "risky", "expect breaks"]
# Use of strain up to which a lamina bends so. Grade: allowance. Source: docs/model.md#cold-lamination.
FEEL: tuple[tuple[float, Feel], ...] = ((0.5, "easy"), (0.7, "firm"), (0.9, "risky"))
GOOD_USE = 0.7
GOOD_LOSS = 0.05  # a rung is good when it loses no more than this share of its curvature
MOST_RUNGS = 24  # or as many as are chosen
THINNEST_RUNG_MM = 0.5


def feel_of(use: float) -> Feel:
    """How a lamina goes onto the form at this use of strain. Grade: allowance."""
    return next((word for limit, word in FEEL if use < limit), "expect breaks")


@dataclass(frozen=True, eq=False)
class ColdLamination:
    """Equal flat laminae of one wood, set up for a job."""

    job: Job
    shop: Shop
    wood: Species
    glue: Adhesive
    layup: Layup

    @classmethod
    def for_job(cls, job: Job, shop: Shop) -> ColdLamination:
        """Raises: OutOfRange for a wood or glue that is not in the tables."""
        wood = species(job.stock.species)
        layup = _equal(job.build_up.laminae, job.part.thickness_mm, wood.moe_mpa)
        return cls(job, shop, wood, adhesive(job.build_up.adhesive), layup)

    @property
    def group(self) -> str:
        return group_of(species_key=self.wood.key, creep=self.glue.creep)

    @property
    def breaking_strain(self) -> float:
        """MOR/E of the wood, times the grain factor."""
        return self.wood.breaking_strain * grain_factor(self.job.stock.grain_slope)

    def release(self, form_curvature: Array, *, loss_ratio: float | Array = 1.0) -> Array:
        return self.layup.release(form_curvature, loss_ratio=loss_ratio)

    def form_curvature_for(self, target: Array, *, loss_ratio: float = 1.0) -> Array:
        return self.layup.form_curvature_for(target, loss_ratio=loss_ratio)

    def settled(self, released: Array) -> Array:
        """κ∞ = κ₁ (1 − settle). Grade: allowance, by kind of glue."""
        return np.asarray(released * (1 - self.glue.settle_pct / 100))

    def stock_for(self, laminae: Any, *, part_length_mm: float, blank_length_mm: float) -> StockUse:
        """Wood for the whole job cut into so many laminae each; counts may be an array."""
        part, shop = self.job.part, self.shop
        return stock_use(
            laminae=laminae,
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
        stock = self.stock_for(counts, part_length_mm=float(lengths_mm.sum()), blank_length_mm=blank_length_mm)
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


@lru_cache(maxsize=32)
def _equal(laminae: int, total_mm: float, modulus_mpa: float) -> Layup:
    return Layup.equal(laminae=laminae, total_mm=total_mm, modulus_mpa=modulus_mpa)


@lru_cache(maxsize=32)
def _ladder(most: int, total_mm: float, modulus_mpa: float) -> Layup:
    """The ladder of a part; its stiffness is worked out once, whatever is done to the curve."""
    return Layup.ladder(most=most, total_mm=total_mm, modulus_mpa=modulus_mpa)
