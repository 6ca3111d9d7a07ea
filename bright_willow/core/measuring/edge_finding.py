"""Drawing a mark to what it is meant for: the strongest edge near it, or the corner near it, to a part of a dot.

Source: derivative of a Gaussian across an edge; the point every gradient near a corner is square to. Grade: physics.
"""

from __future__ import annotations

import math

import numpy as np

from ..common.arrays import Array
from ..common.errors import check_range

BLUR_PX = 1.5  # over which the gradient is taken
NEAR_PX = 14  # how far a mark is drawn
LEAST_NEAR_PX, MOST_NEAR_PX = 2.0, 60.0  # that it can be
LEAST_STEP = 4.0  # of 255 grey levels to a dot, below which there is no edge
NEARER = 0.6  # how much less an edge counts at the rim of what is near
CORNER_PX, ROUNDS = 9, 25
CORNERED = 0.06  # of the stronger direction, which the weaker has where there is a corner
HALF = 0.5  # of a dot: its middle from where it begins


def drawn_to_edge(grey: Array, at: tuple[float, float], near_px: float = NEAR_PX) -> tuple[float, float] | None:
    """The strongest edge near a place of a picture, to a part of a dot; none where there is none.

    grey: (h, w) levels 0–255; at: dots from the left and from the top, the first dot from 0 to 1. It is
    moved square to the edge, so that where along it the mark sits stays the maker's. Valid: near_px from 2 to 60.
    Raises: PlanError.
    """
    check_range("pictures.near", near_px, LEAST_NEAR_PX, MOST_NEAR_PX)
    at = at[0] - HALF, at[1] - HALF
    made = _gradients(grey, at, near_px + 3)
    if made is None:
        return None
    gx, gy, x0, y0 = made
    size = np.hypot(gx, gy)
    ys, xs = np.mgrid[0 : size.shape[0], 0 : size.shape[1]]
    far = np.hypot(xs + x0 - at[0], ys + y0 - at[1])
    counts = np.where(far <= near_px, size * (1 - NEARER * far / near_px), 0.0)
    j, i = np.unravel_index(int(counts.argmax()), counts.shape)
    if size[j, i] < LEAST_STEP:
        return None
    nx, ny = gx[j, i] / size[j, i], gy[j, i] / size[j, i]
    # square to the edge through the mark itself, else through the strongest place
    off = (i + x0 - at[0]) * nx + (j + y0 - at[1]) * ny
    start = np.array([at[0] + off * nx - x0, at[1] + off * ny - y0])
    steps = np.arange(-3.0, 3.01, 0.25)
    profile = _between(size, start[0] + steps * nx, start[1] + steps * ny)
    top = int(profile.argmax())
    shift = steps[top]
    if 0 < top < len(steps) - 1:
        a, b, c = profile[top - 1 : top + 2]
        bend = a - 2 * b + c
        shift += 0.25 * float(np.clip(0.5 * (a - c) / bend, -1, 1)) if bend < 0 else 0.0
    x, y = start[0] + shift * nx + x0, start[1] + shift * ny + y0
    return (float(x) + HALF, float(y) + HALF) if math.hypot(x - at[0], y - at[1]) <= near_px + 2 else None


def drawn_to_corner(grey: Array, at: tuple[float, float], near_px: float = NEAR_PX) -> tuple[float, float] | None:
    """The corner near a place of a picture: the point every gradient round it is square to; none where there is none.

    As `drawn_to_edge`. Raises: PlanError.
    """
    check_range("pictures.near", near_px, LEAST_NEAR_PX, MOST_NEAR_PX)
    at = at[0] - HALF, at[1] - HALF
    here = np.array(at, dtype=float)
    best = _cornered_near(grey, at, near_px)
    here = best if best is not None else here
    for _ in range(ROUNDS):
        made = _gradients(grey, (float(here[0]), float(here[1])), CORNER_PX)
        if made is None:
            return None
        gx, gy, x0, y0 = made
        ys, xs = np.mgrid[0 : gx.shape[0], 0 : gx.shape[1]]
        xs, ys = xs + x0, ys + y0
        weight = np.exp(-((xs - here[0]) ** 2 + (ys - here[1]) ** 2) / (2 * (CORNER_PX / 2) ** 2))
        xx, xy, yy = (weight * gx * gx), (weight * gx * gy), (weight * gy * gy)
        matrix = np.array([[xx.sum(), xy.sum()], [xy.sum(), yy.sum()]])
        low, high = np.linalg.eigvalsh(matrix) / float(weight.sum())
        if low < CORNERED * high or high < LEAST_STEP**2:
            return None  # an edge, or nothing at all
        right = np.array([(xx * xs + xy * ys).sum(), (xy * xs + yy * ys).sum()])
        there = np.linalg.solve(matrix, right)
        moved = float(np.hypot(*(there - here)))
        here = there
        if math.hypot(here[0] - at[0], here[1] - at[1]) > near_px + 2:
            return None
        if moved < 0.01:
            break
    return float(here[0]) + HALF, float(here[1]) + HALF


def _cornered_near(grey: Array, at: tuple[float, float], near_px: float) -> Array | None:
    """The dot near a place that is most of a corner: where the weaker of its two directions is strongest."""
    from scipy.ndimage import gaussian_filter

    made = _gradients(grey, at, near_px + 4)
    if made is None:
        return None
    gx, gy, x0, y0 = made
    xx, xy, yy = (gaussian_filter(p, 2.0) for p in (gx * gx, gx * gy, gy * gy))
    weaker = (xx + yy) / 2 - np.sqrt(((xx - yy) / 2) ** 2 + xy**2)
    ys, xs = np.mgrid[0 : gx.shape[0], 0 : gx.shape[1]]
    far = np.hypot(xs + x0 - at[0], ys + y0 - at[1])
    weaker = np.where(far <= near_px, weaker * (1 - NEARER * far / near_px), 0.0)
    j, i = np.unravel_index(int(weaker.argmax()), weaker.shape)
    return np.array([i + x0, j + y0], dtype=float) if weaker[j, i] > 0 else None


def _gradients(grey: Array, at: tuple[float, float], reach: float) -> tuple[Array, Array, int, int] | None:
    """Slopes across and down of a window round a place, grey levels a dot, and where the window begins."""
    from scipy.ndimage import gaussian_filter

    high, wide = grey.shape
    margin = math.ceil(reach + 4 * BLUR_PX)
    x0, x1 = max(0, math.floor(at[0]) - margin), min(wide, math.floor(at[0]) + margin + 1)
    y0, y1 = max(0, math.floor(at[1]) - margin), min(high, math.floor(at[1]) + margin + 1)
    if x1 - x0 < 8 or y1 - y0 < 8:
        return None
    window = grey[y0:y1, x0:x1].astype(float)
    gx = gaussian_filter(window, BLUR_PX, order=(0, 1), mode="nearest")
    gy = gaussian_filter(window, BLUR_PX, order=(1, 0), mode="nearest")
    return gx, gy, x0, y0


def _between(values: Array, x: Array, y: Array) -> Array:
    from scipy.ndimage import map_coordinates

    return np.asarray(map_coordinates(values, np.stack((y, x)), order=3, mode="nearest"))


def drawn_to(grey: Array, at: tuple[float, float], near_px: float, *, is_end: bool) -> tuple[float, float] | None:
    """Where a mark is drawn to along an edge: at an end of it to the corner that ends it, where there is one.

    As `drawn_to_edge`.
    """
    corner = drawn_to_corner(grey, at, near_px) if is_end else None
    return corner or drawn_to_edge(grey, at, near_px)
