"""The days on paper: a week day by day with boxes to tick, and one day minute by minute with who does what."""

from __future__ import annotations

import datetime as dt
import io
from collections.abc import Mapping, Sequence
from functools import partial
from typing import Any, Protocol

from ..calendar.schedule_messages import of_whom, when
from ..calendar.shop_clock import ShopClock
from ..calendar.time_format import format_day
from ..core.common.units import Unit
from ..core.scheduling.job_tasks import JobTasks, ScheduledTask, Timetable
from ..core.scheduling.worker_assignment import shared_out
from .cut_list import paper_mm
from .flowing import MARGIN_MM, MM, flow, words
from .print_font import font
from .steps import lasting

TEXT, HEAD, TITLE = 10.5, 13.0, 20.0
TIME_MM = {"mm": 13.0, "in": 19.0}  # across a column of times: 14:30, or 10:30 AM


class SheetLine(Protocol):
    """One thing on a day, as pages list it."""

    @property
    def time(self) -> str: ...
    @property
    def until(self) -> str: ...
    @property
    def name(self) -> str: ...
    @property
    def whom(self) -> str: ...
    @property
    def hands(self) -> str: ...
    @property
    def job(self) -> str: ...
    @property
    def state(self) -> str: ...
    @property
    def is_work(self) -> bool: ...


class SheetDay(Protocol):
    """A day and what begins on it."""

    @property
    def day(self) -> str: ...
    @property
    def lines(self) -> Sequence[SheetLine]: ...


def week_pdf(shop: str, lists: Sequence[SheetDay], first: dt.date, last: dt.date, *, paper: str, unit: Unit) -> bytes:
    """A week, black on white: each day what begins, for which job and piece, until when."""
    width = paper_mm(paper)[0] - 2 * MARGIN_MM
    said, time = partial(format_day, unit=unit, weekday="%A", month="%B"), TIME_MM[unit]
    title = f"{shop}: {said(first)} to {said(last, year=True)}"
    story = [words(title, size=TITLE - 3, bold=True, after_mm=3)]
    for each in lists:
        story.append(words(each.day, size=HEAD, bold=True, after_mm=1))
        rows = [("", "from", "what", "job", "of", "until")]
        for x in (x for x in each.lines if x.is_work):
            what = f"{x.name} ({x.hands})" if x.hands else x.name
            rows.append(("done" if x.state == "done" else "[   ]", x.time, what, x.job, x.whom, x.until))
        story.append(_lines(rows, (12, time, width - 12 - time - 52 - 34 - time - 7, 52, 34, time + 7)))
        story.append(words("", after_mm=2))
    if not lists:
        story.append(words("Nothing is scheduled this week.", size=HEAD))
    return _made(story, paper, f"{shop}: the week of {format_day(first, unit, year=True)}")


def day_pdf(
    shop: str,
    timetable: Timetable,
    works: Mapping[int, JobTasks],
    wall: ShopClock,
    day: dt.date,
    *,
    paper: str,
    people: int,
) -> bytes:
    """One day, minute by minute: what begins and what ends, for which piece, who is free for it; a blank for the time
    it really was."""
    width, time = paper_mm(paper)[0] - 2 * MARGIN_MM, TIME_MM[wall.unit]
    said = format_day(day, wall.unit, weekday="%A", month="%B", year=True)
    today = [d for d in timetable.doings if wall.at(d.from_s).date() == day]
    story = [words(f"{shop}: {said}", size=TITLE, bold=True, after_mm=2)]
    lay_out = dict.fromkeys(x for d in today for x in d.operation.lay_out)
    if lay_out:
        story.append(words(f"Lay out first: {'; '.join(lay_out)}.", size=TEXT + 1, after_mm=2))
    rows = [("from", "to", "what", "job and piece", "who", "was")]
    for d, who in zip(today, shared_out(today, people), strict=True):
        alone = f", {lasting(d.to_s - d.hands_to_s)} unattended" if d.to_s > d.hands_to_s else ""
        hands = " and ".join(str(p + 1) for p in who) or ("someone nearby" if not d.operation.may_run_alone else "")
        span = (wall.time(d.from_s), until(d, wall, day))
        whom = f"{works[d.job].name}: {of_whom(d, works[d.job])}"
        rows.append((*span, d.operation.name + alone, whom, hands, "____"))
    if today:
        story.append(_lines(rows, (time - 1, time + 8, width - 2 * time - 7 - 60 - 24 - 13, 60, 24, 13)))
    else:
        story.append(words("Nothing is scheduled this day.", size=HEAD))
    story.append(words("", after_mm=2))
    cautions = tuple(dict.fromkeys(c for d in today for c in d.operation.cautions))
    story += [words(c, size=TEXT, bold=True, after_mm=0.8) for c in cautions]
    return _made(story, paper, f"{shop}: {said}")


def until(d: ScheduledTask, wall: ShopClock, day: dt.date) -> str:
    """When it ends: with the weekday where that is another day, with the date where it is a week off."""
    return when(wall, d.to_s, near=day)


def _lines(rows: Sequence[Sequence[str]], widths_mm: Sequence[float]) -> Any:
    """A table of words, its head on every page."""
    from reportlab.platypus import Table

    cells = [[words(text, size=TEXT, bold=not n, after_mm=0) for text in row] for n, row in enumerate(rows)]
    style = [
        ("VALIGN", (0, 0), (-1, -1), "TOP"),
        ("LINEBELOW", (0, 0), (-1, -1), 0.3, "grey"),
        ("LEFTPADDING", (0, 0), (-1, -1), 2),
        ("RIGHTPADDING", (0, 0), (-1, -1), 2),
        ("TOPPADDING", (0, 0), (-1, -1), 1.5),
        ("BOTTOMPADDING", (0, 0), (-1, -1), 1.5),
    ]
    return Table(cells, [w * MM for w in widths_mm], repeatRows=1, style=style, hAlign="LEFT")


def _made(story: list[Any], paper: str, title: str) -> bytes:
    from reportlab.pdfgen.canvas import Canvas

    page = paper_mm(paper)
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(page[0] * MM, page[1] * MM))
    canvas.setTitle(title)
    canvas.setCreator("Bright Willow")
    numbers = iter(range(1, 1_000))

    def foot(c: Any) -> None:
        c.setFont(font(), 9)
        c.drawString(MARGIN_MM * MM, MARGIN_MM * MM, f"{title}, sheet {next(numbers)}")

    flow(canvas, story, page, foot=foot)
    canvas.save()
    return out.getvalue()
