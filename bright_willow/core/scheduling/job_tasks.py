"""What a timetable is made from and what it is: each job's work, what the shop owns, everything in its place."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import Literal

from ..common.operation import AFTERWARDS, Batches, Operation
from .working_hours import Hours

OF_THE_JOB = ("form", "strap")  # made for one job; all else is the shop's


@dataclass(frozen=True, slots=True)
class PinnedStart:
    """An operation of a piece or load (−1: of the job) that is to begin at a time, seconds."""

    key: str
    number: int
    at_s: float


@dataclass(frozen=True, slots=True)
class CompletedTask:
    """An operation that was begun, and when it ended; None while it is under way."""

    key: str
    number: int
    from_s: float
    to_s: float | None


@dataclass(frozen=True)
class JobTasks:
    """One job as the days see it. job: its number; own: how many it has of what is made for it alone.

    not_before_s: nothing begins sooner; due_s: when all is wanted.
    """

    job: int
    name: str
    operations: tuple[Operation, ...]
    batches: Batches
    own: Mapping[str, int] = field(default_factory=dict)
    not_before_s: float = 0.0
    due_s: float | None = None
    pins: tuple[PinnedStart, ...] = ()
    done: tuple[CompletedTask, ...] = ()


@dataclass(frozen=True)
class ShopCapacity:
    """The shop: its hours, its people, how many of each thing; of what is not named there is enough.

    now_s: nothing that is not begun begins sooner.
    """

    hours: Hours
    people: int
    owned: Mapping[str, int] = field(default_factory=dict)
    now_s: float = 0.0


Waits = Literal["start", "now", "not_before", "after", "hours", "hands", "thing", "heat", "pin", "straight_on", "done"]
State = Literal["planned", "pinned", "begun", "done"]


@dataclass(frozen=True, slots=True)
class Why:
    """What something waited for last. what: the thing, or the operation it comes after; by: job and number of whoever
    that was, where there is one."""

    waits: Waits
    what: str = ""
    job: int = -1
    number: int = -1


@dataclass(frozen=True, slots=True)
class ScheduledTask:
    """One operation of one piece or load in its place, seconds. hands_to_s: when hands are free of it; to_s: its end.

    number: of the piece or load from 0, −1 for what is done once.
    """

    job: int
    operation: Operation
    number: int
    from_s: float
    hands_to_s: float
    to_s: float
    why: Why
    state: State = "planned"
    run: int = -1

    @property
    def name(self) -> tuple[int, str, int]:
        """Job, key and number: what it is called everywhere."""
        return self.job, self.operation.key, self.number


@dataclass(frozen=True, slots=True)
class ResourceUse:
    """A thing in somebody's hands: which of its kind (from 0), how many, whose, from when to when."""

    what: str
    unit: int
    count: int
    job: int
    number: int
    from_s: float
    to_s: float


Kind = Literal[
    "too_long", "too_few", "pin_late", "pin_early", "late", "overrun", "not_begun", "stuck", "no_hours", "too_far"
]  # fmt: skip


@dataclass(frozen=True, slots=True)
class ScheduleConflict:
    """Something that cannot be, or is not as it was meant. s: seconds it is about; have, wants: counts."""

    kind: Kind
    job: int
    key: str = ""
    number: int = -1
    what: str = ""
    seconds: float = 0.0
    limit_s: float = 0.0
    have: int = 0
    wants: int = 0

    @property
    def is_in_the_way(self) -> bool:
        """Whether there can be no timetable until it is mended."""
        return self.kind in ("too_long", "too_few", "stuck", "no_hours", "too_far")


@dataclass(frozen=True)
class Timetable:
    """Everything in its place, in order of beginning.

    done_s: when the last piece of all is done, and of each job; heat_s: how long heat is on; late_s: by how much all
    jobs together are late. rule: which order of work won, to be used again for a quick one.
    """

    doings: tuple[ScheduledTask, ...]
    done_s: float
    done_of: Mapping[int, float]
    heat_s: float
    late_s: float
    clashes: tuple[ScheduleConflict, ...]
    rule: int = 0
    find_held: Callable[[], tuple[ResourceUse, ...]] = field(default=tuple, compare=False, repr=False)

    def hands_s(self, job: int) -> float:
        """How long hands are on a job, everybody's together; measuring it again is left out."""
        own = [d.operation for d in self.doings if d.job == job and d.operation.kind != AFTERWARDS]
        return sum(o.attended_s.likely * o.hands for o in own)

    @cached_property
    def held(self) -> tuple[ResourceUse, ...]:
        """Who holds what, from when to when."""
        return self.find_held()
