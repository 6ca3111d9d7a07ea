"""How long the moves of a shop take: one table of allowances, and the shop's own figures in place of them."""

from __future__ import annotations

import tomllib
from dataclasses import dataclass
from functools import cache, cached_property
from importlib.resources import files

from ..common.errors import ENDLESS, check_range
from ..common.estimate import Grade
from ..common.operation import AttendedTime
from ..common.units import Unit
from .shop import Shop

MEASURED_PER: dict[tuple[str, str], tuple[str, float]] = {
    ("", "mm"): ("", 1.0),
    ("", "in"): ("", 1.0),
    ("m", "mm"): ("meter", 1.0),
    ("m", "in"): ("foot", 0.3048),
    ("m2", "mm"): ("square meter", 1.0),
    ("m2", "in"): ("square foot", 0.3048**2),
}
QUICK, SLOW = 0.7, 1.6  # of the likely time: what eight in ten take lies between. Grade: allowance.


@dataclass(frozen=True, slots=True)
class MoveTime:
    """One row: seconds for one of what the name says. Grade: allowance.

    per: "m" or "m2" where seconds are for a meter or a square meter, which stands at {} in the name.
    """

    key: str
    name: str
    seconds: float
    source: str
    per: str = ""

    def name_in(self, unit: Unit) -> str:
        """Its name, per what this maker measures in."""
        return self.name.format(MEASURED_PER[self.per, unit][0])

    def size_in(self, unit: Unit) -> float:
        """Meters or square meters in what this maker's seconds are for."""
        return MEASURED_PER[self.per, unit][1]


@cache
def time_table() -> dict[str, MoveTime]:
    """Every move by key, in the order of the work."""
    data = tomllib.loads((files(__package__) / "data" / "times.toml").read_text("utf-8"))
    return {key: MoveTime(key=key, source=data["sources"]["trade"], **row) for key, row in data["time"].items()}


@dataclass(frozen=True)
class Times:
    """The moves of one shop: the table with its own figures over it."""

    shop: Shop

    @cached_property
    def _own(self) -> dict[str, float]:
        return {t.key: t.seconds for t in (*self.shop.learnt_times, *self.shop.times)}

    @cached_property
    def _learnt(self) -> frozenset[str]:
        return frozenset(t.key for t in self.shop.learnt_times) - {t.key for t in self.shop.times}

    def seconds(self, key: str) -> float:
        """Seconds for one: the shop's own where it has said so, else what its runs teach, else the table's.

        Raises: KeyError for a move not in the table."""
        return self._own.get(key, time_table()[key].seconds)

    def is_learnt(self, key: str) -> bool:
        """Whether its seconds are those the shop's runs teach."""
        return key in self._learnt

    def of(self, **how_many: float) -> AttendedTime:
        """Seconds for so many of each move named, with the spread usual for hands. Valid: 0 or more of each.

        Raises: PlanError. Grade: learned where all of them are, else allowance.

        >>> Times(Shop()).of(rip_strip=2, rip_metre=3.0).likely
        150.0
        """
        for count in how_many.values():
            check_range("part.count", count, 0, ENDLESS)
        made_of = tuple((k, n, self.seconds(k)) for k, n in how_many.items())
        total = sum(n * each for _, n, each in made_of)
        grade: Grade = "learned" if all(self.is_learnt(key) for key in how_many) else "allowance"
        return AttendedTime(QUICK * total, total, SLOW * total, grade, made_of)
