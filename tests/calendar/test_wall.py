"""The clock on the wall: zones, clock changes, weeks that begin on Monday or Sunday."""

from __future__ import annotations

import datetime as dt
from zoneinfo import ZoneInfo

import pytest

from bright_willow.calendar.shop_clock import ShopClock, hours_of, week_of, zone_names, zone_of
from bright_willow.core.common.errors import PlanError
from bright_willow.core.shop.week import Week, week_fits

HOUR, DAY = 3600.0, 86_400.0
BERLIN, CHICAGO = ZoneInfo("Europe/Berlin"), ZoneInfo("America/Chicago")


@pytest.mark.parametrize(
    ("zone", "change", "hours"),
    [(BERLIN, dt.date(2026, 3, 29), 23), (BERLIN, dt.date(2026, 10, 25), 25), (CHICAGO, dt.date(2026, 11, 1), 25)],
)
def test_a_day_of_a_clock_change(zone, change, hours):
    wall = ShopClock(change - dt.timedelta(days=1), zone)
    assert wall.of(change + dt.timedelta(days=1)) - wall.of(change) == hours * HOUR
    assert wall.of(change, 8 * 60) == DAY + (8 + hours - 24) * HOUR
    evening = wall.of(change - dt.timedelta(days=1), 18 * 60)
    off = wall.at(evening + 14 * HOUR)  # 14 hours of glue over the night of the change
    assert (off.hour, off.minute) == (8 - (hours - 24), 0)
    assert wall.written(wall.moment("2026-11-03T08:30")) == "2026-11-03T08:30"


def test_hours_of_a_week():
    wall = ShopClock(dt.date(2026, 11, 27), BERLIN)  # a Friday
    week = Week(days_off=("2026-11-30",))
    hours = hours_of(week, wall)
    assert hours.hands.opens[:3] == (8 * HOUR, 13 * HOUR, 4 * DAY + 8 * HOUR)  # Monday is off
    assert hours.hands.closes[:2] == (12 * HOUR, 17 * HOUR)
    assert hours.present.opens[0] == 8 * HOUR and hours.present.closes[0] == 17 * HOUR
    alone = hours_of(week.model_copy(update={"covered": False}), wall)
    assert alone.present == alone.hands
    whole = hours_of(week.model_copy(update={"break_from_time": None, "break_to_time": None}), wall)
    assert whole.hands == whole.present and whole.hands.longest_s == 9 * HOUR
    summer = hours_of(Week(working=("sun",)), ShopClock(dt.date(2026, 3, 28), BERLIN))
    assert summer.present.opens[0] == DAY + 7 * HOUR  # eight by the clock, seven hours after midnight


def test_the_first_day_of_a_week():
    for day in (dt.date(2026, 11, 22) + dt.timedelta(days=n) for n in range(14)):
        for begins, first in (("mon", 0), ("sun", 6)):
            start = week_of(day, Week(begins=begins))
            assert start.weekday() == first and 0 <= (day - start).days < 7


def test_the_zone_is_the_chosen_one_or_the_computers():
    assert zone_of(Week(zone="America/Chicago")) == CHICAGO
    assert zone_of(Week(zone="Nowhere/At all")) == zone_of(Week())
    assert {"Europe/Berlin", "Pacific/Auckland"} <= set(zone_names())


@pytest.mark.parametrize(
    ("sets", "field"),
    [
        ({"working": ()}, "working"),
        ({"to_time": "07:00"}, "to_time"),
        ({"break_to_time": None}, "break_to_time"),
        ({"break_to_time": "11:00"}, "break_to_time"),
        ({"break_from_time": "07:30"}, "break_from_time"),
    ],
)
def test_a_week_that_cannot_be(sets, field):
    with pytest.raises(PlanError) as error:
        week_fits(Week().model_copy(update=sets))
    assert error.value.field == f"week.{field}"
    with pytest.raises(ValueError, match="no such day"):
        Week(days_off=("2026-02-29",))
