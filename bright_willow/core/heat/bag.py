"""Bent in the bag: how long it is pulled while it steams, pull by pull, and how long the steam goes on at full bend."""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..common.errors import ENDLESS, check_range

MIN_PER_25_MM = 20.0  # of pulling, and again of steam at full bend. Grade: allowance. Source: docs/model.md#in-the-bag.
PULL_EVERY_MIN = 4.0  # from one pull to the next: the wood gives meanwhile. Grade: allowance.
FEWEST_PULLS, MOST_PULLS = 3, 40
WATER_SHARE, WATER_MOST_MIN = 0.5, 30.0  # look at the water at half of what it lasts, or every half hour


@dataclass(frozen=True, slots=True)
class BagBend:
    """The stages of a bend in the bag once it is heated through: minutes of pulling, in so many pulls, then of steam at
    full bend. water_every_min: how often to look at the water. Grade: allowance."""

    pull_min: float
    pulls: int
    hold_min: float
    water_every_min: float

    @property
    def each_min(self) -> float:
        """Minutes from one pull to the next."""
        return self.pull_min / self.pulls


def bag_bend(*, thickness_mm: float, reservoir_h: float) -> BagBend:
    """Return the stages of a bend in the bag: 20 min of pulls and 20 min at full bend for each 25 mm of thickness.

    Valid: thickness and reservoir above 0. Raises: PlanError. Grade: allowance. Source: docs/model.md#in-the-bag.

    >>> bag_bend(thickness_mm=25.0, reservoir_h=2.0)
    BagBend(pull_min=20.0, pulls=5, hold_min=20.0, water_every_min=30.0)
    """
    check_range("part.thickness_mm", thickness_mm, 0, ENDLESS, "mm", above=True)
    check_range("heat.reservoir_l", reservoir_h, 0, ENDLESS, "h", above=True)
    minutes = MIN_PER_25_MM * thickness_mm / 25.0
    pulls = min(MOST_PULLS, max(FEWEST_PULLS, math.ceil(minutes / PULL_EVERY_MIN)))
    return BagBend(minutes, pulls, minutes, min(WATER_MOST_MIN, 60 * WATER_SHARE * reservoir_h))
