"""What pieces go on opening in the weeks after release, learnt from pieces measured again: by class of glue, of hot
bends by dryness.

A piece of curvature κ₁ when it was first measured comes to κ(t) = κ∞ + (κ₁ − κ∞) e^(−t/τ): of it the share
s(t) = 1 − κ(t)/κ₁ = s∞ (1 − e^(−t/τ)) is gone. s∞ of a class is normal about the allowance; its pieces scatter about
it; τ is one of a row of times, weighed by how well each fits. Source: docs/model.md#settling.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from ..common.arrays import Array
from ..common.errors import ENDLESS, check_range
from ..common.estimate import Estimate

LEAST_SD, SD_OF_ALLOWED = (
    0.005,
    0.5,
)  # of a shop's share about the allowance, and of each share of it. Grade: allowance.
PIECES_SD = 0.004  # by which pieces of one class differ. Grade: allowance.
TAU_DAYS, TAU_SD = 14.0, 0.7  # how long it takes, and the spread of its logarithm. Grade: allowance.
TAUS = np.exp(np.linspace(math.log(1.5), math.log(120.0), 40))
ANY_SD = 0.06  # of a share before anything is known of its glue: it tells τ and share apart. Grade: allowance.
LEAST_DAYS = 0.5  # sooner than that after the first, a measurement says nothing of weeks
MOST_SHARE = 0.5
TOLD = 0.05  # of ln τ, below which pieces said nothing of it
BAND = 1.2816  # of the normal: eight in ten


@dataclass(frozen=True, slots=True)
class Remeasurement:
    """A piece measured again: days since it was first, the share of its curvature gone since, and the error of that."""

    days: float
    share: float
    error: float


def settled_curvature(released: Array, share: float) -> Array:
    """κ∞ = κ₁ (1 − s∞). released: any shape, 1/mm, finite; share: −0.5 to 0.99. Raises: PlanError.

    >>> settled_curvature(np.array([0.002]), 0.05)
    array([0.0019])
    """
    check_range("build_up.adhesive", share, -MOST_SHARE, 0.99)
    check_range("shape", float(np.abs(released).max()), 0, ENDLESS, "1/mm")
    return np.asarray(released * (1 - share))


def prior_sd(allowed: float) -> float:
    """By how much a shop's share may differ from what is allowed for: half of it, and a little. Grade: allowance."""
    return LEAST_SD + SD_OF_ALLOWED * abs(allowed)


@dataclass(frozen=True, slots=True)
class Settling:
    """What pieces of a class say of s∞ without any allowance: mean and variance; how many pieces, and days to τ."""

    mean: float = 0.0
    variance: float = math.inf
    pieces: int = 0
    tau_days: float = TAU_DAYS

    def with_allowance(self, allowed: float) -> Estimate:
        """The share the next piece gives up over weeks, shrunk to what is allowed for; eight in ten fall between.

        allowed: −0.5 to 0.99. Raises: PlanError.

        >>> Settling().with_allowance(0.02).likely
        0.02
        >>> round(Settling(0.05, 1e-4, 6).with_allowance(0.02).likely, 3)
        0.041
        """
        check_range("build_up.adhesive", allowed, -MOST_SHARE, 0.99)
        check_range("build_up.adhesive", self.mean, -MOST_SHARE, MOST_SHARE)
        check_range("build_up.adhesive", self.variance, 0, ENDLESS)
        check_range("build_up.adhesive", self.pieces, 0, ENDLESS)
        prior = prior_sd(allowed) ** 2
        weight = 0.0 if math.isinf(self.variance) else prior / (prior + self.variance)
        mean = allowed + weight * (self.mean - allowed)
        half = BAND * math.sqrt((1 - weight) * prior + PIECES_SD**2)
        return Estimate(mean - half, mean, mean + half, "learned" if self.pieces else "allowance")

    @property
    def half_days(self) -> float:
        """Days until half of it is gone. Grade: learned."""
        return self.tau_days * math.log(2)

    @property
    def says_when(self) -> bool:
        """Whether pieces told anything of how long it takes."""
        return abs(math.log(self.tau_days / TAU_DAYS)) > TOLD

    def after(self, days: float, share: float) -> float:
        """What is gone after so many days, of a piece that gives up a share in all. Valid: 0 days or more. Raises:
        PlanError."""
        check_range("build_up.adhesive", days, 0, ENDLESS)
        return share * (1 - math.exp(-days / self.tau_days))


def learn_settling(seen: Iterable[tuple[str, list[Remeasurement]]]) -> dict[str, Settling]:
    """What pieces measured again say, by class. seen: class and later measurements of each piece.

    Of one piece all measurements share how much it gives up; normal in the share, summed over τ on a row of times.
    """
    by_class: dict[str, list[list[Remeasurement]]] = defaultdict(list)
    for name, rows in seen:
        told = [r for r in rows if r.days >= LEAST_DAYS and r.error > 0 and abs(r.share) < 1]
        if told:
            by_class[name].append(told)
    return {name: _settling(pieces) for name, pieces in by_class.items()}


def _settling(pieces: list[list[Remeasurement]]) -> Settling:
    """For each τ the pieces are a normal of the share; τ is weighed by how likely it makes them."""
    logs = -0.5 * (np.log(TAUS / TAU_DAYS) / TAU_SD) ** 2
    precision, weighed = np.full(TAUS.size, 1 / ANY_SD**2), np.zeros(TAUS.size)
    by_count: dict[int, list[list[Remeasurement]]] = defaultdict(list)
    for rows in pieces:
        by_count[len(rows)].append(rows)
    for alike in by_count.values():
        told = np.array([[(r.days, r.share, r.error) for r in rows] for rows in alike])
        days, share, error = told[..., 0], told[..., 1], told[..., 2]  # (pieces, n) each
        f = 1 - np.exp(-days[:, None, :] / TAUS[None, :, None])  # (pieces, τ, n)
        # all of one piece are measured against the same first measurement: half of each error is shared
        own = error[:, :, None] * error[:, None, :] / 2 * (1 + np.eye(days.shape[1]))
        cover = own[:, None] + PIECES_SD**2 * f[..., :, None] * f[..., None, :]
        given = np.broadcast_to(share[:, None, :], f.shape)
        solved = np.linalg.solve(cover, np.stack((f, given), axis=-1))
        a, b = (f * solved[..., 0]).sum(-1), (f * solved[..., 1]).sum(-1)
        c = (given * solved[..., 1]).sum(-1)
        logs = logs - 0.5 * (c + np.linalg.slogdet(cover)[1]).sum(axis=0)
        precision = precision + a.sum(axis=0)
        weighed = weighed + b.sum(axis=0)
    logs = logs + 0.5 * weighed**2 / precision - 0.5 * np.log(precision)
    weight = np.exp(logs - logs.max())
    weight /= weight.sum()
    means, variances = weighed / precision, 1 / precision
    mean = float(weight @ means)
    variance = float(weight @ (variances + (means - mean) ** 2))
    tau = float(np.exp(weight @ np.log(TAUS)))
    return Settling(max(-MOST_SHARE, min(MOST_SHARE, mean)), variance, len(pieces), tau)
