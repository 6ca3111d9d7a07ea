"""How heat goes into a bar and out of it. SI inside; lengths in mm and times in s at the border."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from ..common.arrays import Array
from ..common.errors import ENDLESS, PlanError, check_range

TERMS = 40  # of the series; what is left out is below 1e-9 from the first ten-thousandth on
BENDS_AT_C = 85.0  # the core must reach this, where water boils hotter. Grade: allowance.
NEAR_CHAMBER_C = 10.0  # and come as near to the chamber as this
MOST_MOISTURE_PCT = 25.0  # up to which the published properties hold
SURFACE_W_M2K = 25.0  # heat a hot surface gives to still shop air. Grade: allowance.
WINDOW_DROP_K = 12.0  # that the section may lose before it no longer bends well. Grade: allowance.


@dataclass(frozen=True, slots=True)
class ThermalProperties:
    """Conductivity W/mK, heat capacity J/kgK, density kg/m³, and what follows, diffusivity m²/s."""

    conductivity: float
    capacity: float
    density: float

    @property
    def diffusivity(self) -> float:
        """k / (ρ c), m²/s."""
        return self.conductivity / (self.density * self.capacity)


def thermal(*, specific_gravity: float, moisture_pct: float, temperature_c: float) -> ThermalProperties:
    """Properties of wood: k = G (0.1941 + 0.004064 M) + 0.01864; c from c₀ = 0.1031 + 0.003867 T (K), moisture and
    its correction; ρ = 1000 G (1 + M/100).

    Valid: M to 25 % (beyond, the value for 25 %; a finding says so), G 0.05 to 1.5. Raises: PlanError.
    Source: Wood Handbook, moisture relations and thermal properties; docs/model.md#steam. Grade: published.

    >>> round(thermal(specific_gravity=0.6, moisture_pct=12, temperature_c=60).conductivity, 3)
    0.164
    """
    message = "Wood has a specific gravity and a moisture of zero or more."
    check_range("stock.moisture_pct", specific_gravity, 0.05, 1.5, message=message)
    check_range("stock.moisture_pct", moisture_pct, 0, 500, "%", message=message)
    check_range("heat.chamber_c", temperature_c, -60, 250, "°C")
    m, kelvin = min(moisture_pct, MOST_MOISTURE_PCT), temperature_c + 273.15
    k = specific_gravity * (0.1941 + 0.004064 * m) + 0.01864
    dry = 0.1031 + 0.003867 * kelvin
    c = (dry + 0.0418 * m) / (1 + 0.01 * m) + m * (-0.06191 + 2.36e-4 * kelvin - 1.33e-4 * m)
    return ThermalProperties(k, c * 1000, 1000 * specific_gravity * (1 + m / 100))


def slab_share(times_s: Array, *, thickness_mm: float, diffusivity: float) -> Array:
    """Share of the first difference still left in the middle of a slab whose faces were put at a temperature.

    4/π Σ (−1)^k / (2k+1) exp(−(2k+1)² π² α t / L²). times_s: (n,), below 0 as 0. Valid: thickness and diffusivity above
    0. Raises: PlanError. Source: conduction of heat, series solution.

    >>> round(float(slab_share(np.array([600.0]), thickness_mm=25, diffusivity=1.5e-7)[0]), 3)
    0.307
    """
    check_range("part.thickness_mm", thickness_mm, 0, ENDLESS, "mm", above=True)
    check_range("stock.moisture_pct", diffusivity, 0, 1e-3, "m²/s", above=True)
    check_range("heat.own_min", float(np.abs(times_s).max()), 0, ENDLESS, "s")
    k = np.arange(TERMS)
    odd = 2 * k + 1
    fourier = diffusivity * np.maximum(np.asarray(times_s, dtype=float), 0.0) / (thickness_mm / 1000) ** 2
    terms = (-1.0) ** k / odd * np.exp(-(odd**2) * math.pi**2 * fourier[..., None])
    return np.asarray(np.where(fourier > 1e-4, 4 / math.pi * terms.sum(-1), 1.0))


@dataclass(frozen=True, slots=True)
class HeatedBar:
    """A bar of a × b in a chamber: mm, °C, m²/s. least_c: what its middle must reach at least.

    Valid: sizes above 0, −60 to 250 °C. Raises: PlanError.
    """

    thickness_mm: float
    width_mm: float
    diffusivity: float
    start_c: float
    chamber_c: float
    least_c: float = BENDS_AT_C

    def __post_init__(self) -> None:
        check_range("shop.temperature_c", self.start_c, -60, 250, "°C")
        check_range("heat.chamber_c", self.chamber_c, -60, 250, "°C")

    def core_c(self, times_s: Array) -> Array:
        """(n,) temperature in the middle: the product of two slabs. Raises: PlanError. Source: conduction of heat.
        Grade: physics.

        >>> HeatedBar(25, 25, 1.5e-7, 20, 100).core_c(np.array([600.0])).round(1)
        array([92.4])
        """
        left = slab_share(times_s, thickness_mm=self.thickness_mm, diffusivity=self.diffusivity) * slab_share(
            times_s, thickness_mm=self.width_mm, diffusivity=self.diffusivity
        )
        return np.asarray(self.chamber_c - (self.chamber_c - self.start_c) * left)

    @property
    def goal_c(self) -> float:
        """The core is through within 10 °C of the chamber, and at 85 °C at least where water boils so hot."""
        return max(self.chamber_c - NEAR_CHAMBER_C, self.least_c)

    def heat_through_s(self) -> float:
        """Time until the core is through, s. Raises: PlanError where the chamber never gets it there. Grade: physics.

        >>> bar = HeatedBar(25, 50, 1.5e-7, 20, 100)
        >>> float(bar.core_c(np.array([bar.heat_through_s()]))[0].round(3)) == bar.goal_c
        True
        """
        if self.chamber_c <= self.least_c:
            raise PlanError(
                "heat.chamber_c",
                "A steam box at {own} is too cool: the core must reach {least}.",
                temperatures_c={"own": self.chamber_c, "least": self.least_c},
            )
        return 0.0 if self.start_c >= self.goal_c else _through_s(self)


@lru_cache(maxsize=256)
def _through_s(bar: HeatedBar) -> float:
    """When the core reaches its goal: many times looked at together, the stretch that holds it looked at again."""
    low, high = 0.0, 0.0
    looked: Array = 60.0 * 2.0 ** np.arange(21, dtype=float)
    hot = np.flatnonzero(bar.core_c(looked) >= bar.goal_c)
    if not hot.size:
        raise PlanError("heat.chamber_c", "The core never gets close to the box temperature.")
    high = float(looked[hot[0]])
    low = float(looked[hot[0] - 1]) if hot[0] else 0.0
    while high - low > 1e-9 * high:
        looked = np.linspace(low, high, 65)
        first = int(np.flatnonzero(bar.core_c(looked) >= bar.goal_c)[0])
        low, high = float(looked[max(0, first - 1)]), float(looked[first])
    return high


@lru_cache(maxsize=64)
def core_chart(bar: HeatedBar, until_min: float, points: int) -> tuple[tuple[float, ...], tuple[float, ...]]:
    """Minutes from 0 to some time, evenly, and the core's temperature at each. Valid: 2 points or more."""
    minutes = np.linspace(0, until_min, points)
    return tuple(minutes.tolist()), tuple(bar.core_c(minutes * 60).tolist())


@lru_cache(maxsize=64)
def working_window_s(
    *,
    thickness_mm: float,
    width_mm: float,
    conductivity: float,
    capacity: float,
    density: float,
    hot_c: float,
    air_c: float,
) -> float:
    """Seconds until a bar, hot through, has lost too much of its heat to bend: 12 K of its section's temperature, each
    place weighed by its distance from the mid-line, for that is where bending strength lies.

    Four faces lose h (T − air), h = 25 W/m²K. What is left is the product of two slabs, through the thickness weighed
    by |y|, across the width in the mean; each by finite differences, implicit. Valid: hot above the air by more than
    12 K. Raises: PlanError. Source: conduction of heat; docs/model.md#steam. Grade: physics on allowance.

    >>> ash = thermal(specific_gravity=0.6, moisture_pct=20, temperature_c=95)
    >>> k, c, d = ash.conductivity, ash.capacity, ash.density
    >>> thin = working_window_s(thickness_mm=0.2, width_mm=500, conductivity=k, capacity=c, density=d, hot_c=100,
    ...     air_c=20)
    >>> round(thin / (d * c * 0.0002 / 2 / SURFACE_W_M2K * math.log(80 / 68)), 1)  # so thin that it cools as one
    1.0
    """
    message = "Wood no hotter than the air has no working time."
    check_range("shop.temperature_c", air_c, -60, 250, "°C")
    check_range("heat.chamber_c", hot_c, air_c + WINDOW_DROP_K, 250, "°C", above=True, message=message)
    for value in (thickness_mm, width_mm, conductivity, capacity, density):
        check_range("part.thickness_mm", value, 0, ENDLESS, above=True)
    share = 1 - WINDOW_DROP_K / (hot_c - air_c)
    # a body that cools as one would take so long; no section loses its heat sooner than in a hundredth of that
    lumped = density * capacity / SURFACE_W_M2K * -math.log(share) / (2000 / thickness_mm + 2000 / width_mm)
    step, elapsed, before = lumped / 120, 0.0, 1.0
    through = _cooling(thickness_mm, conductivity, capacity * density, step, weighed=True)
    across = _cooling(width_mm, conductivity, capacity * density, step, weighed=False)
    for _ in range(2_000):
        now = next(through) * next(across)
        elapsed += step
        if now < share:
            return float(elapsed - step * (share - now) / max(1e-12, before - now))
        before = now
    return float(elapsed)


def _cooling(
    size_mm: float, conductivity: float, heat_j_m3k: float, step_s: float, *, weighed: bool
) -> Iterator[float]:
    """Share of the heat left in a slab both of whose faces cool, step by step; weighed by the distance from its middle,
    or the plain mean."""
    from scipy.linalg import solve_banded

    cells = 40
    dx = size_mm / 1000 / 2 / cells  # half the slab, its middle insulated
    biot = SURFACE_W_M2K * dx / conductivity
    fo = conductivity / heat_j_m3k * step_s / dx**2
    # temperatures at cell faces 0 (surface) … cells (middle); implicit in time
    main = np.full(cells + 1, 1 + 2 * fo)
    main[0] = 1 + 2 * fo * (1 + biot)
    bands = np.zeros((3, cells + 1))
    bands[0, 1:], bands[1], bands[2, :-1] = -fo, main, -fo
    bands[0, 1], bands[2, -2] = -2 * fo, -2 * fo
    weights = 1 - np.arange(cells + 1) / cells if weighed else np.ones(cells + 1)
    weights[[0, -1]] *= 0.5
    weights /= weights.sum()
    now = np.ones(cells + 1)
    while True:
        now = solve_banded((1, 1), bands, now, check_finite=False)
        yield float(weights @ now)
