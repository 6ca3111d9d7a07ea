"""How sloping grain lowers the strain wood stands."""

from __future__ import annotations

import numpy as np

from ..common.errors import check_range

# rise in a run of one → factor on breaking strain. Source: published strength ratios for slope of grain.
_SLOPE = (0.0, 1 / 25, 1 / 20, 1 / 15, 1 / 10, 1 / 5)
_FACTOR = (1.00, 0.96, 0.93, 0.89, 0.81, 0.55)


def grain_factor(slope: float) -> float:
    """Share of breaking strain left when the grain rises by `slope` in a run of 1.

    Interpolated between 1:25 0.96, 1:20 0.93, 1:15 0.89, 1:10 0.81, 1:5 0.55. Valid: 0 … 0.2 (1:5).
    Raises: PlanError beyond, where there is no figure. Source: docs/model.md#wood-quality. Grade: published.

    >>> grain_factor(0.0), grain_factor(0.1)
    (1.0, 0.81)
    """
    message = "There is no figure for run-out steeper than 1 in 5. Do not bend this board."
    check_range("stock.grain_slope", slope, 0, _SLOPE[-1] + 1e-12, message=message)
    return float(np.interp(slope, _SLOPE, _FACTOR))


FIGURED_FACTOR = 0.7  # of the strain straight grain stands. Grade: allowance. Source: docs/model.md#wood-quality.


def wood_factor(slope: float, *, figured: bool) -> float:
    """Share of breaking strain left for grain that slopes and, if it does, is figured.

    Valid: a slope from 0 to 0.2. Raises: PlanError. Source: docs/model.md#wood-quality. Grade: allowance.

    >>> wood_factor(1 / 15, figured=True)
    0.623
    """
    return grain_factor(slope) * (FIGURED_FACTOR if figured else 1.0)
