"""The shop sheet: one job on paper, made of its operations. What a helper reads at arm's length, and fills in."""

from __future__ import annotations

import io
from collections.abc import Iterable, Sequence
from typing import Any

import numpy as np

from ..core.common.amounts import format_glue
from ..core.common.findings import Finding
from ..core.common.units import Unit, format_length
from ..core.job.job import Job
from ..core.plan.result import Plan
from ..core.shape.arc import SIDES
from .cut_list import paper_mm
from .flowing import (
    MARGIN_MM,
    MM,
    drawn,
    flow,
    table,
    words,
)
from .press_drawing import clamp_places
from .print_font import font
from .steps import Step, steps_of, summary_of
from .template_pdf import made_of, opens_text

TEXT, SHORT, HEAD, TITLE = 12.0, 11.0, 14.5, 22.0
DRAWING_MM, SHORT_DRAWING_MM = 92.0, 62.0
TALL = 1.3  # times its width, from which a drawing is laid on its side
MOST_COLUMNS, MOST_PIECES, MOST_MARKS = 6, 24, 24
SHOUTS = {"stop": "STOP:", "watch": "Check:"}


def shop_sheet_pdf(job: Job, plan: Plan, *, paper: str, unit: Unit, one_page: bool = False) -> bytes:
    """The sheet, black on white. one_page: the same in short, on one side. Raises: PlanError for unknown paper."""
    from reportlab.pdfgen.canvas import Canvas

    page = paper_mm(paper)
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(page[0] * MM, page[1] * MM))
    canvas.setTitle(f"{job.name}: shop sheet")
    canvas.setCreator("Bright Willow")
    story = _short(job, plan, page[0], unit) if one_page else _long(job, plan, page[0], unit)
    if one_page:
        story = [_shrunk(story, page)]
    numbers = iter(range(1, 1_000))
    flow(canvas, story, page, foot=lambda c: _foot(c, job, next(numbers)))
    canvas.save()
    return out.getvalue()


def _foot(canvas: Any, job: Job, number: int) -> None:
    canvas.setFont(font(), 9)
    canvas.drawString(MARGIN_MM * MM, MARGIN_MM * MM, f"{_named(job)[:80]}, sheet {number}")


def _named(job: Job) -> str:
    return f"{job.name[:70]}{f', {job.hand_text}' if job.hand_text else ''}"


def _shrunk(story: list[Any], page: tuple[float, float]) -> Any:
    """All of it on one side, smaller where it must be."""
    from reportlab.platypus import KeepInFrame

    width, height = (page[0] - 2 * MARGIN_MM) * MM, (page[1] - 2 * MARGIN_MM - 12) * MM
    return KeepInFrame(width, height - 2, story, mode="shrink")


def _head(job: Job, plan: Plan, unit: Unit, size: float) -> list[Any]:
    """What is made, in a few lines."""
    part = job.part
    section = f"{format_length(part.thickness_mm, unit)} × {format_length(part.width_mm, unit)}"
    spares = f" and {part.spares} spare" if part.spares else ""
    lines = (
        f"{part.count} piece{'s' if part.count != 1 else ''}{spares}, {section}: {made_of(job, plan, unit)}.",
        f"{plan.way.name}. Form to the {SIDES[plan.face.side]} face; {opens_text(plan, unit)}.",
        summary_of(plan),
    )
    made = [words(_named(job), size=TITLE, bold=True, after_mm=2.5)]
    made += [words(line, size=size, after_mm=1.0) for line in lines]
    return made + [words(line, size=size, after_mm=1.0) for line in job.notes.splitlines() if line.strip()]


def _against(findings: Iterable[Finding], size: float) -> list[Any]:
    """What stands against it, gravest first."""
    return [
        words(f"{SHOUTS[f.level]} {f.message}", size=size, bold=True, after_mm=0.8)
        for f in findings
        if f.level in SHOUTS
    ]


def _long(job: Job, plan: Plan, wide_mm: float, unit: Unit) -> list[Any]:
    steps, width = steps_of(plan), wide_mm - 2 * MARGIN_MM
    story = [*_head(job, plan, unit, TEXT), *_against(plan.findings, TEXT)]
    story += [_drawing(plan, width, DRAWING_MM), _figures(plan, unit)]
    in_steps = {line for step in steps for line in step.cautions}
    if general := [line for line in plan.cautions if line not in in_steps]:
        story.append(_box(general, TEXT, width))
    story += [*_marks(plan, unit), *_lay_out(steps, plan, unit)]
    for step in steps:
        story += _step(step, width)
    return [*story, *_record(steps, plan, width)]


def _short(job: Job, plan: Plan, wide_mm: float, unit: Unit) -> list[Any]:
    steps, width = steps_of(plan), wide_mm - 2 * MARGIN_MM
    story = [*_head(job, plan, unit, SHORT), *_against(plan.findings, SHORT)]
    story += [_drawing(plan, width, SHORT_DRAWING_MM), words("", after_mm=1)]
    for step in steps:
        blanks = "  ".join(f"{item} ______" for item in step.record)
        alone = f" ({step.by_itself})" if step.by_itself else ""
        message = f"{step.number}  {step.name}{alone}. {' '.join(step.steps)} {blanks}"
        story.append(_ticked(message, SHORT, width))
    return [*story, words("", after_mm=1), _box(plan.cautions, SHORT - 1.5, width)]


def _ticked(message: str, size: float, width: float, *, bold: bool = False) -> Any:
    """A line with a box before it to tick."""
    from reportlab.platypus import Table

    cells = [[drawn(4.0, 4.0, lambda c: c.rect(0, 0, 3.4 * MM, 3.4 * MM)), words(message, size=size, bold=bold)]]
    style = [("VALIGN", (0, 0), (-1, -1), "TOP"), ("TOPPADDING", (0, 0), (-1, -1), 1.5)]
    style += [("BOTTOMPADDING", (0, 0), (-1, -1), 0.5), ("LEFTPADDING", (0, 0), (0, 0), 0)]
    return Table(cells, [8 * MM, (width - 8) * MM], style=style, hAlign="LEFT")


def _box(lines: Sequence[str], size: float, width: float) -> Any:
    """Cautions in a frame of their own."""
    from reportlab.platypus import Table

    cells = [[words(line, size=size, after_mm=0.4)] for line in lines]
    style = [("BOX", (0, 0), (-1, -1), 1.4, "black"), ("TOPPADDING", (0, 0), (-1, -1), 1.5)]
    style.append(("BOTTOMPADDING", (0, 0), (-1, -1), 1.5))
    return Table(cells, [width * MM], style=style, hAlign="LEFT", spaceBefore=4, spaceAfter=6)


def _step(step: Step, width: float) -> list[Any]:
    """One operation: its number, figures, cautions, and what is to be written down. Never parted between pages."""
    from reportlab.platypus import Table

    times = f"about {step.attended}" if step.attended else ""
    facts = ", ".join(x for x in (step.scope, times, step.by_itself, step.hands, step.waits) if x)
    own = [
        words(f"{step.number}  {step.name}", size=HEAD, bold=True, after_mm=0.5),
        words(facts, size=10, after_mm=0.6),
    ]
    own += [_ticked(line, TEXT, width) for line in step.steps]
    own += [words(f"Caution: {line}", size=TEXT, bold=True, after_mm=0.6) for line in step.cautions]
    own += [_blank(item) for item in step.record]
    bare = [(f"{side}PADDING", (0, 0), (-1, -1), 0) for side in ("LEFT", "RIGHT", "TOP")]
    return [Table([[[*own, words("", size=6, after_mm=1.0)]]], [width * MM], style=bare, hAlign="LEFT")]


def _blank(item: str) -> Any:
    """What is to be written down, with a line to write it on."""
    from reportlab.platypus import Table

    style = [("VALIGN", (0, 0), (-1, -1), "BOTTOM"), ("LINEBELOW", (1, 0), (1, 0), 0.6, "black")]
    style += [("LEFTPADDING", (0, 0), (0, 0), 0), ("TOPPADDING", (0, 0), (-1, -1), 5)]
    style.append(("BOTTOMPADDING", (0, 0), (-1, -1), 1))
    return Table([[words(item, size=TEXT, after_mm=0), ""]], [80 * MM, 60 * MM], style=style, hAlign="LEFT")


def _figures(plan: Plan, unit: Unit) -> Any:
    """What the drawing measures, in large type under it."""
    face = plan.face_figures
    name = "R" if plan.is_one_arc else "tightest R"
    message = [f"Form {name} {format_length(face.least_radius_mm, unit)}"] if face.least_radius_mm else []
    message += [f"chord {format_length(face.chord_mm, unit)}"]
    message += [f"rise {format_length(face.rise_mm, unit)} over the whole blank"]
    return words(", ".join(message), size=HEAD, bold=True, after_mm=2.0)


def _lay_out(steps: Sequence[Step], plan: Plan, unit: Unit) -> list[Any]:
    """What must be at hand before anything is begun."""
    things = [item for step in steps for item in step.lay_out]
    if plan.form.clamps:
        things.append(f"{plan.form.clamps} clamps")
    glued = plan.glued_up
    if glued is not None:
        things.append(
            f"{format_glue(glued.mix.mass_g, unit)} of glue for one "
            f"batch{f', in {glued.mix.pots} pots' if glued.mix.pots > 1 else ''}"
        )
    if not things:
        return []
    rows = [words("Lay out", size=HEAD, bold=True, after_mm=0.5)]
    return [*rows, *(_ticked(item, TEXT, 150.0) for item in dict.fromkeys(things))]


def _marks(plan: Plan, unit: Unit) -> list[Any]:
    """Marks from the centre, along both faces of the blank."""
    rows = [("mark, from the center", "inside face", "outside face")]
    rows += [
        (m.name, format_length(m.inner_mm, unit), format_length(m.outer_mm, unit)) for m in plan.stick[:MOST_MARKS]
    ]
    return [table(rows, [70.0, 45.0, 45.0], size=TEXT - 1, head=1), words("", after_mm=2)]


def _record(steps: Sequence[Step], plan: Plan, width: float) -> list[Any]:
    """A line for each piece, to fill in."""
    kept = list(dict.fromkeys(item for s in steps if s.is_per_piece for item in s.record))[:MOST_COLUMNS]
    if not kept:
        return []
    pieces = plan.quantities.pieces + plan.quantities.spares
    rows = [("piece", *(words(k, size=9, bold=True) for k in kept))]
    rows += [(str(n), *("" for _ in kept)) for n in range(1, min(pieces, MOST_PIECES) + 1)]
    each = (width - 16) / len(kept)
    title = words("Piece by piece", size=HEAD, bold=True, after_mm=1.5)
    return [title, table(rows, [16.0, *[each] * len(kept)], size=TEXT, head=1, ruled_mm=9.0)]


def _drawing(plan: Plan, wide_mm: float, most_mm: float) -> Any:
    """The stock on its form, to scale, with every clamp in its turn."""
    face, half = plan.face, plan.job.part.thickness_mm / 2
    body, blank = face.outline_points(8.0), plan.bend.blank
    edges = [blank.parallel(s * half).traced(120) for s in (-1.0, 1.0)]
    glued = plan.glued_up
    clamps = clamp_places(plan, glued.order) if glued else []
    points = np.vstack((body, *edges))
    turn = np.eye(2)
    if np.ptp(points[:, 1]) > TALL * np.ptp(points[:, 0]):  # on its side it fills the width of the page
        turn = np.array([[0.0, -1.0], [1.0, 0.0]])
        points = points @ turn
    (left, low), (right, high) = points.min(axis=0), points.max(axis=0)
    edge = 16.0 if clamps else 2.0
    scale = min((wide_mm - 2 * edge) / (right - left), (most_mm - 2 * edge) / max(1.0, high - low))
    aside = np.array([(wide_mm - (right - left) * scale) / 2, edge])

    def place(point: Any) -> tuple[float, float]:
        x, y = (np.asarray(point) @ turn - (left, low)) * scale + aside
        return float(x) * MM, float(y) * MM

    def draw(canvas: Any) -> None:
        canvas.setLineWidth(0.6)
        _line(canvas, [place(p) for p in body], closed=True, grey=0.85)
        canvas.setLineWidth(1.3)
        _line(canvas, [place(p) for p in np.vstack((edges[0], edges[1][::-1]))], closed=True, grey=None)
        canvas.setFont(font(bold=True), 9)
        for i, (number, foot, away) in enumerate(clamps):
            (x, y), (fx, fy) = (place(foot + away * r / scale) for r in (7.0 + 6.0 * (i % 2), 1.0))
            canvas.setLineWidth(0.8)
            canvas.line(x, y, fx, fy)
            canvas.setFillGray(1)
            canvas.circle(x, y, 2.6 * MM, fill=1)
            canvas.setFillGray(0)
            canvas.drawCentredString(x, y - 3, str(number))

    return drawn(wide_mm, (high - low) * scale + 2 * edge, draw)


def _line(canvas: Any, points: Sequence[tuple[float, float]], *, closed: bool, grey: float | None) -> None:
    path = canvas.beginPath()
    path.moveTo(*points[0])
    for point in points[1:]:
        path.lineTo(*point)
    if closed:
        path.close()
    if grey is not None:
        canvas.setFillGray(grey)
    canvas.drawPath(path, stroke=1, fill=int(grey is not None))
    canvas.setFillGray(0)
