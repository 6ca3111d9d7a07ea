"""The lens of the board: the tip, enlarged."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from ..core.ground.units import format_length
from .svg import named, num, point, polyline, tag

if TYPE_CHECKING:
    from .board import Board

LENS_SCALES = (2, 3, 4, 5, 8, 10, 15, 20, 30, 40)


def lens(board: Board) -> None:
    """The right-hand tip enlarged, where springback is too small to see at the scale of the board."""
    f = board.frame
    assert f is not None
    px, gap = f.px, board.opens_mm
    if gap / px > 60:
        return
    scale = next((s for s in LENS_SCALES if gap / px * s >= 44), LENS_SCALES[-1])
    radius = 74 * px
    strip = board.on_form.cut_finer(48).points_mm + board.lift
    right, left = f.left + f.width - radius - 14 * px, f.left + radius + 130 * px
    low = f.top - f.height + radius + (40 if board.stage == "measure" else 120) * px
    corners = [(right, f.top - radius - 14 * px), (right, low), (left, low)]
    room = [float(np.hypot(*(strip - (x - 50 * px, y)).T).min()) for x, y in corners]
    centre = np.array(corners[0 if room[0] > 1.9 * radius else int(np.argmax(room))])
    tip = board.target.points_mm[-1] + board.lift
    if np.hypot(*(tip - centre)) < radius * 1.2:
        return
    look_at = (board.target.points_mm[-1] + board.on_form.points_mm[-1]) / 2 + board.lift
    move = f"translate({point(*centre)}) scale({scale}) translate({point(*(-look_at))})"
    clip = tag("clipPath", tag("circle", cx=num(centre[0]), cy=num(-centre[1]), r=num(radius)), id="lens-clip")
    rim = centre + (tip - centre) / np.hypot(*(tip - centre)) * radius
    says = ["the tip,", f"{scale} times larger:", f"opens {format_length(gap, board.unit)}"]
    board.parts += [
        board.line(*rim, *tip, "leader"),
        tag("circle", cx=num(centre[0]), cy=num(-centre[1]), r=num(radius), class_="lens"),
        clip,
        f'<g clip-path="url(#lens-clip)">{tag("g", lens_lines(board, scale), transform=move)}</g>',
        tag("circle", cx=num(centre[0]), cy=num(-centre[1]), r=num(radius), class_="lens-rim"),
        *(
            board.text(centre[0] - radius - 10 * px, centre[1] + (16 - 18 * i) * px, text, "note", "end")
            for i, text in enumerate(says)
        ),
    ]


def lens_lines(board: Board, scale: float) -> str:
    """Outlines of the tip, or, once pieces are measured, mid-lines, the band to expect and the measured tips."""
    curves = [("target", board.target), ("on-form", board.on_form), ("released", board.released)]
    if not board.measured:
        return "".join(tag("path", d=board.outline(c), class_=f"outline {name}") for name, c in curves)
    shift = board.lift
    reach = np.linspace(board.target.length_mm * 0.8, board.target.length_mm, 12)
    lines = "".join(tag("path", d=polyline(c.at(reach)[0] + shift), class_=f"outline {n}") for n, c in curves[:2])
    ends = [c.points_mm[-1] + shift for c in (board.band[0], board.released, board.band[1])]
    lines += tag("path", named("where 8 tips in 10 should lie"), d=polyline(np.array(ends)), class_="tip-band")
    px = board.frame.px  # type: ignore[union-attr]
    for piece in board.measured:
        curve = piece.mid_line
        x, y = curve.points_mm[-1] + shift
        near = np.linspace(curve.length_mm * 0.9, curve.length_mm, 6)
        lines += tag("path", d=polyline(curve.at(near)[0] + shift), class_="outline measured")
        lines += tag(
            "circle",
            named(f"piece {piece.label}"),
            cx=num(x),
            cy=num(-y),
            r=num(4 * px / scale),
            class_="tip-dot",
        )
    return lines
