"""The form on the board: its body, the parts that press, how much of the push reaches the face, how they close."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

import numpy as np

from ..core.common.arrays import Array
from ..core.common.units import format_force, format_length
from ..core.form.carcase import SPACER_HIGH_MM
from ..core.form.closing import STARVED, Presser
from ..core.form.construction import CarryingPart
from ..core.form.face import FormFace
from ..core.form.parts import dense
from ..core.plan.result import Plan
from .svg import arc_chain, named, num, polyline, tag

if TYPE_CHECKING:
    from .board import BoardDrawing

MOST_CLAMPS = 24  # drawn; more of them stand side by side
SHARES = ((0.0, "undercut"), (STARVED, "starved"), (0.6, "lean"), (2.0, "full"))


def form_drawn(board: BoardDrawing) -> None:
    """The base with its face and marks, then whatever presses from the far side."""
    face, px = board.plan.face, board.px
    _hatch(board, px)
    form = board.plan.form
    if form.kind == "posts":
        _posts(board, face, px)
    elif form.kind != "in_place":
        parts = board.plan.build.parts[:1] if isinstance(board.plan, Plan) else ()
        body = board.plan.form.outlines[:1]
        points = _from_laid(face, dense(body[0].outline, max(2.0, px))) if body else face.outline_points(max(2.0, px))
        outline = polyline(points + board.lift) + "Z"
        hollow = body[0].hollow if body else None
        if hollow:
            outline += polyline(_from_laid(face, dense(hollow, max(2.0, px))) + board.lift) + "Z"
        look = {"class_": "form-body", "fill": "url(#hatch)", "fill_rule": "evenodd" if hollow else None}
        board.parts.append(tag("path", named("the form"), d=outline, **look))
        board.space.take_area(points[:: max(1, len(points) // 200)] + board.lift)
        board.parts.append(
            tag("path", named("the form face"), d=arc_chain(face.curve, shift=board.lift), class_="form-face")
        )
        for hole in (h for p in parts for h in p.holes):
            edge = polyline(_from_laid(face, dense(hole.edge, 2.0)) + board.lift) + "Z"
            board.parts.append(tag("path", named(f"{hole.what} hole"), d=edge, class_="form-hole"))
        _carcase(board, face)
        _held_down(board, face)
    else:
        _finished_part(board, face)
    _marks(board, face, px)


def _held_down(board: BoardDrawing, face: FormFace) -> None:
    """The cleat and the cauls over the strip, each with its name."""
    for own in board.plan.form.hold_downs:
        body = _from_laid(face, dense(own.outline, max(2.0, board.px))) + board.lift
        board.space.take_area(body)
        drawn = {"class_": "form-body hold-down", "fill": "url(#hatch)"}
        board.parts.append(tag("path", named(own.name), d=polyline(body) + "Z", **drawn))
        for hole in own.holes:
            edge = polyline(_from_laid(face, dense(hole.edge, 2.0)) + board.lift) + "Z"
            board.parts.append(tag("path", named("bolt hole"), d=edge, class_="form-hole"))


def _carcase(board: BoardDrawing, face: FormFace) -> None:
    """Of ribs: the spacers between them, the platform they stand on, the centre line of each."""
    form, sheet = board.plan.form, board.job.form.sheet_mm

    def laid(points: list[tuple[float, float]]) -> Array:
        return _from_laid(face, np.array(points)) + board.lift

    for places in form.spacers[:1]:
        for x, y in places:
            w, h = sheet / 2, SPACER_HIGH_MM / 2
            corners = laid([(x - w, y - h), (x + w, y - h), (x + w, y + h), (x - w, y + h)])
            board.parts.append(tag("path", named("spacer"), d=polyline(corners) + "Z", class_="spacer"))
    if form.platform_mm:
        left, right, foot = form.platform_mm
        under = foot - sheet * form.site.sense
        corners = laid([(left, foot), (right, foot), (right, under), (left, under)])
        board.space.take_area(corners)
        board.parts.append(tag("path", named("platform"), d=polyline(corners) + "Z", class_="platform"))
        (x, y), (_, top) = laid([(0.0, foot)])[0], face.curve.at(np.array([face.middle_mm]))[0][0] + board.lift
        board.parts.append(board.line(float(x), float(y), float(x), float(top), "centre-line"))


def _finished_part(board: BoardDrawing, face: FormFace) -> None:
    """In place: the finished part it is bent against, the clamps, and the pull at either end."""
    form, laid_up, px = board.plan.form, board.plan.laid_up, board.px
    body = face.outline_points(max(2.0, px)) + board.lift
    board.space.take_area(body[:: max(1, len(body) // 200)])
    board.parts.append(
        tag("path", named("the finished part"), d=polyline(body) + "Z", class_="form-body", fill="url(#hatch)")
    )
    board.parts.append(tag("path", d=arc_chain(face.curve, shift=board.lift), class_="form-face"))
    sense = 1.0 if face.side == "inner" else -1.0
    thick = board.job.part.thickness_mm
    for i in range(min(form.clamps, MOST_CLAMPS)):
        (foot,), (h,) = face.curve.at(np.array([(i + 0.5) / min(form.clamps, MOST_CLAMPS) * face.curve.length_mm]))
        away = np.array([-math.sin(h), math.cos(h)]) * sense
        tip = foot + away * thick + board.lift
        board.parts.append(board.arrows(*(tip + away * 22 * px), *tip, both=False, class_="clamp-push"))
    if laid_up:
        (first,), (h,) = face.curve.at(np.array([face.curve.length_mm]))
        away = np.array([-math.sin(h), math.cos(h)]) * sense
        foot = first + away * thick + board.lift
        tail = foot + away * 60 * px
        board.parts.append(board.arrows(*tail, *foot, both=False, class_="pull"))
        message = f"pull {format_force(laid_up.laminae[-1].pull_n, board.unit)} on the last strip"
        board.parts.append(board.label(board.around(*tail), message, "figure of-pull"))


def pressers_drawn(board: BoardDrawing) -> None:
    """Over the strip: the share of pressure along its far face, and the pressers, each in a group to be drawn off."""
    build, face, px = board.plan.form, board.plan.face, board.px
    if build.closing is None:
        return
    sense = 1.0 if face.side == "inner" else -1.0
    off = board.job.part.thickness_mm + 2 * board.job.form.liner_mm
    for number, (presser, part) in enumerate(zip(build.closing.pressers, build.outlines[1:], strict=False), 2):
        line = _from_laid(face, dense(part.edge)) + board.lift
        travel = _direction(face, presser.direction_deg) * sense * max(160 * px, 60.0)
        wedge = polyline(np.vstack((line, (line + travel)[::-1]))) + "Z"
        board.parts.append(tag("path", named("the cavity while it closes"), d=wedge, class_="cavity"))
        board.parts.append(_one(board, presser, part, number, face, sense, px))
    at, shares = np.array(build.closing.stations_mm), np.array(build.closing.shares)
    points, headings = face.curve.at(at)
    line = points + np.stack((-np.sin(headings), np.cos(headings)), axis=1) * (sense * (off + 5 * px)) + board.lift
    kind = np.select([shares < limit for limit, _ in SHARES], [name for _, name in SHARES], "full")
    start = 0
    for i in range(1, kind.size + 1):
        if i < kind.size and kind[i] == kind[start]:
            continue
        message = f"{shares[start:i].min():.0%} to {shares[start:i].max():.0%} of the pressure"
        stretch = polyline(line[start : min(i + 1, kind.size)])
        board.parts.append(tag("path", named(message), d=stretch, class_=f"share share-{kind[start]}"))
        start = i
    _splits(board, face, off, sense, px)


def _one(
    board: BoardDrawing, presser: Presser, part: CarryingPart, number: int, face: FormFace, sense: float, px: float
) -> str:
    """A presser, its arrow, and the group that carries it away from home along its direction."""
    body = _from_laid(face, dense(part.outline)) + board.lift
    push = _direction(face, presser.direction_deg) * sense
    board.space.take_area(body)
    line = _from_laid(face, dense(part.edge)) + board.lift
    middle = line[len(line) // 2]
    inner = tag("path", named(part.name), d=polyline(body) + "Z", class_="form-body presser", fill="url(#hatch)")
    inner += tag("path", d=polyline(line), class_="form-face")
    figure = board.text(*(middle + push * board.job.form.depth_mm * 0.5), f"{number}", "figure", size=13)
    travel = push * max(160 * px, 60.0)
    return tag("g", inner + figure, class_="presser-group", data_dx=num(travel[0]), data_dy=num(-travel[1]))


def closing_handles(board: BoardDrawing) -> list[tuple[str, float, float, str, str]]:
    """Handles of the form stage: the arrow of the closing direction, and each split. name, x, y, says, look."""
    build, face, px = board.plan.form, board.plan.face, board.px
    if build.closing is None:
        return []
    sense = 1.0 if face.side == "inner" else -1.0
    made = []
    (middle,), _ = face.curve.at(np.array([face.middle_mm]))
    if len(build.closing.pressers) == 1:
        push = _direction(face, build.closing.pressers[0].direction_deg) * sense
        size = float(np.ptp(face.curve.points_mm, axis=0).max())
        root = middle + board.lift + push * (board.job.part.thickness_mm + 0.06 * size)
        tip = root + push * 0.17 * size
        board.parts.append(board.arrows(*tip, *root, both=False))
        made.append(("close-0", float(tip[0]), float(tip[1]), "Drag to change the closing direction", "knob"))
    off = board.job.part.thickness_mm + 2 * board.job.form.liner_mm
    for i, presser in enumerate(build.closing.pressers[1:]):
        (point,), (h,) = face.curve.at(np.array([presser.start_mm]))
        x, y = point + np.array([-math.sin(h), math.cos(h)]) * sense * (off + 30 * px) + board.lift
        made.append((f"split-{i}", float(x), float(y), f"Split {i + 1}: drag it along the face", "knob"))
    return made


def _splits(board: BoardDrawing, face: FormFace, off: float, sense: float, px: float) -> None:
    assert board.plan.form.closing
    for presser in board.plan.form.closing.pressers[1:]:
        (point,), (h,) = face.curve.at(np.array([presser.start_mm]))
        away = np.array([-math.sin(h), math.cos(h)]) * sense
        a, b = point + away * off + board.lift, point + away * (off + 44 * px) + board.lift
        board.parts.append(board.line(*a, *b, "split-line"))


def shares_key(board: BoardDrawing) -> None:
    """What the lines along a far face say, where there is room for it."""
    if board.plan.form.closing is None:
        return
    px = board.px
    room = board.space.nearest(140, 76, board.frame.left, board.frame.top)
    x, y = board.place(room.x0 + 6, room.y0 + 14) if room else board.place(16, 66)
    words = {"full": "well pressed", "lean": "pressed", "starved": "starved", "undercut": "undercut"}
    for name in ("full", "lean", "starved", "undercut"):
        board.parts.append(board.line(x, y, x + 30 * px, y, f"share share-{name}"))
        board.parts.append(board.text(x + 36 * px, y - 4.5 * px, words[name], "note", "start"))
        y -= 17 * px


def _posts(board: BoardDrawing, face: FormFace, px: float) -> None:
    """Posts along the face, each with its bracket behind it."""
    board.parts.append(tag("path", d=arc_chain(face.curve, shift=board.lift), class_="form-face thin"))
    sense = -1.0 if face.side == "inner" else 1.0
    for post in board.plan.form.posts:
        foot = (_from_laid(face, np.array([[post.x_mm, post.y_mm]])) + board.lift)[0]
        angle = math.radians(post.angle_deg) - face.tilt_rad
        half = np.array([math.cos(angle), math.sin(angle)]) * 22.0
        away = np.array([-math.sin(angle), math.cos(angle)]) * sense
        corners = [foot - half, foot + half, foot + half + away * 45, foot - half + away * 45]
        x, y = (format_length(v, board.unit) for v in (post.x_mm, post.y_mm))
        title = named(f"bracket {post.number}: {x} across, {y} up")
        board.parts.append(tag("path", title, d=polyline(corners) + "Z", class_="form-body", fill="url(#hatch)"))
        board.parts.append(board.text(*(foot + away * 62), f"{post.number}", "note", size=12))


def _marks(board: BoardDrawing, face: FormFace, px: float) -> None:
    stations = np.array([face.part_start_mm, face.middle_mm, face.part_end_mm])
    points, headings = face.curve.at(stations)
    sense = -1.0 if face.side == "inner" else 1.0
    for (x, y), h in zip(points + board.lift, headings, strict=True):
        dx, dy = -np.sin(h) * sense * 22 * px, np.cos(h) * sense * 22 * px
        board.parts.append(board.line(x, y, x + dx, y + dy, "form-mark"))
    for mark in board.plan.own_marks:
        (foot,), (h,) = face.curve.at(np.array([face.along_mm(mark.station_mm / board.plan.bend.target.length_mm)]))
        tip = foot + np.array([-np.sin(h), np.cos(h)]) * sense * 14 * px
        board.parts.append(board.line(*(foot + board.lift), *(tip + board.lift), "own-mark"))
    if board.plan.witness_mm is not None:
        share = board.plan.witness_mm / board.plan.bend.target.length_mm
        (foot,), (h,) = face.curve.at(np.array([face.along_mm(share)]))
        along, inwards = np.array([np.cos(h), np.sin(h)]), np.array([-np.sin(h), np.cos(h)]) * sense
        corners = [foot - along * 5 * px, foot + inwards * 12 * px, foot + along * 5 * px]
        message = named("witness mark: the same on every piece, so all go on the same way around")
        board.parts.append(tag("path", message, d=polyline(np.array(corners) + board.lift), class_="form-mark witness"))


def _hatch(board: BoardDrawing, px: float) -> None:
    board.parts.append(
        tag(
            "pattern",
            tag("path", d="M0 0L0 9", class_="hatch"),
            id="hatch",
            width=9,
            height=9,
            patternUnits="userSpaceOnUse",
            patternTransform=f"scale({num(px)}) rotate(45)",
        )
    )


def _direction(face: FormFace, degrees: float) -> Array:
    """A direction of the form's frame as the drawing has it."""
    angle = math.radians(degrees) + face.tilt_rad
    return np.array([math.sin(angle), math.cos(angle)])


def _from_laid(face: FormFace, points: Array) -> Array:
    """Points of the form's own frame in the placement of the mid-line."""
    turn, shift = face._turn
    return np.asarray((points - shift) @ turn)


def reach(board: BoardDrawing) -> Array:
    """(n, 2) points the frame must hold besides base and strip: bodies of the pressers, posts."""
    face, build = board.plan.face, board.plan.form
    found = [dense(p.outline, 20.0) for p in (*build.outlines, *build.hold_downs)]
    if build.closing and len(build.closing.pressers) == 1:  # room for the arrow
        (middle,), _ = face.curve.at(np.array([face.middle_mm]))
        push = _direction(face, build.closing.pressers[0].direction_deg) * (1.0 if face.side == "inner" else -1.0)
        size = float(np.ptp(face.curve.points_mm, axis=0).max())
        found.append(face.laid((middle + push * (board.job.part.thickness_mm + 0.3 * size))[None, :]))
    if build.posts:
        found.append(np.array([[p.x_mm, p.y_mm] for p in build.posts]))
    return _from_laid(face, np.vstack(found)) if found else np.zeros((0, 2))
