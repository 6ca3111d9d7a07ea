"""Whether a shop's springback has changed: the point in its book from which on it is another, if there is one."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..ground.errors import ENDLESS, require
from ..ground.estimate import Estimate
from .belief import SCATTER_SD

FEWEST = 5  # bends on either side
SURE_AT = 9.5  # twice the gain of the logarithm of likelihood, from which it is told. Grade: allowance.
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


def drift(ratios: Sequence[float], errors: Sequence[float]) -> Drift | None:
    """The likeliest place where the mean loss ratio changes, where one mean for all is much less likely than two.

    Each ratio has the variance of its measuring and of the usual scatter of bends, about its own mean. Told when twice
    the gain in log-likelihood is 9.5 or more, so that of thirty steady bends one shop in twenty or fewer is told.
    In order of time. Valid: errors above 0, as many as ratios. Raises: OutOfRange. Source: docs/model.md#learning.

    >>> drift([1.0] * 8 + [2.0] * 8, [0.1] * 16).at
    8
    >>> drift([1.0] * 16, [0.1] * 16) is None
    True
    """
    require("book.bends", float(len(ratios)), float(len(errors)), float(len(errors)))
    for value in errors:
        require("book.error", value, 0, ENDLESS, above=True)
    for value in ratios:
        require("book.ratio", value, -1e6, 1e6)
    n = len(ratios)
    if n < 2 * FEWEST:
        return None
    k, e = np.asarray(ratios, dtype=float), np.asarray(errors, dtype=float)
    middle = float(np.median(k))
    weight = 1 / (e**2 + (SCATTER_SD * max(abs(middle), 0.1)) ** 2)
    sums, weighed = np.cumsum(weight), np.cumsum(weight * k)
    splits = np.arange(FEWEST, n - FEWEST + 1)
    early, late = sums[splits - 1], sums[-1] - sums[splits - 1]
    before, after = weighed[splits - 1] / early, (weighed[-1] - weighed[splits - 1]) / late
    whole = weighed[-1] / sums[-1]
    gain = early * (before - whole) ** 2 + late * (after - whole) ** 2
    best = int(np.argmax(gain))
    if gain[best] < SURE_AT:
        return None
    at = int(splits[best])

    def band(mean: float, total: float) -> Estimate:
        half = BAND / math.sqrt(total)
        return Estimate(mean - half, mean, mean + half, "learned")

    return Drift(at, band(float(before[best]), float(early[best])), band(float(after[best]), float(late[best])))
