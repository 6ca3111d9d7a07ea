"""A job and its stages: reading what is typed, answering at once, keeping every change."""

from __future__ import annotations

import json
import re
from typing import Annotated, Any, Literal
from urllib.parse import quote

import numpy as np
from fastapi import APIRouter, Request
from fastapi.responses import JSONResponse, Response
from pydantic import AfterValidator
from starlette.datastructures import UploadFile

from ...core.book.built_form import BuiltForm
from ...core.book.reuse import TOLERANCE_MM
from ...core.form.closing import direction_to, split_at
from ...core.form.shims import VENEER_MM
from ...core.ground.errors import OutOfRange
from ...core.ground.stages import STAGES, stage_shown
from ...core.ground.units import MM_PER, format_length, parse_count, parse_length_mm, parse_number
from ...core.job.faults import JobFaulty
from ...core.job.job import Job
from ...core.plan.compare import turned_to
from ...core.plan.plan import checked_plan, plan, sketch
from ...core.plan.read import read_job
from ...core.plan.result import Plan, Sketch
from ...core.shape.pull import pulled
from ...core.ways.registry import WAYS, traits_of
from ...core.wood.species import OwnWood
from ...drawing.board import crown_mm
from ...drawing.export import EXPORTS
from ...drawing.outline_files import outlines_in, to_points_mm, to_stretches
from ...drawing.story_stick_pdf import story_stick_pdf
from ...drawing.template import frame_template
from ...drawing.template_pdf import PAPERS, template_pdf
from ...store.book import NotThere
from ..common import Id, go_to, page, show, store_of, typed_in, view_of, wants_parts
from ..forms.fields import Field
from ..forms.rows import edited, with_show_faces
from ..forms.typed import by_field, put_at, read_fields
from ..rack import form_lines
from ..stages import PAGES
from ..steps import steps_of, summary_of

router = APIRouter(include_in_schema=False)


def known_stage(stage: str) -> str:
    """A stage of the table. Raises: NotThere."""
    if stage not in STAGES:
        raise NotThere("There is no such page here.")
    return stage


Stage = Annotated[str, AfterValidator(known_stage)]


def _fields(job: Job, stage: str, woods: tuple[OwnWood, ...]) -> tuple[Field, ...]:
    """The inputs of a stage, or of the one in its place where this way has none such."""
    return PAGES[stage_shown(stage, traits_of(job))].fields(job, woods)


@router.get("/jobs/{job_id}")
def open_job(job_id: Id) -> Response:
    return go_to(f"/jobs/{job_id}/shape")


@router.get("/jobs/{job_id}/{stage}")
def stage_page(request: Request, job_id: Id, stage: Stage) -> Response:
    store = store_of(request)
    with store.connected():
        own = stage_shown(stage, traits_of(store.job(job_id).job))
        return show(request, view_of(request, job_id, stage)) if own == stage else go_to(f"/jobs/{job_id}/{own}")


@router.post("/jobs/{job_id}/{stage}/try")
async def preview(request: Request, job_id: Id, stage: Stage, frame: str = "") -> Response:
    """What the plan would be with what is typed so far; nothing is kept."""
    typed = await typed_in(request)
    store = store_of(request)
    with store.connected():
        job, shop = store.job(job_id).job, store.shop()
        try:
            job = read_fields(job, _fields(job, stage, shop.woods), typed, shop.units, shop.woods)
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
            made = read_fields(job, _fields(job, stage, shop.woods), typed, shop.units, shop.woods)
        except JobFaulty as error:
            return show(
                request, view_of(request, job_id, stage, typed=typed, faults=by_field(error.faults), refused=error), 422
            )
        store.save_job(job_id, made, f"changed {STAGES[stage].name.lower()}")
        if wants_parts(request):
            return show(request, view_of(request, job_id, stage))
    return go_to(f"/jobs/{job_id}/{stage}")


@router.post("/jobs/{job_id}/pull")
async def pull(
    request: Request, job_id: Id, handle: str, x: float, y: float, frame: str = "", keep: int = 0
) -> Response:
    """A handle of the drawing pulled to a point (drawing coordinates, mm, y downwards). Kept when it is let go."""
    store = store_of(request)
    if len(handle) > 40 or not all(abs(v) < 1e6 for v in (x, y)):
        return JSONResponse({"faults": [{"field": "handle", "says": "There is no such handle."}]}, 422)
    with store.connected():
        job, shop = store.job(job_id).job, store.shop()
        try:
            shape = pulled(
                job.shape,
                job.part.thickness_mm,
                handle=handle,
                x_mm=x,
                y_mm=-y,
                unit=shop.units,
                mirrored=job.is_right,
            )
            made = read_job({**job.model_dump(), "shape": shape.model_dump()}, shop.units, shop.woods)
        except (OutOfRange, JobFaulty) as error:
            if isinstance(error, OutOfRange) and error.field == "handle":
                return JSONResponse({"faults": [{"field": "handle", "says": str(error)}]}, 422)
            return Response(status_code=204)  # as far as it goes
        if keep:
            store.save_job(job_id, made, "dragged on the drawing")
            return show(request, view_of(request, job_id, "shape"), parts=True)
        return show(request, view_of(request, job_id, "shape", job=made, frame=frame, passing=True), parts=True)


@router.post("/jobs/{job_id}/form/pull")
async def pull_form(
    request: Request, job_id: Id, handle: str, x: float, y: float, frame: str = "", keep: int = 0
) -> Response:
    """The arrow of the closing direction, or a split, pulled to a point of the drawing."""
    store = store_of(request)
    name, _, tail = handle.partition("-")
    if name not in ("close", "split") or not tail.isascii() or not tail.isdigit() or not abs(x) + abs(y) < 1e6:
        return JSONResponse({"faults": [{"field": "handle", "says": "There is no such handle."}]}, 422)
    with store.connected():
        job, shop, learnt = store.job(job_id).job, store.shop(), store.learnt()
        try:
            made = _form_pulled(job, sketch(job, shop, learnt), name, int(tail[:3]), (x, -y))
            made = read_job(made.model_dump(), shop.units, shop.woods)
            sketch(made, shop, learnt)
        except (OutOfRange, JobFaulty):
            return Response(status_code=204)  # as far as it goes
        if keep:
            store.save_job(job_id, made, "dragged on the drawing")
            return show(request, view_of(request, job_id, "form"), parts=True)
        return show(request, view_of(request, job_id, "form", job=made, frame=frame, passing=True), parts=True)


def _form_pulled(job: Job, made: Sketch, name: str, number: int, place: tuple[float, float]) -> Job:
    """The job with its closing direction or a split where the hand is. Raises: OutOfRange where there is none."""
    face, closing = made.face, made.form.closing
    hand = np.array(place) - np.array([0.0, crown_mm(job, made)])
    if name == "close":
        sets: dict[str, Any] = {"close_deg": direction_to(face, hand, outwards=face.side == "inner")}
    else:
        if closing is None or number >= len(closing.pressers) - 1:
            raise OutOfRange("handle", "There is no such handle.")
        splits = [p.start_mm - face.middle_mm for p in closing.pressers[1:]]
        splits[number] = split_at(face, hand, 1.0)
        sets = {"splits_mm": tuple(sorted(splits))}
    return job.with_form_as_drawn(job.form_as_drawn.model_copy(update=sets))


@router.post("/jobs/{job_id}/outline")
async def bring_outline(request: Request, job_id: Id) -> Response:
    """An outline out of a file, in the unit and scale stated; nothing changes unless all of it can be used."""
    async with request.form(max_files=1, max_fields=8) as form:
        upload = form.get("file")
        raw = await upload.read() if isinstance(upload, UploadFile) else b""
        name = (upload.filename or "") if isinstance(upload, UploadFile) else ""
        typed = {k: v for k, v in form.multi_items() if isinstance(v, str)}
    store = store_of(request)
    with store.connected():
        job, shop = store.job(job_id).job, store.shop()
        try:
            shape, says = _outline(job, raw, name, typed)
            made = read_job({**job.model_dump(), "shape": shape}, shop.units, shop.woods)
        except OutOfRange as error:
            return show(
                request, view_of(request, job_id, "shape", file_says=error.says(shop.units), file_fault=True), 422
            )
        except JobFaulty as error:
            told = " ".join(f.says for f in error.faults)
            return show(request, view_of(request, job_id, "shape", file_says=told, file_fault=True, refused=error), 422)
        store.save_job(job_id, made, f"brought in {name}"[:200])
        return show(request, view_of(request, job_id, "shape", file_says=says))


def _outline(job: Job, raw: bytes, name: str, typed: dict[str, str]) -> tuple[dict[str, Any], str]:
    found, stated = outlines_in(raw, name)
    unit = typed.get("unit") or "file"
    if unit == "file" and not stated:
        raise OutOfRange("unit", "This file does not say its unit: choose one.")
    unit = stated if unit == "file" else unit
    if unit not in ("mm", "cm", "m", "in"):
        raise OutOfRange("unit", "Choose the unit of the file.")
    scale = parse_number(typed.get("scale", "1"), "scale", "a scale")
    which = parse_count(typed.get("which", "1") or "1", "which", "a number")
    if not 1 <= which <= len(found):
        raise OutOfRange(
            "which", f"There are {len(found)} outlines in the file; choose from 1 to {len(found)}, longest first."
        )
    chosen = found[which - 1]
    shape: dict[str, Any] = {"face": job.shape.face}
    if chosen.chain:
        stretches = to_stretches(chosen, unit_mm=MM_PER[unit], scale=scale)
        shape |= {"kind": "polycurve", "stretches": stretches}
        said = f"Took {chosen.name} exactly, as {len(stretches)} straights and arcs, read in {unit}"
    else:
        points = to_points_mm(chosen, unit_mm=MM_PER[unit], scale=scale)
        shape |= {"kind": "outline", "points_mm": points, "slack_mm": 0.3, "source": name[:200] or "file"}
        said = f"Took {chosen.name}, smoothed through {len(points)} points, read in {unit}"
    return shape, f"{said}; the longest of {len(found)} outlines." if which == 1 and len(found) > 1 else f"{said}."


@router.post("/jobs/{job_id}/{stage}/rows")
async def change_rows(request: Request, job_id: Id, stage: Stage, do: str, row: int = 0, to: int = 0) -> Response:
    """A row of a list added, moved or taken out, after what is typed in the others is kept."""
    typed = await typed_in(request)
    store = store_of(request)
    with store.connected():
        job, shop = store.job(job_id).job, store.shop()
        try:
            job = read_fields(job, _fields(job, stage, shop.woods), typed, shop.units, shop.woods)
            data = with_show_faces(job) if do == "veneer" and stage == "build_up" else edited(job, stage, do, row, to)
            made = read_job(data, shop.units, shop.woods)
        except JobFaulty as error:
            return show(request, view_of(request, job_id, stage, typed=typed, faults=by_field(error.faults)), 422)
        except OutOfRange as error:
            faults = {"rows": error.says(shop.units)}
            return show(request, view_of(request, job_id, stage, typed=typed, faults=faults), 422)
        store.save_job(job_id, made, f"changed {STAGES[stage].name.lower()}")
        if wants_parts(request):
            return show(request, view_of(request, job_id, stage))
    return go_to(f"/jobs/{job_id}/{stage}")


@router.post("/jobs/{job_id}/lot")
async def choose_lot(request: Request, job_id: Id, lot: int = 0) -> Response:
    """Take the stock from a lot of the rack (0: from none), with all that is known of it."""
    store = store_of(request)
    with store.connected():
        job, shop = store.job(job_id).job, store.shop()
        if lot:
            taken = store.lot(lot).lot
            stock = {
                "species": taken.species,
                "dryness": taken.dryness,
                "grain_slope": min(0.2, taken.grain_slope),
                "figured": taken.figured,
                "moisture_pct": taken.moisture_pct,
                "lot": taken.model_dump(),
            }
        else:
            stock = {**job.stock.model_dump(), "lot": None}
        try:
            made = read_job({**job.model_dump(), "stock": stock}, shop.units, shop.woods)
        except JobFaulty as error:
            return show(request, view_of(request, job_id, "stock", faults=by_field(error.faults)), 422)
        store.save_job(job_id, made, f"took stock from {taken.name}" if lot else "took stock from no lot")
        if wants_parts(request):
            return show(request, view_of(request, job_id, "stock"))
    return go_to(f"/jobs/{job_id}/stock")


@router.post("/jobs/{job_id}/way/choose")
def choose_way(request: Request, job_id: Id, way: str) -> Response:
    """Bend it another way: the job is turned to it as the comparison showed."""
    store = store_of(request)
    with store.connected():
        job, shop = store.job(job_id).job, store.shop()
        try:
            made = read_job(turned_to(job, way).model_dump(), shop.units, shop.woods)
        except (OutOfRange, JobFaulty):
            raise NotThere("There is no such way here.") from None
        store.save_job(job_id, made, f"chose {WAYS[way].name.lower()}")
        if wants_parts(request):
            return show(request, view_of(request, job_id, "way"))
    return go_to(f"/jobs/{job_id}/way")


@router.post("/jobs/{job_id}/{stage}/apply")
async def apply(request: Request, job_id: Id, stage: Stage) -> Response:
    """Do what a finding suggests."""
    typed = await typed_in(request)
    store = store_of(request)
    with store.connected():
        job, woods = store.job(job_id).job, store.shop().woods
        data = job.model_dump()
        try:
            sets: dict[str, Any] = json.loads(typed.get("sets", "{}"))
            for name, value in sets.items():
                put_at(data, name, value)
            made = read_job(data, woods=woods)
        except (ValueError, KeyError, TypeError, AttributeError, RecursionError):
            return JSONResponse({"faults": [{"field": "sets", "says": "That change cannot be made here."}]}, 422)
        store.save_job(job_id, made, f"took advice on {STAGES[stage].name.lower()}")
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


@router.get("/jobs/{job_id}/{stage}/steps")
def steps(request: Request, job_id: Id, stage: Stage) -> Response:
    """What is done for this job, in order."""
    store = store_of(request)
    with store.connected():
        state, shop, learnt = store.job(job_id), store.shop(), store.learnt()
    made = checked_plan(state.job, shop, learnt)
    shown: dict[str, Any] = {"says": made.says(shop.units)} if isinstance(made, OutOfRange) else {"says": ""}
    if isinstance(made, Plan):
        shown |= {"steps": steps_of(made), "summary": summary_of(made)}
    return page("steps.html", request, state=state, stage=stage, unit=shop.units, here="jobs", **shown)


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
            form = BuiltForm.of(sketch(job, store.shop(), store.learnt()))
        except OutOfRange:
            return go_to(f"/jobs/{job_id}/form")
        store.keep_form(job_id, form)
        store.settle(job_id, "form")
    return go_to(f"/jobs/{job_id}/measure")


def file_name(job: Job, ending: str) -> str:
    """A file name any system takes."""
    plain = re.sub(r"[^A-Za-z0-9]+", "-", job.name).strip("-").lower()[:60] or "job"
    hand = f"-{job.part.hand}" if job.part.copies == "pairs" and ending != "json" else ""
    return f"{plain}{hand}.{ending}"


def attachment(name: str) -> dict[str, str]:
    return {"content-disposition": f"attachment; filename*=UTF-8''{quote(name)}"}


@router.get("/jobs/{job_id}/take/{kind}")
def take(
    request: Request,
    job_id: Id,
    kind: str,
    paper: str = "a4",
    hand: Literal["left", "right", ""] = "",
    part: int | None = None,
) -> Response:
    """The form, or the job itself, as a file; of a pair, for the hand that is asked for."""
    store = store_of(request)
    with store.connected():
        job, shop, learnt = store.job(job_id).job, store.shop(), store.learnt()
    if hand and kind != "job":
        job = job.model_copy(update={"part": job.part.model_copy(update={"hand": hand})})
    if kind == "job":
        return Response(
            job.model_dump_json(indent=2), media_type="application/json", headers=attachment(file_name(job, "json"))
        )
    if kind == "stick":
        try:
            made = story_stick_pdf(job, plan(job, shop, learnt), paper=paper, unit=shop.units)
        except OutOfRange as error:
            said = error.says(shop.units)
            return page("message.html", request, 422, title="No stick yet", says=said, unit=shop.units, here="jobs")
        return Response(made, media_type="application/pdf", headers=attachment("stick-" + file_name(job, "pdf")))
    if kind == "frame":
        try:
            made_plan = plan(job, shop, learnt)
            if paper not in PAPERS:
                raise OutOfRange("paper", f"Paper is one of {', '.join(PAPERS)}.")
            template = frame_template(job, made_plan, shop.units)
            made = template_pdf(job, made_plan, template, paper=paper, unit=shop.units)
        except OutOfRange as error:
            said = error.says(shop.units)
            return page("message.html", request, 422, title="No frame yet", says=said, unit=shop.units, here="jobs")
        return Response(made, media_type="application/pdf", headers=attachment("frame-" + file_name(job, "pdf")))
    if kind not in EXPORTS:
        raise NotThere("There is no such file.")
    export = EXPORTS[kind]
    try:
        made = export.make(job, plan(job, shop, learnt), shop.units, paper, part)
    except OutOfRange as error:
        return page(
            "message.html", request, 422, title="No form yet", says=error.says(shop.units), unit=shop.units, here="jobs"
        )
    return Response(made, media_type=export.media_type, headers=attachment("form-" + file_name(job, kind)))


@router.get("/jobs/{job_id}/form/mine")
def forms_of_mine(request: Request, job_id: Id, tolerance: str = "") -> Response:
    """Whether a form that was built for another job would do for this one."""
    store = store_of(request)
    with store.connected():
        state, unit = store.job(job_id), store.shop().units
        typed = tolerance[:40] or format_length(TOLERANCE_MM, unit, decimals=2, with_unit=False)
        fault, lines, says = "", [], ""
        try:
            wanted = parse_length_mm(typed, unit, "tolerance")
            if not 0.05 <= wanted <= 500:
                raise OutOfRange("tolerance", "From 0.05 mm to 500 mm, please.")
            lines, says = form_lines(store, state.job, wanted, job_id)
        except OutOfRange as error:
            fault = error.says(unit)
    return page(
        "forms.html",
        request,
        422 if fault else 200,
        state=state,
        forms=lines,
        says=says,
        veneer_mm=VENEER_MM,
        fault=fault,
        tolerance=typed,
        unit=unit,
        here="jobs",
    )


@router.get("/jobs/{job_id}/offsets/print")
def offsets(request: Request, job_id: Id) -> Response:
    """The table of offsets as a page to print."""
    store = store_of(request)
    with store.connected():
        view = view_of(request, job_id, "form")
    rows = [
        (format_length(o.station_mm, view.unit), format_length(o.height_mm, view.unit))
        for o in (view.drawn.offsets if isinstance(view.drawn, Plan) else ())
    ]
    return page("offsets.html", request, v=view, rows=rows, unit=view.unit, here="jobs")
