"""Inputs of a whole document (a lot, a wood, a sheet), and the document read back from what was typed."""

from __future__ import annotations

from typing import Any, TypeVar

from pydantic import ValidationError

from ...core.common.document import Document
from ...core.common.errors import PlanError
from ...core.common.units import Unit
from ...core.job.faults import faults_of
from ..job_view import FieldView
from .fields import Field
from .typed import by_field, read_text, shown

T = TypeVar("T", bound=Document)


def inputs_of(
    fields: tuple[Field, ...], values: dict[str, Any], unit: Unit, typed: dict[str, str], faults: dict[str, str]
) -> dict[str, FieldView]:
    return {
        f.name: FieldView(
            f, typed.get(f.name, "") if faults else shown(f, values[f.name], unit), faults.get(f.name, "")
        )
        for f in fields
    }


def read_document(
    model: type[T], fields: tuple[Field, ...], before: dict[str, Any], typed: dict[str, str], unit: Unit
) -> tuple[T | None, dict[str, str]]:
    """A document from what was typed, or every fault beside its field. A length left as shown keeps its exact value."""
    data, faults = dict(before), {}
    for field in fields:
        text = typed.get(field.name, "")
        if text == shown(field, before.get(field.name), unit):
            continue
        try:
            data[field.name] = read_text(field, text, unit)
        except PlanError as error:
            faults[field.name] = error.message(unit)
    try:
        made = model.model_validate(data)
    except ValidationError as error:
        for name, message in by_field(faults_of(error, unit)).items():
            faults.setdefault("name" if name == "job" else name, message.removeprefix("Value error, "))
        return None, faults
    return (None if faults else made), faults
