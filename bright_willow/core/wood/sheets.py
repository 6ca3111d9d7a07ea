"""Sheets that bend: flexible plywood, thin plywood, kerfed board."""

from __future__ import annotations

import tomllib
from dataclasses import dataclass, replace
from functools import cache
from importlib.resources import files
from typing import Literal

from pydantic import Field

from ..common.document import Document, Length
from ..common.estimate import Grade

OWN_KEY = "own_sheet_"  # how the keys of a shop's own sheets begin
VENEER_LEAF = "veneer"  # the key of a leaf of veneer
OWN_SOURCE = "this shop's own sheet; typical stiffness for the kind"


@dataclass(frozen=True, slots=True)
class Sheet:
    """One row of the sheet table; typical of its kind, the maker's sheet comes first.

    yield_strain: of a sheet that yields as it is bent, and share_left the share of its moment that is left when the
    glue has set; None and 1 where it springs back wholly.
    """

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
    yield_strain: float | None = None
    share_left: float = 1.0

    @property
    def least_bend_strain(self) -> float:
        """Outer-fibre strain at the sheet's least radius, t / 2R, in place of a breaking strain. Grade: allowance."""
        return self.thickness_mm / (2 * self.min_radius_mm)


@cache
def veneer_leaf(wide_mm: float | None = None) -> Sheet:
    """The size veneer is usually sold in, or leaves so wide. Its stiffness is that of the wood of the layer."""
    data = tomllib.loads((files(__package__) / "data" / "sheets.toml").read_text("utf-8"))
    leaf = Sheet(key=VENEER_LEAF, **data["leaf"]["veneer"])
    return leaf if wide_mm is None else replace(leaf, sheet_short_mm=wide_mm)


class OwnSheet(Document):
    """A sheet of the shop's own: its kind, thickness, least radius and size, as the maker states them."""

    key: str = Field(min_length=1, max_length=60, pattern=r"^own_sheet_[a-z0-9_]+$")
    name: str = Field(min_length=1, max_length=60, pattern=r"\S")
    kind: Literal["flexible", "thin"] = "flexible"
    thickness_mm: Length = Field(ge=0.3, le=50)
    min_radius_mm: Length = Field(ge=5, le=20_000)
    sheet_long_mm: Length = Field(default=2440.0, ge=100, le=6_000)
    sheet_short_mm: Length = Field(default=1220.0, ge=50, le=6_000)
    note: str = Field(default="", max_length=500)

    def as_sheet(self) -> Sheet:
        """The row it makes in the table, its stiffness that of the kind."""
        like = sheet_table()[LIKE[self.kind]]
        own = {name: getattr(self, name) for name in OWN_FIGURES}
        return replace(like, key=self.key, grade="allowance", source=OWN_SOURCE, note=self.note, **own)


LIKE = {"flexible": "flex_ply_5", "thin": "birch_ply_4"}  # rows of the table whose stiffness own sheets take
OWN_FIGURES = ("name", "thickness_mm", "min_radius_mm", "sheet_long_mm", "sheet_short_mm")
SHEET_KINDS = {"flexible": "flexible plywood", "thin": "thin plywood"}


def is_sheet(material: str) -> bool:
    """Whether the key of a layer's material is of a sheet, the table's or a shop's own.

    >>> is_sheet("flex_ply_5"), is_sheet("own_sheet_barrel_ply"), is_sheet("ash_white")
    (True, True, False)
    """
    return material.startswith(OWN_KEY) or material in sheet_table()


@cache
def sheet_table(own: tuple[OwnSheet, ...] = ()) -> dict[str, Sheet]:
    """Every sheet by key, a shop's own after the table's. Veneers are wood and are given by their species."""
    data = tomllib.loads((files(__package__) / "data" / "sheets.toml").read_text("utf-8"))
    table = {key: Sheet(key=key, **row) for key, row in data["sheet"].items()}
    return table | {sheet.key: sheet.as_sheet() for sheet in own}
