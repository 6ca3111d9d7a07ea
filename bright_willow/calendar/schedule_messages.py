"""The days in words: when, who for, what something waits for, and what is in the way with what would clear it."""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping, Sequence
from typing import Any

from ..core.common.findings import Change, Finding
from ..core.common.operation import resource_name
from ..core.job.job import Job
from ..core.methods.steps.making_form import is_form_work
from ..core.scheduling.job_tasks import JobTasks, ScheduleConflict, ScheduledTask, Timetable
from ..core.shop.shop import Shop
from ..core.shop.week import minutes
from .shop_clock import FARTHEST_DAYS, ShopClock
from .time_format import format_time

NO_DAY_OFF = {"shop.week.working": ["mon", "tue", "wed", "thu", "fri"], "shop.week.days_off": []}
OWNED_AS = {"people": "people", "chamber": "places", "frame": "frames", "bag": "bags"}


def when(wall: ShopClock, seconds: float, *, near: dt.date | None = None) -> str:
    """A moment as it is said: the weekday and hour; with the date when it is further off than a week."""
    at = wall.at(seconds)
    if near == at.date():
        return wall.time(seconds)
    day = f"{at:%a}" if near is None or abs((at.date() - near).days) < 7 else wall.day(at.date())
    return f"{day} {wall.time(seconds)}"


def day_of(wall: ShopClock, seconds: float) -> str:
    """A day as it is said; midnight belongs to the day that ends."""
    at = wall.at(seconds - 1)
    return wall.day(at.date())


def whose(number: int, scope: str, at_once: int, pieces: int) -> str:
    """Which piece or load something is of.

    >>> whose(1, "piece", 1, 4), whose(1, "batch", 2, 4), whose(-1, "job", 1, 4), whose(1, "batch", 2, 3)
    ('piece 2', 'batch 2: pieces 3 to 4', 'all pieces', 'batch 2: piece 3')
    """
    if scope == "job" or number < 0:
        return "all pieces"
    if scope == "piece" or at_once == 1:
        return f"piece {number + 1}"
    first, last = number * at_once + 1, min(pieces, (number + 1) * at_once)
    return f"batch {number + 1}: piece{f's {first} to {last}' if last > first else f' {first}'}"


def of_whom(doing: ScheduledTask, work: JobTasks) -> str:
    """Which piece or load of its job a doing is of; the form, of what makes it."""
    if is_form_work(doing.operation.key):
        return "the form" if work.own.get("form", 1) == 1 else "the forms"
    return whose(doing.number, doing.operation.scope, work.batches.at_once, work.batches.pieces)


def why_text(doing: ScheduledTask, table: Timetable, works: Mapping[int, JobTasks], wall: ShopClock) -> str:
    """What something waits for, in a sentence."""
    why, near = doing.why, wall.at(doing.from_s).date()
    if doing.state in ("done", "begun"):
        return "Under way." if doing.state == "begun" else "Done."
    if why.waits == "straight_on":
        head = next(d for d in table.doings if d.run == doing.run and d.job == doing.job)
        begins = f"The first step begins {when(wall, head.from_s, near=near)}."
        return f"Follows at once, because it may not wait. {begins} {why_text(head, table, works, wall)}"
    if why.waits == "hands":
        return "Waiting: everyone is busy."
    if why.waits == "hours":
        return "Waiting for working hours: nobody is in the shop, or too little of the day is left to finish it."
    if why.waits == "thing":
        return f"Waiting for {resource_name(why.what)}{_from_whom(doing, why.what, table, works, wall)}."
    if why.waits == "heat":
        return "Waiting for the steam box to be hot for another batch."
    if why.waits == "after":
        other = next((d for d in table.doings if d.name == (why.job, why.what, why.number)), None)
        if other is None:
            return "Waiting for the step before it."
        wait = doing.from_s - other.to_s
        gap = f", and {_long(wait)} after it" if wait > 120 else ""
        name = other.operation.name[0].lower() + other.operation.name[1:]
        whom = f", {of_whom(other, works[other.job])}," if other.number != doing.number else ""
        return f"Comes after “{name}”{whom} which ends {when(wall, other.to_s, near=near)}{gap}."
    return {
        "pin": "Locked to this time.",
        "not_before": "The job does not start before this day.",
        "now": "It can start now.",
        "start": "It can start now.",
    }[why.waits]


def _from_whom(
    doing: ScheduledTask, what: str, table: Timetable, works: Mapping[int, JobTasks], wall: ShopClock
) -> str:
    """Who gives a thing back last before something begins."""
    before = [h for h in table.held if h.what == what and h.to_s <= doing.from_s + 3600 and h.job in works]
    before = [h for h in before if (h.job, h.number) != (doing.job, doing.number)]
    if not before:
        return ""
    last = max(before, key=lambda h: h.to_s)
    work = works[last.job]
    scope = "batch" if work.batches.at_once > 1 else "piece"
    whom = whose(last.number, scope, work.batches.at_once, work.batches.pieces)
    if last.job != doing.job:
        whom = work.name if last.number < 0 else f"{whom} of {work.name}"
    return f", which {whom} uses until {when(wall, last.to_s, near=wall.at(doing.from_s).date())}"


def _long(seconds: float) -> str:
    hours = seconds / 3600
    return f"{seconds / 60:.0f} min" if hours < 2 else f"{hours:.0f} h" if hours < 48 else f"{hours / 24:.0f} days"


def findings_of(
    clashes: Sequence[ScheduleConflict],
    jobs: Mapping[int, Job],
    works: Mapping[int, JobTasks],
    shop: Shop,
    wall: ShopClock,
) -> list[Finding]:
    """What is in the way of the days, or not as it was meant; each with what would clear it."""
    return [_SAYS[c.kind](c, jobs[c.job], works[c.job], shop, wall) for c in clashes if c.job in jobs]


def _name(clash: ScheduleConflict, work: JobTasks) -> str:
    o = next(x for x in work.operations if x.key == clash.key)
    whom = whose(clash.number, o.scope, work.batches.at_once, work.batches.pieces)
    return f"“{o.name}”" + (f", {whom}," if clash.number >= 0 else "")


def _too_long(clash: ScheduleConflict, job: Job, work: JobTasks, shop: Shop, wall: ShopClock) -> Finding:
    week, change = shop.week, None
    pause = 0
    if week.break_from_time and week.break_to_time:
        pause = minutes(week.break_to_time) - minutes(week.break_from_time)
    whole = minutes(week.to_time) - minutes(week.from_time)
    if pause and clash.seconds <= whole * 60 and clash.what == "present":
        change = Change("Have someone stay in the shop through the break.", {"shop.week.covered": True})
    elif pause and clash.seconds <= whole * 60:
        no_break = {"shop.week.break_from_time": None, "shop.week.break_to_time": None}
        change = Change("Work without a break.", no_break)
    else:
        sets: dict[str, Any] = {"shop.week.covered": True} if pause and not week.covered else {}
        ends = -(-(minutes(week.from_time) + int(clash.seconds / 60) + 15) // 15) * 15
        if ends < 1440 and clash.what == "present":
            to = dt.time(ends // 60, ends % 60)
            message = format_time(dt.datetime.combine(dt.date.min, to), shop.units)
            change = Change(f"Work until {message}.", {**sets, "shop.week.to_time": f"{to:%H:%M}"})
    return Finding(
        "days.too_long",
        "stop",
        "days",
        f"{_name(clash, work)} and what follows take {_long(clash.seconds)} without a stop; the longest working "
        f"stretch is {_long(clash.limit_s)}.",
        "Heat is never left unattended, and spread glue or hot wood cannot wait until morning.",
        change,
    )


def _too_few(clash: ScheduleConflict, job: Job, work: JobTasks, shop: Shop, wall: ShopClock) -> Finding:
    name = clash.what.split("@")[0].split(":")[0]
    own = OWNED_AS.get(name)
    sets = {f"shop.week.{own}": clash.wants} if own else {}
    made = Change(f"The shop has {clash.wants} {resource_name(name, many=True)}.", sets) if sets else None
    return Finding(
        "days.too_few",
        "stop",
        "days",
        f"{_name(clash, work)} needs {clash.wants} {resource_name(name, many=True)}; the shop has {clash.have}.",
        "It needs them all at once; enter what the shop owns on the Shop page.",
        made,
    )


def _let_go(clash: ScheduleConflict, job: Job) -> dict[str, Any]:
    left = []
    return {"days.pins": left}


def _pin_late(clash: ScheduleConflict, job: Job, work: JobTasks, shop: Shop, wall: ShopClock) -> Finding:
    return Finding(
        "days.pin",
        "watch",
        "days",
        f"{_name(clash, work)} is locked to {when(wall, clash.limit_s)} but cannot start before "
        f"{when(wall, clash.seconds)}.",
        "Earlier work is not done by then; the schedule uses the earliest possible start.",
        Change("Unlock the start.", _let_go(clash, job)),
    )


def _pin_early(clash: ScheduleConflict, job: Job, work: JobTasks, shop: Shop, wall: ShopClock) -> Finding:
    return Finding(
        "days.pin_early",
        "watch",
        "days",
        f"{_name(clash, work)} was locked to {when(wall, clash.limit_s)}; it is now planned for "
        f"{when(wall, clash.seconds)}.",
        "Another piece is already hot or glued and needs what this one holds.",
        Change("Unlock the start.", _let_go(clash, job)),
    )


def _not_begun(clash: ScheduleConflict, job: Job, work: JobTasks, shop: Shop, wall: ShopClock) -> Finding:
    return Finding(
        "days.not_begun",
        "watch",
        "days",
        f"{_name(clash, work)} was due to start {when(wall, clash.limit_s)} and is not marked as started.",
        "The schedule assumes it starts now; if it is done, mark it at its bar.",
        Change("Unlock the start.", _let_go(clash, job)),
    )


def _late(clash: ScheduleConflict, job: Job, work: JobTasks, shop: Shop, wall: ShopClock) -> Finding:
    day = wall.at(clash.seconds - 1).date()
    return Finding(
        "days.late",
        "watch",
        "days",
        f"It is due {day_of(wall, clash.limit_s)}; the last piece is done {day_of(wall, clash.seconds)}.",
        "“Would another form help” shows what would finish sooner.",
        Change(f"Change the due date to {day_of(wall, clash.seconds)}.", {"days.due_day": day.isoformat()}),
    )


def _overrun(clash: ScheduleConflict, job: Job, work: JobTasks, shop: Shop, wall: ShopClock) -> Finding:
    return Finding(
        "days.overrun",
        "watch",
        "days",
        f"{_name(clash, work)} has run {_long(clash.seconds)} over its planned time.",
        "If it is done, mark it at its bar; until then everything after it moves.",
    )


def _stuck(clash: ScheduleConflict, job: Job, work: JobTasks, shop: Shop, wall: ShopClock) -> Finding:
    return Finding(
        "days.stuck",
        "stop",
        "days",
        f"{_name(clash, work)} can never start: what it needs is held by work that waits for it.",
        "Undo what was marked as done, or add one more of what is in use.",
    )


def _too_far(clash: ScheduleConflict, job: Job, work: JobTasks, shop: Shop, wall: ShopClock) -> Finding:
    return Finding(
        "days.too_far",
        "stop",
        "days",
        f"With this much work, {_name(clash, work)} would start more than {FARTHEST_DAYS // 365} years from now.",
        "Take jobs off the shop's schedule, make fewer pieces, or add people, forms or clamps.",
    )


def _no_hours(clash: ScheduleConflict, job: Job, work: JobTasks, shop: Shop, wall: ShopClock) -> Finding:
    return Finding(
        "days.no_hours",
        "stop",
        "days",
        "Nobody ever works: the shop has no working days.",
        "Enter working days, hours and days off on the Shop page.",
        Change(
            "Work Monday to Friday.",
            {"shop.week.working": ["mon", "tue", "wed", "thu", "fri"], "shop.week.days_off": []},
        ),
    )


_SAYS = {
    "too_long": _too_long,
    "too_few": _too_few,
    "pin_late": _pin_late,
    "pin_early": _pin_early,
    "not_begun": _not_begun,
    "late": _late,
    "overrun": _overrun,
    "stuck": _stuck,
    "too_far": _too_far,
    "no_hours": _no_hours,
}
