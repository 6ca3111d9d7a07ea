"""The job pack: what hangs at the bench, chosen by ticks and printed as one PDF."""

from __future__ import annotations

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ...core.common.errors import PlanError
from ...core.methods.method_registry import stages_for
from ...core.plan.plan import checked_plan
from ...core.plan.result import Plan
from ...drawing.days_sheet import week_pdf
from ...drawing.job_pack import PACK, bound, pack_papers
from ...services.schedule import shop_days
from ...store.records import JobState
from ..common import Id, attachment, now_of, page, planned, store_of
from ..stages.days import job_days
from .take import file_name

router = APIRouter(include_in_schema=False)
SCHEDULE = "schedule"
PARTS = {**{key: name for key, (name, _) in PACK.items()}, SCHEDULE: "schedule, day by day"}
USUAL = ("sheet", "form", "cutlist")


@router.get("/jobs/{job_id}/pack")
async def pack(request: Request, job_id: Id) -> Response:
    """Show what can go into the pack."""
    return await planned(request, _shown, request, job_id, USUAL, "")


def _shown(request: Request, job_id: int, chosen: tuple[str, ...], fault: str) -> Response:
    store = store_of(request)
    with store.connected():
        state, shop, learnt = store.jobs.get(job_id), store.shop_settings.get(), store.training.learned()
    made = checked_plan(state.job, shop, learnt)
    parts = {key: name for key, name in PARTS.items() if isinstance(made, Plan) and _has(made, key)}
    if isinstance(made, PlanError):
        fault = made.message(shop.units)
    return page(
        "pack.html",
        request,
        422 if fault else 200,
        state=state,
        parts=parts,
        chosen=chosen,
        paper=shop.label_paper,
        fault=fault,
        unit=shop.rule,
        here="jobs",
    )


def _has(made: Plan, key: str) -> bool:
    """Whether a job has such a paper."""
    if key == "form":
        return not made.build.problem and any(row.key == "form" for row in stages_for(made.job))
    if key in ("cutlist", "labels"):
        return made.prepared is not None and made.prepared.problem is None
    if key == "frame":
        return made.hot is not None and made.hot.drying is not None and made.hot.drying.has_jig
    return True


@router.get("/jobs/{job_id}/pack.pdf")
async def pack_pdf(request: Request, job_id: Id, paper: str = "a4") -> Response:
    """Print what was ticked; where a part cannot be made it is said, and nothing is printed without it."""
    chosen = tuple(key for key in PARTS if key in request.query_params.getlist("part"))
    if not chosen:
        return await planned(request, _shown, request, job_id, USUAL, "Tick at least one.")
    return await planned(request, _printed, request, job_id, chosen, paper)


def _printed(request: Request, job_id: int, chosen: tuple[str, ...], paper: str) -> Response:
    store = store_of(request)
    with store.connected():
        state, shop, learnt = store.jobs.get(job_id), store.shop_settings.get(), store.training.learned()
    made = checked_plan(state.job, shop, learnt)
    if isinstance(made, PlanError):
        return _shown(request, job_id, chosen, made.message(shop.units))
    try:
        papers, missing = pack_papers(made, chosen, paper=paper, unit=shop.rule)
    except PlanError as error:
        return _shown(request, job_id, chosen, error.message(shop.units))
    if missing:
        return _shown(request, job_id, chosen, f"This job has no {' and no '.join(missing)}: clear that tick.")
    if SCHEDULE in chosen:
        papers.append(_schedule(request, state, paper))
    body = bound(papers, f"{state.job.name}, job pack")
    headers = attachment(f"pack-{file_name(state.job, 'pdf')}")
    return Response(body, media_type="application/pdf", headers=headers)


def _schedule(request: Request, state: JobState, paper: str) -> bytes:
    """The days of one job, laid among those of the others where it is in the schedule."""
    store = store_of(request)
    with store.connected():
        shop = store.shop_settings.get()
        days = shop_days(store, now_of(request), also=(state.id, state.job))
    lists, first, last = job_days(days, state.id)
    return week_pdf(state.job.name, lists, first, last, paper=paper, unit=shop.units)
