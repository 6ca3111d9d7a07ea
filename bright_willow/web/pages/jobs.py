"""The list of jobs: start one, open one, bring one in from a file."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass, fields
from typing import Annotated
from urllib.parse import urlencode

from fastapi import APIRouter, Query, Request
from fastapi.responses import Response
from markupsafe import Markup
from starlette.datastructures import UploadFile

from ...core.common.errors import PlanError
from ...core.common.units import Unit, format_length
from ...core.job.faults import JobFaulty
from ...core.job.new_job import starting_job, starting_shop
from ...core.job.schedule_choice import Days
from ...core.methods.method_registry import stages_for
from ...core.plan.read_job import read_job
from ...core.shop.shop import Shop
from ...core.wood.species import wood_table
from ...services.importing import Importer
from ...services.schedule import shop_days
from ...services.summaries import JobLine, refresh_for_page
from ...store.bundle import keep_bundle
from ...store.bundle_file import MOST_EACH, is_bundle
from ...store.records import DamagedRow, JobState, Page
from ...store.repositories.job_search import ORDERS, STATES, JobQuery
from ...store.repositories.job_summaries import JobSummary
from ...store.store import Store
from ..common import (
    Id,
    Number,
    attachment,
    go_to,
    now_of,
    page,
    planned,
    store_of,
    today_of,
    wants_parts,
)
from ..forms.find_forms import job_finding
from ..stages.days import due_soon
from .import_outline import Read, outline_of, read_outline
from .quick import quick_values

router = APIRouter(include_in_schema=False)
UNIT_FACT = "unit"  # whether a shop has been asked for its unit
INCH_LANGUAGES = ("en-us", "es-us", "en-lr", "my-mm")
NEARLY_STRAIGHT_MM = 10_000.0  # a list says no radius of such a piece: nobody makes a trammel of ten meters
LESS = 0.3  # of one's own, that the bends of another shop count where they are to count less. Grade: allowance.
OUTLINES = (".svg", ".dxf", ".csv", ".txt", ".tsv")  # drawings and points, not job files


@dataclass(frozen=True)
class Card:
    """A job on the list: its curve, what it is, where it stands and what comes next; is_old while a change of the shop
    or its book is still being worked into it."""

    id: int
    name: str
    drawing: Markup
    message: str
    state: str
    next_stage: str
    next_text: str
    level: str
    problem: str
    gravest: str
    is_old: bool
    tags: tuple[str, ...]


def _name(state: JobState | DamagedRow) -> str:
    return state.job.name if isinstance(state, JobState) else state.name


def _address(sought: JobQuery) -> str:
    """What is looked for, and in which order, as an address."""
    names = {"name": "find"}
    return urlencode({names.get(f.name, f.name): getattr(sought, f.name) for f in fields(sought)})


def _card(
    state: JobState,
    made_of: Mapping[int, tuple[int, int]],
    line_of: Mapping[int, JobSummary],
    unit: Unit,
    again_of: Mapping[int, int],
) -> Card:
    """A job of the list.

    Args:
        state: the job.
        made_of: how many forms each job has, and how many pieces off them.
        line_of: what lists show of each job.
        unit: of the shop.
        again_of: how many pieces of each job are due to be measured again.
    """
    forms, pieces = made_of.get(state.id, (0, 0))
    line, again = line_of.get(state.id), again_of.get(state.id, 0)
    part = state.job.part
    rows = stages_for(state.job)
    done = {"form": forms > 0, "pieces": pieces > 0}
    open_rows = [r for r in rows if not done.get(r.is_done_by, r.key in state.settled)]
    # what is settled by hand comes first; a form or pieces only once all of that is
    by_hand = [r for r in open_rows if r.is_done_by == "hand"]
    made_rows = [r for r in open_rows if r.is_done_by == "form"]
    nextup = (by_hand or made_rows or rows[-1:])[0]
    standing = (
        f"{pieces} of {part.count} measured"
        if pieces
        else "form built"
        if forms
        else "planning"
        if state.settled
        else "just started"
    )
    next_text = nextup.next_text
    if again:
        nextup, next_text = rows[-1], "measure again"
        standing += f"; measure {again} again"
    elif pieces >= part.count:
        nextup, next_text = rows[-1], "see what it showed"
    shown = JobLine.read(line.body) if line else JobLine()
    message = f"{part.count} pieces, {format_length(part.thickness_mm, unit)} × {format_length(part.width_mm, unit)}"
    problem = (shown.problems or {}).get(unit, "")
    if problem:
        next_text = "see the Stop check"
    elif shown.wood:
        size = f"{format_length(part.thickness_mm, unit)} × {format_length(part.width_mm, unit)}"
        tightest = f"{'R' if shown.is_arc else 'tightest R'} {format_length(shown.least_radius_mm, unit)} inside"
        bend = tightest if shown.least_radius_mm < NEARLY_STRAIGHT_MM else "nearly straight"
        message = f"{part.count} × {shown.wood}, {size}, {bend}"
    return Card(
        state.id,
        state.job.name,
        Markup(shown.drawing),
        "" if problem else message,
        standing,
        nextup.key,
        next_text,
        shown.level,
        problem,
        "" if problem else shown.gravest,
        line is None or line.is_old,
        state.job.tags,
    )


def unit_of_browser(languages: str) -> Unit:
    """Return the unit a reader of a browser measures in, by the first language it asks for.

    >>> unit_of_browser("en-US,en;q=0.9"), unit_of_browser("de-CH,de;q=0.9"), unit_of_browser("")
    ('in', 'mm', 'mm')
    """
    return "in" if languages.split(",")[0].split(";")[0].strip().lower() in INCH_LANGUAGES else "mm"


def _unit_of_a_new_shop(request: Request, store: Store) -> bool:
    """Whether a shop nobody has set up yet still asks for its unit; it begins with that of the browser."""
    known = store.fact(UNIT_FACT)
    if not known and store.jobs.count() == 0 and store.shop_settings.get() == Shop() and not request.scope.get("guest"):
        known = "guessed"
        store.note(UNIT_FACT, known)
        store.shop_settings.save(starting_shop(unit_of_browser(request.headers.get("accept-language", ""))))
    return known == "guessed"


def _list(
    request: Request,
    status: int = 200,
    fault: str = "",
    number: int = 1,
    away_number: int = 0,
    sought: JobQuery | None = None,
    archived: int = 0,
) -> Response:
    store, sought = store_of(request), sought or JobQuery()
    with store.connected():
        today = today_of(request)
        asks_unit = _unit_of_a_new_shop(request, store)
        every = store.jobs.count()
        pages = Page(number, store.job_search.count(sought) if sought.asks else every)
        away = Page(away_number, store.jobs.count(away=True))
        listed = store.job_search.page(sought, pages, today)
        ids = {s.id for s in listed}
        again = store.job_search.again_due(ids, today)
        ways, woods = store.job_search.in_use()
        tags = store.job_search.tags()
        refresh_for_page(store, ids)
        shop, lines, made = store.shop_settings.get(), store.summaries.of_jobs(ids), store.pieces.counts_by_job(ids)
        cards = [_card(s, made, lines, shop.rule, again) if isinstance(s, JobState) else s for s in listed]
        put_away = [(s.id, _name(s), s) for s in store.jobs.page(away, away=True)]
        damaged = store.shop_settings.damaged()
        archived_name = store.jobs.archived_name(archived) if archived else ""
        days = shop_days(store, now_of(request)) if store.progress.has_week() else None
    names = wood_table(shop.woods)
    first = {} if every or sought.asks else quick_values(request, {})
    return page(
        "jobs.html",
        request,
        status,
        rows=cards,
        asks_unit=asks_unit,
        every=every,
        sought=sought,
        finding=job_finding(sought, ways, {k: names[k].name for k in (woods or names) if k in names}, tags),
        sought_query=f"&{_address(sought)}",
        pages=pages,
        put_away=put_away,
        away=away,
        away_open=bool(away_number),
        damaged=damaged,
        shop=shop,
        unit=shop.rule,
        fault=fault,
        sample=request.app.state.sample.address,
        sample_opens=request.app.state.sample.is_opening,
        archived=archived,
        archived_name=archived_name,
        due=due_soon(days) if days else [],
        **{name: value for name, value in first.items() if name not in ("unit", "here")},
        here="jobs",
    )


@router.get("/")
def jobs(
    request: Request,
    at: Number = 1,
    away: Annotated[int, Query(ge=0, le=10**9)] = 0,
    find: Annotated[str, Query(max_length=200)] = "",
    way: Annotated[str, Query(max_length=60)] = "",
    wood: Annotated[str, Query(max_length=80)] = "",
    state: Annotated[str, Query(max_length=20)] = "",
    tag: Annotated[str, Query(max_length=40)] = "",
    order: Annotated[str, Query(max_length=20)] = "next",
    archived: Annotated[int, Query(ge=0, le=10**9)] = 0,
) -> Response:
    """The list of jobs: of those asked for, in the order asked for."""
    states, orders = state if state in STATES else "", order if order in ORDERS else "next"
    sought = JobQuery(find.strip(), way, wood, states, tag, orders)
    made = _list(request, number=at, away_number=away, sought=sought, archived=archived)
    if request.app.state.sample.is_opening:
        made.headers["refresh"] = "2"  # its address stands here once it is open
    return made


@router.get("/raw/{kind}/{row_id}")
def raw(request: Request, kind: str, row_id: Id) -> Response:
    """The text of a row as it lies in the file: what cannot be read can be taken away."""
    store = store_of(request)
    with store.connected():
        text = store.raw(kind, row_id)
    return Response(text, media_type="text/plain", headers=attachment(f"{kind}-{row_id}.txt"))


@router.post("/jobs")
def start(request: Request) -> Response:
    store = store_of(request)
    with store.connected():
        job_id = store.jobs.add(starting_job(store.shop_settings.get().units))
    return go_to(f"/jobs/{job_id}/shape?new=1")


@router.post("/jobs/bring")
async def bring(request: Request) -> Response:
    """A job out of a job file, or a new job whose shape is the outline in a drawing."""
    async with request.form(max_files=1, max_fields=4) as form:
        upload = form.get("file")
        raw = await upload.read() if isinstance(upload, UploadFile) else b""
        name = (upload.filename or "") if isinstance(upload, UploadFile) else ""
        unit, teaches = form.get("unit"), form.get("teaches")
    if is_bundle(raw):
        importer: Importer = request.app.state.importer
        answer: Response = await importer.asked(_bring_bundle, request, raw, str(teaches or "yes"))
        return answer
    if not name.lower().endswith(OUTLINES):
        return await planned(request, _bring, request, raw)
    typed = {"unit": unit if isinstance(unit, str) else "file"}
    return await planned(request, _bring_outline, request, await read_outline(request, raw, name, typed), name, typed)


def _bring_outline(request: Request, read: Read | PlanError, name: str, typed: dict[str, str]) -> Response:
    store = store_of(request)
    with store.connected():
        shop = store.shop_settings.get()
    try:
        if isinstance(read, PlanError):
            raise read
        job = starting_job(shop.units)
        shape, _ = outline_of(job, read, name, typed)
        title = name.rsplit(".", 1)[0].strip()[:100] or "Imported"
        made = read_job({**job.model_dump(), "shape": shape, "name": title}, shop.units, shop.woods)
    except PlanError as error:
        return _list(request, 422, error.message(shop.units))
    except JobFaulty as error:
        return _list(request, 422, " ".join(f.message for f in error.faults[:5]))
    with store.connected():
        job_id = store.jobs.add(made, f"imported {name}"[:200])
    return go_to(f"/jobs/{job_id}/shape")


def _bring(request: Request, raw: bytes) -> Response:
    store = store_of(request)
    if not raw:
        return _list(request, 422, "Choose a job file first: .json, or .zip with its records.")
    if len(raw) > MOST_EACH:
        return _list(request, 422, f"A job file of up to {MOST_EACH // 1_000_000} MB, please.")
    try:
        with store.connected():
            woods = store.shop_settings.get().woods
        job = read_job(json.loads(raw.decode("utf-8-sig")), woods=woods)
    except (ValueError, RecursionError) as error:
        if isinstance(error, JobFaulty):
            told = " ".join(f"{f.field}: {f.message}" for f in error.faults[:5])
            return _list(request, 422, f"That file is not a job this program can plan. {told}")
        return _list(request, 422, "That file is not a job: it cannot be read as JSON.")
    with store.connected():
        own = job.model_copy(update={"days": Days()})  # what was pinned was by another shop's clock
        job_id = store.jobs.add(own, "imported from a file")
    return go_to(f"/jobs/{job_id}/shape")


def _bring_bundle(request: Request, raw: bytes, teaches: str) -> Response:
    """A job with its forms, pieces, runs, photos and trials. teaches: yes, less (a third) or no."""
    store = store_of(request)
    try:
        with store.connected():
            woods = store.shop_settings.get().woods
        read = request.app.state.importer.bundle(raw, woods)
        with store.connected():
            job_id = keep_bundle(store, read, teaches=teaches != "no")
            if teaches == "less":
                store.logbook.set_share(job_id, LESS)
    except JobFaulty as error:
        told = " ".join(f"{f.field}: {f.message}" for f in error.faults[:5])
        return _list(request, 422, f"The job in that file is not one this program can plan. {told}")
    except PlanError as error:
        return _list(request, 422, str(error))
    return go_to(f"/jobs/{job_id}/shape")


@router.post("/jobs/{job_id}/copy")
def copy(request: Request, job_id: Id) -> Response:
    store = store_of(request)
    with store.connected():
        job = store.jobs.get(job_id).job
        again = {"name": f"{job.name[:112]}, copy", "days": Days()}  # it has its days still to come
        new = store.jobs.add(job.model_copy(update=again), f"copied from {job.name}"[:200])
    return go_to(f"/jobs/{new}/shape")


@router.post("/jobs/{job_id}/away")
def put_away(request: Request, job_id: Id) -> Response:
    store = store_of(request)
    with store.connected():
        store.jobs.archive(job_id)
    return go_to(f"/?archived={job_id}")


@router.post("/jobs/{job_id}/back")
def bring_back(request: Request, job_id: Id) -> Response:
    store = store_of(request)
    with store.connected():
        store.jobs.archive(job_id, away=False)
    return go_to("/")


@router.post("/units")
def units(request: Request, to: Unit, back: str = "/") -> Response:
    """Show every length in mm, or in inches and fractions."""
    store = store_of(request)
    with store.connected():
        is_new = store.fact(UNIT_FACT) == "guessed" and store.jobs.count() == 0
        store.shop_settings.save(
            starting_shop(to) if is_new else store.shop_settings.get().model_copy(update={"units": to})
        )
        store.note(UNIT_FACT, "chosen")
    if wants_parts(request):
        return Response(status_code=204)
    return go_to(back if back.startswith("/") and not back.startswith(("//", "/\\")) else "/")
