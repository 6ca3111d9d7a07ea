"""What the board shows while a shape is made: dimensions, handles, the points of an outline."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

import numpy as np

from ..core.common.arrays import Array
from ..core.common.fineness import in_full
from ..core.common.units import format_length
from ..core.shape.arc import FACES
from ..core.shape.curve import Curve
from ..core.shape.handle_drag import handles, laid_points
from ..core.shape.kinds.outline import MOST_POINTS, Outline
from ..core.shape.smooth_curve import fitted
from .board_form import closing_handles
from .canvas import LETTER, Box
from .svg import named, num, tag

if TYPE_CHECKING:
    from .board import BoardDrawing


def dimensions(board: BoardDrawing) -> None:
    """Chord, rise and the tightest radius of the stated face, as a maker would check them."""
    reading = board.plan.geometry.face(board.job.shape.face)
    px = board.px
    if board.job.shape.is_closed:
        _diameter(board, reading.curve)
        return
    curve = reading.curve
    points = curve.at(np.linspace(0, curve.length_mm, 97))[0] + board.lift
    start, end = points[0], points[-1]
    along = (end - start) / max(1e-9, reading.chord_mm)
    away = np.array([along[1], -along[0]])  # to the right of travel: below an arc that bulges upwards
    depth = (points - start) @ -away
    crown = points[int(np.argmax(np.abs(depth)))]
    low = 26 * px + max(0.0, -float(depth.min()))
    a, b = start + away * low, end + away * low
    message = f"chord {format_length(reading.chord_mm, board.unit)} · {FACES[board.job.shape.face]}"
    aslant = abs(float(along[1])) * len(message) * LETTER * 14 / 2  # words stand level, also under a line that does not
    middle = (a + b) / 2 + away * (22 + aslant) * px
    board.parts += [
        board.line(*(start + away * 4 * px), *(a + away * 5 * px), "extension"),
        board.line(*(end + away * 4 * px), *(b + away * 5 * px), "extension"),
        board.arrows(*a, *b),
    ]
    spots = [(float(middle[0]), float(middle[1]), "middle"), *board.around(*b, away=14), *board.around(*a, away=14)]
    board.parts.append(board.label(spots, message, "figure", 14, in_full(reading.chord_mm, board.unit)))
    foot = crown + away * float((crown - start) @ -away)
    rise = f"rise {format_length(reading.rise_mm, board.unit)}"
    if reading.rise_mm / px > 60:
        board.parts.append(board.arrows(*foot, *crown))
        tightest(board, curve, reading.rise_mm)
        spots = []
        for share in (0.55, 0.4, 0.7, 0.28, 0.82, 0.16, 0.92):
            x, y = crown + (foot - crown) * share
            spots += [(float(x) + 9 * px, float(y), "start"), (float(x) - 9 * px, float(y), "end")]
        spots += [*board.around(*foot), *board.around(*crown)]
        board.parts.append(board.label(spots, rise, "figure", 14, in_full(reading.rise_mm, board.unit)))
        return
    above = (float(crown[0]), board.crown_y + board.half + 12 * px, "middle")
    spots = [above, *board.around(*crown, away=14)]
    board.parts.append(board.label(spots, rise, "figure", 14, in_full(reading.rise_mm, board.unit)))
    tightest(board, curve, reading.rise_mm)


def _diameter(board: BoardDrawing, curve: Curve) -> None:
    """Across a ring, through its middle."""
    radius = curve.length_mm / math.tau
    top = curve.points_mm[0] + board.lift + np.array([0.0, 2 * radius])
    middle = float(top[1]) - radius
    message = f"diameter {format_length(2 * radius, board.unit)} · {FACES[board.job.shape.face]}"
    board.parts.append(board.arrows(-radius, middle, radius, middle))
    board.parts.append(board.text(0.0, middle + 8 * board.frame.px, message, "figure", size=14))


def end_cuts(board: BoardDrawing) -> None:
    """Cuts that are not square, where they cross the finished piece; an end left long runs on."""
    if board.job.shape.is_closed:
        return
    for cut in board.plan.ends:
        (x1, y1), (x2, y2) = (np.array(p) + board.lift for p in (cut.inner, cut.outer))
        if cut.kind in ("mitred", "on_line"):
            board.parts.append(board.line(x1, y1, x2, y2, "end-cut"))
            message = f"{cut.mitre_deg:.0f}° off square"
        elif cut.kind == "long":
            message = "left long"
        else:
            continue
        x, y = (x1 + x2) / 2, (y1 + y2) / 2
        board.parts.append(board.label(board.around(x, y, away=20 + board.half / board.px), message, "note"))


def points(board: BoardDrawing) -> None:
    """The points an outline was made from, on the curve that was fitted to them."""
    shape, px = board.job.shape, board.px
    if not isinstance(shape, Outline):
        return
    laid = laid_points(board.job.shape, board.job.part.thickness_mm, mirrored=board.job.is_right)
    if len(laid) > MOST_POINTS:  # fewer stand there as handles
        for x, y in laid[:: max(1, len(laid) // 200)]:
            board.parts.append(tag("circle", cx=num(x), cy=num(-y), r=num(2.2 * px), class_="fit-point"))
    fit = fitted(shape.points_mm, shape.slack_mm)
    nearest = laid[fit.worst_point]
    message = f"furthest from the points here: {format_length(fit.largest_mm, board.unit, decimals=2)}"
    x, y = nearest
    ring = tag("circle", named(message), cx=num(x), cy=num(-y), r=num(11 * px), class_="fit-worst")
    board.parts += [
        ring,
        board.label([(x, y + 18 * px, "middle"), *board.around(x, y, away=18)], message, "note faint", 12),
    ]


def tightest(board: BoardDrawing, curve: Curve, rise_mm: float) -> None:
    """An arrow from inside to the tightest place, a little beside the middle where the whole is one arc."""
    px = board.px
    k = curve.curvature
    tight = np.flatnonzero(np.abs(k) > float(np.abs(k).max()) * (1 - 5e-3))
    cell = int(tight[int(len(tight) * 0.78)])
    share = 0.78 if k.size == 1 else 0.5
    station = float(curve.stations_mm[cell] + curve.lengths_mm[cell] * share)
    (place,), (heading,) = curve.at(np.array([station]))
    inwards = np.array([math.sin(heading), -math.cos(heading)]) * (1 if k[cell] > 0 else -1)
    radius = 1 / abs(float(k[cell]))
    length = min(radius * 0.42, max(rise_mm * 0.62, 50 * px))
    if length / px > 30:
        tip, tail = place + board.lift, place + board.lift + inwards * length
        below = -14 if inwards[1] < 0 else 8
        board.parts.append(board.arrows(*tail, *tip, both=False))
        message = f"R {format_length(radius, board.unit)}"
        x, y = (float(v) for v in tail)
        spots = [(x, y + below * px, "middle"), *board.around(x, y), *board.around(*((tail + tip) / 2), away=12)]
        board.parts.append(board.label(spots, message, "figure", 14, in_full(radius, board.unit)))


def handle_points(board: BoardDrawing) -> Array:
    """(n, 2) centers of the handles of a shape, mm: the board is large enough to show them all."""
    found = handles(board.job.shape, board.job.part.thickness_mm, mirrored=board.job.is_right)
    return np.array([(h.x_mm, h.y_mm) for h in found]).reshape(-1, 2)


def handles_drawn(board: BoardDrawing) -> None:
    """Everything that can be taken hold of, within reach of a finger; numbered tags carry a stretch elsewhere."""
    for h in handles(board.job.shape, board.job.part.thickness_mm, mirrored=board.job.is_right):
        _handle(board, h.name, h.x_mm, h.y_mm, h.message, h.look, h.text)


def handles_of_the_form(board: BoardDrawing) -> None:
    """The closing direction and the splits of a form."""
    for name, x, y, message, look in closing_handles(board):
        _handle(board, name, x, y, message, look, "")


def _handle(board: BoardDrawing, name: str, x: float, y: float, message: str, look: str, text: str) -> None:
    px = board.px
    left, top = board.space.at(np.array([[x, y]]))[0]
    board.space.take(Box(left - 13, top - 13, left + 13, top + 13))
    at = {"cx": num(x), "cy": num(-y)}
    body = named(message) + tag("circle", r=num(22 * px), class_="reach", **at)
    body += tag("circle", r=num((7 if look == "knob" else 10) * px), class_=f"knob {look}", **at)
    if text:
        body += board.text(x, y - 4.5 * px, text, f"handle-text {look}", size=13)
    board.parts.append(
        tag(
            "g",
            body,
            class_="handle",
            data_handle=name,
            tabindex=0,
            role="button",
            aria_label=f"{message}; arrow keys move it",
            data_step=num(px * 4),
        )
    )
