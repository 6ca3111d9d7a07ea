"""The files a job leaves the program as: its form by file ending, and its papers by name. One table each."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from ..core.common.errors import PlanError
from ..core.common.units import Unit
from ..core.job.job import Job
from ..core.plan.result import Plan
from ..core.stock.prepared_stock import Prepared
from .cut_list import strips_csv
from .cut_list_pdf import cut_list_pdf, labels_pdf
from .layout_template import layout_template
from .offsets_csv import offsets_csv
from .template import form_template, frame_template


@dataclass(frozen=True)
class Export:
    """One kind of file: what it is for, its media type, and how it is made; what its name begins with, and what is said
    where a job has none."""

    ending: str
    message: str
    media_type: str
    make: Callable[[Job, Plan, Unit, str, int | None], bytes]
    called: str = "form"
    missing: str = "No form yet"


def _pdf(job: Job, plan: Plan, unit: Unit, paper: str, part: int | None = None) -> bytes:
    from .template_pdf import PAPERS, template_pdf

    if paper not in PAPERS:
        raise PlanError("paper", f"Paper is one of {', '.join(PAPERS)}.")
    return template_pdf(job, plan, form_template(job, plan, unit, part), paper=paper, unit=unit)


def _half(job: Job, plan: Plan, unit: Unit, paper: str, part: int | None = None) -> bytes:
    from .half import half_template
    from .template_pdf import PAPERS, template_pdf

    if paper not in PAPERS:
        raise PlanError("paper", f"Paper is one of {', '.join(PAPERS)}.")
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


def _stick(job: Job, plan: Plan, unit: Unit, paper: str, part: int | None = None) -> bytes:
    from .story_stick_pdf import story_stick_pdf

    return story_stick_pdf(job, plan, paper=paper, unit=unit)


def _frame(job: Job, plan: Plan, unit: Unit, paper: str, part: int | None = None) -> bytes:
    from .template_pdf import PAPERS, template_pdf

    if paper not in PAPERS:
        raise PlanError("paper", f"Paper is one of {', '.join(PAPERS)}.")
    return template_pdf(job, plan, frame_template(job, plan, unit), paper=paper, unit=unit)


def _sawn(plan: Plan) -> Prepared:
    """The strips of a plan. Raises: PlanError where none are sawn."""
    ready = plan.prepared
    if ready is None:
        raise PlanError("prepare", "Nothing is sawn for this job: all its plies are bought.")
    if ready.problem is not None:
        raise ready.problem
    return ready


def _strips(job: Job, plan: Plan, unit: Unit, paper: str, part: int | None = None) -> bytes:
    return strips_csv(_sawn(plan)).encode()


def _cut_list(job: Job, plan: Plan, unit: Unit, paper: str, part: int | None = None) -> bytes:
    return cut_list_pdf(job, _sawn(plan), paper=paper, unit=unit)


def _labels(job: Job, plan: Plan, unit: Unit, paper: str, part: int | None = None) -> bytes:
    return labels_pdf(job, _sawn(plan), plan.shop)


def _layout_svg(job: Job, plan: Plan, unit: Unit, paper: str, part: int | None = None) -> bytes:
    from .template_svg import template_svg

    return template_svg(layout_template(job, _sawn(plan), unit)).encode()


def _layout_dxf(job: Job, plan: Plan, unit: Unit, paper: str, part: int | None = None) -> bytes:
    from .template_dxf import template_dxf

    return template_dxf(layout_template(job, _sawn(plan), unit)).encode()


def _sheet(job: Job, plan: Plan, unit: Unit, paper: str, part: int | None = None) -> bytes:
    from .shop_sheet import shop_sheet_pdf

    return shop_sheet_pdf(job, plan, paper=paper, unit=unit)


def _sheet_short(job: Job, plan: Plan, unit: Unit, paper: str, part: int | None = None) -> bytes:
    from .shop_sheet import shop_sheet_pdf

    return shop_sheet_pdf(job, plan, paper=paper, unit=unit, one_page=True)


NO_STRIPS = "No strips yet"
PAPERS_OF: dict[str, Export] = {
    "half": Export("pdf", "half of a symmetric form, to turn over", "application/pdf", _half, "half"),
    "stick": Export("pdf", "story stick", "application/pdf", _stick, "stick", "No stick yet"),
    "frame": Export("pdf", "drying jig", "application/pdf", _frame, "frame", "No jig yet"),
    "strips": Export("csv", "strips as a table", "text/csv; charset=utf-8", _strips, "strips", NO_STRIPS),
    "cutlist": Export("pdf", "cut list", "application/pdf", _cut_list, "cut-list", NO_STRIPS),
    "labels": Export("pdf", "labels for strips", "application/pdf", _labels, "labels", NO_STRIPS),
    "layout_svg": Export("svg", "cutting diagram of the boards", "image/svg+xml", _layout_svg, "boards", NO_STRIPS),
    "sheet": Export("pdf", "shop sheet", "application/pdf", _sheet, "sheet"),
    "sheet_short": Export("pdf", "shop sheet on one side", "application/pdf", _sheet_short, "sheet-short"),
    "layout_dxf": Export("dxf", "cutting diagram of the boards", "application/dxf", _layout_dxf, "boards", NO_STRIPS),
}
EXPORTS: dict[str, Export] = {
    e.ending: e
    for e in (
        Export("pdf", "full size, on sheets to join", "application/pdf", _pdf),
        Export("svg", "full-scale drawing file", "image/svg+xml", _svg),
        Export("dxf", "for a CNC cutter, in mm, on layers", "application/dxf", _dxf),
        Export("zip", "each part separately, DXF and SVG", "application/zip", _zip),
        Export("stl", "small forms as solids, in mm", "model/stl", _stl),
        Export("3mf", "small forms as solids, part by part", "model/3mf", _three_mf),
        Export("csv", "table of offsets", "text/csv; charset=utf-8", _csv),
    )
}
