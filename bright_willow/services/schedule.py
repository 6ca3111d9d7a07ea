"""The shop's days as pages ask for them: plans of the jobs in its week, laid out from now on."""

from __future__ import annotations

import datetime as dt
from collections.abc import Collection
from dataclasses import dataclass
from threading import Lock
from typing import TypeVar

from ..calendar.schedule_messages import findings_of
from ..calendar.shop_clock import FARTHEST_DAYS, ShopClock
from ..calendar.shop_work import DoneAt, PlannedWork, floor_of, wall_of, work_of
from ..core.common.errors import PlanError
from ..core.common.findings import Finding
from ..core.common.operation import Batches, Operation
from ..core.job.job import Job
from ..core.job.schedule_choice import Days
from ..core.plan.plan import checked_plan
from ..core.scheduling.job_tasks import JobTasks, ShopCapacity, Timetable
from ..core.scheduling.timetable import timetable
from ..store.store import Store

PLANS, TABLES = 400, 8  # remembered

T = TypeVar("T")


@dataclass(frozen=True)
class ShopDays:
    """All that is laid out, and the clock it is read by. now_s: on that clock; unplanned: names of jobs left out."""

    wall: ShopClock
    floor: ShopCapacity
    table: Timetable
    works: dict[int, JobTasks]
    planned: dict[int, PlannedWork]
    findings: dict[int, list[Finding]]
    unplanned: tuple[str, ...]

    @property
    def now_s(self) -> float:
        return self.floor.now_s

    @property
    def today(self) -> dt.date:
        return self.wall.at(self.now_s).date()


@dataclass(frozen=True)
class JobOperations:
    """What is done for a job on a form that is there, and from making the form on."""

    operations: tuple[Operation, ...]
    with_form: tuple[Operation, ...]
    batches: Batches


class ScheduleCache:
    """What was worked out, for as long as what it was worked out from stands. Any thread may ask."""

    def __init__(self) -> None:
        self._plans: dict[object, JobOperations | None] = {}
        self._tables: dict[
            object, tuple[Timetable, list[JobTasks], ShopCapacity]
        ] = {}  # with what its key names by identity
        self.rules: dict[tuple[int, ...], int] = {}
        self._lock = Lock()

    def planned(
        self, store: Store, mark: str, job_id: int, job: Job, *, has_form: bool, done: Collection[str] = ()
    ) -> PlannedWork | None:
        """A job's operations; none where it cannot be planned. What is said of its days alone changes nothing.

        mark: what else it rests on: the shop's figures, the book. has_form: whether its form is built; done: keys of
        what was begun. Making the form comes first unless it is built or was bent on already.
        """
        plain = job.model_copy(update={"days": Days(), "notes": ""})
        key = (job_id, mark, plain.model_dump_json())
        with self._lock:
            found = self._plans.get(key)
        if found is None and key not in self._plans:
            made = checked_plan(plain, store.shop_settings.get(), store.training.learned())
            found = None
            if not isinstance(made, PlanError):
                found = JobOperations(made.operations, made.operations_with_form, made.way.batches)
            self._keep(self._plans, key, found, PLANS)
        if found is None:
            return None
        was_used = any(o.key in done and any(hold.what == "form" for hold in o.takes) for o in found.operations)
        operations = found.operations if has_form or was_used else found.with_form
        return PlannedWork(job_id, job, operations, found.batches)

    def table(self, works: list[JobTasks], floor: ShopCapacity, *, quick: bool) -> Timetable:
        """The timetable; a quick one by the rule that won last."""
        own = tuple(w.job for w in works)
        if quick and own in self.rules:
            return timetable(works, floor, rule=self.rules[own])
        what = tuple((w.job, w.not_before_s, w.due_s, w.pins, w.done, id(w.operations), w.batches) for w in works)
        key = (what, floor.people, floor.now_s, tuple(floor.owned.items()), id(floor.hours))
        with self._lock:
            if key in self._tables:
                return self._tables[key][0]
        made = timetable(works, floor)
        self._keep(self._tables, key, (made, works, floor), TABLES)
        self.rules[own] = made.rule
        return made

    def _keep(self, where: dict[object, T], key: object, value: T, most: int) -> None:
        with self._lock:
            while len(where) >= most:
                where.pop(next(iter(where)))
            where[key] = value


REMEMBER = ScheduleCache()


@dataclass(frozen=True)
class ScheduleInput:
    """What there is to lay out, before it is: the clock, the floor, each job's operations and what of them is done."""

    wall: ShopClock
    floor: ShopCapacity
    planned: dict[int, PlannedWork]
    done: dict[int, list[DoneAt]]
    unplanned: tuple[str, ...]


def floor_now(store: Store, now: dt.datetime, *, also: tuple[int, Job] | None = None) -> ScheduleInput:
    """Every job of the shop's week, and one more; now: with its zone. Needs a connection."""
    shop, mark = store.shop_settings.get(), store.summaries.mark()
    jobs = {s.id: s.job for s in store.progress.in_week()}
    if also:
        jobs[also[0]] = also[1]
    done = store.progress.done(jobs)
    wall = wall_of(shop, now, [d for own in done.values() for d in own])
    with_form = {i for i, (forms, _) in store.pieces.counts_by_job(set(jobs)).items() if forms}
    made = {
        i: REMEMBER.planned(store, mark, i, job, has_form=i in with_form, done={d.key for d in done.get(i, ())})
        for i, job in jobs.items()
    }
    unplanned = tuple(job.name for i, job in jobs.items() if made[i] is None)
    return ScheduleInput(wall, floor_of(shop, wall, now), {i: p for i, p in made.items() if p}, done, unplanned)


def shop_days(
    store: Store,
    now: dt.datetime,
    *,
    also: tuple[int, Job] | None = None,
    quick: bool = False,
) -> ShopDays:
    """Every job of the shop's week laid out from now on; `also`: one more, or another form of one, as it is looked at.

    now: with its zone. Needs a connection.
    """
    found = floor_now(store, now, also=also)
    shop, wall, floor, planned, done = store.shop_settings.get(), found.wall, found.floor, found.planned, found.done
    jobs = {i: p.job for i, p in planned.items()}
    works = {i: work_of(p, done[i], wall) for i, p in planned.items()}
    table = REMEMBER.table(list(works.values()), floor, quick=quick)
    if any(c.kind == "too_far" for c in table.clashes):
        floor = floor_of(shop, wall, now, FARTHEST_DAYS)
        table = REMEMBER.table(list(works.values()), floor, quick=quick)
    clashes = list(table.clashes)
    if in_the_way := {c.job for c in clashes if c.is_in_the_way}:  # what cannot be is left out, and the rest laid out
        rest = [w for i, w in works.items() if i not in in_the_way]
        table = REMEMBER.table(rest, floor, quick=quick)
        clashes += table.clashes
    said = {i: findings_of([c for c in clashes if c.job == i], {i: jobs[i]}, works, shop, wall) for i in works}
    return ShopDays(wall, floor, table, works, planned, said, found.unplanned)
