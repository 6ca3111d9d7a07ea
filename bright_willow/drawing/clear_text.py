"""Text of a template moved clear of its lines: no word lies on a line, or on another."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np
import shapely
from shapely.affinity import rotate
from shapely.geometry import LineString, Polygon, box

from .print_font import text_width

if TYPE_CHECKING:
    from .template_lines import Template, TemplateText

SIZES = (1.0, 0.8, 0.6)  # of the text, tried in this order
STEP_MM, FARTHEST_MM = 4.0, 200.0
CLEAR_MM = 1.0  # between a text and a line
ASCENT, DESCENT = 0.75, 0.22  # of the height of the type
TOGETHER_MM = 13.0  # lines of text nearer than this, at one angle, are one block
LEAST_HIGH_MM = 2.4  # what is still read at arm's length


def text_box(text: TemplateText) -> Polygon:
    """The place a text takes on the template, mm."""
    half, high = text_width(text.text, text.height_mm) / 2, text.height_mm
    flat = box(text.x - half, text.y - DESCENT * high, text.x + half, text.y + ASCENT * high)
    return rotate(flat, text.angle_deg, origin=(text.x, text.y))


def cleared(template: Template, sheets: Sequence[Polygon] = ()) -> Template:
    """Return the template with each block of text at the nearest place, in the largest type, that is clear.

    sheets: what each sheet of paper shows, where it is printed on several; then every text is whole on one of them.
    What has no clear place within FARTHEST_MM stays where it was, in the smallest type.
    """
    lines = [LineString(chain.dense(3.0)) for chain in template.chains]
    left, bottom, right, top = template.bounds()
    rooms = sheets or (box(left - 30, bottom - 30, right + 30, top + 30),)
    taken = list(lines)
    made: list[TemplateText] = []
    for block in _blocks(template.words):
        placed = _placed(block, taken, rooms)
        made += placed
        taken += [text_box(text) for text in placed]
    return replace(template, words=made)


def _blocks(texts: Sequence[TemplateText]) -> list[list[TemplateText]]:
    """Texts that stand under one another, together."""
    blocks: list[list[TemplateText]] = []
    for text in texts:
        last = blocks[-1][-1] if blocks else None
        if (
            last is not None
            and abs(last.angle_deg - text.angle_deg) < 0.5
            and np.hypot(last.x - text.x, last.y - text.y) < TOGETHER_MM
        ):
            blocks[-1].append(text)
        else:
            blocks.append([text])
    return blocks


def _placed(block: Sequence[TemplateText], taken: Sequence[object], rooms: Sequence[Polygon]) -> list[TemplateText]:
    """A block where it is clear: as it is, else moved, else smaller; its lines one by one where no place holds all."""
    tree = shapely.STRtree(taken)
    for size in SIZES:
        smaller = _scaled(block, size)
        for dx, dy in () if _overlap(smaller) else _moves():
            moved = [replace(t, x=t.x + dx, y=t.y + dy) for t in smaller]
            if all(_is_clear(text_box(t), tree, rooms) for t in moved):
                return moved
    if len(block) == 1:
        return _scaled(block, SIZES[-1])
    placed: list[TemplateText] = []
    for text in block:
        own = _placed([text], [*taken, *map(text_box, placed)], rooms)
        placed += own
    return placed


def _overlap(block: Sequence[TemplateText]) -> bool:
    """Whether lines of a block lie on one another, wherever it is moved to."""
    boxes = [text_box(text) for text in block]
    return any(a.intersects(b) for n, a in enumerate(boxes) for b in boxes[:n])


def _scaled(block: Sequence[TemplateText], size: float) -> list[TemplateText]:
    """A block in smaller type, its lines nearer to the first."""
    first = block[0]
    return [
        replace(
            t,
            x=first.x + (t.x - first.x) * size,
            y=first.y + (t.y - first.y) * size,
            height_mm=max(LEAST_HIGH_MM, t.height_mm * size),
        )
        for t in block
    ]


def _is_clear(place: Polygon, tree: shapely.STRtree, rooms: Sequence[Polygon]) -> bool:
    return (
        any(room.contains(place) for room in rooms)
        and not tree.query(place, predicate="dwithin", distance=CLEAR_MM).size
    )


def _moves() -> Iterator[tuple[float, float]]:
    """Where to look, the nearest first."""
    yield 0.0, 0.0
    near, far = np.arange(STEP_MM, 60.0, STEP_MM), np.arange(60.0, FARTHEST_MM + 1, 3 * STEP_MM)
    for ring in (*near, *far):
        for angle in np.linspace(0, 2 * np.pi, 16, endpoint=False):
            yield float(ring * np.cos(angle)), float(ring * np.sin(angle))
