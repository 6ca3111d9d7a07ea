"""The edges of the parts that carry a face: the part the form stands on, and whatever presses from the far side."""

from __future__ import annotations

import math

import numpy as np

from ..common.arrays import Array
from ..common.errors import PlanError
from ..shape.curve import Curve
from .body import crosses_itself
from .closing import Presser
from .face import FormFace
from .hold_downs import WALL_MM, StartHold, backed, outward, slot_curve, stretch_of
from .parts import (
    Edge,
    closed_by,
    corners_of,
    disc_of,
    edge_of,
    joined,
    pairs_of,
    reversed_edge,
)
from .site import Site

RIB_SHOULDER_MM = 25.0  # of a rib beyond its face. Grade: allowance.
DRUM_TURNS_DEG = 180.0  # that an open curve goes round before it is worth a drum. Grade: allowance.
OTHER_KINDS = "Use a form for clamps: single, matched or three-piece."
BULGES = 0.998  # of the area within a band drawn round a drum, that the drum fills where the band lies on it
QUARTER_BULGE = math.tan(math.pi / 8)  # of an arc of a quarter turn
SKINNED = ("ribs", "sawn_sides")  # builds whose sheet edge lies a skin behind the face


def _skinned(site: Site, curve: Curve, away: float) -> Curve:
    """The line sheet goods are cut to: the face, less the skin over ribs or slats. away: +1 or −1, into the body."""
    skin = site.choice.skin_mm if site.choice.build in SKINNED else 0.0
    return curve.parallel(away * skin, "form.skin_mm") if skin else curve


def level_enough(face: FormFace) -> bool:
    """Whether a rib can stand on a flat foot under its whole face: the face never turns back over it."""
    return bool(np.abs(face.curve.headings_rad + face.tilt_rad).max() < math.pi / 2)


def _on_a_foot(line: Edge, face: FormFace) -> tuple[tuple[float, float], ...]:
    """Corners of a rib on a flat foot, from the end of its face: out a little first, so that no corner is a feather."""
    (first_x, first_y), (last_x, last_y) = line.points_mm[0], line.points_mm[-1]
    level = float(face.laid(face.base_corners)[0, 1])
    left, right = first_x - RIB_SHOULDER_MM, last_x + RIB_SHOULDER_MM
    return (right, last_y), (right, level), (left, level), (left, first_y)


def near_edges(site: Site, start: StartHold | None = None) -> tuple[Edge, Edge, Edge | None]:
    """Edge and closed outline of the part the form stands on; and what is cut out of its inside, of a drum that is no
    disc. start: what holds the start of the bend. Raises: PlanError where no band would press it, or where a notch or
    a rounded end has no place."""
    face = site.face
    layer = "RIB" if site.choice.build in SKINNED else "FACE"
    line = edge_of(layer, _skinned(site, face.curve, -site.sense), face)  # type: ignore[arg-type]
    if site.kind == "ring":
        return _drum_edges(site, line)
    on_ribs = site.choice.build == "ribs" and level_enough(face)
    shaped = site.choice.end_radius_mm > 0 or (start is not None and start.kind == "notch")
    if shaped and on_ribs:
        field = "form.start_hold" if start and start.kind == "notch" else "form.end_radius_mm"
        message = "Ribs on a foot have no notch and no rounded ends."
        raise PlanError(field, message, hint="Use a stack or a block, or a cleat.")
    if face.back is not None and not on_ribs:
        back = edge_of("BODY", face.back, face)
        return line, _with_ends(site, line, back, start) if shaped else joined(line, back), None
    if on_ribs:
        return line, closed_by(line, *_on_a_foot(line, face)), None
    corners = face.laid(face.round_the_back)
    if shaped:
        behind = Edge("BODY", pairs_of(corners[::-1]), (0.0,) * max(0, len(corners) - 1))
        return line, _with_ends(site, line, behind, start), None
    return line, closed_by(line, *((float(x), float(y)) for x, y in corners)), None


def _with_ends(site: Site, line: Edge, back: Edge, start: StartHold | None) -> Edge:
    """The outline between face and back, each end of it rounded, or with the notch that holds the start."""
    blame = "form.start_hold" if start and start.kind == "notch" else "form.end_radius_mm"
    no_room = PlanError(blame, "There is no room for it between the ends of this form.", hint="Use a cleat.")
    if not back.points_mm:  # two legs so near that the body goes straight across
        raise no_room
    ends: dict[str, Edge] = {}
    for end in ("left", "right"):
        if start and start.kind == "notch" and start.end == end:
            ends[end] = _notch(site, line, back, start)
        else:
            ends[end] = _rounded(site, line, back, end)
    right, left = ends["right"], reversed_edge(ends["left"])
    points = (*line.points_mm, *right.points_mm[1:-1], *back.points_mm[::-1], *left.points_mm[1:-1])
    bulges = (*line.bulges, *right.bulges, *(-b for b in back.bulges[::-1]), *left.bulges)
    outline = Edge("BODY", points, bulges, True)
    if crosses_itself(corners_of(outline), closed=True):
        raise no_room
    return outline


def _end_of(site: Site, line: Edge, back: Edge, end: str) -> tuple[Array, Array, Array, Array]:
    """Where face and back end, the way on beyond them, and the way from form to wood there."""
    at, station = (0, 0.0) if end == "left" else (-1, site.length_mm)
    push = outward(site, station)
    on = np.array([push[1], -push[0]]) * site.sense * (-1.0 if end == "left" else 1.0)
    return np.array(line.points_mm[at]), np.array(back.points_mm[at]), on, push


def _rounded(site: Site, line: Edge, back: Edge, end: str) -> Edge:
    """From the end of the face round its corner and along the end of the form to its back."""
    face_end, back_end, on, push = _end_of(site, line, back, end)
    radius, depth = site.choice.end_radius_mm, site.choice.depth_mm
    if radius > depth:
        raise PlanError("form.end_radius_mm", "The body is only {depth} deep.", lengths_mm={"depth": depth})
    if not radius:
        return Edge("BODY", pairs_of(np.stack((face_end, back_end))), (0.0,))
    deep = max(radius, float((face_end - back_end) @ push))
    points = np.stack((face_end, face_end + (on - push) * radius, face_end + on * radius - push * deep, back_end))
    turn = -QUARTER_BULGE * site.sense * (-1.0 if end == "left" else 1.0)
    return Edge("BODY", pairs_of(points), (turn, 0.0, 0.0))


def _notch(site: Site, line: Edge, back: Edge, start: StartHold) -> Edge:
    """From the end of the face up the wall that stops the strip, along the slot to the tip of the hook, and over the
    hook down to the back."""
    face_end, back_end, on, push = _end_of(site, line, back, start.end)
    curve = slot_curve(site)
    slot = edge_of("BODY", curve, site.face, *stretch_of(site, curve, start.start_mm, start.end_mm))
    slot = slot if start.end == "left" else reversed_edge(slot)
    tip = np.array(slot.points_mm[-1]) + outward(site, start.end_mm if start.end == "left" else start.start_mm) * (
        start.hook_mm
    )
    corner = np.array(slot.points_mm[0]) + on * WALL_MM + push * start.hook_mm
    low = face_end + on * WALL_MM - push * max(WALL_MM, float((face_end - back_end) @ push))
    first, *rest = pairs_of(np.stack((face_end, tip, corner, low, back_end)))
    return Edge("BODY", (first, *slot.points_mm, *rest), (0.0, *slot.bulges, *[0.0] * len(rest)))


def _drum_edges(site: Site, line: Edge) -> tuple[Edge, Edge, Edge | None]:
    """Of a closed ring a disc or a ring, whichever side of it the wood lies; of one open arc the whole disc; of any
    other open curve what a band round it presses on, straight across its gap."""
    face = site.face
    if not site.closed:
        _goes_round(face)
        outline = disc_of(line) if face.curve.merged().lengths_mm.size == 1 else closed_by(line)
        _lies_on(outline)
        return line, outline, None
    carries = Edge(line.layer, line.points_mm[:-1], line.bulges, True)
    if site.choice.drum_stand and face.side != "inner":
        message = "A round form around the outside of the wood cannot turn on an axle."
        raise PlanError("form.drum_stand", message, hint="Put the form on the inside of the curve.")
    if face.back is None or site.choice.drum_stand:  # a disc, for the axle
        return carries, carries, None
    back = edge_of("BODY", face.back, face)
    far = Edge("BODY", back.points_mm[:-1], back.bulges, True)
    return (carries, carries, far) if face.side == "inner" else (carries, far, carries)


def _goes_round(face: FormFace) -> None:
    """Whether an open curve is one for a drum. Raises: PlanError."""
    if face.side != "inner":
        message = "A band presses from outside, so the wood cannot be inside this round form."
        raise PlanError("form.kind", message, hint=OTHER_KINDS)
    turns = math.degrees(float(face.curve.turns_rad.sum()))
    if turns < DRUM_TURNS_DEG:
        message = f"A round form needs a curve of at least half a circle; this one has {turns:.0f}°."
        raise PlanError("form.kind", message, hint=OTHER_KINDS)


def _lies_on(outline: Edge) -> None:
    """Whether a band drawn round a drum lies on it all the way. Raises: PlanError."""
    from shapely import Polygon

    within = Polygon(corners_of(outline))
    if not within.is_valid:
        message = "Closed straight across, this curve crosses itself: no round form works."
        raise PlanError("form.kind", message, hint=OTHER_KINDS)
    if within.area < BULGES * within.convex_hull.area:
        message = "A band around this curve leaves a gap where the curve is hollow."
        raise PlanError("form.kind", message, hint=OTHER_KINDS)


def presser_edges(site: Site, presser: Presser) -> tuple[Edge, Edge]:
    """Edge and closed outline of a part that presses: its stretch of the far face, and a back square to its push.

    Raises: PlanError where it could not get past the lay-up.
    """
    if not presser.closes:
        raise PlanError("form.splits_mm", f"The {presser.name} cannot be made: it could not get past the layup.")
    face, far = site.face, site.far
    stretch = (face.curve.stations_mm[-1], far.stations_mm[-1])
    joints = np.interp([presser.start_mm, presser.end_mm], face.curve.stations_mm, far.stations_mm)
    start, end = float(joints[0]), min(float(joints[1]), float(stretch[1]))
    layer = "RIB" if site.choice.build in SKINNED else "FACE"
    skinned = _skinned(site, far, site.sense)
    on_skin = np.interp([start, end], far.stations_mm, skinned.stations_mm)
    line = edge_of(layer, skinned, face, float(on_skin[0]), float(on_skin[1]))  # type: ignore[arg-type]
    angle = math.radians(presser.direction_deg)
    push = np.array([math.sin(angle), math.cos(angle)]) * site.sense
    return line, backed(line, push, site.choice.depth_mm)
