"""Veneer leaves narrower than the part: how each ply is joined of leaves, what is slit, and the tape on its joints."""

from __future__ import annotations

import math
from collections import Counter
from dataclasses import dataclass

from ..common.errors import ENDLESS, check_range
from .sheet_cutting import SHOT_EDGE_MM, SheetCut

STRAP_EVERY_MM, STRAP_MM = 150.0, 80.0  # short pieces of tape across a joint, and how long each is. Grade: allowance.


@dataclass(frozen=True, slots=True)
class JoinedPly:
    """A ply joined of leaves. number: in the stack, from the inside; widths_mm, joints_mm: from one edge of the blank;
    shows: whether its joints are seen on the finished part."""

    number: int
    name: str
    widths_mm: tuple[float, ...]
    joints_mm: tuple[float, ...]
    shows: bool

    @property
    def slit_mm(self) -> tuple[float, ...]:
        """How wide each leaf is slit: with what shooting takes off its edges at joints."""
        last = len(self.widths_mm) - 1
        return tuple(w + SHOT_EDGE_MM * ((i > 0) + (i < last)) for i, w in enumerate(self.widths_mm))


@dataclass(frozen=True, slots=True)
class VeneerPlan:
    """The joined plies of a lay-up, and what they take for the whole job. slit: how many leaves of each width.

    Source: geometry. Grade: physics; the tape an allowance.
    """

    plies: tuple[JoinedPly, ...]
    length_mm: float
    wide_mm: float
    pieces: int
    slit: tuple[tuple[float, int], ...]
    joints: int
    tape_m: float


def straps(length_mm: float) -> int:
    """Return how many short pieces of tape go across a joint: at both ends, and at least every 150 mm between.

    Valid: above 0. Raises: PlanError. Source: docs/model.md#veneer-leaves. Grade: allowance.

    >>> straps(900.0), straps(901.0)
    (7, 8)
    """
    check_range("prepare.leaf_mm", length_mm, 0, ENDLESS, "mm", above=True)
    return math.ceil(length_mm / STRAP_EVERY_MM - 1e-9) + 1


def tape_mm(length_mm: float) -> float:
    """Tape on one joint: along all of it, and the short pieces across it.

    Valid: above 0. Raises: PlanError. Source: docs/model.md#veneer-leaves. Grade: allowance.

    >>> tape_mm(900.0)
    1460.0
    """
    return length_mm + STRAP_MM * straps(length_mm)


def veneer_plan(
    cuts: tuple[SheetCut, ...], numbers: tuple[tuple[int, ...], ...], *, pieces: int, shows: int | None
) -> VeneerPlan | None:
    """Return how the plies of some kinds of leaf are joined; None where every leaf is as wide as the part.

    numbers: for each kind, which ply of the stack each of its layers is. shows: the ply whose face is seen.
    Valid: 1 piece or more. Raises: PlanError. Source: geometry.
    """
    check_range("part.count", pieces, 1, ENDLESS)
    plies = sorted(
        (
            JoinedPly(number, cut.sheet.name, cut.leaf_widths_mm(layer), cut.joints_across_mm[layer], number == shows)
            for cut, of in zip(cuts, numbers, strict=True)
            for layer, number in enumerate(of)
            if cut.joints_across_mm[layer]
        ),
        key=lambda ply: ply.number,
    )
    if not plies:
        return None
    long, wide = max(c.blank_length_mm for c in cuts), max(c.blank_width_mm for c in cuts)
    slit = Counter(round(w, 1) for ply in plies for w in ply.slit_mm)
    joints = pieces * sum(len(ply.joints_mm) for ply in plies)
    return VeneerPlan(
        tuple(plies),
        long,
        wide,
        pieces,
        tuple(sorted(((w, pieces * n) for w, n in slit.items()), reverse=True)),
        joints,
        joints * tape_mm(long) / 1000,
    )
