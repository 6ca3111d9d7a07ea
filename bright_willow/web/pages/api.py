"""The same answers for programs: plan a job, read its schema, see that the server is up."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from fastapi import APIRouter, Query
from fastapi.responses import JSONResponse, Response
from pydantic import BaseModel, ConfigDict

from ... import __version__
from ...core.common.document import Message
from ...core.common.errors import PlanError
from ...core.job.faults import JobFaulty
from ...core.job.job import Job
from ...core.learning.belief import NOTHING_LEARNT, ExperienceFile, learn
from ...core.plan.plan import plan
from ...core.plan.plan_file import PLAN_FILE, PlanFile, plan_json
from ...core.plan.read_job import cross_faults, job_schema
from ...core.shop.shop import Shop

router = APIRouter(prefix="/api", tags=["plan"])


class PlanRequest(BaseModel):
    """A job, and if wanted the shop it is made in and the bends to learn from."""

    model_config = ConfigDict(extra="forbid")
    job: Job
    shop: Shop = Shop()
    experience: ExperienceFile | None = None


class FaultOut(BaseModel):
    """One thing wrong with the input, and the field it belongs to."""

    field: str
    message: Message


class Faults(BaseModel):
    """All things wrong with the input."""

    faults: list[FaultOut]


class Health(BaseModel):
    """The server is up."""

    status: str
    version: str


REFUSALS: dict[int | str, dict[str, Any]] = {
    400: {"model": Faults, "description": "The body is not readable text."},
    422: {"model": Faults, "description": "The job has faults: each is listed with its field."},
}


@router.post("/plan", response_model=PlanFile, responses=REFUSALS)
def make_plan(request: PlanRequest, with_: Annotated[Literal["", "parts"], Query(alias="with")] = "") -> Response:
    """The whole plan of a job, as `bright-willow plan` prints it; the outlines of the form's parts, which are most of
    it, only with `?with=parts`."""
    if faults := cross_faults(request.job, request.shop.units, request.shop.woods):
        raise JobFaulty(faults)
    learnt = learn(request.experience.bends) if request.experience else NOTHING_LEARNT
    try:
        made = plan(request.job, request.shop, learnt)
    except PlanError as error:
        raise JobFaulty([error.fault(request.shop.units)]) from None
    return Response(plan_json(made, parts=with_ == "parts"), media_type="application/json")


@router.get("/schema/job")
async def schema_of_job() -> JSONResponse:
    """JSON Schema of the job file."""
    return JSONResponse(job_schema())


@router.get("/schema/plan")
async def schema_of_plan() -> JSONResponse:
    """JSON Schema of the plan."""
    return JSONResponse(PLAN_FILE.json_schema(mode="serialization"))


@router.get("/health", response_model=Health)
async def health() -> dict[str, str]:
    """The barest answer this server gives."""
    return {"status": "ok", "version": __version__}
