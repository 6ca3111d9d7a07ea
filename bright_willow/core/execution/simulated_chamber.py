"""A steam chamber that is not there: what its thermometer shows, for rehearsals, games and simulated probes."""

from __future__ import annotations

from dataclasses import dataclass, replace

from ..common.errors import ENDLESS, check_range
from ..heat.chamber import STEAM_KG_PER_KWH
from ..heat.steam_plan import SteamHeat
from ..plan.result import Plan

OPEN_TAU_S, SHUT_TAU_S = 10.0, 40.0  # how quickly the air inside follows, door open and shut. Grade: allowance.
OPEN_LEFT = 0.35  # of the walls' warmth that the air keeps while the door is open. Grade: allowance.
DRAUGHT = 1.5  # times the loss of the walls, once no steam comes: the vent lets air in. Grade: allowance.
MOST_STEP_S = 5.0


@dataclass(frozen=True, slots=True)
class SimulatedChamber:
    """A chamber as one warm mass with steam in it. °C, kW, W/K, J/K, litres.

    Valid: power, loss, mass and water above 0, air below boiling. Raises: PlanError.
    """

    air_c: float
    boiling_c: float
    power_kw: float
    loss_w_k: float
    stores_j_k: float
    reservoir_l: float

    def __post_init__(self) -> None:
        check_range("shop.temperature_c", self.air_c, -60, self.boiling_c, "°C")
        for value in (self.power_kw, self.loss_w_k, self.stores_j_k, self.reservoir_l):
            check_range("heat.power_kw", value, 0, ENDLESS, above=True)

    @property
    def holds_c(self) -> float:
        """What it holds in the end: where loss and power meet, never above boiling."""
        return min(self.boiling_c, self.air_c + 1000 * self.power_kw / self.loss_w_k)


@dataclass(frozen=True, slots=True)
class Inside:
    """How it stands: warmth of the walls, of the air where the thermometer hangs, water left."""

    wall_c: float
    air_c: float
    water_l: float


def cold(chamber: SimulatedChamber) -> Inside:
    """Before it is lit, filled."""
    return Inside(chamber.air_c, chamber.air_c, chamber.reservoir_l)


def stepped(
    chamber: SimulatedChamber, now: Inside, step_s: float, *, is_lit: bool, is_open: bool = False, leak_l_h: float = 0.0
) -> Inside:
    """How it stands a moment later: C dT/dt = P − UA (T − air), no warmer than it can hold; P while there is water.

    Valid: a step of 0 s or more (long ones are cut). Raises: PlanError. Source: balance of heat; docs/model.md#bench.
    Grade: physics on allowance.

    >>> box = SimulatedChamber(20.0, 100.0, 2.0, 10.0, 40_000.0, 5.0)
    >>> now = cold(box)
    >>> for _ in range(60):
    ...     now = stepped(box, now, 60.0, is_lit=True)
    >>> round(now.wall_c), round(now.water_l, 1)
    (100, 2.6)
    """
    check_range("heat.power_kw", step_s, 0, ENDLESS, "s")
    check_range("heat.reservoir_l", leak_l_h, 0, ENDLESS)
    left = step_s
    while left > 0:
        step = min(left, MOST_STEP_S)
        now = _step(chamber, now, step, is_lit, is_open, leak_l_h)
        left -= step
    return now


def _step(
    chamber: SimulatedChamber, now: Inside, step_s: float, is_lit: bool, is_open: bool, leak_l_h: float
) -> Inside:
    steams = is_lit and now.water_l > 0
    power = 1000 * chamber.power_kw if steams else 0.0
    loss = chamber.loss_w_k * (1.0 if steams else DRAUGHT) * (now.wall_c - chamber.air_c)
    wall = min(now.wall_c + (power - loss) * step_s / chamber.stores_j_k, chamber.holds_c)
    towards = chamber.air_c + OPEN_LEFT * (wall - chamber.air_c) if is_open else wall
    share = min(1.0, step_s / (OPEN_TAU_S if is_open else SHUT_TAU_S))
    rise = (wall - chamber.air_c) / (chamber.boiling_c - chamber.air_c)
    used = STEAM_KG_PER_KWH * chamber.power_kw * rise if steams else 0.0
    water = max(0.0, now.water_l - (used + leak_l_h) * step_s / 3600)
    return Inside(wall, now.air_c + (towards - now.air_c) * share, water)


def topped_up(chamber: SimulatedChamber, now: Inside) -> Inside:
    """Filled again."""
    return replace(now, water_l=chamber.reservoir_l)


def simulated_chamber(plan: Plan) -> SimulatedChamber | None:
    """The stand-in for a plan's chamber, which warms up as long as planned; none where nothing is steamed."""
    heat = plan.hot.heat if plan.hot else None
    if not isinstance(heat, SteamHeat):
        return None
    box, air = heat.chamber, plan.shop.temperature_c
    high, wide, long = (mm / 1000 for mm in box.inside_mm)
    loss = box.wall.u_w_m2k * 2 * (high * wide + wide * long + long * high)
    power = plan.job.heat.power_kw
    rise = heat.steam.boiling_c - air
    minutes = box.warm_up_min or 60.0
    stores = max(1_000.0, minutes * 60 * (1000 * power - loss * rise / 2) / rise)
    return SimulatedChamber(air, heat.steam.boiling_c, power, loss, stores, plan.job.heat.reservoir_l)
