"""Springback of hot wood: the elastic–plastic law with the share of its moment that is left at release."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TypeVar

import numpy as np

from ..common.arrays import Array
from ..common.errors import ENDLESS, check_range

Numbers = TypeVar("Numbers", float, Array)

# Strain at which hot wood starts to yield, by how it is bent. Chosen so that the law gives what benders find.
# Grade: allowance. Source: docs/model.md#springback-of-hot-wood.
YIELD_STRAIN = {"strap": 0.0035, "free": 0.0042, "dry": 0.0040}
STRAIGHT = 1e-7  # change of curvature below which a place counts as not bent, 1/mm
MOST_STEPS, LEAST_RATE, NEAR = 60, 1e-3, 1e-13
FEW = 24  # places, up to which each is solved by itself


def yield_curvature(*, thickness_mm: float | Array, yield_strain: float) -> Array:
    """Return the change of curvature at which the outermost fiber yields, κ_y = 2 ε_y / T, 1/mm.

    thickness_mm: any shape, above 0. yield_strain: above 0, up to 1. Raises: PlanError. Source: beam theory.
    """
    thickness = np.asarray(thickness_mm, dtype=float)
    check_range("part.thickness_mm", float(thickness.min()), 0, ENDLESS, "mm", above=True)
    check_range("heat", yield_strain, 0, 1.0, above=True)
    return np.asarray(2 * yield_strain / thickness)


def recovered_curvature(change: Array, *, thickness_mm: float | Array, yield_strain: float) -> Array:
    """Return m, the curvature that the whole locked-in moment takes back, with the sign of the change, 1/mm.

    m = κ_y · x for x = |Δκ|/κ_y ≤ 1, and κ_y (1.5 − 0.5/x²) above: an elastic, perfectly plastic section. change: Δκ,
    any shape, 1/mm, finite. thickness_mm: broadcasts with it, above 0. Raises: PlanError. Source: plastic bending of a
    rectangle; docs/model.md#springback-of-hot-wood. Grade: physics on allowance.

    >>> recovered_curvature(np.array([1e-4, 1e-2]), thickness_mm=20.0, yield_strain=0.0035).round(8)
    array([0.0001    , 0.00052479])
    """
    check_range("shape", float(np.abs(change).max(initial=0.0)), 0, ENDLESS, "1/mm")
    limit = yield_curvature(thickness_mm=thickness_mm, yield_strain=yield_strain)
    x = np.abs(change) / limit
    beyond = np.maximum(x, 1.0)  # where it has yielded; while elastic both parts together give x
    return np.asarray(np.copysign(limit * (np.minimum(x, 1.0) + 0.5 - 0.5 / (beyond * beyond)), change))


@dataclass(frozen=True, eq=False)
class HotSetLaw:
    """Springback of hot wood: κ₁ = κ_f − k ρ m(κ_f − κ₀).

    thickness_mm: above 0. yield_strain: ε_y, 0 to 1. share_left: ρ, the share of the moment that is left at release, 0
    to 1. start: κ₀, the curvature before the bend, one figure or one for each cell, 1/mm.
    Raises: PlanError. Source: docs/model.md#springback-of-hot-wood. Grade: allowance on physics, then learned.

    >>> ash = HotSetLaw(25.4, 0.0035, 0.98)
    >>> round(100 * (1 - 210 * float(ash.release(np.array([1 / 210]))[0])), 2)  # percent of the bend lost
    8.5
    """

    thickness_mm: float
    yield_strain: float
    share_left: float
    start: Array | float = 0.0

    def __post_init__(self) -> None:
        message = "A piece has a thickness above zero."
        check_range("part.thickness_mm", self.thickness_mm, 0, ENDLESS, "mm", above=True, message=message)
        check_range("heat", self.yield_strain, 0, 1.0, above=True)
        check_range("heat.on_form_h", self.share_left, 0, 1.0)

    def lost(self, change: Array, *, loss_ratio: float | Array = 1.0) -> Array:
        """Return what a change of curvature loses on release, 1/mm, never more than the change itself.

        change: Δκ = κ_f − κ₀, any shape. loss_ratio: how much this shop loses compared with the law, 0 or more.
        """
        whole = recovered_curvature(change, thickness_mm=self.thickness_mm, yield_strain=self.yield_strain)
        lost = np.asarray(loss_ratio) * self.share_left * whole
        return np.asarray(np.sign(change) * np.minimum(np.abs(lost), np.abs(change)))

    def release(self, form_curvature: Array, *, loss_ratio: float | Array = 1.0) -> Array:
        """Return what the bend springs back to off the form, 1/mm. Valid: finite curvature. Raises: PlanError.

        >>> HotSetLaw(20.0, 0.0035, 0.5).release(np.array([0.005, 0.0003, 0.0])).round(6)
        array([0.004738, 0.00015 , 0.      ])
        """
        return np.asarray(form_curvature - self.lost(form_curvature - self.start, loss_ratio=loss_ratio))

    def form_curvature_for(self, target: Array, *, loss_ratio: float = 1.0) -> Array:
        """Return the form that releases to the target: the inverse of `release`; a place that is to stay stays.

        In x = |κ_f − κ₀|/κ_y and y = |κ − κ₀|/κ_y with r = k ρ: x = y/(1 − r) while that is at most 1, else the root
        of x − 1.5 r + 0.5 r/x² = y by Newton's method, from above, where the left side rises. There is one for
        every y > 0, also where r exceeds 1. Raises: PlanError for a ratio below 0.

        >>> law = HotSetLaw(20.0, 0.0035, 0.5)
        >>> law.release(law.form_curvature_for(np.array([0.0046, 0.0001, 0.0]))).round(9)
        array([0.0046, 0.0001, 0.    ])
        """
        check_range("form.school", loss_ratio, 0, ENDLESS, message="A springback below zero cannot be planned for.")
        check_range("shape", float(np.abs(target).max()), 0, ENDLESS, "1/mm")
        limit = yield_curvature(thickness_mm=self.thickness_mm, yield_strain=self.yield_strain)
        change = target - self.start
        y, r = np.abs(change) / limit, loss_ratio * self.share_left
        x = np.array([_root(v, r) for v in y.tolist()]) if y.ndim == 1 and y.size <= FEW else _roots(y, r)
        if r < 1:
            x = np.where(y <= 1 - r, y / (1 - r), x)
        moved = np.where(np.abs(change) > STRAIGHT, np.sign(change), 0.0)
        return np.asarray(np.where(moved == 0, target, self.start + moved * limit * x))

    def over(self, cells: Array) -> HotSetLaw:
        """Return the law for some cells of the strip, each with the curvature it has before the bend."""
        return replace(self, start=self.start[cells]) if isinstance(self.start, np.ndarray) else self


def block_height_mm(*, curvature: float, span_mm: float) -> float:
    """Return the height of a block in the middle of a span that bends a bar to a curvature: κ L² / 8, mm.

    Valid: any finite curvature, 1/mm; a span above 0. Raises: PlanError. Source: geometry.

    >>> round(block_height_mm(curvature=0.0004, span_mm=600), 1)
    18.0
    """
    check_range("heat.span_mm", span_mm, 0, ENDLESS, "mm", above=True)
    check_range("shape", abs(curvature), 0, 1.0, "1/mm")
    return abs(curvature) * span_mm**2 / 8


def _over(x: Numbers, y: Numbers, r: float) -> Numbers:
    return x - 1.5 * r + 0.5 * r / (x * x) - y


def _rate(x: Numbers, r: float) -> Numbers:
    return 1 - r / (x * x * x)


def _roots(y: Array, r: float) -> Array:
    """The roots x ≥ 1 of x − 1.5 r + 0.5 r/x² = y, all at once; 1, or the cube root of r, where there is none."""
    least: float = max(1.0, r ** (1 / 3))
    x: Array = np.maximum(y + 1.5 * r, least)  # more than is needed: from here Newton comes down without overshoot
    for _ in range(MOST_STEPS):
        before, x = x, np.maximum(x - _over(x, y, r) / np.maximum(_rate(x, r), LEAST_RATE), least)
        if float(np.abs(x - before).max(initial=0.0)) < NEAR * float(x.max(initial=1.0)):
            break
    return x


def _root(y: float, r: float) -> float:
    """The same for one place: many times faster for the few of a plain curve."""
    least: float = max(1.0, r ** (1 / 3))
    x: float = max(y + 1.5 * r, least)
    for _ in range(MOST_STEPS):
        before, x = x, max(x - _over(x, y, r) / max(_rate(x, r), LEAST_RATE), least)
        if abs(x - before) < NEAR * x:
            break
    return x


def hot_start(own_curvature: Array, thickness_mm: Array, *, yield_strain: float, share_left: float | Array) -> Array:
    """Return the curvature (..., n, N) that strips bent hot to their own curvature on a form keep.

    own_curvature: (..., n, N), of each strip's own middle. thickness_mm: (..., n), 0 for a strip that is not there,
    which keeps nothing. share_left: ρ of each, broadcast with the thickness. Valid: finite curvature, 1/mm. Raises:
    PlanError. Source: docs/model.md#steamed-laminae. Grade: allowance on physics.

    >>> hot_start(np.array([[0.01]]), np.array([5.0]), yield_strain=0.0042, share_left=0.5).round(6)
    array([[0.008752]])
    """
    check_range("build_up.lamina_mm", float(thickness_mm.min()), 0, ENDLESS, "mm")
    check_range("heat.on_form_h", float(np.asarray(share_left).min()), 0, 1.0)
    is_there = thickness_mm > 0
    thick = np.where(is_there, thickness_mm, 1.0)[..., :, None]
    m = recovered_curvature(own_curvature, thickness_mm=thick, yield_strain=yield_strain)
    left = np.asarray(share_left, dtype=float)[..., None]
    return np.asarray((own_curvature - left * m) * is_there[..., :, None])
