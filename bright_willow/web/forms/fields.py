"""An input: what it is called and, made from the document it belongs to, how it is typed."""

from __future__ import annotations

import types
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Literal, Union, get_args, get_origin

from pydantic import BaseModel

from ...core.common.units import MEASURES, Unit
from ...core.job.job import Job
from ...core.wood.species import OwnWood, Species, wood_table

Kind = Literal[
    "text",
    "length",
    "angle",
    "number",
    "count",
    "temperature",
    "choice",
    "yes_no",
    "points",
    "tags",
    "rung",
    "gauge",
    "force",
    "volume",
    "power",
    "day",
    "time",
    "moment",
    "check",
    "search",
    "password",
    "file",
]
Choices = tuple[tuple[str, str], ...]
Looks = Literal["select", "pills", "ladder", "lines"]
ENDINGS: tuple[tuple[str, Kind], ...] = (
    ("_mm", "length"),
    ("_deg", "angle"),
    ("_c", "temperature"),
    ("_kpa", "gauge"),
    ("_kn", "force"),
    ("_l", "volume"),
    ("_kw", "power"),
)


@dataclass(frozen=True)
class Field:
    """One input.

    name: its dotted place in the document. least, most: the range of a number, in the unit of the document; wrong: what
    is said of a number outside it, where the range alone would not say enough. longest: letters of a text. example:
    what stands in it in gray while it is empty. accept: the kinds of file. required: the browser asks for it at once.
    """

    name: str
    label: str
    kind: Kind
    hint: str = ""
    choices: Choices = ()
    look: Looks = "select"
    may_be_empty: bool = False
    least: float | None = None
    most: float | None = None
    wrong: str = ""
    longest: int = 0
    example: str = ""
    accept: str = ""
    required: bool = False

    def suffix(self, unit: Unit) -> str:
        """Return the unit behind the input, "" where it has none."""
        if self.kind in MEASURES:
            return MEASURES[self.kind].shown["in" if unit == "in" else "mm"]
        plain = {"length": str(unit), "temperature": "°F" if unit == "in" else "°C", "angle": "°"}
        return plain.get(self.kind, "")


def of(
    model: type[BaseModel], name: str, label: str, hint: str = "", *, choices: Choices = (), look: Looks = "select"
) -> Field:
    """An input of a document: only its words are written, its kind and whether it may be empty are the document's.

    name: dotted, from the model down. Raises: KeyError for a field the document does not have.
    """
    kind, optional = _kind(_annotation(model, name), name.split(".")[-1])
    return Field(name, label, "choice" if choices else kind, hint, choices, look, optional)


def of_job(name: str, label: str, hint: str = "", *, choices: Choices = (), look: Looks = "select") -> Field:
    """An input of the job."""
    return of(Job, name, label, hint, choices=choices, look=look)


def of_shape(model: type[BaseModel], name: str, label: str, hint: str = "", **more: Any) -> Field:
    """An input of a kind of shape, at its place in the job."""
    made = of(model, name, label, hint, **more)
    return Field(f"shape.{name}", made.label, made.kind, made.hint, made.choices, made.look, made.may_be_empty)


def _annotation(model: type[BaseModel], name: str) -> Any:
    head, _, rest = name.partition(".")
    annotation = model.model_fields[head].annotation
    return _annotation(annotation, rest) if rest else annotation  # type: ignore[arg-type]


def _kind(annotation: Any, name: str) -> tuple[Kind, bool]:
    """How a value of a type is typed, and whether it may be left out."""
    origin, inside = get_origin(annotation), get_args(annotation)
    if origin in (Union, types.UnionType) and type(None) in inside:
        return _kind(next(a for a in inside if a is not type(None)), name)[0], True
    if origin is not None and hasattr(annotation, "__metadata__"):
        return _kind(inside[0], name)
    if origin is tuple:
        each = get_args(inside[0])[0] if hasattr(inside[0], "__metadata__") else inside[0]
        return ("tags" if each is str else "points" if get_origin(each) is tuple else "length"), False
    if annotation is bool:
        return "yes_no", False
    if annotation is int:
        return "count", False
    if annotation is float:
        return next((kind for ending, kind in ENDINGS if name.endswith(ending)), "number"), False
    if origin is Literal:
        return "choice", False
    return ("day" if name.endswith("_day") else "time" if name.endswith("_time") else "text"), False


GROUP = "group:"  # the value of a row of choices that heads a group and cannot be chosen
COMMON = frozenset(
    [
        "ash_white",
        "cherry_black",
        "maple_hard",
        "maple_red",
        "oak_red",
        "oak_white",
        "walnut_black",
        "hickory_pecan",
        "birch_yellow",
        "beech_american",
        "yellow_poplar",
        "elm_american",
    ]
)
PROPER = ("American", "European", "Scots", "Sitka", "Douglas", "Western", "Ponderosa", "Loblolly")
WOOD_GROUPS: tuple[tuple[str, Callable[[Species], bool]], ...] = (
    ("your own", lambda s: s.own and s.key not in COMMON),
    ("common", lambda s: s.key in COMMON),
    ("other hardwoods", lambda s: not s.own and s.key not in COMMON and s.kind == "hardwood"),
    ("softwoods", lambda s: not s.own and s.key not in COMMON and s.kind == "softwood"),
)


def wood_choices(woods: tuple[OwnWood, ...] = ()) -> Choices:
    """Every wood that can be chosen, the shop's own and corrected ones marked."""
    rows = sorted(((_by_kind(s.name), s) for s in wood_table(woods).values()), key=lambda row: row[0].lower())
    made = list[tuple[str, str]]()
    for group, keep in WOOD_GROUPS:
        own = [(s.key, f"{name} (own figures)" if s.own else name) for name, s in rows if keep(s)]
        made += [(f"{GROUP}{group}", group), *own] if own else []
    return tuple(made)


def _by_kind(name: str) -> str:
    """The name of a wood with its kind first, so that it is found by typing maple, oak or ash.

    >>> _by_kind("White ash"), _by_kind("Northern red oak"), _by_kind("Red (soft) maple"), _by_kind("Basswood")
    ('Ash, white', 'Oak, northern red', 'Maple, red (soft)', 'Basswood')
    """
    words = name.split(" ")
    if len(words) == 1 or words[-1].startswith("("):
        return name
    rest = " ".join(words[:-1])
    proper = words[0] in PROPER
    return f"{words[-1].capitalize()}, {rest if proper else rest[0].lower() + rest[1:]}"
