"""The guided first bend is begun, and left at any time."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query, Request
from fastapi.responses import Response

from ...core.job.new_job import first_bend
from ..common import go_to, store_of
from ..guide_texts import FACT

router = APIRouter(include_in_schema=False)


@router.post("/guide")
def begin(request: Request) -> Response:
    store = store_of(request)
    with store.connected():
        job_id = store.jobs.add(first_bend(store.shop_settings.get().units), "started with the guide")
        store.note(FACT, str(job_id))
    return go_to(f"/jobs/{job_id}/shape")


@router.post("/guide/leave")
def leave(request: Request, job: Annotated[int, Query(ge=1, le=2**62)]) -> Response:
    """The job stays; only the guide goes."""
    store = store_of(request)
    with store.connected():
        store.note(FACT, "")
    return go_to(f"/jobs/{job}/shape")
