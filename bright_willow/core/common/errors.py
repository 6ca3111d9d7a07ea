"""The error of the core, the range check of every formula, and the fault an error becomes beside a field."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, Literal


@dataclass(frozen=True)
class Fault:
    """One thing wrong with the input: the field it belongs to (dotted, as in the job file) and a sentence."""

    field: str
    message: str


class PlanError(ValueError):
    """A value a formula or a maker cannot use. Prints as a sentence that can be acted on.

    `message` and `hint` may hold {names} of lengths and temperatures, written in the reader's unit.
    `at_mm` are the stations of the strip, from its start, where the trouble is, so that a drawing can mark them.
    """

    def __init__(
        self,
        field: str,
        message: str,
        *,
        hint: str = "",
        lengths_mm: Mapping[str, float] | None = None,
        temperatures_c: Mapping[str, float] | None = None,
        at_mm: tuple[float, ...] = (),
    ) -> None:
        self.field = field
        self.at_mm = at_mm
        self._template = f"{message} {hint}".strip()
        self._lengths_mm, self._temperatures_c = dict(lengths_mm or {}), dict(temperatures_c or {})
        super().__init__(self.message("mm"))

    def __reduce__(self) -> tuple[Any, ...]:
        """So that it reaches another process as it is."""
        return _plan_error, (self.field, self._template, self._lengths_mm, self._temperatures_c, self.at_mm)

    def message(self, unit: str) -> str:
        """The sentence, lengths and temperatures in the reader's unit ("mm" or "in")."""
        if not self._lengths_mm and not self._temperatures_c:
            return self._template
        from .units import format_length, format_temperature

        system: Literal["mm", "in"] = "in" if unit == "in" else "mm"
        shown = {k: format_length(v, system) for k, v in self._lengths_mm.items()}
        shown |= {k: format_temperature(v, system) for k, v in self._temperatures_c.items()}
        return self._template.format(**shown)

    def fault(self, unit: str = "mm") -> Fault:
        """The sentence beside its field, in the reader's unit."""
        return Fault(self.field, self.message(unit))


def _plan_error(field: str, message: str, lengths: Any, temperatures: Any, at_mm: tuple[float, ...]) -> PlanError:
    return PlanError(field, message, lengths_mm=lengths, temperatures_c=temperatures, at_mm=at_mm)


def check_range(
    field: str, value: float, low: float, high: float, unit: str = "", *, above: bool = False, message: str = ""
) -> None:
    """Refuse a value of a formula that is NaN or not from low to high (with `above`, beyond low), in the unit named.

    unit: "mm" and "°C" are written in the reader's own; `message` replaces the sentence. Raises: PlanError.

    >>> check_range("part.trim_mm", 30.0, 0.0, 1000.0, "mm")
    >>> check_range("part.trim_mm", float("nan"), 0.0, 1000.0, "mm")
    Traceback (most recent call last):
    bright_willow.core.common.errors.PlanError: From 0 mm to 1000 mm, please.
    """
    if (low < value if above else low <= value) and value <= high:
        return
    if message:
        raise PlanError(field, message)
    bounds = {"low": low, "high": high} if math.isfinite(high) else {"low": low}
    words = {
        k: "{" + k + "}" if unit in ("mm", "°C") else f"{v:g}{' ' + unit if unit else ''}" for k, v in bounds.items()
    }
    least = f"{'More than' if above else 'At least'} {words['low']}"
    sentence = f"{least}, please." if "high" not in words else f"From {words['low']} to {words['high']}, please."
    if above and "high" in words:
        sentence = f"{least}, and no more than {words['high']}, please."
    shown = {"lengths_mm": bounds} if unit == "mm" else {"temperatures_c": bounds} if unit == "°C" else {}
    raise PlanError(field, sentence, **shown)  # type: ignore[arg-type]


ENDLESS = math.inf  # the high end of a range that has none
