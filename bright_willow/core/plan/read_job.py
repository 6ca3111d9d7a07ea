"""Reading a job: every fault at once, those of single fields and those that only the whole shows."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from pydantic import ValidationError

from ..common.errors import Fault, PlanError
from ..common.units import Unit
from ..gluing.adhesive import adhesive
from ..job.faults import JobFaulty, faults_of
from ..job.job import Job
from ..job.job_rules import copies_fit, layers_fit
from ..methods.method_registry import WAYS, way_of
from ..shape.kinds.shape_base import ShapeBase
from ..wood.species import OwnWood, species


def read_job(data: Any, unit: Unit = "mm", woods: tuple[OwnWood, ...] = ()) -> Job:
    """A Job from parsed JSON. Raises: JobFaulty with all faults at once, each a sentence in the reader's unit.

    woods: the shop's own woods, which a job may name as well."""
    try:
        job = Job.model_validate(data)
    except ValidationError as error:
        raise JobFaulty(faults_of(error, unit)) from None
    if faults := cross_faults(job, unit, woods):
        raise JobFaulty(faults, job)
    return job


def with_shape(job: Job, shape: ShapeBase, unit: Unit = "mm", woods: tuple[OwnWood, ...] = ()) -> Job:
    """A job that was read, with another shape: that and what the whole shows is looked at anew. Raises: JobFaulty."""
    try:
        made = job.model_copy(update={"shape": type(shape).model_validate(shape.model_dump())})
    except ValidationError as error:
        raise JobFaulty([replace(f, field=f"shape.{f.field}") for f in faults_of(error, unit)]) from None
    if faults := cross_faults(made, unit, woods):
        raise JobFaulty(faults, made)
    return made


def cross_faults(job: Job, unit: Unit = "mm", woods: tuple[OwnWood, ...] = ()) -> list[Fault]:
    """What single fields cannot show: an impossible arc, a wood or glue that is not in the tables."""
    faults = []
    for check in (
        lambda: way_of(job),
        lambda: copies_fit(job),
        lambda: layers_fit(job, woods),
        job.mid_line,
        lambda: species(job.stock.species, woods),
        lambda: adhesive(job.build_up.adhesive),
    ):
        try:
            check()
        except PlanError as error:
            faults.append(error.fault(unit))
    return faults


def job_schema() -> dict[str, Any]:
    """JSON Schema of the job file, with the ways there are."""
    schema = Job.model_json_schema()
    schema["properties"]["way"]["enum"] = list(WAYS)
    return schema
