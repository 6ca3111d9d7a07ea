"""How much of a further bend a piece keeps, by what passes at the bench have shown."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass

from ..common.errors import ENDLESS, check_range
from ..common.estimate import LEARNT, Estimate

WORTH = 3  # turns seen that weigh as much as what the law of springback expects. Grade: allowance.
SCATTER = 0.15  # of the share from turn to turn, before any was seen. Grade: allowance.
LEAST, MOST = (
    0.1,
    1.0,
)  # between which a share from this shop is used: less is a slip, more cannot be. Grade: allowance.
EIGHT_IN_TEN = 1.2816  # standard deviations either side that hold 80 % of a normal distribution


@dataclass(frozen=True, slots=True)
class EasedSample:
    """One change of a bend: method and stock group, degrees it was pushed, and degrees of it that stayed."""

    way: str
    group: str
    pushed_deg: float
    stayed_deg: float


def kept_turn(samples: Iterable[EasedSample], *, way: str, group: str, expected: Estimate) -> Estimate:
    """Return the share of a further bend that stays: what is expected, and what samples of the same stock show.

    The mean of both, the expected one worth three turns; the band from what scatter was seen, worth as much. Once turns
    were seen it is brought to between 0.1 and 1.
    Valid: expected 0 to 1. Raises: PlanError. Source: docs/model.md#easing.

    >>> prior = Estimate(0.7, 0.8, 0.9, "physics")
    >>> seen = [EasedSample("iron", "ash", 10.0, 6.0)] * 3
    >>> made = kept_turn(seen, way="iron", group="ash", expected=prior)
    >>> round(made.likely, 2), made.grade
    (0.7, 'learned')
    """
    check_range("kept", expected.likely, 0.0, 1.0 + 1e-6, "")
    own = [s for s in samples if (s.way, s.group) == (way, group)]
    for sample in own:
        check_range("pushed", sample.pushed_deg, 0.0, ENDLESS, "°", above=True)
        check_range("stayed", sample.stayed_deg, -ENDLESS, ENDLESS, "°")
    seen = [s.stayed_deg / s.pushed_deg for s in own]
    if not seen:
        return expected
    mean = (WORTH * expected.likely + sum(seen)) / (WORTH + len(seen))
    scatter = math.sqrt((WORTH * SCATTER**2 + sum((s - mean) ** 2 for s in seen)) / (WORTH + len(seen)))
    likely = min(MOST, max(LEAST, mean))
    low, high = max(LEAST, likely - EIGHT_IN_TEN * scatter), min(MOST, likely + EIGHT_IN_TEN * scatter)
    return Estimate(min(low, likely), likely, max(high, likely), LEARNT if len(seen) >= WORTH else expected.grade)
