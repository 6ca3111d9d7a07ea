"""The smoothest strip through points that were measured: curvature that changes as little as the points allow.

Unknown are the start, the first heading and the curvature at nodes along the strip (linear between them). Least
squares of the distances across the strip, and a penalty on the change of curvature, so that straights and arcs cost
nothing. How stiff it is follows from the points themselves (cross-validation) and from the error they were measured
with (discrepancy). Source: docs/model.md#measured.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..common.arrays import Array
from ..common.errors import PlanError

MOST_NODES, FEWEST_NODES, FINER = 160, 4, 8
ROUNDS = 14
STIFFNESSES = 10.0 ** np.arange(-6.0, 10.01, 0.25)  # times what makes penalty and points weigh alike
FEW_POINTS = 10  # fewer say nothing of their own error
ROUGH_MM = 0.5  # a stated error beyond which it is believed even against the points
CAUTION = 1.6  # on each degree of freedom, so that chance is not followed. Source: robust cross-validation.
SMALLEST_MM = 1e-4  # error below which points are exact
Z_80 = 1.2815515655446004


@dataclass(frozen=True, eq=False)
class Strip:
    """A strip through points. s, x, y, headings: (m,) finely along it, mm and radians, anticlockwise positive.

    error_mm: of the points about it, as found or as stated. tightest, tightest_sd: largest size of the curvature and
    its standard deviation, 1/mm. free: degrees of freedom it took.
    """

    s: Array
    x: Array
    y: Array
    headings: Array
    error_mm: float
    tightest: float
    tightest_sd: float
    free: float


def strip_through(points: Array, error_mm: float) -> Strip:
    """points: (n, 2) in order, measured to about error_mm each. Raises: PlanError where none runs through them."""
    n = len(points)
    along = np.concatenate(([0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))))
    nodes = int(np.clip(n, FEWEST_NODES, MOST_NODES))
    start, state = points[0].copy(), _first(points, along, nodes)
    for turn in range(ROUNDS):
        shape = _integrated(start, state, along[-1], nodes)
        across, matrix = _seen(points, along, shape, nodes)
        settled = _stiffness(matrix, across + matrix @ state, nodes, along[-1], error_mm)
        moved = settled.state - state
        # far from home the whole step would overshoot: no heading is turned by more than half a radian at once
        turned = np.abs(moved[1] + np.concatenate(([0.0], np.cumsum(moved[2:]) * along[-1] / nodes))).max()
        moved *= min(1.0, 0.5 / max(1e-12, float(turned)))
        normal = np.array([-np.sin(state[1]), np.cos(state[1])])
        start, state = start + moved[0] * normal, state + moved
        state[0] = 0.0
        if not np.isfinite(state).all():
            raise _none()
        for _ in range(2):
            start, along = _placed(points, along, start, state, nodes)
        if turn > 2 and float(np.abs(moved[2:]).max()) < 1e-9 + 1e-7 * float(np.abs(state[2:]).max()):
            break
    shape = _integrated(start, state, along[-1], nodes)
    kappa, spread = state[2:], np.sqrt(np.maximum(np.diag(settled.covariance)[2:], 0.0))
    tight = int(np.abs(kappa).argmax())
    return Strip(
        shape.s,
        shape.x,
        shape.y,
        shape.headings,
        settled.error_mm,
        float(abs(kappa[tight])),
        float(spread[tight]),
        settled.free,
    )


def _none() -> PlanError:
    return PlanError("shape.points_mm", "No smooth curve goes through these points in this order.")


def _placed(points: Array, along: Array, start: Array, state: Array, nodes: int) -> tuple[Array, Array]:
    """The start moved along the strip to lie beside the first point, and each point's place beside it on the strip."""
    shape = _integrated(start, state, along[-1], nodes)
    x, y, heading = (np.interp(along, shape.s, v) for v in (shape.x, shape.y, shape.headings))
    ahead = (points[:, 0] - x) * np.cos(heading) + (points[:, 1] - y) * np.sin(heading)
    start = start + ahead[0] * np.array([np.cos(heading[0]), np.sin(heading[0])])
    steps = np.diff(along)
    least = np.minimum(np.append(steps, steps[-1]), np.insert(steps, 0, steps[0]))
    moved = along + np.clip(ahead - ahead[0], -0.45 * least, 0.45 * least)
    return start, moved - moved[0]


def _first(points: Array, along: Array, nodes: int) -> Array:
    """Where to begin: curvature from the headings of the polygon, smoothed a good deal."""
    d = np.diff(points, axis=0)
    headings = np.unwrap(np.arctan2(d[:, 1], d[:, 0]))
    middle = (along[1:] + along[:-1]) / 2
    at = np.linspace(0, along[-1], nodes)
    width = max(along[-1] / 12, float(np.diff(along).max()))
    weights = np.exp(-0.5 * ((at[:, None] - middle[None, :]) / width) ** 2) * np.diff(along)[None, :] + 1e-300
    smooth = (weights * headings).sum(axis=1) / weights.sum(axis=1)
    return np.concatenate(([0.0, smooth[0]], np.gradient(smooth, at)))


@dataclass(frozen=True, eq=False)
class _Shape:
    s: Array
    x: Array
    y: Array
    headings: Array
    basis: Array  # (m - 1, nodes) share of each node in the curvature of each cell


def _integrated(start: Array, state: Array, length: float, nodes: int) -> _Shape:
    cells = nodes * FINER
    s = np.linspace(0, length, cells + 1)
    at = (np.arange(cells) + 0.5) / cells * (nodes - 1)
    low = np.minimum(at.astype(int), nodes - 2)
    basis = np.zeros((cells, nodes))
    basis[np.arange(cells), low], basis[np.arange(cells), low + 1] = 1 - (at - low), at - low
    step = length / cells
    headings = state[1] + np.concatenate(([0.0], np.cumsum(basis @ state[2:]) * step))
    # the chord of an arc, exactly: its middle heading, and a little shorter than the arc
    half = np.diff(headings) / 2
    chord = step * np.sinc(half / np.pi)
    middle = headings[:-1] + half
    x = start[0] + np.concatenate(([0.0], np.cumsum(chord * np.cos(middle))))
    y = start[1] + np.concatenate(([0.0], np.cumsum(chord * np.sin(middle))))
    return _Shape(s, x, y, headings, basis)


def _seen(points: Array, along: Array, shape: _Shape, nodes: int) -> tuple[Array, Array]:
    """(n,) how far each point lies to the left of the strip, and (n, 2 + nodes) how that changes with the unknowns: the
    start moved to the left, the first heading, the curvature at each node."""
    x, y, heading = (np.interp(along, shape.s, v) for v in (shape.x, shape.y, shape.headings))
    left = np.stack((-np.sin(heading), np.cos(heading)), axis=1)
    across = ((points - np.stack((x, y), axis=1)) * left).sum(axis=1)
    step = shape.s[1]
    mid_x, mid_y = (shape.x[1:] + shape.x[:-1]) / 2, (shape.y[1:] + shape.y[:-1]) / 2
    rows = np.clip(np.searchsorted(shape.s, along, side="left"), 0, len(shape.s) - 1)

    def upto(values: Array) -> Array:
        return np.asarray(np.vstack((np.zeros((1, nodes)), np.cumsum(values, axis=0)))[rows] * step)

    turned, moved_x, moved_y = upto(shape.basis), upto(shape.basis * mid_x[:, None]), upto(shape.basis * mid_y[:, None])
    # turning the strip by dθ at u moves what lies beyond: perpendicular to r(s) − r(u)
    by_nodes = left[:, :1] * -(y[:, None] * turned - moved_y) + left[:, 1:] * (x[:, None] * turned - moved_x)
    by_heading = left[:, 0] * -(y - shape.y[0]) + left[:, 1] * (x - shape.x[0])
    by_start = np.cos(heading - shape.headings[0])
    return across, np.hstack((by_start[:, None], by_heading[:, None], by_nodes))


@dataclass(frozen=True, eq=False)
class _Settled:
    state: Array
    covariance: Array
    error_mm: float
    free: float


def _stiffness(matrix: Array, wanted: Array, nodes: int, length: float, stated_mm: float) -> _Settled:
    """The state at the stiffness that the points, and the error they were measured with, ask for."""
    n, size = matrix.shape
    change = np.diff(np.eye(nodes), axis=0) * np.sqrt(nodes / length)
    penalty = np.zeros((size, size))
    penalty[2:, 2:] = change.T @ change
    normal, right = matrix.T @ matrix, matrix.T @ wanted
    scale = float(np.trace(normal[2:, 2:]) / max(1e-300, np.trace(penalty)))
    both = normal + scale * penalty
    root = np.linalg.cholesky(both + 1e-13 * np.diag(np.diag(both)))
    inverse = np.linalg.inv(root)
    share, turned = np.linalg.eigh(inverse @ (scale * penalty) @ inverse.T)
    share = np.clip(share, 0.0, 1.0)
    axes = inverse.T @ turned
    own = axes.T @ right  # along each axis: points weigh 1 − share, penalty share times the stiffness
    weights = 1 / ((1 - share)[None, :] + STIFFNESSES[:, None] * share[None, :] + 1e-15)
    free = ((1 - share)[None, :] * weights).sum(axis=1)
    fits = weights * own[None, :]
    left = np.maximum(float(wanted @ wanted) - 2 * fits @ own + (fits**2 * (1 - share)[None, :]).sum(axis=1), 0.0)
    floor = n * SMALLEST_MM**2
    rough = np.sqrt((left + floor) / np.maximum(n - free, 0.5))
    best = 0
    if n >= FEW_POINTS:
        usable = CAUTION * free < 0.9 * n
        score = np.where(usable, (left + floor) / np.maximum(n - CAUTION * free, 1e-9) ** 2, np.inf)
        best = int(score.argmin()) if usable.any() else 0
    stiff = np.flatnonzero(left <= n * stated_mm**2)
    by_error = int(stiff[-1]) if stiff.size else 0
    found = float(rough[best])
    # points enough to say it themselves are asked; a stated error only where it is rough makes the strip stiffer
    at = by_error if n < FEW_POINTS else max(best, by_error) if stated_mm > ROUGH_MM else best
    error = found if n >= FEW_POINTS and at == best else max(stated_mm, SMALLEST_MM)
    covariance = error**2 * (axes * weights[at]) @ axes.T
    return _Settled(axes @ fits[at], covariance, error, float(free[at]))
