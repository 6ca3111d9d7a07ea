"""What comes of placing: everything in its place, who holds what, and what does not go as it was meant."""

from __future__ import annotations

from collections.abc import Sequence

from ..common.errors import ENDLESS
from .blocks import NEAR_S, BlockLayout, BlockSet
from .job_tasks import (
    Kind,
    ResourceUse,
    ScheduleConflict,
    ScheduledTask,
    State,
    Why,
)

SOON_S = 60.0  # a pin missed by less is kept


def clashes_before(runs: BlockSet) -> list[ScheduleConflict]:
    """What no timetable can make possible: one for each operation it is about."""
    hours, people = runs.floor.hours, runs.floor.people
    if not hours.hands.opens:
        return [ScheduleConflict("no_hours", w.job) for w in runs.works[:1]]
    found: dict[tuple[object, ...], ScheduleConflict] = {}
    seen = set[int]()
    for run in runs.runs:
        if id(run.cold) in seen:
            continue
        seen.add(id(run.cold))
        job, first = runs.works[run.work].job, runs.tasks[run.tasks[0]].operation
        if not run.cold.spread and not run.forced:
            present, by_hand = (run.cold.present, hours.present, "present"), (run.cold.by_hand, hours.hands, "hands")
            for stretches, limit, what in (present, by_hand):
                longest = max((b - a for a, b in stretches), default=0.0)
                if longest > limit.longest_s + NEAR_S:
                    clash = ScheduleConflict("too_long", job, first.key, -1, what, longest, limit.longest_s)
                    found.setdefault(("too_long", job, first.key), clash)
        for i in run.tasks:
            o = runs.tasks[i].operation
            if o.hands > people:
                found["hands", job, o.key] = ScheduleConflict(
                    "too_few", job, o.key, -1, "people", have=people, wants=o.hands
                )
        for name, _, _, count in run.cold.things:
            if count > runs.owned[name]:
                clash = ScheduleConflict("too_few", job, first.key, -1, name, have=runs.owned[name], wants=count)
                found.setdefault((name, job), clash)
    return list(found.values())


def clashes_of(
    runs: BlockSet, whys: Sequence[Why], ends: Sequence[float], stuck: Sequence[int], too_far: Sequence[int]
) -> list[ScheduleConflict]:
    """What did not go as it was meant: stuck, beyond the hours that are known, missed pins, overruns, jobs that are
    late.

    Args:
        runs: what was placed.
        whys: what each run waited for last.
        ends: of each task.
        stuck: runs that never begin, for what they need is held by who knows how long.
        too_far: runs the hours that are laid out do not reach to.
    """
    made, now = list[ScheduleConflict](), runs.floor.now_s
    cannot: list[tuple[Kind, int]] = [("too_far", n) for n in too_far] + [("stuck", n) for n in stuck]
    for kind, n in cannot:
        run = runs.runs[n]
        task = runs.tasks[run.tasks[0]]
        made.append(ScheduleConflict(kind, runs.works[run.work].job, task.operation.key, task.number))
    if made:
        return made[:1]
    where = {(t.work, t.operation.key, t.number): i for i, t in enumerate(runs.tasks)}
    for w, work in enumerate(runs.works):
        for pin in work.pins:
            i = where.get((w, pin.key, pin.number))
            if i is None or runs.tasks[i].done:
                continue
            n = runs.of_task[i]
            start = ends[i] - runs.tasks[i].lasts_s
            if start > pin.at_s + SOON_S:
                missed: Kind = "not_begun" if pin.at_s < now - SOON_S else "pin_late"
                made.append(ScheduleConflict(missed, work.job, pin.key, pin.number, whys[n].what, start, pin.at_s))
        for done in work.done:
            i = where.get((w, done.key, done.number))
            if i is not None and done.to_s is None and done.from_s + runs.tasks[i].lasts_s < now - SOON_S:
                over = now - done.from_s - runs.tasks[i].lasts_s
                made.append(ScheduleConflict("overrun", work.job, done.key, done.number, "", over))
        own = [(ends[i], t) for i, t in enumerate(runs.tasks) if t.work == w and t.counts]
        last = max((end for end, _ in own), default=0.0)
        if all(t.done for _, t in own):
            continue  # what is done is done
        if work.due_s is not None and last > work.due_s + SOON_S:
            made.append(ScheduleConflict("late", work.job, seconds=last, limit_s=work.due_s))
    return made


def doings_of(
    runs: BlockSet,
    starts: Sequence[float],
    shapes: Sequence[BlockLayout | None],
    whys: Sequence[Why],
    ends: Sequence[float],
) -> tuple[ScheduledTask, ...]:
    """Everything in its place, in order of beginning; heat that need not be made again is left out."""
    made = []
    on: dict[str, Why] = {}
    pinned = {(w.job, p.key, p.number) for w in runs.works for p in w.pins}
    for i, task in enumerate(runs.tasks):
        if task.done:
            job = runs.works[task.work].job
            hands_to = min(ends[i], task.done.from_s + task.attended_s)
            state: State = "done" if task.done.to_s is not None else "begun"
            made.append(
                ScheduledTask(job, task.operation, task.number, task.done.from_s, hands_to, ends[i], Why("done"), state)
            )
    for n, run in enumerate(runs.runs):
        shape = shapes[n]
        assert shape is not None
        job = runs.works[run.work].job
        for k, place in enumerate(shape.tasks):
            i = run.tasks[place]
            task = runs.tasks[i]
            begin = starts[n] + shape.starts[k]
            key = "" if k == 0 else runs.tasks[run.tasks[shape.tasks[k - 1]]].operation.key
            why = on.setdefault(key, Why("straight_on", key)) if k else whys[n]
            state = "pinned" if (job, task.operation.key, task.number) in pinned else "planned"
            made.append(
                ScheduledTask(job, task.operation, task.number, begin, ends[i] - task.alone_s, ends[i], why, state, n)
            )
    return tuple(sorted(made, key=lambda d: (d.from_s, d.to_s)))


def held_of(runs: BlockSet, doings: Sequence[ScheduledTask]) -> tuple[ResourceUse, ...]:
    """Who holds which of each thing, from when to when: of several the lowest that is free."""
    work_of = {w.job: w for w in runs.works}
    open_: dict[tuple[str, int, int], tuple[float, int]] = {}
    spans: list[tuple[float, float, str, int, int, int]] = []
    marks = [(d.from_s, 1, n) for n, d in enumerate(doings)] + [(d.to_s, 0, n) for n, d in enumerate(doings)]
    for at, begins, n in sorted(marks):
        d = doings[n]
        work = work_of[d.job]
        if begins:
            for name, count in runs.takes_of(work, d.operation):
                open_.setdefault((name, d.job, d.number), (at, count))
        else:
            for name in runs.gives_of(work, d.operation):
                held = open_.pop((name, d.job, d.number), None)
                if held:
                    spans.append((held[0], at, name, held[1], d.job, d.number))
    spans += [(a, ENDLESS, name, count, job, number) for (name, job, number), (a, count) in open_.items()]
    free: dict[str, list[float]] = {}
    made = []
    for a, b, name, count, job, number in sorted(spans):
        units = free.setdefault(name, [])
        got = [u for u, until in enumerate(units) if until <= a + NEAR_S][:count]
        while len(got) < count:
            got.append(len(units))
            units.append(0.0)
        for u in got:
            units[u] = b
        made.append(ResourceUse(name, got[0], count, job, number, a, b))
    return tuple(made)
