"""What a bench page shows: the one thing to do now, what is next and when, and every piece with its own clock."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

from ..common.operation import Operation
from ..common.units import Unit
from ..scheduling.job_tasks import CompletedTask, JobTasks, ScheduledTask, ShopCapacity
from ..scheduling.timetable import BY_NUMBER, timetable
from ..scheduling.working_hours import ALWAYS
from .bench_status import BenchTask, Live, LoadStatus, begins_s
from .core_temperature import STALE_S, CoreTemperature, core_now
from .run_findings import run_findings
from .run_plan import Name, RunPlan
from .run_state import Mark, State

LEAD_S = 60.0  # before it is due that something is shown as what to do now. Grade: allowance.
MOST_NEXT = 4
AHEAD_LOADS = 8  # laid out beyond those that hands, forms and places can be at


def live(
    brief: RunPlan,
    state: State,
    readings: Sequence[tuple[float, float]] = (),
    *,
    probe: bool = False,
    unit: Unit = "mm",
) -> Live:
    """What the bench shows at the state's time. readings: of the chamber's thermometer, time and °C, in order; probe:
    whether there is one, so that its silence is told. Pure. Raises: PlanError."""
    doings = _doings(brief, state)
    cores = _cores(brief, state, readings)
    last = readings[-1] if readings and state.now_s - readings[-1][0] <= STALE_S else None
    open_ = [_task(brief, state, d, cores, last) for d in doings if d.state != "done" and d.operation.attended_s.likely]
    seen = sorted(open_, key=lambda t: _rank(t, state.now_s))
    ready = [t for t in seen if _is_ready(t, state.now_s)]
    now = ready[0] if ready else None
    later = sorted((t for t in seen if t is not now and t not in ready[1:4]), key=begins_s)
    pieces = tuple(_piece(brief, state, n, cores) for n in range(brief.batches.often("batch")))
    told = run_findings(brief, state, now, cores, readings, probe, unit)
    done = sum(1 for m in state.marks.values() if m.to_s is not None)
    return Live(
        state.now_s,
        now,
        tuple(ready[1:4]),
        tuple(later[:MOST_NEXT]),
        pieces,
        told,
        done,
        sum(brief.batches.often(o.scope) for o in brief.operations),
    )


def _doings(brief: RunPlan, state: State) -> tuple[ScheduledTask, ...]:
    """Everything laid out from now on, with what is done as it was; what is left of a piece that broke is let go."""
    done = list(state.done())
    if state.out:
        known = set(state.marks)
        for task in brief.web.tasks:
            name = (task.operation.key, task.number)
            own = brief.pieces_of(name)
            if task.operation.scope == "job" or not all(p in state.out for p in own):
                continue
            at = max(state.out[p].at_s for p in own)
            if name not in known:
                done.append(CompletedTask(*name, at, at))
            elif state.marks[name].to_s is None:
                done = [d for d in done if (d.key, d.number) != name]
                done.append(CompletedTask(*name, state.marks[name].from_s, max(at, state.marks[name].from_s)))
    work = _in_sight(brief, state, brief.work(done))
    owned = {"saw": 1, "iron": 1, "oven": 1, "chamber": brief.places}
    now = max(0.0, state.now_s - brief.started_s)
    table = timetable([work], ShopCapacity(ALWAYS, brief.people, owned, now), rule=BY_NUMBER)
    moved = brief.started_s
    out = {n for n in range(brief.batches.often("batch")) if all(p in state.out for p in _of_load(brief, n))}
    left = [d for d in table.doings if not (d.state != "done" and _load_of(brief, d) in out)]
    return tuple(
        replace(d, from_s=d.from_s + moved, hands_to_s=d.hands_to_s + moved, to_s=d.to_s + moved) for d in left
    )


def _in_sight(brief: RunPlan, state: State, work: JobTasks) -> JobTasks:
    """The work up to some loads beyond the last that was touched: what lies farther on changes nothing of what is next,
    for loads go in their order."""
    touched = [_load(brief, name) for name in state.marks if brief.of[name[0]].scope != "job"]
    touched += [p // brief.at_once for p in state.out]
    loads = max(touched, default=-1) + 1 + AHEAD_LOADS + 2 * (brief.forms + brief.people + brief.places)
    if loads >= brief.batches.often("batch"):
        return work
    last = set[str]()  # what waits for every piece there is
    for o in work.operations:
        of_all = o.scope == "job" and any(brief.of[a.key].scope != "job" for a in o.after)
        if of_all or any(a.key in last for a in o.after):
            last.add(o.key)
    seen = tuple(o for o in work.operations if o.key not in last)
    return replace(work, operations=seen, batches=replace(brief.batches, pieces=loads * brief.at_once))


def _load(brief: RunPlan, name: Name) -> int:
    """Of which load something is that is done for each piece or load."""
    return name[1] if brief.of[name[0]].scope == "batch" else name[1] // brief.at_once


def _of_load(brief: RunPlan, number: int) -> range:
    return range(number * brief.at_once, min(brief.pieces, (number + 1) * brief.at_once))


def _load_of(brief: RunPlan, doing: ScheduledTask) -> int | None:
    return None if doing.operation.scope == "job" else _load(brief, (doing.operation.key, doing.number))


def _task(
    brief: RunPlan,
    state: State,
    d: ScheduledTask,
    cores: Mapping[int, CoreTemperature],
    last: tuple[float, float] | None,
) -> BenchTask:
    name = (d.operation.key, d.number)
    mark = state.running(name)
    over, message = _window(state, d.operation, d.number)
    made = BenchTask(name, d.operation, brief.whom(name), mark.from_s if mark else d.from_s, mark is not None)
    made = replace(made, over_s=over, over_text=message)
    if mark is not None:
        o = d.operation
        is_hot = o.keeps_s > 0 and brief.ready_c is not None and last is not None and last[1] >= brief.ready_c
        if o.unattended_s.likely and not is_hot and state.now_s >= mark.from_s + o.attended_s.likely:
            made = replace(made, alone_s=mark.from_s + o.lasts_s)
        return made
    bounds = _bounds(brief, state, name, cores)
    if bounds is None:
        return made
    due, soonest, latest = bounds
    return replace(made, due_s=due, soonest_s=soonest, latest_s=latest, from_s=max(due, made.from_s))


def _window(state: State, o: Operation, number: int) -> tuple[float | None, str]:
    """Until when something can still be done that was begun."""
    if o.window is None:
        return None, ""
    since = state.marks.get((o.window.since, number))
    return (since.from_s + o.window.seconds, o.window.message) if since else (None, "")


def _bounds(
    brief: RunPlan, state: State, name: Name, cores: Mapping[int, CoreTemperature]
) -> tuple[float, float | None, float | None] | None:
    """When something that may not wait must begin, at the soonest, at the latest: by what it follows straight on."""
    web = brief.web
    at = web.at[name]
    rigid = {a.key for a in brief.of[name[0]].after if a.most_s == 0}
    for j in web.before[at]:
        before = web.name(j)
        mark = state.marks.get(before)
        if before[0] not in rigid or mark is None:
            continue
        o = web.tasks[j].operation
        if mark.to_s is not None:
            return mark.to_s, None, None
        if not web.is_hands_free(j):
            return None  # somebody is still at what comes before
        core = None if o.each_s else cores.get(before[1])  # so long and no longer: that is what is tried
        soonest = core.hot_s if core and o.warms else mark.from_s + o.earliest_s if o.earliest_s is not None else None
        latest = mark.from_s + o.latest_s if o.latest_s is not None else None
        planned = mark.from_s + o.lasts_s
        if soonest is not None:
            planned = max(planned, soonest) if latest is None else min(max(planned, soonest), max(latest, planned))
        return planned, soonest, latest
    return None


def _cores(brief: RunPlan, state: State, readings: Sequence[tuple[float, float]]) -> dict[int, CoreTemperature]:
    """The middle of every load that is in the heat now."""
    made = {}
    for (key, number), mark in state.marks.items():
        o = brief.of.get(key)
        if o and o.warms and mark.to_s is None and mark.from_s <= state.now_s:
            made[number] = core_now(o.warms, in_s=mark.from_s, now_s=state.now_s, readings=readings)
    return made


def _rank(task: BenchTask, now_s: float) -> tuple[int, float, int]:
    """What is to be done first: what runs out, what is due, what is under way, what can be begun."""
    if task.is_running and task.over_s is not None:
        return 0, task.over_s, task.name[1]
    if task.due_s is not None and task.due_s <= now_s + LEAD_S:
        return 1, task.due_s, task.name[1]
    if task.is_running:
        return 2, task.from_s, task.name[1]
    return 3, task.from_s, task.name[1]


def _is_ready(task: BenchTask, now_s: float) -> bool:
    if task.is_running:
        return task.alone_s is None or task.alone_s <= now_s + 1.0
    return (task.due_s if task.due_s is not None else task.from_s) <= now_s + (
        LEAD_S if task.due_s is not None else 1.0
    )


# -- pieces ------------------------------------------------------------------------------------------------------------
def _piece(brief: RunPlan, state: State, number: int, cores: Mapping[int, CoreTemperature]) -> LoadStatus:
    own = tuple(_of_load(brief, number))
    one = brief.piece_text(own[0])
    name = f"{one[0].upper()}{one[1:]}" if len(own) == 1 else f"Pieces {own[0] + 1} to {own[-1] + 1}"
    broke = {p: state.out[p] for p in own if p in state.out}
    plain = LoadStatus(number, name, own, "", "rest", broke=broke)
    if len(broke) == len(own):
        return replace(plain, message="out", phase="out")
    names = brief.web.of_load[number]
    marks = [(brief.of[n[0]], state.marks[n]) for n in names if n in state.marks]
    plain = replace(plain, form_s=_on_form(marks))
    for o, mark in reversed(marks):
        if mark.to_s is not None:
            continue
        over, message = _window(state, o, number)
        alone = o.attended_s.likely == 0
        line = replace(
            plain,
            message=o.meanwhile or _in_words(o),
            phase="wait" if alone else "hands",
            since_s=mark.from_s,
            until_s=mark.from_s + o.lasts_s if alone else None,
            over_s=over,
            over_text=message,
        )
        if o.warms is None:
            return line
        core = cores.get(number)
        return replace(
            line,
            core=core,
            goal_c=o.warms.goal_c,
            out_s=mark.from_s + o.lasts_s,
            latest_s=mark.from_s + o.latest_s if o.latest_s is not None else None,
        )
    if marks and all(state.is_done(n) for n in names):
        return replace(plain, message="done", phase="done")
    last = marks[-1][0] if marks else None
    return replace(plain, message=f"after: {_in_words(last)}" if last else "not started")


def _on_form(marks: Sequence[tuple[Operation, Mark]]) -> float | None:
    """Since when a load is on the form, while it is."""
    since: float | None = None
    for o, mark in marks:
        if any(t.what == "form" for t in o.takes):
            since = mark.to_s
        if "form" in o.frees and mark.to_s is not None:
            since = None
    return since


def _in_words(o: Operation) -> str:
    return f"{o.name[0].lower()}{o.name[1:]}"
