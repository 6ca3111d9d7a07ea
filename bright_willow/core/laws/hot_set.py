"""What hot wood keeps of a bend: the elastic–plastic law, and its inverse."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from ..ground.arrays import Array
from ..ground.errors import ENDLESS, require
from ..ground.estimate import Estimate

# Set strain d: on release a bend loses the curvature d/T, whatever the bend. Grade: allowance, then learned.
# Source: docs/model.md#springback-of-hot-wood.
SET_STRAIN: dict[str, Estimate] = {
    "strap": Estimate(0.005, 0.008, 0.013, "allowance"),
    "free": Estimate(0.007, 0.012, 0.018, "allowance"),
    "dry": Estimate(0.003, 0.006, 0.010, "allowance"),
}
EARLY_TIMES = 1.5  # taken off before it is dry
STRAIGHT = 1e-7


@dataclass(frozen=True, eq=False)
class SetLaw:
    """Hot wood of a thickness with a set strain, from a starting curvature (0 for straight stock).

    start: curvature before the bend, one figure or one for each station, 1/mm. Valid: thickness and set strain above 0.
    Raises: OutOfRange. Source: docs/model.md#springback-of-hot-wood.

    >>> bool(abs(1 / SetLaw(20.0, 0.008).release(np.array([1 / 200]))[0] - 217.39) < 0.01)
    True
    """

    thickness_mm: float
    set_strain: float
    start: Array | float = 0.0

    def __post_init__(self) -> None:
        says = "A piece has a thickness above zero."
        require("part.thickness_mm", self.thickness_mm, 0, ENDLESS, "mm", above=True, says=says)
        require("part.thickness_mm", self.set_strain, 0, 1.0, above=True, says=says)

    @property
    def lost(self) -> float:
        """Curvature lost on release, d/T, 1/mm."""
        return self.set_strain / self.thickness_mm

    def release(self, form_curvature: Array, *, loss_ratio: float | Array = 1.0) -> Array:
        """κ₁ = κ_f − sign(κ_f − κ₀) k d/T, and κ₀ again where |κ_f − κ₀| ≤ k d/T: nothing is kept there.

        Valid: finite curvature. Raises: OutOfRange. Source: an elastic–ideally plastic bar;
        docs/model.md#springback-of-hot-wood. Grade: allowance, then learned.

        >>> SetLaw(20.0, 0.008).release(np.array([0.005, 0.0003]))
        array([0.0046, 0.    ])
        """
        require("shape", float(np.abs(form_curvature).max()), 0, ENDLESS, "1/mm")
        bent = form_curvature - self.start
        loss = np.asarray(loss_ratio) * self.lost
        kept = np.sign(bent) * np.maximum(np.abs(bent) - loss, 0.0)
        return np.asarray(self.start + kept)

    def form_curvature_for(self, target: Array, *, loss_ratio: float = 1.0) -> Array:
        """The form that releases to the target: κ_f = κ + sign(κ − κ₀) k d/T; a stretch that is to stay stays.

        Exact inverse of `release` wherever the target differs from the start. Raises: OutOfRange for a ratio below 0.

        >>> SetLaw(20.0, 0.008).form_curvature_for(np.array([0.0046, 0.0]))
        array([0.005, 0.   ])
        """
        require("form.school", loss_ratio, 0, ENDLESS, says="A springback below zero cannot be planned for.")
        require("shape", float(np.abs(target).max()), 0, ENDLESS, "1/mm")
        change = target - self.start
        moved = np.where(np.abs(change) > STRAIGHT, np.sign(change), 0.0)
        return np.asarray(target + moved * loss_ratio * self.lost)

    def over(self, cells: Array) -> SetLaw:
        """The same wood where it starts bent: each of those cells with the curvature it has before the bend."""
        return replace(self, start=self.start[cells]) if isinstance(self.start, np.ndarray) else self


def block_height_mm(*, curvature: float, span_mm: float) -> float:
    """Height of a block in the middle of a span that bends a bar to a curvature: κ L² / 8.

    Valid: any finite curvature, 1/mm; a span above 0. Raises: OutOfRange. Source: geometry.

    >>> round(block_height_mm(curvature=0.0004, span_mm=600), 1)
    18.0
    """
    require("heat.span_mm", span_mm, 0, ENDLESS, "mm", above=True)
    require("shape", abs(curvature), 0, 1.0, "1/mm")
    return abs(curvature) * span_mm**2 / 8


def hot_start(own_curvature: Array, thickness_mm: Array, set_strain: float) -> Array:
    """(..., n, N) curvature that laminae bent hot to their own curvature on a form keep: sign(κ) · max(|κ| − d/t, 0).

    own_curvature: (..., n, N), of each lamina's own middle. thickness_mm: (..., n), 0 for a lamina that is not there,
    which keeps nothing. Valid: finite curvature, 1/mm; set strain above 0. Raises: OutOfRange.
    Source: docs/model.md#steamed-laminae. Grade: allowance on physics.

    >>> hot_start(np.array([[0.01]]), np.array([5.0]), 0.012)
    array([[0.0076]])
    """
    require("heat", set_strain, 0, 1.0, above=True)
    require("build_up.lamina_mm", float(thickness_mm.min()), 0, ENDLESS, "mm")
    require("shape", float(np.abs(own_curvature).max()), 0, ENDLESS, "1/mm")
    with np.errstate(divide="ignore"):
        lost = np.where(thickness_mm > 0, set_strain / thickness_mm, np.inf)[..., :, None]
    return np.asarray(np.sign(own_curvature) * np.maximum(np.abs(own_curvature) - lost, 0.0))
