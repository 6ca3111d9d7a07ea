"""How heat goes into a bar and out of it. SI inside; lengths in mm and times in s at the border."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from ..ground.arrays import Array
from ..ground.errors import ENDLESS, OutOfRange, require

TERMS = 40  # of the series; what is left out is below 1e-9 from the first ten-thousandth on
BENDS_AT_C = 85.0  # the core must reach this, whatever the chamber holds. Grade: allowance.
NEAR_CHAMBER_C = 10.0  # and come as near to the chamber as this
MOST_MOISTURE_PCT = 25.0  # up to which the published properties hold
SURFACE_W_M2K = 25.0  # heat a hot surface gives to still shop air. Grade: allowance.
WORKABLE_C = 80.0  # below this at the surface the window is shut


@dataclass(frozen=True, slots=True)
class Thermal:
    """Conductivity W/mK, heat capacity J/kgK, density kg/m³, and what follows, diffusivity m²/s."""

    conductivity: float
    capacity: float
    density: float

    @property
    def diffusivity(self) -> float:
        """k / (ρ c), m²/s."""
        return self.conductivity / (self.density * self.capacity)


def thermal(*, specific_gravity: float, moisture_pct: float, temperature_c: float) -> Thermal:
    """Properties of wood: k = G (0.1941 + 0.004064 M) + 0.01864; c from c₀ = 0.1031 + 0.003867 T (K), moisture and
    its correction; ρ = 1000 G (1 + M/100).

    Valid: M to 25 % (beyond, the value for 25 %; a finding says so), G 0.05 to 1.5. Raises: OutOfRange.
    Source: Wood Handbook, moisture relations and thermal properties; docs/model.md#steam. Grade: published.

    >>> round(thermal(specific_gravity=0.6, moisture_pct=12, temperature_c=60).conductivity, 3)
    0.164
    """
    says = "Wood has a specific gravity and a moisture of zero or more."
    require("stock.moisture_pct", specific_gravity, 0.05, 1.5, says=says)
    require("stock.moisture_pct", moisture_pct, 0, 500, "%", says=says)
    require("heat.chamber_c", temperature_c, -60, 250, "°C")
    m, kelvin = min(moisture_pct, MOST_MOISTURE_PCT), temperature_c + 273.15
    k = specific_gravity * (0.1941 + 0.004064 * m) + 0.01864
    dry = 0.1031 + 0.003867 * kelvin
    c = (dry + 0.0418 * m) / (1 + 0.01 * m) + m * (-0.06191 + 2.36e-4 * kelvin - 1.33e-4 * m)
    return Thermal(k, c * 1000, 1000 * specific_gravity * (1 + m / 100))


def slab_share(times_s: Array, *, thickness_mm: float, diffusivity: float) -> Array:
    """Share of the first difference still left in the middle of a slab whose faces were put at a temperature.

    4/π Σ (−1)^k / (2k+1) exp(−(2k+1)² π² α t / L²). times_s: (n,), below 0 as 0. Valid: thickness and diffusivity above
    0. Raises: OutOfRange. Source: conduction of heat, series solution.

    >>> round(float(slab_share(np.array([600.0]), thickness_mm=25, diffusivity=1.5e-7)[0]), 3)
    0.307
    """
    require("part.thickness_mm", thickness_mm, 0, ENDLESS, "mm", above=True)
    require("stock.moisture_pct", diffusivity, 0, 1e-3, "m²/s", above=True)
    require("heat.own_min", float(np.abs(times_s).max()), 0, ENDLESS, "s")
    k = np.arange(TERMS)
    odd = 2 * k + 1
    fourier = diffusivity * np.maximum(np.asarray(times_s, dtype=float), 0.0) / (thickness_mm / 1000) ** 2
    terms = (-1.0) ** k / odd * np.exp(-(odd**2) * math.pi**2 * fourier[..., None])
    return np.asarray(np.where(fourier > 1e-4, 4 / math.pi * terms.sum(-1), 1.0))


@dataclass(frozen=True, slots=True)
class Bar:
    """A bar of a × b in a chamber: mm, °C, m²/s. Valid: sizes above 0, −60 to 250 °C. Raises: OutOfRange."""

    thickness_mm: float
    width_mm: float
    diffusivity: float
    start_c: float
    chamber_c: float

    def __post_init__(self) -> None:
        require("shop.temperature_c", self.start_c, -60, 250, "°C")
        require("heat.chamber_c", self.chamber_c, -60, 250, "°C")

    def core_c(self, times_s: Array) -> Array:
        """(n,) temperature in the middle: the product of two slabs. Raises: OutOfRange. Source: conduction of heat.
        Grade: physics.

        >>> Bar(25, 25, 1.5e-7, 20, 100).core_c(np.array([600.0])).round(1)
        array([92.4])
        """
        left = slab_share(times_s, thickness_mm=self.thickness_mm, diffusivity=self.diffusivity) * slab_share(
            times_s, thickness_mm=self.width_mm, diffusivity=self.diffusivity
        )
        return np.asarray(self.chamber_c - (self.chamber_c - self.start_c) * left)

    @property
    def goal_c(self) -> float:
        """The core is through when it is within 10 °C of the chamber and at 85 °C at least."""
        return max(self.chamber_c - NEAR_CHAMBER_C, BENDS_AT_C)

    def heat_through_s(self) -> float:
        """Time until the core is through, s. Raises: OutOfRange where the chamber never gets it there. Grade: physics.

        >>> bar = Bar(25, 50, 1.5e-7, 20, 100)
        >>> float(bar.core_c(np.array([bar.heat_through_s()]))[0].round(3)) == bar.goal_c
        True
        """
        if self.chamber_c <= BENDS_AT_C:
            raise OutOfRange(
                "heat.chamber_c",
                "A chamber of {own} is not ready: the core must reach {least}.",
                temperatures_c={"own": self.chamber_c, "least": BENDS_AT_C},
            )
        return 0.0 if self.start_c >= self.goal_c else _through_s(self)


@lru_cache(maxsize=256)
def _through_s(bar: Bar) -> float:
    """When the core reaches its goal: many times looked at together, the stretch that holds it looked at again."""
    low, high = 0.0, 0.0
    looked: Array = 60.0 * 2.0 ** np.arange(21, dtype=float)
    hot = np.flatnonzero(bar.core_c(looked) >= bar.goal_c)
    if not hot.size:
        raise OutOfRange("heat.chamber_c", "The core never comes near enough to the chamber.")
    high = float(looked[hot[0]])
    low = float(looked[hot[0] - 1]) if hot[0] else 0.0
    while high - low > 1e-9 * high:
        looked = np.linspace(low, high, 65)
        first = int(np.flatnonzero(bar.core_c(looked) >= bar.goal_c)[0])
        low, high = float(looked[max(0, first - 1)]), float(looked[first])
    return high


@lru_cache(maxsize=64)
def core_chart(bar: Bar, until_min: float, points: int) -> tuple[tuple[float, ...], tuple[float, ...]]:
    """Minutes from 0 to some time, evenly, and the core's temperature at each. Valid: 2 points or more."""
    minutes = np.linspace(0, until_min, points)
    return tuple(minutes.tolist()), tuple(bar.core_c(minutes * 60).tolist())


@lru_cache(maxsize=64)
def working_window_s(
    *, thickness_mm: float, conductivity: float, capacity: float, density: float, hot_c: float, air_c: float
) -> float:
    """Seconds until the surface of a bar, hot through, falls below 80 °C in shop air.

    One direction through the thickness, both faces losing h (T − air), h = 25 W/m²K; finite differences, implicit.
    Valid: hot above 80 °C, air below. Raises: OutOfRange. Source: conduction of heat. Grade: physics on allowance.

    >>> ash = thermal(specific_gravity=0.6, moisture_pct=20, temperature_c=60)
    >>> k, c, d = ash.conductivity, ash.capacity, ash.density
    >>> thin = working_window_s(thickness_mm=0.2, conductivity=k, capacity=c, density=d, hot_c=100, air_c=20)
    >>> round(thin / (d * c * 0.0002 / 2 / SURFACE_W_M2K * math.log(80 / 60)), 1)  # so thin that it cools as one
    1.0
    """
    says = "Wood that is not above 80 °C has no working window."
    require("heat.chamber_c", hot_c, WORKABLE_C, 250, "°C", above=True, says=says)
    require("shop.temperature_c", air_c, -60, WORKABLE_C - 1e-9, "°C", says=says)
    for value in (thickness_mm, conductivity, capacity, density):
        require("part.thickness_mm", value, 0, ENDLESS, above=True)
    cells = 40
    dx = thickness_mm / 1000 / 2 / cells  # half the bar, its middle insulated
    biot = SURFACE_W_M2K * dx / conductivity
    step = max(0.02, min(2.0, (thickness_mm / 20) ** 2 * 0.25))
    fo = conductivity / (density * capacity) * step / dx**2
    # temperatures at cell faces 0 (surface) … cells (middle); implicit in time
    main = np.full(cells + 1, 1 + 2 * fo)
    main[0] = 1 + 2 * fo * (1 + biot)
    upper, lower = np.full(cells, -fo), np.full(cells, -fo)
    upper[0], lower[-1] = -2 * fo, -2 * fo
    from scipy.linalg import solve_banded

    bands = np.zeros((3, cells + 1))
    bands[0, 1:], bands[1], bands[2, :-1] = upper, main, lower
    now = np.full(cells + 1, hot_c)
    before, elapsed = hot_c, 0.0
    for _ in range(20_000):
        right = now.copy()
        right[0] += 2 * fo * biot * air_c
        now = solve_banded((1, 1), bands, right, check_finite=False)
        elapsed += step
        if now[0] < WORKABLE_C:
            return float(elapsed - step * (WORKABLE_C - now[0]) / max(1e-9, before - now[0]))
        before = float(now[0])
    return float(elapsed)
