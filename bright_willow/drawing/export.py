"""The ways a form leaves the program, by file ending: one table for page and command."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from ..core.errors import OutOfRange
from ..core.job import Job
from ..core.plan_parts import Plan
from ..core.units import Unit
from .offsets_csv import offsets_csv
from .template import form_template


@dataclass(frozen=True)
class Export:
    """One kind of file: what it is for, its media type, and how it is made."""

    ending: str
    says: str
    media_type: str
    make: Callable[[Job, Plan, Unit, str], bytes]


def _pdf(job: Job, plan: Plan, unit: Unit, paper: str) -> bytes:
    from .template_pdf import PAPERS, template_pdf

    if paper not in PAPERS:
        raise OutOfRange("paper", f"Paper is one of {', '.join(PAPERS)}.")
    return template_pdf(job, plan, form_template(job, plan, unit), paper=paper, unit=unit)


def _svg(job: Job, plan: Plan, unit: Unit, paper: str) -> bytes:
    from .template_svg import template_svg

    return template_svg(form_template(job, plan, unit)).encode()


def _dxf(job: Job, plan: Plan, unit: Unit, paper: str) -> bytes:
    from .template_dxf import template_dxf

    return template_dxf(form_template(job, plan, unit)).encode()


def _csv(job: Job, plan: Plan, unit: Unit, paper: str) -> bytes:
    return offsets_csv(plan).encode()


EXPORTS: dict[str, Export] = {
    e.ending: e
    for e in (
        Export("pdf", "full size on sheets to join", "application/pdf", _pdf),
        Export("svg", "drawing in true mm", "image/svg+xml", _svg),
        Export("dxf", "for a cutter, in mm, on layers", "application/dxf", _dxf),
        Export("csv", "table of offsets", "text/csv; charset=utf-8", _csv),
    )
}
