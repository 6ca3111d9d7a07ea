"""The days as an iCalendar file: stable ids, changes and cancellations told, alarms for what must not be late."""

from __future__ import annotations

import datetime as dt
import hashlib
import itertools
import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from ..core.scheduling.job_tasks import JobTasks, ScheduledTask, Timetable
from .schedule_messages import of_whom
from .shop_clock import ShopClock

PRODID = "-//Bright Willow//days//EN"
WARN_MIN = 10
NOT_FOR_HANDS = ("measure_again",)


@dataclass(frozen=True)
class Entry:
    """One event before it is written. uid: the same for the same run of the same piece, whenever it happens.

    alarms: seconds from its beginning at which something must not be late, and what.
    """

    uid: str
    title: str
    message: str
    from_s: float
    to_s: float
    alarms: tuple[tuple[float, str], ...]

    def mark(self, wall: ShopClock) -> str:
        """What changes when the event does."""
        text = json.dumps([self.title, self.message, wall.written(self.from_s), wall.written(self.to_s), self.alarms])
        return hashlib.sha256(text.encode()).hexdigest()[:16]


def entries(table: Timetable, works: Mapping[int, JobTasks], shop_id: str) -> list[Entry]:
    """An event for each run of operations with hands on it; what happens by itself is in none.

    shop_id: what makes ids of one shop differ from another's.
    """
    made: list[Entry] = []
    for run in _runs(table.doings):
        own = [d for d in run if d.operation.attended_s.likely or not d.operation.may_run_alone]
        if not own or run[0].state in ("done",):
            continue
        first, work = own[0], works[own[0].job]
        end = max(d.hands_to_s if d.operation.may_run_alone else d.to_s for d in own)
        names = " → ".join(dict.fromkeys(d.operation.name for d in own if d.operation.attended_s.likely))
        lay_out = "; ".join(dict.fromkeys(x for d in own for x in d.operation.lay_out))
        cautions = " ".join(dict.fromkeys(x for d in own for x in d.operation.cautions))
        message = "\n".join(x for x in (names, f"Lay out: {lay_out}." if lay_out else "", cautions) if x)
        key = run[0].operation.key if not run[0].operation.keeps_s or len(run) == 1 else run[1].operation.key
        uid = f"{first.job}-{key}-{first.number}@{shop_id}.bright-willow"
        title = f"{work.name}: {own[0].operation.name.lower()}, {of_whom(first, work)}"
        made.append(Entry(uid, title, message, own[0].from_s, max(end, own[0].from_s + 60), _alarms(own)))
    return made


def _runs(doings: Sequence[ScheduledTask]) -> list[list[ScheduledTask]]:
    runs: dict[tuple[int, object], list[ScheduledTask]] = {}
    for d in doings:
        runs.setdefault((d.job, d.run if d.run >= 0 else d.name), []).append(d)
    return list(runs.values())


def _alarms(own: Sequence[ScheduledTask]) -> tuple[tuple[float, str], ...]:
    """Before a run that may not wait, and before each of its own moves that must follow something hot at once."""
    if len(own) < 2:
        return ()
    begin = own[0].from_s
    made = [(-WARN_MIN * 60.0, f"In {WARN_MIN} min: {own[0].operation.name.lower()}")]
    for before, d in itertools.pairwise(own):
        if before.to_s > before.hands_to_s and d.operation.attended_s.likely:  # something has gone on by itself
            made.append((d.from_s - begin - 120.0, f"In 2 min: {d.operation.name.lower()}"))
    return tuple(made)


def calendar_of(
    listed: Sequence[Entry],
    wall: ShopClock,
    now: dt.datetime,
    known: Mapping[str, Sequence[object]],
    name: str,
) -> tuple[bytes, dict[str, list[object]]]:
    """The file, and what is now known of each event: its mark, its sequence number, when it is.

    known: the same from last time: what changed gets the next number, what is gone and not past is cancelled once more.
    """
    from icalendar import Calendar, Timezone  # read in when it is first asked for: it takes long

    made, told = Calendar(), dict[str, list[object]]()
    made.add("prodid", PRODID)
    made.add("version", "2.0")
    made.add("x-wr-calname", name)
    first = wall.at(min((e.from_s for e in listed), default=0.0)).date()
    last = wall.at(max((e.to_s for e in listed), default=0.0)).date()
    if wall.zone.key not in ("UTC", "Etc/UTC"):
        made.add_component(Timezone.from_tzinfo(wall.zone, wall.zone.key, first, last + dt.timedelta(days=370)))
    stamp = now.astimezone(dt.UTC).replace(microsecond=0)
    for e in sorted(listed, key=lambda e: (e.from_s, e.uid)):
        mark, before = e.mark(wall), known.get(e.uid)
        number = 0 if before is None else int(str(before[1])) + (str(before[0]) != mark)
        told[e.uid] = [mark, number, wall.written(e.to_s)]
        made.add_component(_event(e, wall, stamp, number))
    for uid, before in known.items():
        if uid not in told and str(before[2]) >= wall.written(wall.seconds(now)):
            number = int(str(before[1])) + (before[0] != "gone")
            told[uid] = ["gone", number, before[2]]
            made.add_component(_gone(uid, dt.datetime.fromisoformat(str(before[2])), wall, stamp, number))
    return made.to_ical(), told


def _event(e: Entry, wall: ShopClock, stamp: dt.datetime, number: int) -> Any:
    from icalendar import Alarm, Event

    event = Event()
    event.add("uid", e.uid)
    event.add("dtstamp", stamp)
    event.add("sequence", number)
    event.add("status", "CONFIRMED")
    event.add("summary", e.title)
    event.add("description", e.message)
    event.add("dtstart", wall.at(e.from_s).replace(second=0))
    event.add("dtend", wall.at(max(e.to_s, e.from_s + 60)).replace(second=0))
    for seconds, message in e.alarms:
        alarm = Alarm()
        alarm.add("action", "DISPLAY")
        alarm.add("description", message)
        alarm.add("trigger", dt.timedelta(minutes=round(seconds / 60)))
        event.add_component(alarm)
    return event


def _gone(uid: str, end: dt.datetime, wall: ShopClock, stamp: dt.datetime, number: int) -> Any:
    from icalendar import Event

    event = Event()
    event.add("uid", uid)
    event.add("dtstamp", stamp)
    event.add("sequence", number)
    event.add("status", "CANCELLED")
    event.add("summary", "No longer planned")
    event.add("dtstart", end.replace(tzinfo=wall.zone) - dt.timedelta(minutes=1))
    event.add("dtend", end.replace(tzinfo=wall.zone))
    return event
