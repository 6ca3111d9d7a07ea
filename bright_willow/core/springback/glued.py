"""Laws of what is glued: a lay-up, one whose laminae were bent hot first, and a ring that cannot open."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..common.arrays import Array
from ..common.errors import PlanError, check_range
from .hot_set import hot_start
from .layup import Layup


@dataclass(frozen=True, eq=False)
class Glued:
    """A lay-up that was flat when it was glued."""

    layup: Layup

    def release(self, form_curvature: Array, *, loss_ratio: float | Array = 1.0) -> Array:
        return self.layup.release(form_curvature, loss_ratio=loss_ratio)

    def form_curvature_for(self, target: Array, *, loss_ratio: float = 1.0) -> Array:
        return self.layup.form_curvature_for(target, loss_ratio=loss_ratio)

    def over(self, cells: Array) -> Glued:
        return self

    def on(self, form_curvature: Array) -> Layup:
        """The lay-up as it is laid on a form: its laminae as they come."""
        return self.layup


@dataclass(frozen=True, eq=False)
class SteamedThenGlued:
    """Laminae steamed, bent to the form and dried there, each keeping what hot wood of its thickness keeps; then glued
    on the same form.

    flat: the layup of the strips as they were cut; yield_strain: ε_y of hot wood; share_left: ρ of each strip when it
    comes off its form dry, (n,) or one for all. Source: docs/model.md#steamed-laminae.
    """

    flat: Layup
    yield_strain: float
    share_left: float | Array

    def __post_init__(self) -> None:
        check_range("heat", self.yield_strain, 0, 1.0, above=True)

    def on(self, form_curvature: Array) -> Layup:
        """The lay-up as it is glued: every lamina with the curvature it dried to on that form (n, N)."""
        own = self.flat.lamina_curvature(form_curvature)  # inside of the stack a lamina is bent tighter than outside
        kept = hot_start(own, self.flat.thickness_mm, yield_strain=self.yield_strain, share_left=self.share_left)
        return self.flat.starting(kept)

    def release(self, form_curvature: Array, *, loss_ratio: float | Array = 1.0) -> Array:
        """What it opens to: the lay-up law of laminae that start with what each kept. Raises: PlanError.

        >>> two = Layup(np.full(2, 5.0), np.full(2, 12_000.0), np.zeros(2))
        >>> SteamedThenGlued(two, 0.0042, 1.0).release(np.array([0.0015])).round(6)  # elastic: as if it were flat
        array([0.001125])
        """
        return self.on(form_curvature).release(form_curvature, loss_ratio=loss_ratio)

    def form_curvature_for(self, target: Array, *, loss_ratio: float = 1.0) -> Array:
        """κ_f ← κ + what κ_f loses, until it stands still: the loss hardly changes with the bend once laminae keep most
        of it. Raises: PlanError where it does not settle."""
        form = np.array(target, dtype=float)
        near = 1e-13 + 1e-11 * float(np.abs(target).max())
        for _ in range(80):
            missed = self.release(form, loss_ratio=loss_ratio) - target
            form = form - missed
            if float(np.abs(missed).max()) <= near:
                return form
        raise PlanError(
            "build_up.laminae",
            "Too few strips: they keep so little of the bend that no form can make up for it.",
            hint="Use more, thinner strips.",
        )

    def over(self, cells: Array) -> SteamedThenGlued:
        return self


@dataclass(frozen=True, eq=False)
class ClosedRing:
    """A ring glued all round: it cannot open, so the round form has the size wanted. Source: statics of a closed ring.

    of: the law its strips would follow if it were open, which knows what curvature they come with.
    """

    of: Glued | SteamedThenGlued

    def release(self, form_curvature: Array, *, loss_ratio: float | Array = 1.0) -> Array:
        return np.asarray(form_curvature + 0.0 * np.asarray(loss_ratio))

    def form_curvature_for(self, target: Array, *, loss_ratio: float = 1.0) -> Array:
        return np.asarray(target)

    def settled(self, released: Array) -> Array:
        return np.asarray(released)

    def over(self, cells: Array) -> ClosedRing:
        return self

    def on(self, form_curvature: Array) -> Layup:
        """The layup as it is laid on a form, with the curvature its strips already have."""
        return self.of.on(form_curvature)
