"""The days: pins, what is begun and done, the shop's days all together, and what is taken along of them."""

from __future__ import annotations

import datetime as dt
import json
from contextlib import suppress
from dataclasses import dataclass
from typing import Annotated, Any

from fastapi import APIRouter, Query, Request
from fastapi.responses import JSONResponse, Response

from ...calendar.ics import calendar_of, entries
from ...calendar.schedule_messages import day_of
from ...calendar.shop_clock import week_of
from ...calendar.shop_work import DoneAt
from ...core.common.errors import ENDLESS, PlanError
from ...core.job.faults import JobFaulty
from ...core.job.job import Job
from ...core.plan.read_job import read_job
from ...core.scheduling.implied_completions import implied_completions
from ...core.scheduling.job_tasks import ScheduledTask
from ...drawing.days_drawing import Axis, days_svg, things_svg
from ...drawing.days_sheet import day_pdf, week_pdf
from ...services.schedule import ScheduleInput, ShopDays, floor_now, shop_days
from ...store.records import NotKept
from ..bar_details import bar_of
from ..common import (
    Id,
    attachment,
    go_to,
    now_of,
    page,
    planned,
    show,
    store_of,
    typed_in,
    view_of,
    wants_parts,
)
from ..edits import base_of, changed_meanwhile, keep_joined
from ..stages.days import due_soon, lanes_of, listed, turn_of
from .runs import told_at_bench

router = APIRouter(include_in_schema=False)
NO_HANDLE = {"faults": [{"field": "handle", "says": "There is no such handle."}]}
SNAP_S = 300.0
MOST_PINS = 200
FACT = "calendar"
ALL = "/days"  # the page of all jobs
Text = Annotated[str, Query(max_length=80)]
From = Annotated[str, Query(alias="from", max_length=10)]


# -- pins --------------------------------------------------------------------------------------------------------------
@dataclass(frozen=True)
class BarAddress:
    """The bar a page speaks of: its job, operation and piece."""

    job: int
    key: str
    number: int

    @classmethod
    def read(cls, text: str) -> BarAddress | None:
        """As drawings name it; none for anything else."""
        parts = text.split(".")
        if len(parts) != 3 or not parts[0].isdecimal() or not parts[2].removeprefix("-").isdecimal():
            return None
        return cls(int(parts[0][:18]), parts[1][:40], int(parts[2][:6]))

    def is_open(self, found: ScheduleInput) -> bool:
        """Whether there is such an operation, and nobody has begun it."""
        planned = found.planned.get(self.job)
        scope = next((o.scope for o in planned.operations if o.key == self.key), None) if planned else None
        if planned is None or scope is None:
            return False
        first = -1 if scope == "job" else 0
        if not first <= self.number < first + planned.batches.often(scope):
            return False
        return (self.key, self.number) not in {(d.key, d.number) for d in found.done.get(self.job, ())}

    def of(self, days: ShopDays) -> ScheduledTask | None:
        """What it is in the days."""
        return next((d for d in days.table.doings if d.name == (self.job, self.key, self.number)), None)


def pinned(job: Job, bar: BarAddress, at: str | None) -> Job:
    """The job with a bar pinned to a time by the shop's clock, or let go of."""
    pins = [p.model_dump() for p in job.days.pins if (p.key, p.number) != (bar.key, bar.number)]
    if at is not None:
        pins = [*pins, {"key": bar.key, "number": bar.number, "at": at}][-MOST_PINS:]
    return read_job({**job.model_dump(), "days": {**job.days.model_dump(), "pins": pins}})


def _dragged(found: ScheduleInput, bar: BarAddress, x: float, frame: str) -> str | None:
    """The time a bar is dragged to, to five minutes; none where it is not to be dragged."""
    try:
        day, _, count = frame.partition(" ")
        first, shown = dt.date.fromisoformat(day), int(count)
    except ValueError:
        return None
    if not bar.is_open(found) or not 1 <= shown <= 31 or not abs(x) < 1e6:
        return None
    seconds = max(0.0, round(Axis(found.wall, found.floor, first, shown).at(x) / SNAP_S) * SNAP_S)
    open_s = found.floor.hours.present.first(seconds, SNAP_S)  # at night there is nobody: the next morning
    return found.wall.written(open_s if open_s < ENDLESS else seconds)


@router.post("/jobs/{job_id}/days/pull")
async def pull(
    request: Request, job_id: Id, handle: Text, x: float, y: float, frame: Text = "", keep: int = 0
) -> Response:
    """A bar dragged along its days; pinned where it is let go."""
    return await planned(request, _pull, request, job_id, handle, x, frame, bool(keep))


def _pull(request: Request, job_id: int, handle: str, x: float, frame: str, keep: bool) -> Response:
    bar = BarAddress.read(handle.removeprefix("bar-"))
    store = store_of(request)
    with store.connected():
        base = base_of(request, job_id)
        found = floor_now(store, now_of(request), also=(job_id, base.job))
        at = _dragged(found, bar, x, frame) if bar and bar.job == job_id else None
        if bar is None or at is None:
            return JSONResponse(NO_HANDLE, 422)
        more = {"bar": bar_name_of(bar), "from_day": frame[:10], "shown": int(frame.split()[1])}
        try:
            made = pinned(base.job, bar, at)
            if keep:
                return keep_joined(request, base, made, "locked a start", "days", parts=True, **more)
        except JobFaulty:
            return changed_meanwhile(request, base, "days") if keep else Response(status_code=204)
        return show(request, view_of(request, job_id, "days", job=made, passing=True, **more), parts=True)


def bar_name_of(bar: BarAddress) -> str:
    """As drawings name it."""
    return f"{bar.job}.{bar.key}.{bar.number}"


@router.post("/jobs/{job_id}/days/pin")
async def pin(request: Request, job_id: Id, bar: Text) -> Response:
    """A start pinned to the time that is typed, or let go of."""
    return await planned(request, _pin, request, job_id, bar, await typed_in(request))


def _pin(request: Request, job_id: int, name: str, typed: dict[str, str]) -> Response:
    bar = BarAddress.read(name)
    if bar is None or bar.job != job_id:
        return JSONResponse(NO_HANDLE, 422)
    with store_of(request).connected():
        base = base_of(request, job_id)
        try:
            at = None if typed.get("do") == "let_go" else read_moment(typed.get("at", ""))
            made = pinned(base.job, bar, at)
        except (ValueError, JobFaulty):
            message = "Enter a day and a time."
            return show(request, view_of(request, job_id, "days", bar=name, bar_fault=message), 422)
        what = "unlocked a start" if at is None else "locked a start"
        if typed.get("back") == ALL:
            store_of(request).jobs.save(job_id, made, what)
            return go_to(f"{ALL}?bar={name}")
        return keep_joined(request, base, made, what, "days", bar=name)


def read_moment(text: str) -> str:
    """A time as an input has it, to the minute. Raises: ValueError."""
    at = dt.datetime.fromisoformat(text.strip())
    if not 1970 <= at.year <= 2200 or at.tzinfo:
        raise ValueError("no such time")
    return at.isoformat(timespec="minutes")


# -- what is done ------------------------------------------------------------------------------------------------------
@router.post("/jobs/{job_id}/days/done")
async def done(request: Request, job_id: Id, bar: Text) -> Response:
    """Something has begun, is done, or was not after all."""
    return await planned(request, _done, request, job_id, bar, await typed_in(request))


def _done(request: Request, job_id: int, name: str, typed: dict[str, str]) -> Response:
    bar, do, store = BarAddress.read(name), typed.get("do", ""), store_of(request)
    if bar is None or bar.job != job_id or do not in ("begun", "done", "back"):
        return JSONResponse(NO_HANDLE, 422)
    with store.connected():
        job = store.jobs.get(job_id).job
        days = shop_days(store, now_of(request), also=(job_id, job))
        doing = bar.of(days)
        run = store.runs.open_of_job(job_id)
        if do == "back":
            try:
                if run:
                    told_at_bench(request, run.id, "not", bar.key, bar.number)
            except PlanError as full:
                return _again(request, job_id, name, str(full))
            store.progress.remove(job_id, bar.key, bar.number)
            return _again(request, job_id, name, back=typed.get("back", ""))
        if doing is None:
            return JSONResponse(NO_HANDLE, 422)
        try:
            at = days.wall.moment(read_moment(typed.get("at", ""))) if typed.get("at") else days.now_s
        except ValueError:
            return _again(request, job_id, name, "Enter a day and a time.")
        if at > days.now_s + 60:
            return _again(request, job_id, name, "That is in the future: enter a time up to now.")
        if run:  # the bench is told, and the days follow it
            at_s = days.wall.at(at).timestamp()
            try:
                told_at_bench(request, run.id, "done" if do == "done" else "begin", bar.key, bar.number, at_s)
            except PlanError as full:
                return _again(request, job_id, name, str(full))
        else:
            store.progress.add(job_id, _noted(days, doing, at, do))
        if not job.days.in_week:
            made = job.model_copy(update={"days": job.days.model_copy(update={"in_week": True})})
            store.jobs.save(job_id, made, "started, so on the shop's schedule")
        return _again(request, job_id, name, back=typed.get("back", ""))


def _again(request: Request, job_id: int, name: str, fault: str = "", back: str = "") -> Response:
    if back == ALL and not fault:
        return go_to(f"{ALL}?bar={name}")
    if not fault and not wants_parts(request):
        return go_to(f"/jobs/{job_id}/days?bar={name}")
    view = view_of(request, job_id, "days", bar=name, bar_fault=fault)
    return show(request, view, 422 if fault else 200)


def _noted(days: ShopDays, doing: ScheduledTask, at_s: float, do: str) -> list[DoneAt]:
    """What to write down, by the clock."""
    known = implied_completions(days.works[doing.job], doing, at_s, is_done=do == "done")
    return [
        DoneAt(d.key, d.number, _utc(days, d.from_s), _utc(days, d.to_s) if d.to_s is not None else None) for d in known
    ]


def _utc(days: ShopDays, seconds: float) -> dt.datetime:
    return days.wall.at(seconds).astimezone(dt.UTC).replace(tzinfo=None)


# -- the shop's days ---------------------------------------------------------------------------------------------------
@router.get("/days")
def shop(request: Request, bar: Text = "", from_: From = "") -> Response:
    """Every job of the shop's week together."""
    store = store_of(request)
    with store.connected():
        own = store.shop_settings.get()
        days = shop_days(store, now_of(request))
        names = store.jobs.names(set(days.works))
    return page("days.html", request, here="days", unit=own.rule, **_shop_view(days, bar, from_, own.week, names))


def _shop_view(
    days: ShopDays,
    bar: str,
    from_: str,
    week: Any,
    names: dict[int, str],
    shown: int = 0,
    passing: bool = False,
) -> dict[str, Any]:
    jobs = tuple(days.works)
    lanes = lanes_of(days, jobs, from_, bar, shown)
    asked = BarAddress.read(bar)
    doing = asked.of(days) if asked else None
    lasts = sorted(days.table.done_of.items(), key=lambda j: j[1])
    return {
        "days": days,
        "jobs": [_job_line(days, i, last) for i, last in lasts],
        "by_piece": days_svg(lanes) if jobs else "",
        "by_thing": things_svg(lanes) if jobs and not passing else "",
        "turn": turn_of(lanes),
        "bar": bar_of(days, doing) if doing else None,
        "bar_job": asked.job if doing and asked else 0,
        "lists": due_soon(days),
        "in_the_way": [(i, names.get(i, ""), f) for i, own in days.findings.items() for f in own],
        "week": week_of(lanes.first, week).isoformat(),
    }


def _job_line(days: ShopDays, job_id: int, last_s: float) -> dict[str, Any]:
    work = days.works[job_id]
    late = any(f.code == "days.late" for f in days.findings.get(job_id, ()))
    wanted = f"due {day_of(days.wall, work.due_s)}" if work.due_s is not None else ""
    return {
        "id": job_id,
        "name": work.name,
        "done": day_of(days.wall, last_s),
        "wanted": wanted,
        "late": late,
        "pieces": work.batches.pieces,
    }


@router.get("/days/week.pdf")
def week(request: Request, from_: From = "", paper: Text = "a4") -> Response:
    """The week on paper, day by day."""
    return _printed(request, from_, paper, 7)


@router.get("/days/day.pdf")
def day(request: Request, from_: From = "", paper: Text = "a4") -> Response:
    """One day, minute by minute: who loads what when."""
    return _printed(request, from_, paper, 1)


def _printed(request: Request, from_: str, paper: str, count: int) -> Response:
    store = store_of(request)
    with store.connected():
        own = store.shop_settings.get()
        jobs = {s.id for s in store.progress.in_week()}
        asked = request.query_params.get("job", "")
        also = None
        if asked.isascii() and asked.isdecimal() and int(asked[:18]) not in jobs:
            also = (int(asked[:18]), store.jobs.get(int(asked[:18])).job)
        days = shop_days(store, now_of(request), also=also)
    try:
        first = dt.date.fromisoformat(from_) if from_ else days.today
    except ValueError:
        first = days.today
    first = min(max(first, days.wall.first), days.today + dt.timedelta(days=500))
    if count == 7:
        first = week_of(first, own.week)
    last = first + dt.timedelta(days=count - 1)
    lists = listed(days, tuple(days.works), first, last, names=True)
    paper = paper if paper in ("a4", "letter") else "a4"
    if count == 1:
        body = day_pdf(own.name, days.table, days.works, days.wall, first, paper=paper, people=days.floor.people)
        name = f"day-{first}.pdf"
    else:
        body, name = week_pdf(own.name, lists, first, last, paper=paper, unit=own.units), f"week-{first}.pdf"
    return Response(body, media_type="application/pdf", headers=attachment(name))


@router.get("/days/calendar.ics")
def calendar(request: Request) -> Response:
    """The days as a calendar file; what changed since it was last taken is told as changed."""
    store = store_of(request)
    with store.connected():
        own, now = store.shop_settings.get(), now_of(request)
        days = shop_days(store, now)
        known = _known(store.fact(FACT))
        shop_id = store.progress.shop_id()
        listed_ = entries(days.table, days.works, shop_id)
        body, told = calendar_of(listed_, days.wall, now, known, f"{own.name}: bending")
        if told != known:
            with suppress(NotKept):  # it is told again next time
                store.note(FACT, json.dumps(told))
    return Response(body, media_type="text/calendar; charset=utf-8", headers=attachment("bending.ics"))


def _known(text: str) -> dict[str, list[object]]:
    try:
        read = json.loads(text or "{}")
    except ValueError:
        return {}
    return {k: v for k, v in read.items() if isinstance(v, list) and len(v) == 3} if isinstance(read, dict) else {}


@router.post("/days/pull")
async def pull_shop(request: Request, handle: Text, x: float, y: float, frame: Text = "", keep: int = 0) -> Response:
    """A bar of any job dragged on the page of all of them."""
    return await planned(request, _pull_shop, request, handle, x, frame, bool(keep))


def _pull_shop(request: Request, handle: str, x: float, frame: str, keep: bool) -> Response:
    bar, store = BarAddress.read(handle.removeprefix("bar-")), store_of(request)
    with store.connected():
        own = store.shop_settings.get()
        at = _dragged(floor_now(store, now_of(request)), bar, x, frame) if bar else None
        if bar is None or at is None:
            return JSONResponse(NO_HANDLE, 422)
        made = pinned(store.jobs.get(bar.job).job, bar, at)
        if keep:
            store.jobs.save(bar.job, made, "locked a start")
        days = shop_days(store, now_of(request), also=(bar.job, made), quick=not keep)
        names = store.jobs.names(set(days.works))
        shown = _shop_view(days, bar_name_of(bar), frame[:10], own.week, names, int(frame.split()[1]), passing=not keep)
    return page("parts/days_places.html", request, unit=own.rule, here="days", **shown)
