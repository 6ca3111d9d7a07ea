"""Holes of a form's parts: through-bolts of a stack, and holes that clamps seat in."""

from __future__ import annotations

import math

import numpy as np

from ..common.arrays import Array
from ..shop.clamps import clamp_table
from ..shop.shop import Shop
from .parts import (
    BETWEEN_HOLES_MM,
    BOLT_SPACING_MM,
    CLAMP_PLAY_MM,
    CLAMP_SEAT_MM,
    HOLE_MM,
    Edge,
    Hole,
    apart_mm,
    dense,
    holes_inside,
)
from .site import Site, layers_of


def holes_of(
    site: Site, edge: Edge, outline: Edge, hollow: Edge | None, pitch_mm: float, *, is_near: bool
) -> tuple[Hole, ...]:
    """Through-bolts of a stack, and clamp holes where the back of the form gives clamps no parallel edge to seat on."""
    choice = site.choice
    line = dense(edge)
    inwards = _inwards(line) * (-1.0 if is_near else 1.0) * site.sense
    steps = np.hypot(*(line[1:] - line[:-1]).T)
    along = np.concatenate(([0.0], np.cumsum(steps)))
    made: list[Hole] = []
    if choice.build == "stack" and layers_of(site) > 1:
        count = max(2, math.ceil(along[-1] / BOLT_SPACING_MM))
        for share in (0.5, 0.3, 0.75):  # at half depth, or where a small part has room
            at, turned = _row(line, inwards, along, count, min(choice.depth_mm * share, 90.0))
            made = holes_inside(outline, at, hollow=hollow, diameter_mm=HOLE_MM, what="bolt", turned_rad=turned)
            if len(made) >= 2:
                break
    if is_near and has_clamp_holes(site):
        at, turned = _row(line, inwards, along, max(2, round(along[-1] / pitch_mm)), seat_mm(site))
        wide = clamp_hole_mm(site.shop)
        seats = holes_inside(outline, at, hollow=hollow, diameter_mm=wide, what="clamp", turned_rad=turned)
        made = [b for b in made if all(apart_mm(b, seat) >= BETWEEN_HOLES_MM for seat in seats)] + seats
    return tuple(made)


def has_clamp_holes(site: Site) -> bool:
    """Whether clamps seat in holes of the body: where it was asked for, or where its back gives them no edge."""
    if site.kind != "one_sided" or site.press not in ("clamps", "held") or site.choice.clamp_holes == "none":
        return False
    needed = site.face.back is None and site.press == "clamps"
    return needed or site.choice.clamp_holes == "all_along"


def seat_mm(site: Site) -> float:
    """From the face to the middle of a clamp hole; half the depth of a body whose back runs along its face."""
    return CLAMP_SEAT_MM if site.face.back is None else min(CLAMP_SEAT_MM, site.choice.depth_mm / 2)


def clamp_hole_mm(shop: Shop) -> float:
    """Holes that let through the jaw of the clamps there are most of, with room to turn; else of F-clamps."""
    most = max(shop.clamps, key=lambda c: c.count, default=None)
    jaw = clamp_table()[most.kind if most else "f_clamp"].jaw_mm
    return jaw + CLAMP_PLAY_MM


def _row(line: Array, inwards: Array, along: Array, count: int, depth: float) -> tuple[Array, Array]:
    """(n, 2) places at a depth behind an edge, evenly along it, and (n,) how the face runs at each, radians."""
    places = (np.arange(count) + 0.5) * along[-1] / count
    at = np.stack([np.interp(places, along, line[:, i]) for i in (0, 1)], axis=1)
    off = np.stack([np.interp(places, along, inwards[:, i]) for i in (0, 1)], axis=1)
    return at + off * depth, np.arctan2(-off[:, 1], -off[:, 0]) - math.pi / 2  # turned from the hole to the wood


def _inwards(line: Array) -> Array:
    """Unit normals to the left of travel."""
    way = np.empty_like(line)  # from the point before to the point after
    way[1:-1], way[0], way[-1] = line[2:] - line[:-2], line[1] - line[0], line[-1] - line[-2]
    size = np.maximum(np.hypot(way[:, 0], way[:, 1]), 1e-12)
    return np.stack((-way[:, 1], way[:, 0]), axis=1) / size[:, None]
