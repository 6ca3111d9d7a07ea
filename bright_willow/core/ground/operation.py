"""Operations: what is done, in what order. Sheet, timetable, bench page and calendar are views of this one list."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from .estimate import Estimate

Scope = Literal["job", "batch", "piece"]
NO_TIME = Estimate(0.0, 0.0, 0.0, "allowance")


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
class Taken:
    """Something held from the start of an operation until the end of the one that frees it.

    what: form, strap, chamber, clamps, bag, frame, iron, oven or saw; kind: which, where there are several.
    """

    what: Literal["form", "strap", "chamber", "clamps", "bag", "frame", "iron", "oven", "saw"]
    count: int = 1
    kind: str = ""


@dataclass(frozen=True, slots=True)
class Operation:
    """One thing that is done.

    name: an imperative a helper understands. scope: once for the job, once for each batch bent together, or for each
    piece. attended_s: with hands on it; unattended_s: after that, by itself; may_run_alone: whether nobody need be in
    the shop (never where there is heat, flame or stored force). frees: what it gives back when it ends. steps:
    sentences with their figures; lay_out: what must be at hand before; record: what is worth writing down. keeps_s: of
    heat that is made first, how long it is kept for what comes next; within that it is not made again.
    """

    key: str
    kind: str
    name: str
    scope: Scope
    attended_s: Estimate
    hands: int = 1
    unattended_s: Estimate = NO_TIME
    may_run_alone: bool = False
    takes: tuple[Taken, ...] = ()
    frees: tuple[str, ...] = ()
    after: tuple[After, ...] = ()
    steps: tuple[str, ...] = ()
    lay_out: tuple[str, ...] = ()
    record: tuple[str, ...] = ()
    cautions: tuple[str, ...] = ()
    keeps_s: float = 0.0


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
