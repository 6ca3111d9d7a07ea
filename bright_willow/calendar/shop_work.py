"""A job's plan, and what is pinned and done of it, as work on the floor; the shop as its floor."""

from __future__ import annotations

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass

from ..core.common.operation import Batches, Operation
from ..core.job.job import Job
from ..core.scheduling.job_tasks import OF_THE_JOB, CompletedTask, JobTasks, PinnedStart, ShopCapacity
from ..core.shop.shop import Shop
from .shop_clock import AHEAD_DAYS, ShopClock, day_in_shop, hours_of, zone_of

BACK_DAYS = 60  # how far the days are looked back


@dataclass(frozen=True)
class DoneAt:
    """An operation of a piece or load that was begun, and when it ended: UTC; None while it is under way."""

    key: str
    number: int
    from_at: dt.datetime
    to_at: dt.datetime | None


@dataclass(frozen=True)
class PlannedWork:
    """What the days need of a job's plan."""

    job_id: int
    job: Job
    operations: tuple[Operation, ...]
    batches: Batches


def wall_of(shop: Shop, now: dt.datetime, done: Sequence[DoneAt] = ()) -> ShopClock:
    """The clock of a shop, from the day of the first thing done or today. now: with its zone.

    What was done longer ago than is looked back lies before its beginning, at seconds below 0.
    """
    zone = zone_of(shop.week)
    today = day_in_shop(now, shop.week)
    began = [d.from_at.replace(tzinfo=dt.UTC).astimezone(zone).date() for d in done]
    return ShopClock(max(today - dt.timedelta(days=BACK_DAYS), min([today, *began])), zone, shop.units)


def work_of(planned: PlannedWork, done: Sequence[DoneAt], wall: ShopClock) -> JobTasks:
    """The work of one job."""
    days, batches = planned.job.days, planned.batches
    began = dt.date.fromisoformat(days.begin_day) if days.begin_day else None
    due = dt.date.fromisoformat(days.due_day) if days.due_day else None

    def utc(at: dt.datetime) -> float:
        return wall.seconds(at.replace(tzinfo=dt.UTC))

    return JobTasks(
        planned.job_id,
        planned.job.name,
        planned.operations,
        batches,
        dict.fromkeys(OF_THE_JOB, batches.forms),
        wall.of(began) if began else 0.0,
        wall.of(due, 1440) if due else None,
        tuple(PinnedStart(p.key, p.number, wall.moment(p.at)) for p in days.pins if _is_day(p.at)),
        tuple(CompletedTask(d.key, d.number, utc(d.from_at), utc(d.to_at) if d.to_at else None) for d in done),
    )


def _is_day(text: str) -> bool:
    try:
        dt.datetime.fromisoformat(text)
    except ValueError:
        return False
    return True


def floor_of(shop: Shop, wall: ShopClock, now: dt.datetime, days: int = AHEAD_DAYS) -> ShopCapacity:
    """The floor of a shop: its hours for so many days, its people and what it owns. now: with its zone; taken to the
    minute."""
    week = shop.week
    begun = now.replace(second=0, microsecond=0)
    return ShopCapacity(hours_of(week, wall, days), week.people, shop.owned, max(0.0, wall.seconds(begun)))
