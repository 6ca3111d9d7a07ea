"""Glue as it is used here: its times at the temperature it is spread at, its parts, its pots."""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..common.errors import ENDLESS, PlanError, check_range
from ..job.glue_up_choice import GlueUp
from ..shop.shop import Shop
from .adhesive import Adhesive
from .glue_timing import CLOSED_TIMES, at_temperature

POT_G = 900.0  # of a glue that sets in the pot, more of which grows hot there. Grade: allowance.


@dataclass(frozen=True, slots=True)
class GlueTimes:
    """What a glue stands at a temperature, seconds. from_sheet: whether the maker typed a data sheet's open time."""

    temperature_c: float
    open_s: float
    closed_s: float
    pot_s: float | None
    from_sheet: bool


def glue_times(glue: Adhesive, choice: GlueUp, shop: Shop) -> GlueTimes:
    """Open time, closed time and pot life where it is spread: of the data sheet where it was typed, else of the kind.

    Both are for 20 °C. Raises: PlanError. Source: docs/model.md#pressing. Grade: allowance; the data sheet wins.
    """
    warm = shop.temperature_c if choice.temperature_c is None else choice.temperature_c
    stays = (choice.open_min or glue.open_min) * 60
    closed = choice.closed_min * 60 if choice.closed_min else CLOSED_TIMES * stays
    pot = choice.pot_min or glue.pot_life_min
    return GlueTimes(
        warm,
        at_temperature(stays, warm),
        at_temperature(closed, warm),
        at_temperature(pot * 60, warm) if pot else None,
        choice.open_min is not None,
    )


def parts_of(mass_g: float, to_hundred: float) -> tuple[float, float]:
    """Resin and hardener of a mix, so many parts of hardener to 100 of resin. Valid: mass 0 or more, parts above 0.

    Raises: PlanError. Source: arithmetic.

    >>> parts_of(260.0, 30.0)
    (200.0, 60.0)
    """
    check_range("glue_up.by_weight", mass_g, 0, ENDLESS, "g")
    message = "Enter the parts of hardener to 100 of resin, above zero."
    check_range("glue_up.by_weight", to_hundred, 0, ENDLESS, above=True, message=message)
    resin = mass_g / (1 + to_hundred / 100)
    return resin, mass_g - resin


def batches(mass_g: float, most_g: float) -> int:
    """Pots of glue, none heavier than stays cool. Valid: 0 or more; most above 0. Raises: PlanError.

    >>> batches(1858.0, 800.0)
    3
    """
    check_range("build_up.adhesive", mass_g, 0, ENDLESS, "g")
    check_range("build_up.adhesive", most_g, 0, ENDLESS, "g", above=True)
    return max(1, math.ceil(mass_g / most_g))


@dataclass(frozen=True, slots=True)
class GlueMix:
    """The glue of one go: grams in all, pots, and of each pot resin and hardener by weight; by volume its parts.

    problem: why it cannot be said how it is mixed.
    """

    mass_g: float
    pots: int
    resin_g: float | None
    hardener_g: float | None
    by_volume: float | None
    problem: PlanError | None

    @property
    def pot_g(self) -> float:
        return self.mass_g / self.pots


def mix(glue: Adhesive, choice: GlueUp, mass_g: float) -> GlueMix:
    """How one go is mixed. A glue of two parts wants the ratio of its data sheet: it differs from maker to maker.

    Valid: 0 g or more. Raises: PlanError. Source: docs/model.md#pressing.
    """
    pots = batches(mass_g, POT_G) if glue.pot_life_min or choice.pot_min else 1
    if glue.parts == 1:
        return GlueMix(mass_g, pots, None, None, None, None)
    if choice.by_weight:
        resin, hardener = parts_of(mass_g / pots, choice.by_weight)
        return GlueMix(mass_g, pots, resin, hardener, choice.by_volume, None)
    problem = None
    if not choice.by_volume:
        message = "This is a two-part glue: enter the parts of hardener to 100 of resin."
        problem = PlanError("glue_up.by_weight", message)
    return GlueMix(mass_g, pots, None, None, choice.by_volume, problem)
