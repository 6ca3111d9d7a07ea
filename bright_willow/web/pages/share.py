"""A job to share: one page that opens anywhere, with its drawing, answers, steps and sheets; it can only be read."""

from __future__ import annotations

import base64
import re
from functools import cache
from pathlib import Path

from fastapi import APIRouter, Request
from fastapi.responses import Response
from markupsafe import Markup

from ... import __version__
from ...core.common.errors import PlanError
from ...core.methods.method_registry import stages_for
from ...core.plan.plan import checked_plan
from ...drawing.board import board_svg
from ...drawing.job_pack import PACK, pack_papers
from ...drawing.steps import steps_of, summary_of
from ..common import Id, attachment, page, planned, store_of
from ..render import render
from ..stages import PAGES
from ..stages.base import StageContext
from .take import file_name

router = APIRouter(include_in_schema=False)
OF_THE_SHOP = ("days", "bench", "measure")  # stages that show how this shop gets on, not how the piece is made
STATIC = Path(__file__).parents[1] / "static"


@cache
def _style() -> Markup:
    """The style sheets without the fonts, which are files of their own."""
    sheets = [(STATIC / name).read_text("utf-8") for name in ("vendor/bootstrap.min.css", "css/willow.css")]
    return Markup(re.sub(r"@font-face\s*{[^}]*}", "", "\n".join(sheets)).replace("</", "<\\/"))


@router.get("/jobs/{job_id}/share.html")
async def share(request: Request, job_id: Id, paper: str = "") -> Response:
    """The job as one file: nothing in it is asked for from elsewhere, and nothing of the shop's records is in it."""
    return await planned(request, _shared, request, job_id, paper)


def _shared(request: Request, job_id: int, paper: str) -> Response:
    store = store_of(request)
    with store.connected():
        job, shop, learnt = store.jobs.get(job_id).job, store.shop_settings.get(), store.training.learned()
    made = checked_plan(job, shop, learnt)
    if isinstance(made, PlanError):
        message = made.message(shop.units)
        return page(
            "message.html", request, 422, title="Nothing to share yet", message=message, unit=shop.rule, here="jobs"
        )
    look = StageContext(made.job, shop, learnt, made, None)
    rows = [row for row in stages_for(job) if row.key not in OF_THE_SHOP]
    paper = paper if paper in ("a4", "letter") else shop.label_paper
    sheets = []
    for key, (name, _) in PACK.items():
        for body in pack_papers(made, [key], paper=paper, unit=shop.rule)[0]:
            data = base64.b64encode(body).decode()
            sheets.append((name, f"{key}-{file_name(job, 'pdf')}", Markup(f"data:application/pdf;base64,{data}")))
    html = render(
        "share.html",
        style=_style(),
        job=job,
        shop_name=shop.name,
        board=Markup(board_svg(made.job, made, stage="form", unit=shop.rule, segments=False)),
        answers=[(row.name, PAGES[row.key].answer(look)) for row in rows],
        checks=[f for f in made.findings if f.level != "fit"],
        steps=steps_of(made),
        summary=summary_of(made),
        sheets=sheets,
        version=__version__,
    )
    return Response(html, media_type="text/html; charset=utf-8", headers=attachment(file_name(job, "html")))
