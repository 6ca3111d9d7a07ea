"""Steaming time from test bends: too short splinters, too long grows brittle, and between them lies the best time.

P(whole | t) = σ((ln t − a)/0.25) · σ((b − ln t)/0.25). A splintered piece speaks for a, one that broke short and
brittle for b, one that broke in another way for either. Source: docs/model.md#trials.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

import numpy as np

from ..common.arrays import Array
from ..common.errors import ENDLESS, check_range
from ..common.estimate import Estimate

EDGE = 0.25  # width of both edges, of the logarithm of minutes. Grade: allowance.
SHORT_SD, LONG_SD = 0.4, 0.5  # of the logarithm of the edges, before any piece. Grade: allowance.
REACH, CELLS = 4.0, 81
Came = Literal["whole", "splintered", "brittle", "broken"]


@dataclass(frozen=True, slots=True)
class SteamedPiece:
    """One test piece: minutes in the steam, and how it came out."""

    minutes: float
    came: Came


@dataclass(frozen=True)
class BestTime:
    """What test bends say of the steaming time. settings, chance, low, high: the curve with its band, eight in ten;
    best: the best time; too_short, too_long: where half would splinter, or break short. Grade: learned."""

    settings: tuple[float, ...]
    chance: tuple[float, ...]
    low: tuple[float, ...]
    high: tuple[float, ...]
    best: Estimate
    too_short: Estimate
    too_long: Estimate
    pieces: int


@lru_cache(maxsize=8)
def _grid(earliest_min: float, latest_min: float, reach: float) -> tuple[Array, Array, Array]:
    """(n, n) both edges, in logarithms of minutes, and the logarithm of the prior; an edge too long never lies before
    the edge too short."""
    short = math.log(earliest_min) + np.linspace(-reach, reach, CELLS) * SHORT_SD
    long = math.log(latest_min) + np.linspace(-reach, reach, CELLS) * LONG_SD
    a, b = np.meshgrid(short, long, indexing="ij")
    prior = -0.5 * ((a - math.log(earliest_min)) / SHORT_SD) ** 2 - 0.5 * ((b - math.log(latest_min)) / LONG_SD) ** 2
    return a, b, np.where(b > a, prior, -np.inf)


def _log_sigmoid(z: Array) -> Array:
    return np.asarray(-np.logaddexp(0.0, -z))


def _log_chance(u: float | Array, a: Array, b: Array, came: Came) -> Array:
    """Logarithm of the chance that a piece comes out so at ln minutes u: safe from the first edge and from the second,
    or not."""
    short, long = (u - a) / EDGE, (b - u) / EDGE
    whole = _log_sigmoid(short) + _log_sigmoid(long)
    if came == "whole":
        return np.asarray(whole)
    if came == "splintered":
        return _log_sigmoid(-short)
    if came == "brittle":
        return np.asarray(_log_sigmoid(short) + _log_sigmoid(-long))
    return np.asarray(np.log(-np.expm1(np.minimum(whole, -1e-12))))


def best_time(
    seen: Sequence[SteamedPiece], *, earliest_min: float, latest_min: float, over: tuple[float, float]
) -> BestTime:
    """Return the best steaming time with its band and both edges, from test pieces and what the plan says.

    earliest_min: hot through; latest_min: the latest of the plan; over: minutes between which the curve is wanted. The
    grid of edges reaches as far as the pieces do. Valid: all above 0. Raises: PlanError. Source: docs/model.md#trials.
    Grade: learned.

    >>> seen = [SteamedPiece(12.0, "splintered"), SteamedPiece(20.0, "whole"), SteamedPiece(60.0, "brittle")]
    >>> made = best_time(seen, earliest_min=14.0, latest_min=40.0, over=(8.0, 80.0))
    >>> made.too_short.likely < made.best.likely < made.too_long.likely, made.pieces
    (True, 3)
    """
    for value in (earliest_min, latest_min, *over, *(p.minutes for p in seen)):
        check_range("trial.setting", value, 0, ENDLESS, "min", above=True)
    far = max(
        (max(abs(math.log(p.minutes / earliest_min)), abs(math.log(p.minutes / latest_min))) for p in seen), default=0.0
    )
    reach = max(REACH, round(far / SHORT_SD + 2.0, 1))
    a, b, log_weight = _grid(earliest_min, latest_min, reach)
    for p in seen:
        log_weight = log_weight + _log_chance(math.log(p.minutes), a, b, p.came)
    weight = np.exp(log_weight - log_weight.max())
    weight /= weight.sum()
    tells = weight > 1e-4 / weight.size
    own = weight[tells] / weight[tells].sum()
    minutes = np.geomspace(*over, 61)
    chances = np.exp(_log_chance(np.log(minutes)[:, None], a[tells][None], b[tells][None], "whole"))
    bands = np.array([_quantiles(row, own) for row in chances])
    ends = [_estimate(edge[tells], own) for edge in ((a + b) / 2, a, b)]
    low, chance, high = (tuple(bands[:, i].tolist()) for i in range(3))
    return BestTime(tuple(minutes.tolist()), chance, low, high, ends[0], ends[1], ends[2], len(seen))


def _quantiles(values: Array, weight: Array) -> Array:
    """A tenth, the half and nine tenths of some weighed values."""
    order = np.argsort(values)
    return np.interp((0.1, 0.5, 0.9), np.cumsum(weight[order]), values[order])


def _estimate(log_minutes: Array, weight: Array) -> Estimate:
    low, likely, high = np.exp(_quantiles(log_minutes, weight))
    return Estimate(float(low), float(likely), float(high), "learned")
