"""Something breaks down at the bench: what to do at once, and how long each piece stays usable."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query, Request
from fastapi.responses import Response

from ...calendar.shop_clock import zone_of
from ...core.common.errors import PlanError
from ...core.execution.breakdowns import breakdowns_of, time_left
from ...core.execution.run_clock import said_s
from ..common import Id, go_to, page, planned, store_of
from ..practice_view import tap_button
from ..run_view import RunWords
from .runs import run_at

router = APIRouter(include_in_schema=False)


@router.get("/runs/{run_id}/breakdown")
async def show_breakdown(request: Request, run_id: Id, what: Annotated[str, Query(max_length=20)] = "") -> Response:
    """The list of what can break down in this run, and of the one chosen what to do."""
    return await planned(request, _breakdown, request, run_id, what)


def _breakdown(request: Request, run_id: int, what: str) -> Response:
    store = store_of(request)
    with store.connected():
        now, shop = run_at(request, run_id), store.shop_settings.get()
    kinds = breakdowns_of(now.brief)
    chosen = next((k for k in kinds if k.key == what), None)
    if now.live is None or now.run.ended is not None or (what and chosen is None):
        return go_to(f"/runs/{run_id}")
    words, lines = RunWords(now, shop, zone_of(shop.week)), []
    try:
        left = time_left(what, now.brief, now.state, now.live) if chosen else ()
    except PlanError:
        left = ()
    for one in left:
        until = ""
        if one.until_s is not None and one.until_s > now.now_s:
            until = f"until {words.clock(one.until_s)}, {said_s(one.until_s - now.now_s)} from now"
        elif one.until_s is not None:
            until = "its time is over"
        lines.append((one.name, one.message, until))
    return page(
        "breakdown.html",
        request,
        here="bench",
        unit=shop.units,
        run=now.run,
        name=now.name,
        kinds=kinds,
        chosen=chosen,
        lines=lines,
        clock=words.clock(now.now_s),
        note=tap_button("Write it in the run", "note", text=chosen.name if chosen else ""),
    )
