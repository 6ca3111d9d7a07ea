"""How long the moves of this shop take, learnt from its runs: each move's own seconds beside the table's."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass

from ..ground.errors import ENDLESS, require
from ..ground.estimate import Estimate

SHOPS_SD = 0.45  # by which shops differ from the table, of the logarithm. Grade: allowance.
TIMES_SD = 0.35  # by which one time differs from the next in one shop. Grade: allowance.
FEW = 3  # times seen before a learnt figure stands in place of the table's
BAND = 1.2816  # of the normal: eight in ten
LEAST_S = 1.0  # shorter than that nobody taps
LEAST_RATIO, MOST_RATIO = 0.05, 20.0  # outside, somebody tapped late or forgot. Grade: allowance.


@dataclass(frozen=True, slots=True)
class Seen:
    """A time that was seen: how long, what was planned, and the moves that was planned of: key, how many, s for one."""

    seconds: float
    planned_s: float
    made_of: tuple[tuple[str, float, float], ...]


@dataclass(frozen=True, slots=True)
class LearntTime:
    """Seconds for one of a move, with the band of the next, and how often it was seen. Grade: learned."""

    key: str
    seconds: Estimate
    times: float


def learnt_times(seen: Iterable[Seen], table: dict[str, float]) -> dict[str, LearntTime]:
    """What times seen teach of each move. ln(seen ÷ planned) of an operation is taken for each of its moves, weighed by
    the move's share of it; shops ln-normal about the table (sd 0.45), one time about the shop's (sd 0.35).

    table: seconds for one of every move. A time under a second, a twentieth or twenty times the planned is a slip of a
    tap and left out. Valid: planned above 0, the table 0 or more. Raises: OutOfRange. Grade: learned. Source:
    docs/model.md#bench.

    >>> seen = [Seen(30.0, 20.0, (("clamp", 1.0, 20.0),))] * 6
    >>> made = learnt_times(seen, {"clamp": 20.0})["clamp"]
    >>> round(made.seconds.likely, 1), made.times
    (28.9, 6.0)
    """
    for each in table.values():
        require("shop.times", each, 0, ENDLESS, "s")
    weight: dict[str, float] = {}
    total: dict[str, float] = {}
    for one in seen:
        require("shop.times", one.planned_s, 0, ENDLESS, "s", above=True)
        own = sum(count * each for _, count, each in one.made_of)
        if own <= 0 or one.seconds < LEAST_S or not LEAST_RATIO <= one.seconds / one.planned_s <= MOST_RATIO:
            continue
        ratio = math.log(one.seconds / one.planned_s)
        for key, count, each in one.made_of:
            if key in table and table[key] > 0 and each > 0 and count > 0:
                share = count * each / own
                weight[key] = weight.get(key, 0.0) + share
                total[key] = total.get(key, 0.0) + share * (ratio + math.log(each / table[key]))
    made = {}
    for key, n in weight.items():
        precision = 1 / SHOPS_SD**2 + n / TIMES_SD**2
        mean, spread = total[key] / TIMES_SD**2 / precision, math.sqrt(1 / precision + TIMES_SD**2)
        low, likely, high = (table[key] * math.exp(mean + k * spread) for k in (-BAND, 0.0, BAND))
        made[key] = LearntTime(key, Estimate(low, likely, high, "learned"), n)
    return made
