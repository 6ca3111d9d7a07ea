"""Kinds of glue, and how much each lets a bend settle."""

from __future__ import annotations

import tomllib
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Any, Literal

import numpy as np

from ..common.errors import ENDLESS, PlanError, check_range
from ..common.estimate import Grade

Creep = Literal["rigid", "slight", "noticeable"]


@dataclass(frozen=True, slots=True)
class Adhesive:
    """One row of the glue table: typical of its kind; the maker's data sheet comes first."""

    key: str
    name: str
    creep: Creep
    parts: int
    settle_pct: float
    min_temp_c: float
    open_min: float
    press_h_20c: float
    full_cure_h: float
    spread_g_m2: float
    pressure_mpa_low: float
    pressure_mpa_high: float
    gap_filling: str
    grade: Grade
    source: str
    caution: str
    pot_life_min: float | None = None
    vacuum_mpa: float | None = None  # that a bag is usual with, though below what is asked of a press


@cache
def adhesive_table() -> dict[str, Adhesive]:
    """Every kind of glue by key."""
    data = tomllib.loads((files(__package__) / "data" / "adhesives.toml").read_text("utf-8"))
    return {key: Adhesive(key=key, **row) for key, row in data["adhesive"].items()}


def adhesive(key: str) -> Adhesive:
    """The glue of that key. Raises: PlanError."""
    try:
        return adhesive_table()[key]
    except KeyError:
        raise PlanError("build_up.adhesive", f"No glue called “{key[:40]}” is in the table.") from None


def settles_allowed(creep: str) -> float:
    """The share a bend gives up over weeks that is allowed for with a class of glue: the mean of its kinds; nothing for
    what is no class. Grade: allowance.

    >>> settles_allowed("noticeable") > settles_allowed("rigid") > settles_allowed("kiln_dried") == 0
    True
    """
    own = [g.settle_pct / 100 for g in adhesive_table().values() if g.creep == creep]
    return sum(own) / len(own) if own else 0.0


def glue_mass_g(*, glue_lines: Any, width_mm: float, length_mm: float, spread_g_m2: float, waste: float) -> Any:
    """Glue for one piece: lines × area × spread × (1 + waste). Valid: all 0 or more.

    Raises: PlanError. Grade: allowance.

    >>> round(glue_mass_g(glue_lines=9, width_mm=66, length_mm=2000, spread_g_m2=200, waste=0.15))
    273
    """
    message = "The number of glue lines cannot be below zero."
    check_range("build_up.laminae", float(np.min(glue_lines)), 0, ENDLESS, message=message)
    for value in (width_mm, length_mm, spread_g_m2, waste):
        check_range("shop.glue_waste_pct", value, 0, ENDLESS)
    return glue_lines * width_mm * length_mm * 1e-6 * spread_g_m2 * (1 + waste)
