"""Every rule a timetable keeps, asked of it by other means than it is made by; and shops made up at random."""

from __future__ import annotations

import math
from collections import defaultdict

from bright_willow.core.common.estimate import Estimate
from bright_willow.core.common.operation import After, Batches, Operation, ResourceHold
from bright_willow.core.scheduling.job_tasks import JobTasks, ShopCapacity, Timetable
from bright_willow.core.scheduling.working_hours import Hours, TimeRanges

HOUR, DAY, EPS = 3600.0, 86_400.0, 1e-3


def lasting(seconds: float) -> Estimate:
    return Estimate(seconds, seconds, seconds, "allowance")


def op(key, scope="piece", attended=600.0, by_itself=0.0, after=(), **more) -> Operation:
    """An operation; `after` as keys, or (key, least) or (key, least, most)."""
    waits = tuple(After(a) if isinstance(a, str) else After(*a) for a in after)
    return Operation(
        key, key, key, scope, lasting(attended), unattended_s=lasting(by_itself), after=waits, **more
    )  # fmt: skip


def week(days=40, opens=8.0, closes=17.0, pause=None) -> Hours:
    """Five days in seven; pause: a break nobody works through."""
    whole = [(d * DAY + opens * HOUR, d * DAY + closes * HOUR) for d in range(days) if d % 7 < 5]
    parts = [
        p
        for a, b in whole
        for p in ([(a, a // DAY * DAY + pause[0] * HOUR), (a // DAY * DAY + pause[1] * HOUR, b)] if pause else [(a, b)])
    ]
    return Hours(TimeRanges(*map(tuple, zip(*parts))), TimeRanges(*map(tuple, zip(*whole))))


def glue(at_once=1, cure_h=10.0, clamps=10, extra=0.0) -> tuple[Operation, ...]:
    scope = "piece" if at_once == 1 else "batch"
    return (
        op("rip", "job", 3000 + extra, takes=(ResourceHold("saw"),), frees=("saw",)),
        op("mix", scope, 180, after=("rip",)),
        op("close", scope, 500 + extra, hands=2, after=(("mix", 0, 0),), takes=(ResourceHold("form"), ResourceHold("clamps", clamps))),
        op("cure", scope, 0, cure_h * HOUR, after=(("close", 0, 0),), may_run_alone=True),
        op("release", scope, 120, after=("cure",), frees=("form", "clamps", "bag")),
        op("clean_up", "piece", 600 + extra, after=(("release", 14 * HOUR),)),
    )  # fmt: skip


def steam(minutes=50.0, set_h=20.0, dry_h=30.0, strap=True) -> tuple[Operation, ...]:
    held = (ResourceHold("form"), ResourceHold("strap")) if strap else (ResourceHold("form"),)
    return (
        op("set_up", "job", 1800),
        op("warm_up", "batch", 300, 900, after=("set_up",), takes=(ResourceHold("chamber"),), frees=("chamber",), keeps_s=HOUR),
        op("load", "batch", 8, after=(("warm_up", 0, 0),), takes=(ResourceHold("chamber"),)),
        op("steam", "batch", 0, minutes * 60, after=(("load", 0, 0),)),
        op("bend", "batch", 60, hands=2, after=(("steam", 0, 0),), takes=held, frees=("chamber",)),
        op("cool", "batch", 0, 2000, after=(("bend", 0, 0),)),
        op("set", "batch", 0, set_h * HOUR, after=(("cool", 0, 0),), may_run_alone=True),
        op("to_frame", "batch", 120, after=("set",), takes=(ResourceHold("frame"),), frees=("form", "strap")),
        op("dry", "batch", 0, dry_h * HOUR, after=(("to_frame", 0, 0),), may_run_alone=True, frees=("frame",)),
        op("trim", "piece", 120, after=("dry",)),
    )  # fmt: skip


def broken(works: list[JobTasks], floor: ShopCapacity, made: Timetable) -> list[str]:
    """Every rule that a timetable breaks, each a sentence."""
    said = []
    at = {d.name: d for d in made.doings}
    if len(at) != len(made.doings):
        said.append("something is done twice")
    marks = defaultdict(list)  # of a resource: (time, how many more)
    owned = dict(floor.owned)
    for w in works:
        owned |= {f"{what}@{w.job}": n for what, n in w.own.items()}
        size, loads = w.batches.at_once, math.ceil(w.batches.pieces / w.batches.at_once)
        numbers = {"job": [-1], "batch": range(loads), "piece": range(w.batches.pieces)}
        ops = {o.key: o for o in w.operations}
        for o in w.operations:
            for n in numbers[o.scope]:
                d = at.get((w.job, o.key, n))
                if d is None:
                    if not o.keeps_s:
                        said.append(f"{o.key} {n} is never done")
                    continue
                if d.state in ("done", "begun"):
                    continue  # as it was, whatever the rules say
                said += [] if _goes_on(w, ops, o, n, at) else _lies_well(d, o, floor)
                for a in o.after:
                    before = ops[a.key]
                    own = [m for m in numbers[before.scope] if _meets(o.scope, n, before.scope, m, size)]
                    for m in own:
                        b = at.get((w.job, a.key, m))
                        if b is None:
                            continue
                        if d.from_s < b.to_s + a.least_s - EPS:
                            said.append(f"{o.key} {n} begins before {a.key} {m} allows")
                        by_hand = b.state == "done" and o.attended_s.likely
                        straight = max(b.to_s, floor.now_s) if by_hand else b.to_s
                        if a.most_s == 0 and m == n and abs(d.from_s - straight) > EPS:
                            said.append(f"{o.key} {n} waits after {a.key}")
                if d.from_s < max(floor.now_s, w.not_before_s) - EPS and not _goes_on(w, ops, o, n, at):
                    said.append(f"{o.key} {n} begins before there is anybody")
        said += _things(w, at, numbers, marks)
    said += _heated(works, made, floor)
    for d in made.doings:
        for a, b in _worked(d, floor) if d.state != "done" else []:
            marks["people"] += [(a, d.operation.hands), (b, -d.operation.hands)]
    owned["people"] = floor.people
    for what, changes in marks.items():
        used = 0
        for _, more in sorted((round(t, 3), n) for t, n in changes):
            used += more
            if used > owned.get(what, 10**9):
                said.append(f"{used} of {what} in use, {owned[what]} there")
                break
    return said


def _goes_on(w, ops, o, n, at) -> bool:
    """Whether something goes on straight after what was begun before the timetable was made: whatever the hours."""
    for a in o.after:
        b = at.get((w.job, a.key, n))
        if a.most_s == 0 and b is not None and (b.state in ("done", "begun") or _goes_on(w, ops, ops[a.key], n, at)):
            return True
    return False


def _meets(scope, n, other, m, size) -> bool:
    if "job" in (scope, other) or scope == other:
        return "job" in (scope, other) or n == m
    return n // size == m if scope == "piece" else m // size == n


def _worked(d, floor):
    if d.state == "begun":  # what is left of it
        return [(floor.now_s, d.hands_to_s)] if d.hands_to_s > floor.now_s else []
    if d.operation.attended_s.likely > floor.hours.hands.longest_s:
        return floor.hours.hands.spread(d.from_s, d.operation.attended_s.likely)
    return [(d.from_s, d.hands_to_s)] if d.operation.attended_s.likely else []


def _lies_well(d, o, floor) -> list[str]:
    said = []
    long = o.attended_s.likely > floor.hours.hands.longest_s
    if not long and abs(d.to_s - d.from_s - o.attended_s.likely - o.unattended_s.likely) > EPS:
        said.append(f"{o.key} takes another time than it does")
    if o.attended_s.likely and not long and not _inside(floor.hours.hands, d.from_s, d.hands_to_s):
        said.append(f"hands on {o.key} when nobody works")
    if not o.may_run_alone and not long and not _inside(floor.hours.present, d.from_s, d.to_s):
        said.append(f"{o.key} is left alone")
    return said


def _inside(hours: TimeRanges, a: float, b: float) -> bool:
    return a >= b - EPS or any(o - EPS <= a and b <= c + EPS for o, c in zip(hours.opens, hours.closes))


def _things(w, at, numbers, marks) -> list[str]:
    """What is taken is given back, by the same piece or load; and how much of it is in use."""
    said = []
    own = {"form", "strap"}
    for scope in ("job", "batch", "piece"):
        for n in numbers[scope]:
            open_ = {}
            for o in w.operations:
                d = at.get((w.job, o.key, n)) if o.scope == scope else None
                if d is None:
                    continue
                if o.keeps_s:
                    continue  # the load that follows has the chamber
                for t in o.takes:
                    open_[f"{t.what}@{w.job}" if t.what in own else t.what] = (d.from_s, t.count)
                for what in o.frees:
                    name = f"{what}@{w.job}" if what in own else what
                    if name in open_:
                        begin, count = open_.pop(name)
                        marks[name] += [(begin, count), (d.to_s, -count)]
            said += [f"{name} of {n} is never given back" for name in open_]
    return said


def _heated(works, made, floor) -> list[str]:
    """What goes in goes into something hot: its own heat just made, or another's kept no longer than it is kept."""
    said, at = [], {d.name: d for d in made.doings}
    uses = defaultdict(list)
    for w in works:
        heads = {a.key: o for o in w.operations if o.keeps_s for a in [o]}
        for o in w.operations:
            head = next((heads[a.key] for a in o.after if a.key in heads), None)
            if head is None:
                continue
            what = head.takes[0].what
            over = next(x for x in w.operations if what in x.frees and not x.keeps_s)
            for d in (d for d in made.doings if (d.job, d.operation.key) == (w.job, o.key)):
                own = at.get((w.job, head.key, d.number))
                straight = max(own.to_s, floor.now_s) if own and own.state == "done" else own.to_s if own else 0.0
                if own and d.state not in ("done", "begun") and abs(straight - d.from_s) > EPS:
                    said.append(f"heat is made for {d.name} and waits")
                uses[what].append((d.from_s, own is None, at[w.job, over.key, d.number].to_s, head.keeps_s))
    for what, spans in uses.items():
        hot = -1e12
        for begin, is_warm, end, keeps in sorted(spans):
            if is_warm and begin > hot + keeps + EPS:
                said.append(f"a load at {begin:.0f} goes into a cold {what}")
            elif is_warm and begin > hot and not _inside(floor.hours.present, hot, begin):
                said.append(f"heat is kept for a load at {begin:.0f} with nobody there")
            hot = max(hot, end)
    return said


def works_of(*operations, pieces=3, at_once=1, own=None, **more) -> list[JobTasks]:
    """A job for each list of operations."""
    return [JobTasks(n + 1, f"job {n + 1}", ops, Batches(pieces, at_once), own or {"form": 1, "strap": 1}, **more) for n, ops in enumerate(operations)]  # fmt: skip
