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
DRY_TIMES = 1.35  # how much gentler than steamed wood a dry, hot strip must be bent. Grade: allowance.
COMFORT = 0.84  # share of the limit that is taken without worry. Grade: allowance.
TIGHT_USE, BREAKS_USE = 0.85, 1.0
USUAL_MOISTURE = {"green": 30.0, "air_dried": 16.0, "kiln_dried": 9.0}  # %. Grade: allowance.
SOAKED_FACTOR = {"days": 0.8}  # of kiln-dried stock; overnight or not at all 0.6. Source: docs/model.md#steam.


def moisture_of(stock: Stock) -> float:
    """Moisture of the stock, %: as measured, or as usual for its dryness (then an allowance)."""
    return stock.moisture_pct if stock.moisture_pct is not None else USUAL_MOISTURE[stock.dryness]


def moisture_factor(*, dryness: str, soaked: str, moisture_pct: float | None) -> float:
    """20 to 30 % 1.0; air-dried 0.85; kiln-dried soaked for days 0.8, overnight or not at all 0.6; a measured moisture
    counts for air-dried and green stock. Valid: 0 to 200 %. Raises: OutOfRange. Grade: allowance.

    >>> moisture_factor(dryness="kiln_dried", soaked="days", moisture_pct=None)
    0.8
    >>> moisture_factor(dryness="air_dried", soaked="none", moisture_pct=18)
    0.85
    """
    if dryness == "kiln_dried":
        return SOAKED_FACTOR.get(soaked, 0.6)
    wet = USUAL_MOISTURE[dryness] if moisture_pct is None else moisture_pct
    require("stock.moisture_pct", wet, 0, 200, "%")
    return 1.0 if wet >= 20 else 0.85 if wet >= 12 else 0.6


@dataclass(frozen=True, slots=True)
class HotLimit:
    """The least R/T this stock takes, and what it is made of. R of the inside, T the thickness.

    table: of the species; without data, from 2 % stretch (T / (2R + T)) or 25 % shortening (T / (R + T)), which
    without_data names.
    """

    table: float
    has_data: bool
    grain: float
    moisture: float
    grade: Grade
    without_data: str

    @classmethod
    def of(cls, wood: Species, stock: Stock, *, soaked: str, has_strap: bool, is_dry: bool) -> HotLimit:
        """The limit of a wood as it is in this job. A strap keeps run-out from opening, so half of its loss is left."""
        own = wood.rt_strap if has_strap else wood.rt_free
        without = (1 / STRAP_CRUSH - 1) if has_strap else (1 / (2 * FREE_STRETCH) - 0.5)
        factor = wood_factor(stock.grain_slope, figured=stock.figured)
        moist = 1.0
        if not is_dry:
            moist = moisture_factor(dryness=stock.dryness, soaked=soaked, moisture_pct=stock.moisture_pct)
        return cls(
            (without if own is None else own) * (DRY_TIMES if is_dry else 1.0),
            own is not None,
            1 - (1 - factor) / 2 if has_strap else factor,
            moist,
            wood.bend_grade or "allowance",
            "a quarter of shortening" if has_strap else "two hundredths of stretch",
        )

    @property
    def needed(self) -> float:
        """Least inside radius over thickness for this stock."""
        return self.table / (self.grain * self.moisture)

    def use(self, change: Array, thickness_mm: float) -> Array:
        """(n,) needed R/T over the R/T there is; 1 is the limit. change: (n,) size of the curvature put in, 1/mm.

        Valid: thickness above 0. Raises: OutOfRange. Source: docs/model.md#heat-limits.

        >>> HotLimit(10, True, 1.0, 1.0, "published", "").use(np.array([1 / 210, 0.0]), 20).round(6)
        array([1., 0.])
        """
        require("part.thickness_mm", thickness_mm, 0, ENDLESS, "mm", above=True)
        require("stock.species", self.needed, 0, ENDLESS, above=True)
        require("shape", float(change.max()), 0, ENDLESS, "1/mm")
        inside = 1 / np.maximum(change, 1e-12) - thickness_mm / 2
        with np.errstate(divide="ignore"):
            use = self.needed * thickness_mm / np.maximum(inside, 1e-9)
        return np.asarray(np.where(change < 1e-9, 0.0, use))


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
    """The thickness at which the same inside radius is taken with comfort, its own springback allowed for, in tenths.

    wanted: curvature of the mid-line, 1/mm. Valid: all above 0. Raises: OutOfRange. Grade: allowance.

    >>> thinner_mm(wanted=1 / 120, thickness_mm=20, needed=10, set_strain=0.012)
    7.8
    """
    for name, value in (("part.thickness_mm", thickness_mm), ("part.thickness_mm", needed), ("heat", set_strain)):
        require(name, value, 0, ENDLESS, above=True)
    require("shape", wanted, 0, 1.0, "1/mm")
    T = thickness_mm
    inside = 1 / max(wanted, 1e-12) - T / 2
    for _ in range(40):
        on_form = 1 / (1 / (inside + T / 2) + set_strain / T) - T / 2
        T = 0.5 * T + 0.5 * max(0.5, COMFORT * on_form / needed)
    return math.floor(T * 10) / 10
