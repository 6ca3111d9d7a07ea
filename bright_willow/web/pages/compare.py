"""Two variants of a job side by side: the job as it is, and one with a few figures changed."""

from __future__ import annotations

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ..common import Id, go_to, page, planned, store_of, typed_in
from ..compare_view import compare_rows, compared, variant_of

router = APIRouter(include_in_schema=False)


@router.get("/jobs/{job_id}/compare")
async def compare(request: Request, job_id: Id) -> Response:
    """Show both variants; what is not asked is as in the job."""
    return await planned(request, _compared, request, job_id, dict(request.query_params))


def _compared(request: Request, job_id: int, typed: dict[str, str]) -> Response:
    store = store_of(request)
    with store.connected():
        state, shop, learnt = store.jobs.get(job_id), store.shop_settings.get(), store.training.learned()
    variant = variant_of(state.job, typed, shop)
    now = compared(state.job, shop, learnt)
    other = compared(variant.job, shop, learnt) if variant.job else None
    rows = compare_rows(now.plan, other.plan, shop, learnt) if now.plan and other and other.plan else []
    return page(
        "compare.html",
        request,
        422 if variant.faults else 200,
        state=state,
        job=state.job,
        variant=variant,
        now=now,
        other=other,
        rows=rows,
        is_same=variant.job == state.job,
        unit=shop.rule,
        here="jobs",
    )


@router.post("/jobs/{job_id}/compare")
async def use_this(request: Request, job_id: Id) -> Response:
    """Make the job the other variant; undo brings back what it was."""
    return await planned(request, _use, request, job_id, await typed_in(request))


def _use(request: Request, job_id: int, typed: dict[str, str]) -> Response:
    store = store_of(request)
    with store.connected():
        state, shop = store.jobs.get(job_id), store.shop_settings.get()
        variant = variant_of(state.job, typed, shop)
        if variant.job is not None:
            store.jobs.save(job_id, variant.job, "used the other variant")
    if variant.job is None:
        return _compared(request, job_id, typed)
    return go_to(f"/jobs/{job_id}/way")
