"""How long to steam: the schools side by side, in one table, and the earliest and latest a piece may come out."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from ..common.errors import ENDLESS, check_range
from ..common.units import MM_PER_INCH

LEAST_SOAK_MIN, SOAK_TIMES, LATEST_TIMES = 3.0, 2.5, 1.5
FULL_HEAT_C, HOLD_DOUBLES_K = (
    98.0,
    10.0,
)  # a box that stays cooler holds twice as long for each 10 °C. Grade: allowance.
THIN_MM = 10.0  # thinner stock grows brittle when it is steamed too long
# What dryness does to the time. Grade: allowance. Source: docs/model.md#steam.
DRYNESS_FACTOR: dict[tuple[str, str], float] = {
    ("green", "none"): 0.75,
    ("green", "overnight"): 0.75,
    ("green", "days"): 0.75,
    ("air_dried", "none"): 1.0,
    ("air_dried", "overnight"): 1.0,
    ("air_dried", "days"): 1.0,
    ("kiln_dried", "none"): 2.0,
    ("kiln_dried", "overnight"): 1.5,
    ("kiln_dried", "days"): 1.5,
}


@dataclass(frozen=True, slots=True)
class SteamTimeQuery:
    """What a rule for the steaming time looks at. Times in minutes, thickness in mm.

    cool_factor: how much longer the hold takes in a box that cannot reach 98 °C.
    """

    thickness_mm: float
    heat_through_min: float
    soak_min: float
    own_min: float
    factor: float
    cool_factor: float = 1.0


def cool_factor(box_c: float) -> float:
    """Return how much longer to hold at a box temperature below 98 °C: 2^((98 − T)/10).

    Valid: −60 to 250 °C. Raises: PlanError. Grade: allowance. Source: docs/model.md#steam.

    >>> cool_factor(100.0), cool_factor(88.0)
    (1.0, 2.0)
    """
    check_range("heat.chamber_c", box_c, -60, 250, "°C")
    return float(2 ** (max(0.0, FULL_HEAT_C - box_c) / HOLD_DOUBLES_K))


def soak_after(asked: SteamTimeQuery) -> float:
    """Minutes in the steam once it is hot through: as asked, for thin stock 2.5 times its heat-through, at least 3.

    Valid: times of 0 or more. Raises: PlanError. Grade: allowance. Source: docs/model.md#steam.

    >>> soak_after(SteamTimeQuery(7, 1.7, 10, 60, 1.0)), soak_after(SteamTimeQuery(25, 40, 10, 60, 1.0))
    (4.25, 10)
    """
    for value in (asked.heat_through_min, asked.soak_min, asked.own_min, asked.thickness_mm, asked.factor):
        check_range("heat.soak_min", value, 0, ENDLESS)
    return min(asked.soak_min, max(LEAST_SOAK_MIN, SOAK_TIMES * asked.heat_through_min))


@dataclass(frozen=True)
class SteamSchool:
    """One way of reckoning the time in the chamber."""

    key: str
    name: str
    message: str
    grade: str
    minutes: Callable[[SteamTimeQuery], float]


STEAM_SCHOOLS: dict[str, SteamSchool] = {
    s.key: s
    for s in (
        SteamSchool(
            "hour_per_inch",
            "an hour per inch",
            "Long for thin wood, short for very thick wood.",
            "allowance",
            lambda at: 60 * at.thickness_mm / MM_PER_INCH * at.factor,
        ),
        SteamSchool(
            "heat_through",
            "heated through + hold time",
            "Until the middle is hot, plus a hold time.",
            "physics",
            lambda at: at.heat_through_min + soak_after(at) * at.factor * at.cool_factor,
        ),
        SteamSchool(
            "own_trials",
            "my own test bends",
            "The time at which your test pieces bent best.",
            "learned",
            lambda at: at.own_min,
        ),
    )
}


@dataclass(frozen=True, slots=True)
class SteamTime:
    """Minutes in the chamber: earliest (hot through), planned, latest (thin stock only), and what each school says."""

    earliest_min: float
    planned_min: float
    latest_min: float | None
    by_school: tuple[tuple[str, str, float], ...]
    factor: float


def steam_time(asked: SteamTimeQuery, school: str) -> SteamTime:
    """Times for a school. Latest, for stock under 10 mm: an hour per inch, or 1.5 times heat-through and its soak where
    that is longer; my own test bends know better. Else none.

    Valid: thickness and factor above 0, times 0 or more. Raises: PlanError. Grade: allowance.

    >>> asked = SteamTimeQuery(thickness_mm=25.4, heat_through_min=40, soak_min=10, own_min=60, factor=1.5)
    >>> steam_time(asked, "hour_per_inch").planned_min, steam_time(asked, "heat_through").planned_min
    (90.0, 55.0)
    """
    check_range("part.thickness_mm", asked.thickness_mm, 0, ENDLESS, "mm", above=True)
    check_range("stock.dryness", asked.factor, 0, ENDLESS, above=True)
    for value in (asked.heat_through_min, asked.soak_min, asked.own_min):
        check_range("heat.soak_min", value, 0, ENDLESS, "min")
    by = tuple((s.key, s.name, s.minutes(asked)) for s in STEAM_SCHOOLS.values())
    planned = STEAM_SCHOOLS[school].minutes(asked)
    rule, through = (STEAM_SCHOOLS[key].minutes(asked) for key in ("hour_per_inch", "heat_through"))
    latest = None if asked.thickness_mm >= THIN_MM else max(rule, LATEST_TIMES * through)
    return SteamTime(asked.heat_through_min, planned, latest, by, asked.factor)
