"""Small days solved exactly by an integer solver, to judge the timetable by. For tests and bench only."""

from __future__ import annotations

import random
from dataclasses import dataclass

from ortools.sat.python import cp_model

from bright_willow.core.common.estimate import Estimate
from bright_willow.core.common.operation import After, Batches, Operation, ResourceHold
from bright_willow.core.scheduling.job_tasks import JobTasks, ShopCapacity
from bright_willow.core.scheduling.working_hours import Hours, TimeRanges

MINUTE, HOUR, DAY = 60.0, 3600.0, 86_400.0
DAYS = 24
OWN = ("form", "strap")


def _for(minutes: float) -> Estimate:
    return Estimate(minutes * MINUTE, minutes * MINUTE, minutes * MINUTE, "allowance")


def _op(key: str, scope: str, attended: float, alone: float = 0.0, after: tuple[After, ...] = (), **more) -> Operation:
    return Operation(key, key, key, scope, _for(attended), unattended_s=_for(alone), after=after, **more)  # type: ignore[arg-type]


def _glued(dice: random.Random) -> tuple[Operation, ...]:
    clamps = dice.randint(6, 14)
    return (
        _op("rip", "job", dice.randint(20, 200), takes=(ResourceHold("saw"),), frees=("saw",)),
        _op("mix", "piece", 3, after=(After("rip"),)),
        _op(
            "close",
            "piece",
            dice.randint(5, 40),
            hands=2,
            after=(After("mix", 0, 0),),
            takes=(ResourceHold("form"), ResourceHold("clamps", clamps)),
        ),
        _op("cure", "piece", 0, 60 * dice.randint(2, 20), after=(After("close", 0, 0),), may_run_alone=True),
        _op("release", "piece", 2, after=(After("cure"),), frees=("form", "clamps")),
        _op("clean_up", "piece", dice.randint(5, 60), after=(After("release", HOUR * dice.randint(1, 30)),)),
    )


def _steamed(dice: random.Random) -> tuple[Operation, ...]:
    return (
        _op("set_up", "job", dice.randint(20, 120)),
        _op("load", "piece", 1, after=(After("set_up"),), takes=(ResourceHold("chamber"),)),
        _op("steam", "piece", 0, dice.randint(15, 120), after=(After("load", 0, 0),)),
        _op(
            "bend",
            "piece",
            2,
            hands=2,
            after=(After("steam", 0, 0),),
            takes=(ResourceHold("form"), ResourceHold("strap")),
            frees=("chamber",),
        ),
        _op("cool", "piece", 0, dice.randint(20, 60), after=(After("bend", 0, 0),)),
        _op("set", "piece", 0, 60 * dice.randint(1, 22), after=(After("cool", 0, 0),), may_run_alone=True),
        _op("to_frame", "piece", 2, after=(After("set"),), takes=(ResourceHold("frame"),), frees=("form", "strap")),
        _op(
            "dry",
            "piece",
            0,
            60 * dice.randint(5, 40),
            after=(After("to_frame", 0, 0),),
            may_run_alone=True,
            frees=("frame",),
        ),
        _op("trim", "piece", dice.randint(2, 20), after=(After("dry"),)),
    )


def small_shops(count: int = 40) -> list[tuple[list[JobTasks], ShopCapacity]]:
    """So many small shops, always the same: one to three jobs of two to four pieces."""
    made = []
    for seed in range(count):
        dice = random.Random(seed)
        works = []
        for job in range(dice.randint(1, 3)):
            ops = dice.choice((_glued, _steamed))(dice)
            own = {what: dice.randint(1, 2) for what in OWN}
            works.append(JobTasks(job + 1, f"job {job + 1}", ops, Batches(dice.randint(2, 4)), own))
        opens = [d * DAY + 8 * HOUR for d in range(DAYS) if d % 7 < 5]
        hands = TimeRanges(
            tuple(t for o in opens for t in (o, o + 5 * HOUR)),
            tuple(t for o in opens for t in (o + 4 * HOUR, o + 9 * HOUR)),
        )
        present = TimeRanges(tuple(opens), tuple(o + 9 * HOUR for o in opens))
        owned = {"saw": 1, "chamber": dice.randint(1, 2), "clamps": dice.randint(14, 24), "frame": dice.randint(2, 4)}
        made.append((works, ShopCapacity(Hours(hands, present), 2, owned)))
    return made


@dataclass(frozen=True)
class Exact:
    """The earliest end of the last piece, seconds; whether that is proved; and what it can be no earlier than."""

    done_s: float
    is_proved: bool
    no_earlier_s: float


def exact(works: list[JobTasks], floor: ShopCapacity, *, within_s: float = 20.0) -> Exact:
    """Solve a small shop, in whole minutes, one worker, always the same. No heat that is made first."""
    model = cp_model.CpModel()
    last = int(DAYS * DAY / MINUTE)
    hands, held = list[tuple[object, int]](), dict[str, list[tuple[object, int]]]()
    owned = dict(floor.owned) | {f"{what}@{w.job}": n for w in works for what, n in w.own.items()}
    done = model.new_int_var(0, last, "done")
    for w in works:
        starts: dict[tuple[str, int], tuple[object, int]] = {}
        open_: dict[tuple[str, int], tuple[object, int]] = {}
        scope = {o.key: o.scope for o in w.operations}
        for o in w.operations:
            attended, alone = round(o.attended_s.likely / MINUTE), round(o.unattended_s.likely / MINUTE)
            for n in [-1] if o.scope == "job" else range(w.batches.pieces):
                name = f"{w.job}.{o.key}.{n}"
                domain = _allowed(floor.hours.hands, attended, last) if attended else cp_model.Domain(0, last)
                if not o.may_run_alone:
                    domain = domain.intersection_with(_allowed(floor.hours.present, attended + alone, last))
                start = model.new_int_var_from_domain(domain, name)
                lasts = attended + alone
                starts[o.key, n] = start, lasts
                model.add(done >= start + lasts)
                if attended:
                    hands.append((model.new_fixed_size_interval_var(start, attended, name), o.hands))
                for a in o.after:
                    for m in [-1] if scope[a.key] == "job" else [n] if n >= 0 else range(w.batches.pieces):
                        before, long = starts[a.key, m]
                        wait = round(a.least_s / MINUTE)
                        model.add(start >= before + long + wait)
                        if a.most_s == 0:
                            model.add(start == before + long)
                for t in o.takes:
                    open_[f"{t.what}@{w.job}" if t.what in OWN else t.what, n] = start, t.count
                for what in o.frees:
                    thing = f"{what}@{w.job}" if what in OWN else what
                    begin, count = open_.pop((thing, n))
                    long_var = model.new_int_var(0, last, f"{name}.{thing}")
                    span = model.new_interval_var(begin, long_var, start + lasts, f"{name}.{thing}.held")
                    held.setdefault(thing, []).append((span, count))
    model.add_cumulative([i for i, _ in hands], [n for _, n in hands], floor.people)
    for thing, spans in held.items():
        model.add_cumulative([i for i, _ in spans], [n for _, n in spans], owned[thing])
    model.minimize(done)
    solver = cp_model.CpSolver()
    solver.parameters.max_time_in_seconds = within_s
    solver.parameters.num_workers = 2
    solver.parameters.random_seed = 1
    status = solver.solve(model)
    if status not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        raise ValueError(f"not solved: {solver.status_name(status)}")
    proved = status == cp_model.OPTIMAL
    return Exact(solver.objective_value * MINUTE, proved, solver.best_objective_bound * MINUTE)


def _allowed(hours: TimeRanges, minutes: int, last: int) -> cp_model.Domain:
    """From when to when something of a length can begin so that it ends in the same stretch."""
    spans = [
        [round(a / MINUTE), round(b / MINUTE) - minutes]
        for a, b in zip(hours.opens, hours.closes, strict=True)
        if round(b / MINUTE) - minutes >= round(a / MINUTE)
    ]
    return cp_model.Domain.from_intervals([s for s in spans if s[0] <= last])
