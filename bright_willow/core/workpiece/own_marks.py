"""Marks of the maker's own: where they are on the piece as it is drawn, and what to write on the wood."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace

from ..common.operation import Operation
from ..common.units import Unit, format_length
from ..job.job import Job

MARKED_AT = ("number", "dimension", "dry_run")  # the steps at which wood is marked, the first there is


@dataclass(frozen=True, slots=True)
class MarkPlace:
    """A mark on the finished piece. station_mm: along its centerline from its left end."""

    name: str
    station_mm: float


def mark_places(job: Job, length_mm: float) -> tuple[MarkPlace, ...]:
    """Return the marks that are on a piece of a length, from the left; what lies beyond an end is left out."""
    places = (MarkPlace(m.name, m.station_mm(length_mm)) for m in job.part_as_drawn.marks)
    return tuple(sorted((p for p in places if 0 <= p.station_mm <= length_mm), key=lambda p: p.station_mm))


def marks_text(places: Iterable[MarkPlace], unit: Unit) -> str:
    """Return where to make the marks, for a helper; empty where there are none."""
    told = "; ".join(f"{p.name} at {format_length(p.station_mm, unit)}" for p in places)
    return f"Mark on each, along the centerline from the left finished end: {told}." if told else ""


def with_marks(operations: tuple[Operation, ...], places: Iterable[MarkPlace], unit: Unit) -> tuple[Operation, ...]:
    """Return operations that say where to make the marks, at the step where wood is marked."""
    text = marks_text(places, unit)
    key = next((k for k in MARKED_AT if any(o.key == k for o in operations)), "")
    if not text or not key:
        return operations
    return tuple(replace(o, steps=(*o.steps, text)) if o.key == key else o for o in operations)
