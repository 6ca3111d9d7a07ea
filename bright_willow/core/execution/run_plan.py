"""What a run starts with and keeps, whatever becomes of its job: the operations, how pieces go through, the chamber."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property

from ..common.operation import Batches, Operation
from ..heat.steam_plan import SteamHeat
from ..plan.result import Plan
from ..scheduling.blocks import ScheduleTask, tasks_of
from ..scheduling.job_tasks import CompletedTask, JobTasks
from .simulated_chamber import SimulatedChamber, simulated_chamber

Name = tuple[str, int]  # an operation's key, and the number of its piece or load from 0; −1 for what is done once


@dataclass(frozen=True)
class RunPlan:
    """The plan of a run as it was when it started. Times in seconds of the run's own clock.

    places: loads the chamber holds; chamber: what its simulated stand-in is made from, where there is one; ready_c:
    what its thermometer shows when it is hot; group: the stock, for what is learnt; before: what was done already;
    seed: of what goes wrong in a game; trial: whose run it is, 0 for none; called: what each piece is called besides
    its number; numbers: of each piece in its trial, from 1.
    """

    name: str
    operations: tuple[Operation, ...]
    pieces: int
    at_once: int
    forms: int
    places: int
    people: int
    started_s: float
    chamber: SimulatedChamber | None = None
    ready_c: float | None = None
    group: str = ""
    before: tuple[CompletedTask, ...] = ()
    seed: int = 0
    trial: int = 0
    called: tuple[str, ...] = ()
    numbers: tuple[int, ...] = ()
    kind: str = field(default="brief")

    @cached_property
    def batches(self) -> Batches:
        return Batches(self.pieces, self.at_once, self.forms)

    @cached_property
    def web(self) -> TaskGraph:
        return TaskGraph(self)

    @cached_property
    def of(self) -> dict[str, Operation]:
        """Operations by their key."""
        return {o.key: o for o in self.operations}

    def work(self, done: Sequence[CompletedTask] = ()) -> JobTasks:
        """The run as work on the floor, seconds from its start."""
        own = {"form": self.forms, "strap": self.forms}
        moved = tuple(
            CompletedTask(
                d.key, d.number, d.from_s - self.started_s, None if d.to_s is None else d.to_s - self.started_s
            )
            for d in done
        )
        return JobTasks(0, self.name, self.operations, self.batches, own, done=moved)

    def pieces_of(self, name: Name) -> range:
        """Pieces an operation is about, by their number from 0: all of them for what is done once."""
        key, number = name
        scope = self.of[key].scope
        if scope == "job":
            return range(self.pieces)
        if scope == "piece":
            return range(number, number + 1)
        return range(number * self.at_once, min(self.pieces, (number + 1) * self.at_once))

    def piece_text(self, piece: int) -> str:
        """What a piece is called, from its number from 0: of a trial as it is called there."""
        number = self.numbers[piece] if 0 <= piece < len(self.numbers) else piece + 1
        return f"piece {number}, {self.called[piece]}" if 0 <= piece < len(self.called) else f"piece {number}"

    def whom(self, name: Name) -> str:
        """Whom an operation is about, in words; empty for what is done once."""
        scope, own = self.of[name[0]].scope, self.pieces_of(name)
        if scope == "job":
            return ""
        if not own or own[0] >= self.pieces:
            return f"{'piece' if scope == 'piece' else 'batch'} {name[1] + 1}, no longer planned"
        if len(own) == 1:
            return self.piece_text(own[0])
        return f"batch {name[1] + 1}: pieces {own[0] + 1} to {own[-1] + 1}"


def brief_of(
    plan: Plan, *, places: int, people: int, started_s: float, before: Sequence[CompletedTask] = (), seed: int = 0
) -> RunPlan:
    """What a run of a plan starts with. places, people: of the shop, 1 or more."""
    batches = plan.way.batches
    most = max((o.hands for o in plan.operations), default=1)
    return RunPlan(
        plan.job.name,
        plan.operations,
        batches.pieces,
        batches.at_once,
        batches.forms,
        max(1, places),
        max(people, most),
        started_s,
        simulated_chamber(plan),
        plan.hot.heat.chamber.ready_c if plan.hot and isinstance(plan.hot.heat, SteamHeat) else None,
        plan.way.group,
        tuple(before),
        seed,
    )


class TaskGraph:
    """How the operations of a run hang together, piece by piece: made once, asked often. of_load: names of what is done
    to each load and its pieces, in their order."""

    def __init__(self, brief: RunPlan) -> None:
        self.tasks: list[ScheduleTask] = tasks_of([brief.work()])
        self.at: dict[Name, int] = {(t.operation.key, t.number): i for i, t in enumerate(self.tasks)}
        self.before: list[tuple[int, ...]] = [tuple(j for j, _ in t.after) for t in self.tasks]
        self.next: list[list[int]] = [[] for _ in self.tasks]
        self.straight: list[list[int]] = [[] for _ in self.tasks]  # what must follow without a wait
        self.of_load: dict[int, list[Name]] = {n: [] for n in range(brief.batches.often("batch"))}
        for key, number in self.at:
            if (scope := brief.of[key].scope) != "job":
                self.of_load[number if scope == "batch" else number // brief.at_once].append((key, number))
        for i, task in enumerate(self.tasks):
            rigid = {a.key for a in task.operation.after if a.most_s == 0}
            for j, _ in task.after:
                self.next[j].append(i)
                if self.tasks[j].operation.key in rigid:
                    self.straight[j].append(i)

    def name(self, i: int) -> Name:
        task = self.tasks[i]
        return task.operation.key, task.number

    def is_hands_free(self, i: int) -> bool:
        return self.tasks[i].attended_s == 0

    def ends_itself(self, i: int) -> bool:
        """Whether it is over when its time is, without anybody: what follows has no hands in it either."""
        return self.is_hands_free(i) and any(self.is_hands_free(j) for j in self.straight[i])
