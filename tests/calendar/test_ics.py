"""The calendar file, read back by the library that writes it and by another; and the days in words."""

from __future__ import annotations

import datetime as dt
from dataclasses import replace
from zoneinfo import ZoneInfo

import icalendar
import pytest
import vobject

from bright_willow.calendar.ics import calendar_of, entries
from bright_willow.calendar.schedule_messages import findings_of, when, whose, why_text
from bright_willow.calendar.shop_clock import ShopClock, hours_of
from bright_willow.calendar.shop_work import DoneAt, PlannedWork, floor_of, wall_of, work_of
from bright_willow.core.common.operation import Batches
from bright_willow.core.job.schedule_choice import Days, Pinned
from bright_willow.core.plan.plan import plan
from bright_willow.core.scheduling.job_tasks import PinnedStart, ShopCapacity
from bright_willow.core.scheduling.timetable import timetable
from bright_willow.core.shop.shop import OwnClamps, Shop
from bright_willow.core.shop.week import Week

from ..core.methods.jobs import job_for
from ..core.scheduling.rules import (
    DAY,
    HOUR,
    glue,
    op,
    steam,
    works_of,
)

BERLIN = ZoneInfo("Europe/Berlin")
FRIDAY = ShopClock(dt.date(2026, 10, 23), BERLIN)  # clocks go back on the Sunday
NOW = dt.datetime(2026, 10, 23, 7, 30, tzinfo=BERLIN)
OWNED = {"saw": 1, "chamber": 2, "clamps": 20, "frame": 4}


def _made(works, now_s=7.5 * HOUR):
    floor = ShopCapacity(hours_of(Week(), FRIDAY), 2, OWNED, now_s)
    table = timetable(works, floor)
    return table, entries(table, {w.job: w for w in works}, "abc")


def test_two_libraries_read_what_is_written():
    works = works_of(steam(), glue(), pieces=3)
    table, own = _made(works)
    body, told = calendar_of(own, FRIDAY, NOW, {}, "Marrow Lane")
    mine = icalendar.Calendar.from_ical(body)
    other = vobject.readOne(body.decode())
    events = {str(e["uid"]): e for e in mine.walk("VEVENT")}
    theirs = {e.uid.value: e for e in other.vevent_list}
    assert set(events) == set(theirs) == set(told) == {e.uid for e in own}
    assert other.contents["x-wr-calname"][0].value == "Marrow Lane"
    for doing in (d for d in table.doings if d.operation.key in ("load", "close", "trim")):
        key = {"close": "mix"}.get(doing.operation.key, doing.operation.key)
        uid = f"{doing.job}-{key}-{doing.number}@abc.bright-willow"
        first = next(d for d in table.doings if d.name == (doing.job, key, doing.number))
        run = [d for d in table.doings if d.run == first.run]
        begins = FRIDAY.at(min(d.from_s for d in run)).replace(second=0)
        assert events[uid].decoded("dtstart") == begins == theirs[uid].dtstart.value, uid
        assert events[uid].decoded("dtstart").utcoffset() == dt.timedelta(
            hours=2 if begins < dt.datetime(2026, 10, 25, 3, tzinfo=BERLIN) else 1
        )
    bend = next(e for e in own if "1-load-0" in e.uid)
    steamed = next(d for d in table.doings if d.name == (1, "bend", 0))
    alarms = [a.TRIGGER for a in events[bend.uid].walk("VALARM")]
    assert dt.timedelta(minutes=-10) in alarms
    assert dt.timedelta(minutes=round((steamed.from_s - bend.from_s - 120) / 60)) in alarms  # out of the steam
    assert [a.trigger.value for a in theirs[bend.uid].valarm_list] == alarms
    assert not any("cure" in e.title for e in own) and not any(e.to_s - e.from_s > 9 * HOUR for e in own)


def test_what_changes_is_told_as_changed_and_what_goes_as_cancelled():
    works = works_of(glue(), pieces=2)
    _, own = _made(works)
    body, known = calendar_of(own, FRIDAY, NOW, {}, "x")
    again, told = calendar_of(own, FRIDAY, NOW, known, "x")
    assert (again, told) == (body, known)
    moved = [replace(works[0], pins=(PinnedStart("mix", 0, 3 * DAY + 11 * HOUR),))]
    _, later = _made(moved)
    body, told = calendar_of(later, FRIDAY, NOW, known, "x")
    uid = "1-mix-0@abc.bright-willow"
    events = {str(e["uid"]): e for e in icalendar.Calendar.from_ical(body).walk("VEVENT")}
    assert events[uid]["sequence"] == 1 and events[uid].decoded("dtstart").hour == 10  # an hour earlier since Sunday
    assert events["1-rip--1@abc.bright-willow"]["sequence"] == 0
    fewer = [replace(works[0], batches=Batches(1))]
    body, gone = calendar_of(_made(fewer)[1], FRIDAY, NOW, told, "x")
    cancelled = [str(e["uid"]) for e in icalendar.Calendar.from_ical(body).walk("VEVENT") if e["status"] == "CANCELLED"]
    assert sorted(cancelled) == [f"1-{key}-1@abc.bright-willow" for key in ("clean_up", "mix", "release")]
    _, still = calendar_of(_made(fewer)[1], FRIDAY, NOW, gone, "x")
    assert still == gone  # its number does not go up for being told again
    after = dt.datetime(2027, 1, 1, tzinfo=BERLIN)
    assert not any("gone" in v for v in calendar_of([], FRIDAY, after, gone, "x")[1].values())


def test_when_and_whose_in_words():
    assert when(FRIDAY, 8 * HOUR + 60, near=dt.date(2026, 10, 23)) == "08:01"
    assert when(FRIDAY, 3 * DAY + 9 * HOUR, near=dt.date(2026, 10, 23)) == "Mon 08:00"
    assert when(FRIDAY, 8 * DAY, near=dt.date(2026, 10, 23)) == "Fri 30 Oct 23:00"
    assert whose(0, "batch", 3, 7) == "batch 1: pieces 1 to 3" and whose(2, "batch", 3, 7) == "batch 3: piece 7"


def test_every_wait_is_said():
    works = works_of(glue(cure_h=1.5), steam(), glue(), pieces=3)
    table, _ = _made(works, now_s=9 * HOUR)
    by = {w.job: w for w in works}
    said = {d.why.waits: why_text(d, table, by, FRIDAY) for d in table.doings}
    assert {"now", "after", "hours", "hands", "thing", "straight_on"} <= set(said)
    waits = next(d for d in table.doings if d.why.waits == "thing" and d.why.what == "form@1")
    assert "Waiting for the form, which piece" in why_text(waits, table, by, FRIDAY)
    two = works_of((op("a", "job", 600), op("b", "job", 600, after=(("a", 2 * HOUR),))))
    later = _made(two)[0]
    assert (
        why_text(later.doings[1], later, {1: two[0]}, FRIDAY) == "Comes after “a” which ends 08:10, and 2 h after it."
    )


# what is in the way: a shop, a job, and that the press clears it
def _laid(job, shop, now=NOW, done=()):
    made = plan(job, shop)
    planned = PlannedWork(1, job, made.operations, made.way.batches)
    wall = wall_of(shop, now, done)
    work = work_of(planned, done, wall)
    table = timetable([work], floor_of(shop, wall, now))
    return findings_of(table.clashes, {1: job}, {1: work}, shop, wall), table, wall


def _week(**sets) -> Shop:
    return Shop(clamps=(OwnClamps(count=60),), week=Week().model_copy(update={"zone": "Europe/Berlin"} | sets))


STEAMED = job_for("steam_strap", part={"count": 2, "spares": 0, "thickness_mm": 45})
PIECES = job_for("cold_lamination", part={"count": 3, "spares": 0})


@pytest.mark.parametrize(
    ("code", "job", "shop"),
    [
        ("days.too_long", STEAMED, _week(to_time="10:30", break_from_time=None, break_to_time=None)),
        ("days.too_long", STEAMED, _week(from_time="09:00", to_time="15:00", break_from_time="11:30", break_to_time="12:30", covered=False)),
        ("days.too_few", PIECES, _week(people=1)),
        ("days.too_few", job_for("steam_strap", part={"count": 2}), _week(frames=0)),
        ("days.no_hours", PIECES, _week(working=())),
        ("days.late", PIECES.model_copy(update={"days": Days(due_day="2026-10-26")}), _week()),
        ("days.pin", PIECES.model_copy(update={"days": Days(pins=(Pinned(key="release", number=0, at="2026-10-23T09:00"),))}), _week()),
        ("days.not_begun", PIECES.model_copy(update={"days": Days(pins=(Pinned(key="look_over", number=-1, at="2026-10-22T09:00"),))}), _week()),
    ],
)  # fmt: skip
def test_what_is_in_the_way_is_cleared_by_its_press(code, job, shop):
    pressed = 0
    while pressed < 3:  # what is longer than half a day may take two presses
        found = _laid(job, shop)[0]
        mine = [f for f in found if f.code == code]
        if not mine:
            break
        assert mine[0].stage == "days" and mine[0].fix, mine
        for name, value in mine[0].fix.sets.items():
            if name.startswith("shop.week."):
                data = shop.week.model_dump() | {name.removeprefix("shop.week."): value}
                shop = shop.model_copy(update={"week": Week.model_validate(data)})
            else:
                data = job.days.model_dump() | {name.removeprefix("days."): value}
                job = job.model_copy(update={"days": Days.model_validate(data)})
        pressed += 1
    assert 0 < pressed < 3, "it was there, and is cleared"


def test_an_overrun_and_what_is_done():
    since = dt.datetime(2026, 10, 23, 4, 0)  # six by the clock
    found, table, wall = _laid(
        PIECES,
        _week(),
        now=dt.datetime(2026, 10, 23, 10, 0, tzinfo=BERLIN),
        done=(DoneAt("look_over", -1, since, None),),
    )
    assert [f.code for f in found] == ["days.overrun"] and found[0].fix is None
    assert "4 h over its planned time" in found[0].message
    ends = next(d for d in table.doings if d.operation.key == "look_over")
    assert wall.at(ends.from_s).hour == 6 and wall.at(ends.to_s).hour == 10
