"""The bench of the whole shop: runs under way, probes and tablets; and the door that readings come in by."""

from __future__ import annotations

import json
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import JSONResponse, Response
from pydantic import TypeAdapter, ValidationError

from ...calendar.shop_clock import zone_of
from ...core.common.errors import PlanError
from ...core.execution.core_temperature import STALE_S
from ...core.execution.run_clock import said_s
from ...devices.port import KINDS, SensorReading
from ...devices.simulated_probes import FAULTS
from ...services.bench_runs import clock_text, reading_text, run_now
from ...services.readings import BufferFull
from ...store.records import NotFound, Unreadable
from ..common import (
    Id,
    go_to,
    page,
    planned,
    store_of,
    typed_in,
)
from ..forms.fields import Field
from ..forms.form_spec import FormSpec
from ..run_view import RUN_IS
from .runs import wall_s

router = APIRouter(include_in_schema=False)
api = APIRouter(prefix="/api", tags=["bench"])
READINGS: TypeAdapter[list[SensorReading]] = TypeAdapter(list[SensorReading])
MOST_PROBES, LONGEST_NAME = 60, 40
SENSOR_KINDS = tuple((k.key, f"{k.name}, {k.message}") for k in KINDS.values())
SENSOR_FORM = FormSpec(
    (
        Field("name", "Name", "text", "where it hangs: steam box, middle"),
        Field("kind", "Kind", "choice", choices=SENSOR_KINDS),
    ),
    prefix="probe",
)


@router.get("/bench")
async def show_bench(request: Request, ended: int = 0) -> Response:
    return await planned(request, _bench, request, 200, {}, {}, "", bool(ended))


def _bench(
    request: Request, status: int, typed: dict[str, str], faults: dict[str, str], key: str, ended: bool = False
) -> Response:
    store, gatherer = store_of(request), request.app.state.gatherer
    now = wall_s(request)
    with store.connected():
        shop = store.shop_settings.get()
        rows = [_run_line(request, run, now) for run in store.runs.find(is_open=not ended, most=50)]
        probes = []
        for p in store.probes.find():
            last = gatherer.last.get(p.id)
            kept = (last.at, last.value) if last and last.at else store.probes.last_reading(p.id)
            probes.append(
                {
                    "id": p.id,
                    "name": p.name,
                    "kind": KINDS[p.kind].name,
                    "reading": reading_text(p.kind, kept[1], shop.units) if kept else "nothing yet",
                    "age": f"{said_s(now - kept[0])} ago" if kept else "",
                    "is_live": bool(kept and now - kept[0] <= STALE_S),
                    "refused": f"{last.refused} refused: {last.refusal}" if last and last.refused else "",
                }
            )
        lan = request.app.state.lan
        zone = zone_of(shop.week)
    return page(
        "bench.html",
        request,
        status,
        here="bench",
        unit=shop.units,
        runs=[r for r in rows if r],
        ended=ended,
        probes=probes,
        sensor=list(
            SENSOR_FORM.inputs(shop.units, {"kind": next(iter(KINDS))}, typed if faults else {}, faults).values()
        ),
        faults_to_order=FAULTS,
        typed=typed,
        faults=faults,
        new_key=key,
        lan=lan.view(zone, shop.units) if lan else None,
        is_guest=bool(request.scope.get("guest")),
        address=str(request.base_url).rstrip("/"),
    )


def _run_line(request: Request, run: Any, now: float) -> dict[str, Any] | None:
    """A run in one line: what it is of, what it is at."""
    store = store_of(request)
    try:
        seen = run_now(store, request.app.state.gatherer, run.id, now)
    except Unreadable as error:
        return {"id": run.id, "name": str(error), "kind": "", "at": "", "message": "", "done": ""}
    live = seen.live
    message = "archive" if run.ended else "do a dry run"
    if live and not run.ended:
        first = live.next[0] if live.next else None
        message = f"{live.now.operation.name}, {live.now.whom or 'all pieces'}" if live.now else "all is done"
        if not live.now and first:
            message = f"until {clock_text(store, live.changes_s or first.from_s)}: {first.operation.name}"
    return {
        "id": run.id,
        "name": seen.name,
        "kind": RUN_IS[run.kind],
        "at": clock_text(store, seen.brief.started_s),
        "message": message,
        "done": f"{live.done} of {live.count}" if live else "",
    }


@router.post("/bench/guests/{guest_id}/out")
def put_out(request: Request, guest_id: Id) -> Response:
    """A tablet is sent away; it must join anew."""
    lan = request.app.state.lan
    if lan is None:
        raise NotFound("No such tablet has joined.")
    lan.access.put_out(guest_id)
    return go_to("/bench#tablets")


# -- probes ------------------------------------------------------------------------------------------------------------
@router.post("/probes")
async def add_probe(request: Request) -> Response:
    return await planned(request, _add_probe, request, await typed_in(request))


def _add_probe(request: Request, typed: dict[str, str]) -> Response:
    store, faults = store_of(request), dict[str, str]()
    name, kind = typed.get("name", "").strip(), typed.get("kind", "")
    with store.connected():
        known = store.probes.find()
        if not name or len(name) > LONGEST_NAME:
            faults["name"] = f"Enter a name of up to {LONGEST_NAME} letters: where it hangs, or whose it is."
        elif any(p.name == name for p in known):
            faults["name"] = "There is a sensor of that name already."
        elif len(known) >= MOST_PROBES:
            faults["name"] = f"At most {MOST_PROBES} sensors: remove one first."
        if kind not in KINDS:
            faults["kind"] = "Choose what it measures."
        if faults:
            return _bench(request, 422, typed, faults, "")
        _, key = store.probes.add(name, kind)
    request.app.state.gatherer.forget_keys()
    return _bench(request, 200, {"name": name, "kind": kind}, {}, key)


@router.post("/probes/{probe_id}/remove")
def remove_probe(request: Request, probe_id: Id) -> Response:
    store = store_of(request)
    with store.connected():
        store.probes.remove(probe_id)
    request.app.state.gatherer.forget_keys()
    return go_to("/bench")


@api.post(
    "/readings",
    responses={
        401: {"description": "This key belongs to no sensor."},
        403: {"description": "This is another sensor's key."},
        422: {"description": "Not a valid reading."},
        503: {"description": "Too many readings are waiting: none was accepted. Send them again after Retry-After."},
    },
)
async def take_readings(request: Request) -> Response:
    """Readings of a probe, one or a list of them; its key as `Authorization: Bearer KEY`. docs/devices.md."""
    key = request.headers.get("authorization", "").removeprefix("Bearer ").strip()
    gatherer = request.app.state.gatherer
    probe = gatherer.known(key)
    if probe is None:
        probe = await planned(request, gatherer.whose, key)
    if probe is None:
        return _refused(401, "key", "That key belongs to no sensor: make one on the Bench page.")
    try:
        said = json.loads(await request.body())
        rows = READINGS.validate_python(said if isinstance(said, list) else [said])
    except (ValueError, RecursionError, ValidationError):
        return _refused(422, "readings", 'A reading is {"value": 98.4, "unit": "C"}; or a list of them.')
    try:
        made = gatherer.take(probe, rows)
    except PlanError as error:
        return _refused(403 if error.field == "probe" else 422, error.field, str(error))
    except BufferFull as full:
        answer = _refused(503, "readings", str(full))
        answer.headers["Retry-After"] = "2"
        return answer
    return JSONResponse({"taken": len(made.rows), "says": list(made.message)}, 202)


def _refused(status: int, field: str, message: str) -> JSONResponse:
    return JSONResponse({"faults": [{"field": field, "says": message}]}, status)
