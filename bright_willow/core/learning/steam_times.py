"""How long pieces were steamed at this shop's own bench, and how they came out."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from ..common.errors import ENDLESS, check_range
from ..common.estimate import Estimate

ALIKE = 1.15  # times as thick or as thin: still the same stock. Grade: allowance.
FEW = 3  # pieces that came out whole before a time is proposed


@dataclass(frozen=True, slots=True)
class SteamedSample:
    """One piece: stock (species and dryness), thickness, minutes in the steam, whether it came out whole."""

    group: str
    thickness_mm: float
    minutes: float
    is_whole: bool


@dataclass(frozen=True, slots=True)
class OwnTrials:
    """What this shop's pieces of such stock say. minutes: of those that came out whole, eight in ten between. Grade:
    learned."""

    count: int
    whole: int
    minutes: Estimate | None


def own_trials(pieces: Iterable[SteamedSample], *, group: str, thickness_mm: float) -> OwnTrials:
    """Pieces of the same stock, no more than 15 % thicker or thinner. Valid: thickness above 0. Raises: PlanError.

    >>> seen = [SteamedSample("ash|green", 20.0, m, m > 20) for m in (10.0, 30.0, 32.0, 34.0)]
    >>> made = own_trials(seen, group="ash|green", thickness_mm=21.0)
    >>> made.count, made.whole, made.minutes.likely
    (4, 3, 32.0)
    """
    check_range("part.thickness_mm", thickness_mm, 0, ENDLESS, "mm", above=True)
    alike = [
        p for p in pieces if p.group == group and 1 / ALIKE <= p.thickness_mm / thickness_mm <= ALIKE and p.minutes > 0
    ]
    whole = [p.minutes for p in alike if p.is_whole]
    if len(whole) < FEW:
        return OwnTrials(len(alike), len(whole), None)
    low, likely, high = (float(v) for v in np.quantile(whole, (0.1, 0.5, 0.9)))
    return OwnTrials(len(alike), len(whole), Estimate(low, likely, high, "learned"))
