"""Measuring on a picture: what its dots are in mm, by a rectangle of known size or a bar of known length that lies in
the plane of the piece. Source: geometry of a flat thing seen through a pinhole. Grade: physics; the errors: allowance.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from ..common.arrays import Array
from ..common.document import Document, Length
from ..common.errors import PlanError, check_range
from ..common.units import Unit

MARK_PX = 0.7  # how well a mark sits on what it marks, once it has been drawn to it. Grade: allowance.
LENS = 0.0007  # of the distance from the middle of the rectangle, bent by the lens. Grade: allowance.
MOST_POINTS = 60
PAPER_MM: dict[Unit, tuple[float, float]] = {"mm": (297.0, 210.0), "in": (279.4, 215.9)}
LEAST_CORNER_DEG = 12.0  # flatter than that four corners are no rectangle seen from anywhere. Grade: allowance.
LEAST_SIDE_PX = 20.0
STEP_PX = 0.25

Spot = Annotated[tuple[float, float], Field(strict=False)]  # dots from the left and from the top


class PhotoMarks(Document):
    """What is marked on a picture: the rectangle's corners in order round it, or the ends of a bar, and points along an
    edge from one of its ends to the other. across_mm: from the first corner to the second, or the bar's length; along
    the next side up_mm."""

    format: Literal["bright-willow-sighting"] = "bright-willow-sighting"
    version: Literal[1] = 1
    by: Literal["rectangle", "bar"] = "rectangle"
    across_mm: Length = Field(default=297.0, ge=5, le=10_000)
    up_mm: Length = Field(default=210.0, ge=5, le=10_000)
    corners: tuple[Spot, ...] = Field(default=(), max_length=4, strict=False)
    points: tuple[Spot, ...] = Field(default=(), max_length=MOST_POINTS, strict=False)

    @classmethod
    def sheet(cls, unit: Unit) -> PhotoMarks:
        """Nothing marked yet, beside a sheet of the paper that lies in a shop of that unit."""
        across, up = PAPER_MM[unit]
        return cls(across_mm=across, up_mm=up)

    @property
    def most_corners(self) -> int:
        return 4 if self.by == "rectangle" else 2

    @property
    def is_placed(self) -> bool:
        """Whether it can be told what the dots are in mm."""
        return len(self.corners) == self.most_corners

    def with_mark(self, spot: Spot) -> PhotoMarks:
        """With one more mark: a corner while one is missing, then a point of the edge, put where it belongs along it.
        Raises: PlanError."""
        if not self.is_placed:
            return self.model_copy(update={"corners": (*self.corners, spot)})
        if len(self.points) >= MOST_POINTS:
            raise PlanError("points", f"At most {MOST_POINTS} points, please.")
        points = list(self.points)
        points.insert(_belongs(self.points, spot), spot)
        return self.model_copy(update={"points": tuple(points)})

    def moved(self, name: str, to: Spot | None) -> PhotoMarks:
        """With a mark (`corner-2`, `point-0`) moved, or taken out. Raises: PlanError where there is none."""
        kind, _, tail = name.partition("-")
        field = {"corner": "corners", "point": "points"}.get(kind, "")
        rows = list(getattr(self, field)) if field else []
        if not (tail.isascii() and tail.isdigit() and int(tail[:4]) < len(rows)):
            raise PlanError("mark", "There is no such mark.")
        rows[int(tail) : int(tail) + 1] = [] if to is None else [to]
        return self.model_copy(update={field: tuple(rows)})


def _belongs(points: tuple[Spot, ...], spot: Spot) -> int:
    """Where along the row of points a new one goes: between the two it lies between, else beyond the nearer end."""
    if len(points) < 2:
        return len(points)
    own, new = np.array(points), np.array(spot)
    best, at = math.inf, len(points)
    for i, (a, b) in enumerate(pairwise(own)):
        d = b - a
        share = float((new - a) @ d / max(1e-9, float(d @ d)))
        if 0 < share < 1 and (off := float(np.hypot(*(new - a - share * d)))) < best:
            best, at = off, i + 1
    ends = [float(np.hypot(*(new - own[0]))), float(np.hypot(*(new - own[-1])))]
    if best <= min(ends):
        return at
    return 0 if ends[0] < ends[1] else len(points)


@dataclass(frozen=True, eq=False)
class Plane:
    """The plane of the piece: from dots of the picture (y downwards) to mm in it (y upwards, as it is seen) and back.

    matrix: (3, 3), of dots that are taken from `middle` and divided by `scale`, to mm.
    """

    matrix: Array
    middle: Array
    scale: float
    of: PhotoMarks

    @classmethod
    def by(cls, seen: PhotoMarks) -> Plane:
        """Raises: PlanError where the marks make no rectangle seen from anywhere, or no bar."""
        corners = np.array(seen.corners, dtype=float)
        if not seen.is_placed:
            left = seen.most_corners - len(seen.corners)
            what = "corner" if seen.by == "rectangle" else "end"
            raise PlanError("corners", f"{left} more {what}{'' if left == 1 else 's'} to mark.")
        if not np.isfinite(corners).all() or np.abs(corners).max() > 1e6:
            raise PlanError("corners", "A mark is far outside the picture.")
        middle = corners.mean(axis=0)
        scale = float(np.hypot(*(corners - middle).T).max())
        if scale < LEAST_SIDE_PX / 2:
            raise PlanError("corners", "These marks are on top of each other: use a larger object, or go closer.")
        own = (corners - middle) / scale
        if seen.by == "bar":
            return cls(_square_on(own, seen.across_mm), middle, scale, seen)
        _check_corners(corners)
        return cls(_homography(own, _corners_mm(corners, seen.across_mm, seen.up_mm)), middle, scale, seen)

    def mm(self, px: Array) -> Array:
        """(n, 2) dots to (n, 2) mm. Raises: PlanError beyond the horizon, where a dot is no place in the plane."""
        own = (np.asarray(px, dtype=float).reshape(-1, 2) - self.middle) / self.scale
        w = own @ self.matrix[2, :2] + self.matrix[2, 2]
        if not (w > 1e-3).all():
            raise PlanError("points", "A point is beyond the horizon of that rectangle: check its corners.")
        return np.asarray((own @ self.matrix[:2, :2].T + self.matrix[:2, 2]) / w[:, None])

    def px(self, mm: Array) -> Array:
        """(n, 2) mm to (n, 2) dots of the picture; what lies behind the camera becomes NaN."""
        back = self._back
        own = np.asarray(mm, dtype=float).reshape(-1, 2)
        w = own @ back[2, :2] + back[2, 2]
        w = np.where(w * math.copysign(1.0, float(back[2] @ self._in_middle)) > 1e-9, w, np.nan)
        return np.asarray((own @ back[:2, :2].T + back[:2, 2]) / w[:, None] * self.scale + self.middle)

    @cached_property
    def _back(self) -> Array:
        return np.asarray(np.linalg.inv(self.matrix))

    @cached_property
    def _in_middle(self) -> Array:
        here = self.matrix @ np.array([0.0, 0.0, 1.0])
        return np.asarray(here / here[2])

    def errors_mm(self, px: Array) -> Array:
        """(n,) standard error of each point, mm: its own mark, the marks of the corners, the lens."""
        at = np.asarray(px, dtype=float).reshape(-1, 2)
        here = self.mm(at)
        square = np.zeros(len(at))
        for axis in (0, 1):
            step = np.zeros(2)
            step[axis] = STEP_PX
            square += ((self.mm(at + step) - here) ** 2).sum(axis=1) / STEP_PX**2
        corners = np.array(self.of.corners)
        for i in range(len(corners)):
            for axis in (0, 1):
                off = corners.copy()
                off[i, axis] += STEP_PX
                other = Plane.by(self.of.model_copy(update={"corners": tuple(map(tuple, off.tolist()))}))
                square += ((other.mm(at) - here) ** 2).sum(axis=1) / STEP_PX**2
        far = np.hypot(*(here - self.mm(self.middle[None, :])).T)
        return np.asarray(np.sqrt(square * MARK_PX**2 / 2 + (LENS * far) ** 2))

    def grid_px(self, step_mm: float, beyond: int = 1) -> list[Array]:
        """Lines of a grid over the rectangle and so many of its sizes beyond, (m, 2) dots each: a check to the
        eye. step_mm: 1 to 10,000. Raises: PlanError."""
        check_range("across", step_mm, 1, 10_000, "mm")
        wide, high = self.of.across_mm, self.of.up_mm if self.of.by == "rectangle" else self.of.across_mm / 2
        xs = np.arange(math.ceil(-beyond * wide / step_mm), (1 + beyond) * wide / step_mm + 1e-9) * step_mm
        ys = np.arange(math.ceil(-beyond * high / step_mm), (1 + beyond) * high / step_mm + 1e-9) * step_mm
        lines = [np.stack((np.full(24, x), np.linspace(ys[0], ys[-1], 24)), axis=1) for x in xs[:80]]
        lines += [np.stack((np.linspace(xs[0], xs[-1], 24), np.full(24, y)), axis=1) for y in ys[:80]]
        return [self.px(line) for line in lines]


def _square_on(ends: Array, long_mm: float) -> Array:
    """A picture taken square on: one scale all over, y turned up."""
    mm = long_mm / float(np.hypot(*(ends[1] - ends[0])))
    return np.array([[mm, 0, 0], [0, -mm, 0], [0, 0, 1.0]])


def _check_corners(corners: Array) -> None:
    turns = []
    for i in range(4):
        a, b = corners[i - 1] - corners[i], corners[(i + 1) % 4] - corners[i]
        if min(np.hypot(*a), np.hypot(*b)) < LEAST_SIDE_PX:
            raise PlanError("corners", "Two corners are in the same place: use a larger rectangle, or go closer.")
        turns.append(math.degrees(math.atan2(a[0] * b[1] - a[1] * b[0], float(a @ b))))
    if any(abs(t) < LEAST_CORNER_DEG or abs(t) > 180 - LEAST_CORNER_DEG for t in turns):
        raise PlanError("corners", "Three of these corners are in a line: mark the four corners of the rectangle.")
    if len({t > 0 for t in turns}) > 1:
        raise PlanError("corners", "These corners cross: mark them in order around the rectangle.")


def _corners_mm(corners: Array, across: float, up: float) -> Array:
    """The corners in mm, y upwards, so that nothing is seen in a mirror whichever way round they were marked."""
    x, y = corners.T
    is_clockwise = float(x @ np.roll(y, -1) - y @ np.roll(x, -1)) > 0  # on a picture, whose y runs down
    first, last = (up, 0.0) if is_clockwise else (0.0, up)
    return np.array([(0.0, first), (across, first), (across, last), (0.0, last)])


def _homography(px: Array, mm: Array) -> Array:
    """(3, 3): four points onto four others. Raises: PlanError where three lie in a line."""
    rows, right = [], []
    for (x, y), (u, v) in zip(px, mm, strict=True):
        rows += [[x, y, 1, 0, 0, 0, -u * x, -u * y], [0, 0, 0, x, y, 1, -v * x, -v * y]]
        right += [u, v]
    try:
        found = np.append(np.linalg.solve(np.array(rows), np.array(right)), 1.0).reshape(3, 3)
    except np.linalg.LinAlgError:
        raise PlanError("corners", "Three of these corners are in a line.") from None
    return found
