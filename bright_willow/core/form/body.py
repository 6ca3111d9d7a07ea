"""The body of a form whose back cannot run parallel to its face: all within its depth, as it can be cut."""

from __future__ import annotations

import numpy as np

from ..common.arrays import Array
from ..common.errors import ENDLESS, check_range

CLEAR_MM = 2.0  # kept from the wood that lies on the face
THIN_MM = 7.0  # half of the thinnest finger of body that is left standing. Grade: allowance.
BEHIND_FACE_MM = 20.0  # kept behind the face whatever else is taken off
SIMPLE_MM, STRAIGHT_MM = 0.4, 1e-6


def body_back(face: Array, *, depth_mm: float, wood_mm: float, left_of_face: bool) -> Array | None:
    """(m, 2) the way back round the body, from the end of the face to its start, neither of them included.

    face: (n, 2) points of the face in its direction. The body is what lies within its depth on its side, less the wood
    on the other side wherever the form comes near itself, without fingers thinner than 14 mm; nothing between them
    where it goes straight across. None where the face folds on itself. Source: plane geometry: offset, difference,
    opening.
    """
    from shapely import LineString, Polygon, unary_union

    line, sign = LineString(face).simplify(STRAIGHT_MM), 1.0 if left_of_face else -1.0
    wood = line.buffer(-sign * (wood_mm + CLEAR_MM), single_sided=True).buffer(0)
    deep = line.buffer(sign * depth_mm, single_sided=True, join_style="round").buffer(0).difference(wood)
    near = line.buffer(sign * min(BEHIND_FACE_MM, depth_mm), single_sided=True).buffer(0).difference(wood)
    body = unary_union([deep.buffer(-THIN_MM).buffer(THIN_MM), near])
    found = [body] if isinstance(body, Polygon) else list(getattr(body, "geoms", []))
    if not found:
        return None
    ring = np.array(Polygon(max(found, key=lambda p: p.area).exterior).simplify(SIMPLE_MM).exterior.coords)[:-1]
    return _round_the_back(ring, face)


def crosses_itself(line: Array, *, closed: bool) -> bool:
    """Whether a line of points, (n, 2), crosses itself; closed: with the way from its end to its start. Valid: 3 points
    or more. Raises: PlanError. Source: geometry.

    >>> crosses_itself(np.array([[0, 0], [2, 0], [0, 1], [2, 1]]), closed=True)
    True
    """
    from shapely import LinearRing, LineString

    check_range("form", len(line), 3, ENDLESS)
    check_range("form", float(np.abs(line).sum()), 0, ENDLESS, "mm")  # no place that is no number
    return not (LinearRing(line) if closed else LineString(line)).is_simple


def _round_the_back(ring: Array, face: Array) -> Array:
    """The part of a ring that is not the face, from the end of the face to its start."""
    start = int(np.argmin(np.hypot(*(ring - face[0]).T)))
    end = int(np.argmin(np.hypot(*(ring - face[-1]).T)))
    one = _between(ring, end, start)
    other = _between(ring[::-1], len(ring) - 1 - end, len(ring) - 1 - start)
    return max((one, other), key=lambda way: _from(way, face))


def _between(ring: Array, first: int, last: int) -> Array:
    """The corners of a ring after one of them and before another."""
    count = (last - first) % len(ring)
    return np.asarray(ring[(first + 1 + np.arange(max(0, count - 1))) % len(ring)])


def _from(way: Array, face: Array) -> float:
    """How far, at the most, a way runs from the face."""
    if not len(way):
        return 0.0
    apart = np.hypot(way[:, None, 0] - face[None, :, 0], way[:, None, 1] - face[None, :, 1])
    return float(apart.min(axis=1).max())
