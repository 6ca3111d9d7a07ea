"""Bending a bowed piece back: the block under the middle of the clamp span, and how often."""

from __future__ import annotations

from dataclasses import dataclass

from ..ground.errors import ENDLESS, require
from ..ground.estimate import Estimate
from ..laws.hot_set import block_height_mm

LEFT_MM = 1.0  # bow over the whole base above which a second pass is expected. Grade: allowance.


@dataclass(frozen=True, slots=True)
class Straightening:
    """The bow over its base, the block under the middle of the clamp span, passes to expect."""

    bow_mm: float
    base_mm: float
    block_mm: Estimate
    span_mm: float
    passes: int
    towards: str


def straightening(
    *, bow_mm: float, base_mm: float, thickness_mm: float, span_mm: float, set_strain: Estimate
) -> Straightening:
    """Over-bend past straight by d/T: the block for low, likely and high d, and a second pass where half the spread of
    d/T may leave more than 1 mm of bow over the base.

    Valid: all above 0. Raises: OutOfRange. Source: docs/model.md#straightening. Grade: that of the set strain.

    >>> made = straightening(bow_mm=18, base_mm=1500, thickness_mm=30, span_mm=700,
    ...                      set_strain=Estimate(0.007, 0.012, 0.018, "allowance"))
    >>> round(made.block_mm.likely, 1), made.passes
    (24.5, 2)
    """
    sizes = {"part.thickness_mm": thickness_mm, "heat.span_mm": span_mm, "shape.chord_mm": base_mm}
    for field, value in sizes.items():
        require(field, value, 0, ENDLESS, "mm", above=True)
    d = set_strain
    require("shape.rise_mm", bow_mm, 0, ENDLESS, "mm")
    low, likely, high = (
        block_height_mm(curvature=v / thickness_mm, span_mm=span_mm) for v in (d.low, d.likely, d.high)
    )
    left = (d.high - d.low) / 2 / thickness_mm * base_mm**2 / 8
    return Straightening(
        bow_mm=bow_mm,
        base_mm=base_mm,
        block_mm=Estimate(low, likely, high, d.grade),
        span_mm=span_mm,
        passes=1 if left < LEFT_MM else 2,
        towards="hollow side down: the block stands under the bulge, turned over",
    )
