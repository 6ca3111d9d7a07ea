"""Sheets that bend: flexible plywood, thin plywood, kerfed board."""

from __future__ import annotations

import tomllib
from dataclasses import dataclass, replace
from functools import cache
from importlib.resources import files

from ..ground.estimate import Grade


@dataclass(frozen=True, slots=True)
class Sheet:
    """One row of the sheet table; typical of its kind, the maker's sheet comes first."""

    key: str
    name: str
    thickness_mm: float
    min_radius_mm: float
    e_along_bend_gpa: float
    e_across_gpa: float
    sheet_long_mm: float
    sheet_short_mm: float
    grade: Grade
    source: str
    note: str = ""

    @property
    def least_bend_strain(self) -> float:
        """Outer-fibre strain at the sheet's least radius, t / 2R, in place of a breaking strain. Grade: allowance."""
        return self.thickness_mm / (2 * self.min_radius_mm)


@cache
def veneer_leaf(wide_mm: float | None = None) -> Sheet:
    """The size veneer is usually sold in, or leaves so wide. Its stiffness is that of the wood of the layer."""
    data = tomllib.loads((files(__package__) / "data" / "sheets.toml").read_text("utf-8"))
    leaf = Sheet(key="veneer", **data["leaf"]["veneer"])
    return leaf if wide_mm is None else replace(leaf, sheet_short_mm=wide_mm)


@cache
def sheet_table() -> dict[str, Sheet]:
    """Every sheet by key. Veneers are wood and are given by their species."""
    data = tomllib.loads((files(__package__) / "data" / "sheets.toml").read_text("utf-8"))
    return {key: Sheet(key=key, **row) for key, row in data["sheet"].items()}
