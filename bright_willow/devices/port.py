"""The open message of a probe: one reading, or several, as JSON; what it may be, and what becomes of it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field

from pydantic import BaseModel, ConfigDict, Field

from ..core.common.errors import PlanError
from ..core.common.units import MEASURES

MOST_AT_ONCE = 600
AHEAD_S, BEHIND_S = 60.0, 7 * 86_400.0  # by which a probe's clock may be off before its word on time counts no more


@dataclass(frozen=True)
class Kind:
    """What a probe measures: its unit, between what its readings lie on this planet, other units with factor and offset
    to its own; digits: after the point, as it is shown."""

    key: str
    name: str
    unit: str
    low: float
    high: float
    others: dict[str, tuple[float, float]] = field(default_factory=dict)
    digits: int = 0
    message: str = ""


FAHRENHEIT = {"F": (5 / 9, -160 / 9), "°F": (5 / 9, -160 / 9), "C": (1.0, 0.0)}
KINDS: dict[str, Kind] = {
    k.key: k
    for k in (
        Kind("chamber", "steam box thermometer", "°C", -40.0, 130.0, FAHRENHEIT, 0, "where the wood is"),
        Kind("wood", "wood thermometer", "°C", -40.0, 250.0, FAHRENHEIT, 0, "in the middle of a piece, or the shop's"),
        Kind(
            "vacuum",
            "vacuum gauge",
            "kPa",
            -1.0,
            101.4,
            {unit: (MEASURES["gauge"].per[unit.lower()], 0.0) for unit in ("inHg", "mbar", "bar", "psi")},
            0,
            "below the air",
        ),
        Kind("moisture", "moisture meter", "%", 0.0, 200.0, {}, 1, "of the wood's dry weight"),
    )
}


class SensorReading(BaseModel):
    """One reading. unit: the kind's own where it is left out; at: seconds since 1970, when it arrives where left out;
    probe: whose it is, by name, to be sure of the key."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)
    value: float
    unit: str = Field(default="", max_length=8)
    at: float | None = None
    probe: str = Field(default="", max_length=80)


@dataclass(frozen=True)
class ReceivedReadings:
    """What became of a message: rows of time and value in the kind's unit, and what there is to say of it."""

    rows: tuple[tuple[float, float], ...]
    message: tuple[str, ...]


def taken(kind: Kind, name: str, readings: Sequence[SensorReading], now_s: float) -> ReceivedReadings:
    """Readings of one probe in its kind's unit, in order of time. A clock too far off counts no more: the time they
    arrive is taken. Raises: PlanError for one of another planet, another unit, another probe.

    >>> taken(KINDS["chamber"], "box", [SensorReading(value=212.0, unit="F")], 1000.0).rows
    ((1000.0, 100.0),)
    """
    if len(readings) > MOST_AT_ONCE:
        raise PlanError("readings", f"At most {MOST_AT_ONCE} readings at once, please.")
    rows, said = [], set[str]()
    for n, one in enumerate(readings):
        if one.probe and one.probe != name:
            raise PlanError("probe", f"This key does not belong to “{one.probe}”: every sensor has its own.")
        value = in_unit(kind, one.value, one.unit)
        at = now_s if one.at is None else one.at
        if not math.isfinite(at) or at > now_s + AHEAD_S or at < now_s - BEHIND_S:
            said.add("The sensor's clock is wrong: the time of arrival is used.")
            at = now_s + n * 1e-3
        rows.append((min(at, now_s + 1e-3 * n), value))
    return ReceivedReadings(tuple(sorted(rows)), tuple(sorted(said)))


def in_unit(kind: Kind, value: float, unit: str) -> float:
    """A value in the kind's own unit, to a hundredth. Raises: PlanError."""
    if unit and unit != kind.unit and unit not in kind.others:
        known = ", ".join(dict.fromkeys((kind.unit, *kind.others)))
        raise PlanError("unit", f"A {kind.name} sends {known}.")
    factor, offset = kind.others.get(unit, (1.0, 0.0)) if unit != kind.unit else (1.0, 0.0)
    made = value * factor + offset
    if not kind.low <= made <= kind.high:
        raise PlanError(
            "value", f"A {kind.name} reads {kind.low:g} to {kind.high:g} {kind.unit}; this value is outside that."
        )
    return round(made, 2)
