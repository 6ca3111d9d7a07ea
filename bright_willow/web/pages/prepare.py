"""Prepare: flaws dragged along boards, boards cut and taken back, a profile out of a file."""

from __future__ import annotations

from fastapi import APIRouter, Request
from fastapi.responses import JSONResponse, Response

from ...core.common.errors import PlanError
from ...core.common.units import MM_PER
from ...core.job.faults import JobFaulty
from ...core.job.job import Job
from ...core.plan.plan import sketch
from ...core.plan.read_job import read_job
from ...core.stock.prepared_stock import Prepared, flaw_moved, left_over
from ...drawing.outline_files import to_section_mm
from ...drawing.prepare_drawing import row_at
from ..common import (
    Id,
    go_to,
    planned,
    show,
    store_of,
    view_of,
)
from ..edits import base_of, changed_meanwhile, keep_joined
from .import_outline import Read, file_unit, sent_outline

router = APIRouter(include_in_schema=False)
NO_HANDLE = {"faults": [{"field": "handle", "says": "There is no such handle."}]}


@router.post("/jobs/{job_id}/prepare/pull")
async def pull_flaw(
    request: Request, job_id: Id, handle: str, x: float, y: float, frame: str = "", keep: int = 0
) -> Response:
    """A flaw pulled along its board or onto another (drawing coordinates, mm, y downwards)."""
    return await planned(request, _pull_flaw, request, job_id, handle, (x, y), bool(keep))


def _pull_flaw(request: Request, job_id: int, handle: str, place: tuple[float, float], keep: bool) -> Response:
    x, y = place
    name, _, tail = handle.partition("-")
    if name != "flaw" or not (tail.isascii() and tail.isdigit()) or not abs(x) + abs(y) < 1e6:
        return JSONResponse(NO_HANDLE, 422)
    store = store_of(request)
    with store.connected():
        base, number = base_of(request, job_id), int(tail[:3])
        ready = _prepared(base.job, request)
        if ready is None or ready.cut is None or number >= len(base.job.prepare.flaws):
            return JSONResponse(NO_HANDLE, 422)
        row = row_at(ready, -y)
        moved = flaw_moved(base.job, number, row.number, x, row.board.length_mm)
        try:
            made = read_job(moved.model_dump(), base.shop.units, base.shop.woods)
            if keep:
                return keep_joined(request, base, made, "dragged a flaw", "prepare", parts=True)
        except JobFaulty:
            return changed_meanwhile(request, base, "prepare") if keep else Response(status_code=204)
        return show(request, view_of(request, job_id, "prepare", job=made, passing=True), parts=True)


def _prepared(job: Job, request: Request) -> Prepared | None:
    store = store_of(request)
    try:
        return sketch(job, store.shop_settings.get(), store.training.learned()).prepared
    except PlanError:
        return None


@router.post("/jobs/{job_id}/cut")
def cut(request: Request, job_id: Id) -> Response:
    """The boards are sawn as drawn: off the rack, and what is left of them back to it."""
    store = store_of(request)
    with store.connected():
        base = base_of(request, job_id)
        if not base.is_now:
            return changed_meanwhile(request, base, "prepare")
        ready, lot = _prepared(base.job, request), base.job.stock.lot
        if ready is None or ready.cut is None or lot is None or ready.cut.short:
            refused = "There is nothing to cut."
        else:
            refused = store.board_cuts.add(job_id, lot.name, len(ready.cut.boards), left_over(lot, ready.cut))
        if refused:
            return show(request, view_of(request, job_id, "prepare", notice=refused), 409)
        store.jobs.mark_done(job_id, "prepare")
    return go_to(f"/jobs/{job_id}/prepare")


@router.post("/jobs/{job_id}/cut/back")
def cut_back(request: Request, job_id: Id) -> Response:
    """They were not sawn after all: the boards lie on the rack again, the off-cuts do not."""
    store = store_of(request)
    with store.connected():
        missing = store.board_cuts.undo(job_id)
        if missing:
            return show(request, view_of(request, job_id, "prepare", notice=missing))
    return go_to(f"/jobs/{job_id}/prepare")


@router.post("/jobs/{job_id}/prepare/profile")
async def bring_profile(request: Request, job_id: Id) -> Response:
    """The outline of a profile out of a file, in the unit it states; nothing changes unless it can be used."""
    read, name, typed = await sent_outline(request)
    return await planned(request, _bring_profile, request, job_id, read, name, typed)


def _bring_profile(request: Request, job_id: int, read: Read | PlanError, name: str, typed: dict[str, str]) -> Response:
    with store_of(request).connected():
        base = base_of(request, job_id)
        try:
            if isinstance(read, PlanError):
                raise read
            found, _, stated = read
            points = to_section_mm(found, unit_mm=MM_PER[file_unit(typed, stated)])
            data = base.job.model_dump()
            data["prepare"]["profile"] |= {"kind": "points", "points_mm": points, "source": name[:200]}
            made = read_job(data, base.shop.units, base.shop.woods)
            message = f"Imported {found.name} with {len(points)} points; its lower left corner is on the inside face."
            return keep_joined(request, base, made, f"imported {name}"[:200], "prepare", file_text=message)
        except PlanError as error:
            told = error.message(base.shop.units)
        except JobFaulty as error:
            told = " ".join(f.message for f in error.faults)
        return show(request, view_of(request, job_id, "prepare", file_text=told, file_fault=True), 422)
