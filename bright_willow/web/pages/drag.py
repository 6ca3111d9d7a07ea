"""Things taken hold of on the drawing: handles of a shape, the closing direction and the splits of a form."""

from __future__ import annotations

from typing import Any

import numpy as np
from fastapi import APIRouter, Request
from fastapi.responses import JSONResponse, Response

from ...core.common.errors import PlanError
from ...core.form.closing import direction_to, split_at
from ...core.job.faults import JobFaulty
from ...core.job.job import Job
from ...core.plan.plan import sketch
from ...core.plan.read_job import read_job, with_shape
from ...core.plan.result import Sketch
from ...core.shape.handle_drag import pulled
from ...drawing.board import crown_mm
from ..common import Id, planned, show, store_of, view_of
from ..edits import EditBase, base_of, changed_meanwhile, keep_joined

router = APIRouter(include_in_schema=False)


@router.post("/jobs/{job_id}/pull")
async def pull(
    request: Request, job_id: Id, handle: str, x: float, y: float, frame: str = "", keep: int = 0
) -> Response:
    """A handle of the drawing pulled to a point (drawing coordinates, mm, y downwards). Kept when it is let go."""
    return await planned(request, _pull, request, job_id, handle, (x, y), frame, bool(keep))


def _pull(request: Request, job_id: int, handle: str, place: tuple[float, float], frame: str, keep: bool) -> Response:
    x, y = place
    if len(handle) > 40 or not all(abs(v) < 1e6 for v in (x, y)):
        return JSONResponse({"faults": [{"field": "handle", "says": "There is no such handle."}]}, 422)
    with store_of(request).connected():
        base = base_of(request, job_id)
        job, shop = base.job, base.shop
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
            made = with_shape(job, shape, shop.units, shop.woods)
        except (PlanError, JobFaulty) as error:
            if isinstance(error, PlanError) and error.field == "handle":
                return JSONResponse({"faults": [{"field": "handle", "says": str(error)}]}, 422)
            return Response(status_code=204)  # as far as it goes
        if keep:
            return _kept(request, base, made, "shape")
        return show(request, view_of(request, job_id, "shape", job=made, frame=frame, passing=True), parts=True)


@router.post("/jobs/{job_id}/form/pull")
async def pull_form(
    request: Request, job_id: Id, handle: str, x: float, y: float, frame: str = "", keep: int = 0
) -> Response:
    """The arrow of the closing direction, or a split, pulled to a point of the drawing."""
    return await planned(request, _pull_form, request, job_id, handle, (x, y), frame, bool(keep))


def _pull_form(
    request: Request, job_id: int, handle: str, place: tuple[float, float], frame: str, keep: bool
) -> Response:
    x, y = place
    store = store_of(request)
    name, _, tail = handle.partition("-")
    if name not in ("close", "split") or not tail.isascii() or not tail.isdigit() or not abs(x) + abs(y) < 1e6:
        return JSONResponse({"faults": [{"field": "handle", "says": "There is no such handle."}]}, 422)
    with store.connected():
        base, learnt = base_of(request, job_id), store.training.learned()
        job, shop = base.job, base.shop
        try:
            made = _form_pulled(job, sketch(job, shop, learnt), name, int(tail[:3]), (x, -y))
            made = read_job(made.model_dump(), shop.units, shop.woods)
            sketch(made, shop, learnt)
        except (PlanError, JobFaulty):
            return Response(status_code=204)  # as far as it goes
        if keep:
            return _kept(request, base, made, "form")
        return show(request, view_of(request, job_id, "form", job=made, frame=frame, passing=True), parts=True)


def _kept(request: Request, base: EditBase, made: Job, stage: str) -> Response:
    """A drag that is let go."""
    try:
        return keep_joined(request, base, made, "dragged on the drawing", stage, parts=True)
    except JobFaulty:
        return changed_meanwhile(request, base, stage)


def _form_pulled(job: Job, made: Sketch, name: str, number: int, place: tuple[float, float]) -> Job:
    """The job with its closing direction or a split where the hand is. Raises: PlanError where there is none."""
    face, closing = made.face, made.form.closing
    hand = np.array(place) - np.array([0.0, crown_mm(job, made)])
    if name == "close":
        sets: dict[str, Any] = {"close_deg": direction_to(face, hand, outwards=face.side == "inner")}
    else:
        if closing is None or number >= len(closing.pressers) - 1:
            raise PlanError("handle", "There is no such handle.")
        splits = [p.start_mm - face.middle_mm for p in closing.pressers[1:]]
        splits[number] = split_at(face, hand, 1.0)
        sets = {"splits_mm": tuple(sorted(splits))}
    return job.with_form_as_drawn(job.form_as_drawn.model_copy(update=sets))
