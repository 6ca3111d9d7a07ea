"""Cold lamination: thin strips bent dry, glued to one another on a form."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..arrays import Array
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
MOST_RUNGS = 40
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
        layup = Layup.equal(laminae=job.build_up.laminae, total_mm=job.part.thickness_mm, modulus_mpa=wood.moe_mpa)
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

    def stock_for(self, laminae: int, *, part_length_mm: float, blank_length_mm: float) -> StockUse:
        """Wood for the whole job cut into so many laminae each."""
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

    def glue_for(self, laminae: int, *, blank_length_mm: float) -> float:
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
        most = int(min(MOST_RUNGS, max(2, total / THINNEST_RUNG_MM)))
        most = max(most, self.job.build_up.laminae)
        tight = int(np.argmax(np.abs(target)))
        ladder = Layup.ladder(most=most, total_mm=total, modulus_mpa=self.wood.moe_mpa)
        rungs_target = np.broadcast_to(target, (most, target.size))
        kept = 1 - loss_ratio / np.arange(1, most + 1) ** 2
        workable = kept > 0.1
        form = rungs_target / np.where(workable, kept, 1.0)[:, None]
        for _ in range(3):  # a few steps of κ_f ← target + k·loss(κ_f), each shrinking the error by k/n²
            lost = form - ladder.release(form, loss_ratio=loss_ratio)
            form = np.where(workable[:, None], rungs_target + lost, form)
        lost = form - rungs_target
        tips = tip_distance_mm(lengths_mm, form, rungs_target)
        use = ladder.strain(form[:, tight : tight + 1]).max(axis=(-1, -2)) / self.breaking_strain
        made = []
        for n in range(2, most + 1):
            i = n - 1
            if not workable[i]:
                continue
            stock = self.stock_for(n, part_length_mm=float(lengths_mm.sum()), blank_length_mm=blank_length_mm)
            feel, loss = feel_of(float(use[i])), float(lost[i, tight] / form[i, tight])
            thin = total / n < self.shop.thinnest_mm
            good = float(use[i]) < GOOD_USE and loss <= GOOD_LOSS and not thin
            made.append(
                Rung(
                    laminae=n,
                    thickness_mm=total / n,
                    use_of_strain=float(use[i]),
                    feel=feel,
                    level="stop" if feel == "expect breaks" else "fit" if good else "watch",
                    loss_share=loss,
                    tip_mm=float(tips[i]),
                    board_width_per_piece_mm=stock.board_width_per_piece_mm,
                    stock_m3=stock.volume_m3,
                    stock_times=stock.times_finished,
                    kerf_share=stock.kerf_share,
                    glue_g=self.glue_for(n, blank_length_mm=blank_length_mm),
                    chosen=n == self.job.build_up.laminae,
                    good=good,
                )
            )
        return tuple(made)
