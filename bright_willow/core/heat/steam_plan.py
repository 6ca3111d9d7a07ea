"""The steam: how long, how hot, how it is kept hot, and how long it leaves to bend."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from ..common.errors import PlanError
from ..common.operation import Move, Warming
from ..job.heat_choice import Heat
from ..job.job import Job
from ..shop.shop import Shop
from ..shop.times import Times
from ..wood.species import Species
from .bag import BagBend
from .boiling import boiling_point_c
from .chamber import WALLS, Chamber, chamber, proposed_size
from .conduction import BENDS_AT_C, HeatedBar, core_chart, thermal, working_window_s
from .handling import moves_of
from .limits import moisture_of
from .steam_time import DRYNESS_FACTOR, SteamTime, SteamTimeQuery, cool_factor, steam_time
from .strap_mechanics import Strap

CHART_POINTS = 121
MOST_LOADS = 12
WARM_UP_H = 0.75  # of steam before and after. Grade: allowance.
BELOW_BOILING_K = 4.0  # of the core, where the chamber itself cannot be hotter. Grade: allowance.


@dataclass(frozen=True, slots=True)
class HotStock:
    """What is made hot: pieces of one wood and section, as rough as they go in. Lengths mm."""

    wood: Species
    thickness_mm: float
    width_mm: float
    length_mm: float
    pieces: int


@dataclass(frozen=True, slots=True)
class Load:
    """One piece of a load, in minutes from the first going in: in, earliest, planned, latest out."""

    piece: int
    in_min: float
    earliest_min: float
    planned_min: float
    latest_min: float | None


@dataclass(frozen=True, slots=True)
class Chart:
    """Core temperature against time: minutes and °C, and the goal."""

    minutes: tuple[float, ...]
    core_c: tuple[float, ...]
    goal_c: float
    chamber_c: float


@dataclass(frozen=True, slots=True)
class Steam:
    """The steam plan: boiling point here, times, chart, soaking, properties used, the bar that is warmed."""

    boiling_c: float
    chamber_c: float
    time: SteamTime
    chart: Chart
    moisture_pct: float
    diffusivity_m2_s: float
    soak_text: str
    loads: tuple[Load, ...]
    window_s: float
    handling_s: float
    moves: tuple[Move, ...]
    warms: Warming


@dataclass(frozen=True, slots=True)
class SteamHeat:
    """Steam, the box that holds it, and the strap, where it is bent in one. in_box: what is in the box at a time; bag:
    the stages of a bend in the bag, where it is bent while it is steamed."""

    steam: Steam
    chamber: Chamber
    strap: Strap | None
    in_box: HotStock
    bag: BagBend | None = None

    @property
    def in_bag(self) -> bool:
        """Whether it is bent while it is steamed."""
        return self.bag is not None

    @property
    def window_s(self) -> float | None:
        """How long it bends well out of the steam; None where it is bent in it, and nothing hurries."""
        return None if self.in_bag else self.steam.window_s


def steam_for(stock: HotStock, job: Job, shop: Shop, *, has_strap: bool = False) -> Steam:
    """Times, temperatures and moves for some stock. Raises: PlanError where it never gets hot through."""
    heat = job.heat
    boiling = boiling_point_c(shop.altitude_m)
    chamber_c = min(heat.chamber_c, boiling)
    moisture = moisture_of(job.stock)
    sg = stock.wood.sg12
    warm = thermal(specific_gravity=sg, moisture_pct=moisture, temperature_c=(chamber_c + shop.temperature_c) / 2)
    least = min(BENDS_AT_C, boiling - BELOW_BOILING_K)  # high up water boils cooler: that alone stops nothing
    bar = HeatedBar(stock.thickness_mm, stock.width_mm, warm.diffusivity, shop.temperature_c, chamber_c, least)
    through = bar.heat_through_s() / 60
    factor = DRYNESS_FACTOR[job.stock.dryness, heat.soaked]
    time = steam_time(
        SteamTimeQuery(stock.thickness_mm, through, heat.soak_min, heat.own_min, factor, cool_factor(chamber_c)),
        heat.school,
    )
    until = 1.25 * max(time.planned_min, time.earliest_min, *(m for _, _, m in time.by_school))
    minutes, core = core_chart(bar, until, CHART_POINTS)
    hot = thermal(specific_gravity=sg, moisture_pct=moisture, temperature_c=chamber_c - 5)
    window = working_window_s(
        thickness_mm=stock.thickness_mm,
        width_mm=stock.width_mm,
        conductivity=hot.conductivity,
        capacity=hot.capacity,
        density=hot.density,
        hot_c=chamber_c,
        air_c=shop.temperature_c,
    )
    moves = moves_of(heat, strap_s=Times(shop).seconds("into_strap") if has_strap else None)
    handling = moves[-1].to_s
    return Steam(
        boiling_c=boiling,
        chamber_c=chamber_c,
        time=time,
        chart=Chart(minutes, core, bar.goal_c, chamber_c),
        moisture_pct=moisture,
        diffusivity_m2_s=warm.diffusivity,
        soak_text=soaking_text(job, stock.thickness_mm),
        loads=loads(job, stock, time, handling, places=shop.week.places),
        window_s=window,
        handling_s=handling,
        moves=moves,
        warms=Warming(stock.thickness_mm, stock.width_mm, warm.diffusivity, shop.temperature_c, chamber_c, bar.goal_c),
    )


def loads(job: Job, stock: HotStock, time: SteamTime, handling_s: float, *, places: int) -> tuple[Load, ...]:
    """The pieces of one load, going in as far apart as it takes to bend one: each comes out at its own right moment.

    As many as there are forms to bend them on, no more than are wanted. Grade: allowance.
    """
    apart = max(3.0, math.ceil(handling_s / 60) + 2)
    latest = time.latest_min
    return tuple(
        Load(
            i + 1,
            i * apart,
            i * apart + time.earliest_min,
            i * apart + time.planned_min,
            None if latest is None else i * apart + latest,
        )
        for i in range(loads_in_box(job.heat, stock.pieces, places))
    )


def loads_in_box(heat: Heat, pieces: int, places: int) -> int:
    """Return how many loads of the form are in the box at a time: one for each form, no more than there are pieces.

    places: loads that the shop has room for in a box, 1 or more.
    """
    return min(MOST_LOADS, math.ceil(pieces / heat.at_once), heat.forms, max(1, places))


def pieces_in_box(heat: Heat, pieces: int, places: int) -> int:
    """Return how many pieces are in the box at a time, which is what it is sized and drawn for.

    >>> pieces_in_box(Heat(at_once=2, forms=3), 20, 4), pieces_in_box(Heat(), 20, 4)
    (6, 1)
    """
    return min(pieces, heat.at_once * loads_in_box(heat, pieces, places))


def soak_days(thickness_mm: float) -> int:
    """Days kiln-dried stock lies in water: one for each 8 mm, two at least. Grade: allowance.

    >>> soak_days(19.0)
    3
    """
    return max(2, math.ceil(thickness_mm / 8))


def soaking_text(job: Job, thickness_mm: float) -> str:
    """Whether to soak, and for how long."""
    if job.stock.dryness == "kiln_dried":
        days = soak_days(thickness_mm)
        return (
            f"Pre-soak it in plain water for {days} days, right up to steaming. It takes longer to dry and may check."
        )
    if job.stock.dryness == "green":
        return "No pre-soaking: it is wet enough."
    return "No pre-soaking: air-dried wood is best as it is."


def in_box(stock: HotStock, heat: Heat, places: int) -> HotStock:
    """Return what is in the box at a time of all that is steamed. places: loads the shop has room for in it."""
    return replace(stock, pieces=pieces_in_box(heat, stock.pieces, places))


def chamber_for(stock: HotStock, job: Job, shop: Shop, steam: Steam, *, more_min: float = 0.0) -> Chamber:
    """Return the steam box for what is in it at a time: as small as it may be, or as the shop has it.

    more_min: minutes of steam after the planned time. Raises: PlanError.
    """
    heat = job.heat
    pieces = stock.pieces
    proposed = proposed_size(
        thickness_mm=stock.thickness_mm, width_mm=stock.width_mm, length_mm=stock.length_mm, pieces=pieces
    )
    high, wide, long = heat.own_inside_high_mm, heat.own_inside_wide_mm, heat.own_inside_long_mm
    volume = stock.thickness_mm * stock.width_mm * stock.length_mm * pieces * 1e-6
    mass = stock.wood.sg12 * (1 + steam.moisture_pct / 100) * volume
    warm = thermal(specific_gravity=stock.wood.sg12, moisture_pct=steam.moisture_pct, temperature_c=60)
    if heat.wall not in WALLS:
        raise PlanError("heat.wall", "Choose what the steam box is made of.")
    return chamber(
        wall=heat.wall,
        inside_mm=(high, wide, long) if high and wide and long else None,
        proposed=proposed,
        power_kw=heat.power_kw,
        reservoir_l=heat.reservoir_l,
        air_c=shop.temperature_c,
        boiling_c=steam.boiling_c,
        stock_kg=mass,
        stock_j_kgk=warm.capacity,
        hours=(steam.time.planned_min + more_min) / 60 + WARM_UP_H,
    )
