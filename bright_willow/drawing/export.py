"""The ways a form leaves the program, by file ending: one table for page and command."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from ..core.ground.errors import OutOfRange
from ..core.ground.units import Unit
from ..core.job.job import Job
from ..core.plan.result import Plan
from .offsets_csv import offsets_csv
from .template import form_template


@dataclass(frozen=True)
class Export:
    """One kind of file: what it is for, its media type, and how it is made."""

    ending: str
    says: str
    media_type: str
    make: Callable[[Job, Plan, Unit, str, int | None], bytes]


def _pdf(job: Job, plan: Plan, unit: Unit, paper: str, part: int | None = None) -> bytes:
    from .template_pdf import PAPERS, template_pdf

    if paper not in PAPERS:
        raise OutOfRange("paper", f"Paper is one of {', '.join(PAPERS)}.")
    return template_pdf(job, plan, form_template(job, plan, unit, part), paper=paper, unit=unit)


def _half(job: Job, plan: Plan, unit: Unit, paper: str, part: int | None = None) -> bytes:
    from .half import half_template
    from .template_pdf import PAPERS, template_pdf

    if paper not in PAPERS:
        raise OutOfRange("paper", f"Paper is one of {', '.join(PAPERS)}.")
    return template_pdf(job, plan, half_template(form_template(job, plan, unit, part)), paper=paper, unit=unit)


def _stl(job: Job, plan: Plan, unit: Unit, paper: str, part: int | None = None) -> bytes:
    from .solids import solids, stl

    return stl(solids(plan))


def _three_mf(job: Job, plan: Plan, unit: Unit, paper: str, part: int | None = None) -> bytes:
    from .solids import solids, three_mf

    return three_mf(solids(plan), job.name)


def _svg(job: Job, plan: Plan, unit: Unit, paper: str, part: int | None = None) -> bytes:
    from .template_svg import template_svg

    return template_svg(form_template(job, plan, unit, part)).encode()


def _dxf(job: Job, plan: Plan, unit: Unit, paper: str, part: int | None = None) -> bytes:
    from .template_dxf import template_dxf

    return template_dxf(form_template(job, plan, unit, part)).encode()


def _csv(job: Job, plan: Plan, unit: Unit, paper: str, part: int | None = None) -> bytes:
    return offsets_csv(plan).encode()


def _zip(job: Job, plan: Plan, unit: Unit, paper: str, part: int | None = None) -> bytes:
    """Every distinct part as a DXF and an SVG of its own, and all of them together."""
    import io
    import zipfile

    from .template_dxf import template_dxf
    from .template_svg import template_svg

    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as folder:

        def put(name: str, data: str) -> None:
            folder.writestr(zipfile.ZipInfo(name, (2026, 1, 1, 0, 0, 0)), data)  # the same plan, the same file

        whole = form_template(job, plan, unit)
        put("all.dxf", template_dxf(whole))
        put("all.svg", template_svg(whole))
        for one in plan.build.parts:
            made = form_template(job, plan, unit, one.number)
            name = f"{one.number:02d}-{one.name.replace(' ', '-')}"
            put(f"{name}.dxf", template_dxf(made))
            put(f"{name}.svg", template_svg(made))
        put("offsets.csv", offsets_csv(plan))
    return out.getvalue()


HALF = Export("pdf", "half of a symmetric form, to turn over", "application/pdf", _half)
EXPORTS: dict[str, Export] = {
    e.ending: e
    for e in (
        Export("pdf", "full size on sheets to join", "application/pdf", _pdf),
        Export("svg", "drawing in true mm", "image/svg+xml", _svg),
        Export("dxf", "for a cutter, in mm, on layers", "application/dxf", _dxf),
        Export("zip", "each part by itself, DXF and SVG", "application/zip", _zip),
        Export("stl", "small forms as solids, in mm", "model/stl", _stl),
        Export("3mf", "small forms as solids, part by part", "model/3mf", _three_mf),
        Export("csv", "table of offsets", "text/csv; charset=utf-8", _csv),
    )
}
