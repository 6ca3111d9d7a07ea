"""What is typed into fields, and what stands in them: a job read, every fault at once beside its field."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Any

from ...core.common.errors import Fault, PlanError
from ...core.common.units import (
    MEASURES,
    Unit,
    format_entry,
    format_length,
    format_temperature,
    parse_count,
    parse_length_mm,
    parse_number,
    parse_temperature_c,
)
from ...core.job.faults import JobFaulty
from ...core.job.job import Job
from ...core.plan.read_job import read_job
from ...core.shape.kinds.polycurve import Polycurve
from ...core.shape.shape_registry import restated
from ...core.wood.species import OwnWood
from .fields import GROUP, Field
from .points import read_points
from .rows import length_of, stretch_of


def value_at(data: Mapping[str, Any], name: str) -> Any:
    """A value by its dotted name."""
    at: Any = data
    for part in name.split("."):
        at = at[int(part)] if part.isdigit() else at[part]
    return at


def put_at(data: dict[str, Any], name: str, value: Any) -> None:
    """Set a value by its dotted name."""
    *path, last = name.split(".")
    at: Any = data
    for part in path:
        inside = at[int(part)] if part.isdigit() else at[part]
        if isinstance(inside, tuple):
            inside = at[part] = list(inside)
        at = inside
    if last.isdigit() and isinstance(at, list):
        at[int(last)] = value
    else:
        at[last] = value


def shown(field: Field, value: Any, unit: Unit) -> str:
    """What stands in an input for a value."""
    if value is None:
        return ""
    if field.kind == "yes_no":
        return "yes" if value else "no"
    if field.kind == "temperature":
        return format_temperature(float(value), unit, with_unit=False)
    if field.kind in MEASURES:
        return MEASURES[field.kind].format(float(value), unit)
    if field.kind == "length":
        return format_entry(float(value), unit)
    if field.kind in ("angle", "number"):
        return _plain(float(value))
    if field.kind == "points":
        return "\n".join(
            ", ".join(format_length(mm, unit, decimals=2, with_unit=False) for mm in point) for point in value
        )
    if field.kind == "tags":
        return ", ".join(value)
    return str(value)


def _plain(value: float) -> str:
    return f"{value:.3f}".rstrip("0").rstrip(".")


def shown_in(field: Field, data: Mapping[str, Any], unit: Unit) -> str:
    """What stands in an input of a job; a rung is its count, and how thick all but the last are if that differs."""
    value = value_at(data, field.name)
    if field.kind == "rung" and data["build_up"]["lamina_mm"]:
        return f"{value}@{data['build_up']['lamina_mm']:g}"
    return shown(field, value, unit)


def read_fields(
    job: Job, fields: tuple[Field, ...], typed: Mapping[str, str], unit: Unit, woods: tuple[OwnWood, ...] = ()
) -> Job:
    """The job with what was typed. A length left as it was shown keeps its exact value.

    Raises: JobFaulty with every fault at once, each beside its field.
    """
    before = job.model_dump()
    data, faults = job.model_dump(), []
    for field in fields:
        if field.name not in typed:
            continue
        text = typed[field.name][:2_000_000].replace("\r\n", "\n")
        if text == shown_in(field, before, unit):
            continue
        try:
            put_at(data, field.name, read_text(field, text, unit))
            if field.kind == "rung":
                data["build_up"]["lamina_mm"] = float(text.partition("@")[2]) if "@" in text else None
        except (PlanError, ValueError) as error:
            faults.append(error.fault(unit) if isinstance(error, PlanError) else Fault(field.name, "Pick a row."))
    _follow(job, data)
    if data["shape"]["kind"] != before["shape"]["kind"]:
        data["shape"] = restated(job.shape, str(data["shape"]["kind"]), unit)
        faults = [f for f in faults if not f.field.startswith("shape.")]
    if data["build_up"]["lay_up"] == "layers" != before["build_up"]["lay_up"] and not data["build_up"]["layers"]:
        each = job.part.thickness_mm / job.build_up.laminae
        data["build_up"]["layers"] = [{"thickness_mm": each, "material": job.stock.species}] * job.build_up.laminae
        faults = [f for f in faults if f.field != "build_up.layers"]
    try:
        made = read_job(data, unit, woods)
    except JobFaulty as error:
        known = {f.field for f in faults}
        raise JobFaulty(faults + [f for f in error.faults if f.field not in known], error.job) from None
    if faults:
        raise JobFaulty(faults)
    return made


def _follow(job: Job, data: dict[str, Any]) -> None:
    """What must change along: a stretch that becomes another kind, laminae when the part becomes thicker or thinner."""
    if isinstance(job.shape, Polycurve) and data["shape"]["kind"] == "polycurve":
        rows = [
            row if row["kind"] == old.kind else stretch_of(row["kind"], length_of(old.model_dump()))
            for row, old in zip(data["shape"]["stretches"], job.shape.stretches, strict=True)
        ]
        data["shape"]["stretches"] = rows
    lamina = data["build_up"]["lamina_mm"]
    if lamina and data["part"]["thickness_mm"] != job.part.thickness_mm:
        data["build_up"] |= {"laminae": max(2, math.ceil(data["part"]["thickness_mm"] / lamina - 1e-6))}


def read_text(field: Field, text: str, unit: Unit) -> Any:
    """The value of a typed text. Raises: PlanError with a sentence."""
    if field.may_be_empty and not text.strip():
        return None
    if field.kind in ("yes_no", "check"):
        return text == "yes"
    if field.kind == "temperature":
        return parse_temperature_c(text, unit, field.name)
    if field.kind in MEASURES:
        return MEASURES[field.kind].parse(text, unit, field.name)
    if field.kind == "rung":
        return parse_count(text.partition("@")[0], field.name, "a whole number")
    if field.kind == "length":
        return parse_length_mm(text, unit, field.name)
    if field.kind == "angle":
        return parse_number(text, field.name, "an angle in degrees")
    if field.kind == "number":
        return parse_number(text, field.name, "a number")
    if field.kind == "count":
        return parse_count(text, field.name, "a whole number")
    if field.kind == "points":
        return read_points(text, unit, field.name)
    if field.kind == "tags":
        return tuple(dict.fromkeys(word.strip() for word in text.split(",") if word.strip()))
    if field.kind == "choice":
        if text not in dict(field.choices) or text.startswith(GROUP):
            raise PlanError(field.name, "Choose one from the list.")
        return float(text) if field.name == "stock.grain_slope" else text
    return text.strip()


def by_field(faults: list[Fault]) -> dict[str, str]:
    """The first sentence for each field; what is wrong with one tag stands at all of them."""
    said: dict[str, str] = {}
    for fault in faults:
        said.setdefault("tags" if fault.field.startswith("tags.") else fault.field, fault.message)
    return said
