"""How fast and how good the days are: five jobs of 200 pieces, growth, and 40 small shops against an exact solver."""

from __future__ import annotations

import gc
import statistics
from collections.abc import Callable
from dataclasses import replace

from bright_willow.core.plan.plan import plan
from bright_willow.core.plan.read_job import read_job
from bright_willow.core.scheduling.job_tasks import JobTasks, ShopCapacity
from bright_willow.core.scheduling.timetable import timetable
from bright_willow.core.scheduling.working_hours import Hours, TimeRanges
from bright_willow.demo.marrow_lane import EXAMPLES, SHOP
from tools.exact_days import exact, small_shops
from tools.timing import median_ms

HOUR, DAY = 3600.0, 86_400.0
FIVE = (0, 4, 13, 14, 15)  # two lay-ups, two steamed, one over the iron
Line = Callable[[str, str, str, bool], None]


def floor() -> ShopCapacity:
    """Two people, five days a week, a break that is covered."""
    opens = [d * DAY + 8 * HOUR for d in range(800) if d % 7 < 5]
    hands = TimeRanges(
        tuple(t for o in opens for t in (o, o + 5 * HOUR)),
        tuple(t for o in opens for t in (o + 4 * HOUR, o + 9 * HOUR)),
    )
    present = TimeRanges(tuple(opens), tuple(o + 9 * HOUR for o in opens))
    owned = {"saw": 1, "iron": 1, "chamber": 2, "clamps": 80, "bag": 1, "frame": 10}
    return ShopCapacity(Hours(hands, present), 2, owned)


def five_jobs(pieces: int) -> list[JobTasks]:
    """Five jobs of the sample shop, each of so many pieces."""
    made = []
    for number in FIVE:
        job = read_job(EXAMPLES[number].job.model_dump())
        answer = plan(job, SHOP)
        batches = replace(answer.way.batches, pieces=pieces)
        own = {"form": batches.forms, "strap": batches.forms}
        made.append(JobTasks(number + 1, job.name, answer.operations, batches, own))
    return made


def days(line: Line) -> None:
    """Every line of it."""
    gc.collect()
    gc.freeze()  # as the program itself does when it starts
    gc.set_threshold(20_000, 20, 20)
    shop, works = floor(), five_jobs(40)
    made = timetable(works, shop)
    taken = median_ms(lambda: timetable(works, shop), 7)
    line(f"200 pieces of five jobs, {len(made.doings)} operations", f"{taken:.0f} ms", "≤ 200 ms", taken <= 200)
    taken = median_ms(lambda: timetable(works, shop, rule=made.rule), 15)
    line("a bar of them dragged", f"{taken:.0f} ms", "≤ 50 ms", taken <= 50)
    each = []
    for pieces in (6, 11, 22, 45):
        works = five_jobs(pieces)
        count = len(timetable(works, shop, rule=0).doings)
        each.append((count, median_ms(lambda works=works: timetable(works, shop, rule=0), 9)))
    message = ", ".join(f"{n}: {ms / n * 1000:.0f}" for n, ms in each)
    print(f"  µs for an operation at so many operations: {message}")
    growth = (each[-1][1] / each[-1][0]) / (each[0][1] / each[0][0])
    line(f"an operation of {each[-1][0]} against one of {each[0][0]}", f"× {growth:.2f}", "≤ × 1.6", growth <= 1.6)
    found, proved = [], 0
    for case, small in small_shops():
        best = exact(case, small)
        proved += best.is_proved
        opens = 8 * HOUR
        found.append((timetable(case, small).done_s - opens) / (best.done_s - opens) - 1)
    name = f"last piece beyond the exact answer, {len(found)} shops ({proved} proved)"
    line(name, f"{100 * statistics.mean(found):.2f} %", "≤ 3 %", statistics.mean(found) <= 0.03)
    line("  at worst", f"{100 * max(found):.1f} %", "≤ 10 %", max(found) <= 0.1)
