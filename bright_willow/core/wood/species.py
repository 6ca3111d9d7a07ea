"""The woods: stiffness, strength and how each bends, with grade and source in every row."""

from __future__ import annotations

import tomllib
from dataclasses import dataclass
from functools import cache
from importlib.resources import files

from ..errors import OutOfRange
from ..estimate import Grade

PROPER = {"European", "American", "Scots", "Sitka", "Douglas-fir"}


@dataclass(frozen=True, slots=True)
class Species:
    """One row of the table. A value that is not known is None and prints "no data"."""

    key: str
    name: str
    kind: str
    moe_gpa: float
    mor_mpa: float
    crush_mpa: float
    sg12: float
    stiffness_grade: Grade
    stiffness_source: str
    steam_unbroken_pct: float | None = None
    rt_strap: float | None = None
    rt_free: float | None = None
    bend_grade: Grade | None = None
    bend_source: str | None = None
    note: str = ""

    @property
    def said(self) -> str:
        """The name as it stands inside a sentence."""
        return self.name if self.name.split()[0] in PROPER else self.name[0].lower() + self.name[1:]

    @property
    def moe_mpa(self) -> float:
        return self.moe_gpa * 1000.0

    @property
    def breaking_strain(self) -> float:
        """MOR / E: the elastic equivalent, on the safe side. For straight grain; §Wood quality reduces it.

        Source: strength and stiffness of the species table; docs/model.md#cold-lamination.
        """
        return self.mor_mpa / self.moe_mpa


@cache
def species_table() -> dict[str, Species]:
    """Every wood by key, in the order of the table."""
    data = tomllib.loads((files(__package__) / "data" / "species.toml").read_text("utf-8"))
    sources = data["sources"]
    table = {}
    for key, row in data["species"].items():
        row["stiffness_source"] = sources[row["stiffness_source"]]
        if "bend_source" in row:
            row["bend_source"] = sources[row["bend_source"]]
        table[key] = Species(key=key, **row)
    return table


def species(key: str) -> Species:
    """The wood of that key. Raises: OutOfRange."""
    try:
        return species_table()[key]
    except KeyError:
        raise OutOfRange("stock.species", f"No wood called “{key[:40]}” is in the table.") from None
