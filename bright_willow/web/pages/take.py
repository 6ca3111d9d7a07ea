"""What leaves the program: files of a form, a stick, a frame, the job itself; and tables to print."""

from __future__ import annotations

import re
from typing import Literal

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ...core.common.errors import PlanError
from ...core.common.units import format_length
from ...core.form.shims import VENEER_MM
from ...core.job.job import Job
from ...core.measuring.reuse import TOLERANCE_MM
from ...core.plan.plan import plan
from ...core.plan.result import Plan
from ...drawing.export import EXPORTS, PAPERS_OF
from ...services.rack_lists import form_candidates
from ...store.bundle import bundled
from ...store.records import NotFound
from ..common import Id, attachment, page, store_of, view_of
from ..forms.fields import Field
from ..forms.form_spec import FormSpec

router = APIRouter(include_in_schema=False)
TOLERANCE = FormSpec((Field("tolerance", "Allowed error of the piece", "length", least=0.05, most=500.0),))


def file_name(job: Job, ending: str) -> str:
    """A file name any system takes."""
    plain = re.sub(r"[^A-Za-z0-9]+", "-", job.name).strip("-").lower()[:60] or "job"
    hand = f"-{job.part.hand}" if job.part.copies == "pairs" and ending != "json" else ""
    return f"{plain}{hand}.{ending}"


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
        job, shop, learnt = store.jobs.get(job_id).job, store.shop_settings.get(), store.training.learned()
    if hand and kind != "job":
        job = job.model_copy(update={"part": job.part.model_copy(update={"hand": hand})})
    if kind == "job":
        return Response(
            job.model_dump_json(indent=2), media_type="application/json", headers=attachment(file_name(job, "json"))
        )
    if kind == "bundle":
        with store.connected():
            body = bundled(store, job_id)
        return Response(body, media_type="application/zip", headers=attachment(file_name(job, "zip")))
    export = PAPERS_OF.get(kind) or EXPORTS.get(kind)
    if export is None:
        raise NotFound("There is no such file.")
    try:
        made = export.make(job, plan(job, shop, learnt), shop.rule, paper, part)
    except PlanError as error:
        said = error.message(shop.units)
        return page("message.html", request, 422, title=export.missing, message=said, unit=shop.rule, here="jobs")
    headers = attachment(f"{export.called}-{file_name(job, export.ending)}")
    return Response(made, media_type=export.media_type, headers=headers)


@router.get("/jobs/{job_id}/form/mine")
def forms_of_mine(request: Request, job_id: Id, tolerance: str = "") -> Response:
    """Whether a form that was built for another job would do for this one."""
    store = store_of(request)
    with store.connected():
        state, unit = store.jobs.get(job_id), store.shop_settings.get().rule
        typed = tolerance[:40] or format_length(TOLERANCE_MM, unit, decimals=2, with_unit=False)
        fault, lines, message, tried, kept = "", [], "", 0, store.forms.count()
        try:
            read = TOLERANCE.read({"tolerance": typed}, unit)
            fault = read.faults.get("tolerance", "")
            if not fault:
                lines, tried, message = form_candidates(store, state.job, read["tolerance"], job_id)
        except PlanError as error:
            fault = error.message(unit)
    return page(
        "forms.html",
        request,
        422 if fault else 200,
        state=state,
        forms=lines,
        tried=tried,
        kept=kept,
        message=message,
        veneer_mm=VENEER_MM,
        tolerance=TOLERANCE.inputs(unit, {}, {"tolerance": typed}, {"tolerance": fault} if fault else {})["tolerance"],
        unit=unit,
        here="jobs",
    )


@router.get("/jobs/{job_id}/offsets/print")
def offsets(request: Request, job_id: Id) -> Response:
    """The table of offsets as a page to print."""
    store = store_of(request)
    with store.connected():
        view = view_of(request, job_id, "form")
    if "radius" not in view.x:
        raise NotFound("This job is bent without a form, so there are no offsets to print.")
    rows = [
        (format_length(o.station_mm, view.unit), format_length(o.height_mm, view.unit))
        for o in (view.drawn.offsets if isinstance(view.drawn, Plan) else ())
    ]
    return page("offsets.html", request, v=view, rows=rows, unit=view.unit, here="jobs")
