"""Operations: what is done, in what order. Sheet, timetable, bench page and calendar are views of this one list."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Literal

from .document import Message
from .estimate import Estimate, Grade

Scope = Literal["job", "batch", "piece"]
CheckedOn = Literal["sheet", "straightedge", "form"]  # what a bend is checked on
AFTERWARDS = "measure_again"  # what comes when the piece is done
NO_TIME = Estimate(0.0, 0.0, 0.0, "allowance")
Resource = Literal["form", "strap", "chamber", "clamps", "bag", "frame", "iron", "oven", "saw"]
# What each is called where it is spoken of: one of them, and several. A new resource is a line here and above.
RESOURCE_WORDS = {
    "form": ("the form", "forms"),
    "strap": ("the strap", "straps"),
    "chamber": ("a place in the steam box", "places in the steam box"),
    "clamps": ("clamps", "clamps"),
    "bag": ("the bag", "bags"),
    "frame": ("a drying jig", "drying jigs"),
    "iron": ("the heat", "irons"),
    "oven": ("the oven", "ovens"),
    "saw": ("the saw", "saws"),
    "people": ("somebody", "people"),
}


def resource_name(what: str, many: bool = False) -> str:
    """Return what a resource is called. what: its key, with a job ("form@3") or a kind ("form:far") behind it.

    >>> resource_name("form@3"), resource_name("frame", many=True)
    ('the form', 'drying jigs')
    """
    name = what.split("@")[0].split(":")[0]
    return RESOURCE_WORDS.get(name, (name, name))[many]


@dataclass(frozen=True, slots=True)
class After:
    """What must be done before: the key of another operation, and how long after it this one may start.

    least_s: the shortest wait; most_s: the longest, 0 for none at all, None where it does not matter. Of a piece it is
    the same piece's operation that counts, of the job all pieces'.
    """

    key: str
    least_s: float = 0.0
    most_s: float | None = None


@dataclass(frozen=True, slots=True)
class ResourceHold:
    """Something held from the start of an operation until the end of the one that frees it.

    kind: which, where there are several.
    """

    what: Resource
    count: int = 1
    kind: str = ""

    @property
    def name(self) -> str:
        """What is held, in words: "the form", "2 drying jigs"."""
        return f"{self.count} {resource_name(self.what, many=True)}" if self.count > 1 else resource_name(self.what)


@dataclass(frozen=True, slots=True)
class AttendedTime(Estimate):
    """Seconds of work. made_of: moves of the table of times, how many of each, and seconds for one; nothing where it is
    a time of its own."""

    made_of: tuple[tuple[str, float, float], ...] = ()


@dataclass(frozen=True, slots=True)
class Move:
    """One move of an operation: an imperative, whose it is, seconds from the beginning to its own beginning and end.

    sets: the figure such a move gives when it is timed, of the job (“heat.carry_s”) or of the shop's times
    (“times.into_strap”); times: that figure for one second of the move. Grade: allowance; a rehearsal gives this
    shop's own.
    """

    message: Message
    who: str
    from_s: float
    to_s: float
    sets: str = ""
    times: float = 1.0

    @property
    def takes_s(self) -> float:
        """How long it is planned to take, seconds."""
        return self.to_s - self.from_s


@dataclass(frozen=True, slots=True)
class Window:
    """What runs out while something is done: from the beginning of the operation `since` to the end of this one."""

    message: Message
    since: str
    seconds: float
    grade: Grade


@dataclass(frozen=True, slots=True)
class Warming:
    """A bar that is made hot while an operation lasts: mm, m²/s, °C. chamber_c: as planned; goal_c: of its middle."""

    thickness_mm: float
    width_mm: float
    diffusivity_m2_s: float
    start_c: float
    chamber_c: float
    goal_c: float


@dataclass(frozen=True, slots=True)
class Operation:
    """One thing that is done.

    name: an imperative a helper understands. scope: once for the job, once for each batch bent together, or for each
    piece. attended_s: with hands on it; unattended_s: after that, by itself; may_run_alone: whether nobody need be in
    the shop (never where there is heat, flame or stored force). frees: what it gives back when it ends. steps:
    sentences with their figures; lay_out: what must be at hand before; record: what is worth writing down. keeps_s: of
    heat that is made first, how long it is kept for what comes next; within that it is not made again. earliest_s,
    latest_s: of what is left by itself, when it is ready at the soonest, and after when it suffers. moves: of what is
    done in a hurry, one by one. meanwhile: where a piece is while it lasts, in words.
    each_s: how long it lasts by itself for each piece or load, where they are to differ. checked_on: what a piece
    is laid on to check its bend and ease it, where it can still be changed.
    """

    key: str
    kind: str
    name: str
    scope: Scope
    attended_s: AttendedTime
    hands: int = 1
    unattended_s: Estimate = NO_TIME
    may_run_alone: bool = False
    takes: tuple[ResourceHold, ...] = ()
    frees: tuple[str, ...] = ()
    after: tuple[After, ...] = ()
    steps: tuple[str, ...] = ()
    lay_out: tuple[str, ...] = ()
    record: tuple[str, ...] = ()
    cautions: tuple[str, ...] = ()
    keeps_s: float = 0.0
    earliest_s: float | None = None
    latest_s: float | None = None
    warms: Warming | None = None
    window: Window | None = None
    moves: tuple[Move, ...] = ()
    meanwhile: str = ""
    each_s: tuple[float, ...] = ()
    checked_on: CheckedOn | Literal[""] = ""

    def of_number(self, number: int) -> Operation:
        """The operation as it is of one piece or load."""
        if not 0 <= number < len(self.each_s):
            return self
        own = self.each_s[number]
        return replace(self, unattended_s=Estimate(own, own, own, "allowance"), earliest_s=None, latest_s=None)

    @property
    def lasts_s(self) -> float:
        """How long it is planned to take, hands and alone, seconds."""
        return self.attended_s.likely + self.unattended_s.likely

    @property
    def moves_s(self) -> float:
        """How long its moves are planned to take, one after another, seconds; 0 where it is not told in moves."""
        return sum(move.takes_s for move in self.moves)


@dataclass(frozen=True, slots=True)
class Batches:
    """How the pieces go through: all of them, how many together, and forms to bend them on."""

    pieces: int
    at_once: int = 1
    forms: int = 1

    def often(self, scope: Scope) -> int:
        """How often something is done: once, for each load, for each piece.

        >>> Batches(7, 2).often("batch"), Batches(7, 2).often("job")
        (4, 1)
        """
        return {"job": 1, "batch": math.ceil(self.pieces / self.at_once), "piece": self.pieces}[scope]


def in_order(operations: tuple[Operation, ...]) -> tuple[Operation, ...]:
    """The same operations, checked: every key once, each after what it waits for. Raises: ValueError for a slip."""
    seen: set[str] = set()
    for one in operations:
        if one.key in seen:
            raise ValueError(f"two operations are called {one.key}")
        if missing := [a.key for a in one.after if a.key not in seen]:
            raise ValueError(f"{one.key} waits for {missing[0]}, which does not come before it")
        seen.add(one.key)
    return operations
