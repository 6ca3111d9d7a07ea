"""The tips: what is drawn is named where it ends, enlarged in a lens where that is too small to see."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np

from ..core.common.arrays import Array
from ..core.shape.curve import Curve
from .canvas import LETTER
from .svg import named, num, point, polyline, tag

if TYPE_CHECKING:
    from .board import BoardDrawing

LENS_SCALES = (2, 3, 4, 5, 8, 10, 15, 20, 30, 40)
RADII_PX = (74.0, 60.0, 46.0)
WORDS_PX, LINE_PX = 150.0, 17.0  # room for the names beside a lens
MANY, MANY_WORDS_PX = 4, 205.0  # so many names may stand side by side in one line
SAMPLE_PX = 20.0  # of a line beside its name
MOST_WORDS = 0.4  # of the width of a board in one line; names beyond it stand under each other
SEEN_PX = 60.0  # apart, tips are told without a lens
SAME_PX = 5.0  # apart, two of them are one to the eye
KEYS = {
    "target": "finished",
    "on-form": "on the form",
    "released": "released",
    "settled": "after some weeks",
    "measured": "measured",
}
Shapes = list[tuple[str, Curve]]


def tips_named(board: BoardDrawing, shapes: Shapes) -> bool:
    """What is drawn, named where it ends, in a lens or beside it. Whether there was room."""
    gap_px = board.opens_mm / board.px
    if gap_px <= SEEN_PX and not (board.stage == "form" and board.plan.form.closing):
        scale = next((s for s in LENS_SCALES if gap_px * s >= 44), LENS_SCALES[-1])
        for radius in RADII_PX:
            x, y = board.target.points_mm[-1] + board.lift
            words = WORDS_PX if len(shapes) < MANY else MANY_WORDS_PX
            lines = (len(shapes) + 2.5) * LINE_PX
            room = board.space.nearest(2 * radius + words + 30, max(2 * radius, lines) + 12, x, y)
            if room:
                words_left = board.space.at(np.array([[x, y]]))[0][0] > (room.x0 + room.x1) / 2
                centre = room.x1 - radius - 8 if words_left else room.x0 + radius + 8
                middle = board.place(centre, (room.y0 + room.y1) / 2)
                _lens(board, shapes, np.array(middle), radius * board.px, scale, -1.0 if words_left else 1.0)
                board.space.take(room)
                return True
            room = board.space.nearest(max(2 * radius, words) + 16, 2 * radius + lines + 22, x, y)
            if room:  # the names under it
                middle = board.place((room.x0 + room.x1) / 2, room.y0 + radius + 8)
                _lens(board, shapes, np.array(middle), radius * board.px, scale, 0.0)
                board.space.take(room)
                return True
        if not board.is_last_try:
            return False
    return _beside_the_tips(board, shapes)


def _together(tips: list[tuple[str, Array]], apart_mm: float) -> list[tuple[list[str], Array]]:
    """Names of tips that cannot be told apart stand together."""
    made: list[tuple[list[str], Array]] = []
    for name, at in tips:
        same = next((names for names, there in made if np.hypot(*(at - there)) < apart_mm), None)
        if same is None:
            made.append(([name], at))
        else:
            same.append(name)
    return made


def _beside_the_tips(board: BoardDrawing, shapes: Shapes) -> bool:
    """Names at the right-hand ends themselves. Whether each had room."""
    px, roomy = board.px, True
    tips = [(name, curve.points_mm[-1] + board.lift) for name, curve in shapes]
    for names, (x, y) in _together(tips, SAME_PX * px):
        lines = [" = ".join(board.keys[n] for n in names)]
        if len(lines[0]) * LETTER * 13 > MOST_WORDS * board.frame.wide_px:
            lines = [board.keys[names[0]], *(f"= {board.keys[n]}" for n in names[1:])]
        spots = board.around(x, y, away=12 + board.half / px)
        deep = (len(lines) - 1) * LINE_PX
        boxes = [board.box(sx, sy, max(lines, key=len), anchor, 13) for sx, sy, anchor in spots]
        at = board.space.best([replace(box, y1=box.y1 + deep) for box in boxes])
        roomy &= board.space.overlap(replace(boxes[at], y1=boxes[at].y1 + deep)) < 0.05
        sx, sy, anchor = spots[at]
        board.parts.append(tag("path", d=polyline([(x, y), (sx, sy + 4 * px)]), class_="leader"))
        for n, line in enumerate(lines):
            board.parts.append(board.text(sx, sy - n * LINE_PX * px, line, f"note of-{names[0]}", anchor))
    return roomy


def _lens(board: BoardDrawing, shapes: Shapes, centre: Array, radius: float, scale: int, side: float) -> None:
    """The right-hand tip enlarged; its names left (side -1) or right (1) of it, or under it (0)."""
    px, lift = board.px, board.lift
    tip = board.target.points_mm[-1] + lift
    look_at = (board.target.points_mm[-1] + board.on_form.points_mm[-1]) / 2 + lift
    move = f"translate({point(*centre)}) scale({scale}) translate({point(*(-look_at))})"
    clip = tag("clipPath", tag("circle", cx=num(centre[0]), cy=num(-centre[1]), r=num(radius)), id="lens-clip")
    rim = centre + (tip - centre) / max(1e-9, float(np.hypot(*(tip - centre)))) * radius
    round_ = {"cx": num(centre[0]), "cy": num(-centre[1]), "r": num(radius)}
    board.parts += [
        tag("defs", clip),
        board.line(*rim, *tip, "leader"),
        tag("circle", class_="lens", **round_),
        tag("g", tag("g", _lines(board, scale), transform=move), clip__path="url(#lens-clip)"),
        tag("circle", class_="lens-rim", **round_),
    ]
    tips = []
    for name, curve in shapes:
        off = (curve.points_mm[-1] + lift - look_at) * scale
        far = float(np.hypot(*off))
        tips.append((name, centre + (off if far < 0.8 * radius else off * 0.8 * radius / far)))
    rows = sorted(_together(tips, SAME_PX * px), key=lambda r: -r[1][1])
    x = float(centre[0]) + side * (radius + 10 * px)
    top = float(centre[1]) + (len(rows) + 2) * LINE_PX / 2 * px
    anchor = "end" if side < 0 else "start"
    if not side:
        x, top = float(centre[0]) - WORDS_PX / 2 * px, float(centre[1]) - radius - 5 * px
    for i, text in enumerate((f"end, enlarged {scale}×", f"springs back {board.opens_said}")):
        board.parts.append(board.text(x, top - (i + 0.7) * LINE_PX * px, text, "figure" if i else "note", anchor))
    for i, (names, at) in enumerate(rows, 2):
        y = top - (i + 0.7) * LINE_PX * px
        if side:
            board.parts.append(tag("path", d=polyline([(x - side * 3 * px, y + 4 * px), at]), class_="leader strong"))
        else:  # under the lens a leader would cross the names above its own: a piece of its line stands before each
            board.parts.append(board.line(x, y + 4 * px, x + SAMPLE_PX * px, y + 4 * px, f"outline {names[0]}"))
        board.parts.append(tag("circle", cx=num(at[0]), cy=num(-at[1]), r=num(2.4 * px), class_=f"end of-{names[0]}"))
        message = " = ".join(board.keys[n] for n in names)
        words = x if side else x + (SAMPLE_PX + 6) * px
        board.parts.append(board.text(words, y, message, f"note of-{names[0]}", anchor))


def _lines(board: BoardDrawing, scale: float) -> str:
    """Outlines of the tip, or, once pieces are measured, mid-lines, the band to expect and the measured tips."""
    curves = [("target", board.target), ("on-form", board.on_form), ("released", board.released)]
    if not board.measured:
        return "".join(tag("path", d=board.outline(c), class_=f"outline {name}") for name, c in curves)
    shift = board.lift
    reach = np.linspace(board.target.length_mm * 0.8, board.target.length_mm, 12)
    lines = "".join(tag("path", d=polyline(c.at(reach)[0] + shift), class_=f"outline {n}") for n, c in curves[:2])
    ends = [c.points_mm[-1] + shift for c in (board.band[0], board.released, board.band[1])]
    lines += tag("path", named("where the ends are likely to be"), d=polyline(np.array(ends)), class_="tip-band")
    for piece in board.measured:
        curve = piece.mid_line
        x, y = curve.points_mm[-1] + shift
        near = np.linspace(curve.length_mm * 0.9, curve.length_mm, 6)
        lines += tag("path", d=polyline(curve.at(near)[0] + shift), class_="outline measured")
        dot = named(f"piece {piece.label}")
        lines += tag("circle", dot, cx=num(x), cy=num(-y), r=num(4 * board.px / scale), class_="tip-dot")
    return lines
