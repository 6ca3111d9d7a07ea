"""When each thing happens: every operation of every piece laid into the shop's hours, over its people and its things.

Serial generation: runs of operations that may not wait for one another are placed whole, each at the first moment its
people, things and hours are free, in an order of priority. Several rules give such orders; seeded variations of the
best follow as far as a bound on the work allows; the best of all stands. Source: serial schedule generation for
resource-constrained projects, as the literature on them gives it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from .blocks import BlockSet
from .job_tasks import JobTasks, PinnedStart, ScheduleConflict, ShopCapacity, Timetable
from .schedule_builder import ScheduleBuilder
from .schedule_result import clashes_before

PLACINGS = 4_000  # runs placed in all: more tries of a small timetable, fewer of a large one
FEWEST, MOST_TRIES = 3, 160
VERY_MANY = 6_000  # runs, beyond which one order of work is all that is tried
SEED = 14
BY_NUMBER = 2  # the rule by which pieces go in their order


def timetable(
    works: Sequence[JobTasks], floor: ShopCapacity, *, rule: int | None = None, tries: int | None = None
) -> Timetable:
    """The best timetable found; with a rule, the one by that rule alone, as for a drag.

    What cannot be at all comes back as clashes and an empty timetable. Valid: any works, also none.
    """
    runs = BlockSet(works, floor)
    if before := clashes_before(runs):
        return Timetable((), 0.0, {}, 0.0, 0.0, tuple(before))
    best, at = _best(runs, rule, tries)
    if best.kept_waiting_s and any(w.pins for w in works):
        return _without_pins_in_the_way(best, at)
    return best.told(at)


def _best(runs: BlockSet, rule: int | None, tries: int | None) -> tuple[ScheduleBuilder, int]:
    """The best order found, and the rule it came from."""
    rules = _rules(runs)
    if rule is not None:
        return ScheduleBuilder(runs, rules[rule % len(rules)]), rule % len(rules)
    count = max(1, len(runs.runs))
    left = tries if tries is not None else max(FEWEST, min(MOST_TRIES, PLACINGS // count))
    left = 1 if count > VERY_MANY else left
    placed = [(ScheduleBuilder(runs, order), n) for n, order in enumerate(rules[:left])]
    best, at = min(placed, key=lambda p: p[0].goal)
    return _varied(runs, best, rules[at], left - len(placed)), at


def _without_pins_in_the_way(best: ScheduleBuilder, rule: int) -> Timetable:
    """The same with every pin left out that keeps what was begun waiting for a thing: wood in the steam goes on its
    form, whatever was to come off that form tomorrow. Each pin left out is a clash."""
    floor, works = best.runs.floor, list(best.runs.works)
    left_out: list[tuple[int, PinnedStart]] = []
    for w, work in enumerate(works):
        for pin in sorted(work.pins, key=lambda p: -p.at_s):
            tried = list(works)
            tried[w] = replace(works[w], pins=tuple(p for p in works[w].pins if p != pin))
            runs = BlockSet(tried, floor)
            placed = ScheduleBuilder(runs, _rules(runs)[rule])
            if placed.kept_waiting_s < best.kept_waiting_s:
                best, works = placed, tried
                left_out.append((w, pin))
    table = best.told(rule)
    begins = {d.name: d.from_s for d in table.doings}
    clashes = [
        ScheduleConflict("pin_early", works[w].job, p.key, p.number, "", start, p.at_s)
        for w, p in left_out
        if (start := begins.get((works[w].job, p.key, p.number))) is not None
    ]
    return replace(table, clashes=(*table.clashes, *clashes))


def _rules(runs: BlockSet) -> list[list[float]]:
    """Which of several runs that could be placed goes first: lower goes first, by several rules."""
    own = runs.runs
    dues = [runs.works[r.work].due_s for r in own]
    tail = [-r.tail_s for r in own]
    slack = [(d if d is not None else 1e9) - r.tail_s for d, r in zip(dues, own, strict=True)]
    spans = max([r.tail_s for r in own], default=1.0) or 1.0
    mixed = [-r.tail_s / spans + 0.02 * n / max(1, len(own)) for n, r in enumerate(own)]
    by_number = [runs.tasks[r.tasks[0]].number + n / (len(own) + 1) for n, r in enumerate(own)]
    return [slack, tail, by_number, mixed, [float(n) for n in range(len(own))]]


def _varied(runs: BlockSet, best: ScheduleBuilder, order: list[float], tries: int) -> ScheduleBuilder:
    """Seeded variations of the best order, each kept when it is no worse."""
    if tries <= 0 or len(runs.runs) < 2:
        return best
    dice = np.random.default_rng(SEED)
    ranks = np.argsort(np.argsort(np.array(order))).astype(float)
    alike, now = _alike(runs), best
    for n in range(tries):
        wide = len(ranks) * (0.6 if n % 3 == 0 else 0.2)
        few = dice.random(len(ranks)) < (0.5 if n % 2 else 0.15)
        tried = ranks + np.where(few, dice.normal(0.0, wide, len(ranks)), 0.0)
        for own in alike:
            tried[own] = np.sort(tried[own])
        made = ScheduleBuilder(runs, tried.tolist())
        if made.goal[:2] <= now.goal[:2]:  # as good goes on too: the way to better ones leads over these
            now, ranks = made, np.argsort(np.argsort(tried)).astype(float)
            best = min(best, made, key=lambda p: p.goal)
    return best


def _alike(runs: BlockSet) -> list[list[int]]:
    """Runs of pieces or loads that are all alike: these go in their order, so that none is tried for another."""
    made: dict[tuple[int, int, bool], list[int]] = {}
    for n, run in enumerate(runs.runs):
        made.setdefault((run.work, id(run.cold), run.pinned), []).append(n)
    return [own for own in made.values() if len(own) > 1]
