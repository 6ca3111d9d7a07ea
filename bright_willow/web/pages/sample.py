"""The sample shop, opened and closed from the page of jobs."""

from __future__ import annotations

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ..common import go_to, planned

router = APIRouter(include_in_schema=False)


@router.post("/sample/open")
async def open_sample(request: Request) -> Response:
    """Begin to open the sample shop beside this one; its address then stands on the page of jobs."""
    await planned(request, request.app.state.sample.open, str(request.base_url))
    return go_to("/#sample")


@router.post("/sample/close")
async def close_sample(request: Request) -> Response:
    """Close the sample shop; what was tried in it stays for the next time."""
    await planned(request, request.app.state.sample.close)
    return go_to("/")
