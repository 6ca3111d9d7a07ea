"""The shop's week: when there is work, how many people, and what there is only so much of."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import AfterValidator, Field

from ..common.document import Document
from ..common.errors import PlanError

WeekDay = Literal["mon", "tue", "wed", "thu", "fri", "sat", "sun"]
DAYS: dict[WeekDay, str] = {
    "mon": "Monday",
    "tue": "Tuesday",
    "wed": "Wednesday",
    "thu": "Thursday",
    "fri": "Friday",
    "sat": "Saturday",
    "sun": "Sunday",
}
MONTHS = (31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31)


def real_day(text: str) -> str:
    """A day of the calendar. Raises: ValueError.

    >>> real_day("2028-02-29")
    '2028-02-29'
    """
    year, month, day = (int(p) for p in text.split("-"))
    leap = month == 2 and year % 4 == 0 and (year % 100 != 0 or year % 400 == 0)
    if not 1 <= month <= 12 or not 1 <= day <= MONTHS[month - 1] + leap or not 1970 <= year <= 2200:
        raise ValueError("There is no such day. Enter a date such as 2026-11-30.")
    return text


Day = Annotated[str, Field(pattern=r"^\d{4}-\d{2}-\d{2}$"), AfterValidator(real_day)]
Time = Annotated[str, Field(pattern=r"^([01]\d|2[0-3]):[0-5]\d$")]


def minutes(time: str) -> int:
    """Minutes from midnight of a time of day.

    >>> minutes("08:30")
    510
    """
    return int(time[:2]) * 60 + int(time[3:])


class Week(Document):
    """Working days and hours, people, days off, and of what there is only so much.

    break_from_time, break_to_time: when nobody works, none for no break; covered: somebody stays in the shop through
    it. places: loads that lie in the chamber at once. begins: the day a week begins with. zone: name of the time zone,
    empty for the computer's own.
    """

    working: tuple[WeekDay, ...] = Field(default=("mon", "tue", "wed", "thu", "fri"), max_length=7, strict=False)
    from_time: Time = "08:00"
    to_time: Time = "17:00"
    break_from_time: Time | None = "12:00"
    break_to_time: Time | None = "13:00"
    covered: bool = True
    people: int = Field(default=2, ge=1, le=20)
    days_off: tuple[Day, ...] = Field(default=(), max_length=200, strict=False)
    places: int = Field(default=2, ge=1, le=50, description="batches in the steam box at once")
    frames: int = Field(default=10, ge=0, le=500, description="drying jigs")
    bags: int = Field(default=1, ge=0, le=50)
    begins: Literal["mon", "sun"] = "mon"
    zone: str = Field(default="", max_length=60)


def week_fits(week: Week) -> None:
    """Raises: PlanError where times are not in their order, half a break is given, or nobody ever works."""
    if not week.working:
        raise PlanError("week.working", "Choose a day on which somebody works.")
    if minutes(week.to_time) <= minutes(week.from_time):
        raise PlanError("week.to_time", "Work ends after it begins.")
    begin, end = week.break_from_time, week.break_to_time
    if begin is None or end is None:
        if begin != end:
            missing = "break_from_time" if begin is None else "break_to_time"
            raise PlanError(f"week.{missing}", "A break needs a start and an end, or neither.")
        return
    if minutes(end) <= minutes(begin):
        raise PlanError("week.break_to_time", "A break ends after it begins.")
    if minutes(begin) <= minutes(week.from_time) or minutes(end) >= minutes(week.to_time):
        raise PlanError("week.break_from_time", "A break must be inside the working hours.")
