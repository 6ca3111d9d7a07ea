"""How long one job takes by itself: its operations put through the scheduler in plain ten-hour days, none off."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace

from ..common.errors import ENDLESS, check_range
from ..common.operation import AFTERWARDS, Batches, Operation
from .job_tasks import OF_THE_JOB, JobTasks, ShopCapacity, Timetable
from .timetable import BY_NUMBER, timetable
from .working_hours import ALWAYS, Hours, TimeRanges

DAY_S, WORKING_S = 86_400.0, 36_000.0  # a working day is ten hours. Grade: allowance.
DAYS = 4_000  # days that are laid out; 24 loads of the slowest drying take 800
# Loads that are placed one by one. Those after them go on at the pace of the last half of these, which keeps a
# comparison of large jobs quick and was within 3 % of placing them all (tests/core/scheduling/test_estimate_days.py).
PLACED = 24


@dataclass(frozen=True, slots=True)
class Elapsed:
    """Days from the start of work: while a form is taken, until the last piece is done; hours of everybody's work.

    Grade: allowance, as the times are.
    """

    form_days: float
    done_days: float
    attended_h: float


def _days_of(working_s: float) -> Hours:
    opens = tuple(DAY_S * day for day in range(DAYS))
    ranges = TimeRanges(opens, tuple(start + working_s for start in opens))
    return Hours(ranges, ranges)


PLAIN_DAYS = _days_of(WORKING_S)


def estimate_days(
    operations: tuple[Operation, ...], batches: Batches, *, people: int = 1, owned: Mapping[str, int] | None = None
) -> Elapsed:
    """Place every load by the scheduler, piece after piece, as if the job began tomorrow morning and were alone.

    people, owned: as in ShopCapacity; an operation that asks for more than there is gets it, since the schedule's
    own checks tell of that. Valid: 1 piece or more at once and in all. Raises: PlanError.
    """
    check_range("part.count", batches.pieces, 1, ENDLESS)
    check_range("heat.at_once", batches.at_once, 1, ENDLESS)
    check_range("heat.forms", batches.forms, 1, ENDLESS)
    floor = _enough(operations, people, owned or {})
    loads = batches.often("batch")
    if loads <= PLACED:
        return _placed(operations, batches, floor)
    some = _placed(operations, replace(batches, pieces=PLACED * batches.at_once), floor)
    half = _placed(operations, replace(batches, pieces=PLACED // 2 * batches.at_once), floor)
    halves = (batches.pieces / batches.at_once - PLACED) / (PLACED / 2)

    def further(now: float, before: float) -> float:
        return _days(_working_days(now) + halves * (_working_days(now) - _working_days(before)))

    return Elapsed(
        further(some.form_days, half.form_days),
        further(some.done_days, half.done_days),
        some.attended_h + halves * (some.attended_h - half.attended_h),
    )


def _working_days(days: float) -> float:
    """Return days as working days: what goes on in the evening counts as the end of the day."""
    whole = math.floor(days)
    return whole + min(1.0, (days - whole) * DAY_S / WORKING_S)


def _days(working_days: float) -> float:
    """Return working days as days, the end of a day as its evening."""
    whole = math.ceil(working_days) - 1 if working_days > 0 else 0
    return whole + (working_days - whole) * WORKING_S / DAY_S


def _enough(operations: tuple[Operation, ...], people: int, owned: Mapping[str, int]) -> ShopCapacity:
    """Return the capacity of the shop, raised to what any one operation asks for."""
    asked: dict[str, int] = {}
    for operation in operations:
        for hold in operation.takes:
            name = f"{hold.what}:{hold.kind}" if hold.kind else hold.what
            asked[name] = max(asked.get(name, 0), hold.count)
    enough = {name: max(count, asked.get(name, 0)) for name, count in owned.items()}
    return ShopCapacity(PLAIN_DAYS, max([people, *(o.hands for o in operations)]), enough)


def _placed(operations: tuple[Operation, ...], batches: Batches, floor: ShopCapacity) -> Elapsed:
    """Return what the timetable of these loads says."""
    work = JobTasks(0, "", operations, batches, dict.fromkeys(OF_THE_JOB, batches.forms))
    table = timetable([work], floor, rule=BY_NUMBER)
    if table.clashes and table.clashes[0].kind == "too_long":
        longest = table.clashes[0].seconds
        hours = _days_of(longest) if longest < DAY_S else ALWAYS  # work that no working day holds is done in one go
        table = timetable([work], replace(floor, hours=hours), rule=BY_NUMBER)
    return Elapsed(_form_days(table), table.done_s / DAY_S, table.hands_s(0) / 3600)


def _form_days(table: Timetable) -> float:
    taken = [d.from_s for d in table.doings if any(hold.what == "form" for hold in d.operation.takes)]
    freed = [d.to_s for d in table.doings if "form" in d.operation.frees and d.operation.kind != AFTERWARDS]
    return max(0.0, (max(freed) - min(taken)) / DAY_S) if taken and freed else 0.0
