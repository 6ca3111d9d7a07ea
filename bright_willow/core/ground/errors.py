"""The one error of the core, and the fault it becomes beside a field."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal


@dataclass(frozen=True)
class Fault:
    """One thing wrong with the input: the field it belongs to (dotted, as in the job file) and a sentence."""

    field: str
    says: str


class OutOfRange(ValueError):
    """A value a formula or a maker cannot use. Prints as a sentence that can be acted on.

    `says` and `hint` may hold {names} of lengths and temperatures, written in the reader's unit.
    `at_mm` are the stations of the strip, from its start, where the trouble is, so that a drawing can mark them.
    """

    def __init__(
        self,
        field: str,
        says: str,
        *,
        hint: str = "",
        lengths_mm: Mapping[str, float] | None = None,
        temperatures_c: Mapping[str, float] | None = None,
        at_mm: tuple[float, ...] = (),
    ) -> None:
        self.field = field
        self.at_mm = at_mm
        self._template = f"{says} {hint}".strip()
        self._lengths_mm, self._temperatures_c = dict(lengths_mm or {}), dict(temperatures_c or {})
        super().__init__(self.says("mm"))

    def says(self, unit: str) -> str:
        if not self._lengths_mm and not self._temperatures_c:
            return self._template
        from .units import format_length, format_temperature

        system: Literal["mm", "in"] = "in" if unit == "in" else "mm"
        shown = {k: format_length(v, system) for k, v in self._lengths_mm.items()}
        shown |= {k: format_temperature(v, system) for k, v in self._temperatures_c.items()}
        return self._template.format(**shown)

    def fault(self, unit: str = "mm") -> Fault:
        return Fault(self.field, self.says(unit))
