"""The edges of the parts that carry a face: the part the form stands on, and whatever presses from the far side."""

from __future__ import annotations

import math

import numpy as np

from ..common.errors import PlanError
from ..shape.curve import Curve
from .closing import Presser
from .face import FormFace
from .parts import (
    Edge,
    closed_by,
    corners_of,
    dense,
    disc_of,
    edge_of,
    joined,
)
from .site import Site

RIB_SHOULDER_MM = 25.0  # of a rib beyond its face. Grade: allowance.
DRUM_TURNS_DEG = 180.0  # that an open curve goes round before it is worth a drum. Grade: allowance.
OTHER_KINDS = "Use a form for clamps: single, matched or three-piece."
BULGES = 0.998  # of the area within a band drawn round a drum, that the drum fills where the band lies on it
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


def near_edges(site: Site) -> tuple[Edge, Edge, Edge | None]:
    """Edge and closed outline of the part the form stands on; and what is cut out of its inside, of a drum that is no
    disc. Raises: PlanError where no band would press it."""
    face = site.face
    layer = "RIB" if site.choice.build in SKINNED else "FACE"
    line = edge_of(layer, _skinned(site, face.curve, -site.sense), face)  # type: ignore[arg-type]
    if site.kind == "ring":
        return _drum_edges(site, line)
    on_ribs = site.choice.build == "ribs" and level_enough(face)
    if face.back is not None and not on_ribs:
        return line, joined(line, edge_of("BODY", face.back, face)), None
    if on_ribs:
        return line, closed_by(line, *_on_a_foot(line, face)), None
    corners = face.laid(face.round_the_back)
    return line, closed_by(line, *((float(x), float(y)) for x, y in corners)), None


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
    if face.back is None:
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
    points = dense(line)
    level = float((points @ push).max()) + site.choice.depth_mm
    first, last = np.array(line.points_mm[0]), np.array(line.points_mm[-1])
    corners = [tuple(map(float, p + push * (level - float(p @ push)))) for p in (last, first)]
    return line, closed_by(line, *corners)  # type: ignore[arg-type]
