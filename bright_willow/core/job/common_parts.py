"""Common kinds of bent parts to begin from, by shape and size."""

from __future__ import annotations

import tomllib
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Any

from ..common.units import MM_PER_INCH, Unit
from .job import Job
from .new_job import starting_job

OF_THE_PART = ("thickness_mm", "width_mm")


@dataclass(frozen=True, slots=True)
class CommonPart:
    """A part to begin from. how: how it is usually bent, a key of the quick answer."""

    key: str
    name: str
    how: str
    job: Job


@cache
def common_parts(unit: Unit) -> tuple[CommonPart, ...]:
    """Return every common part in round figures of a unit. Sizes are examples, not standards. Grade: allowance."""
    data = tomllib.loads((files(__package__) / "data" / "common_parts.toml").read_text("utf-8"))
    return tuple(_part(row, unit) for row in data["part"])


def _part(row: dict[str, Any], unit: Unit) -> CommonPart:
    scale = MM_PER_INCH if unit == "in" else 1.0
    sizes = {key: value * scale if key.endswith("_mm") else value for key, value in row[unit].items()}
    own = {key: sizes.pop(key) for key in OF_THE_PART}
    data = starting_job(unit).model_dump()
    data |= {"name": row["name"], "shape": {"kind": row["kind"], **sizes}}
    data["part"] |= own
    data["stock"] |= {"species": row["species"]}
    return CommonPart(row["key"], row["name"], row["how"], Job.model_validate(data))
