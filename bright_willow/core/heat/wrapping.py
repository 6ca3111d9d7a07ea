"""Pulling a hot piece round its form, step by step: how far it is round, the strain in its faces, the pull it takes."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from ..common.arrays import Array
from ..common.errors import ENDLESS, check_range
from ..shape.curve import Curve

STEPS = 9
CELLS = 96


@dataclass(frozen=True, slots=True)
class EndPull:
    """The pull at one end: where the hand or cable takes hold, which way it pulls (a unit vector), arm and newtons.

    at, towards: in the placement of the mid-line, y upwards.
    """

    side: str
    at: tuple[float, float]
    towards: tuple[float, float]
    arm_mm: float
    pull_n: float


@dataclass(frozen=True, slots=True)
class WrapPosition:
    """A piece so far round its form. share: of its bend, 0 to 1; mid: its mid-line, straight where it is not round yet.

    outer, inner: strain of its two faces at the tightest place that is round; below 0 pressed together. turned_deg:
    between its ends.
    """

    share: float
    mid: Curve
    turned_deg: float
    outer: float
    inner: float
    pulls: tuple[EndPull, EndPull]


def face_strains(curvature: float, thickness_mm: float, *, has_stops: bool) -> tuple[float, float]:
    """Strain of the convex and the concave face of a strip bent to a curvature.

    Between tight stops the convex face keeps its length: 0 and −κT/(1 + κT/2); free, the middle does: ±κT/2.
    Valid: curvature 0 or more, thickness above 0. Raises: PlanError. Source: geometry; docs/model.md#strap.
    Grade: physics.

    >>> [round(v, 4) for v in face_strains(1 / 310, 20.0, has_stops=True)]
    [0.0, -0.0625]
    """
    check_range("shape", curvature, 0, ENDLESS, "1/mm")
    check_range("part.thickness_mm", thickness_mm, 0, ENDLESS, "mm", above=True)
    bent = curvature * thickness_mm
    return (0.0, -bent / (1 + bent / 2)) if has_stops else (bent / 2, -bent / 2)


def wrapping(
    blank: Curve, *, thickness_mm: float, moment_nmm: float, lever_mm: float, has_stops: bool
) -> tuple[WrapPosition, ...]:
    """A blank pulled round from the middle of its bend outwards, in nine steps from straight to closed.

    Each hand stays where it holds the piece or its lever: `lever_mm` from where the last of the bend lies, so that the
    arm is longest at the start; the pull is moment over arm, square to the leg. Valid: lever above 0, moment 0 or more.
    Raises: PlanError. Source: statics; docs/model.md#strap. Grade: physics on the moment's grade.
    """
    check_range("heat.lever_mm", lever_mm, 0, ENDLESS, "mm", above=True)
    check_range("heat.lever_mm", moment_nmm, 0, ENDLESS, "N mm")
    whole = blank.cut_finer(CELLS)
    turn = whole.turns_rad
    bent = np.flatnonzero(turn > 1e-9)
    stations = whole.stations_mm
    middle = blank.length_mm / 2
    start, end = (float(stations[bent[0]]), float(stations[bent[-1] + 1])) if bent.size else (middle, middle)
    if bent.size:
        middle = float(np.interp(turn.sum() / 2, np.concatenate(([0.0], np.cumsum(turn))), stations))
    hands = (start - lever_mm, end + lever_mm)
    sense = 1.0 if float((whole.lengths_mm * whole.curvature).sum()) >= 0 else -1.0
    made = []
    for share in np.linspace(0.0, 1.0, STEPS):
        low, high = middle + share * (start - middle), middle + share * (end - middle)
        made.append(
            _wrapped(whole, float(share), (low, high), hands, sense, thickness_mm, moment_nmm, has_stops=has_stops)
        )
    return tuple(made)


def _wrapped(
    whole: Curve,
    share: float,
    round_: tuple[float, float],
    hands: tuple[float, float],
    sense: float,
    thickness_mm: float,
    moment_nmm: float,
    *,
    has_stops: bool,
) -> WrapPosition:
    """One step: round between two stations, straight beyond them."""
    low, high = round_
    at = whole.stations_mm
    inside = np.clip((np.minimum(at[1:], high) - np.maximum(at[:-1], low)) / whole.lengths_mm, 0.0, 1.0)
    mid = whole.with_curvature(whole.curvature * inside)
    tight = float(np.abs(whole.curvature[inside > 0]).max()) if (inside > 0).any() and share > 0 else 0.0
    outer, inner = face_strains(tight, thickness_mm, has_stops=has_stops)
    pulls = tuple(
        _pull(mid, side, hand, edge, sense, moment_nmm)
        for side, hand, edge in (("left", hands[0], low), ("right", hands[1], high))
    )
    return WrapPosition(share, mid, abs(math.degrees(mid.sweep_rad)), outer, inner, pulls)  # type: ignore[arg-type]


def _pull(mid: Curve, side: str, hand_mm: float, edge_mm: float, sense: float, moment_nmm: float) -> EndPull:
    """The pull at an end: the hand on the straight leg or on the lever that goes on beyond it."""
    points, headings = mid.points_mm, mid.headings_rad
    end = 0 if side == "left" else -1
    along = np.array([math.cos(headings[end]), math.sin(headings[end])])
    beyond = hand_mm - (0.0 if side == "left" else mid.length_mm)
    at: Array = points[end] + along * beyond
    towards = np.array([along[1], -along[0]]) * sense
    arm = abs(edge_mm - hand_mm)
    return EndPull(side, (float(at[0]), float(at[1])), (float(towards[0]), float(towards[1])), arm, moment_nmm / arm)
