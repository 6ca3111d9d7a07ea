"""Whether hot stock can make a bend: the strain it may take, its chance to come out whole, and what would help."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from ..common.arrays import Array
from ..common.errors import ENDLESS, check_range
from ..common.estimate import Grade
from ..job.job import Stock
from ..wood.grain import wood_factor
from ..wood.species import Species

FREE_STRETCH = 0.02  # that steamed wood takes without a strap, where there is no figure. Grade: allowance.
STRAP_CRUSH = 0.25  # shortening that it takes in a strap
# Of the least R/T of free steamed wood, what a strip over dry heat takes, by thickness. Grade: allowance.
DRY_AT_MM, DRY_SHARES = (3.0, 6.0), (0.7, 1.0)
DRY_THICK_MM, DRY_MOST_MM = 6.0, 10.0  # above the first a Check, above the second the skin scorches first
BACKING_TIMES = 2.0  # a backing held by hand takes half of the stretch off. Grade: allowance.
COMFORT = 0.84  # share of the limit that is taken without worry. Grade: allowance.
TIGHT_USE, NEAR_USE, BREAKS_USE = 0.85, 1.1, 1.5  # fits up to, near the limit up to, some break up to
STRENGTH_SD = 0.2  # of the logarithm of strength, from piece to piece. Grade: allowance.
AT_LIMIT = 1.645  # standard deviations: 95 % come out whole at the limit, which is how the limit is defined
EASY_USE = 0.5  # up to which a bend tells nothing of how a wood breaks
# Thin stock stretches further: (25 mm / T)^0.2, within these. Grade: allowance.
SIZE_AT_MM, SIZE_POWER, LEAST_SIZE, MOST_SIZE = 25.0, 0.2, 0.75, 1.5
# Moves longer than the working time: less by so much of how far they are over, no less than half. Grade: allowance.
SLOW_SHARE, LEAST_SLOW = 0.25, 0.5
USUAL_MOISTURE = {"green": 30.0, "air_dried": 16.0, "kiln_dried": 9.0}  # %. Grade: allowance.
# Of the strain, by moisture in %. Grade: allowance. Source: docs/model.md#heat-limits.
MOISTURE_AT, MOISTURE_SHARES = (8.0, 12.0, 20.0), (0.6, 0.85, 1.0)
KILN_DRIED = {"none": 0.6, "overnight": 0.65, "days": 0.8}  # by how it was soaked, where nobody measured it


def moisture_of(stock: Stock) -> float:
    """Moisture of the stock, %: as measured, or as usual for its dryness (then an allowance)."""
    return stock.moisture_pct if stock.moisture_pct is not None else USUAL_MOISTURE[stock.dryness]


def moisture_factor(*, dryness: str, soaked: str, moisture_pct: float | None) -> float:
    """Return the share of the strain that wood so moist takes, bent free.

    20 % and more 1.0, evenly down to 0.85 at 12 %, then to 0.6 at 8 %. Kiln-dried 0.6, soaked overnight 0.65, for days
    0.8. A measured moisture is used instead wherever there is one. Valid: 0 to 200 %. Raises: PlanError.
    Grade: allowance. Source: docs/model.md#heat-limits.

    >>> moisture_factor(dryness="kiln_dried", soaked="days", moisture_pct=None)
    0.8
    >>> moisture_factor(dryness="air_dried", soaked="none", moisture_pct=16)
    0.925
    """
    wet = USUAL_MOISTURE[dryness] if moisture_pct is None else moisture_pct
    check_range("stock.moisture_pct", wet, 0, 200, "%")
    if moisture_pct is None and dryness == "kiln_dried":
        return KILN_DRIED[soaked]
    return float(np.interp(wet, MOISTURE_AT, MOISTURE_SHARES))


def size_factor(thickness_mm: float) -> float:
    """Return how much further than 25 mm stock steamed wood of a thickness stretches: (25/T)^0.2, 0.75 to 1.5.

    Valid: thickness above 0. Raises: PlanError. Grade: allowance. Source: docs/model.md#heat-limits.

    >>> round(size_factor(6.35), 3), size_factor(25.0), size_factor(1.0), size_factor(400.0)
    (1.315, 1.0, 1.5, 0.75)
    """
    check_range("part.thickness_mm", thickness_mm, 0, ENDLESS, "mm", above=True)
    return float(min(MOST_SIZE, max(LEAST_SIZE, (SIZE_AT_MM / thickness_mm) ** SIZE_POWER)))


def slow_factor(moves_share: float) -> float:
    """Return what is left of the limit where the moves take so many times the working time: 1 up to 1, 0.5 at least.

    Valid: 0 or more. Raises: PlanError. Grade: allowance. Source: docs/model.md#heat-limits.

    >>> slow_factor(0.8), slow_factor(2.0), slow_factor(9.0)
    (1.0, 0.75, 0.5)
    """
    check_range("heat.moves", moves_share, 0, ENDLESS)
    return max(LEAST_SLOW, 1 - SLOW_SHARE * max(0.0, moves_share - 1))


def chance_whole(use: float) -> float:
    """Return the chance that a piece comes out whole: Φ(1.645 − ln(u)/0.2).

    use: strain over the strain allowed, 0 or more. Strength is log-normal, and at u = 1 no more than 5 % break: that
    is what the limit means. Raises: PlanError. Source: docs/model.md#heat-limits. Grade: allowance.

    >>> round(chance_whole(1.0), 2), round(chance_whole(1.2), 2), round(chance_whole(1.6), 2)
    (0.95, 0.77, 0.24)
    """
    check_range("stock.species", use, 0, ENDLESS)
    if use <= 0:
        return 1.0
    return 0.5 * math.erfc(-(AT_LIMIT - math.log(use) / STRENGTH_SD) / math.sqrt(2))


def dry_share(thickness_mm: float) -> float:
    """Of the least R/T of free steamed wood, what a strip bent over dry heat takes: 0.7 to 3 mm, 1.0 from 6 mm.

    Valid: thickness above 0. Raises: PlanError. Grade: allowance. Source: docs/model.md#dry-heat.

    >>> dry_share(2.0), round(dry_share(4.5), 2), dry_share(9.0)
    (0.7, 0.85, 1.0)
    """
    check_range("part.thickness_mm", thickness_mm, 0, ENDLESS, "mm", above=True)
    return float(np.interp(thickness_mm, DRY_AT_MM, DRY_SHARES))


@dataclass(frozen=True, slots=True)
class HotLimit:
    """The strain this stock may take, and what it is made of.

    table: least R/T of the species (R of the inside), for dry heat its share; without data from 2 % stretch or 25 %
    shortening, which without_data names. Free, the outside is stretched by ε = 1/(2 R/T + 1); in a strap the inside is
    shortened by ε = 1/(R/T + 1). grain, size, moisture, backing and slow act on that strain. least: a strap's R/T,
    which no backing beats. unbroken: share of steamed pieces of this wood that came out whole, used only without data.
    """

    table: float
    has_data: bool
    grain: float
    moisture: float
    grade: Grade
    without_data: str
    has_strap: bool = False
    backing: float = 1.0
    least: float = 0.0
    size: float = 1.0
    slow: float = 1.0
    unbroken: float | None = None

    @classmethod
    def of(
        cls,
        wood: Species,
        stock: Stock,
        *,
        thickness_mm: float,
        soaked: str,
        has_strap: bool,
        is_dry_heat: bool = False,
        is_backed: bool = False,
        moves_share: float = 0.0,
    ) -> HotLimit:
        """Return the limit of a wood as it is in this job. A strap keeps run-out and dryness from opening the wood, so
        half of their loss is left in one.

        Args:
            wood: the species.
            stock: its dryness, grain and moisture.
            thickness_mm: of what is bent, above 0.
            soaked: none, overnight or days.
            has_strap: whether stops keep its outside from stretching.
            is_dry_heat: over an iron or under a blanket, not steamed.
            is_backed: with a backing strip held by hand.
            moves_share: seconds of moves over the working time, 0 or more.
        """
        free, crushed = 1 / (2 * FREE_STRETCH) - 0.5, 1 / STRAP_CRUSH - 1
        own, without = (wood.rt_strap, crushed) if has_strap else (wood.rt_free, free)
        grain = wood_factor(stock.grain_slope, figured=stock.figured)
        moist = 1.0
        if not is_dry_heat:
            moist = moisture_factor(dryness=stock.dryness, soaked=soaked, moisture_pct=stock.moisture_pct)
        unbroken = wood.steam_unbroken_pct if own is None and not is_dry_heat else None
        return cls(
            (without if own is None else own) * (dry_share(thickness_mm) if is_dry_heat else 1.0),
            own is not None,
            1 - (1 - grain) / 2 if has_strap else grain,
            1 - (1 - moist) / 2 if has_strap else moist,
            wood.bend_grade or "allowance",
            "25 % compression" if has_strap else "2 % stretch",
            has_strap,
            BACKING_TIMES if is_backed else 1.0,
            crushed if wood.rt_strap is None else wood.rt_strap,
            # a strap presses, and dry heat's share holds the size already
            1.0 if has_strap or is_dry_heat else size_factor(thickness_mm),
            slow_factor(moves_share),
            None if unbroken is None else unbroken / 100,
        )

    @property
    def allowed(self) -> float:
        """Strain this stock may take: stretch of the outside, in a strap shortening of the inside."""
        of_table = 1 / (self.table + 1) if self.has_strap else 1 / (2 * self.table + 1)
        return of_table * self.grain * self.size * self.moisture * self.backing * self.slow

    def ratio_at(self, share: float) -> float:
        """Return the inside radius over thickness at a share of the strain allowed. Valid: above 0. Raises: PlanError.

        >>> round(HotLimit(10, True, 1.0, 1.0, "published", "").ratio_at(1.0), 6)
        10.0
        """
        check_range("stock.species", share, 0, ENDLESS, above=True)
        check_range("stock.species", self.allowed, 0, ENDLESS, above=True)
        strain = share * self.allowed
        if self.has_strap:
            return max(1 / strain - 1, 0.0)
        return max((1 / strain - 1) / 2, self.least if self.backing > 1 else 0.0)

    @property
    def needed(self) -> float:
        """Least inside radius over thickness for this stock."""
        return self.ratio_at(1.0)

    def use(self, change: Array, thickness_mm: float) -> Array:
        """Return (n,) strain over the strain allowed; 1 is the limit. change: (n,) size of the curvature put in, 1/mm.

        Valid: thickness above 0. Raises: PlanError. Source: docs/model.md#heat-limits.

        >>> HotLimit(10, True, 1.0, 1.0, "published", "").use(np.array([1 / 210, 0.0]), 20).round(6)
        array([1., 0.])
        """
        check_range("part.thickness_mm", thickness_mm, 0, ENDLESS, "mm", above=True)
        check_range("stock.species", self.needed, 0, ENDLESS, above=True)
        check_range("shape", float(change.max()), 0, ENDLESS, "1/mm")
        bent = change * thickness_mm  # T over the radius of the centerline
        strain = bent / (1 + bent / 2) if self.has_strap else bent / 2
        allowed = 1 / (self.needed + 1) if self.has_strap else 1 / (2 * self.needed + 1)
        return np.asarray(np.where(change < 1e-9, 0.0, strain / allowed))

    def chance(self, use: float) -> float:
        """Return the chance of a whole piece at a use of the limit: from R/T where the species has it, else no better
        than the share of its steamed pieces that came out whole, once the bend is not an easy one.
        """
        by_strain = chance_whole(use)
        if self.unbroken is None or use <= EASY_USE:
            return by_strain
        return min(by_strain, self.unbroken)


@dataclass(frozen=True, slots=True)
class LimitFigures:
    """Whether the stock can make the bend: R/T as it is and as it must be, at the tightest place.

    ratio: least inside radius over thickness, on the form. chance: of a whole piece. thinner_mm and gentler_mm (inside
    radius) each bring it within the limit with ease.
    """

    ratio: float
    table: float
    has_data: bool
    needed: float
    grain_factor: float
    moisture_factor: float
    size_factor: float
    slow_factor: float
    chance: float
    at_mm: float
    thinner_mm: float
    gentler_mm: float
    unbroken_pct: float | None
    grade: Grade
    without_data: str


def thickest_mm(use_at: Callable[[float], float], *, near_mm: float, up_to_mm: float) -> float:
    """Return the thickness, in tenths of a mm, that takes a bend with ease: the last with use_at(thickness) up to 0.84.

    use_at: use of the limit at a thickness, rising with it. near_mm: where to begin, above 0; it changes how many
    thicknesses are tried, not the answer. Valid: up_to_mm above 0.5, which is also the least answer.
    Raises: PlanError. Grade: allowance.

    >>> thickest_mm(lambda mm: mm / 10, near_mm=5, up_to_mm=20)
    8.4
    """
    check_range("part.thickness_mm", up_to_mm, 0, ENDLESS, "mm", above=True)
    check_range("part.thickness_mm", near_mm, 0, ENDLESS, "mm", above=True)
    low, above = 5, max(5, math.floor(up_to_mm * 10 + 1e-9)) + 1
    wanted, tries = min(near_mm, up_to_mm) * 10, 0
    while above - low > 1:  # the use rises about as the thickness does: few trials; by halves where it does not
        trial = (low + above) // 2 if tries > 4 else min(above - 1, max(low + 1, math.floor(wanted)))
        check_range("stock.species", use := use_at(trial / 10), 0, ENDLESS)
        low, above = (trial, above) if use <= COMFORT + 1e-12 else (low, trial)
        wanted, tries = (trial * COMFORT / use if use > 0 else above), tries + 1
    return low / 10
