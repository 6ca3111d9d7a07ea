"""An input: what it is called and, made from the document it belongs to, how it is typed."""

from __future__ import annotations

import types
from dataclasses import dataclass
from typing import Any, Literal, Union, get_args, get_origin

from pydantic import BaseModel

from ...core.job.job import Job
from ...core.wood.species import OwnWood, wood_table

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
    "rung",
    "gauge",
    "force",
    "volume",
    "power",
    "day",
    "time",
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
    """One input. `name` is its dotted place in the document."""

    name: str
    label: str
    kind: Kind
    hint: str = ""
    choices: Choices = ()
    look: Looks = "select"
    may_be_empty: bool = False


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
        return ("points" if get_origin(each) is tuple else "length"), False
    if annotation is bool:
        return "yes_no", False
    if annotation is int:
        return "count", False
    if annotation is float:
        return next((kind for ending, kind in ENDINGS if name.endswith(ending)), "number"), False
    if origin is Literal:
        return "choice", False
    return ("day" if name.endswith("_day") else "time" if name.endswith("_time") else "text"), False


def wood_choices(woods: tuple[OwnWood, ...] = ()) -> Choices:
    """Every wood that can be chosen, the shop's own and corrected ones marked."""
    rows = sorted(wood_table(woods).values(), key=lambda s: (s.kind, s.name))
    return tuple((s.key, f"{s.name} (own figures)" if s.own else s.name) for s in rows)
