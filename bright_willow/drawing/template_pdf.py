"""A template as a PDF at full size, on as many sheets as it takes, to be joined by its marks."""

from __future__ import annotations

import io
from typing import Any

import numpy as np

from ..core.checks.cautions import FIRST, FORM_AT_SAW
from ..core.common.amounts import format_weight
from ..core.common.errors import PlanError
from ..core.common.fineness import format_band, format_estimate
from ..core.common.units import Unit, format_length
from ..core.form.parts import bulge_arc
from ..core.job.job import Job
from ..core.plan.result import Plan
from ..core.shape.arc import SIDES
from ..core.workpiece.bend import Springback
from .clear_text import cleared
from .flowing import drawn, flow, table, ticked, within, words
from .print_font import font
from .steps import lasting, roughly
from .template_lines import Chain, Template
from .tiling import (
    FOOT_MM,
    MARGIN_MM,
    OVERLAP_MM,
    PAPERS,
    Tiling,
    laid_out,
    sheet_name,
)

MM = 72 / 25.4
CHECK_MM = 100.0
MOST_SHEETS = 300
MAP_HIGH_MM = 84.0  # of the drawing on the first page, which also shows how the sheets join
WHOLE = "drawing"
OFFSET_COLUMNS = 4  # pairs of station and height side by side


def template_pdf(job: Job, plan: Plan, template: Template, *, paper: str, unit: Unit) -> bytes:
    """The file: a first page with particulars, page map, check bar and offsets, the sheets, and a page of parts.

    Raises: PlanError where it would take more sheets than anybody joins.
    """
    from reportlab.pdfgen.canvas import Canvas

    template, sheets = laid_out(template, paper)
    if len(sheets.used) > MOST_SHEETS:
        raise PlanError(
            "paper",
            f"At full size this takes {len(sheets.used):,} sheets of {paper.upper()}, too many to join.",
            hint="Use larger paper, or lay it out from the table of offsets.",
        )
    template = cleared(template, sheets.windows)
    out = io.BytesIO()
    canvas = Canvas(out, pageCompression=1)
    canvas.setTitle(template.name)
    canvas.setCreator("Bright Willow")
    flow(canvas, _cover(job, plan, template, sheets, paper, unit), PAPERS[paper], foot=_foot)
    _whole(canvas, template)
    for column, row in sheets.used:
        _sheet(canvas, template, sheets, column, row)
    if plan.build.parts:
        flow(canvas, _parts(job, plan, unit), PAPERS[paper], foot=_foot)
    canvas.save()
    return out.getvalue()


def _foot(canvas: Any) -> None:
    check_bar(canvas, MARGIN_MM, MARGIN_MM)


def _parts(job: Job, plan: Plan, unit: Unit) -> list[Any]:
    """What to cut, what to have at hand, and where glue can reach."""
    form, build = plan.form, plan.build
    story = [words(f"{job.name}: parts of the form", size=14, bold=True, after_mm=4)]
    for part in build.parts:
        size = f"{format_length(part.width_mm, unit)} × {format_length(part.height_mm, unit)}"
        thick = format_length(part.thickness_mm, unit)
        joined = f", each in {part.segments} lengths, joints apart" if part.segments > 1 else ""
        story.append(words(f"{part.number}   {part.count} × {part.name}: {size}, {thick} thick{joined}", after_mm=0.2))
        story.append(words(part.note, size=9, grey=0.35, after_mm=2))
    notes = [f"it weighs about {format_weight(build.mass_kg, unit)}"] if build.mass_kg else []  # the rest is bought
    if form.clamps:
        notes.append(f"about {form.clamps} clamps that open {format_length(form.clamp_opening_mm, unit)}")
    notes += [*form.needs, "wax, film or tape on every face to the wood, its edges, and the top of the platform"]
    story += [words(f"–  {note}") for note in notes]
    return story + _making(plan)


def _making(plan: Plan) -> list[Any]:
    """What to buy, and the steps with a box to tick, each with its time and cautions."""
    work = plan.form_work
    if not work.operations:
        return []
    story = [words("To buy", size=14, bold=True, after_mm=1.5)]
    story += [ticked(f"{m.name}: {m.amount}", 11, 180.0) for m in work.materials]
    story += [words("", after_mm=2), words("Making it", size=14, bold=True, after_mm=1.5)]
    for number, o in enumerate(work.operations, 1):
        alone = f", then {lasting(o.unattended_s.likely)} alone" if o.unattended_s.likely else ""
        title = f"{number}  {o.name} (about {roughly(o.attended_s.likely)}{alone})"
        story.append(ticked(title, 12, 180.0, bold=True))
        story += [words(line, size=10, after_mm=0.4) for line in o.steps]
        story += [words(f"Caution: {line}", size=10, bold=True, after_mm=0.4) for line in o.cautions]
    return story


def check_bar(canvas: Any, x: float, y: float) -> None:
    """A bar of exactly 100 mm to lay a rule against, in page mm."""
    canvas.setStrokeGray(0)
    canvas.setLineWidth(0.5)
    canvas.line(x * MM, y * MM, (x + CHECK_MM) * MM, y * MM)
    for i in range(11):
        height = 3.0 if i % 5 == 0 else 1.8
        canvas.line((x + 10 * i) * MM, y * MM, (x + 10 * i) * MM, (y + height) * MM)
    canvas.setFont(font(), 7.5)
    canvas.setFillGray(0)
    canvas.drawString(
        (x + CHECK_MM + 2) * MM, y * MM, "100 mm: check it with a rule. If it is off, print again at 100 %."
    )


def _cover(job: Job, plan: Plan, template: Template, sheets: Tiling, paper: str, unit: Unit) -> list[Any]:
    """The first page: particulars, check bar, how the sheets join, the offsets, cautions."""
    face = plan.face_figures
    radius = "Face radius" if plan.is_one_arc else "Tightest radius"
    lines = [
        f"Form at full size, {len(sheets.used)} sheets of {paper.upper() if paper != 'letter' else 'Letter'}."
        " Print at 100 %, no scaling, and check the bar below.",
        f"Face to the wood: {SIDES[plan.face.side]} face of the part. Cut to the line; no cutter offset included.",
        f"{radius} {format_length(face.least_radius_mm or 0, unit)}, form arc {face.sweep_deg:.2f}°, chord "
        f"{format_length(face.chord_mm, unit)}, rise {format_length(face.rise_mm, unit)} (whole blank, with the "
        "extra length).",
        f"Springback included: {opens_text(plan, unit)}.",
        f"{made_of(job, plan, unit)}; stack the form to at least {format_length(plan.site.stack_mm, unit)}.",
    ]
    if sheets.turned_deg:
        lines.append(f"Turned {abs(sheets.turned_deg):g}° on the paper to use fewer sheets.")
    if sheets.cropped:
        lines.append("A corner of the body is off the sheets: finish it with a straightedge.")
    name = job.name[:70] + (f": {job.part.hand.upper()}" if job.hand_text else "")
    width = PAPERS[paper][0]
    story = [words(name, size=22, bold=True, after_mm=5), *(words(line, size=13, after_mm=1.8) for line in lines)]
    story += [_page_map(template, sheets, width), words("", after_mm=2)]
    story += [words("Offsets of the face", size=13, bold=True), _offset_figure(), words("", after_mm=1)]
    story += [_offsets(plan, unit), words("", after_mm=2)]
    return story + [words(caution, size=10, after_mm=0.4) for caution in (FORM_AT_SAW, FIRST)]


def opens_text(plan: Plan, unit: Unit) -> str:
    """What the piece does off the form, and how that is known."""
    opens = plan.bend.opens
    if not isinstance(opens, Springback):
        return "a ring glued all around cannot spring back"
    learned = plan.form_grade == "learned"
    known = "from your own bends" if learned else "calculated, without bends of yours yet"
    return f"each end springs back {format_estimate(opens.tip_mm, unit)} ({format_band(opens.tip_mm, unit)}), {known}"


def made_of(job: Job, plan: Plan, unit: Unit) -> str:
    """The lay-up, or the solid blank, in a line."""
    wood, laid_up = plan.way.wood.name, plan.laid_up
    if laid_up is None:
        return f"Solid {plan.way.wood.said}, {format_length(job.part.thickness_mm, unit)} thick, bent hot"
    laminae = laid_up.laminae
    first = laminae[0].thickness_mm
    if all(abs(layer.thickness_mm - first) < 1e-6 for layer in laminae):
        return f"{len(laminae)} strips of {format_length(first, unit)} {wood}"
    layers = ", ".join(f"{format_length(x.thickness_mm, unit)} {x.material}" for x in laminae[:6])
    return f"{len(laminae)} plies from the inside: {layers}"


def _page_map(template: Template, sheets: Tiling, width: float) -> Any:
    """A small picture of how the sheets join."""
    columns_mm = sheets.columns * sheets.step[0] + OVERLAP_MM
    rows_mm = sheets.rows * sheets.step[1] + OVERLAP_MM
    scale = min((width - 2 * MARGIN_MM) / columns_mm, MAP_HIGH_MM / rows_mm)

    def draw(canvas: Any) -> None:
        canvas.setFont(font(), 8)
        for column, row in sheets.used:
            x, y = sheets.corner(column, row)
            x0, y0 = (x - sheets.left) * scale, (y - sheets.top + rows_mm) * scale
            wide, high = sheets.tile[0] * scale, sheets.tile[1] * scale
            canvas.setStrokeGray(0.6)
            canvas.setLineWidth(0.4)
            canvas.rect(x0 * MM, y0 * MM, wide * MM, high * MM)
            canvas.setFillGray(0.35)
            canvas.drawCentredString((x0 + wide / 2) * MM, (y0 + high / 2) * MM - 3, sheet_name(column, row))
        canvas.setStrokeGray(0)
        canvas.setLineWidth(0.8)
        for chain in template.chains:
            if chain.layer in ("FACE", "BODY"):
                points = (chain.dense(10.0) - np.array([sheets.left, sheets.top - rows_mm])) * scale * MM
                path = canvas.beginPath()
                path.moveTo(*map(float, points[0]))
                for x, y in points[1:]:
                    path.lineTo(float(x), float(y))
                canvas.drawPath(path)

    return drawn(columns_mm * scale, rows_mm * scale, draw)


def _offset_figure() -> Any:
    """What is measured from where: along the base line from the middle, and up from it to the face."""

    def draw(canvas: Any) -> None:
        canvas.setStrokeGray(0)
        canvas.setFillGray(0)
        canvas.setFont(font(), 9)
        canvas.setLineWidth(1.2)
        canvas.arc(5 * MM, -14 * MM, 75 * MM, 22 * MM, 23, 134)
        canvas.setLineWidth(0.4)
        canvas.line(0, 4 * MM, 80 * MM, 4 * MM)
        canvas.line(40 * MM, 2 * MM, 40 * MM, 22 * MM)
        canvas.setLineWidth(0.8)
        canvas.line(58 * MM, 4 * MM, 58 * MM, 19.2 * MM)  # up to the face
        canvas.line(40 * MM, 1.5 * MM, 58 * MM, 1.5 * MM)
        for x, y in ((40, 1.5), (58, 1.5)):
            canvas.line(x * MM, (y - 1) * MM, x * MM, (y + 1) * MM)
        canvas.drawString(59.5 * MM, 8 * MM, "height, from the base line up to the face")
        canvas.drawString(60 * MM, 0.4 * MM, "station, from the middle; − is to the left")
        canvas.drawString(1 * MM, 5 * MM, "base line")

    return drawn(140, 24, draw)


def _offsets(plan: Plan, unit: Unit) -> Any:
    """The table of offsets, read down its columns, each with its heading."""
    pairs = [
        (format_length(o.station_mm, unit, with_unit=False), format_length(o.height_mm, unit, with_unit=False))
        for o in plan.offsets
    ]
    deep = max(1, -(-len(pairs) // OFFSET_COLUMNS))
    rows = [[text for c in range(OFFSET_COLUMNS) for text in _at(pairs, c * deep + r)] for r in range(deep)]
    used = min(OFFSET_COLUMNS, -(-len(pairs) // deep))
    return table(
        [["station", "height"] * used, *(row[: 2 * used] for row in rows)], [22.0, 24.0] * used, size=9, head=1
    )


def _at(pairs: list[tuple[str, str]], i: int) -> tuple[str, str]:
    return pairs[i] if i < len(pairs) else ("", "")


def _whole(canvas: Any, template: Template) -> None:
    """The whole drawing, once: every sheet is a window on it."""
    points = np.vstack([chain.dense(3.0) for chain in template.chains])
    spots = [(w.x, w.y) for w in template.words]
    (left, bottom), (right, top) = (f(np.vstack((points, *spots)), axis=0) for f in (np.min, np.max))
    canvas.beginForm(WHOLE, *(float(v) * MM for v in (left - 500, bottom - 500, right + 500, top + 500)))
    for chain in template.chains:
        _draw_chain(canvas, chain)
    canvas.setFillGray(0)
    for text in template.words:
        canvas.saveState()
        canvas.translate(text.x * MM, text.y * MM)
        canvas.rotate(text.angle_deg)
        canvas.setFont(font(), text.height_mm * MM)
        canvas.drawCentredString(0, 0, text.text)
        canvas.restoreState()
    canvas.endForm()


def _sheet(canvas: Any, template: Template, sheets: Tiling, column: int, row: int) -> None:
    """One sheet: its window on the drawing, join marks, name and check bar."""
    canvas.setPageSize((sheets.page[0] * MM, sheets.page[1] * MM))
    x, y = sheets.corner(column, row)
    low = MARGIN_MM + FOOT_MM
    canvas.saveState()
    clip = canvas.beginPath()
    clip.rect(MARGIN_MM * MM, low * MM, sheets.tile[0] * MM, sheets.tile[1] * MM)
    canvas.clipPath(clip, stroke=0, fill=0)
    canvas.translate((MARGIN_MM - x) * MM, (low - y) * MM)
    canvas.doForm(WHOLE)
    canvas.restoreState()
    _joins(canvas, sheets, column, row, low)
    canvas.setFont(font(bold=True), 12)
    title = within(f"{sheet_name(column, row)}   {template.name}", 12, sheets.tile[0], bold=True)
    canvas.drawString(MARGIN_MM * MM, (MARGIN_MM + 7) * MM, title)
    check_bar(canvas, MARGIN_MM, MARGIN_MM)
    canvas.showPage()


def _draw_chain(canvas: Any, chain: Chain) -> None:
    canvas.setLineWidth({"FACE": 0.9, "RIB": 0.9}.get(chain.layer, 0.5))
    canvas.setStrokeGray(0.0 if chain.layer != "BODY" else 0.35)
    canvas.setDash([8, 4] if chain.dashed else [])
    path = canvas.beginPath()
    path.moveTo(*map(float, chain.points[0] * MM))
    for a, b, bulge in chain.arcs():
        if abs(bulge) < 1e-9:
            path.lineTo(*map(float, b * MM))
            continue
        _, radius, start, turn = bulge_arc(a, b, bulge)
        reach = 4 / 3 * np.tan(turn / 4) * radius
        end = start + turn
        c1 = a + reach * np.array([-np.sin(start), np.cos(start)])
        c2 = b - reach * np.array([-np.sin(end), np.cos(end)])
        path.curveTo(*map(float, np.concatenate((c1, c2, b)) * MM))
    if chain.closed:
        path.close()
    canvas.drawPath(path, stroke=1, fill=0)
    canvas.setDash([])


def _joins(canvas: Any, sheets: Tiling, column: int, row: int, low: float) -> None:
    """Crossed circles in the middle of every overlap: the same mark stands on both sheets. And which sheet is next."""
    w, h = sheets.tile
    half = OVERLAP_MM / 2
    canvas.setStrokeGray(0.2)
    canvas.setLineWidth(0.35)
    canvas.setFillGray(0.3)
    canvas.setFont(font(), 7)
    canvas.setDash([2, 2])
    canvas.rect(MARGIN_MM * MM, low * MM, w * MM, h * MM)
    canvas.setDash([])
    sides = {(1, 0): (w - half, None), (-1, 0): (half, None), (0, -1): (None, h - half), (0, 1): (None, half)}
    for (dc, dr), (x, y) in sides.items():
        if (column + dc, row + dr) not in sheets.used:
            continue
        name = sheet_name(column + dc, row + dr)
        for share in (0.2, 0.8):
            px = MARGIN_MM + (x if x is not None else w * share)
            py = low + (y if y is not None else h * share)
            canvas.circle(px * MM, py * MM, 2.5 * MM)
            canvas.line((px - 4) * MM, py * MM, (px + 4) * MM, py * MM)
            canvas.line(px * MM, (py - 4) * MM, px * MM, (py + 4) * MM)
        canvas.drawString((px + 4.5) * MM, (py + 1) * MM, name)
