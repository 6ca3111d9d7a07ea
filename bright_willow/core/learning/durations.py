"""How long the moves of this shop take, learnt from its runs: each move's own seconds beside the table's."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from ..common.errors import ENDLESS, check_range
from ..common.estimate import Estimate

SHOPS_SD = 0.45  # by which shops differ from the table, of the logarithm. Grade: allowance.
TIMES_SD = 0.35  # by which one time differs from the next in one shop. Grade: allowance.
FEW = 3  # times seen before a learnt figure stands in place of the table's
BAND = 1.2816  # of the normal: eight in ten
LEAST_S = 1.0  # shorter than that nobody taps
LEAST_RATIO, MOST_RATIO = 0.05, 20.0  # outside, somebody tapped late or forgot. Grade: allowance.


@dataclass(frozen=True, slots=True)
class ObservedTime:
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


def learnt_times(seen: Iterable[ObservedTime], table: dict[str, float]) -> dict[str, LearntTime]:
    """What times seen teach of each move. ln(seen ÷ planned) of an operation is the sum of what each of its moves is
    off in this shop, by its share; each move of a shop is ln-normal about the table (sd 0.45) by itself, one time about
    the shop's (sd 0.35). All moves are worked out together: where two are always timed together, only their sum is
    known, and the band of each says so.

    table: seconds for one of every move. A time under a second, a twentieth or twenty times the planned is a slip of a
    tap and left out. Valid: planned above 0, the table 0 or more. Raises: PlanError. Grade: learned. Source:
    docs/model.md#bench.

    >>> seen = [ObservedTime(30.0, 20.0, (("clamp", 1.0, 20.0),))] * 6
    >>> made = learnt_times(seen, {"clamp": 20.0})["clamp"]
    >>> round(made.seconds.likely, 1), made.times
    (28.9, 6.0)
    """
    for each in table.values():
        check_range("shop.times", each, 0, ENDLESS, "s")
    keys = {key: i for i, key in enumerate(k for k, each in table.items() if each > 0)}
    precision, told = np.eye(len(keys)) / SHOPS_SD**2, np.zeros(len(keys))
    times: dict[str, float] = {}
    for one in seen:
        check_range("shop.times", one.planned_s, 0, ENDLESS, "s", above=True)
        own = sum(count * each for _, count, each in one.made_of)
        if own <= 0 or one.seconds < LEAST_S or not LEAST_RATIO <= one.seconds / one.planned_s <= MOST_RATIO:
            continue
        off, shares = math.log(one.seconds / one.planned_s), np.zeros(len(keys))
        for key, count, each in one.made_of:
            if key in keys and each > 0 and count > 0:
                share = count * each / own
                shares[keys[key]] += share
                off += share * math.log(each / table[key])
                times[key] = times.get(key, 0.0) + share
        precision += np.outer(shares, shares) / TIMES_SD**2
        told += shares * off / TIMES_SD**2
    variance = np.linalg.inv(precision)
    means, made = variance @ told, {}
    for key, n in times.items():
        i = keys[key]
        spread = math.sqrt(float(variance[i, i]) + TIMES_SD**2)
        low, likely, high = (table[key] * math.exp(float(means[i]) + k * spread) for k in (-BAND, 0.0, BAND))
        made[key] = LearntTime(key, Estimate(low, likely, high, "learned"), n)
    return made
