"""Pulling a hot piece round its form, step by step: how far it is round, the strain in its faces, the pull it takes."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

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
    between its ends. sense: +1 where its convex face lies to the left of travel, −1 to the right. turned_rad, shift_mm:
    how `mid` is laid so that an end that is held stays where it is on the form.
    """

    share: float
    mid: Curve
    turned_deg: float
    outer: float
    inner: float
    pulls: tuple[EndPull, ...]
    sense: float
    turned_rad: float = 0.0
    shift_mm: tuple[float, float] = (0.0, 0.0)

    def laid(self, points: Array) -> Array:
        """(n, 2) points of the placement of `mid` where they lie on the form."""
        return np.asarray(points @ _turning(self.turned_rad).T + np.array(self.shift_mm))


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
    blank: Curve,
    *,
    thickness_mm: float,
    moment_nmm: float,
    lever_mm: float,
    has_stops: bool,
    from_end: Literal["left", "right"] | None = None,
) -> tuple[WrapPosition, ...]:
    """A blank pulled round from the middle of its bend outwards, or from the end that is held, in nine steps from
    straight to closed. An end that is held is not pulled.

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
    middle = {"left": start, "right": end, None: middle}[from_end]
    hands = (start - lever_mm, end + lever_mm)
    sense = 1.0 if float((whole.lengths_mm * whole.curvature).sum()) >= 0 else -1.0
    made = []
    for share in np.linspace(0.0, 1.0, STEPS):
        low, high = middle + share * (start - middle), middle + share * (end - middle)
        made.append(
            _wrapped(
                whole,
                float(share),
                (low, high),
                hands,
                sense,
                thickness_mm,
                moment_nmm,
                has_stops=has_stops,
                from_end=from_end,
            )
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
    from_end: str | None,
) -> WrapPosition:
    """One step: round between two stations, straight beyond them."""
    low, high = round_
    at = whole.stations_mm
    inside = np.clip((np.minimum(at[1:], high) - np.maximum(at[:-1], low)) / whole.lengths_mm, 0.0, 1.0)
    mid = whole.with_curvature(whole.curvature * inside)
    tight = float(np.abs(whole.curvature[inside > 0]).max()) if (inside > 0).any() and share > 0 else 0.0
    outer, inner = face_strains(tight, thickness_mm, has_stops=has_stops)
    turned, shift = _kept_in_place(whole, mid, from_end)
    pulls = tuple(
        _pull(mid, side, hand, edge, sense, moment_nmm, turned, shift)
        for side, hand, edge in (("left", hands[0], low), ("right", hands[1], high))
        if side != from_end
    )
    far, at_end = abs(math.degrees(mid.sweep_rad)), (float(shift[0]), float(shift[1]))
    return WrapPosition(share, mid, far, outer, inner, pulls, sense, turned, at_end)


def _turning(angle_rad: float) -> Array:
    """(2, 2) rotation by an angle, anticlockwise."""
    cos, sin = math.cos(angle_rad), math.sin(angle_rad)
    return np.array([[cos, -sin], [sin, cos]])


def _kept_in_place(whole: Curve, mid: Curve, from_end: str | None) -> tuple[float, Array]:
    """The turn and the shift that lay a held end where it is when the whole is bent; none where no end is held."""
    if from_end is None:
        return 0.0, np.zeros(2)
    end = 0 if from_end == "left" else -1
    turned = float(whole.headings_rad[end] - mid.headings_rad[end])
    return turned, np.asarray(whole.points_mm[end] - _turning(turned) @ mid.points_mm[end])


def _pull(
    mid: Curve,
    side: str,
    hand_mm: float,
    edge_mm: float,
    sense: float,
    moment_nmm: float,
    turned_rad: float,
    shift_mm: Array,
) -> EndPull:
    """The pull at an end: the hand on the straight leg or on the lever that goes on beyond it."""
    points, headings = mid.points_mm, mid.headings_rad
    end = 0 if side == "left" else -1
    along = np.array([math.cos(headings[end]), math.sin(headings[end])])
    beyond = hand_mm - (0.0 if side == "left" else mid.length_mm)
    turning = _turning(turned_rad)
    at: Array = turning @ (points[end] + along * beyond) + shift_mm
    towards = turning @ np.array([along[1], -along[0]]) * sense
    arm = abs(edge_mm - hand_mm)
    return EndPull(side, (float(at[0]), float(at[1])), (float(towards[0]), float(towards[1])), arm, moment_nmm / arm)
