"""Simulated probes: a chamber and a wood thermometer, a vacuum gauge, a moisture meter; any speed, faults to order."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np

from ..core.common.errors import PlanError
from ..core.common.operation import Warming
from ..core.execution.core_temperature import HeatHistory, core_c
from ..core.execution.simulated_chamber import SimulatedChamber, cold, stepped

FAULTS = {
    "silent": "falls silent half way",
    "stuck": "shows the same from half way on",
    "absurd": "sometimes shows impossible values",
    "disorder": "sends readings out of their order",
    "dry": "the water runs out half way",
    "leak": "the bag leaks from half way on",
}
BOX = SimulatedChamber(air_c=18.0, boiling_c=100.0, power_kw=2.5, loss_w_k=8.0, stores_j_k=26_000.0, reservoir_l=12.0)
BAR = Warming(25.0, 50.0, 1.6e-7, 18.0, 98.0, 88.0)
PUMPS_TO_KPA, PUMP_TAU_S, LEAK_TAU_S = 85.0, 30.0, 400.0
WET_PCT, DRY_PCT, DRYING_TAU_S = 28.0, 9.0, 3 * 86_400.0
HALF_S = 1800.0  # when what goes wrong half way goes wrong, of its own time
STEP_S = 5.0


@dataclass(frozen=True)
class SimulatedReading:
    """One reading of a simulated probe: seconds of its own time, and the value in its kind's unit."""

    at_s: float
    value: float


def readings(kind: str, *, every_s: float, fault: str = "") -> Iterator[SimulatedReading]:
    """What a probe shows, endlessly, so many seconds of its own time apart. Raises: PlanError."""
    if kind not in SOURCES:
        raise PlanError("kind", f"There is no such sensor; choose one of {', '.join(SOURCES)}.")
    if fault and fault not in FAULTS:
        raise PlanError("fault", f"There is no such fault; choose one of {', '.join(FAULTS)}.")
    if not 0.01 <= every_s <= 86_400:
        raise PlanError("every", "From a hundredth of a second to a day between two readings, please.")
    plain = (SimulatedReading(n * every_s, value) for n, value in enumerate(SOURCES[kind](every_s, fault)))
    return _spoilt(plain, fault)


def _chamber(every_s: float, fault: str) -> Iterator[float]:
    now, at = cold(BOX), 0.0
    while True:
        yield now.air_c
        is_lit = not (fault == "dry" and at >= HALF_S)
        now = stepped(BOX, now, every_s, is_lit=is_lit, leak_l_h=0.0)
        at += every_s


def _wood(every_s: float, fault: str) -> Iterator[float]:
    """The middle of a bar put into that chamber when it is cold."""
    begins, box = [0.0], [BOX.air_c]
    at = 0.0
    for shown in _chamber(every_s, fault):
        if at - begins[-1] >= max(STEP_S, at / 200):  # finer at first, coarser as it goes on
            begins.append(at)
            box.append(shown)
        yield float(core_c(BAR, HeatHistory(np.array(begins), np.array(box)), np.array([at]))[0])
        at += every_s


def _vacuum(every_s: float, fault: str) -> Iterator[float]:
    now, at = 0.0, 0.0
    while True:
        yield now
        leaks = fault == "leak" and at >= HALF_S
        now = (
            now * math.exp(-every_s / LEAK_TAU_S)
            if leaks
            else PUMPS_TO_KPA - (PUMPS_TO_KPA - now) * math.exp(-every_s / PUMP_TAU_S)
        )
        at += every_s


def _moisture(every_s: float, fault: str) -> Iterator[float]:
    at = 0.0
    while True:
        yield DRY_PCT + (WET_PCT - DRY_PCT) * math.exp(-at / DRYING_TAU_S)
        at += every_s


SOURCES: dict[str, Callable[[float, str], Iterator[float]]] = {
    "chamber": _chamber,
    "wood": _wood,
    "vacuum": _vacuum,
    "moisture": _moisture,
}


def _spoilt(plain: Iterator[SimulatedReading], fault: str) -> Iterator[SimulatedReading]:
    """The readings as a faulty probe sends them."""
    held: SimulatedReading | None = None
    for n, one in enumerate(plain):
        late = one.at_s >= HALF_S
        if fault == "silent" and late:
            return
        if fault == "stuck" and late:
            held = held or one
            yield SimulatedReading(one.at_s, held.value)
        elif fault == "absurd" and n % 7 == 6:
            yield SimulatedReading(one.at_s, 9999.0)
        elif fault == "disorder":
            if held is None:
                held = one
            else:
                yield one
                yield held
                held = None
        else:
            yield one
