"""What a bench page shows of a run, as data: the one thing to do now, and every load."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from ..common.estimate import Grade
from ..common.findings import Finding
from ..common.operation import Operation
from .core_temperature import CoreTemperature
from .run_plan import Name
from .run_state import PieceLoss

Phase = Literal["rest", "wait", "hands", "out", "done"]


@dataclass(frozen=True, slots=True)
class BenchTask:
    """One operation of one piece or load as the bench sees it, by the run's clock.

    from_s: when it begins or was begun; due_s: when it must begin, for what may not wait; soonest_s, latest_s: the
    bounds of that; over_s: when what runs out meanwhile is over, over_text what that is. is_running: it was begun;
    alone_s: until when it goes by itself, with nobody at it.
    """

    name: Name
    operation: Operation
    whom: str
    from_s: float
    is_running: bool = False
    due_s: float | None = None
    soonest_s: float | None = None
    latest_s: float | None = None
    over_s: float | None = None
    over_text: str = ""
    alone_s: float | None = None

    @property
    def is_timed(self) -> bool:
        """Whether it is worth saying when it begins: something runs out while it is done, its moves are counted, or it
        goes on by itself."""
        return bool(self.operation.window or self.operation.moves or self.operation.unattended_s.likely)


@dataclass(frozen=True, slots=True)
class LoadStatus:
    """Where a load (most often one piece) stands. says: in words; since_s, until_s: of what it is in now; core: of what
    is warming; out_s, latest_s: when it comes out of the heat; over_s: until when it can be worked; form_s: since when
    it is on the form. broke: of each of its pieces that is out."""

    number: int
    name: str
    pieces: tuple[int, ...]
    message: str
    phase: Phase
    since_s: float | None = None
    until_s: float | None = None
    core: CoreTemperature | None = None
    core_grade: Grade = "physics"
    goal_c: float | None = None
    out_s: float | None = None
    latest_s: float | None = None
    over_s: float | None = None
    over_text: str = ""
    form_s: float | None = None
    broke: Mapping[int, PieceLoss] | None = None


@dataclass(frozen=True)
class Live:
    """now: what to do, none while everything goes by itself; also: what else could be done; next: what follows;
    pieces: every load; findings: what is not as it should be; share: of the operations, how many are done."""

    at_s: float
    now: BenchTask | None
    also: tuple[BenchTask, ...]
    next: tuple[BenchTask, ...]
    pieces: tuple[LoadStatus, ...]
    findings: tuple[Finding, ...]
    done: int
    count: int

    @property
    def is_over(self) -> bool:
        """Whether nothing is left to do."""
        return self.now is None and not self.next

    @property
    def changes_s(self) -> float | None:
        """When next something becomes due."""
        times = [begins_s(t) for t in self.next]
        return min((t for t in times if t > self.at_s), default=None)


def begins_s(task: BenchTask) -> float:
    """Return when a task asks for hands: when it has gone by itself, when it is due, or when it is planned, s."""
    if task.alone_s is not None:
        return task.alone_s
    return task.due_s if task.due_s is not None else task.from_s
