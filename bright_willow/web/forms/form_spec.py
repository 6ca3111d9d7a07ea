"""An HTML form: its inputs with what stands in them, and what was typed into them read back, every fault at once."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any, TypeVar

from pydantic import ValidationError

from ...core.common.document import Document
from ...core.common.errors import PlanError
from ...core.common.units import Unit, format_length
from ...core.job.faults import faults_of
from .fields import Choices, Field
from .typed import by_field, read_text, shown

T = TypeVar("T", bound=Document)
NUMBERS = ("length", "angle", "number", "count", "temperature", "gauge", "force", "volume", "power")


@dataclass(frozen=True)
class FieldView:
    """A field with what stands in it and what is wrong with it. prefix: of its id, where a page has several forms."""

    field: Field
    text: str
    fault: str = ""
    mine: str | None = None  # what its maker meant, where another window's change stands
    prefix: str = "f"

    @property
    def id(self) -> str:
        """Its name in the page."""
        return f"{self.prefix}-{self.field.name.replace('.', '-')}"

    @property
    def described_by(self) -> str:
        """The id of the sentence under it: what is wrong with it, else its hint."""
        return f"{self.id}-fault" if self.fault else f"{self.id}-hint" if self.field.hint else ""


@dataclass(frozen=True)
class FormValues:
    """What was typed into a form, by the names of its fields; a field with a fault is missing from values."""

    values: Mapping[str, Any]
    faults: dict[str, str]

    def __getitem__(self, name: str) -> Any:
        return self.values.get(name)


@dataclass(frozen=True)
class FormSpec:
    """The fields of one form. prefix: of the ids of its inputs."""

    fields: tuple[Field, ...]
    prefix: str = "f"

    def choosing(self, **choices: Choices) -> FormSpec:
        """Return the form with what can be chosen in some fields, as it depends on the shop or job."""
        fields = tuple(replace(f, choices=choices[f.name]) if f.name in choices else f for f in self.fields)
        return replace(self, fields=fields)

    def labelled(self, **labels: str) -> FormSpec:
        """Return the form with other labels on some fields."""
        fields = tuple(replace(f, label=labels[f.name]) if f.name in labels else f for f in self.fields)
        return replace(self, fields=fields)

    def hinting(self, **hints: str) -> FormSpec:
        """Return the form with other hints under some fields."""
        fields = tuple(replace(f, hint=hints[f.name]) if f.name in hints else f for f in self.fields)
        return replace(self, fields=fields)

    def only(self, *names: str) -> FormSpec:
        """Return the form with some of its fields."""
        return replace(self, fields=tuple(f for f in self.fields if f.name in names))

    def inputs(
        self,
        unit: Unit,
        values: Mapping[str, Any] | None = None,
        typed: Mapping[str, str] | None = None,
        faults: Mapping[str, str] | None = None,
    ) -> dict[str, FieldView]:
        """Return every input by its name: what was typed into it, else its value, with what is wrong with it."""
        return {f.name: self._view(f, unit, values or {}, typed or {}, faults or {}) for f in self.fields}

    def _view(
        self, field: Field, unit: Unit, values: Mapping[str, Any], typed: Mapping[str, str], faults: Mapping[str, str]
    ) -> FieldView:
        stands = shown(field, values.get(field.name), unit)
        text = typed.get(field.name, "" if typed and field.kind == "check" else stands)
        return FieldView(field, text, faults.get(field.name, ""), prefix=self.prefix)

    def read(self, typed: Mapping[str, str], unit: Unit) -> FormValues:
        """Return what was typed, each field by its kind and range; a field not sent is read as empty."""
        values, faults = dict[str, Any](), dict[str, str]()
        for field in self.fields:
            try:
                values[field.name] = _within(field, read_text(field, typed.get(field.name, ""), unit), unit)
            except PlanError as error:
                faults[field.name] = error.message(unit)
        return FormValues(values, faults)

    def read_document(
        self, model: type[T], before: Mapping[str, Any], typed: Mapping[str, str], unit: Unit
    ) -> tuple[T | None, dict[str, str]]:
        """Return a document of what was typed, or every fault. A length left as it was shown keeps its exact value."""
        data, faults = dict(before), {}
        for field in self.fields:
            text = typed.get(field.name, "")
            if text == shown(field, before.get(field.name), unit):
                continue
            try:
                data[field.name] = read_text(field, text, unit)
            except PlanError as error:
                faults[field.name] = error.message(unit)
        try:
            document = model.model_validate(data)
        except ValidationError as error:
            for name, message in by_field(faults_of(error, unit)).items():
                faults.setdefault("name" if name == "job" else name, message.removeprefix("Value error, "))
            return None, faults
        return (None if faults else document), faults


def _within(field: Field, value: Any, unit: Unit) -> Any:
    """Return a value that is in the range of its field. Raises: PlanError with the range."""
    if isinstance(value, str) and field.longest and len(value) > field.longest:
        raise PlanError(field.name, f"At most {field.longest:,} letters, please; there are {len(value):,}.")
    if value is None or field.kind not in NUMBERS:
        return value
    least, most = field.least, field.most
    if (least is None or value >= least) and (most is None or value <= most):
        return value
    ends = [
        "" if end is None else format_length(end, unit) if field.kind == "length" else f"{end:,g}"
        for end in (least, most)
    ]
    plain = f"From {ends[0]} to {ends[1]}, please." if all(ends) else f"At least {ends[0]}, please."
    raise PlanError(field.name, field.wrong or plain)
