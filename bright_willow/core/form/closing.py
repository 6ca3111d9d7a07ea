"""Whether the opposite half of a form closes on the lay-up, presses it everywhere, and lets the part out again."""

from __future__ import annotations

import math
from dataclasses import dataclass
from itertools import pairwise
from typing import Literal

import numpy as np

from ..common.arrays import Array
from ..common.errors import ENDLESS, PlanError, check_range
from .face import FormFace

STARVED = 0.25  # share of pressure below which glue starves. Source: docs/model.md#closing. Grade: physics.
STILL_OPEN_MM = 5.0  # how far from home the cavity is judged
SQUARE = 1e-9  # a face square to the push is starved, not undercut, whatever the last digit says
STATIONS = 400

Trouble = Literal["starved", "undercut"]


def gap_left_mm(gap_mm: float, share: float) -> float:
    """Gap square to the face where its share is cos φ, while the push is so far from home: g·cos φ, none below 0.

    Valid: a gap of 0 or more, a share from −1 to 1. Raises: PlanError. Source: geometry.

    >>> gap_left_mm(5.0, 0.5)
    2.5
    """
    check_range("form.close_deg", gap_mm, 0, ENDLESS, "mm")
    check_range("form.close_deg", share, -1 - 1e-9, 1 + 1e-9)
    return max(0.0, gap_mm * share)


@dataclass(frozen=True, slots=True)
class FaceStretch:
    """A stretch of the face that is pressed too little, or that the part cannot get past; mm along the face."""

    start_mm: float
    end_mm: float
    trouble: Trouble
    least_share: float


@dataclass(frozen=True, slots=True)
class Presser:
    """One part that presses from the far side: its stretch of the face, the way it closes, and how it presses.

    direction_deg: 0 is straight at the base line, positive to the right. least_share: cos of the worst angle between
    face and closing direction. best_direction_deg: the direction whose worst share is largest, and that share.
    """

    name: str
    start_mm: float
    end_mm: float
    direction_deg: float
    least_share: float
    best_direction_deg: float
    best_share: float
    troubles: tuple[FaceStretch, ...]

    @property
    def pinched_mm(self) -> float:
        """Gap left at its steepest place while its middle is still 5 mm from home: g·cos φ."""
        return gap_left_mm(STILL_OPEN_MM, self.least_share)

    @property
    def closes(self) -> bool:
        """Whether it comes home at all."""
        return self.least_share >= -SQUARE


@dataclass(frozen=True, slots=True)
class ClosingCheck:
    """The closing check of a form: its pressers, the share of pressure along the face, and the way out.

    stations_mm, shares: along the face. releases: whether the part, in its released shape, lifts straight off the form.
    splits_advised_mm: where to split the opposite half so that every piece presses everywhere, from the middle.
    """

    pressers: tuple[Presser, ...]
    stations_mm: tuple[float, ...]
    shares: tuple[float, ...]
    least_share: float
    releases: bool
    release_share: float
    splits_advised_mm: tuple[float, ...]

    def gaps_mm(self, gap_mm: float) -> tuple[float, ...]:
        """Gap left at every station when a presser is so far from home along its direction: g·cos φ, none below 0.

        Source: geometry.
        """
        return tuple(gap_left_mm(gap_mm, share) for share in self.shares)


def shares_along(headings_rad: Array, direction_deg: float) -> Array:
    """cos φ, φ between the outward normal of the face and the way the far half closes.

    The pressure a straight push brings to a face is its share cos φ; below zero the face looks away: an undercut.
    headings_rad: (n,) direction of travel along the face against its base line. Valid: within ±180°. Raises:
    PlanError. Source: geometry. Grade: physics.

    >>> shares_along(np.array([0.0, math.pi / 3]), 0.0).round(2)
    array([1. , 0.5])
    """
    check_range("form.close_deg", abs(direction_deg), 0, 360, "°")
    check_range("form.close_deg", float(np.abs(headings_rad).max()), 0, ENDLESS)
    return np.asarray(np.cos(headings_rad + math.radians(direction_deg)))


def best_direction(headings_rad: Array) -> tuple[float, float]:
    """The direction (degrees) with the largest least share, and that share: half way between the extreme headings.

    headings_rad: (n,), finite. Raises: PlanError. Source: geometry. Grade: physics.

    >>> [round(x, 3) for x in best_direction(np.array([0.0, math.pi / 2]))]
    [-45.0, 0.707]
    """
    check_range("form.close_deg", float(np.abs(headings_rad).max()), 0, ENDLESS)
    low, high = float(headings_rad.min()), float(headings_rad.max())
    return -math.degrees((low + high) / 2), math.cos(min(math.pi, (high - low) / 2))


def closing(
    face: FormFace,
    *,
    direction_deg: float,
    splits_mm: tuple[float, ...],
    released_headings_rad: Array,
    own_directions: bool = True,
    stations: int = STATIONS,
) -> ClosingCheck:
    """The check for a far half closing along a direction, or, split at `splits_mm` (from the middle of the face), for
    each of its pieces along its own best direction.

    Raises: PlanError for a direction along the base line (nothing would be pressed), or a split outside the face.
    Source: docs/model.md#closing.
    """
    if not abs(direction_deg) < 85:
        raise PlanError("form.close_deg", "That is along the face, so nothing would be pressed. Use −85° to 85°.")
    length = face.curve.length_mm
    at = np.linspace(0, length, stations + 1)
    headings = face.curve.at(at)[1] + face.tilt_rad
    cuts = sorted(face.middle_mm + s for s in splits_mm)
    if any(not 1 < c < length - 1 for c in cuts):
        raise PlanError("form.splits_mm", "A split is beyond the end of the form.")
    edges = [0.0, *cuts, length]
    pressers, shares = [], np.empty_like(at)
    for i, (start, end) in enumerate(pairwise(edges)):
        inside = (at >= start - 1e-9) & (at <= end + 1e-9)
        best, best_share = best_direction(headings[inside])
        along = best if own_directions and cuts else direction_deg
        mine = shares_along(headings[inside], along)
        shares[inside] = mine
        name = _name(i, len(edges) - 1)
        pressers.append(
            Presser(name, start, end, along, float(mine.min()), best, best_share, _troubles(at[inside], mine))
        )
    release = float(shares_along(released_headings_rad, best_direction(released_headings_rad)[0]).min())
    return ClosingCheck(
        tuple(pressers),
        tuple(at.tolist()),
        tuple(shares.tolist()),
        float(shares.min()),
        release >= -SQUARE,
        release,
        splits_for(at, headings, face.middle_mm),
    )


def direction_to(face: FormFace, place: Array, *, outwards: bool) -> float:
    """The closing direction (degrees) that points from the middle of the face to a place of the drawing.

    outwards: whether the far half lies to the left of travel. Between −84° and 84°. Source: geometry.
    """
    (middle,), _ = face.curve.at(np.array([face.middle_mm]))
    dx, dy = (face.laid(place[None, :]) - face.laid(middle[None, :]))[0] * (1.0 if outwards else -1.0)
    return float(np.clip(round(math.degrees(math.atan2(dx, dy)) * 2) / 2, -84, 84))


def split_at(face: FormFace, place: Array, step_mm: float) -> float:
    """The split (mm from the middle of the face) nearest to a place of the drawing, to a round figure."""
    at = np.linspace(0, face.curve.length_mm, STATIONS + 1)
    apart = np.hypot(*(face.curve.at(at)[0] - place).T)
    return float(round((at[int(apart.argmin())] - face.middle_mm) / step_mm) * step_mm)


def _name(i: int, count: int) -> str:
    if count == 1:
        return "outer half"
    if count == 3:
        return ("left side caul", "middle caul", "right side caul")[i]
    return f"outer half {i + 1}"


def _troubles(at: Array, shares: Array) -> tuple[FaceStretch, ...]:
    """Runs of stations that are starved, and, apart, those that are undercut."""
    kind = np.where(shares < -SQUARE, 2, np.where(shares < STARVED, 1, 0))
    found, start = [], 0
    for i in range(1, kind.size + 1):
        if i < kind.size and kind[i] == kind[start]:
            continue
        if kind[start]:
            trouble: Trouble = "undercut" if kind[start] == 2 else "starved"
            found.append(FaceStretch(float(at[start]), float(at[i - 1]), trouble, float(shares[start:i].min())))
        start = i
    return tuple(found)


def splits_for(at: Array, headings: Array, middle_mm: float) -> tuple[float, ...]:
    """Fewest splits of the far half, evenly by how far the face turns, after which every piece presses everywhere.

    One piece serves while the headings spread no more than twice acos(0.25), about 151°; a margin of 10° is kept.
    Returns distances from the middle of the face; none where one piece serves, or where four would not.
    """
    most = 2 * math.acos(STARVED) - math.radians(10)
    if headings.max() - headings.min() <= 2 * math.acos(STARVED):
        return ()
    turned = np.concatenate(([0.0], np.cumsum(np.abs(np.diff(headings)))))
    for pieces in (2, 3, 4):
        shares = turned[-1] * np.arange(1, pieces) / pieces
        before, after = (np.interp(shares + hair, turned, at) for hair in (-1e-9, 1e-9))
        cuts = (before + after) / 2  # over a straight the middle of it
        edges = np.searchsorted(at, [0.0, *cuts, at[-1]])
        runs = [headings[a : b + 1] for a, b in pairwise(edges)]
        if all(float(np.ptp(run)) <= most for run in runs if run.size):
            near = 0.01 * float(at[-1])
            return tuple(0.0 if abs(c - middle_mm) < near else round(float(c - middle_mm)) for c in cuts)
    return ()
