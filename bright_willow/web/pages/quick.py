"""The quick answer: seven fields, six lines, a drawing; printed, sent as a link, or made a job. Nothing is kept."""

from __future__ import annotations

from typing import Any, Literal
from urllib.parse import urlencode

from fastapi import APIRouter, Request
from fastapi.responses import Response
from markupsafe import Markup

from ...calendar.shop_clock import zone_of
from ...core.common.errors import PlanError
from ...core.job.faults import JobFaulty
from ...core.methods.method_registry import stages_for
from ...core.plan.quick import QuickAnswer
from ...drawing.export import EXPORTS, PAPERS_OF
from ..common import attachment, go_to, now_of, page, planned, quick_px, store_of, typed_in
from ..quick_view import QuickQuestion, answered, form_values, question_of, quick_view
from .take import file_name

router = APIRouter(include_in_schema=False)
ANSWERED = ("shape", "way")  # stages a question has settled
PRINTS = {"form": ("pdf", EXPORTS), "sheet": ("sheet_short", PAPERS_OF)}


@router.get("/quick")
async def quick(request: Request) -> Response:
    """The whole page, for what the address asks."""
    return await planned(request, _shown, request, dict(request.query_params), "quick.html")


@router.get("/quick/answer")
async def answer(request: Request) -> Response:
    """The answer alone, while something is typed."""
    return await planned(request, _shown, request, dict(request.query_params), "parts/quick_answer.html")


def _shown(request: Request, asked: dict[str, str], template: str) -> Response:
    values = quick_values(request, asked)
    return page(template, request, 422 if values["q"].faults else 200, **values)


def quick_values(request: Request, asked: dict[str, str]) -> dict[str, Any]:
    """What the quick answer shows, on its own page or as the first page of an empty shop."""
    store = store_of(request)
    with store.connected():
        shop, learnt = store.shop_settings.get(), store.training.learned()
    question = question_of(asked, shop)
    made = answered(question, shop, learnt)
    now = now_of(request).astimezone(zone_of(shop.week))
    return {
        **form_values(question),
        "a": quick_view(question, made, shop, learnt, now, quick_px(request)),
        "paper": shop.label_paper,
        "unit": shop.rule,
        "here": "jobs",
    }


@router.get("/quick/link")
async def link(request: Request) -> Response:
    """The question as a link, and as a code to photograph."""
    return await planned(request, _link, request, dict(request.query_params))


def _link(request: Request, asked: dict[str, str]) -> Response:
    import segno

    store = store_of(request)
    with store.connected():
        shop = store.shop_settings.get()
    question = question_of(asked, shop)
    url = str(request.url.replace(path="/quick", query=question.query))
    code = segno.make(url, micro=False, error="l").svg_inline(
        scale=4, border=2, svgclass=None, lineclass=None, omitsize=True
    )
    return page(
        "quick_link.html",
        request,
        url=url,
        code=Markup(code),
        back=f"/quick?{question.query}",
        unit=shop.rule,
        here="jobs",
    )


@router.get("/quick/print/{kind}")
async def print_it(request: Request, kind: Literal["form", "sheet"], paper: Literal["a4", "letter"] = "a4") -> Response:
    """The form at full size, or one page for the bench, as a PDF."""
    return await planned(request, _printed, request, dict(request.query_params), kind, paper)


def _printed(request: Request, asked: dict[str, str], kind: str, paper: str) -> Response:
    store = store_of(request)
    with store.connected():
        shop, learnt = store.shop_settings.get(), store.training.learned()
    question = question_of(asked, shop)
    made = answered(question, shop, learnt)
    if not isinstance(made, QuickAnswer):
        return go_to(f"/quick?{urlencode(asked)}")
    name, table = PRINTS[kind]
    export = table[name]
    try:
        body = export.make(made.plan.job, made.plan, shop.rule, paper, None)
    except PlanError as error:
        said = error.message(shop.units)
        return page("message.html", request, 422, title=export.missing, message=said, unit=shop.rule, here="jobs")
    headers = attachment(f"{export.called}-{file_name(made.plan.job, export.ending)}")
    return Response(body, media_type=export.media_type, headers=headers)


@router.post("/quick/job")
async def make_job(request: Request) -> Response:
    """A full job with everything that was asked and proposed, at the first stage that leaves something to decide."""
    return await planned(request, _make_job, request, await typed_in(request))


def _make_job(request: Request, asked: dict[str, str]) -> Response:
    store = store_of(request)
    with store.connected():
        shop, learnt = store.shop_settings.get(), store.training.learned()
        question: QuickQuestion = question_of(asked, shop)
        made = answered(question, shop, learnt)
        job = made.plan.job if isinstance(made, QuickAnswer) else question.job
        if job is None:
            return _shown(request, asked, "quick.html")
        try:
            job_id = store.jobs.add(job)
        except JobFaulty:
            return _shown(request, asked, "quick.html")
        rows = [row.key for row in stages_for(job)]
        settled = [key for key in ANSWERED if key in rows]
        for key in settled:
            store.jobs.mark_done(job_id, key)
    return go_to(f"/jobs/{job_id}/{next(key for key in rows if key not in settled)}")
