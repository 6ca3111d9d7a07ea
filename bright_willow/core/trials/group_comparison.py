"""One kind of piece against another in a trial: how far apart their measured figures are, or the settings at which nine
in ten come out whole."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from ..common.errors import PlanError, check_range
from ..common.estimate import Estimate

BAND = 1.2816  # of the normal: eight in ten


def difference(one: Sequence[float], other: Sequence[float]) -> Estimate:
    """How much larger figures of one kind are than another's, with a band that holds eight in ten (Student's t, spreads
    that may differ).

    Valid: two of each or more, finite. Raises: PlanError. Source: Welch; docs/model.md#trials.

    >>> made = difference((9.0, 10.0, 11.0), (7.0, 8.0, 9.0))
    >>> made.likely, round(made.low, 2)
    (2.0, 0.75)
    """
    from scipy.special import stdtrit

    a, b = np.asarray(one, dtype=float), np.asarray(other, dtype=float)
    for value in (*a, *b):
        check_range("trial.setting", float(value), -1e12, 1e12)
    if min(a.size, b.size) < 2:
        raise PlanError("trial.settings", "Two measured pieces of each at least, please.")
    own, its = a.var(ddof=1) / a.size, b.var(ddof=1) / b.size
    mean = float(a.mean() - b.mean())
    if own + its <= 0:
        return Estimate(mean, mean, mean, "learned")
    free = (own + its) ** 2 / (own**2 / (a.size - 1) + its**2 / (b.size - 1))
    half = float(stdtrit(free, 0.9)) * math.sqrt(float(own + its))
    return Estimate(mean - half, mean, mean + half, "learned")


def chance_lower(one: Estimate, other: Estimate) -> float:
    """The chance that a setting lies lower for one kind than for another, each known by its band (of its logarithm).

    Valid: all above 0. Raises: PlanError.

    >>> round(chance_lower(Estimate(8, 10, 12.5, "learned"), Estimate(8, 10, 12.5, "learned")), 2)
    0.5
    """
    from scipy.special import ndtr

    for e in (one, other):
        for value in (e.low, e.likely, e.high):
            check_range("trial.setting", value, 0, 1e12, above=True)
    sds = [max(1e-6, math.log(e.high / e.low) / (2 * BAND)) for e in (one, other)]
    return float(ndtr((math.log(other.likely) - math.log(one.likely)) / math.hypot(*sds)))
