"""The days as lanes: true to the hours they show, and read back as they are dragged."""

from __future__ import annotations

import datetime as dt
import re
from zoneinfo import ZoneInfo

import pytest

from bright_willow.calendar.shop_clock import ShopClock, hours_of
from bright_willow.core.scheduling.job_tasks import ShopCapacity
from bright_willow.core.scheduling.timetable import timetable
from bright_willow.core.shop.week import Week
from bright_willow.drawing.days_drawing import Axis, ScheduleLanes, days_svg, things_svg

from ..core.scheduling.rules import DAY, HOUR, glue, steam, works_of

WALL = ShopClock(dt.date(2026, 10, 23), ZoneInfo("Europe/Berlin"))  # a Friday, and clocks go back on the Sunday
FLOOR = ShopCapacity(hours_of(Week(), WALL), 2, {"saw": 1, "chamber": 2, "clamps": 20, "frame": 4}, 9.5 * HOUR)
WORKS = works_of(glue(), steam(), pieces=3)
TABLE = timetable(WORKS, FLOOR)


def _look(jobs=(1, 2), days=8, chosen=""):
    return ScheduleLanes(TABLE, {w.job: w for w in WORKS}, WALL, FLOOR, jobs, WALL.first, days, chosen)


def test_a_place_is_a_time_and_back():
    axis = Axis(WALL, FLOOR, WALL.first, 8)
    for hours in (0, 5, 8.25, 12.5, 17, 23, 24 + 9, 48 + 20, 73 + 8.1, 73 + 15.9):
        assert axis.at(axis.x(hours * HOUR)) == pytest.approx(hours * HOUR, abs=1)
    working, night = axis.x(17 * HOUR) - axis.x(8 * HOUR), axis.x(DAY) - axis.x(17 * HOUR)
    assert night == pytest.approx(0.15 * working) and axis.off == [False, True, True] + [False] * 5
    assert axis.at(-50) == 0 and axis.at(5000) == WALL.of(WALL.first + dt.timedelta(days=8))


def test_bars_lie_where_they_happen():
    svg, axis = days_svg(_look()), Axis(WALL, FLOOR, WALL.first, 8)
    for d in TABLE.doings:
        if d.operation.attended_s.likely and d.from_s < 8 * DAY:
            assert f'x="{axis.x(d.from_s):.3f}'.rstrip("0").rstrip(".") in svg, d.name
    now = re.search(r'<line x1="([\d.]+)"[^>]*class="days-now"', svg).group(1)
    assert axis.at(float(now)) == pytest.approx(9.5 * HOUR, abs=5)
    assert svg.count('class="days-off"') == 2 and "now, 09:30" in svg
    cure = next(d for d in TABLE.doings if d.operation.key == "cure")
    wide = axis.x(cure.to_s) - axis.x(cure.hands_to_s)
    assert re.search(rf'class="by-itself" x="{axis.x(cure.hands_to_s):.3f}"[^>]*width="{wide:.3f}"', svg)


def test_what_is_chosen_and_what_is_taken():
    assert days_svg(_look(chosen="1.mix.1")).count("days-chosen") == 1
    svg = things_svg(_look(jobs=(2,)))
    for lane in ("people", "clamps", "form 1", "strap 1", "place in the steam box 1", "drying jig 1"):
        assert f">{lane}<" in svg, lane
    assert "10 of 20 clamps" in svg and "2 of 2 people" in svg
