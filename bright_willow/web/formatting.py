"""What stands beside a drawing: figures with their grades, grids, notes, drawings. Templates only lay them out."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from markupsafe import Markup

from ..core.common.amounts import format_area, format_fine, format_glue, format_weight
from ..core.common.estimate import Estimate, Figure, Grade
from ..core.common.fineness import (
    format_about,
    format_as_sure,
    format_band,
    format_estimate,
    format_sold,
    in_full,
)
from ..core.common.units import (
    MEASURES,
    Unit,
    format_force,
    format_length,
    format_moment,
    format_pressure,
    format_stress,
    format_temperature,
    format_wood,
)

THIN_MM = 6.35  # strips below a quarter inch are measured with calipers
MOST_LIKELY = "8 of 10 bends like this fall between"


class FormattedValue(str):
    """A figure as it is said, as fine as it is sure; `exact`: all that is known of it, for whoever points at it."""

    __slots__ = ("exact",)
    exact: str

    def __new__(cls, text: str, exact: str) -> FormattedValue:
        made = super().__new__(cls, text)
        made.exact = exact
        return made


@dataclass(frozen=True, slots=True)
class FigureRow:
    """A figure: what it is, what it comes to, how sure it is, and what there is to say of it."""

    label: str
    figure: str
    grade: Grade | None = None
    note: str = ""


@dataclass(frozen=True, slots=True)
class FigureGroup:
    """Figures under a caption."""

    caption: str
    rows: tuple[FigureRow, ...]
    kind: Literal["figures"] = "figures"


@dataclass(frozen=True, slots=True)
class Grid:
    """A table of texts; the first cell of a row names it. chosen: the row that counts; grade: of all of it."""

    caption: str
    head: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    chosen: int | None = None
    grade: Grade | None = None
    kind: Literal["grid"] = "grid"


@dataclass(frozen=True, slots=True)
class Note:
    """A sentence beside the figures."""

    message: str
    look: Literal["note-line", "hint"] = "note-line"
    grade: Grade | None = None
    kind: Literal["note"] = "note"


@dataclass(frozen=True, slots=True)
class Drawing:
    """A drawing among the figures, under a heading if it has one."""

    svg: Markup
    heading: str = ""
    kind: Literal["drawing"] = "drawing"


@dataclass(frozen=True, slots=True)
class FoldedSentences:
    """Sentences that fold away under a name: cautions, what a plan rests on."""

    name: str
    message: tuple[str, ...]
    is_open: bool = False
    look: str = "cautions"
    kind: Literal["listed"] = "listed"


@dataclass(frozen=True, slots=True)
class TemplatePart:
    """A part with a template of its own."""

    template: str
    kind: Literal["include"] = "include"


Item = FigureGroup | Grid | Note | Drawing | FoldedSentences | TemplatePart


@dataclass(frozen=True, slots=True)
class Formatter:
    """Figures as words, in a reader's unit: the one place where a figure becomes text for a page."""

    unit: Unit

    def length(self, mm: float | None, decimals: int = 1) -> str:
        if mm is None:
            return "no data"
        return FormattedValue(format_length(mm, self.unit, decimals=decimals), in_full(mm, self.unit))

    def bare(self, mm: float) -> str:
        return FormattedValue(format_length(mm, self.unit, with_unit=False), in_full(mm, self.unit))

    def estimate(self, of: Estimate) -> str:
        """The likely value of an uncertain length, as fine as it is sure."""
        low, likely, high = (in_full(v, self.unit) for v in (of.low, of.likely, of.high))
        return FormattedValue(format_estimate(of, self.unit), f"{likely}; {low} to {high}, {MOST_LIKELY}")

    def as_sure(self, mm: float, of: Estimate) -> str:
        """A length as fine as an uncertain one of its kind."""
        return FormattedValue(format_as_sure(mm, of, self.unit), in_full(mm, self.unit))

    def most_likely(self, of: Estimate) -> str:
        """The band of an uncertain length, in words."""
        return FormattedValue(format_band(of, self.unit), MOST_LIKELY)

    def about(self, mm: float) -> str:
        """A length that is an allowance."""
        return FormattedValue(format_about(mm, self.unit), in_full(mm, self.unit))

    def sold(self, *mm: float) -> str:
        """A size as it is sold."""
        bare = [format_sold(v, self.unit, with_unit=False) for v in mm[:-1]]
        return " × ".join([*bare, format_sold(mm[-1], self.unit)])

    def size(self, *mm: float) -> str:
        """Lengths multiplied out, the unit said once."""
        return " × ".join([*(self.bare(v) for v in mm[:-1]), self.length(mm[-1])])

    def size2(self, wide_mm: float, high_mm: float) -> str:
        """A size over all, the unit said with both."""
        return f"{self.length(wide_mm)} × {self.length(high_mm)}"

    def spread(self, of: Estimate) -> str:
        """An uncertain length with its band."""
        return FormattedValue(
            f"{format_estimate(of, self.unit)} ({format_band(of, self.unit)})", self.estimate(of).exact
        )  # type: ignore[attr-defined]

    def temperature(self, celsius: float) -> str:
        return format_temperature(round(celsius), self.unit)

    def weight(self, kg: float) -> str:
        return format_weight(kg, self.unit)

    def glue(self, grams: float) -> str:
        return format_glue(grams, self.unit)

    def area(self, m2: float) -> str:
        return format_area(m2, self.unit)

    def thin(self, mm: float) -> str:
        """The thickness of a strip: as a caliper shows it where it is thin, else as a rule does."""
        return self.fine(mm) if mm < THIN_MM else self.length(mm)

    def thin_bare(self, mm: float) -> str:
        """The same without its unit."""
        text = self.thin(mm)
        return FormattedValue(text.rsplit(" ", 1)[0], in_full(mm, self.unit))

    def fine(self, mm: float) -> str:
        """A thickness as a caliper measures it."""
        return FormattedValue(format_fine(mm, self.unit), in_full(mm, self.unit))

    def force(self, newtons: float) -> str:
        return format_force(newtons, self.unit)

    def litres(self, litres: float) -> str:
        """A volume of water."""
        volume = MEASURES["volume"]
        return f"{volume.format(litres, self.unit)} {volume.shown[self.unit]}"

    def stress(self, mpa: float) -> str:
        """A stress in steel."""
        return format_stress(mpa, self.unit)

    def pressure(self, mpa: float) -> str:
        return format_pressure(mpa, self.unit)

    def moment(self, newton_mm: float) -> str:
        return format_moment(newton_mm, self.unit)

    def wood(self, cubic_m: float) -> str:
        return format_wood(cubic_m, self.unit)

    @staticmethod
    def angle(degrees: float) -> str:
        return f"{round(degrees, 1) + 0.0:.1f}°"

    def angle_spread(self, of: Estimate) -> str:
        return f"{self.angle(of.likely)} ({self.angle(of.low)}–{self.angle(of.high)})"

    @staticmethod
    def percent(share: float) -> str:
        return f"{share:.0%}" if share >= 0.1 else f"{share:.1%}"

    @staticmethod
    def number(value: float, decimals: int = 1) -> str:
        return f"{value:.{decimals}f}"

    def band(self, of: Estimate, decimals: int) -> str:
        """A plain number with its band."""
        low, likely, high = (self.number(v, decimals) for v in (of.low, of.likely, of.high))
        return f"{likely} ({low}–{high})"

    @staticmethod
    def minutes(value: float) -> str:
        return f"{value:.0f} min"

    def row(self, label: str, of: Figure | Estimate, text: str) -> FigureRow:
        """A row for a figure that knows how sure it is."""
        return FigureRow(label, text, of.grade)


def grid(caption: str, head: Sequence[str], rows: Sequence[Sequence[str]], **more: object) -> Grid:
    """A grid from any sequences."""
    return Grid(caption, tuple(head), tuple(tuple(r) for r in rows), **more)  # type: ignore[arg-type]
