"""Clamps by kind, and how many a lay-up takes."""

from __future__ import annotations

import math
import tomllib
from dataclasses import dataclass
from functools import cache
from importlib.resources import files

from ..ground.errors import ENDLESS, require

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


def clamps_needed(*, pressure_mpa: float, width_mm: float, length_mm: float, clamp: Clamp) -> int:
    """The larger of p·b·L / force and L / (jaw + 2 cauls), rounded up. Valid: all above 0. Raises: OutOfRange.

    Grade: allowance. Source: docs/model.md#pressing.

    >>> clamps_needed(pressure_mpa=0.7, width_mm=60, length_mm=1000, clamp=clamp_table()["f_clamp"])
    15
    """
    for value in (pressure_mpa, width_mm, length_mm):
        says = "Something is pressed only where there is pressure and area."
        require("part.width_mm", value, 0, ENDLESS, above=True, says=says)
    by_force = pressure_mpa * width_mm * length_mm / (clamp.force_kn * 1000)
    return math.ceil(max(by_force, length_mm / (clamp.jaw_mm + 2 * CAUL_MM)) - 1e-9)
