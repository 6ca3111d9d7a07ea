"""The shop sheet: one job on paper, made of its operations. What a helper reads at arm's length, and fills in."""

from __future__ import annotations

import io
from collections.abc import Iterable, Sequence
from typing import Any

from ..core.common.amounts import format_glue
from ..core.common.findings import Finding
from ..core.common.units import Unit, format_length
from ..core.job.job import Job
from ..core.plan.result import Plan
from ..core.shape.arc import SIDES
from .cut_list import paper_mm
from .flowing import (
    FOOT_MM,
    MARGIN_MM,
    MM,
    drawn,
    flow,
    table,
    ticked,
    words,
)
from .form_on_paper import FormOnPaper
from .print_font import font
from .steps import Step, steps_of, summary_of
from .template_pdf import made_of, opens_text

TEXT, HEAD, TITLE = 12.0, 14.5, 22.0
SHORT_SIZES = (  # of the type, points, and the greatest height of the drawing, mm
    (12.0, 100.0),
    (11.0, 92.0),
    (10.5, 88.0),
    (10.0, 84.0),
    (9.5, 80.0),
    (9.0, 76.0),
    (8.5, 68.0),
    (8.0, 62.0),
    (7.5, 54.0),
    (7.0, 36.0),
)
DRAWING_MM = 92.0  # the greatest height of the drawing
GUTTER_MM, LINE_MM = 6.0, 32.0  # between the columns of the short sheet; a line of it to write on
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
    story = _short(job, plan, page, unit) if one_page else _long(job, plan, page[0], unit)
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

    width, height = (page[0] - 2 * MARGIN_MM) * MM, (page[1] - 2 * MARGIN_MM - FOOT_MM) * MM
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
    story += [*_drawing(plan, width, unit), words("", after_mm=1)]
    in_steps = {line for step in steps for line in step.cautions}
    if general := [line for line in plan.cautions if line not in in_steps]:
        story.append(_box(general, TEXT, width))
    story += [*_marks(plan, unit), *_lay_out(steps, plan, unit)]
    for step in steps:
        story += _step(step, width)
    return [*story, *_record(steps, plan, width)]


def _short(job: Job, plan: Plan, page: tuple[float, float], unit: Unit) -> list[Any]:
    """All of it on one side, in the largest type that has room; the drawing gives way last."""
    steps, width = steps_of(plan), page[0] - 2 * MARGIN_MM
    high = (page[1] - 2 * MARGIN_MM - FOOT_MM) * MM - 2
    story: list[Any] = []
    for size, drawing_mm in SHORT_SIZES:
        story = [*_head(job, plan, unit, size), *_against(plan.findings, size)]
        story += [*_drawing(plan, width, unit, drawing_mm), _in_two_columns(steps, width, size)]
        story += [words("", after_mm=1), _box(plan.cautions, size - 1.0, width)]
        if _height(story, width) <= high:
            return story
    return [_shrunk(story, page)]


def _height(story: Sequence[Any], width: float) -> float:
    """How high flowables stand under one another, points."""
    return float(sum(f.wrap(width * MM, 1e5)[1] + f.getSpaceBefore() + f.getSpaceAfter() for f in story))


def _in_two_columns(steps: Sequence[Step], width: float, size: float) -> Any:
    """The steps in two columns of like height, read down the left one first."""
    from reportlab.platypus import Table

    column = (width - GUTTER_MM) / 2
    made = [_short_step(step, column, size) for step in steps]
    highs = [_height([step], column) for step in made]
    split = min(range(len(made) + 1), key=lambda n: max(sum(highs[:n]), sum(highs[n:])))
    style = [("VALIGN", (0, 0), (-1, -1), "TOP")]
    style += [(f"{side}PADDING", (0, 0), (-1, -1), 0) for side in ("LEFT", "RIGHT", "TOP", "BOTTOM")]
    cells = [[made[:split], "", made[split:]]]
    return Table(cells, [column * MM, GUTTER_MM * MM, column * MM], style=style, hAlign="LEFT")


def _short_step(step: Step, width: float, size: float) -> Any:
    """One operation with a box to tick, and under it what is to be written down, each on a line of its own."""
    from reportlab.platypus import Table

    alone = f" ({step.by_itself})" if step.by_itself else ""
    box = drawn(4.0, 4.0, lambda c: c.rect(0, 0, 3.4 * MM, 3.4 * MM))
    said = [words(f"{step.number}  {step.name}{alone}", size=size + 1.0, bold=True, after_mm=0.2)]
    said += [words(" ".join(step.steps), size=size, after_mm=0.2)] if step.steps else []
    said += [_blank(item, size, width - 8 - LINE_MM, LINE_MM) for item in step.record]
    style = [("VALIGN", (0, 0), (-1, -1), "TOP"), ("LEFTPADDING", (0, 0), (-1, -1), 0)]
    style += [("TOPPADDING", (0, 0), (-1, -1), 0.5), ("BOTTOMPADDING", (0, 0), (-1, -1), 1.5)]
    style.append(("RIGHTPADDING", (0, 0), (-1, -1), 0))
    return Table([[box, said]], [8 * MM, (width - 8) * MM], style=style, hAlign="LEFT")


def _box(lines: Sequence[str], size: float, width: float) -> Any:
    """Cautions in a frame of their own."""
    from reportlab.platypus import Table

    cells = [[words(line, size=size, after_mm=0.4)] for line in lines]
    style = [("BOX", (0, 0), (-1, -1), 1.4, "black"), ("TOPPADDING", (0, 0), (-1, -1), 0.8)]
    style.append(("BOTTOMPADDING", (0, 0), (-1, -1), 1.0))
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
    own += [ticked(line, TEXT, width) for line in step.steps]
    own += [words(f"Caution: {line}", size=TEXT, bold=True, after_mm=0.6) for line in step.cautions]
    own += [_blank(item) for item in step.record]
    bare = [(f"{side}PADDING", (0, 0), (-1, -1), 0) for side in ("LEFT", "RIGHT", "TOP")]
    return [Table([[[*own, words("", size=6, after_mm=1.0)]]], [width * MM], style=bare, hAlign="LEFT")]


def _blank(item: str, size: float = TEXT, wide_mm: float = 80.0, line_mm: float = 60.0) -> Any:
    """What is to be written down, with a line to write it on."""
    from reportlab.platypus import Table

    style = [("VALIGN", (0, 0), (-1, -1), "BOTTOM"), ("LINEBELOW", (1, 0), (1, 0), 0.6, "black")]
    style += [("LEFTPADDING", (0, 0), (0, 0), 0), ("TOPPADDING", (0, 0), (-1, -1), 5 if size >= TEXT else 1)]
    style.append(("BOTTOMPADDING", (0, 0), (-1, -1), 1))
    cells = [[words(item, size=size, after_mm=0), ""]]
    return Table(cells, [wide_mm * MM, line_mm * MM], style=style, hAlign="LEFT")


def _drawing(plan: Plan, wide_mm: float, unit: Unit, most_mm: float = DRAWING_MM) -> list[Any]:
    """The wood on its form across the page, with its figures; a figure without a clear place in large type under it."""
    picture = FormOnPaper(plan, wide_mm, most_mm, unit)
    rows = [picture.flowable()]
    return rows + ([words(", ".join(picture.missing), size=HEAD, bold=True, after_mm=2.0)] if picture.missing else [])


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
    return [*rows, *(ticked(item, TEXT, 150.0) for item in dict.fromkeys(things))]


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
