"""Dates and times of day as a reader writes them: 14:30 and 30 Nov, or 2:30 PM and Nov 30."""

from __future__ import annotations

import datetime as dt

from ..core.common.units import Unit


def format_time(at: dt.datetime, unit: Unit, *, with_s: bool = False) -> str:
    """Return a time of day, by the 24-hour clock, or by 12 hours where lengths are in inches.

    >>> format_time(dt.datetime(2026, 11, 30, 14, 5), "mm"), format_time(dt.datetime(2026, 11, 30, 0, 5), "in")
    ('14:05', '12:05 AM')
    """
    seconds = f":{at:%S}" if with_s else ""
    if unit == "in":
        return f"{at.hour % 12 or 12}:{at:%M}{seconds} {'AM' if at.hour < 12 else 'PM'}"
    return f"{at:%H:%M}{seconds}"


def format_day(day: dt.date, unit: Unit, *, weekday: str = "", month: str = "%b", year: bool = False) -> str:
    """Return a date, the month first where lengths are in inches. weekday, month: as strftime writes them, or left out.

    >>> day = dt.date(2026, 11, 30)
    >>> format_day(day, "mm", weekday="%a"), format_day(day, "in", weekday="%a", year=True)
    ('Mon 30 Nov', 'Mon, Nov 30, 2026')
    """
    name = day.strftime(weekday) if weekday else ""
    if unit == "in":
        date = f"{day.strftime(month)} {day.day}{f', {day.year}' if year else ''}"
        return f"{name}, {date}" if name else date
    return " ".join(x for x in (name, str(day.day), day.strftime(month), str(day.year) if year else "") if x)
