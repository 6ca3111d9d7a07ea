"""A piece measured by points along one of its edges, wherever it lay: the loss ratio whose face lies best among them,
of the whole piece and of each of its halves."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..common.arrays import Array
from ..common.errors import PlanError
from ..learning.belief import LossRatio
from ..shape.arc import Face, face_offset_mm
from ..shape.curve import Curve
from .built_form import BuiltForm
from .ends_and_heights import MOST_RATIO, ODD, MeasurementResult, came_to

Laid = tuple[Array, NDArray[np.intp], bool]  # points in order, which was which, whether in a mirror
FEWEST = 4
SURELY = 0.6  # of the squares left over, by which a mirror must do better. Grade: allowance.
END_MM = 2.0  # how well the end of an edge is seen: where along it the first and the last point lie. Grade: allowance.
MOST_BEYOND = 2.5  # times that, beyond which it is another face or another length. Grade: allowance.
LONG_OFF = 0.12  # of the length of the face, by which points may be too short or too long for it. Grade: allowance.


@dataclass(frozen=True, eq=False)
class Traced:
    """Points along an edge from one end to the other: (n, 2) mm, in a plane seen from either side, and the standard
    error of each, mm. Valid: 4 points or more, the first and the last at the ends."""

    points_mm: Array
    errors_mm: Array
    face: Face


@dataclass(frozen=True, eq=False)
class Trace:
    """What a traced edge comes to: measured as a whole; the ratios of its left and right half, fitted together; where
    its points lie beside the piece as it is expected (stations along the face, mm; distances from that face, mm, to the
    left of it above 0, the middle laid on the middle); and where the fitted face lies among the points."""

    measured: MeasurementResult
    halves: tuple[LossRatio, LossRatio] | tuple[None, None]
    stations_mm: Array
    off_mm: Array
    fitted_mm: Array
    is_mirrored: bool


def traced(built: BuiltForm, seen: Traced) -> Trace:
    """The loss ratio that fits an edge best, by least squares over it and how the piece lies (turned, moved, mirrored).

    Raises: PlanError. Source: geometry; docs/model.md#learning. Grade: physics.
    """
    points, errors = np.asarray(seen.points_mm, dtype=float), np.asarray(seen.errors_mm, dtype=float)
    if len(points) < FEWEST:
        raise PlanError("points", f"Mark {FEWEST} points or more, from one end of the edge to the other.")
    if not np.isfinite(points).all() or not (errors > 0).all():
        raise PlanError("points", "A point has no position.")
    on_face = _face(built, seen.face, 1.0)
    long = float(np.hypot(*np.diff(points, axis=0).T).sum())
    if not 1 - LONG_OFF < long / on_face.length_mm < 1 + LONG_OFF / 2:
        raise PlanError(
            "points",
            "These points run {seen} from end to end, but that face of the piece is {own} long.",
            hint="Mark it from one end to the other; check the rectangle's size and the face.",
            lengths_mm={"seen": long, "own": on_face.length_mm},
        )
    firsts = [_first(on_face, way) for way in _ways(points)]
    as_seen, mirrored = min(firsts[:2], key=lambda f: f[0]), min(firsts[2:], key=lambda f: f[0])
    # a piece alike at both ends is not said to be seen in a mirror for a mark's sake
    _, (laid, order, is_mirrored), pose = mirrored if mirrored[0] < SURELY * as_seen[0] else as_seen
    errors = errors[order]
    whole = _Fit(lambda r: _face(built, seen.face, float(r[0])), laid, errors)
    (k,), pose, (sure,), misfit = whole.solved(np.ones(1), pose)
    k = float(k)
    if abs(k) > MOST_RATIO:
        raise PlanError("points", "No springback gives this curve: check the marks.")
    worse = max(1.0, misfit)
    came = _face(built, seen.face, k)
    stations, _ = nearest(came, laid, pose)
    beyond = max(abs(float(stations[0])), abs(came.length_mm - float(stations[-1])))
    if beyond > MOST_BEYOND * END_MM:
        raise PlanError(
            "points",
            "The edge you marked ends {beyond} from where this face of the piece would.",
            hint="Check the face, that it is marked end to end, and the rectangle's size.",
            lengths_mm={"beyond": beyond},
        )
    wanted = built.mid_line(built.expected).parallel(face_offset_mm(seen.face, built.thickness_mm))
    _, off = nearest(wanted, laid, pose)  # both stand on their middles, level there: one pose carries either
    fitted = _put(came.at(np.linspace(0, came.length_mm, 80))[0], pose)
    return Trace(
        came_to(built, LossRatio(k, sure * worse), seen.face, misfit),
        _halves(built, seen.face, laid, errors, k, pose),
        stations,
        off,
        fitted * np.array([1.0, -1.0]) if is_mirrored else fitted,
        is_mirrored,
    )


def _face(built: BuiltForm, face: Face, k: float) -> Curve:
    return built.bent_by(k).parallel(face_offset_mm(face, built.thickness_mm))


def _ways(points: Array) -> list[Laid]:
    """The points from either end, seen from either side: points, which was which, whether in a mirror."""
    order = np.arange(len(points))
    flip = np.array([1.0, -1.0])
    return [
        (points, order, False),
        (points[::-1], order[::-1], False),
        (points * flip, order, True),
        (points[::-1] * flip, order[::-1], True),
    ]


def _put(points: Array, pose: Array) -> Array:
    """Points turned and moved: pose is an angle and where the origin goes."""
    c, s = math.cos(pose[0]), math.sin(pose[0])
    return np.asarray(points @ np.array([[c, s], [-s, c]]) + pose[1:])


def _first(curve: Curve, way: Laid) -> tuple[float, Laid, Array]:
    """How a curve lies best among points that are spread along it as their distances are (turned and moved)."""
    points = way[0]
    along = np.concatenate(([0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))))
    own = curve.at(along / along[-1] * curve.length_mm)[0]
    a, b = own - own.mean(axis=0), points - points.mean(axis=0)
    turn = math.atan2(float((a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]).sum()), float((a * b).sum()))
    pose = np.array([turn, 0.0, 0.0])
    pose[1:] = points.mean(axis=0) - _put(own, pose).mean(axis=0)
    off = float(((_put(own, pose) - points) ** 2).sum())
    return off, way, pose


@dataclass(frozen=True, eq=False)
class _Fit:
    """Least squares over one loss ratio or two, and over how the piece lies."""

    curve_at: Callable[[Array], Curve]
    points: Array
    errors: Array

    def left(self, x: Array) -> Array:
        """What lies between points and face, over its error; and how far the ends are from the ends."""
        curve = self.curve_at(x[:-3])
        stations, across = nearest(curve, self.points, x[-3:])
        ends = (stations[0], stations[-1] - curve.length_mm)
        return np.append(across / self.errors, [end / END_MM for end in ends])

    def solved(self, ratios: Array, pose: Array) -> tuple[Array, Array, Array, float]:
        """The ratios, how it lies, the errors of the ratios, and how far points lie from it over their error.
        Raises: PlanError."""
        from scipy.optimize import least_squares

        n, m = len(self.points), len(ratios)
        reach = 0.01 * max(1.0, float(np.abs(self.points).max()))
        scale = np.array([0.1] * m + [0.01, reach, reach])
        found = least_squares(self.left, np.concatenate((ratios, pose)), x_scale=scale, max_nfev=60)
        misfit = math.sqrt(float((found.fun[:n] ** 2).sum()) / max(1, n - 2 - m))
        try:
            square = np.diag(np.linalg.inv(found.jac.T @ found.jac))[:m]
        except np.linalg.LinAlgError:
            square = np.full(m, math.inf)
        if not ((square > 0) & (square < 1e6)).all():
            raise PlanError("points", "These points do not show the springback: mark more of the edge.")
        return found.x[:m], found.x[m:], np.sqrt(square), misfit


def nearest(curve: Curve, points: Array, pose: Array) -> tuple[Array, Array]:
    """(n,) stations along a curve that lies so, at which points lie nearest to it, beyond its ends too; and (n,) how
    far they lie outwards of it, mm."""
    home = (points - pose[1:]) @ np.array(
        [[math.cos(pose[0]), -math.sin(pose[0])], [math.sin(pose[0]), math.cos(pose[0])]]
    )
    grid = np.linspace(0, curve.length_mm, 65)
    coarse = curve.at(grid)[0]
    # a piece that comes round on itself is near in two places: of those near enough the one in order is taken
    square = ((home[:, None, :] - coarse[None, :, :]) ** 2).sum(axis=2)
    share = np.concatenate(([0.0], np.cumsum(np.hypot(*np.diff(home, axis=0).T))))
    there = share / max(1e-9, share[-1]) * curve.length_mm
    if len(points) > 1:
        square += (0.15 * (grid[None, :] - there[:, None])) ** 2
    stations = grid[square.argmin(axis=1)]
    for _ in range(4):
        at, heading = curve.at(stations)
        along = np.stack((np.cos(heading), np.sin(heading)), axis=1)
        stations = stations + ((home - at) * along).sum(axis=1)
    at, heading = curve.at(stations)
    out = np.stack((-np.sin(heading), np.cos(heading)), axis=1)
    return stations, np.asarray(((home - at) * out).sum(axis=1))


def _halves(
    built: BuiltForm, face: Face, points: Array, errors: Array, k: float, pose: Array
) -> tuple[LossRatio, LossRatio] | tuple[None, None]:
    """Both halves, each with a ratio of its own; none where the points do not tell them apart."""
    offset = face_offset_mm(face, built.thickness_mm)
    both = _Fit(lambda r: built.bent_by_halves(float(r[0]), float(r[1])).parallel(offset), points, errors)
    try:
        ratios, _, sure, misfit = both.solved(np.full(2, k), pose)
    except PlanError:
        return None, None
    if not (np.abs(ratios) <= MOST_RATIO).all() or misfit > ODD:
        return None, None
    left, right = (LossRatio(float(r), float(e) * max(1.0, misfit)) for r, e in zip(ratios, sure, strict=True))
    return left, right
