"""Springback the way it is checked at the bench: each end's tip and angle, the opening between the ends."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..ground.arrays import Array
from ..ground.estimate import Estimate, Grade
from ..shape.curve import Curve, end_offsets_mm

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


def legs(form: Curve, released: Array, grade: Grade) -> tuple[LegOpening, ...]:
    """What each end opens from form to release: its tip, and the turn of its half. released: (3, n), 1/mm.

    Source: geometry on the law of the bend.
    """
    ends = end_offsets_mm(form.lengths_mm, form.curvature)
    after = end_offsets_mm(form.lengths_mm, released)
    apart = np.hypot(*np.moveaxis(after - ends, -1, 0))  # (3, 2)
    left = shares_of_left(form)
    made = []
    for i, (side, share) in enumerate((("left", left), ("right", 1 - left))):
        turned = np.abs(((form.curvature - released) * form.lengths_mm * share).sum(-1))
        tip, angle = (Estimate.around(v, grade) for v in (apart[:, i], np.degrees(turned)))
        made.append(LegOpening(side, tip, angle))
    return tuple(made)


def leg_turns_deg(curve: Curve) -> float:
    """How far the further-turned half bends from the middle, degrees. Source: geometry.

    >>> round(leg_turns_deg(Curve.of([100.0, 314.16, 100.0], [0.0, 0.01, 0.0])))
    90
    """
    left, turn = shares_of_left(curve), np.abs(curve.lengths_mm * curve.curvature)
    return float(np.degrees(max((turn * left).sum(), (turn * (1 - left)).sum())))


def between_ends_mm(mid: Curve, thickness_mm: float) -> float:
    """Distance between the ends along the inner face of a piece bent so. Source: geometry."""
    return mid.parallel(-thickness_mm / 2).chord_and_rise_mm()[0]


def gentle_stretches(change: Array, lost: float, stations_mm: Array) -> tuple[tuple[float, float], ...]:
    """Stretches bent by no more than what is lost on release (1/mm), straights apart: from, to, mm along the piece.

    change: (n,) size of the curvature put in; stations_mm: (n + 1,).
    """
    soft = np.concatenate(([False], (change > STRAIGHT) & (change <= lost), [False]))
    edges = np.flatnonzero(np.diff(soft.astype(int)))
    return tuple((float(stations_mm[a]), float(stations_mm[b])) for a, b in edges.reshape(-1, 2))
