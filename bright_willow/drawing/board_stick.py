"""The story stick under the board: the strip laid straight, with its marks."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ..core.common.units import format_length
from .canvas import WIDTH_PX, Box
from .svg import num, tag

if TYPE_CHECKING:
    from .board import BoardDrawing


def stick(board: BoardDrawing) -> None:
    """The strip laid straight, with its marks. Distances are along the face that lies on the form."""
    f = board.frame
    px, marks = f.px, board.plan.stick
    on_inner = board.plan.face.side == "inner"
    y = f.top - f.height + 62 * px
    half = 7 * px
    board.space.take(Box(0, board.space.high - 108, WIDTH_PX, board.space.high))
    along = [m.inner_mm if on_inner else m.outer_mm for m in marks]
    first, last = along[0], along[-1]
    ends = [x for x, m in zip(along, marks, strict=True) if m.kind == "part_end"]
    board.parts.append(
        tag(
            "rect",
            x=num(first),
            y=num(-y - half),
            width=num(last - first),
            height=num(2 * half),
            class_="stick-blank",
        )
    )
    board.parts.append(
        tag(
            "rect",
            x=num(ends[0]),
            y=num(-y - half),
            width=num(ends[1] - ends[0]),
            height=num(2 * half),
            class_="stick",
        )
    )
    if board.with_segments:
        board.parts.append(f'<g class="segments">{stick_segments(board, ends, y, half)}</g>')
    for x, mark in zip(along, marks, strict=True):
        board.parts.append(board.line(x, y - half - 4 * px, x, y + half + 4 * px, f"stick-mark {mark.kind}"))
        if mark.kind in ("blank_end", "tightest"):
            continue
        taken = (0.0, ends[0] + 45 * px, ends[1] - 45 * px)
        near = any(abs(x - other) < 80 * px for other in taken) and mark.kind != "centre"
        if near and mark.kind != "part_end":
            continue
        label = "center" if mark.kind == "centre" else format_length(abs(x), board.unit)
        anchor = "middle" if mark.kind != "part_end" else "start" if x < 0 else "end"
        board.parts.append(board.text(x, y - half - 17 * px, label, "note", anchor))
    face = "inside" if on_inner else "outside"
    board.parts.append(
        board.text(
            f.left + f.width / 2,
            y + half + 9 * px,
            f"story stick: finished ends from the center, along the {face} face",
            "note faint",
            size=12,
        )
    )


def stick_segments(board: BoardDrawing, ends: list[float], y: float, half: float) -> str:
    step = (ends[1] - ends[0]) / board.segments_count
    size = {"y": num(-y - half), "width": num(step), "height": num(2 * half), "class_": "segment"}
    return "".join(tag("rect", x=num(ends[0] + i * step), data_segment=i, **size) for i in range(board.segments_count))
