"""The list of jobs: start one, open one, bring one in from a file."""

from __future__ import annotations

import json
from dataclasses import dataclass

from fastapi import APIRouter, Request
from fastapi.responses import Response
from markupsafe import Markup
from starlette.datastructures import UploadFile

from ...core.ground.errors import OutOfRange
from ...core.ground.units import MM_PER_INCH, Unit, format_length
from ...core.job.faults import JobFaulty
from ...core.job.job import Job, Part
from ...core.plan.plan import checked_sketch
from ...core.plan.read import read_job
from ...core.shape.kinds.arc_by_chord import ArcByChord
from ...core.ways.registry import stages_for
from ...drawing.board import thumbnail_svg
from ...store.book import JobState, KeptForm, Store
from ..common import Id, go_to, page, store_of, wants_parts
from ..views import is_settled

router = APIRouter(include_in_schema=False)


@dataclass(frozen=True)
class Card:
    """A job on the list: its curve, what it is, where it stands and what comes next."""

    id: int
    name: str
    drawing: Markup
    says: str
    state: str
    next_stage: str
    next_says: str
    level: str
    problem: str


def starting_job(unit: Unit) -> Job:
    """What a new job holds until its maker says otherwise."""
    inch = MM_PER_INCH
    shape, part = (
        (ArcByChord(kind="arc_by_chord", chord_mm=1000, rise_mm=200), Part(thickness_mm=24, width_mm=40))
        if unit == "mm"
        else (
            ArcByChord(kind="arc_by_chord", chord_mm=40 * inch, rise_mm=8 * inch),
            Part(thickness_mm=inch, width_mm=1.5 * inch, trim_mm=inch),
        )
    )
    return Job(name="New bend", shape=shape, part=part)


def _card(store: Store, state: JobState, forms: list[KeptForm]) -> Card:
    shop = store.shop()
    answer = checked_sketch(state.job, shop, store.learnt())
    unit = shop.units
    pieces = sum(len(f.pieces) for f in forms)
    part = state.job.part
    rows = stages_for(state.job)
    last = forms[-1] if forms else None
    # what is settled by hand comes first; a form or pieces only once all of that is
    by_hand = [r for r in rows if r.is_done_by == "hand" and not is_settled(r, state, last)]
    made = [r for r in rows if r.is_done_by == "form" and not is_settled(r, state, last)]
    nextup = (by_hand or made or rows[-1:])[0]
    standing = (
        f"{pieces} measured, {part.count} wanted"
        if pieces
        else "form built"
        if forms
        else "being planned"
        if state.settled
        else "just started"
    )
    next_says = nextup.next_says
    if pieces >= part.count:
        nextup, next_says = rows[-1], "look at what it taught"
    if isinstance(answer, OutOfRange):
        return Card(
            state.id,
            state.job.name,
            Markup(""),
            "",
            standing,
            nextup.key,
            "see what stops it",
            "stop",
            answer.says(unit),
        )
    levels = [f.level for f in answer.findings]
    level = "stop" if "stop" in levels else "watch" if "watch" in levels else "fit"
    g = answer.geometry
    tightest = "R" if g.inner.curve.lengths_mm.size == 1 else "tightest R"
    says = (
        f"{part.count} × {answer.way.wood.name}, {format_length(part.thickness_mm, unit)} × "
        f"{format_length(part.width_mm, unit)}, {tightest} {format_length(g.inner.least_radius_mm or 0, unit)} inside"
    )
    return Card(
        state.id, state.job.name, Markup(thumbnail_svg(answer)), says, standing, nextup.key, next_says, level, ""
    )


def _list(request: Request, status: int = 200, fault: str = "") -> Response:
    store = store_of(request)
    with store.connected():
        forms: dict[int, list[KeptForm]] = {}
        for form in store.forms():
            forms.setdefault(form.job_id, []).append(form)
        cards = [_card(store, s, forms.get(s.id, [])) for s in store.jobs()]
        away, shop = store.jobs_put_away(), store.shop()
    return page(
        "jobs.html", request, status, cards=cards, away=away, shop=shop, unit=shop.units, fault=fault, here="jobs"
    )


@router.get("/")
def jobs(request: Request) -> Response:
    return _list(request)


@router.post("/jobs")
def start(request: Request) -> Response:
    store = store_of(request)
    with store.connected():
        job_id = store.add_job(starting_job(store.shop().units))
    return go_to(f"/jobs/{job_id}/shape?new=1")


@router.post("/jobs/bring")
async def bring(request: Request) -> Response:
    """A job out of a file."""
    store = store_of(request)
    async with request.form(max_files=1, max_fields=4) as form:
        upload = form.get("file")
        raw = await upload.read() if isinstance(upload, UploadFile) else b""
    if not raw:
        return _list(request, 422, "Choose a job file first: it ends in .json.")
    try:
        with store.connected():
            woods = store.shop().woods
        job = read_job(json.loads(raw.decode("utf-8")), woods=woods)
    except (UnicodeDecodeError, json.JSONDecodeError, RecursionError):
        return _list(request, 422, "That file is not a job: it cannot be read as JSON.")
    except JobFaulty as error:
        told = " ".join(f"{f.field}: {f.says}" for f in error.faults[:5])
        return _list(request, 422, f"That file is not a job this program can plan. {told}")
    with store.connected():
        job_id = store.add_job(job, "brought in from a file")
    return go_to(f"/jobs/{job_id}/shape")


@router.post("/jobs/{job_id}/copy")
def copy(request: Request, job_id: Id) -> Response:
    store = store_of(request)
    with store.connected():
        job = store.job(job_id).job
        new = store.add_job(job.model_copy(update={"name": f"{job.name[:112]}, copy"}), f"copied from {job.name}"[:200])
    return go_to(f"/jobs/{new}/shape")


@router.post("/jobs/{job_id}/away")
def put_away(request: Request, job_id: Id) -> Response:
    store = store_of(request)
    with store.connected():
        store.put_away(job_id)
    return go_to("/")


@router.post("/jobs/{job_id}/back")
def bring_back(request: Request, job_id: Id) -> Response:
    store = store_of(request)
    with store.connected():
        store.put_away(job_id, away=False)
    return go_to("/")


@router.post("/units")
def units(request: Request, to: Unit, back: str = "/") -> Response:
    """Show every length in mm, or in inches and fractions."""
    store = store_of(request)
    with store.connected():
        store.save_shop(store.shop().model_copy(update={"units": to}))
    if wants_parts(request):
        return Response(status_code=204)
    return go_to(back if back.startswith("/") and not back.startswith(("//", "/\\")) else "/")
