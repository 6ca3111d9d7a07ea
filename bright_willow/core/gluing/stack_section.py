"""What lies on what, from below: the section of a stack on its form, or of stock in the heat."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

Goods = Literal[
    "form", "platen", "film", "wood", "waste", "glue", "caul", "breather", "bag", "band", "strap", "slat", "paper",
    "heater", "iron", "tape",
]  # fmt: skip


@dataclass(frozen=True, slots=True)
class StackLayer:
    """One thing in a section: what it is called, what of, how thick (none: thin, or as it comes)."""

    name: str
    of: Goods
    thick_mm: float | None = None


@dataclass(frozen=True, slots=True)
class Section:
    """A section from below upwards, under a name; and what goes wrong where the order is not kept."""

    name: str
    layers: tuple[StackLayer, ...]
    message: str = ""
