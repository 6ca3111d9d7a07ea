"""The story stick at full size: strips to cut out and tape together, for the inner and the outer face, and a list."""

from __future__ import annotations

import io
import math
from typing import Any

from ..core.common.errors import PlanError
from ..core.common.units import Unit, format_length
from ..core.job.job import Job
from ..core.plan.result import Plan
from ..core.workpiece.geometry import StickMark
from .flowing import flow, table, words
from .print_font import font, text_width
from .template_pdf import MARGIN_MM, MM, PAPERS, check_bar

STRIP_MM, GAP_MM, LAP_MM, COLUMN_MM = 24.0, 14.0, 15.0, 2.6
FACES = (("inside face", "inner_mm"), ("outside face", "outer_mm"))


def story_stick_pdf(job: Job, plan: Plan, *, paper: str, unit: Unit) -> bytes:
    """The file: a list of distances, then the strips, each piece overlapping the next by 15 mm.

    Raises: PlanError for a paper that is not known.
    """
    from reportlab.pdfgen.canvas import Canvas

    if paper not in PAPERS:
        raise PlanError("paper", f"Paper is one of {', '.join(PAPERS)}.")
    height, width = PAPERS[paper]  # on its side
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(width * MM, height * MM))
    canvas.setTitle(f"{job.name}: story stick")
    _list(canvas, job, plan, width, height, unit)
    y = 0.0
    for name, line in FACES:
        start, end = getattr(plan.stick[0], line), getattr(plan.stick[-1], line)
        window = width - 2 * MARGIN_MM
        pieces = max(1, math.ceil((end - start - LAP_MM) / (window - LAP_MM)))
        for piece in range(pieces):
            if y < MARGIN_MM + STRIP_MM + 22:
                if y:
                    canvas.showPage()
                canvas.setPageSize((width * MM, height * MM))
                check_bar(canvas, MARGIN_MM, MARGIN_MM)
                y = height - MARGIN_MM - STRIP_MM - 6
            left = start + piece * (window - LAP_MM)
            title = f"{job.name}{_hand(job)} · {name} · {piece + 1} of {pieces}"
            _piece(canvas, plan.stick, line, left, min(left + window, end), y, title, unit)
            y -= STRIP_MM + GAP_MM
    canvas.save()
    return out.getvalue()


def _hand(job: Job) -> str:
    return f", {job.hand_text}" if job.hand_text else ""


def _list(canvas: Any, job: Job, plan: Plan, width: float, height: float, unit: Unit) -> None:
    """Every mark with its distances, on as many pages as it takes."""
    message = "Distances from the center, along each face of the blank on the form. Print at 100 % and check the bar."
    rows = [("mark", "inside face", "centerline", "outside face")]
    for mark in plan.stick:
        inner, mid, outer = (format_length(v, unit) for v in (mark.inner_mm, mark.mid_mm, mark.outer_mm))
        rows.append((mark.name, inner, mid, outer))
    story = [
        words(f"{job.name}{_hand(job)}: story stick", size=15, bold=True, after_mm=3),
        words(message, after_mm=3),
        table(rows, [70.0, 45.0, 45.0, 45.0], size=10, head=1),
    ]
    flow(canvas, story, (width, height), foot=lambda c: check_bar(c, MARGIN_MM, MARGIN_MM))


def _piece(
    canvas: Any, marks: tuple[StickMark, ...], line: str, left: float, right: float, y: float, title: str, unit: Unit
) -> None:
    """One piece of a strip: its outline, the marks that fall on it, and crosses in the laps."""

    def x(at: float) -> float:
        return (MARGIN_MM + at - left) * MM

    canvas.setLineWidth(0.5)
    canvas.setStrokeGray(0)
    canvas.rect(x(left), y * MM, (right - left) * MM, STRIP_MM * MM)
    canvas.setFont(font(), 7)
    canvas.drawString(x(left) + 3 * MM, (y + STRIP_MM + 1.5) * MM, title)
    start, end = getattr(marks[0], line), getattr(marks[-1], line)
    for lap, there in ((left, left > start), (right - LAP_MM, right < end)):
        if there:
            middle = lap + LAP_MM / 2
            canvas.setLineWidth(0.35)
            canvas.line(x(middle) - 3 * MM, (y + STRIP_MM / 2) * MM, x(middle) + 3 * MM, (y + STRIP_MM / 2) * MM)
            canvas.line(x(middle), (y + STRIP_MM / 2 - 3) * MM, x(middle), (y + STRIP_MM / 2 + 3) * MM)
    column = -math.inf  # of the last text: marks at one place are written side by side
    for mark in marks:
        at = getattr(mark, line)
        if not left - 1e-6 <= at <= right + 1e-6:
            continue
        canvas.setLineWidth(1.1 if mark.kind in ("part_end", "centre") else 0.6)
        canvas.line(x(at), y * MM, x(at), (y + STRIP_MM) * MM)
        text, column = f"{mark.name} {format_length(at, unit)}", max(at, column) + COLUMN_MM
        canvas.saveState()
        canvas.translate(x(column), (y + 1.5) * MM)
        canvas.rotate(90)
        canvas.setFont(font(), 7.0 * min(1.0, (STRIP_MM - 3.0) * MM / text_width(text, 7.0)))
        canvas.drawString(0, 0, text)
        canvas.restoreState()
