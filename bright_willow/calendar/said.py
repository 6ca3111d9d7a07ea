"""The days in words: when, who for, what something waits for, and what is in the way with what would clear it."""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping, Sequence
from typing import Any

from ..core.days.work import Clash, Doing, Timetable, Work
from ..core.ground.findings import Change, Finding
from ..core.job.job import Job
from ..core.shop.shop import Shop
from ..core.shop.week import minutes
from .wall import FARTHEST_DAYS, Wall

THINGS = {
    "form": ("the form", "forms"),
    "strap": ("the strap", "straps"),
    "chamber": ("a place in the chamber", "places in the chamber"),
    "clamps": ("clamps", "clamps"),
    "bag": ("the bag", "bags"),
    "frame": ("a drying frame", "drying frames"),
    "iron": ("the heat", "irons"),
    "oven": ("the oven", "ovens"),
    "saw": ("the saw", "saws"),
    "people": ("somebody", "people"),
}
NO_DAY_OFF = {"shop.week.working": ["mon", "tue", "wed", "thu", "fri"], "shop.week.days_off": []}
OWNED_AS = {"people": "people", "chamber": "places", "frame": "frames", "bag": "bags"}


def thing(what: str, many: bool = False) -> str:
    """What a thing of the floor is called.

    >>> thing("form@3"), thing("frame", many=True)
    ('the form', 'drying frames')
    """
    name = what.split("@")[0].split(":")[0]
    return THINGS.get(name, (name, name))[many]


def when(wall: Wall, seconds: float, *, near: dt.date | None = None) -> str:
    """A moment as it is said: the weekday and hour; with the date when it is further off than a week."""
    at = wall.at(seconds)
    if near == at.date():
        return f"{at:%H:%M}"
    day = f"{at:%a}" if near is None or abs((at.date() - near).days) < 7 else f"{at:%a} {at.day} {at:%b}"
    return f"{day} {at:%H:%M}"


def day_of(wall: Wall, seconds: float) -> str:
    """A day as it is said; midnight belongs to the day that ends."""
    at = wall.at(seconds - 1)
    return f"{at:%a} {at.day} {at:%b}"


def whose(number: int, scope: str, at_once: int, pieces: int) -> str:
    """Which piece or load something is of.

    >>> whose(1, "piece", 1, 4), whose(1, "batch", 2, 4), whose(-1, "job", 1, 4), whose(1, "batch", 2, 3)
    ('piece 2', 'load 2: pieces 3 to 4', 'all pieces', 'load 2: piece 3')
    """
    if scope == "job" or number < 0:
        return "all pieces"
    if scope == "piece" or at_once == 1:
        return f"piece {number + 1}"
    first, last = number * at_once + 1, min(pieces, (number + 1) * at_once)
    return f"load {number + 1}: piece{f's {first} to {last}' if last > first else f' {first}'}"


def of_whom(doing: Doing, work: Work) -> str:
    """Which piece or load of its job a doing is of."""
    return whose(doing.number, doing.operation.scope, work.batches.at_once, work.batches.pieces)


def why_says(doing: Doing, table: Timetable, works: Mapping[int, Work], wall: Wall) -> str:
    """What something waits for, in a sentence."""
    why, near = doing.why, wall.at(doing.from_s).date()
    if doing.state in ("done", "begun"):
        return "Under way." if doing.state == "begun" else "Done."
    if why.waits == "straight_on":
        head = next(d for d in table.doings if d.run == doing.run and d.job == doing.job)
        begins = f"The first of it begins {when(wall, head.from_s, near=near)}."
        return f"Straight on from what comes before: it may not wait. {begins} {why_says(head, table, works, wall)}"
    if why.waits == "hands":
        return "Waits for hands: everybody is at something else until then."
    if why.waits == "hours":
        return "Waits for the shop's hours: there is nobody before, or not time enough left to end it."
    if why.waits == "thing":
        return f"Waits for {thing(why.what)}{_from_whom(doing, why.what, table, works, wall)}."
    if why.waits == "heat":
        return "Waits for the heat made for another load."
    if why.waits == "after":
        other = next((d for d in table.doings if d.name == (why.job, why.what, why.number)), None)
        if other is None:
            return "Waits for what comes before it."
        wait = doing.from_s - other.to_s
        gap = f", and {_long(wait)} after it" if wait > 120 else ""
        name = other.operation.name[0].lower() + other.operation.name[1:]
        whom = f", {of_whom(other, works[other.job])}," if other.number != doing.number else ""
        return f"Comes after “{name}”{whom} which ends {when(wall, other.to_s, near=near)}{gap}."
    return {
        "pin": "Pinned to this time.",
        "not_before": "The job is not begun before this day.",
        "now": "It can begin at once.",
        "start": "It can begin at once.",
    }[why.waits]


def _from_whom(doing: Doing, what: str, table: Timetable, works: Mapping[int, Work], wall: Wall) -> str:
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
    return f", which {whom} has until {when(wall, last.to_s, near=wall.at(doing.from_s).date())}"


def _long(seconds: float) -> str:
    hours = seconds / 3600
    return f"{seconds / 60:.0f} min" if hours < 2 else f"{hours:.0f} h" if hours < 48 else f"{hours / 24:.0f} days"


def findings_of(
    clashes: Sequence[Clash], jobs: Mapping[int, Job], works: Mapping[int, Work], shop: Shop, wall: Wall
) -> list[Finding]:
    """What is in the way of the days, or not as it was meant; each with what would clear it."""
    return [_SAYS[c.kind](c, jobs[c.job], works[c.job], shop, wall) for c in clashes if c.job in jobs]


def _name(clash: Clash, work: Work) -> str:
    o = next(x for x in work.operations if x.key == clash.key)
    whom = whose(clash.number, o.scope, work.batches.at_once, work.batches.pieces)
    return f"“{o.name}”" + (f", {whom}," if clash.number >= 0 else "")


def _too_long(clash: Clash, job: Job, work: Work, shop: Shop, wall: Wall) -> Finding:
    week, change = shop.week, None
    pause = 0
    if week.break_from_time and week.break_to_time:
        pause = minutes(week.break_to_time) - minutes(week.break_from_time)
    whole = minutes(week.to_time) - minutes(week.from_time)
    if pause and clash.seconds <= whole * 60 and clash.what == "present":
        change = Change("Let somebody stay in the shop through the break.", {"shop.week.covered": True})
    elif pause and clash.seconds <= whole * 60:
        no_break = {"shop.week.break_from_time": None, "shop.week.break_to_time": None}
        change = Change("Work without a break.", no_break)
    else:
        sets: dict[str, Any] = {"shop.week.covered": True} if pause and not week.covered else {}
        ends = -(-(minutes(week.from_time) + int(clash.seconds / 60) + 15) // 15) * 15
        if ends < 1440 and clash.what == "present":
            text = f"{ends // 60:02d}:{ends % 60:02d}"
            change = Change(f"Work until {text}.", {**sets, "shop.week.to_time": text})
    return Finding(
        "days.too_long",
        "stop",
        "days",
        f"From {_name(clash, work)} on it may not stop for {_long(clash.seconds)}; the longest stretch of work is "
        f"{_long(clash.limit_s)}.",
        "Heat is never left alone, and what is spread or hot does not wait for the morning.",
        change,
    )


def _too_few(clash: Clash, job: Job, work: Work, shop: Shop, wall: Wall) -> Finding:
    name = clash.what.split("@")[0].split(":")[0]
    own = OWNED_AS.get(name)
    sets = {f"shop.week.{own}": clash.wants} if own else {}
    made = Change(f"There are {clash.wants} {thing(name, many=True)}.", sets) if sets else None
    return Finding(
        "days.too_few",
        "stop",
        "days",
        f"{_name(clash, work)} takes {clash.wants} {thing(name, many=True)}; the shop has {clash.have}.",
        "All of it at once, by itself: no day is long enough to make up for it. What the shop owns stands under Shop.",
        made,
    )


def _let_go(clash: Clash, job: Job) -> dict[str, Any]:
    left = []
    return {"days.pins": left}


def _pin_late(clash: Clash, job: Job, work: Work, shop: Shop, wall: Wall) -> Finding:
    return Finding(
        "days.pin",
        "watch",
        "days",
        f"{_name(clash, work)} is pinned to {when(wall, clash.limit_s)}, and cannot begin before "
        f"{when(wall, clash.seconds)}.",
        "What it waits for is not done by then. The rest is laid out for when it can begin.",
        Change("Let go of the pin.", _let_go(clash, job)),
    )


def _pin_early(clash: Clash, job: Job, work: Work, shop: Shop, wall: Wall) -> Finding:
    return Finding(
        "days.pin_early",
        "watch",
        "days",
        f"{_name(clash, work)} was locked to {when(wall, clash.limit_s)}; it is now planned for "
        f"{when(wall, clash.seconds)}.",
        "Another piece is already hot or glued and needs what this one holds.",
        Change("Unlock the start.", _let_go(clash, job)),
    )


def _not_begun(clash: Clash, job: Job, work: Work, shop: Shop, wall: Wall) -> Finding:
    return Finding(
        "days.not_begun",
        "watch",
        "days",
        f"{_name(clash, work)} was to begin {when(wall, clash.limit_s)}, and nobody has said that it did.",
        "The rest is laid out as if it began now. If it was done, say so at its bar.",
        Change("Let go of the pin.", _let_go(clash, job)),
    )


def _late(clash: Clash, job: Job, work: Work, shop: Shop, wall: Wall) -> Finding:
    day = wall.at(clash.seconds - 1).date()
    return Finding(
        "days.late",
        "watch",
        "days",
        f"It is wanted by {day_of(wall, clash.limit_s)}; the last piece is done on {day_of(wall, clash.seconds)}.",
        "How many forms pay shows what would be sooner.",
        Change(f"Promise it for {day_of(wall, clash.seconds)}.", {"days.due_day": day.isoformat()}),
    )


def _overrun(clash: Clash, job: Job, work: Work, shop: Shop, wall: Wall) -> Finding:
    return Finding(
        "days.overrun",
        "watch",
        "days",
        f"{_name(clash, work)} has been going on {_long(clash.seconds)} longer than planned.",
        "If it is done, say so at its bar: until then everything after it moves.",
    )


def _stuck(clash: Clash, job: Job, work: Work, shop: Shop, wall: Wall) -> Finding:
    return Finding(
        "days.stuck",
        "stop",
        "days",
        f"{_name(clash, work)} never begins: what it needs is held by something that waits for it.",
        "Take back what was marked as done, or have one more of what is held.",
    )


def _too_far(clash: Clash, job: Job, work: Work, shop: Shop, wall: Wall) -> Finding:
    return Finding(
        "days.too_far",
        "stop",
        "days",
        f"So much is to do that {_name(clash, work)} would begin more than {FARTHEST_DAYS // 365} years from now.",
        "Take jobs out of the shop's week, make fewer pieces, or have more people, forms or clamps.",
    )


def _no_hours(clash: Clash, job: Job, work: Work, shop: Shop, wall: Wall) -> Finding:
    return Finding(
        "days.no_hours",
        "stop",
        "days",
        "Nobody ever works: there are no working days left in the shop's week.",
        "Working days, hours and days off stand under Shop.",
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
