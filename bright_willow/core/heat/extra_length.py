"""Extra length that a steamed piece needs at its ends: the last of a bend carries no moment and stays straight."""

from __future__ import annotations

import numpy as np

from ..common.errors import ENDLESS, check_range
from ..shape.curve import Curve

STRAIGHT = 1e-6  # 1/mm: straighter counts as not bent
STEAM_END_MM, THICKNESSES = 150.0, 3.0  # beyond the last of the bend. Grade: allowance.


def end_spare_mm(thickness_mm: float) -> float:
    """Return what a steamed piece needs beyond its bend at each end, mm: 150 mm or three thicknesses.

    Valid: thickness above 0. Raises: PlanError. Grade: allowance. Source: docs/model.md#extra-length.

    >>> end_spare_mm(60.0)
    180.0
    """
    check_range("part.thickness_mm", thickness_mm, 0, ENDLESS, "mm", above=True)
    return max(STEAM_END_MM, THICKNESSES * thickness_mm)


def ends_need_mm(target: Curve, thickness_mm: float) -> tuple[float, float]:
    """Return the extra length each end needs to bend by: nothing where the piece goes on straight for so long.

    target: the centerline wanted. thickness_mm: above 0. Grade: allowance. Source: docs/model.md#extra-length.

    >>> ends_need_mm(Curve.of([200.0, 300.0], [0.0, 0.01]), 20.0)
    (0.0, 150.0)
    """
    spare, bent = end_spare_mm(thickness_mm), np.flatnonzero(np.abs(target.curvature) > STRAIGHT)
    if not bent.size:
        return 0.0, 0.0
    at = target.stations_mm
    first, last = float(at[bent[0]]), float(at[-1] - at[bent[-1] + 1])
    return max(0.0, spare - first), max(0.0, spare - last)
