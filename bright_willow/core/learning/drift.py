"""Whether a shop's springback has changed: the point in its book from which on it is another, if there is one."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from ..common.arrays import Array
from ..common.errors import ENDLESS, check_range
from ..common.estimate import Estimate
from .belief import SCATTER_SD

FEWEST = 5  # bends on either side
SURE_AT, MORE = 6.3, 1.8  # of the gain, from which a change is told, and times ln n more. Found by simulation.
PRIOR_BENDS = 2.0  # that what is known of the scatter before is worth. Grade: allowance.
LEAST_SCATTER = 0.03
LOWEST = 0.1  # of the median, below which ln k is gone on with as a straight line: a piece may spring back not at all
BAND = 1.2816


@dataclass(frozen=True, slots=True)
class Drift:
    """From which bend on (0 the first), and the loss ratio before and after, with its band. Grade: learned."""

    at: int
    before: Estimate
    after: Estimate

    @property
    def times(self) -> float:
        """By how much it is more after than before."""
        return self.after.likely / self.before.likely if self.before.likely else math.inf


def drift(ratios: Sequence[float], errors: Sequence[float], scatter: float = SCATTER_SD) -> Drift | None:
    """The likeliest place where the mean loss ratio changes, where one mean for all is much less likely than two.

    In logarithms, about the median. Each bend has the variance of its measuring and of the scatter among bends, which
    is estimated about the two means and from what was known of it. G = ν ln(1 + g/ν), with g the weighed gain of two
    means over one and ν = n − 2 + 2, is compared with 6.3 + 1.8 ln n: so that of shops whose springback stays the same,
    looked at after each of sixty bends, one in twenty or fewer is ever told of a change.

    scatter: of ln k among bends of a kind, as learned in the shop. In order of time. Valid: errors above 0, as many as
    ratios; scatter from 0 to 10. Raises: PlanError. Source: docs/model.md#learning.

    >>> drift([1.0] * 8 + [2.0] * 8, [0.1] * 16).at
    8
    >>> drift([1.0] * 16, [0.1] * 16) is None
    True
    """
    check_range("book.bends", float(len(ratios)), float(len(errors)), float(len(errors)))
    check_range("book.scatter", scatter, 0, 10)
    for value in errors:
        check_range("book.error", value, 0, ENDLESS, above=True)
    for value in ratios:
        check_range("book.ratio", value, -1e6, 1e6)
    n = len(ratios)
    if n < 2 * FEWEST:
        return None
    k, e = np.asarray(ratios, dtype=float), np.asarray(errors, dtype=float)
    middle = max(abs(float(np.median(k))), 0.1)
    x, measured = _logarithms(k / middle), (e / middle) ** 2
    splits = np.arange(FEWEST, n - FEWEST + 1)
    weight = 1 / (measured + _scatter2(x, measured, splits, scatter))
    sums, weighed = np.cumsum(weight), np.cumsum(weight * x)
    early, late = sums[splits - 1], sums[-1] - sums[splits - 1]
    before, after = weighed[splits - 1] / early, (weighed[-1] - weighed[splits - 1]) / late
    gain = early * late / (early + late) * (before - after) ** 2
    best = int(np.argmax(gain))
    free = n - 2 + PRIOR_BENDS
    if free * math.log1p(float(gain[best]) / free) < SURE_AT + MORE * math.log(n):
        return None

    def band(mean: float, total: float) -> Estimate:
        half = BAND / math.sqrt(total)
        low, likely, high = (middle * math.exp(v) for v in (mean - half, mean, mean + half))
        return Estimate(low, likely, high, "learned")

    at = int(splits[best])
    return Drift(at, band(float(before[best]), float(early[best])), band(float(after[best]), float(late[best])))


def _logarithms(k: Array) -> Array:
    """ln k, gone on with as a straight line below a tenth, where measuring may bring a ratio to nothing or less."""
    return np.asarray(np.where(k > LOWEST, np.log(np.maximum(k, LOWEST)), math.log(LOWEST) + k / LOWEST - 1))


def _scatter2(x: Array, measured: Array, splits: Any, scatter: float) -> float:
    """Variance of the scatter: of what is left about two means, where it is least, without what measuring makes of it;
    with what was known before."""
    n = x.size
    sums, squares = np.cumsum(x), np.cumsum(x * x)
    left = squares[splits - 1] - sums[splits - 1] ** 2 / splits
    left += squares[-1] - squares[splits - 1] - (sums[-1] - sums[splits - 1]) ** 2 / (n - splits)
    own = max(0.0, float(left.min()) / (n - 2) - float(measured.mean()))
    return max(LEAST_SCATTER**2, (PRIOR_BENDS * scatter**2 + (n - 2) * own) / (PRIOR_BENDS + n - 2))
