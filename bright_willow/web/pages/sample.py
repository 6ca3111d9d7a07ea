"""The sample shop, opened and closed from the page of jobs."""

from __future__ import annotations

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ..common import go_to, page, planned, store_of

router = APIRouter(include_in_schema=False)


@router.post("/sample/open")
async def open_sample(request: Request) -> Response:
    """Open the sample shop beside this one; its address then stands on the page of jobs."""
    return await planned(request, _open, request)


def _open(request: Request) -> Response:
    if not request.app.state.sample.open(str(request.base_url)):
        store = store_of(request)
        with store.connected():
            unit = store.shop().rule
        says = "The sample shop did not open. Open it from a terminal with: bright-willow demo"
        return page("message.html", request, 503, title="Not opened", says=says, raw="", unit=unit, here="jobs")
    return go_to("/#sample")


@router.post("/sample/close")
async def close_sample(request: Request) -> Response:
    """Close the sample shop; what was tried in it stays for the next time."""
    await planned(request, request.app.state.sample.close)
    return go_to("/")
