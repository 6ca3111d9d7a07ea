"""Bent in the bag: the ends pulled towards each other like a bow by its string, while the steam goes on.

A strip whose ends are drawn together is no arc: it bends most in the middle and not at all at its ends (the elastica).
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from ..common.arrays import Array
from ..common.errors import ENDLESS, PlanError, check_range
from ..shape.curve import Curve

POINTS = 181
STEPS = (0.125, 0.25, 0.5, 0.75, 1.0)  # of the whole sag, at which the pull is told
SHALLOWEST, DEEPEST = 0.05, 0.99999  # of the modulus, which is the sine of half the slope at the ends
NOTABLE_MM = 2.0  # that it may lie off the curve wanted before a bracket is worth its while. Grade: allowance.
EASY_PULL_N = 400.0  # one person's steady pull on a lever or a ratchet line. Grade: allowance.


@dataclass(frozen=True, slots=True)
class Bracket:
    """Where the bow must be brought to the curve wanted: mm from its start, and by how much; inwards below 0."""

    at_mm: float
    by_mm: float


@dataclass(frozen=True, eq=False)
class Bowstring:
    """A bow drawn to the chord that is wanted. chord_mm, sag_mm: of it; wanted_sag_mm: of the curve wanted.

    points, wanted: (n, 2), laid chord on chord, mm. pulls: sag and the string's pull at it, N, over the strut.
    strut_mm: its height under the string at first, below which one person cannot pull it. brackets: where it must be
    brought home.
    """

    chord_mm: float
    sag_mm: float
    wanted_sag_mm: float
    points: Array
    wanted: Array
    pulls: tuple[tuple[float, float], ...]
    strut_mm: float
    brackets: tuple[Bracket, ...]


def bow_points(*, length_mm: float, chord_mm: float) -> Array:
    """(181, 2) a bow of a length drawn to a chord, its ends on the line y = 0, bulging upwards, even along it.

    chord/L = 2E/K − 1 gives the modulus m = sin(half the slope at the ends); then sin(θ/2) = m sn, θ from the middle.
    Valid: a chord above −0.3 and below 1 of the length. Raises: PlanError. Source: Euler's elastica. Grade: physics.

    >>> bow = bow_points(length_mm=1000.0, chord_mm=900.0)
    >>> round(float(np.hypot(*(bow[-1] - bow[0])))), round(float(bow[:, 1].max()))
    (900, 195)
    """
    from scipy.optimize import brentq
    from scipy.special import ellipe, ellipj, ellipk

    check_range("shape", length_mm, 0, ENDLESS, "mm", above=True)
    share = chord_mm / length_mm
    check_range("shape", share, -0.3, 1 - 1e-6, message="The string must be shorter than the bow.")

    def off(m: float) -> float:
        return float(2 * ellipe(m * m) / ellipk(m * m) - 1 - share)

    shallow = off(SHALLOWEST) < 0  # hardly bent: the first term of the series is exact enough
    m = 2 * math.sqrt(max(0.0, (1 - share) / 4)) if shallow else float(brentq(off, SHALLOWEST, DEEPEST))
    k = float(ellipk(m * m))
    s = np.linspace(-k, k, POINTS)
    sn = ellipj(s, m * m)[0]
    slope = 2 * np.arcsin(np.clip(m * sn, -1, 1))
    step = length_mm / (POINTS - 1)
    middle = (slope[1:] + slope[:-1]) / 2
    x = np.concatenate(([0.0], np.cumsum(np.cos(middle)))) * step
    y = np.concatenate(([0.0], np.cumsum(np.sin(-middle)))) * step
    return np.stack((x - x.mean(), y - y[0]), axis=1)


def bowstring(blank: Curve, *, thickness_mm: float, moment_nmm: float) -> Bowstring | None:
    """The bow whose ends come to the chord of a curve, against that curve; none where the curve is no single bow.

    moment_nmm: that bends the hot piece; the string's pull is M over the sag, or over the strut while that is higher.
    Valid: thickness and moment above 0. Raises: PlanError. Source: statics, Euler's elastica. Grade: allowance on
    physics.
    """
    check_range("part.thickness_mm", thickness_mm, 0, ENDLESS, "mm", above=True)
    check_range("heat.lever_mm", moment_nmm, 0, ENDLESS, above=True)
    sweep = float((blank.lengths_mm * blank.curvature).sum())
    one_way = (blank.curvature * math.copysign(1.0, sweep) >= -1e-9).all()
    stations = np.linspace(0, blank.length_mm, POINTS)
    wanted, _ = blank.at(stations)
    across = wanted[-1] - wanted[0]
    chord = float(np.hypot(*across))
    if not one_way or abs(sweep) > math.radians(300) or not 0.02 < chord / blank.length_mm < 0.999:
        return None
    along = across / chord
    laid = np.stack(((wanted - wanted[0]) @ along, (wanted - wanted[0]) @ np.array([-along[1], along[0]])), axis=1)
    laid[:, 1] *= math.copysign(1.0, float(laid[POINTS // 2, 1]))
    laid[:, 0] -= chord / 2
    try:
        bow = bow_points(length_mm=blank.length_mm, chord_mm=chord)
    except (PlanError, ValueError):
        return None
    sag, own = float(bow[:, 1].max()), float(laid[:, 1].max())
    strut = min(moment_nmm / EASY_PULL_N, sag)
    pulls = tuple((share * sag, moment_nmm / max(strut, share * sag)) for share in STEPS)
    return Bowstring(chord, sag, own, bow, laid, pulls, strut, _brackets(bow, laid, stations))


def _brackets(bow: Array, wanted: Array, stations: Array) -> tuple[Bracket, ...]:
    """Where the bow lies furthest off what is wanted, on either side; the distance across what is wanted."""
    ahead = np.gradient(wanted, axis=0)
    normal = np.stack((-ahead[:, 1], ahead[:, 0]), axis=1) / np.hypot(*ahead.T)[:, None]
    off = ((bow - wanted) * normal).sum(axis=1)
    turns = np.flatnonzero(np.diff(np.sign(off[1:-1])) != 0) + 1
    edges = [0, *turns.tolist(), len(off) - 1]
    found = []
    for a, b in pairwise(edges):
        at = a + int(np.abs(off[a : b + 1]).argmax())
        if abs(off[at]) > NOTABLE_MM:
            found.append(Bracket(float(stations[at]), -float(off[at])))
    return tuple(found)
