"""The story stick under the board: the strip laid straight, with its marks."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ..core.common.units import format_length
from .canvas import LETTER, Box
from .svg import num, tag

if TYPE_CHECKING:
    from .board import BoardDrawing

STICK_PX = 92.0  # the foot of a board it takes


def stick(board: BoardDrawing) -> None:
    """The strip laid straight, with its marks. Distances are along the face that lies on the form.

    It has the scale of the drawing; where that would leave the piece small, as with a hoop, it is drawn shorter, and
    says so.
    """
    f = board.frame
    px, marks = f.px, board.plan.stick
    on_inner = board.plan.face.side == "inner"
    y = f.top - f.height + 44 * px
    half = 7 * px
    board.space.take(Box(0, board.space.high - STICK_PX, f.wide_px, board.space.high))
    told = [m.inner_mm if on_inner else m.outer_mm for m in marks]
    scale = min(1.0, (f.wide_px - 40) * px / (2 * max(-told[0], told[-1])))
    along = [x * scale for x in told]
    room = f.left + 8 * px - along[0], f.left + f.width - 8 * px - along[-1]
    off = min(max(0.0, room[0]), room[1])  # under the center of the piece, as far as the board goes
    along = [x + off for x in along]
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
    for x, exact, mark in zip(along, told, marks, strict=True):
        board.parts.append(board.line(x, y - half - 4 * px, x, y + half + 4 * px, f"stick-mark {mark.kind}"))
        if mark.kind in ("blank_end", "tightest", "own"):
            continue
        taken = (off, ends[0] + 45 * px, ends[1] - 45 * px)
        near = any(abs(x - other) < 80 * px for other in taken) and mark.kind != "centre"
        if near and mark.kind != "part_end":
            continue
        label = "center" if mark.kind == "centre" else format_length(abs(exact), board.unit)
        anchor = "middle" if mark.kind != "part_end" else "start" if x < off else "end"
        board.parts.append(board.text(x, y - half - 17 * px, label, "note", anchor))
    _caption(board, "inside" if on_inner else "outside", scale, off, y + half + 9 * px)


def _caption(board: BoardDrawing, face: str, scale: float, x: float, y: float) -> None:
    """What the stick is, over its middle as far as the board goes; shorter where the board is narrow."""
    f = board.frame
    short = "" if scale > 0.99 else f", {scale:.0%} of the scale above"
    caption = f"story stick: ends from the center, along the {face} face{short}"
    if len(caption) * LETTER * 12 > f.wide_px:
        caption = f"story stick, {face} face{short}"
    half = len(caption) * LETTER * 6 * f.px
    middle = min(max(x, f.left + half), f.left + f.width - half)
    board.parts.append(board.text(middle, y, caption, "note faint", size=12))


def stick_segments(board: BoardDrawing, ends: list[float], y: float, half: float) -> str:
    step = (ends[1] - ends[0]) / board.segments_count
    size = {"y": num(-y - half), "width": num(step), "height": num(2 * half), "class_": "segment"}
    return "".join(tag("rect", x=num(ends[0] + i * step), data_segment=i, **size) for i in range(board.segments_count))
