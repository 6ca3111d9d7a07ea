"""Springback the way it is checked at the bench: each end's tip and angle, the opening between the ends."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..common.arrays import Array
from ..common.estimate import Estimate, Grade
from ..shape.curve import Curve, end_offsets_mm

MOSTLY_LOST = 0.6  # of a bend, above which it is hard to foresee. Grade: allowance.
STRAIGHT = 1e-6  # curvature below which a stretch counts as straight, 1/mm


@dataclass(frozen=True, slots=True)
class LegOpening:
    """Springback of one end: out by so much, and out of square by so many degrees."""

    side: str
    tip_mm: Estimate
    angle_deg: Estimate


def shares_of_left(curve: Curve) -> Array:
    """(n,) share of each cell that lies left of the middle of the length."""
    return np.asarray(np.clip((curve.length_mm / 2 - curve.stations_mm[:-1]) / curve.lengths_mm, 0, 1))


@dataclass(frozen=True, slots=True)
class EndOpenings:
    """What the ends do: each end's opening, and the distance between them along the inner face, on the form and off."""

    legs: tuple[LegOpening, ...]
    on_form_mm: float
    released_mm: Estimate


def openings(form: Curve, released: Array, thickness_mm: float, grade: Grade) -> EndOpenings:
    """What each end opens from form to release (its tip, and the turn of its half), and what lies between the ends.

    released: (3, n) at the low, likely and high end of the band, 1/mm. Source: geometry on the law of the bend.
    """
    every = np.concatenate((form.curvature[None, :], released))
    ends = end_offsets_mm(form.lengths_mm, every)  # (4, 2, 2), seen from the middle
    apart = np.hypot(*np.moveaxis(ends[1:] - ends[0], -1, 0))  # (3, 2)
    left = shares_of_left(form)
    turns = np.stack([(every * form.lengths_mm * share).sum(-1) for share in (left, 1 - left)], axis=1)  # (4, 2)
    made = []
    for i, side in enumerate(("left", "right")):
        tip = Estimate.around(apart[:, i], grade)
        made.append(LegOpening(side, tip, Estimate.around(np.degrees(_turned(form, released, left, i)), grade)))
    heading = turns * np.array([1.0, -1.0])  # at either end, level in the middle
    inwards = np.stack((np.sin(heading), -np.cos(heading)), axis=-1) * thickness_mm / 2
    faces = ends + inwards
    between = np.hypot(*np.moveaxis(faces[:, 1] - faces[:, 0], -1, 0))
    return EndOpenings(tuple(made), float(between[0]), Estimate.around(between[1:], grade))


def _turned(form: Curve, released: Array, left: Array, side: int) -> Array:
    """(3,) how far a half opens, radians."""
    share = left if side == 0 else 1 - left
    return np.asarray(np.abs(((form.curvature - released) * form.lengths_mm * share).sum(-1)))


def leg_turns_deg(curve: Curve) -> float:
    """How far the further-turned half bends from the middle, degrees. Source: geometry.

    >>> round(leg_turns_deg(Curve.of([100.0, 314.16, 100.0], [0.0, 0.01, 0.0])))
    90
    """
    left, turn = shares_of_left(curve), curve.turns_rad
    return float(np.degrees(max((turn * left).sum(), (turn * (1 - left)).sum())))


def gentle_stretches(change: Array, lost: Array, stations_mm: Array) -> tuple[tuple[float, float], ...]:
    """Return stretches that spring back by more than 60 % of their bend, straights apart: from, to, mm along the piece.

    change: (n,) the curvature put in on the form; lost: (n,) what of it springs back, 1/mm; stations_mm: (n + 1,).
    """
    bent = np.abs(change)
    soft = np.concatenate(([False], (bent > STRAIGHT) & (np.abs(lost) > MOSTLY_LOST * bent), [False]))
    edges = np.flatnonzero(np.diff(soft.astype(int)))
    return tuple((float(stations_mm[a]), float(stations_mm[b])) for a, b in edges.reshape(-1, 2))
