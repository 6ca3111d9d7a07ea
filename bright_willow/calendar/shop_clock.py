"""The clock on the wall of the shop: seconds from a beginning as dates and hours, clock changes and all."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass
from functools import lru_cache
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError, available_timezones

import tzlocal

from ..core.common.units import Unit
from ..core.scheduling.working_hours import Hours, TimeRanges
from ..core.shop.week import DAYS, Week, minutes
from .time_format import format_day, format_time

AHEAD_DAYS, FARTHEST_DAYS = 500, 4_000  # how far the shop's hours are laid out; where so much is to do, at most
KEYS = tuple(DAYS)


@lru_cache(maxsize=1)
def zone_names() -> tuple[str, ...]:
    """Every time zone that can be chosen, by name."""
    return tuple(sorted(z for z in available_timezones() if "/" in z and not z.startswith(("Etc/", "posix", "right"))))


def zone_of(week: Week) -> ZoneInfo:
    """The shop's time zone, the computer's own where none is chosen; UTC where that has no name."""
    for name in (week.zone, tzlocal.get_localzone_name() or "", "UTC"):
        try:
            if name:
                return ZoneInfo(name)
        except (ZoneInfoNotFoundError, ValueError):
            continue
    return ZoneInfo("UTC")


def day_in_shop(now: dt.datetime, week: Week) -> dt.date:
    """Return the day it is in the shop, by its own time zone. now: with its zone.

    >>> day_in_shop(dt.datetime(2026, 11, 30, 3, tzinfo=dt.UTC), Week(zone="America/New_York")).day
    29
    """
    return now.astimezone(zone_of(week)).date()


@dataclass(frozen=True)
class ShopClock:
    """Time from midnight at the beginning of a first day, in the shop's zone. Seconds are real ones: a day has 23, 24
    or 25 hours of them. unit: of lengths, by which times and dates are written."""

    first: dt.date
    zone: ZoneInfo
    unit: Unit = "mm"

    @property
    def _epoch(self) -> float:
        return dt.datetime.combine(self.first, dt.time(), self.zone).timestamp()

    def seconds(self, at: dt.datetime) -> float:
        """Seconds to a moment; one without a zone is by the clock on the wall (the first of two at the change back)."""
        return (at if at.tzinfo else at.replace(tzinfo=self.zone)).timestamp() - self._epoch

    def of(self, day: dt.date, past: int = 0) -> float:
        """Seconds to so many minutes past the midnight a day begins with, by the clock; 1440 is the next midnight."""
        day, past = day + dt.timedelta(days=past // 1440), past % 1440
        return self.seconds(dt.datetime.combine(day, dt.time(past // 60, past % 60)))

    def moment(self, text: str) -> float:
        """Seconds to a time written as 2026-11-30T08:30. Raises: ValueError."""
        return self.seconds(dt.datetime.fromisoformat(text))

    def at(self, seconds: float) -> dt.datetime:
        """The moment so many seconds on, with its zone, to the second."""
        return dt.datetime.fromtimestamp(round(self._epoch + seconds), self.zone)

    def time(self, seconds: float) -> str:
        """A time of day, as the shop writes it."""
        return format_time(self.at(seconds), self.unit)

    def day(self, day: dt.date, weekday: str = "%a") -> str:
        """A date with its weekday, as the shop writes it."""
        return format_day(day, self.unit, weekday=weekday)

    def written(self, seconds: float) -> str:
        """A moment to the minute, as it is kept.

        >>> ShopClock(dt.date(2026, 11, 23), ZoneInfo("UTC")).written(30_600)
        '2026-11-23T08:30'
        """
        return self.at(seconds).replace(tzinfo=None).isoformat(timespec="minutes")


@lru_cache(maxsize=8)
def hours_of(week: Week, wall: ShopClock, days: int = AHEAD_DAYS) -> Hours:
    """The shop's hours from the first day on, for so many days: with hands, and with somebody there."""
    off = set(week.days_off)
    hands, present = list[tuple[float, float]](), list[tuple[float, float]]()
    for n in range(days):
        day = wall.first + dt.timedelta(days=n)
        if KEYS[day.weekday()] not in week.working or day.isoformat() in off:
            continue
        whole = (wall.of(day, minutes(week.from_time)), wall.of(day, minutes(week.to_time)))
        parts = [whole]
        if week.break_from_time and week.break_to_time:
            pause = (wall.of(day, minutes(week.break_from_time)), wall.of(day, minutes(week.break_to_time)))
            parts = [(whole[0], pause[0]), (pause[1], whole[1])]
        parts = [(a, b) for a, b in parts if b > a]
        hands += parts
        present += [whole] if week.covered and whole[1] > whole[0] else parts
    return Hours(_stretches(hands), _stretches(present))


def _stretches(spans: list[tuple[float, float]]) -> TimeRanges:
    return TimeRanges(tuple(a for a, _ in spans), tuple(b for _, b in spans))


def week_of(day: dt.date, week: Week) -> dt.date:
    """The first day of the week a day lies in."""
    return day - dt.timedelta(days=(day.weekday() - KEYS.index(week.begins)) % 7)
