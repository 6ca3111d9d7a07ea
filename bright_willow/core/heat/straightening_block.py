"""Bending a bowed piece back: the block under the middle of the clamp span, and how often."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from ..common.errors import ENDLESS, check_range
from ..common.estimate import Estimate
from ..springback.hot_set import HotSetLaw, block_height_mm

LEFT_MM = 1.0  # bow over the whole base above which a second pass is expected. Grade: allowance.


@dataclass(frozen=True, slots=True)
class Straightening:
    """The bow over its base, the block under the middle of the clamp span, passes to expect, mm."""

    bow_mm: float
    base_mm: float
    block_mm: Estimate
    span_mm: float
    passes: int
    towards: str


def straightening(
    *, bow_mm: float, base_mm: float, span_mm: float, law: HotSetLaw, loss_ratio: Estimate
) -> Straightening:
    """Return the block that bends a bow past straight so that it springs back straight, and the passes to expect.

    The form curvature solves κ_f − ρ m(κ_f − κ₀) = 0 with κ₀ = 8 bow/base², for the low, likely and high end of what
    this shop's pieces spring back; a second pass where half the spread leaves more than 1 mm of bow over the base.
    law: of the piece; its start is set here. Valid: base and span above 0, a bow of 0 or more. Raises: PlanError.
    Source: docs/model.md#straightening. Grade: that of the loss ratio.

    >>> made = straightening(bow_mm=18, base_mm=1500, span_mm=700, law=HotSetLaw(30.0, 0.0042, 0.9),
    ...                      loss_ratio=Estimate(0.5, 1.0, 2.0, "allowance"))
    >>> round(made.block_mm.likely, 1), made.passes
    (18.7, 2)
    """
    for field, value in {"heat.span_mm": span_mm, "shape.chord_mm": base_mm}.items():
        check_range(field, value, 0, ENDLESS, "mm", above=True)
    check_range("shape.rise_mm", bow_mm, 0, ENDLESS, "mm")
    bowed = replace(law, start=8 * bow_mm / base_mm**2)
    straight = np.zeros(1)
    forms = [
        bowed.form_curvature_for(straight, loss_ratio=k) for k in (loss_ratio.low, loss_ratio.likely, loss_ratio.high)
    ]
    low, likely, high = (block_height_mm(curvature=float(k[0]), span_mm=span_mm) for k in forms)
    ends = [bowed.release(forms[1], loss_ratio=k) for k in (loss_ratio.low, loss_ratio.high)]
    left = abs(float(ends[1][0] - ends[0][0])) / 2 * base_mm**2 / 8
    return Straightening(
        bow_mm=bow_mm,
        base_mm=base_mm,
        block_mm=Estimate.around((low, likely, high), loss_ratio.grade),
        span_mm=span_mm,
        passes=1 if left < LEFT_MM else 2,
        towards="hollow side down, with the block under the middle",
    )
