"""A planar curve told by its curvature along its length: the mid-line of a part, a face, a form."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ..common.arrays import Array
from ..common.errors import ENDLESS, PlanError, check_range

MOST_CURVATURE = 10.0  # 1/mm, a radius of a tenth of a millimetre


@dataclass(frozen=True, eq=False)
class Curve:
    """A chain of circular arcs (a straight is an arc of curvature 0), joined without corners.

    lengths_mm: (n,) > 0; curvature: (n,) in 1/mm. Travelling left to right, positive curvature turns to the right,
    so a positive arc bulges upwards and its outer face lies to the left of travel. Any smooth curve is cut into
    short cells, each carrying its mean curvature; headings at the joints are then exact.
    It is placed by its anchor: the station anchor_mm (the middle of the length unless stated) stands at
    (0, anchor_y_mm) and runs level there. A parallel keeps the anchor of its curve, so both lie right in one drawing.
    Raises: ValueError for empty, unequal or non-positive lengths.
    """

    lengths_mm: Array
    curvature: Array
    anchor_mm: float | None = None
    anchor_y_mm: float = 0.0

    def __post_init__(self) -> None:
        if self.lengths_mm.size == 1 == self.curvature.size:
            length, k = float(self.lengths_mm[0]), float(self.curvature[0])
            if not (0 < length < math.inf and math.isfinite(k)):
                raise ValueError("a curve needs a length above zero and a finite curvature")
            return
        if self.lengths_mm.ndim != 1 or self.lengths_mm.shape != self.curvature.shape or not self.lengths_mm.size:
            raise ValueError("a curve needs one curvature for each length")
        # a sum is finite only where all its terms are; of the few cells most curves have, lists are quicker
        lengths = self.lengths_mm.tolist()
        if not (min(lengths) > 0 and math.isfinite(sum(lengths))):
            raise ValueError("each segment of a curve needs a length above zero")
        if not math.isfinite(sum(self.curvature.tolist())):
            raise ValueError("curvature must be finite")

    @classmethod
    def of(cls, lengths_mm: Iterable[float], curvature: Iterable[float]) -> Curve:
        return cls(np.array(list(lengths_mm), dtype=float), np.array(list(curvature), dtype=float))

    @property
    def anchored_at_mm(self) -> float:
        """The station that stands at x = 0 and runs level."""
        return self.length_mm / 2 if self.anchor_mm is None else self.anchor_mm

    @cached_property
    def length_mm(self) -> float:
        return float(self.lengths_mm.sum())

    @property
    def sweep_rad(self) -> float:
        """Signed turning from one end to the other."""
        return float(self.lengths_mm @ self.curvature)

    @property
    def turns_rad(self) -> Array:
        """(n,) how far each cell turns, whichever way, radians, 0 or more."""
        return np.abs(self.lengths_mm * self.curvature)

    @property
    def mean_curvature(self) -> float:
        """Over the whole length, 1/mm: what tells curves of different sizes apart at a glance."""
        return self.sweep_rad / self.length_mm

    @cached_property
    def tightest_curvature(self) -> float:
        """The largest curvature, by size, 1/mm."""
        return float(np.abs(self.curvature).max())

    @cached_property
    def stations_mm(self) -> Array:
        """(n + 1,) arc length at the joints, from 0."""
        if self.lengths_mm.size == 1:
            return np.array([0.0, self.lengths_mm[0]])
        return np.concatenate(([0.0], np.cumsum(self.lengths_mm)))

    @cached_property
    def headings_rad(self) -> Array:
        """(n + 1,) direction of travel at the joints, 0 at the anchor, anticlockwise positive."""
        if self.lengths_mm.size == 1:
            k, at = float(self.curvature[0]), self.anchored_at_mm
            return np.array([k * at, k * (at - self.length_mm)])
        turned = np.concatenate(([0.0], np.cumsum(self.lengths_mm * self.curvature)))
        cell, inside = self._cell(self.anchored_at_mm)
        at_anchor = turned[cell] + inside * self.curvature[cell]
        return np.asarray(at_anchor - turned)

    def _cell(self, station_mm: float) -> tuple[int, float]:
        """Which cell holds a station, and how far into it."""
        stations = self.stations_mm
        if self.lengths_mm.size == 1:
            return 0, station_mm
        cell = max(0, min(int(stations.searchsorted(station_mm, side="right")) - 1, self.lengths_mm.size - 1))
        return cell, float(station_mm - stations[cell])

    @cached_property
    def points_mm(self) -> Array:
        """(n + 1, 2) joints with the anchor at (0, anchor_y_mm), running level there. Exact for arcs."""
        if self.lengths_mm.size == 1 and self.anchor_mm is None:
            return np.asarray(end_offsets_mm(self.lengths_mm, self.curvature) + np.array([0.0, self.anchor_y_mm]))
        headings = self.headings_rad
        start = np.zeros((headings.size, 2))
        _steps(self.lengths_mm, self.curvature, headings[:-1]).cumsum(axis=0, out=start[1:])
        there = self._point_from_start(start, headings, self.anchored_at_mm)
        return np.asarray(start - there + np.array([0.0, self.anchor_y_mm]))

    def _point_from_start(self, points: Array, headings: Array, station_mm: float) -> Array:
        cell, inside = self._cell(station_mm)
        half_turn = inside * float(self.curvature[cell]) / 2
        chord = inside * (math.sin(half_turn) / half_turn if half_turn else 1.0)
        direction = float(headings[cell]) - half_turn
        return np.asarray(points[cell] + np.array([chord * math.cos(direction), chord * math.sin(direction)]))

    def at(self, stations_mm: Array) -> tuple[Array, Array]:
        """Points (m, 2) and headings (m,) at any stations, in the placement of `points_mm`.

        Stations outside 0…length run on along the last stretch.
        """
        points, headings = self.points_mm, self.headings_rad
        if self.lengths_mm.size == 1:
            turned = headings[0] - self.curvature[0] * stations_mm
            return points[0] + _steps(stations_mm, self.curvature[0], headings[0]), turned
        joints = self.stations_mm
        # the first and the last cell run on, so only the joints between cells are looked for
        cells = joints[1:-1].searchsorted(stations_mm, side="right")
        inside = stations_mm - joints[cells]
        k = self.curvature[cells]
        return points[cells] + _steps(inside, k, headings[cells]), headings[cells] - k * inside

    def cut_finer(self, cells: int) -> Curve:
        """The same curve in at least about so many cells, its own joints kept."""
        share = self._shares(cells)
        return self._like(np.repeat(self.lengths_mm / share, share), np.repeat(self.curvature, share))

    def traced(self, cells: int) -> Array:
        """(m, 2) points all along it, its joints among them, as the ends of at least about so many cells."""
        if self.lengths_mm.size == 1:
            return self.at(np.linspace(0.0, self.length_mm, cells + 1))[0]
        share = self._shares(cells)
        cell = np.arange(share.size).repeat(share)
        number = np.arange(cell.size) - (share.cumsum() - share)[cell]  # of the point within its cell
        inside = number * (self.lengths_mm / share)[cell]
        points, headings = self.points_mm, self.headings_rad
        return np.concatenate((points[cell] + _steps(inside, self.curvature[cell], headings[cell]), points[-1:]))

    def _shares(self, cells: int) -> NDArray[np.int_]:
        """(n,) into how many each cell is divided for at least about so many in all."""
        return np.maximum(1, np.ceil(self.lengths_mm / self.length_mm * cells)).astype(int)

    def parted_in_the_middle(self) -> Curve:
        """The same curve with a joint at the middle of its length."""
        cell, inside = self._cell(self.length_mm / 2)
        length = float(self.lengths_mm[cell])
        if not 1e-9 < inside < length - 1e-9:
            return self
        lengths = np.concatenate((self.lengths_mm[:cell], [inside, length - inside], self.lengths_mm[cell + 1 :]))
        return self._like(lengths, np.insert(self.curvature, cell, self.curvature[cell]))

    def merged(self) -> Curve:
        """The same curve with neighbouring cells of equal curvature joined into one."""
        if self.lengths_mm.size == 1:
            return self
        scale = max(self.tightest_curvature, 1e-12)
        starts = np.concatenate(([True], np.abs(np.diff(self.curvature)) > 1e-9 * scale))
        return self._like(np.add.reduceat(self.lengths_mm, np.flatnonzero(starts)), self.curvature[starts])

    def _like(self, lengths_mm: Array, curvature: Array) -> Curve:
        return Curve(lengths_mm, curvature, self.anchor_mm, self.anchor_y_mm)

    def mirrored(self) -> Curve:
        """The same curve from its other end, bending the same way: left and right change places."""
        return Curve(self.lengths_mm[::-1], self.curvature[::-1])

    def lengthened(self, start_mm: float, end_mm: float) -> Curve:
        """The curve run on at both ends with the curvature it has there."""
        lengths = self.lengths_mm.copy()
        lengths[0] += start_mm
        lengths[-1] += end_mm
        return Curve(lengths, self.curvature, self.anchored_at_mm + start_mm, self.anchor_y_mm)

    def with_curvature(self, curvature: Array) -> Curve:
        """Same lengths, other curvature: what bending does to a mid-line."""
        return self._like(self.lengths_mm, np.asarray(curvature, dtype=float))

    def parallel(self, offset_mm: float, field: str = "shape") -> Curve:
        """The face so far to the left of travel (outwards for a positive arc). Exact: arcs stay arcs.

        Raises: PlanError where the radius is no larger than the offset, for there the face would have a cusp.
        Source: geometry. Grade: physics.

        >>> Curve.of([1000.0], [0.001]).parallel(10.0).lengths_mm
        array([1010.])
        """
        stretch = 1 + self.curvature * offset_mm
        if not (stretch > 1e-9).all():
            cell = int(np.argmin(stretch))
            radius = 1 / abs(self.curvature[cell])
            raise PlanError(
                field,
                "The inside face, {offset} from the centerline, would fold where the centerline radius is {radius}, "
                "{place} from the start.",
                hint="Make the part thinner there or the bend gentler.",
                lengths_mm={"offset": abs(offset_mm), "radius": radius, "place": float(self.stations_mm[cell])},
            )
        at = self.anchored_at_mm
        if self.lengths_mm.size == 1:
            along = at * float(stretch[0])
            anchor = None if self.anchor_mm is None else along
        else:
            anchor = float(
                np.interp(at, self.stations_mm, np.concatenate(([0.0], np.cumsum(self.lengths_mm * stretch))))
            )
        return Curve(self.lengths_mm * stretch, self.curvature / stretch, anchor, self.anchor_y_mm + offset_mm)

    def chord_and_rise_mm(self) -> tuple[float, float]:
        """Straight distance between the ends, and the largest distance of the curve from that line."""
        if self.lengths_mm.size == 1:
            half_turn = self.length_mm * abs(float(self.curvature[0])) / 2
            if half_turn < 1e-9:
                return self.length_mm, 0.0
            radius = self.length_mm / (2 * half_turn)
            return 2 * radius * abs(math.sin(half_turn)), radius * (1 - math.cos(half_turn))
        joints = self.points_mm - self.points_mm[0]
        x, y = joints[-1].tolist()
        chord = math.hypot(x, y)
        if chord < 1e-9:  # the ends meet and leave no line to measure from: the farthest from where they do
            finer = self.traced(max(64, self.lengths_mm.size))
            return 0.0, float(np.hypot(*(finer - finer[0]).T).max())
        aside = (joints @ np.array([-y, x]) / chord).tolist()
        rise = max(map(abs, aside))
        headings = (self.headings_rad - math.atan2(y, x)).tolist()  # from the chord's
        for off, k, start, end in zip(aside, self.curvature.tolist(), headings, headings[1:], strict=False):
            # within an arc it is farthest where it runs along the chord, one way or the other
            first, last = math.floor(min(start, end) / math.pi) + 1, math.floor(max(start, end) / math.pi)
            for half_turns in range(first, min(last, first + 1) + 1):
                rise = max(rise, abs(off + ((-1) ** half_turns - math.cos(start)) / k))
        return chord, rise


def _steps(lengths: Array, curvature: Array | float, heading: Array | float) -> Array:
    """Displacement (n, 2) along arcs that set out in `heading`: exact, and smooth through curvature 0."""
    half_turn = lengths * curvature / 2
    chord = lengths * _chord_share(half_turn)
    direction = heading - half_turn
    steps = np.empty((*chord.shape, 2))
    steps[..., 0] = chord * np.cos(direction)
    steps[..., 1] = chord * np.sin(direction)
    return steps


def _chord_share(half_turn: Array) -> Array:
    """Chord over arc: sin x / x, and 1 at 0."""
    x = np.where(half_turn == 0, 1e-30, half_turn)
    return np.asarray(np.sin(x) / x)


def end_offsets_mm(lengths_mm: Array, curvature: Array) -> Array:
    """Where the ends lie, seen from the middle of the length with the curve level there.

    lengths_mm: (n,); curvature: (..., n), many curves at once; returns (..., 2, 2): start and end points.
    Used for springback at the tip, which compares curves of equal length laid with middle point and tangent in common.
    """
    if lengths_mm.size == 1:  # one arc: both halves alike
        half = float(lengths_mm[0]) / 2
        turn = half * curvature[..., 0]
        chord = half * _chord_share(turn / 2)
        ends = np.empty((*turn.shape, 2, 2))
        ends[..., 1, 0] = chord * np.cos(turn / 2)
        ends[..., 0, 0] = -ends[..., 1, 0]
        ends[..., :, 1] = (-chord * np.sin(turn / 2))[..., None]
        return ends
    stations = np.concatenate(([0.0], lengths_mm.cumsum()))
    before = np.minimum(np.maximum(stations[-1] / 2 - stations[:-1], 0.0), lengths_mm)
    halves = np.array([before, lengths_mm - before])  # of each cell, what lies before and after the middle
    halves = halves.reshape((2, *([1] * (curvature.ndim - 1)), lengths_mm.size))
    turn = halves * curvature
    turned = turn.cumsum(axis=-1)  # from the middle to the end of each cell; before it, to its start
    turned[0] = turned[0][..., -1:] - turned[0] + turn[0]
    heading = turn / 2 - turned
    chord = halves * _chord_share(turn / 2)
    x, y = (chord * np.cos(heading)).sum(-1), (chord * np.sin(heading)).sum(-1)
    ends = np.empty((*curvature.shape[:-1], 2, 2))
    ends[..., 0, 0], ends[..., 1, 0] = -x[0], x[1]
    ends[..., 0, 1], ends[..., 1, 1] = y[0], y[1]
    return ends


def tip_distance_mm(lengths_mm: Array, curvature: Array, other: Array) -> Array:
    """Distance between the ends of two curves (or stacks of curves) of equal length: the larger of the two tips.

    Both are laid with the same middle point and tangent. curvature, other: (..., n), finite, 1/mm; returns (...), mm.
    Raises: PlanError. Source: geometry. Grade: physics.

    >>> float(tip_distance_mm(np.array([2000.0]), np.array([0.001]), np.array([0.0])).round(1))
    486.3
    """
    for bent in (curvature, other):
        check_range("shape", float(np.abs(bent).max()), 0, MOST_CURVATURE, "1/mm")
    check_range("shape", float(lengths_mm.min()), 0, ENDLESS, "mm", above=True)
    apart = end_offsets_mm(lengths_mm, curvature) - end_offsets_mm(lengths_mm, other)
    return np.asarray(np.hypot(apart[..., 0], apart[..., 1]).max(axis=-1))
