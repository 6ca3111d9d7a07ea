"""How many pieces to prepare: the share that comes out whole, expected and on record."""

from __future__ import annotations

import math
from functools import lru_cache

from ..common.errors import ENDLESS, check_range
from ..common.estimate import Estimate

# Share of pieces that come out whole, by how hard the laminae are bent. Grade: allowance.
LAMINATED_YIELD: dict[str, float] = {
    "easy": 0.97,
    "firm": 0.93,
    "risky": 0.75,
    "try one dry": 0.6,
    "expect breaks": 0.4,
}
LEAST_SHARE = 0.4  # of whole pieces, below which no spares are proposed. Grade: allowance.
PRIOR_PIECES = 8.0  # how many pieces of one's own outweigh the table


@lru_cache(maxsize=256)
def expected_yield(table_share: float, good: float = 0, failed: float = 0) -> Estimate:
    """Share of pieces that come out whole: a table's share, worn down by this shop's own record.

    Beta prior with the weight of 8 pieces, updated by good and failed ones; the band holds eight shops in ten.
    Valid: 0 < table_share < 1. Raises: PlanError. Source: conjugate updating of a share; docs/model.md#spares.

    >>> round(expected_yield(0.75, good=2, failed=6).likely, 3)
    0.5
    """
    from scipy.special import betaincinv

    message = "A success rate is between 0 and 100 %."
    check_range("part.spares", table_share, 0, 1 - 1e-9, above=True, message=message)
    check_range("part.spares", good, 0, ENDLESS, message=message)
    check_range("part.spares", failed, 0, ENDLESS, message=message)
    a, b = PRIOR_PIECES * table_share + good, PRIOR_PIECES * (1 - table_share) + failed
    likely = a / (a + b)
    low, high = float(betaincinv(a, b, 0.1)), float(betaincinv(a, b, 0.9))
    grade = "learned" if good + failed else "allowance"
    return Estimate(min(low, likely), likely, max(high, likely), grade)  # type: ignore[arg-type]


def spares_for(wanted: int, share: float) -> int:
    """Return the pieces to prepare beyond those wanted: wanted / success rate, rounded up, and at least one.

    None below a share of 0.4: spares are no answer there, and a check says what to change. Valid: 1 wanted or more, a
    share above 0 and up to 1. Raises: PlanError. Source: docs/model.md#spares.

    >>> spares_for(6, 0.93), spares_for(20, 0.75), spares_for(20, 0.39)
    (1, 7, 0)
    """
    check_range("part.count", wanted, 1, ENDLESS)
    check_range("part.spares", share, 0, 1, above=True)
    if share < LEAST_SHARE:
        return 0
    return max(1, math.ceil(wanted / share - 1e-9) - wanted)
