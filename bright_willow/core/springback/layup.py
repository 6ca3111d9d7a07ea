"""A lay-up of laminae: the strain in each, the moment that holds them, what they open to, and the inverse."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ..common.arrays import Array
from ..common.errors import ENDLESS, PlanError, check_range
from ..shape.curve import tip_distance_mm


@dataclass(frozen=True, eq=False)
class Layup:
    """Laminae from the inner face outwards.

    thickness_mm: (..., n) > 0, or 0 for a lamina that is not there (stacks of lay-ups padded to equal n);
    modulus_mpa: (..., n) along the bend, above 0; start_curvature: (..., n), 0 for a flat lamina, 1/mm, or (..., n, N)
    where it changes along the strip. inner: of two lay-ups nested in each other without glue between, how many laminae
    the inner one has; 0 where all are one. yields, left: (..., n) the strain at which a lamina yields as it is bent
    (infinite for one that does not), and the share of its moment that is left when the glue has set; None where all are
    elastic. Raises: PlanError for thicknesses and moduli out of those ranges.
    """

    thickness_mm: Array
    modulus_mpa: Array
    start_curvature: Array
    inner: int = 0
    yields: Array | None = None
    left: Array | None = None

    def __post_init__(self) -> None:
        message = "A strip needs a thickness and a stiffness above zero."
        check_range("build_up.lamina_mm", float(self.thickness_mm.min()), 0, ENDLESS, "mm", message=message)
        check_range("build_up.lamina_mm", float(self.total_mm.min()), 0, ENDLESS, "mm", above=True, message=message)
        check_range("build_up.lamina_mm", float(self.modulus_mpa.min()), 0, ENDLESS, "MPa", above=True, message=message)

    @classmethod
    def stepped(cls, rows: Sequence[tuple[int, float, float]], *, modulus_mpa: float) -> Layup:
        """Lay-ups of one wood at once: of each row so many laminae so thick, and the outermost of its own thickness.

        rows: (count, thickness mm, last mm). Arrays (rows, largest count), missing laminae of thickness 0.
        """
        most = max(count for count, _, _ in rows)
        thickness = np.zeros((len(rows), most))
        for row, (count, each, last) in enumerate(rows):
            thickness[row, : count - 1], thickness[row, count - 1] = each, last
        return cls(thickness, np.full_like(thickness, modulus_mpa), np.zeros_like(thickness))

    def starting(self, start_curvature: Array) -> Layup:
        """The same laminae, each with the curvature it has beforehand (..., n, N), 1/mm; what they weigh is kept."""
        _ = self.stiffness, self._left_stiffness  # calculated once for all that start otherwise
        made = object.__new__(Layup)
        made.__dict__.update(self.__dict__, start_curvature=start_curvature)
        return made

    @cached_property
    def total_mm(self) -> Array:
        """(...,) thickness of the stack, mm."""
        return np.asarray(self.thickness_mm.sum(-1))

    @cached_property
    def middles_mm(self) -> Array:
        """(..., n) height of each lamina's middle above the middle of the stack, outward positive."""
        tops = np.cumsum(self.thickness_mm, axis=-1)
        return np.asarray(tops - self.thickness_mm / 2 - self.total_mm[..., None] / 2)

    @cached_property
    def stiffness(self) -> Array:
        """(...,) bending stiffness of the glued stack per mm of width, N·mm²/mm.

        Σ E (t³/12 + t d²), d from the stiffness-weighted centroid. Source: composite beam theory. Grade: physics on
        published stiffness.

        >>> float(Layup(np.full(6, 5.0), np.full(6, 12_000.0), np.zeros(6)).stiffness)
        27000000.0
        >>> float(Layup(np.full(6, 5.0), np.full(6, 12_000.0), np.zeros(6), 3).stiffness)  # two of three, nested
        6750000.0
        """
        if self.inner:
            return np.asarray(sum(own.stiffness for own in self.nested))
        t, E, y = self.thickness_mm, self.modulus_mpa, self.middles_mm
        centroid = (E * t * y).sum(-1, keepdims=True) / (E * t).sum(-1, keepdims=True)
        return np.asarray((E * (t**3 / 12 + t * (y - centroid) ** 2)).sum(-1))

    @property
    def nested(self) -> tuple[Layup, ...]:
        """The inner and the outer of two nested lay-ups, each by itself; all of it where it is one."""
        if not self.inner:
            return (self,)
        cut = (slice(None, self.inner), slice(self.inner, None))
        return tuple(self.part(s) for s in cut)

    def part(self, of: slice) -> Layup:
        """Some of the laminae as a layup of their own."""
        own = (None, None) if self.yields is None or self.left is None else (self.yields[of], self.left[of])
        return Layup(self.thickness_mm[of], self.modulus_mpa[of], self.start_curvature[of], 0, *own)

    def _held(self, form_curvature: Array) -> Array:
        """(..., n, N) bending of each lamina that its moment answers to: less than the whole of one that yields."""
        change = self.lamina_curvature(form_curvature) - self._start
        if self.yields is None:
            return change
        with np.errstate(invalid="ignore"):
            limit = (2 * self.yields / self.thickness_mm)[..., :, None]
            x = np.abs(change) / limit
            return np.asarray(np.where(x <= 1, change, np.sign(change) * limit * (1.5 - 0.5 / np.maximum(x, 1) ** 2)))

    @cached_property
    def _left_stiffness(self) -> Array:
        """(..., n, 1) bending stiffness of each lamina, times the share of its moment left when the glue has set."""
        own = self.modulus_mpa * self.thickness_mm**3 / 12
        return np.asarray(own if self.left is None else own * self.left)[..., :, None]

    def off_alone_mm(self, lengths_mm: Array, form_curvature: Array, *, loss_ratio: float = 1.0) -> tuple[float, ...]:
        """How far the ends of each of two nested lay-ups stand from the other's when it lies by itself, mm: what it
        releases to alone, against what both release to in each other. Raises: PlanError. Source: as `release`.

        >>> two = Layup(np.full(4, 5.0), np.full(4, 12_000.0), np.zeros(4), 2)
        >>> [round(mm, 2) for mm in two.off_alone_mm(np.array([1000.0]), np.array([1e-3]))]
        [0.12, 0.12]
        """
        check_range("shape", float(lengths_mm.min()), 0, ENDLESS, "mm", above=True)
        together, made, low = self.release(form_curvature, loss_ratio=loss_ratio), [], -float(self.total_mm) / 2
        for own in self.nested if self.inner else ():
            y = low + float(own.total_mm) / 2
            low += float(own.total_mm)
            alone = own.release(form_curvature / (1 + form_curvature * y), loss_ratio=loss_ratio)
            stretched = lengths_mm * (1 + form_curvature * y)
            made.append(float(tip_distance_mm(stretched, alone, together / (1 + together * y))))
        return tuple(made)

    @property
    def _start(self) -> Array:
        own = self.start_curvature
        return own if own.ndim > self.thickness_mm.ndim else own[..., :, None]

    def lamina_curvature(self, form_curvature: Array) -> Array:
        """(..., n, N): each lamina's own curvature on a form whose mid-line has form_curvature (..., N).

        κ_i = κ_f / (1 + κ_f y_i). Raises: PlanError where a lamina would have no radius left. Source: geometry.

        >>> two = Layup(np.full(2, 5.0), np.full(2, 12_000.0), np.zeros(2))
        >>> float(1 / two.lamina_curvature(np.array([0.01]))[0, 0])
        97.5
        """
        kf = form_curvature[..., None, :]
        stretch = 1 + kf * self.middles_mm[..., :, None]
        if not (stretch > 1e-6).all():
            raise PlanError("shape.radius_mm", "The bend is tighter than half the thickness of the stack.")
        return np.asarray(kf / stretch)

    def strain(self, form_curvature: Array) -> Array:
        """(..., n, N) outer-fibre strain of each lamina: t |κ_i − κ0_i| / 2. Source: beam theory. Raises: PlanError.

        >>> float(Layup(np.full(2, 5.0), np.full(2, 12_000.0), np.zeros(2)).strain(np.array([0.01]))[0, 0].round(5))
        0.02564
        """
        change = self.lamina_curvature(form_curvature) - self._start
        return np.asarray(self.thickness_mm[..., :, None] * np.abs(change) / 2)

    def holding_moment(self, form_curvature: Array) -> Array:
        """(..., N) moment that holds the unglued laminae on the form, N·mm per mm of width.

        M = Σ E t³/12 (κ_i − κ0_i): each lamina slides freely until the glue sets; of one that yields what its
        elastic–plastic section holds. Source: beam theory. Raises: PlanError.

        >>> two = Layup(np.full(2, 6.0), np.full(2, 12_000.0), np.zeros(2))
        >>> float(two.holding_moment(np.array([0.001]))[0].round(2))
        432.0
        """
        return np.asarray(self.lamina_moments(form_curvature).sum(-2))

    def lamina_moments(self, form_curvature: Array) -> Array:
        """(..., n, N) moment that holds each lamina on the form by itself, N·mm per mm of width. Raises: PlanError."""
        own = (self.modulus_mpa * self.thickness_mm**3 / 12)[..., :, None]
        return np.asarray(own * self._held(form_curvature))

    def _lost(self, form_curvature: Array) -> Array:
        """(..., N) curvature that springs back by mechanics: the moment left when the glue has set, over EI."""
        return np.asarray((self._left_stiffness * self._held(form_curvature)).sum(-2) / self.stiffness[..., None])

    def release(self, form_curvature: Array, *, loss_ratio: float | Array = 1.0) -> Array:
        """Curvature (1/mm, one per station) the glued lay-up opens to when it leaves the form.

        κ₁ = κ_f − k·M(κ_f)/(EI)_c, k = 1 by mechanics, or the ratio this shop has learned. For n equal flat laminae
        this is κ_f (1 − k/n²) to first order in thickness over radius. Of laminae that yield M is what is left of their
        moment when the glue has set. Valid for any number of laminae.
        Raises: PlanError. Source: composite beam theory; docs/model.md#cold-lamination.

        >>> two = Layup(np.full(2, 5.0), np.full(2, 12_000.0), np.zeros(2))
        >>> float(two.release(np.array([1e-5]))[0].round(9))  # a quarter is lost
        7.5e-06
        """
        return np.asarray(form_curvature - np.asarray(loss_ratio) * self._lost(form_curvature))

    def form_curvature_for(self, target: Array, *, loss_ratio: float = 1.0) -> Array:
        """Form curvature that releases to `target` (..., N): the inverse of `release`, by Newton's method.

        Raises: PlanError when the lay-up keeps too little of any bend for a form to make up for it
        (one lamina, or a learnt ratio that eats the rest), or when the form would be tighter than the stack allows.

        >>> two = Layup(np.full(2, 5.0), np.full(2, 12_000.0), np.zeros(2))
        >>> float(two.form_curvature_for(np.array([7.5e-6]))[0].round(9))
        1e-05
        """
        own = self.modulus_mpa * self.thickness_mm**3 / 12
        own = own if self.left is None else own * self.left
        most_lost = loss_ratio * own.sum(-1) / self.stiffness
        if not (most_lost <= 0.9).all():
            raise PlanError(
                "build_up.laminae",
                "Too few strips: they keep less than a tenth of the bend, and no form can make up for it.",
                hint="Use more, thinner strips.",
            )
        kept = (1 - most_lost)[..., None]
        start = loss_ratio * (own[..., :, None] * self._start).sum(-2) / self.stiffness[..., None]
        form = (target - start) / kept
        y = self.middles_mm[..., :, None]
        for _ in range(60):
            missed = self.release(form, loss_ratio=loss_ratio) - target
            stretch = 1 + form[..., None, :] * y
            gives = (own[..., :, None] * self._gives(form) / stretch**2).sum(-2)
            slope = 1 - loss_ratio * gives / self.stiffness[..., None]
            form = form - missed / slope
            if np.abs(missed).max() <= 1e-13 + 1e-11 * np.abs(target).max():
                return np.asarray(form)
        raise PlanError("shape.radius_mm", "No form works for this bend: it is too tight for its thickness.")

    def _gives(self, form_curvature: Array) -> Array | float:
        """(..., n, N) how much the moment of a lamina rises with its bending: 1 while elastic, less once it yields."""
        if self.yields is None:
            return 1.0
        change = np.abs(self.lamina_curvature(form_curvature) - self._start)
        with np.errstate(invalid="ignore", divide="ignore"):
            x = change / (2 * self.yields / self.thickness_mm)[..., :, None]
            return np.asarray(np.where(x <= 1, 1.0, 1 / np.maximum(x, 1.0) ** 3))

    def lengths_mm(self, form_lengths_mm: Array, form_curvature: Array) -> Array:
        """(n,) developed length of each lamina on the form: L_i = Σ (1 + κ_f y_i) ds. Outer laminae are longer.

        Valid: lengths above 0, as many as there are curvatures. Raises: PlanError. Source: geometry. Grade: physics.

        >>> Layup(np.full(2, 5.0), np.full(2, 12_000.0), np.zeros(2)).lengths_mm(np.array([1000.0]), np.array([0.01]))
        array([ 975., 1025.])
        """
        check_range("shape", float(form_lengths_mm.min()), 0, ENDLESS, "mm", above=True)
        check_range("shape", float(np.abs(form_curvature).max()), 0, ENDLESS, "1/mm")
        return np.asarray(((1 + form_curvature * self.middles_mm[:, None]) * form_lengths_mm).sum(-1))
