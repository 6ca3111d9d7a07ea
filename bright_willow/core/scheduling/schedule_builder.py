"""Runs placed one after another in an order of priority, each at the first moment all it takes is free."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache, partial
from heapq import heapify, heappop, heappush

from ..common.errors import ENDLESS
from .blocks import NEAR_S, NOTHING, Block, BlockLayout, BlockSet
from .job_tasks import Timetable, Why
from .resource_profile import ResourceProfile
from .schedule_result import clashes_of, doings_of, held_of
from .working_hours import TimeRanges

GAPS = 8  # places tried for what is held, before it is placed after all that is known
HANDS, HOURS, HEAT = Why("hands"), Why("hours"), Why("heat")
Goal = tuple[float, float, float, float]  # seconds late in all, the last piece of all, of each job in all, heat


@lru_cache(maxsize=2_000)
def thing_why(name: str) -> Why:
    """Waiting for a thing of the floor."""
    return Why("thing", name)


class ScheduleBuilder:
    """One timetable by one order: where each run begins, in which shape, and why then."""

    def __init__(self, runs: BlockSet, order: Sequence[float]) -> None:
        self.runs, self.order = runs, order
        count = len(runs.runs)
        self.starts = [0.0] * count
        self.shapes: list[BlockLayout | None] = [None] * count
        self.whys: list[Why] = [Why("start")] * count
        self.ends = [0.0] * len(runs.tasks)
        self.by = [-1] * len(runs.tasks)
        self.people = ResourceProfile(runs.floor.people)
        self.things = {name: ResourceProfile(most) for name, most in runs.owned.items()}
        self.open: dict[tuple[str, int, int], tuple[float, int]] = {}
        self.hot: dict[str, list[tuple[float, float]]] = {}
        self.heat_s = 0.0
        self.stuck: list[int] = []
        self.too_far: list[int] = []
        self.gave = False
        self.kept_waiting_s = 0.0  # by things: what was begun and should have gone straight on
        self._past()
        self._all()
        self.goal = self._goal()

    # -- what is done already ------------------------------------------------------------------------------------
    def _past(self) -> None:
        tasks, now = self.runs.tasks, self.runs.floor.now_s
        for i, task in enumerate(tasks):
            if task.done is None:
                continue
            over = task.done.to_s
            self.ends[i] = over if over is not None else max(task.done.from_s + task.lasts_s, now)
            if over is None and task.attended_s and self.ends[i] > now:
                hands_to = max(now, min(self.ends[i], task.done.from_s + task.attended_s))
                self.people.take(now, max(hands_to, now), task.operation.hands)
            work = self.runs.works[task.work]
            for name, count in self.runs.takes_of(work, task.operation):
                self.open[name, task.work, task.number] = (task.done.from_s, count)
                self.things[name].take(max(0.0, task.done.from_s), ENDLESS, count)
            for name in self.runs.gives_of(work, task.operation):
                self._give(name, task.work, task.number, self.ends[i])
            for what in self.runs.heated_by(i):
                self._mark_hot(what, self.ends[i] if task.operation.keeps_s else task.done.from_s, self.ends[i])

    def _give(self, name: str, work: int, number: int, at_s: float) -> bool:
        held = self.open.pop((name, work, number), None)
        if held:
            self.things[name].give(at_s, held[1])
        return held is not None

    # -- placing ---------------------------------------------------------------------------------------------------
    def _all(self) -> None:
        runs = self.runs.runs
        waits = [r.waits for r in runs]
        queue: list[tuple[float, float, int]] = [self._rank(n) for n, r in enumerate(runs) if not r.waits]
        heapify(queue)
        aside: list[tuple[float, float, int]] = []
        while queue:
            first = heappop(queue)
            n = first[2]
            if not self._begin(n, runs[n]):
                if self.whys[n] is HOURS:  # whatever is given back, the hours are over
                    self.too_far.append(n)
                    break
                aside.append(first)
                continue
            if aside and self.gave:
                for one in aside:
                    heappush(queue, one)
                aside.clear()
            for f in runs[n].follows:
                waits[f] -= 1
                if not waits[f]:
                    heappush(queue, self._rank(f))
        self.stuck = [one[2] for one in aside]

    def _rank(self, n: int) -> tuple[float, float, int]:
        run = self.runs.runs[n]
        first = -3.0 if run.forced else -2.0 if run.closes else -1.0 if run.pinned else 0.0
        return first, self.order[n], n

    def _begin(self, n: int, run: Block) -> bool:
        """Place a run at the first moment it can be; False where something it needs is held by who knows how long."""
        ready, why = self._ready(run)
        why_ready = why
        if run.forced:
            (start, why), shape = self._straight_on(run.warm, ready, why), run.warm
            if why.waits == "thing" and start < ENDLESS:
                self.kept_waiting_s += start - ready
        else:
            start, why, shape = self._soonest(run, ready, why)
            if run.opens and self._has_gap(run, ready) and (gap := self._in_gap(run, ready, start, why_ready)):
                start, why, shape = gap
        if start == ENDLESS:
            self.whys[n] = why
            return False
        self.starts[n], self.shapes[n], self.whys[n] = start, shape, why
        self._take(run, shape, start)
        return True

    def _straight_on(self, shape: BlockLayout, from_s: float, why: Why) -> tuple[float, Why]:
        """When what goes on straight after something begun can: whatever the hours, but with hands and things that are
        there."""
        first = shape.hands[0][0] if shape.hands else ENDLESS  # what goes by itself has begun, whatever the time is now
        at = max(from_s, self.runs.floor.now_s - first)
        while True:
            free, waits = self._free(shape, at, why)
            if free <= at + NEAR_S or free == ENDLESS:
                return free, waits
            at, why = free, waits

    def _free(self, shape: BlockLayout, at: float, why: Why, open_s: float = ENDLESS) -> tuple[float, Why]:
        """The first moment from a time on that things and then hands allow, one after another; and what it waits for.
        What is found for the one may not suit the other: it is asked again from there."""
        for name, begin, lasts, count in shape.things:  # first, for these are waited for longest
            if lasts == ENDLESS and open_s < ENDLESS:
                lasts = shape.end_s - begin
            free = self.things[name].first(at + begin, lasts, count) - begin
            if free > at + NEAR_S:
                at, why = free, thing_why(name)
        for begin, lasts, hands in shape.hands:
            free = self.people.first(at + begin, lasts, hands) - begin
            if free > at + NEAR_S:
                at, why = free, HANDS
        return at, why

    def _soonest(self, run: Block, from_s: float, why: Why, open_s: float = ENDLESS) -> tuple[float, Why, BlockLayout]:
        """When a run can begin, why not sooner, and in which shape. open_s: how long what it holds must be free."""
        if run.has_heat:
            return self._with_heat(run, from_s, why, open_s)
        return *self._first(run.cold, from_s, why, open_s), run.cold

    def _has_gap(self, run: Block, from_s: float) -> bool:
        """Whether what it holds is free for a while before it is free for good."""
        lasts = run.cold.end_s
        for name, begin, held_s, count in run.cold.things:
            if held_s == ENDLESS:
                thing, at = self.things[name], from_s + begin
                if thing.first(at, lasts - begin, count) < thing.first(at, ENDLESS, count) - NEAR_S:
                    return True
        return False

    def _in_gap(self, run: Block, from_s: float, before_s: float, why: Why) -> tuple[float, Why, BlockLayout] | None:
        """Before what it holds is needed again: where that is given back in time. None where there is no such place."""
        at = from_s
        for _ in range(GAPS):
            start, why, shape = self._soonest(run, at, why, 0.0)
            if start >= before_s - NEAR_S:
                return None
            again = self._held_too_long(run, shape, start)
            if again is None:
                return start, why, shape
            if again == ENDLESS:
                return None
            at, why = max(again, start + 1.0), thing_why(run.opens[0])
        return None

    def _held_too_long(self, run: Block, shape: BlockLayout, start: float) -> float | None:
        """None where all it holds is given back before it is needed again; else from when to try again."""
        ends = {
            run.tasks[n]: start + shape.starts[k] + self.runs.tasks[run.tasks[n]].lasts_s
            for k, n in enumerate(shape.tasks)
        }
        freed = dict[str, float]()
        for n in run.path:
            other = self.runs.runs[n]
            ready = other.not_before_s
            for j, least, at in other.after:
                before = self.runs.of_task.get(j)
                if j not in ends and before is not None and self.shapes[before] is None:
                    return ENDLESS  # it waits for something that is not placed yet
                ready = max(ready, ends.get(j, self.ends[j]) + least - at)
            begin, _ = self._first(other.cold, ready, NOTHING)
            if begin == ENDLESS:
                return ENDLESS
            for i, at in zip(other.tasks, other.cold.starts, strict=True):
                ends[i] = begin + at + self.runs.tasks[i].lasts_s
            freed |= {name: begin + at for name, at in other.cold.frees}
        for name, begin, lasts, count in shape.things:
            if lasts == ENDLESS:
                until = self.things[name].until(start + begin, count)
                if freed.get(name, ENDLESS) > until + NEAR_S:
                    return until - begin
        return None

    def _ready(self, run: Block, *, is_warm: bool = False) -> tuple[float, Why]:
        """From when a run may begin as far as other work goes, and what it waits for; is_warm: its heat is there."""
        start, why, latest = run.warm_from_s if is_warm else run.not_before_s, run.from_why, -1
        for j, least, at in run.after:
            if is_warm and at < 0:
                continue  # the making of the heat would wait for it
            bound = self.ends[j] + least - at
            if bound > start + NEAR_S:
                start, latest = bound, j
        if latest >= 0:
            task = self.runs.tasks[latest]
            why = Why("after", task.operation.key, self.runs.works[task.work].job, task.number)
        return start, why

    def _with_heat(self, run: Block, ready: float, why: Why, open_s: float) -> tuple[float, Why, BlockLayout]:
        """In a chamber still hot, or with it warmed up first: whichever is loaded sooner, the hot one at even odds."""
        cold, why_cold = self._first(run.cold, ready, why, open_s)
        heat = run.warm.heat
        if heat is None:
            return cold, why_cold, run.cold
        head = -run.cold.begin_s
        later = max(0.0, ready - self._ready(run)[0])
        soonest, why_soonest = self._ready(run, is_warm=True)
        soonest, why = soonest + later, why if later else why_soonest
        spans = [s for s in self.hot.get(heat[0], ()) if s[1] + run.keeps_s >= soonest and s[0] <= cold + head]
        if not spans:
            return cold, why_cold, run.cold
        at_best, _ = self._first(run.warm, soonest, why, open_s)  # whatever is hot
        for begin, end in spans:
            if end + run.keeps_s < at_best:
                continue
            waits = why if soonest >= begin else HEAT
            warm, why_warm = self._first(run.warm, max(soonest, begin), waits, open_s)
            if warm > cold + head or warm > end + run.keeps_s:
                continue
            if warm <= end or self.runs.floor.hours.present.holds(end, warm):
                return warm, why_warm, run.warm
        return cold, why_cold, run.cold

    def _first(self, shape: BlockLayout, from_s: float, why: Why, open_s: float = ENDLESS) -> tuple[float, Why]:
        """The first moment a run can begin, and what it waited for last."""
        hours, at = self.runs.floor.hours, from_s
        if shape.spread:
            return self._first_spread(shape, at, why)
        if shape.is_plain:
            return self._first_plain(shape.hands[0], at, why)
        while True:
            before = at
            at, why = self._free(shape, at, why, open_s)
            inside = _fitting(hours.present, shape.present, at)
            inside = _fitting(hours.hands, shape.by_hand, inside)
            if inside > at + NEAR_S:
                at, why = inside, HOURS
            if at <= before + NEAR_S or at == ENDLESS:
                return at, why

    def _first_plain(self, hands: tuple[float, float, int], at: float, why: Why) -> tuple[float, Why]:
        """Hands for a while, and nothing else."""
        _, lasts, count = hands
        while True:
            free = self.people.first(at, lasts, count)
            why = HANDS if free > at + NEAR_S else why
            at = self.runs.floor.hours.hands.first(free, lasts)
            if at <= free + NEAR_S:
                return at, why
            why = HOURS
            if at == ENDLESS:
                return at, why

    def _first_spread(self, shape: BlockLayout, from_s: float, why: Why) -> tuple[float, Why]:
        """Work longer than any day: from a moment on it takes every working hour until it is done."""
        hours, at = self.runs.floor.hours.hands, from_s
        _, lasts, hands = shape.hands[0]
        while True:
            begin = hours.first(at, 60.0)
            why = HOURS if begin > at + NEAR_S else why
            at = begin
            if at == ENDLESS:
                return at, why
            stretches = hours.spread(at, lasts)
            if sum(b - a for a, b in stretches) < lasts - NEAR_S:
                return ENDLESS, HOURS
            late = next((b for a, b in stretches if self.people.first(a, b - a, hands) > a + NEAR_S), None)
            if late is not None:
                at, why = late, HANDS
                continue
            over = stretches[-1][1] - at - lasts  # what is taken is held over night too
            free, waits = at, why
            for name, begin, held_s, count in shape.things:
                free_s = self.things[name].first(at + begin, held_s + over, count) - begin
                free, waits = (free_s, thing_why(name)) if free_s > free + NEAR_S else (free, waits)
            if free <= at + NEAR_S or free == ENDLESS:
                return free, waits
            at, why = free, waits

    def _take(self, run: Block, shape: BlockLayout, start: float) -> None:
        """People booked, things taken and given back, heat noted, the end of every task written down."""
        tasks = self.runs.tasks
        over = 0.0
        if shape.spread:
            stretches = self.runs.floor.hours.hands.spread(start, shape.hands[0][1])
            for a, b in stretches:
                self.people.take(a, b, shape.hands[0][2])
            over = stretches[-1][1] - start - shape.hands[0][1]
        else:
            for begin, lasts, hands in shape.hands:
                self.people.take(start + begin, start + begin + lasts, hands)
        number = tasks[run.tasks[0]].number
        for name, begin, lasts, count in shape.things:
            if lasts == ENDLESS:
                self.open[name, run.work, number] = (start + begin, count)
                self.things[name].take(start + begin, ENDLESS, count)
            else:
                self.things[name].take(start + begin, start + begin + lasts + over, count)
        self.gave = False
        for name, at in shape.frees:
            self.gave |= self._give(name, run.work, number, start + at + over)
        for k, n in enumerate(shape.tasks):
            self.ends[run.tasks[n]] = start + shape.starts[k] + tasks[run.tasks[n]].lasts_s + over
        if run.has_heat and shape is run.warm:
            self.ends[run.tasks[0]] = start  # heat that need not be made
        if shape.heat:
            self._mark_hot(shape.heat[0], start, start + shape.heat[1])
            self.heat_s += -shape.begin_s

    def _mark_hot(self, what: str, start: float, end: float) -> None:
        """Hot from then to then, joined to what touches it; in between it was kept hot where somebody was there."""
        spans = self.hot.setdefault(what, [])
        spans.append((start, end))
        spans.sort()
        made, present = [spans[0]], self.runs.floor.hours.present
        for a, b in spans[1:]:
            last = made[-1][1]
            if a <= last or (a <= last + self.runs.keeps_s and present.holds(last, a)):
                made[-1] = (made[-1][0], max(made[-1][1], b))
            else:
                made.append((a, b))
        self.hot[what] = made

    # -- what came of it -------------------------------------------------------------------------------------------
    def done_of(self) -> dict[int, float]:
        """When the last piece of each job is done."""
        made = {w.job: 0.0 for w in self.runs.works}
        for i, task in enumerate(self.runs.tasks):
            if task.counts:
                job = self.runs.works[task.work].job
                made[job] = max(made[job], self.ends[i])
        return made

    def _goal(self) -> Goal:
        done = self.done_of()
        late = sum(max(0.0, done[w.job] - w.due_s) for w in self.runs.works if w.due_s is not None)
        heat = self.heat_s + sum(b - a for spans in self.hot.values() for a, b in spans)
        last, each = max(done.values(), default=0.0), sum(done.values())
        return round(late + 1e9 * len([*self.stuck, *self.too_far]), 3), round(last, 3), round(each, 3), round(heat, 3)

    def told(self, rule: int) -> Timetable:
        """The timetable of this order."""
        late_s, done_s, _, heat_s = self.goal
        clashes = clashes_of(self.runs, self.whys, self.ends, self.stuck, self.too_far)
        if self.stuck or self.too_far:
            return Timetable((), 0.0, {}, 0.0, 0.0, tuple(clashes), rule)
        doings = doings_of(self.runs, self.starts, self.shapes, self.whys, self.ends)
        held = partial(held_of, self.runs, doings)
        return Timetable(doings, done_s, self.done_of(), heat_s, late_s, tuple(clashes), rule, held)


def _fitting(hours: TimeRanges, stretches: Sequence[tuple[float, float]], at: float) -> float:
    """From when on every stretch of a run lies in hours."""
    if len(stretches) == 1:
        return max(at, hours.first(at + stretches[0][0], stretches[0][1] - stretches[0][0]) - stretches[0][0])
    while True:
        before = at
        for a, b in stretches:
            at = max(at, hours.first(at + a, b - a) - a)
        if at <= before + NEAR_S or at == ENDLESS:
            return at
