"""Whether hot stock takes a curve: least radius over thickness, lowered by grain and moisture."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from ..ground.arrays import Array
from ..ground.errors import ENDLESS, require
from ..ground.estimate import Grade
from ..job.job import Stock
from ..wood.grain import wood_factor
from ..wood.species import Species

FREE_STRETCH = 0.02  # that steamed wood stands without a strap, where there is no figure. Grade: allowance.
STRAP_CRUSH = 0.25  # shortening that it stands against a strap
# Of the least R/T of free steamed wood, what a strip over dry heat takes, by thickness. Grade: allowance.
DRY_AT_MM, DRY_SHARES = (3.0, 6.0), (0.7, 1.0)
DRY_THICK_MM, DRY_MOST_MM = 6.0, 10.0  # above the first watched, above the second the skin scorches first
BACKING_TIMES = 2.0  # a backing held by hand takes half of the stretch off. Grade: allowance.
COMFORT = 0.84  # share of the limit that is taken without worry. Grade: allowance.
TIGHT_USE, BREAKS_USE = 0.85, 1.0
USUAL_MOISTURE = {"green": 30.0, "air_dried": 16.0, "kiln_dried": 9.0}  # %. Grade: allowance.
# Of the strain, by moisture in %. Grade: allowance. Source: docs/model.md#heat-limits.
MOISTURE_AT, MOISTURE_SHARES = (8.0, 12.0, 20.0), (0.6, 0.85, 1.0)
KILN_DRIED, SOAKED_DAYS = 0.6, 0.8  # of kiln-dried stock, and of such stock soaked for days


def moisture_of(stock: Stock) -> float:
    """Moisture of the stock, %: as measured, or as usual for its dryness (then an allowance)."""
    return stock.moisture_pct if stock.moisture_pct is not None else USUAL_MOISTURE[stock.dryness]


def moisture_factor(*, dryness: str, soaked: str, moisture_pct: float | None) -> float:
    """Share of the strain that wood so moist stands: 20 % and more 1.0, evenly down to 0.85 at 12 %, then to 0.6 at 8.

    Kiln-dried 0.6, soaked for days 0.8; soaked stock whose moisture is measured goes by it, up to 0.8.
    Valid: 0 to 200 %. Raises: OutOfRange. Grade: allowance. Source: docs/model.md#heat-limits.

    >>> moisture_factor(dryness="kiln_dried", soaked="days", moisture_pct=None)
    0.8
    >>> moisture_factor(dryness="air_dried", soaked="none", moisture_pct=16)
    0.925
    """
    wet = USUAL_MOISTURE[dryness] if moisture_pct is None else moisture_pct
    require("stock.moisture_pct", wet, 0, 200, "%")
    by_moisture = float(np.interp(wet, MOISTURE_AT, MOISTURE_SHARES))
    if dryness != "kiln_dried":
        return by_moisture
    if soaked == "none" or moisture_pct is None:
        return SOAKED_DAYS if soaked == "days" else KILN_DRIED
    return min(by_moisture, SOAKED_DAYS)


def dry_share(thickness_mm: float) -> float:
    """Of the least R/T of free steamed wood, what a strip bent over dry heat takes: 0.7 to 3 mm, 1.0 from 6 mm.

    Valid: thickness above 0. Raises: OutOfRange. Grade: allowance. Source: docs/model.md#dry-heat.

    >>> dry_share(2.0), round(dry_share(4.5), 2), dry_share(9.0)
    (0.7, 0.85, 1.0)
    """
    require("part.thickness_mm", thickness_mm, 0, ENDLESS, "mm", above=True)
    return float(np.interp(thickness_mm, DRY_AT_MM, DRY_SHARES))


@dataclass(frozen=True, slots=True)
class HotLimit:
    """The least R/T this stock takes, and what it is made of. R of the inside, T the thickness.

    table: of the species, for dry heat its share; without data, from 2 % stretch or 25 % shortening, which without_data
    names. Free, the outside is stretched by ε = 1/(2 R/T + 1); in a strap the inside is shortened by ε = 1/(R/T + 1).
    grain, moisture, backing act on that strain. least: a strap's R/T, which no backing beats.
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

    @classmethod
    def of(
        cls,
        wood: Species,
        stock: Stock,
        *,
        soaked: str,
        has_strap: bool,
        dry_mm: float | None = None,
        is_backed: bool = False,
    ) -> HotLimit:
        """The limit of a wood as it is in this job. A strap keeps run-out from opening, so half of its loss is left.

        dry_mm: the thickness, where it is bent over dry heat.
        """
        free, crushed = 1 / (2 * FREE_STRETCH) - 0.5, 1 / STRAP_CRUSH - 1
        own, without = (wood.rt_strap, crushed) if has_strap else (wood.rt_free, free)
        factor = wood_factor(stock.grain_slope, figured=stock.figured)
        moist = 1.0
        if dry_mm is None:
            moist = moisture_factor(dryness=stock.dryness, soaked=soaked, moisture_pct=stock.moisture_pct)
        return cls(
            (without if own is None else own) * (1.0 if dry_mm is None else dry_share(dry_mm)),
            own is not None,
            1 - (1 - factor) / 2 if has_strap else factor,
            moist,
            wood.bend_grade or "allowance",
            "a quarter of shortening" if has_strap else "two hundredths of stretch",
            has_strap,
            BACKING_TIMES if is_backed else 1.0,
            crushed if wood.rt_strap is None else wood.rt_strap,
        )

    @property
    def allowed(self) -> float:
        """The strain this stock stands: stretch of the outside, in a strap shortening of the inside."""
        of_table = 1 / (self.table + 1) if self.has_strap else 1 / (2 * self.table + 1)
        return of_table * self.grain * self.moisture * self.backing

    def ratio_at(self, share: float) -> float:
        """Inside radius over thickness at a share of the strain it stands. Valid: above 0. Raises: OutOfRange.

        >>> round(HotLimit(10, True, 1.0, 1.0, "published", "").ratio_at(1.0), 6)
        10.0
        """
        require("stock.species", share, 0, ENDLESS, above=True)
        require("stock.species", self.allowed, 0, ENDLESS, above=True)
        strain = share * self.allowed
        if self.has_strap:
            return max(1 / strain - 1, 0.0)
        return max((1 / strain - 1) / 2, self.least if self.backing > 1 else 0.0)

    @property
    def needed(self) -> float:
        """Least inside radius over thickness for this stock."""
        return self.ratio_at(1.0)

    def use(self, change: Array, thickness_mm: float) -> Array:
        """(n,) strain over the strain it stands; 1 is the limit. change: (n,) size of the curvature put in, 1/mm.

        Valid: thickness above 0. Raises: OutOfRange. Source: docs/model.md#heat-limits.

        >>> HotLimit(10, True, 1.0, 1.0, "published", "").use(np.array([1 / 210, 0.0]), 20).round(6)
        array([1., 0.])
        """
        require("part.thickness_mm", thickness_mm, 0, ENDLESS, "mm", above=True)
        require("stock.species", self.needed, 0, ENDLESS, above=True)
        require("shape", float(change.max()), 0, ENDLESS, "1/mm")
        bent = change * thickness_mm  # T over the radius of the mid-line
        strain = bent / (1 + bent / 2) if self.has_strap else bent / 2
        allowed = 1 / (self.needed + 1) if self.has_strap else 1 / (2 * self.needed + 1)
        return np.asarray(np.where(change < 1e-9, 0.0, strain / allowed))


@dataclass(frozen=True, slots=True)
class LimitFigures:
    """Whether the stock can take the curve: R/T as it is and as it must be, at the tightest place.

    ratio: least inside radius over thickness, on the form. thinner_mm and gentler_mm (inside radius) each clear it.
    """

    ratio: float
    table: float
    has_data: bool
    needed: float
    grain_factor: float
    moisture_factor: float
    at_mm: float
    thinner_mm: float
    gentler_mm: float
    unbroken_pct: float | None
    grade: Grade
    without_data: str


def thinner_mm(*, wanted: float, thickness_mm: float, needed: float, set_strain: float) -> float:
    """The thickness at which the same inside radius is R/T = needed, its own springback allowed for, in tenths.

    wanted: curvature of the mid-line, 1/mm. Valid: all above 0. Raises: OutOfRange. Grade: allowance.

    >>> thinner_mm(wanted=1 / 120, thickness_mm=20, needed=11.9, set_strain=0.012)
    7.8
    """
    for name, value in (("part.thickness_mm", thickness_mm), ("part.thickness_mm", needed), ("heat", set_strain)):
        require(name, value, 0, ENDLESS, above=True)
    require("shape", wanted, 0, 1.0, "1/mm")
    T = thickness_mm
    inside = 1 / max(wanted, 1e-12) - T / 2
    for _ in range(40):
        on_form = 1 / (1 / (inside + T / 2) + set_strain / T) - T / 2
        T = 0.5 * T + 0.5 * max(0.5, on_form / needed)
    return math.floor(T * 10) / 10
