"""Pages of words and tables that flow on to the next page when one is full."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from html import escape
from typing import Any

from .print_font import font, text_width

MM = 72 / 25.4
MARGIN_MM, FOOT_MM = 10.0, 12.0


def flow(canvas: Any, story: Iterable[Any], page_mm: tuple[float, float], *, foot: Callable[[Any], None]) -> int:
    """Put flowables on as many pages as they take; returns how many. `foot` draws on each page before it is shown.

    Raises: ValueError for a flowable that fits no empty page.
    """
    from reportlab.platypus import Frame

    left, pages = list(story), 0
    while left:
        canvas.setPageSize((page_mm[0] * MM, page_mm[1] * MM))
        width, height = (page_mm[0] - 2 * MARGIN_MM) * MM, (page_mm[1] - 2 * MARGIN_MM - FOOT_MM) * MM
        frame = Frame(MARGIN_MM * MM, (MARGIN_MM + FOOT_MM) * MM, width, height, 0, 0, 0, 0)
        placed = _fill(frame, left, canvas)
        if not placed:
            raise ValueError("something to print is larger than a page")
        foot(canvas)
        canvas.showPage()
        pages += 1
    return pages


def _would_stand_alone(frame: Any, left: list[Any]) -> bool:
    """Whether a heading fits the sheet, and nothing of what it heads does."""
    one = left[0]
    if len(left) < 2 or not getattr(getattr(one, "style", None), "keepWithNext", False):
        return False
    wide, room = frame._width, frame._y - frame._y1p
    needs = one.wrap(wide, room)[1] + min(left[1].wrap(wide, room)[1], FOLLOWS_MM * MM)
    return bool(needs > room)


def _fill(frame: Any, left: list[Any], canvas: Any) -> int:
    placed = 0
    while left:
        if placed and _would_stand_alone(frame, left):
            break
        if frame.add(left[0], canvas):
            left.pop(0)
            placed += 1
            continue
        parts = frame.split(left[0], canvas)
        if len(parts) > 1 and frame.add(parts[0], canvas):
            left[0:1] = parts[1:]
            placed += 1
        break
    return placed


FOLLOWS_MM = 20.0  # of what a heading heads, that stand on its sheet
HEADING = 13.0  # points from which bold text is a heading


def words(text: str, *, size: float = 10.0, bold: bool = False, grey: float = 0.0, after_mm: float = 1.2) -> Any:
    """A paragraph; a heading, larger than the text around it, is never left alone at the foot of a sheet."""
    from reportlab.lib.colors import Color
    from reportlab.lib.styles import ParagraphStyle
    from reportlab.platypus import Paragraph

    style = ParagraphStyle(
        "own",
        fontName=font(bold=bold),
        fontSize=size,
        leading=size * 1.25,
        spaceAfter=after_mm * MM,
        textColor=Color(grey, grey, grey),
        keepWithNext=bold and size >= HEADING,
    )
    return Paragraph(escape(text), style)


def within(text: str, size: float, width_mm: float, *, bold: bool = False) -> str:
    """As much of a line as fits a width, with an ellipsis where something is left out."""
    if text_width(text, size, bold=bold) <= width_mm * MM:
        return text
    while text and text_width(f"{text}…", size, bold=bold) > width_mm * MM:
        text = text[:-1]
    return f"{text}…"


def table(
    rows: Sequence[Sequence[Any]],
    widths_mm: Sequence[float],
    *,
    size: float = 8.5,
    head: int = 0,
    ruled_mm: float = 0.0,
) -> Any:
    """A table of short texts, numbers to the right; its first rows stand again on every page.

    ruled_mm: how high the rows are that are written into by hand.
    """
    from reportlab.platypus import Table

    style = [
        ("FONT", (0, 0), (-1, -1), font(), size),
        ("FONT", (0, 0), (-1, head - 1), font(bold=True), size),
        ("ALIGN", (0, 0), (-1, -1), "RIGHT"),
        ("TOPPADDING", (0, 0), (-1, -1), 0.6),
        ("BOTTOMPADDING", (0, 0), (-1, -1), 0.6),
    ]
    if not head:
        style.pop(1)
    if ruled_mm:
        style += [("GRID", (0, 0), (-1, -1), 0.5, "black"), ("VALIGN", (0, 0), (-1, -1), "MIDDLE")]
    high = [None] * head + [ruled_mm * MM] * (len(rows) - head) if ruled_mm else None
    return Table(list(rows), [w * MM for w in widths_mm], high, repeatRows=head, style=style, hAlign="LEFT")


def drawn(width_mm: float, height_mm: float, draw: Callable[[Any], None]) -> Any:
    """A drawing of so many mm that is made on the canvas with its lower left corner at the origin."""
    from reportlab.platypus import Flowable

    class Drawn(Flowable):  # type: ignore[misc]
        def __init__(self) -> None:
            super().__init__()
            self.width, self.height = width_mm * MM, height_mm * MM

        def draw(self) -> None:
            draw(self.canv)

    return Drawn()


def ticked(message: str, size: float, width: float, *, bold: bool = False) -> Any:
    """A line with a box before it to tick."""
    from reportlab.platypus import Table

    cells = [[drawn(4.0, 4.0, lambda c: c.rect(0, 0, 3.4 * MM, 3.4 * MM)), words(message, size=size, bold=bold)]]
    style = [("VALIGN", (0, 0), (-1, -1), "TOP"), ("TOPPADDING", (0, 0), (-1, -1), 1.5)]
    style += [("BOTTOMPADDING", (0, 0), (-1, -1), 0.5), ("LEFTPADDING", (0, 0), (0, 0), 0)]
    return Table(cells, [8 * MM, (width - 8) * MM], style=style, hAlign="LEFT")
