"""Clamps by kind, and how many a lay-up takes."""

from __future__ import annotations

import math
import tomllib
from dataclasses import dataclass
from functools import cache
from importlib.resources import files

from ..common.errors import ENDLESS, check_range

HELD_EVERY_MM = 200.0
CAUL_MM = 20.0  # how far a caul spreads the clamp's pressure past its jaw, each side. Grade: allowance.


@dataclass(frozen=True, slots=True)
class Clamp:
    """One kind of clamp: the force a hand gives it, and the width of its jaw. Grade: allowance."""

    key: str
    name: str
    force_kn: float
    jaw_mm: float


@cache
def clamp_table() -> dict[str, Clamp]:
    """Every kind of clamp by key."""
    data = tomllib.loads((files(__package__) / "data" / "clamps.toml").read_text("utf-8"))
    return {key: Clamp(key=key, **row) for key, row in data["clamp"].items()}


def clamps_needed(
    *, pressure_mpa: float, width_mm: float, length_mm: float, clamp: Clamp, spread_mm: float = CAUL_MM
) -> int:
    """The larger of p·b·L / force and L / (jaw + 2 · spread), rounded up; never closer than their jaws.

    spread_mm: how far beside its jaw a clamp presses: a caul, or the depth of a form's half, for it spreads at 45°.
    Valid: all above 0. Raises: PlanError. Grade: allowance. Source: docs/model.md#pressing.

    >>> clamps_needed(pressure_mpa=0.7, width_mm=60, length_mm=1000, clamp=clamp_table()["f_clamp"])
    15
    """
    for value in (pressure_mpa, width_mm, length_mm, spread_mm):
        message = "Pressure and area must be above zero."
        check_range("part.width_mm", value, 0, ENDLESS, above=True, message=message)
    by_force = pressure_mpa * width_mm * length_mm / (clamp.force_kn * 1000)
    wanted = math.ceil(max(by_force, length_mm / (clamp.jaw_mm + 2 * spread_mm)) - 1e-9)
    return max(1, min(wanted, math.floor(length_mm / clamp.jaw_mm)))


def held_by(length_mm: float) -> int:
    """Clamps that hold stock bent hot on its form, which presses nothing: one every 200 mm, three at least.

    Valid: a length above 0. Raises: PlanError. Grade: allowance. Source: docs/model.md#pressing.

    >>> held_by(900.0), held_by(250.0)
    (6, 3)
    """
    check_range("part.width_mm", length_mm, 0, ENDLESS, "mm", above=True)
    return max(3, math.ceil(length_mm / HELD_EVERY_MM) + 1)
