"""One shape for every judgement in the product."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Any, Literal

from .document import BY_FIX, Message, Reason

Level = Literal["fit", "watch", "stop"]
Stage = Literal[
    "shape",
    "way",
    "stock",
    "build_up",
    "bend",
    "steam",
    "form",
    "prepare",
    "moves",
    "press",
    "dry",
    "days",
    "bench",
    "measure",
]
LEVELS: tuple[Level, ...] = ("fit", "watch", "stop")
MINOR = frozenset(  # spoil no piece: marks on the wood, waste of wood or heat, a hole missing
    {
        "form.no_bolts",
        "heat.chamber_large",
        "heat.stain",
        "pairs.alike",
        "prepare.joined",
        "prepare.kerf",
        "prepare.wide",
        "press.bleed",
    }
)


@dataclass(frozen=True, slots=True)
class Change:
    """What would clear a finding: a sentence, and the values to set, by dotted field of the job."""

    message: Message
    sets: dict[str, Any]


@dataclass(frozen=True, slots=True)
class Finding:
    """A judgement on a valid plan. stretch_mm: where, from the start of the strip; more: other fixes."""

    code: str
    level: Level
    stage: Stage
    message: Message
    reason: Reason
    fix: Annotated[Change | None, BY_FIX] = None
    stretch_mm: tuple[float, float] | None = None
    more: tuple[Change, ...] = ()

    @property
    def fixes(self) -> tuple[Change, ...]:
        """Every change that would clear it, the first one first."""
        return (*((self.fix,) if self.fix else ()), *self.more)


def gravest_first(found: list[Finding]) -> tuple[Finding, ...]:
    """Findings, the gravest first, otherwise in the order they came; of one level, marks on the wood and waste last."""
    return tuple(sorted(found, key=lambda f: (-LEVELS.index(f.level), f.code in MINOR)))


def worst(levels: list[Level]) -> Level:
    """The gravest of some levels; fit when there are none."""
    return max(levels, key=LEVELS.index, default="fit")
