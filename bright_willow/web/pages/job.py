"""A job and its stages: reading what is typed, answering at once, keeping every change."""

from __future__ import annotations

import json
import re
from typing import Any, Literal
from urllib.parse import quote

from fastapi import APIRouter, Request
from fastapi.responses import JSONResponse, Response

from ...core.errors import OutOfRange
from ...core.job import Job, JobFaulty, read_job
from ...core.learning.built_form import BuiltForm
from ...core.plan import plan
from ...core.shape.handles import pulled
from ...core.units import format_length
from ...drawing.export import EXPORTS
from ...store.book import NotThere
from ..common import Id, go_to, page, show, store_of, typed_in, view_of, wants_parts
from ..fields import by_field, fields_for, put_at, read_fields
from ..views import STAGE_NAMES

router = APIRouter(include_in_schema=False)
Stage = Literal["shape", "stock", "build_up", "form", "measure"]


@router.get("/jobs/{job_id}")
def open_job(job_id: Id) -> Response:
    return go_to(f"/jobs/{job_id}/shape")


@router.get("/jobs/{job_id}/{stage}")
def stage_page(request: Request, job_id: Id, stage: str) -> Response:
    if stage not in STAGE_NAMES:
        raise NotThere("There is no such page here.")
    with store_of(request).connected():
        return show(request, view_of(request, job_id, stage))


@router.post("/jobs/{job_id}/{stage}/try")
async def preview(request: Request, job_id: Id, stage: Stage, frame: str = "") -> Response:
    """What the plan would be with what is typed so far; nothing is kept."""
    typed = await typed_in(request)
    store = store_of(request)
    with store.connected():
        job, shop = store.job(job_id).job, store.shop()
        try:
            job = read_fields(job, fields_for(stage, job), typed, shop.units)
        except JobFaulty:
            return Response(status_code=204)  # half typed: wait for the rest
        return show(request, view_of(request, job_id, stage, job=job, frame=frame, passing=True), parts=True)


@router.post("/jobs/{job_id}/{stage}/keep")
async def keep(request: Request, job_id: Id, stage: Stage) -> Response:
    """Keep what is typed, or say beside each field what is wrong with it."""
    typed = await typed_in(request)
    store = store_of(request)
    with store.connected():
        job, shop = store.job(job_id).job, store.shop()
        try:
            made = read_fields(job, fields_for(stage, job), typed, shop.units)
        except JobFaulty as error:
            return show(request, view_of(request, job_id, stage, typed=typed, faults=by_field(error.faults)), 422)
        store.save_job(job_id, made, f"changed {STAGE_NAMES[stage].lower()}")
        if wants_parts(request):
            return show(request, view_of(request, job_id, stage))
    return go_to(f"/jobs/{job_id}/{stage}")


@router.post("/jobs/{job_id}/pull")
async def pull(
    request: Request, job_id: Id, handle: str, x: float, y: float, frame: str = "", keep: int = 0
) -> Response:
    """A handle of the drawing pulled to a point (drawing coordinates, mm, y downwards). Kept when it is let go."""
    store = store_of(request)
    if handle not in ("rise", "start", "end") or not all(abs(v) < 1e6 for v in (x, y)):
        return JSONResponse({"faults": [{"field": "handle", "says": "There is no such handle."}]}, 422)
    with store.connected():
        job, shop = store.job(job_id).job, store.shop()
        try:
            shape = pulled(job.shape, handle=handle, x_mm=x, y_mm=-y, unit=shop.units)  # type: ignore[arg-type]
            made = read_job({**job.model_dump(), "shape": shape.model_dump()}, shop.units)
        except (OutOfRange, JobFaulty):
            return Response(status_code=204)  # as far as it goes
        if keep:
            store.save_job(job_id, made, "dragged on the drawing")
            return show(request, view_of(request, job_id, "shape"), parts=True)
        return show(request, view_of(request, job_id, "shape", job=made, frame=frame, passing=True), parts=True)


@router.post("/jobs/{job_id}/{stage}/apply")
async def apply(request: Request, job_id: Id, stage: Stage) -> Response:
    """Do what a finding suggests."""
    typed = await typed_in(request)
    store = store_of(request)
    with store.connected():
        job = store.job(job_id).job
        data = job.model_dump()
        try:
            sets: dict[str, Any] = json.loads(typed.get("sets", "{}"))
            for name, value in sets.items():
                put_at(data, name, value)
            made = read_job(data)
        except (ValueError, KeyError, TypeError, AttributeError, RecursionError):
            return JSONResponse({"faults": [{"field": "sets", "says": "That change cannot be made here."}]}, 422)
        store.save_job(job_id, made, f"took advice on {STAGE_NAMES[stage].lower()}")
        if wants_parts(request):
            return show(request, view_of(request, job_id, stage))
    return go_to(f"/jobs/{job_id}/{stage}")


@router.post("/jobs/{job_id}/{stage}/settle")
def settle(request: Request, job_id: Id, stage: Stage, then: Stage) -> Response:
    """This stage is settled; on to the next."""
    store = store_of(request)
    with store.connected():
        store.settle(job_id, stage)
    return go_to(f"/jobs/{job_id}/{then}")


@router.post("/jobs/{job_id}/{stage}/undo")
def undo(request: Request, job_id: Id, stage: Stage) -> Response:
    return _step(request, job_id, stage, back=True)


@router.post("/jobs/{job_id}/{stage}/redo")
def redo(request: Request, job_id: Id, stage: Stage) -> Response:
    return _step(request, job_id, stage, back=False)


def _step(request: Request, job_id: Id, stage: Stage, *, back: bool) -> Response:
    store = store_of(request)
    with store.connected():
        (store.undo if back else store.redo)(job_id)
        if wants_parts(request):
            return show(request, view_of(request, job_id, stage))
    return go_to(f"/jobs/{job_id}/{stage}")


@router.get("/jobs/{job_id}/{stage}/history")
def history(request: Request, job_id: Id, stage: Stage) -> Response:
    store = store_of(request)
    with store.connected():
        state, lines, shop = store.job(job_id), store.history(job_id), store.shop()
    return page("history.html", request, state=state, lines=lines, stage=stage, unit=shop.units, here="jobs")


@router.post("/jobs/{job_id}/{stage}/history/{revision_id}")
def go_back(request: Request, job_id: Id, stage: Stage, revision_id: Id) -> Response:
    store = store_of(request)
    with store.connected():
        store.go_back_to(job_id, revision_id)
    return go_to(f"/jobs/{job_id}/{stage}")


@router.post("/jobs/{job_id}/built")
def built(request: Request, job_id: Id) -> Response:
    """The form is built as planned: freeze it, so that pieces are compared with what was really made."""
    store = store_of(request)
    with store.connected():
        job = store.job(job_id).job
        try:
            form = BuiltForm.of(job, plan(job, store.shop(), store.learnt()))
        except OutOfRange:
            return go_to(f"/jobs/{job_id}/form")
        store.keep_form(job_id, form)
        store.settle(job_id, "form")
    return go_to(f"/jobs/{job_id}/measure")


def file_name(job: Job, ending: str) -> str:
    """A file name any system takes."""
    plain = re.sub(r"[^A-Za-z0-9]+", "-", job.name).strip("-").lower()[:60] or "job"
    return f"{plain}.{ending}"


def attachment(name: str) -> dict[str, str]:
    return {"content-disposition": f"attachment; filename*=UTF-8''{quote(name)}"}


@router.get("/jobs/{job_id}/take/{kind}")
def take(request: Request, job_id: Id, kind: str, paper: str = "a4") -> Response:
    """The form, or the job itself, as a file."""
    store = store_of(request)
    with store.connected():
        job, shop, learnt = store.job(job_id).job, store.shop(), store.learnt()
    if kind == "job":
        return Response(
            job.model_dump_json(indent=2), media_type="application/json", headers=attachment(file_name(job, "json"))
        )
    if kind not in EXPORTS:
        raise NotThere("There is no such file.")
    export = EXPORTS[kind]
    try:
        made = export.make(job, plan(job, shop, learnt), shop.units, paper)
    except OutOfRange as error:
        return page(
            "message.html", request, 422, title="No form yet", says=error.says(shop.units), unit=shop.units, here="jobs"
        )
    return Response(made, media_type=export.media_type, headers=attachment("form-" + file_name(job, kind)))


@router.get("/jobs/{job_id}/offsets/print")
def offsets(request: Request, job_id: Id) -> Response:
    """The table of offsets as a page to print."""
    store = store_of(request)
    with store.connected():
        view = view_of(request, job_id, "form")
    rows = [
        (format_length(o.station_mm, view.unit), format_length(o.height_mm, view.unit))
        for o in (view.plan.form.offsets if view.plan else ())
    ]
    return page("offsets.html", request, v=view, rows=rows, unit=view.unit, here="jobs")
