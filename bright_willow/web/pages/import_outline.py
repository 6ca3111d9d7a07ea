"""An outline brought in out of a file."""

from __future__ import annotations

import asyncio
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import Response
from starlette.datastructures import UploadFile

from ...core.common.errors import PlanError
from ...core.common.units import MM_PER, parse_count, parse_number
from ...core.job.faults import JobFaulty
from ...core.job.job import Job
from ...core.plan.read_job import read_job
from ...drawing.outline_files import FileOutline, to_points_mm, to_stretches
from ...services.outline_reader import Reader
from ..common import Id, planned, show, store_of, view_of
from ..edits import base_of, keep_joined

router = APIRouter(include_in_schema=False)
Read = tuple[FileOutline, int, str]


@router.post("/jobs/{job_id}/outline")
async def bring_outline(request: Request, job_id: Id) -> Response:
    """An outline out of a file, in the unit and scale stated; nothing changes unless all of it can be used."""
    read, name, typed = await sent_outline(request)
    return await planned(request, _bring_outline, request, job_id, read, name, typed)


async def sent_outline(request: Request) -> tuple[Read | PlanError, str, dict[str, str]]:
    """What a file that was sent holds, read by a process of its own; its name, and what was typed beside it."""
    async with request.form(max_files=1, max_fields=8) as form:
        upload = form.get("file")
        raw = await upload.read() if isinstance(upload, UploadFile) else b""
        name = (upload.filename or "") if isinstance(upload, UploadFile) else ""
        typed = {k: v for k, v in form.multi_items() if isinstance(v, str)}
    return await read_outline(request, raw, name, typed), name, typed


async def read_outline(request: Request, raw: bytes, name: str, typed: dict[str, str]) -> Read | PlanError:
    """What a file holds, read by a process of its own."""
    reader: Reader = request.app.state.reader
    wait = asyncio.get_running_loop().run_in_executor
    return await wait(reader.waiting, _read, reader, raw, name, typed)


def _read(reader: Reader, raw: bytes, name: str, typed: dict[str, str]) -> Read | PlanError:
    try:
        which = parse_count(typed.get("which", "1") or "1", "which", "a number")
        return reader.read(raw, name, which)
    except PlanError as error:
        return error


def _bring_outline(request: Request, job_id: int, read: Read | PlanError, name: str, typed: dict[str, str]) -> Response:
    with store_of(request).connected():
        base = base_of(request, job_id)
        job, shop = base.job, base.shop
        try:
            if isinstance(read, PlanError):
                raise read
            shape, message = outline_of(job, read, name, typed)
            made = read_job({**job.model_dump(), "shape": shape}, shop.units, shop.woods)
            return keep_joined(request, base, made, f"imported {name}"[:200], "shape", file_text=message)
        except PlanError as error:
            return show(
                request, view_of(request, job_id, "shape", file_text=error.message(shop.units), file_fault=True), 422
            )
        except JobFaulty as error:
            told = " ".join(f.message for f in error.faults)
            return show(request, view_of(request, job_id, "shape", file_text=told, file_fault=True, refused=error), 422)


def file_unit(typed: dict[str, str], stated: str) -> str:
    """The unit of a file: the one chosen, or its own. Raises: PlanError where there is neither."""
    unit = typed.get("unit") or "file"
    if unit == "file" and not stated:
        raise PlanError("unit", "This file does not say its unit: choose one.")
    unit = stated if unit == "file" else unit
    if unit not in ("mm", "cm", "m", "in"):
        raise PlanError("unit", "Choose the unit of the file.")
    return unit


def outline_of(job: Job, read: Read, name: str, typed: dict[str, str]) -> tuple[dict[str, Any], str]:
    """The shape out of a file, in the unit and scale stated, and what to say of it. Raises: PlanError."""
    chosen, count, stated = read
    unit = file_unit(typed, stated)
    scale = parse_number(typed.get("scale", "1"), "scale", "a scale")
    shape: dict[str, Any] = {"face": job.shape.face}
    if chosen.chain:
        stretches = to_stretches(chosen, unit_mm=MM_PER[unit], scale=scale)
        shape |= {"kind": "polycurve", "stretches": stretches}
        said = f"Took {chosen.name} exactly, as {len(stretches)} straights and arcs, read in {unit}"
    else:
        points = to_points_mm(chosen, unit_mm=MM_PER[unit], scale=scale)
        shape |= {"kind": "outline", "points_mm": points, "slack_mm": 0.3, "source": name[:200] or "file"}
        said = f"Took {chosen.name}, smoothed through {len(points)} points, read in {unit}"
    longest = (typed.get("which", "1") or "1").strip() == "1"
    return shape, f"{said}; the longest of {count} outlines." if longest and count > 1 else f"{said}."
