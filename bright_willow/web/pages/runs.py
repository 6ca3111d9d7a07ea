"""Runs at the bench: started, looked at, tapped, streamed to every page that looks on."""

from __future__ import annotations

import asyncio
import json
import re
import secrets
import zlib
from collections.abc import AsyncIterator
from contextlib import suppress
from dataclasses import replace
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Path, Query, Request
from fastapi.responses import HTMLResponse, JSONResponse, Response
from pydantic import BaseModel, ConfigDict, Field, ValidationError
from sse_starlette.sse import EventSourceResponse

from ...calendar.shop_clock import zone_of
from ...core.common.errors import PlanError
from ...core.execution.events import Event
from ...core.execution.run_clock import FASTEST
from ...core.execution.run_records import own_times
from ...core.job.faults import JobFaulty
from ...core.plan.read_job import read_job
from ...drawing.picture_files import LONGEST_PX
from ...services.bench_runs import (
    RunNotifier,
    RunNow,
    apply_run_effects,
    clock_now,
    planned_for,
    run_now,
    taken_by_others,
    woken,
)
from ...services.run_results import as_json
from ...store.records import NotKept
from ...store.repositories.runs import MOST_CLOSING, MOST_EVENTS
from ...store.store import Store
from ..common import (
    Id,
    go_to,
    now_of,
    page,
    planned,
    store_of,
    typed_in,
    wants_parts,
)
from ..forms.typed import put_at
from ..photo_upload import made_small, sent_picture
from ..render import render
from ..run_view import run_view

router = APIRouter(include_in_schema=False)
Rate = Annotated[float, Query(ge=0, le=FASTEST)]
RunKind = Literal["run", "rehearsal", "game"]
TAPS = ("begin", "done", "not", "back", "note", "count", "broke", "move", "again", "handle", "probe", "end", "open")
MOST_AT_ONCE = 500
NAMES = re.compile(r'value="[0-9a-f]{16}"')  # of events a button will make: new each time it is drawn
LOOK_S, BEAT_S = 0.2, 5.0
MOST_PHOTOS = 200


class EventLine(BaseModel):
    """One event as a page tells it."""

    model_config = ConfigDict(extra="ignore", allow_inf_nan=False)
    client: str = Field(min_length=4, max_length=64, pattern=r"^[A-Za-z0-9_.-]+$")
    kind: str
    at_s: float | None = None
    key: str = Field(default="", max_length=40)
    number: int = Field(default=-1, ge=-1, le=100_000)
    text: str = Field(default="", max_length=1_000)
    where: str = Field(default="", max_length=80)
    value: float = Field(default=0.0, ge=-1e6, le=1e6)
    of: str = Field(default="", max_length=80)


class EventList(BaseModel):
    """Events in the order they happened."""

    events: list[EventLine] = Field(max_length=MOST_AT_ONCE)


def hub_of(request: Request) -> RunNotifier:
    """What tells pages that something changed."""
    hub: RunNotifier = request.app.state.hub
    return hub


def wall_s(request: Request) -> float:
    """The time, seconds since 1970, by the application's clock."""
    return now_of(request).timestamp()


def run_at(request: Request, run_id: int) -> RunNow:
    """A run as it stands. Needs a connection."""
    return run_now(store_of(request), request.app.state.gatherer, run_id, wall_s(request))


# -- starting ----------------------------------------------------------------------------------------------------------
@router.post("/jobs/{job_id}/bench/start")
def start(request: Request, job_id: Id, kind: RunKind) -> Response:
    """A run of a job, a rehearsal or a game; where one is under way already, that."""
    store = store_of(request)
    with store.connected():
        known = store.runs.open_of_job(job_id) if kind == "run" else None
        if known:
            return go_to(f"/runs/{known.id}")
        try:
            revision, brief = planned_for(store, job_id, kind, wall_s(request))
        except PlanError:
            return go_to(f"/jobs/{job_id}/bench")
        if kind == "rehearsal" and not any(o.moves for o in brief.operations):
            return go_to(f"/jobs/{job_id}/bench")
        if kind == "run" and not store.jobs.get(job_id).job.days.in_week:
            job = store.jobs.get(job_id).job
            made = job.model_copy(update={"days": job.days.model_copy(update={"in_week": True})})
            store.jobs.save(job_id, made, "started at the bench, so on the shop's schedule")
            revision = store.jobs.get(job_id).revision
        run_id = store.runs.start(job_id, kind, revision, brief)
    return go_to(f"/runs/{run_id}")


@router.post("/runs/{run_id}/go-over")
def go_over(request: Request, run_id: Id) -> Response:
    """From now on by the job as it stands now; what happened stays."""
    store = store_of(request)
    with store.connected():
        now = run_at(request, run_id)
        if now.run.kind == "trial":  # its pieces were laid out with it
            return go_to(f"/runs/{run_id}")
        try:
            revision, brief = planned_for(store, now.run.job_id, now.run.kind, now.brief.started_s)
        except PlanError:
            return go_to(f"/runs/{run_id}")
        store.runs.change_plan(run_id, revision, replace(brief, before=now.brief.before))
        event = Event(now.now_s, "plan", secrets.token_hex(8), wall_s=wall_s(request))
        store.runs.add_events(run_id, [event])
    hub_of(request).changed(run_id)
    return go_to(f"/runs/{run_id}")


# -- looking -----------------------------------------------------------------------------------------------------------
def _view(request: Request, run_id: int, known: RunNow | None = None) -> tuple[RunNow, dict[str, Any]]:
    """known: the run as it stands, where that was worked out just now; a game is looked at anew."""
    store = store_of(request)
    with store.connected():
        if known is None or known.run.kind == "game":
            if woken(store, store.runs.get(run_id), wall_s(request)):
                hub_of(request).changed(run_id)
            known = run_at(request, run_id)
        now, shop = known, store.shop_settings.get()
        view = run_view(now, shop, zone_of(shop.week))
        view["shared"] = taken_by_others(store, run_id, now.brief) if now.run.kind in ("run", "trial") else ""
        view["photos"] = store.runs.photos(run_id)
        view["unit"] = shop.units
    return now, view


@router.get("/runs/{run_id}")
async def show_run(request: Request, run_id: Id, kept: int = 0) -> Response:
    now, view = await planned(request, _view, request, run_id)
    return page("run.html", request, here="bench", base_s=now.now_s, kept=bool(kept), **view)


@router.get("/runs/{run_id}/now")
async def show_now(request: Request, run_id: Id) -> Response:
    """The changing part of a run's page, with the time it is of."""
    return JSONResponse(await planned(request, _answer, request, run_id))


def _answer(request: Request, run_id: int, seen: str = "", known: RunNow | None = None) -> dict[str, Any]:
    """What a page puts in place: the time and its speed, and the part where it differs from what was seen."""
    now, view = _view(request, run_id, known)
    html = render("parts/run_now.html", **view)
    mark = _mark(html)
    made: dict[str, Any] = {"at": now.now_s, "rate": now.rate, "mark": mark}
    return made if mark == seen else made | {"html": html}


def _mark(html: str) -> str:
    """The same for two parts that say the same, whatever their buttons' events will be called."""
    return str(zlib.crc32(NAMES.sub("", html).encode()))


@router.get("/runs/{run_id}/state")
def show_state(request: Request, run_id: Id) -> Response:
    """Where a run stands, for programs."""
    with store_of(request).connected():
        return JSONResponse(as_json(run_at(request, run_id)))


@router.get("/runs/{run_id}/stream")
async def stream(request: Request, run_id: Id) -> Response:
    """The changing part, sent whenever it changes, for as long as the page looks on."""
    first = await planned(request, _answer, request, run_id)
    return EventSourceResponse(_sent(request, run_id, first), ping=15)


async def _sent(request: Request, run_id: int, first: dict[str, Any]) -> AsyncIterator[dict[str, str]]:
    hub, gatherer = hub_of(request), request.app.state.gatherer
    loop = asyncio.get_running_loop()
    seen, counts, answer, sent = first["mark"], (hub.count(run_id), gatherer.count), first, loop.time()
    yield {"event": "now", "data": json.dumps(first)}
    while not hub.is_closing and not await request.is_disconnected():
        await asyncio.sleep(LOOK_S)
        new = (hub.count(run_id), gatherer.count)
        waited = loop.time() - sent
        if new[0] == counts[0] and waited < (1.0 if new[1] != counts[1] or answer["rate"] > 1 else BEAT_S):
            continue
        counts, sent = new, loop.time()
        if not await planned(request, request.scope.get("is_still_in", lambda: True)):
            return  # sent away meanwhile, or the session is over
        answer = await planned(request, _answer, request, run_id, seen)
        seen = answer["mark"]
        yield {"event": "now", "data": json.dumps(answer)}


# -- tapping -----------------------------------------------------------------------------------------------------------
@router.post("/runs/{run_id}/events")
async def tapped(request: Request, run_id: Id) -> Response:
    """What happened, told by a page: on the disk before the answer. The same event twice is one."""
    try:
        told = EventList.model_validate_json(await request.body())
    except ValidationError:
        message = "That is not a list of bench events."
        return JSONResponse({"faults": [{"field": "events", "says": message}]}, 422)
    if unknown := next((e.kind for e in told.events if e.kind not in TAPS), ""):
        message = f"“{unknown[:40]}” is not a bench event."
        return JSONResponse({"faults": [{"field": "events", "says": message}]}, 422)
    seen = request.query_params.get("seen", "")[:40]
    try:
        return JSONResponse(await planned(request, _tapped, request, run_id, told.events, seen))
    except PlanError as error:
        return JSONResponse({"faults": [{"field": "events", "says": str(error)}]}, 422)


def _tapped(request: Request, run_id: int, taps: list[EventLine], seen: str = "") -> dict[str, Any]:
    store, who = store_of(request), request.scope.get("guest", "")
    with store.connected():
        now = add_events(request, store, run_id, taps, who)
    return {"taken": [t.client for t in taps]} | _answer(request, run_id, seen, now)


def add_events(request: Request, store: Store, run_id: int, taps: list[EventLine], who: str) -> RunNow:
    """Write events down; then what rests on them. Returns the run as it then stands. Raises: NotFound, NotKept,
    PlanError: nothing of them is written then."""
    closes = all(t.kind in ("end", "open") for t in taps)  # a full run can still be put away, and opened again
    most = MOST_EVENTS + MOST_CLOSING if closes else MOST_EVENTS
    if store.runs.event_count(run_id) + store.runs.count_new(run_id, [t.client for t in taps]) > most:
        raise PlanError("events", f"A run holds {MOST_EVENTS:,} taps; archive it and start another.")
    wall = wall_s(request)
    at_s = clock_now(store, store.runs.get(run_id), wall)
    made = [
        Event(
            at_s if t.at_s is None else t.at_s,
            t.kind,
            t.client,
            t.key,
            t.number,
            t.text.strip(),
            t.where,
            t.value,
            t.of,
            who,
            wall,
        )
        for t in taps
    ]
    store.runs.add_events(run_id, made)
    now = run_at(request, run_id)
    with suppress(NotKept):  # what happened is kept; the days follow with the next tap
        apply_run_effects(store, now)
    hub_of(request).changed(run_id)
    return now


def told_at_bench(request: Request, run_id: int, kind: str, key: str, number: int, at_s: float | None = None) -> None:
    """Something another page says was begun or done. Needs a connection. Raises: NotFound, NotKept."""
    tap = EventLine(client=secrets.token_hex(8), kind=kind, key=key, number=max(-1, number), at_s=at_s)
    add_events(request, store_of(request), run_id, [tap], "the days")


@router.post("/runs/{run_id}/tap")
async def tap(request: Request, run_id: Id) -> Response:
    """One event from a page without its script."""
    typed = await typed_in(request)
    try:
        one = EventLine.model_validate({k: v for k, v in typed.items() if v != "" and k in EventLine.model_fields})
        if one.kind not in TAPS:
            raise ValueError(one.kind)
    except ValueError:
        return go_to(f"/runs/{run_id}")
    with suppress(PlanError):  # the run is full: its page says so
        await planned(request, _tapped, request, run_id, [one])
    return go_to(f"/runs/{run_id}")


@router.post("/runs/{run_id}/pace")
async def pace(request: Request, run_id: Id, rate: Rate = 1.0, on: int = 0) -> Response:
    """How fast a game goes; on: straight to what is next."""
    answer = await planned(request, _pace, request, run_id, rate, bool(on))
    return JSONResponse(answer) if wants_parts(request) else go_to(f"/runs/{run_id}")


def _pace(request: Request, run_id: int, rate: float, on: bool) -> dict[str, Any]:
    store = store_of(request)
    with store.connected():
        now = run_at(request, run_id)
        if now.run.kind == "game" and now.run.ended is None:
            at, rate = now.now_s, now.rate if on else rate
            if on and now.live and now.live.changes_s is not None and (now.played is None or not now.played.waiting):
                at = max(at, now.live.changes_s)
            event = Event(at, "speed", secrets.token_hex(8), value=rate, wall_s=wall_s(request))
            store.runs.add_events(run_id, [event])
            store.runs.mark_watched(run_id, wall_s(request))
    hub_of(request).changed(run_id)
    return _answer(request, run_id)


@router.post("/runs/{run_id}/keep-times")
def keep_times(request: Request, run_id: Id) -> Response:
    """What the takes of a rehearsal came to becomes the job's and the shop's own figures."""
    store = store_of(request)
    with store.connected():
        now = run_at(request, run_id)
        own = own_times([m for _, m in now.moves], now.takes)
        times = {n.removeprefix("times."): v for n, v in own.items() if n.startswith("times.")}
        if times:
            shop = store.shop_settings.get()
            kept = [t.model_dump() for t in shop.times if t.key not in times]
            rows = [*kept, *({"key": k, "seconds": v} for k, v in times.items())]
            store.shop_settings.save(type(shop).model_validate(shop.model_dump() | {"times": rows}))
        data = store.jobs.get(now.run.job_id).job.model_dump()
        for name, value in own.items():
            if not name.startswith("times."):
                put_at(data, name, value)
        try:
            store.jobs.save(
                now.run.job_id, read_job(data, woods=store.shop_settings.get().woods), "used the dry-run times"
            )
        except JobFaulty:
            return go_to(f"/runs/{run_id}")
    return go_to(f"/runs/{run_id}?kept=1")


# -- pictures ----------------------------------------------------------------------------------------------------------
@router.post("/runs/{run_id}/photo")
async def photo(request: Request, run_id: Id, client: str = "", piece: int = -1) -> Response:
    """A picture from the tablet's camera: made small, turned upright, with nothing of where it was taken."""
    try:
        small, _ = await made_small(request, (await sent_picture(request))[0], LONGEST_PX)
    except PlanError as error:
        if wants_parts(request):
            return JSONResponse({"faults": [{"field": "photo", "says": str(error)}]}, 422)
        return HTMLResponse(
            render("message.html", title="Not saved", message=str(error), raw="", unit="mm", here=""), 422
        )
    name = client if 4 <= len(client) <= 64 and client.replace("-", "").isalnum() else secrets.token_hex(8)
    answer = await planned(request, _photo, request, run_id, name, max(-1, min(piece, 100_000)), small)
    return JSONResponse(answer) if wants_parts(request) else go_to(f"/runs/{run_id}")


def _photo(request: Request, run_id: int, client: str, piece: int, body: bytes) -> dict[str, Any]:
    store = store_of(request)
    with store.connected():
        if len(store.runs.photos(run_id)) >= MOST_PHOTOS:
            return _answer(request, run_id)
        now = run_at(request, run_id)
        store.runs.add_photo(run_id, client, piece, now.now_s, body)
        tap = EventLine(client=client, kind="note", text="photo", number=piece, of=client)
        event = Event(now.now_s, "photo", tap.client, "", piece, "", of=client, wall_s=wall_s(request))
        store.runs.add_events(run_id, [event])
    hub_of(request).changed(run_id)
    return _answer(request, run_id)


@router.get("/runs/{run_id}/photo/{client}")
def show_photo(request: Request, run_id: Id, client: Annotated[str, Path(max_length=64)]) -> Response:
    with store_of(request).connected():
        body = store_of(request).runs.photo(run_id, client)
    return Response(body, media_type="image/jpeg")
