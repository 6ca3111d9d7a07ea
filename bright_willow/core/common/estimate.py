"""Figures that know how sure they are."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

Grade = Literal["physics", "published", "allowance", "learned"]

OWN_FIGURE: Grade = "allowance"  # of a figure that is the shop's to set: its times, the days reckoned from them
LEARNT: Grade = "learned"  # of what the shop's own book says
GRADES: dict[str, str] = {
    "physics": "calculated from mechanics or geometry",
    "published": "from a handbook",
    "allowance": "a rule of thumb you can change",
    "learned": "from this shop's own bends",
}
GRADE_TAGS: dict[str, str] = {"published": "handbook", "learned": "your shop"}  # shown beside a figure; others are not
GRADE_WORDS: dict[str, str] = {"physics": "calculated", "allowance": "rule of thumb", **GRADE_TAGS}


@dataclass(frozen=True, slots=True)
class Figure:
    """One number and its grade. The unit is in the name of whatever holds it."""

    value: float
    grade: Grade


@dataclass(frozen=True, slots=True)
class Estimate:
    """An uncertain quantity: eight times in ten it falls between low and high."""

    low: float
    likely: float
    high: float
    grade: Grade

    @classmethod
    def around(cls, values: Iterable[float], grade: Grade) -> Estimate:
        """The band of three values, the likely one in the middle of them: a curve that opens past a half turn can bring
        its tip nearer again, so the ends of the band need not come in order."""
        low, likely, high = (float(v) for v in values)
        return cls(min(low, likely, high), likely, max(low, likely, high), grade)

    def __post_init__(self) -> None:
        if not self.low <= self.likely <= self.high:
            raise ValueError(f"an estimate runs low ≤ likely ≤ high, not {self.low}, {self.likely}, {self.high}")
