"""Warmth for a glue-up: how long a cold stack takes to be warm in its middle, and what a tent's heater must give."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from ..common.arrays import Array
from ..common.errors import ENDLESS, PlanError, check_range
from ..heat.conduction import ThermalProperties, thermal
from ..job.job import Job
from ..shop.shop import Shop
from ..wood.species import Species
from .adhesive import Adhesive
from .press_hours import press_hours

TERMS = 30
AIR_W_M2K = 8.0  # heat still warm air gives to wood and form. Grade: allowance.
TENT_W_M2K = {"film": 4.0, "blankets": 2.0}  # heat a tent loses. Grade: allowance.
GLUED_MOISTURE_PCT = 10.0


@dataclass(frozen=True, slots=True)
class Slab:
    """A stack that lies on its form: no heat comes through the form, the other face is in warm air. mm, °C."""

    thickness_mm: float
    wood: ThermalProperties
    start_c: float
    air_c: float

    def __post_init__(self) -> None:
        check_range("part.thickness_mm", self.thickness_mm, 0, ENDLESS, "mm", above=True)
        check_range("glue_up.cold_c", self.start_c, -60, 250, "°C")
        check_range("glue_up.tent_c", self.air_c, -60, 250, "°C")

    @property
    def biot(self) -> float:
        """h L / k."""
        return AIR_W_M2K * self.thickness_mm / 1000 / self.wood.conductivity

    def middle_c(self, times_s: Array) -> Array:
        """(n,) temperature half-way through, at times of 0 or more: Σ 4 sin ζ / (2ζ + sin 2ζ) cos(ζ/2) exp(−ζ² αt/L²)
        with ζ tan ζ = h L / k, of the first difference. Source: conduction of heat, series solution. Grade: physics on
        allowance.

        >>> wood = thermal(specific_gravity=0.6, moisture_pct=10, temperature_c=25)
        >>> Slab(40, wood, 5, 30).middle_c(np.array([0.0, 3600.0, 1e7])).round(1)
        array([ 5., 13., 30.])
        """
        zeta = _roots(self.biot)
        weight = 4 * np.sin(zeta) / (2 * zeta + np.sin(2 * zeta)) * np.cos(zeta / 2)
        passed, deep_m = np.maximum(np.asarray(times_s, dtype=float), 0.0), self.thickness_mm / 1000
        fourier = self.wood.diffusivity * passed / deep_m**2
        left = np.where(fourier > 1e-3, (weight * np.exp(-(zeta**2) * fourier[..., None])).sum(-1), 1.0)
        return np.asarray(self.air_c - (self.air_c - self.start_c) * left)

    def warm_s(self, least_c: float) -> float:
        """Seconds until the middle has a temperature. Raises: PlanError where the air never brings it there."""
        if self.start_c >= least_c:
            return 0.0
        if self.air_c <= least_c:
            raise PlanError(
                "glue_up.tent_c",
                "A tent at {own} never warms the wood to {least}, which this glue needs.",
                temperatures_c={"own": self.air_c, "least": least_c},
            )
        low, high = 0.0, 60.0
        while float(self.middle_c(np.array([high]))[0]) < least_c:
            low, high = high, 2 * high
        while high - low > 1e-6 * high:
            middle = (low + high) / 2
            low, high = (low, middle) if float(self.middle_c(np.array([middle]))[0]) >= least_c else (middle, high)
        return high


@lru_cache(maxsize=64)
def _roots(biot: float) -> Array:
    """(TERMS,) roots of ζ tan ζ = Bi, one in each [nπ, nπ + π/2), found by halving."""
    low = np.arange(TERMS) * math.pi
    high, sign = low + math.pi / 2, (-1.0) ** np.arange(TERMS)
    for _ in range(60):
        middle = (low + high) / 2
        below = sign * (middle * np.sin(middle) - biot * np.cos(middle)) < 0
        low, high = np.where(below, middle, low), np.where(below, high, middle)
    made = (low + high) / 2
    made.flags.writeable = False
    return made


@dataclass(frozen=True, slots=True)
class TentCure:
    """A cure in the warm. hours: until the middle is as warm as the glue wants; press_h: counted from there; heater_w:
    to keep the tent so warm; tent_m2: its skin."""

    kind: str
    tent_c: float
    start_c: float
    least_c: float
    hours: float
    press_h: float
    heater_w: float
    tent_m2: float


def heater_w(*, u_w_m2k: float, area_m2: float, tent_c: float, shop_c: float) -> float:
    """What a heater must give: U A ΔT; 0 where the shop is as warm. Valid: U and A 0 or more. Raises: PlanError.

    >>> heater_w(u_w_m2k=4.0, area_m2=6.0, tent_c=30, shop_c=10)
    480.0
    """
    check_range("glue_up.tent", u_w_m2k, 0, ENDLESS)
    check_range("glue_up.tent", area_m2, 0, ENDLESS)
    check_range("glue_up.tent_c", tent_c, -60, 250, "°C")
    check_range("shop.temperature_c", shop_c, -60, 250, "°C")
    return u_w_m2k * area_m2 * max(0.0, tent_c - shop_c)


def warm_hours(job: Job, shop: Shop, glue: Adhesive, wood: Species, stack_mm: float) -> float:
    """Hours in the tent until the middle of a stack is as warm as its glue wants; 0 without a tent.

    stack_mm: of wood, cauls included. Raises: PlanError for a tent too cool. Grade: physics on allowance.
    """
    choice = job.glue_up
    if choice.tent == "none":
        return 0.0
    cold = cold_c(job, shop)
    middle = (cold + choice.tent_c) / 2
    figures = thermal(specific_gravity=wood.sg12, moisture_pct=GLUED_MOISTURE_PCT, temperature_c=middle)
    return Slab(stack_mm, figures, cold, choice.tent_c).warm_s(glue.min_temp_c) / 3600


def cold_c(job: Job, shop: Shop) -> float:
    """Wood and form when they go into the tent."""
    return shop.temperature_c if job.glue_up.cold_c is None else job.glue_up.cold_c


def cures_at_c(job: Job, shop: Shop) -> float:
    """Where the glue cures: in its tent, or in the shop."""
    return shop.temperature_c if job.glue_up.tent == "none" else job.glue_up.tent_c


def tent_cure(
    job: Job, shop: Shop, glue: Adhesive, *, hours: float, size_mm: tuple[float, float, float]
) -> TentCure | None:
    """The cure of a job in its tent; None where there is none. hours: until its middle is warm; size_mm: of form and
    stack over all. Raises: PlanError."""
    choice = job.glue_up
    if choice.tent == "none":
        return None
    a, b, c = ((v + 2 * choice.tent_mm) / 1000 for v in size_mm)
    area = 2 * (a * b + b * c + a * c)
    lost = TENT_W_M2K[choice.tent]
    return TentCure(
        kind=choice.tent,
        tent_c=choice.tent_c,
        start_c=cold_c(job, shop),
        least_c=glue.min_temp_c,
        hours=hours,
        press_h=press_hours(glue, max(choice.tent_c, glue.min_temp_c)),
        heater_w=heater_w(u_w_m2k=lost, area_m2=area, tent_c=choice.tent_c, shop_c=shop.temperature_c),
        tent_m2=area,
    )
