"""The same answers for programs: plan a job, read its schema, see that the server is up."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter
from fastapi.responses import JSONResponse, Response
from pydantic import BaseModel, ConfigDict, TypeAdapter

from ... import __version__
from ...core.experience.belief import NOTHING_LEARNT, ExperienceFile, learn
from ...core.ground.errors import OutOfRange
from ...core.job.job import Job, JobFaulty, cross_faults
from ...core.plan.plan import plan
from ...core.plan.result import Plan
from ...core.shop.shop import Shop

router = APIRouter(prefix="/api", tags=["plan"])
PLAN = TypeAdapter(Plan)


class PlanRequest(BaseModel):
    """A job, and if wanted the shop it is made in and the bends to learn from."""

    model_config = ConfigDict(extra="forbid")
    job: Job
    shop: Shop = Shop()
    experience: ExperienceFile | None = None


class FaultOut(BaseModel):
    """One thing wrong with the input, and the field it belongs to."""

    field: str
    says: str


class Faults(BaseModel):
    """All things wrong with the input."""

    faults: list[FaultOut]


class Health(BaseModel):
    """The server is up."""

    status: str
    version: str


REFUSALS: dict[int | str, dict[str, Any]] = {
    400: {"model": Faults, "description": "The body is not readable text."},
    422: {"model": Faults, "description": "Something in the job cannot be used: every fault, with its field."},
}


@router.post("/plan", response_model=Plan, responses=REFUSALS)
async def make_plan(request: PlanRequest) -> Response:
    """The whole plan of a job, as `bright-willow plan` prints it."""
    if faults := cross_faults(request.job, request.shop.units, request.shop.woods):
        raise JobFaulty(faults)
    learnt = learn(request.experience.bends) if request.experience else NOTHING_LEARNT
    try:
        made = plan(request.job, request.shop, learnt)
    except OutOfRange as error:
        raise JobFaulty([error.fault(request.shop.units)]) from None
    return Response(PLAN.dump_json(made), media_type="application/json")


@router.get("/schema/job")
async def job_schema() -> JSONResponse:
    """JSON Schema of the job file."""
    return JSONResponse(Job.model_json_schema())


@router.get("/schema/plan")
async def plan_schema() -> JSONResponse:
    """JSON Schema of the plan."""
    return JSONResponse(PLAN.json_schema(mode="serialization"))


@router.get("/health", response_model=Health)
async def health() -> dict[str, str]:
    """The barest answer this server gives."""
    return {"status": "ok", "version": __version__}
