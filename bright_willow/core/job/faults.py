"""What is wrong with a document, each fault a sentence beside its field."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from pydantic import ValidationError

from ..common.errors import Fault
from ..common.units import Unit, format_length, format_temperature
from ..shape.shape_registry import KINDS
from .job import Job


class JobFaulty(ValueError):
    """A job that cannot be read or made; carries every fault found, each with its field, and the job itself where it
    can be read but not made."""

    def __init__(self, faults: list[Fault], job: Job | None = None) -> None:
        self.faults, self.job = faults, job
        super().__init__(" ".join(f.message for f in faults))

    def __reduce__(self) -> tuple[type[JobFaulty], tuple[list[Fault], Job | None]]:
        """So that it reaches another process as it is."""
        return JobFaulty, (self.faults, self.job)


_WORDS = {
    "missing": "This is missing.",
    "extra_forbidden": "There is no such field in a job; check its spelling.",
    "string_too_short": "Give it a name.",
    "string_pattern_mismatch": "Give it a name.",
    "finite_number": "A number must be finite.",
}


def faults_of(error: ValidationError, unit: Unit = "mm") -> list[Fault]:
    """Sentences for what a document's own validation found, field by field."""
    return faults_in(error.errors(include_url=False, include_input=False), unit)


def faults_in(items: Sequence[Mapping[str, Any]], unit: Unit = "mm") -> list[Fault]:
    """Sentences for validation errors as the validator lists them (`type`, `loc`, `ctx`, `msg`)."""
    faults = []
    for item in items:
        loc = [str(p) for p in item["loc"]]
        while loc and loc[0] in ("body", "query", "path", "job"):
            loc = loc[1:]
        field = ".".join(p for p in loc if p not in KINDS) or "job"
        faults.append(Fault(field, _sentence(item["type"], item.get("ctx", {}), item["msg"], field, unit)))
    return faults


def _sentence(kind: str, ctx: Mapping[str, Any], message: str, field: str, unit: Unit) -> str:
    if kind in ("string_pattern_mismatch", "value_error") and field.endswith(("_day", "_time", "days_off")):
        return "Enter a time such as 08:30." if field.endswith("_time") else "Enter a date such as 2026-11-30."
    if kind == "string_pattern_mismatch" and field.startswith("tags"):
        return "A tag holds no comma, quotation mark or backslash."
    if kind in _WORDS:
        return _WORDS[kind]
    limit = next((ctx[k] for k in ("ge", "le", "gt", "lt") if k in ctx), None)
    if limit is not None:
        quantity = field.rstrip("0123456789").rstrip(".")  # of a row of a list, as of the list
        shown = format_length(float(limit), unit) if quantity.endswith("_mm") else f"{limit:g}"
        if field.endswith("_c"):
            shown = format_temperature(float(limit), unit)
        shown += "°" if field.endswith("_deg") else ""
        words = {"greater_than": "More than", "less_than": "Less than", "greater_than_equal": "At least"}
        return f"{words.get(kind, 'At most')} {shown}, please."
    if kind == "too_long":
        return f"At most {ctx.get('max_length')}, please."
    if kind == "string_too_long":
        return f"At most {ctx.get('max_length')} characters, please."
    if kind in ("float_type", "float_parsing", "int_type", "int_parsing", "int_from_float"):
        return "A whole number is needed here." if kind.startswith("int") else "A number is needed here."
    if kind in ("literal_error", "union_tag_invalid"):
        expected = ctx.get("expected") or ctx.get("expected_tags", "")
        return f"Choose one of {expected}."
    if kind == "union_tag_not_found":
        return f"Say what kind of shape it is: one of {', '.join(KINDS)}."
    return message + "."
