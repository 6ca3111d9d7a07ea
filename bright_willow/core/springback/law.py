"""The law of a bend: what it opens to off the form, and what releases to a target."""

from __future__ import annotations

from typing import Protocol

from ..common.arrays import Array


class SpringbackLaw(Protocol):
    """What every law answers. Curvatures are (..., n) of the mid-line, 1/mm, one for each cell of the strip.

    loss_ratio: how much more (above 1) or less than by mechanics alone this shop's pieces open.
    """

    def release(self, form_curvature: Array, *, loss_ratio: float | Array = 1.0) -> Array:
        """What the bend opens to off the form."""

    def form_curvature_for(self, target: Array, *, loss_ratio: float = 1.0) -> Array:
        """What releases to the target. Raises: PlanError where no form can make up for the loss."""

    def over(self, cells: Array) -> SpringbackLaw:
        """The same law for other cells of the strip: cells (m,) are their numbers along it, from 0."""
