"""The woods: stiffness, strength and how each bends, with grade and source in every row."""

from __future__ import annotations

import tomllib
from dataclasses import dataclass, replace
from functools import cache, lru_cache
from importlib.resources import files
from typing import Literal

from pydantic import Field, model_validator

from ..common.document import Document
from ..common.errors import PlanError
from ..common.estimate import Grade

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
    own: tuple[str, ...] = ()  # figures that are this shop's, not the table's

    @property
    def said(self) -> str:
        """The name as it stands inside a sentence."""
        return self.name if self.name.split()[0] in PROPER else self.name[0].lower() + self.name[1:]

    @property
    def moe_mpa(self) -> float:
        """Modulus of elasticity along the grain, MPa."""
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


OWN_FIGURES = ("sg12", "moe_gpa", "mor_mpa", "crush_mpa", "steam_unbroken_pct", "rt_strap", "rt_free")
NEEDED = ("sg12", "moe_gpa", "mor_mpa", "crush_mpa")
OWN_SOURCE = "this shop's own figure"


class OwnWood(Document):
    """A wood of the shop's own, or its corrections to one of the table: only what is given here is changed."""

    key: str = Field(min_length=1, max_length=60, pattern=r"^[a-z0-9_]+$")
    name: str = Field(default="", max_length=60)
    kind: Literal["hardwood", "softwood"] = "hardwood"
    sg12: float | None = Field(default=None, ge=0.05, le=1.5, allow_inf_nan=False)
    moe_gpa: float | None = Field(default=None, ge=0.5, le=40, allow_inf_nan=False)
    mor_mpa: float | None = Field(default=None, ge=5, le=400, allow_inf_nan=False)
    crush_mpa: float | None = Field(default=None, ge=2, le=200, allow_inf_nan=False)
    steam_unbroken_pct: float | None = Field(default=None, ge=0, le=100, allow_inf_nan=False)
    rt_strap: float | None = Field(default=None, ge=0.3, le=100, allow_inf_nan=False)
    rt_free: float | None = Field(default=None, ge=0.3, le=200, allow_inf_nan=False)
    note: str = Field(default="", max_length=500)

    @property
    def own_limits(self) -> tuple[tuple[str, float], ...]:
        """Limits of R/T this shop has found in place of the table's: with a strap and free, where there are any."""
        if self.key not in species_table():
            return ()
        both = (("in a strap", self.rt_strap), ("free", self.rt_free))
        return tuple((how, value) for how, value in both if value is not None)

    @model_validator(mode="after")
    def whole_or_a_correction(self) -> OwnWood:
        """A wood that is not in the table has a name and every figure that is needed."""
        if self.key not in species_table():
            if not self.name.strip():
                raise ValueError("Your own wood needs a name")
            if any(getattr(self, name) is None for name in NEEDED):
                raise ValueError("Your own wood needs specific gravity, stiffness, strength and crushing strength")
        return self


@lru_cache(maxsize=32)
def wood_table(own: tuple[OwnWood, ...] = ()) -> dict[str, Species]:
    """The published table with a shop's own woods and corrections over it; the published one is never changed."""
    table = dict(species_table())
    for wood in own:
        given = {name: getattr(wood, name) for name in OWN_FIGURES if getattr(wood, name) is not None}
        marks: dict[str, object] = {"own": tuple(given)}
        if {"moe_gpa", "mor_mpa"} & set(given):
            marks |= {"stiffness_grade": "allowance", "stiffness_source": OWN_SOURCE}
        if {"rt_strap", "rt_free", "steam_unbroken_pct"} & set(given):
            marks |= {"bend_grade": "allowance", "bend_source": OWN_SOURCE}
        if wood.note:
            marks["note"] = wood.note
        if wood.key in table:
            table[wood.key] = replace(table[wood.key], **given, **marks)  # type: ignore[arg-type]
        else:
            table[wood.key] = Species(key=wood.key, name=wood.name, kind=wood.kind, **given, **marks)  # type: ignore[arg-type]
    return table


def woods_named(asked: str, own: tuple[OwnWood, ...] = ()) -> list[Species]:
    """Return the wood with a key, or every wood whose name holds all words asked for, in any case.

    >>> [w.name for w in woods_named("white oak")], len(woods_named("ash")) > 1, woods_named("plastic")
    (['White oak'], True, [])
    """
    table, words = wood_table(own), asked.lower().replace("_", " ").split()
    if asked in table:
        return [table[asked]]
    return [w for w in table.values() if words and all(word in w.name.lower() for word in words)]


def species(key: str, own: tuple[OwnWood, ...] = ()) -> Species:
    """The wood of that key, the shop's own woods and corrections included. Raises: PlanError."""
    try:
        return wood_table(own)[key]
    except KeyError:
        raise PlanError("stock.species", f"No wood called “{key[:40]}” is in the table.") from None
