"""A job and its stages: reading what is typed, answering at once, keeping every change."""

from __future__ import annotations

import datetime as dt
import json
from dataclasses import replace
from typing import Annotated, Any

from fastapi import APIRouter, Query, Request
from fastapi.responses import JSONResponse, Response
from pydantic import AfterValidator

from ...calendar.shop_clock import zone_of
from ...core.common.errors import PlanError
from ...core.common.stages import STAGES, stage_shown
from ...core.job.faults import JobFaulty
from ...core.job.job import Job
from ...core.measuring.built_form import BuiltForm
from ...core.methods.method_registry import WAYS, stages_for, traits_of
from ...core.plan.compare import turned_to
from ...core.plan.plan import checked_plan, sketch
from ...core.plan.read_job import read_job
from ...core.plan.result import Plan
from ...core.shop.shop import Shop
from ...drawing.steps import steps_of, summary_of
from ...store.records import NotFound
from ..common import (
    Id,
    go_to,
    page,
    planned,
    show,
    store_of,
    typed_in,
    view_of,
    wants_parts,
)
from ..edits import EditBase, base_of, changed_meanwhile, drop_unchanged, keep_joined
from ..forms.fields import Field
from ..forms.rows import edited, with_show_faces
from ..forms.typed import by_field, put_at, read_fields
from ..stages import PAGES
from .shop import with_week

router = APIRouter(include_in_schema=False)


def known_stage(stage: str) -> str:
    """A stage of the table. Raises: NotFound."""
    if stage not in STAGES:
        raise NotFound("There is no such page here.")
    return stage


Stage = Annotated[str, AfterValidator(known_stage)]


def _fields(job: Job, stage: str, shop: Shop) -> tuple[Field, ...]:
    """The inputs of a stage, or of the one in its place where this way has none such."""
    return PAGES[stage_shown(stage, traits_of(job))].fields(job, shop)


@router.get("/jobs/{job_id}")
def open_job(job_id: Id) -> Response:
    return go_to(f"/jobs/{job_id}/shape")


@router.get("/jobs/{job_id}/{stage}")
def stage_page(request: Request, job_id: Id, stage: Stage) -> Response:
    store = store_of(request)
    with store.connected():
        own = stage_shown(stage, traits_of(store.jobs.get(job_id).job))
        return show(request, view_of(request, job_id, stage)) if own == stage else go_to(f"/jobs/{job_id}/{own}")


@router.post("/jobs/{job_id}/{stage}/try")
async def preview(request: Request, job_id: Id, stage: Stage, frame: str = "") -> Response:
    """What the plan would be with what is typed so far; nothing is kept."""
    typed = await typed_in(request)
    return await planned(request, _preview, request, job_id, stage, frame, typed)


def _preview(request: Request, job_id: int, stage: str, frame: str, typed: dict[str, str]) -> Response:
    with store_of(request).connected():
        base = base_of(request, job_id)
        try:
            job = read_fields(base.job, _fields(base.job, stage, base.shop), typed, base.unit, base.shop.woods)
        except JobFaulty:
            return Response(status_code=204)  # half typed: wait for the rest
        return show(request, view_of(request, job_id, stage, job=job, frame=frame, passing=True), parts=True)


@router.post("/jobs/{job_id}/{stage}/keep")
async def keep(request: Request, job_id: Id, stage: Stage) -> Response:
    """Keep what is typed, or say beside each field what is wrong with it."""
    typed = await typed_in(request)
    return await planned(request, _keep, request, job_id, stage, typed)


def _keep(request: Request, job_id: int, stage: str, typed: dict[str, str]) -> Response:
    with store_of(request).connected():
        base = base_of(request, job_id)
        fields = _fields(base.job, stage, base.shop)
        try:
            made = read_fields(base.job, fields, drop_unchanged(base, fields, typed), base.unit, base.shop.woods)
            return keep_joined(request, base, made, _changed(stage), stage, fields=fields)
        except JobFaulty as error:
            return _refused(request, base, stage, typed, by_field(error.faults), refused=error)


def _changed(stage: str) -> str:
    return f"changed {STAGES[stage].name.lower()}"


def _refused(
    request: Request, base: EditBase, stage: str, typed: dict[str, str], faults: dict[str, str], **more: Any
) -> Response:
    """The page its maker saw, with what was typed and what is wrong with it."""
    shown = {"job": base.job, "seen": base.seen, "typed_unit": base.unit}
    return show(request, view_of(request, base.job_id, stage, typed=typed, faults=faults, **shown, **more), 422)


@router.post("/jobs/{job_id}/{stage}/rows")
async def change_rows(
    request: Request,
    job_id: Id,
    stage: Stage,
    do: str,
    row: int = 0,
    to: int = 0,
    which: Annotated[str, Query(alias="list", max_length=40)] = "",
) -> Response:
    """A row of a list added, moved or taken out, after what is typed in the others is kept."""
    typed = await typed_in(request)
    return await planned(request, _change_rows, request, job_id, stage, typed, do, row, to, which)


def _change_rows(
    request: Request, job_id: int, stage: str, typed: dict[str, str], do: str, row: int, to: int, which: str
) -> Response:
    with store_of(request).connected():
        base = base_of(request, job_id)
        woods, unit = base.shop.woods, base.unit
        try:
            fields = _fields(base.job, stage, base.shop)
            job = read_fields(base.job, fields, drop_unchanged(base, fields, typed), unit, woods)
            faces = do == "veneer" and stage == "build_up"
            data = with_show_faces(job) if faces else edited(job, stage, do, row, to, which)
            return keep_joined(request, base, read_job(data, unit, woods), _changed(stage), stage)
        except JobFaulty as error:
            return _refused(request, base, stage, typed, by_field(error.faults))
        except PlanError as error:
            return _refused(request, base, stage, typed, {"rows": error.message(unit)})


@router.post("/jobs/{job_id}/lot")
def choose_lot(request: Request, job_id: Id, lot: Annotated[int, Query(ge=0, le=2**62)] = 0) -> Response:
    """Take the stock from a lot of the rack (0: from none), with all that is known of it."""
    store = store_of(request)
    with store.connected():
        base = base_of(request, job_id)
        if lot:
            taken = store.rack.lot(lot).lot
            stock = {
                "species": taken.species,
                "dryness": taken.dryness,
                "grain_slope": min(0.2, taken.grain_slope),
                "figured": taken.figured,
                "moisture_pct": taken.moisture_pct,
                "lot": taken.model_dump(),
            }
        else:
            stock = {**base.job.stock.model_dump(), "lot": None}
        try:
            made = read_job({**base.job.model_dump(), "stock": stock}, base.shop.units, base.shop.woods)
            what = f"uses lot {taken.name}" if lot else "uses no lot"
            return keep_joined(request, base, made, what, "stock")
        except JobFaulty as error:
            return _refused(request, base, "stock", {}, by_field(error.faults))


@router.post("/jobs/{job_id}/way/choose")
def choose_way(request: Request, job_id: Id, way: str) -> Response:
    """Bend it another way: the job is turned to it as the comparison showed."""
    with store_of(request).connected():
        base = base_of(request, job_id)
        try:
            made = read_job(turned_to(base.job, way).model_dump(), base.shop.units, base.shop.woods)
            return keep_joined(request, base, made, f"chose {WAYS[way].name}", "way")
        except (PlanError, JobFaulty):
            raise NotFound("There is no such method.") from None


@router.post("/jobs/{job_id}/{stage}/apply")
async def apply(request: Request, job_id: Id, stage: Stage) -> Response:
    """Do what a finding suggests."""
    typed = await typed_in(request)
    return await planned(request, _apply, request, job_id, stage, typed)


def _apply(request: Request, job_id: int, stage: str, typed: dict[str, str]) -> Response:
    store = store_of(request)
    with store.connected():
        base = base_of(request, job_id)
        data, shop = base.job.model_dump(), base.shop
        try:
            sets: dict[str, Any] = json.loads(typed.get("sets", "{}"))
            owned = {name.removeprefix("shop."): value for name, value in sets.items() if name.startswith("shop.")}
            for name, value in sets.items():
                if not name.startswith("shop."):
                    put_at(data, name, value)
            made = read_job(data, woods=base.shop.woods)
            if owned:
                shop = with_week(shop, owned)
        except (ValueError, KeyError, TypeError, AttributeError, IndexError, RecursionError):
            return JSONResponse({"faults": [{"field": "sets", "says": "That change is not possible here."}]}, 422)
        what = f"used a fix on {STAGES[stage].name.lower()}"
        if owned:
            store.shop_settings.save(shop)
        try:
            answer = keep_joined(request, base, made, what, stage)
            return go_to("/days") if typed.get("back") == "/days" and answer.status_code == 303 else answer
        except JobFaulty:
            return changed_meanwhile(request, base, stage)


@router.post("/jobs/{job_id}/{stage}/settle")
def settle(request: Request, job_id: Id, stage: Stage, then: Stage) -> Response:
    """This stage is settled; on to the next."""
    store = store_of(request)
    with store.connected():
        store.jobs.mark_done(job_id, stage)
    return go_to(f"/jobs/{job_id}/{then}")


@router.post("/jobs/{job_id}/{stage}/undo")
def undo(request: Request, job_id: Id, stage: Stage) -> Response:
    return _step(request, job_id, stage, back=True)


@router.post("/jobs/{job_id}/{stage}/redo")
def redo(request: Request, job_id: Id, stage: Stage) -> Response:
    return _step(request, job_id, stage, back=False)


def _step(request: Request, job_id: Id, stage: Stage, *, back: bool) -> Response:
    """One step back or forward from the revision that was seen; another window's unseen change is never taken back."""
    store = store_of(request)
    with store.connected():
        base = base_of(request, job_id)
        if not base.is_now:
            return changed_meanwhile(request, base, stage)
        (store.jobs.undo if back else store.jobs.redo)(job_id, base.seen)
        if wants_parts(request):
            return show(request, view_of(request, job_id, stage))
    return go_to(f"/jobs/{job_id}/{stage}")


@router.get("/jobs/{job_id}/{stage}/steps")
def steps(request: Request, job_id: Id, stage: Stage) -> Response:
    """What is done for this job, in order."""
    store = store_of(request)
    with store.connected():
        state, shop, learnt = store.jobs.get(job_id), store.shop_settings.get(), store.training.learned()
    made = checked_plan(state.job, shop, learnt)
    shown: dict[str, Any] = {"message": made.message(shop.units)} if isinstance(made, PlanError) else {"message": ""}
    if isinstance(made, Plan):
        shown |= {"steps": steps_of(made), "summary": summary_of(made)}
    return page("steps.html", request, state=state, stage=stage, unit=shop.rule, here="jobs", **shown)


@router.get("/jobs/{job_id}/{stage}/history")
def history(request: Request, job_id: Id, stage: Stage) -> Response:
    store = store_of(request)
    with store.connected():
        state, lines, shop = store.jobs.get(job_id), store.jobs.history(job_id), store.shop_settings.get()
        count = store.jobs.revision_count(job_id)
    zone = zone_of(shop.week)
    lines = [replace(r, at=r.at.replace(tzinfo=dt.UTC).astimezone(zone)) for r in lines]
    shown = {"state": state, "lines": lines, "count": count, "stage": stage}
    return page("history.html", request, unit=shop.rule, here="jobs", **shown)


@router.post("/jobs/{job_id}/{stage}/history/{revision_id}")
def go_back(request: Request, job_id: Id, stage: Stage, revision_id: Id) -> Response:
    store = store_of(request)
    with store.connected():
        store.jobs.go_back_to(job_id, revision_id)
    return go_to(f"/jobs/{job_id}/{stage}")


@router.post("/jobs/{job_id}/built")
def built(request: Request, job_id: Id) -> Response:
    """The form is built as planned: freeze it, so that pieces are compared with what was really made."""
    store = store_of(request)
    with store.connected():
        base = base_of(request, job_id)
        if not base.is_now:
            return changed_meanwhile(request, base, "form")
        try:
            form = BuiltForm.of(sketch(base.job, store.shop_settings.get(), store.training.learned()))
        except PlanError:
            return go_to(f"/jobs/{job_id}/form")
        store.logbook.save_form(job_id, form)
        store.jobs.mark_done(job_id, "form")
    keys = [row.key for row in stages_for(base.job)]
    then = keys[keys.index("form") + 1] if "form" in keys else "measure"
    return go_to(f"/jobs/{job_id}/{then}")
