"""Bending hot: what each way by heat is, what its stock takes, and what it keeps of the bend."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..ground.arrays import Array
from ..job.job import Job
from ..laws.hot_set import EARLY_TIMES, SET_STRAIN, SetLaw
from ..shape.curve import Curve
from ..shop.shop import Shop
from ..wood.grain import wood_factor
from ..wood.species import Species, species

Source = Literal["steam", "iron", "blanket"]
FREE_STRETCH = 0.02  # that steamed wood stands without a strap, where there is no figure. Grade: allowance.
STRAP_CRUSH = 0.25  # shortening that it stands against a strap
DRY_TIMES = 1.35  # how much gentler than steamed wood a dry, hot strip must be bent. Grade: allowance.


@dataclass(frozen=True)
class HeatWay:
    """One row of the table of ways by heat."""

    key: str
    name: str
    says: str
    source: Source
    has_strap: bool
    set_key: str


HEAT_WAYS: dict[str, HeatWay] = {
    w.key: w
    for w in (
        HeatWay(
            "steam_free",
            "Steamed solid, free",
            "Solid stock steamed and bent by hand, nothing to hold its outside together.",
            "steam",
            False,
            "free",
        ),
        HeatWay(
            "steam_strap",
            "Steamed solid, with a strap",
            "Solid stock steamed and bent inside a steel strap whose stops keep the outside from stretching.",
            "steam",
            True,
            "strap",
        ),
        HeatWay(
            "dry_heat",
            "Hot iron or pipe",
            "Thin strips bent by hand over dry heat, bend by bend.",
            "iron",
            False,
            "dry",
        ),
        HeatWay(
            "blanket",
            "Heat blanket and slats",
            "A thin strip between spring-steel slats under a heat blanket, drawn over a mould.",
            "blanket",
            True,
            "dry",
        ),
        HeatWay(
            "straighten",
            "Straightening",
            "A bowed piece heated and bent past straight; the shape is the bow it has.",
            "steam",
            False,
            "free",
        ),
    )
}
# Share of the strain allowed at 20–30 % moisture. Grade: allowance. Source: docs/model.md#steam.
USUAL_MOISTURE = {"green": 30.0, "air_dried": 16.0, "kiln_dried": 9.0}


def moisture_factor(*, dryness: str, soaked: str, moisture_pct: float | None) -> float:
    """20 to 30 % 1.0; air-dried 0.85; kiln-dried soaked for days 0.8, overnight or not at all 0.6; a measured moisture
    counts for air-dried and green stock. Grade: allowance.

    >>> moisture_factor(dryness="kiln_dried", soaked="days", moisture_pct=None)
    0.8
    """
    if dryness == "kiln_dried":
        return 0.8 if soaked == "days" else 0.6
    wet = USUAL_MOISTURE[dryness] if moisture_pct is None else moisture_pct
    return 1.0 if wet >= 20 else 0.85 if wet >= 12 else 0.6


@dataclass(frozen=True, eq=False)
class HeatBend:
    """A way by heat set up for a job: the wood, its limits, and the law of what it keeps."""

    job: Job
    shop: Shop
    wood: Species
    way: HeatWay
    law: SetLaw

    @classmethod
    def for_job(cls, job: Job, shop: Shop, target: Curve | None = None) -> HeatBend:
        """Raises: OutOfRange for a wood that is not in the tables. The start is the share of the target there is."""
        way = HEAT_WAYS[job.way]
        d = SET_STRAIN[way.set_key].likely * (EARLY_TIMES if job.heat.early else 1.0)
        start: Array | float = 0.0
        if target is not None:
            share = 1.0 if job.way == "straighten" else job.heat.start_share
            start = target.curvature * share
        return cls(job, shop, species(job.stock.species, shop.woods), way, SetLaw(job.part.thickness_mm, d, start))

    @property
    def group(self) -> str:
        """Stock group under which its bends are learnt: species and dryness."""
        return f"{self.wood.key}|{self.job.stock.dryness}"

    def release(self, form_curvature: Array, *, loss_ratio: float | Array = 1.0) -> Array:
        return self.law.release(form_curvature, loss_ratio=loss_ratio)

    def form_curvature_for(self, target: Array, *, loss_ratio: float = 1.0) -> Array:
        return self.law.form_curvature_for(target, loss_ratio=loss_ratio)

    def settled(self, released: Array) -> Array:
        return self.law.settled(released)

    @property
    def table_ratio(self) -> tuple[float, bool]:
        """Least R/T of the table for this way, and whether the species has the figure."""
        own = self.wood.rt_strap if self.way.has_strap else self.wood.rt_free
        dry = DRY_TIMES if self.way.source != "steam" else 1.0
        if own is not None:
            return own * dry, True
        # without data: stretch T / 2(R + T/2) or shortening T / (R + T), R of the inside
        return ((1 / STRAP_CRUSH - 1) if self.way.has_strap else (1 / (2 * FREE_STRETCH) - 0.5)) * dry, False

    @property
    def grain(self) -> float:
        """Factor of grain and figure; a strap keeps run-out from opening, so half of the loss is left with it."""
        factor = wood_factor(self.job.stock.grain_slope, figured=self.job.stock.figured)
        return 1 - (1 - factor) / 2 if self.way.has_strap else factor

    @property
    def moisture(self) -> float:
        """Factor of moisture."""
        if self.way.source != "steam":
            return 1.0
        stock = self.job.stock
        return moisture_factor(dryness=stock.dryness, soaked=self.job.heat.soaked, moisture_pct=stock.moisture_pct)

    @property
    def needed_ratio(self) -> float:
        """Least inside radius over thickness for this stock."""
        return self.table_ratio[0] / (self.grain * self.moisture)

    def use(self, form_curvature: Array) -> Array:
        """(n,) needed R/T over the R/T there is, from the curvature the piece starts with: 1 is the limit."""
        change = np.abs(form_curvature - self.law.start)
        inside = 1 / np.maximum(change, 1e-12) - self.job.part.thickness_mm / 2
        with np.errstate(divide="ignore"):
            use = self.needed_ratio * self.job.part.thickness_mm / np.maximum(inside, 1e-9)
        return np.asarray(np.where(change < 1e-9, 0.0, use))
