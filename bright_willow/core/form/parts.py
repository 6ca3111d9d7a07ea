"""The parts a form is built of: outlines in the form's own frame (base line y = 0), holes, marks, counts."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

import numpy as np

from ..common.arrays import Array
from ..common.errors import ENDLESS, PlanError, check_range
from ..shape.curve import Curve
from .face import FormFace

EdgeLayer = Literal["FACE", "RIB", "BODY"]
PartRole = Literal["body", "caul", "cleat", "stand"]
BOLT_MM = 10.0
SAME_PLACE_MM = 1e-6
HOLE_MM = 10.5
BOLT_SPACING_MM = 280.0
CLAMP_PLAY_MM = 15.0  # by which a clamp hole is wider than the jaw
BETWEEN_HOLES_MM = 12.0  # of wood left between two holes
CLAMP_SEAT_MM = 60.0  # from the face to the middle of a clamp hole


@dataclass(frozen=True, slots=True)
class Edge:
    """A run of arcs and lines on a layer. points: (n + 1); bulges: (n), tan(turn / 4), anticlockwise positive."""

    layer: EdgeLayer
    points_mm: tuple[tuple[float, float], ...]
    bulges: tuple[float, ...]
    closed: bool = False


@dataclass(frozen=True, slots=True)
class Hole:
    """A hole: its middle, its diameter, what goes through it.

    A clamp hole has a seat: a flat, towards the face and parallel to it, half a radius from its middle.
    turned_rad: how the face runs there, its wood to the left of that way.
    """

    x_mm: float
    y_mm: float
    diameter_mm: float
    what: Literal["bolt", "clamp", "post", "axle"]
    turned_rad: float = 0.0

    @property
    def edge(self) -> Edge:
        """The closed edge that is cut."""
        r, middle = self.diameter_mm / 2, np.array([self.x_mm, self.y_mm])
        if self.what != "clamp":
            ends = np.stack((middle, middle)) + np.array([[-r, 0.0], [r, 0.0]])
            return Edge("BODY", pairs_of(ends), (1.0, 1.0), True)
        spots = self.turned_rad + np.radians([30.0, 150.0, 270.0])
        corners = middle + r * np.stack((np.cos(spots), np.sin(spots)), axis=1)
        third = float(np.tan(np.radians(30.0)))
        return Edge("BODY", pairs_of(corners), (0.0, third, third), True)


@dataclass(frozen=True, slots=True)
class FormPart:
    """One distinct part: how many of it, how thick the goods, its outline, holes, and where it belongs.

    start_mm, end_mm: the stretch of the face it carries; a caul or a cleat, over which it presses. role: whether it is
    of the body, presses on it, or stands under it. width_mm × height_mm: the rectangle round it. segments: how
    many lengths each is made of, where it is longer than the sheet; joints alternate from layer to layer.
    """

    number: int
    name: str
    count: int
    thickness_mm: float
    edges: tuple[Edge, ...]
    holes: tuple[Hole, ...]
    start_mm: float
    end_mm: float
    width_mm: float
    height_mm: float
    segments: int
    note: str
    role: PartRole = "body"

    @property
    def is_hold_down(self) -> bool:
        """Whether it only presses on a short stretch of the strip."""
        return self.role in ("caul", "cleat")

    @property
    def face_edge(self) -> Edge:
        """The edge that carries the wood, or the skin: of the drum of a ring the whole circle."""
        return next((e for e in self.edges if e.layer != "BODY"), self.outline)

    @property
    def outline(self) -> Edge:
        """The closed outline."""
        return self.edges[0]

    @property
    def hollows(self) -> tuple[Edge, ...]:
        """What is cut out of its inside: of a drum that is no disc."""
        return tuple(e for e in self.edges[1:] if e.closed)

    @property
    def wood_mm2(self) -> float:
        """The area that is left of it, its holes not counted."""
        return area_mm2(self.outline) - sum(area_mm2(e) for e in self.hollows)


def edge_of(layer: EdgeLayer, curve: Curve, face: FormFace, start_mm: float = 0.0, end_mm: float | None = None) -> Edge:
    """A stretch of a curve of the form, laid on the base line, as arcs that turn no more than about 60° each.

    Raises: PlanError for an empty stretch.
    """
    end = curve.length_mm if end_mm is None else end_mm
    if not end - start_mm > 1e-6:
        raise PlanError("form.splits_mm", "Two splits lie at the same place.")
    joints = curve.stations_mm
    inner = joints[(joints > start_mm + 1e-9) & (joints < end - 1e-9)]
    edges = np.concatenate(([start_mm], inner, [end]))
    cells = joints[1:-1].searchsorted((edges[1:] + edges[:-1]) / 2)
    lengths, k = np.diff(edges), curve.curvature[cells]
    share = np.maximum(1, np.ceil(np.abs(lengths * k) / 1.05)).astype(int)
    lengths, k = np.repeat(lengths / share, share), np.repeat(k, share)
    stations = start_mm + np.concatenate(([0.0], np.cumsum(lengths)))
    points = face.laid(curve.at(stations)[0])
    return Edge(layer, pairs_of(points), tuple((-np.tan(lengths * k / 4)).tolist()))


def closed_by(edge: Edge, *corners: tuple[float, float]) -> Edge:
    """The outline an edge makes with straight lines through some corners back to its start."""
    points = (*edge.points_mm, *corners)
    return Edge("BODY", points, (*edge.bulges, *([0.0] * (len(corners) + 1))), True)


def joined(edge: Edge, back: Edge) -> Edge:
    """The outline between an edge and another run backwards, straight across at both ends."""
    other = reversed_edge(back)
    return Edge("BODY", (*edge.points_mm, *other.points_mm), (*edge.bulges, 0.0, *other.bulges, 0.0), True)


def reversed_edge(edge: Edge) -> Edge:
    """An open edge run the other way."""
    return Edge(edge.layer, edge.points_mm[::-1], tuple(-b for b in edge.bulges[::-1]))


def disc_of(edge: Edge) -> Edge:
    """The whole circle an edge of one arc is a part of, from the edge's start the way it runs.

    Valid: its first arc turns. Raises: PlanError.
    """
    check_range("form.kind", abs(edge.bulges[0]), 0, ENDLESS, above=True)
    (first, second), bulge = np.array(edge.points_mm[:2]), edge.bulges[0]
    centre, radius, angle, turn = bulge_arc(first, second, bulge)
    third = math.copysign(2 * math.pi / 3, turn)
    turned = [angle + n * third for n in range(3)]
    points = tuple((float(centre[0] + radius * math.cos(a)), float(centre[1] + radius * math.sin(a))) for a in turned)
    return Edge("BODY", points, (math.tan(third / 4),) * 3, True)


def rectangle(width_mm: float, height_mm: float) -> Edge:
    """A rectangle standing on the base line."""
    corners = ((0.0, 0.0), (width_mm, 0.0), (width_mm, height_mm), (0.0, height_mm))
    return Edge("BODY", corners, (0.0, 0.0, 0.0, 0.0), True)


@lru_cache(maxsize=128)
def dense(edge: Edge, spacing_mm: float = 4.0) -> Array:
    """(m, 2) points along an edge, no further apart than about so much."""
    a, b, bulge = _arcs(edge)
    across = b - a
    counts = np.maximum(2, (np.hypot(across[:, 0], across[:, 1]) / spacing_mm).astype(int) + 2)
    arc = np.repeat(np.arange(len(a)), counts)
    first = np.repeat(np.cumsum(counts) - counts, counts)
    t = (np.arange(arc.size) - first) / (counts[arc] - 1)
    # a point of an arc lies along its chord at share u and beside it by v, both seen from the chord's own angle
    half = 2 * np.arctan(bulge)[arc]  # half the turn
    straight = np.abs(half) < 1e-9
    safe = np.where(straight, 1.0, half)
    u = np.where(straight, t, (np.sin(safe) + np.sin((2 * t - 1) * safe)) / (2 * np.sin(safe)))
    v = np.where(straight, 0.0, (np.cos(safe) - np.cos((2 * t - 1) * safe)) / (2 * np.sin(safe)))
    along = across[arc]
    beside = np.stack((-along[:, 1], along[:, 0]), axis=1)
    return np.asarray(a[arc] + along * u[:, None] + beside * v[:, None])


def corners_of(edge: Edge, spacing_mm: float = 4.0) -> Array:
    """(m, 2) points round a closed edge, none twice: of two in one place some geometry makes a crossing."""
    points = dense(edge, spacing_mm)
    return np.asarray(points[np.hypot(*(points - np.roll(points, 1, axis=0)).T) > SAME_PLACE_MM])


def _arcs(edge: Edge) -> tuple[Array, Array, Array]:
    """Starts, ends and bulges of an edge's arcs, the closing one included."""
    points, bulges = np.array(edge.points_mm), np.array(edge.bulges)
    ends = np.vstack((points[1:], points[:1])) if edge.closed else points[1:]
    return points[: len(bulges)], ends[: len(bulges)], bulges


def area_mm2(edge: Edge) -> float:
    """Area of a closed outline: its polygon and the segment each arc adds or takes. Source: geometry."""
    points = edge.points_mm
    polygon = segments = 0.0
    for (ax, ay), (bx, by), bulge in zip(points, points[1:] + points[:1], edge.bulges, strict=True):
        polygon += ax * by - bx * ay
        turn = 4 * math.atan(bulge)
        if abs(turn) >= 1e-9:
            radius = math.hypot(bx - ax, by - ay) / (2 * math.sin(turn / 2))
            segments += radius**2 / 2 * (turn - math.sin(turn))
    return abs(polygon / 2 + segments)


def length_mm(edge: Edge) -> float:
    """Length along an edge. Source: geometry."""
    a, b, bulge = _arcs(edge)
    turn, chord = 4 * np.arctan(bulge), np.hypot(*(b - a).T)
    with np.errstate(divide="ignore", invalid="ignore"):
        arcs = np.where(np.abs(turn) < 1e-9, chord, chord * (turn / 2) / np.sin(turn / 2))
    return float(arcs.sum())


def bulge_points(a: Array, b: Array, bulge: float, n: int) -> Array:
    """n points along an arc given by its ends and its bulge."""
    t = np.linspace(0, 1, n)[:, None]
    if abs(bulge) < 1e-9:
        return np.asarray(a + (b - a) * t)
    centre, radius, start, turn = bulge_arc(a, b, bulge)
    angle = start + turn * t[:, 0]
    return np.asarray(centre + radius * np.stack((np.cos(angle), np.sin(angle)), axis=1))


def bulge_arc(a: Array, b: Array, bulge: float) -> tuple[Array, float, float, float]:
    """Centre, radius, start angle and signed turn (radians) of an arc given by its ends and its bulge."""
    turn = 4 * float(np.arctan(bulge))
    across = b - a
    to_centre = np.array([-across[1], across[0]]) * (1 - bulge**2) / (4 * bulge)
    centre = (a + b) / 2 + to_centre
    spoke = a - centre
    return centre, float(np.hypot(*spoke)), float(np.arctan2(spoke[1], spoke[0])), turn


def holes_inside(
    outline: Edge,
    places: Array,
    *,
    hollow: Edge | None = None,
    diameter_mm: float,
    what: Literal["bolt", "clamp", "post"],
    turned_rad: Array | float = 0.0,
) -> list[Hole]:
    """Holes at those places that keep wood round them: to the edge one and a half diameters of a bolt, 12 mm of a clamp
    hole, and 12 mm to the next hole. hollow: what is cut out of the inside; turned_rad: (n,) how the face runs."""
    clear = 1.5 * diameter_mm if what == "bolt" else diameter_mm / 2 + 12
    good = np.ones(len(places), dtype=bool)
    for edge in (outline, hollow) if hollow else (outline,):
        line = dense(edge)
        apart = np.hypot(line[:, 0] - places[:, :1], line[:, 1] - places[:, 1:])
        good &= (apart.min(axis=1) >= clear) & (_inside(line, places) == (edge is outline))
    made: list[Hole] = []
    turns = np.broadcast_to(turned_rad, len(places))[good].tolist()
    for (x, y), turned in zip(places[good].tolist(), turns, strict=True):
        if all(math.hypot(h.x_mm - x, h.y_mm - y) >= diameter_mm + BETWEEN_HOLES_MM for h in made):
            made.append(Hole(x, y, diameter_mm, what, turned))
    return made


def apart_mm(one: Hole, other: Hole) -> float:
    """Wood between two holes."""
    middles = math.hypot(one.x_mm - other.x_mm, one.y_mm - other.y_mm)
    return middles - (one.diameter_mm + other.diameter_mm) / 2


def _inside(line: Array, places: Array) -> Array:
    """(n,) whether each place lies within a closed line: it is crossed an odd number of times to the right."""
    x, y = places[:, :1], places[:, 1:]
    x1, y1 = line[:, 0], line[:, 1]
    x2, y2 = np.concatenate((x1[1:], x1[:1])), np.concatenate((y1[1:], y1[:1]))
    crosses = (y1 > y) != (y2 > y)
    with np.errstate(divide="ignore", invalid="ignore"):
        at = x1 + (y - y1) / (y2 - y1) * (x2 - x1)
    return np.asarray((crosses & (x < at)).sum(axis=1) % 2 == 1)


def pairs_of(points: Array) -> tuple[tuple[float, float], ...]:
    """(n, 2) points as plain pairs."""
    return tuple(map(tuple, points.tolist()))
