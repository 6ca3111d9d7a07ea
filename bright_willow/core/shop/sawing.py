"""Two ways to saw strips out of a board, and where each strip lies in its section."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from ..ground.errors import ENDLESS, require

HOLD_MM = 20.0  # the last of a board is never ripped: too near the blade to hold. Grade: allowance.
EDGE_MM = 1e-9

How = Literal["rip", "resaw", "joined"]


@dataclass(frozen=True, slots=True)
class StripPlace:
    """Where a strip lies in the section of its board: its lower left corner, how wide and high, mm."""

    x_mm: float
    y_mm: float
    wide_mm: float
    high_mm: float


@dataclass(frozen=True, slots=True)
class Sawing:
    """How a board is sawn across its section. places: of every strip, in the order they are sawn; held_mm: width kept
    back for the hand. rip: off its edge, the strip's width being the board's thickness. resaw: off its face, in widths
    as wide as a strip. joined: ripped at half the width, two side by side for one lamina.
    """

    how: How
    places: tuple[StripPlace, ...]
    held_mm: float

    @property
    def strips(self) -> int:
        """Whole strips out of one length of the section."""
        return len(self.places) // 2 if self.how == "joined" else len(self.places)


def strips_across(*, width_mm: float, rough_mm: float, kerf_mm: float, hold_mm: float = HOLD_MM) -> int:
    """Strips ripped off a width: floor((W − hold + kerf) / (rough + kerf)). Valid: rough > 0, hold ≥ 20.

    Source: geometry; the hold is a caution. Raises: OutOfRange.

    >>> strips_across(width_mm=150, rough_mm=6, kerf_mm=3)
    14
    """
    require("hold_mm", hold_mm, HOLD_MM, ENDLESS, "mm", says="At least 20 mm of a board is left to hold it by.")
    require("rough_mm", rough_mm, 0, ENDLESS, "mm", above=True, says="A strip has a thickness above zero.")
    require("kerf_mm", kerf_mm, 0, ENDLESS, "mm", says="A strip has a thickness above zero.")
    require("width_mm", width_mm, 0, ENDLESS, "mm")
    return max(0, math.floor((width_mm - hold_mm + kerf_mm) / (rough_mm + kerf_mm) + EDGE_MM))


def lengths_in(*, length_mm: float, each_mm: float, kerf_mm: float) -> int:
    """Pieces so long out of a length, a kerf between them. Valid: each above 0, the rest 0 or more. Raises: OutOfRange.

    >>> lengths_in(length_mm=2400, each_mm=795, kerf_mm=3)
    3
    """
    require("prepare.length_mm", each_mm, 0, ENDLESS, "mm", above=True)
    require("prepare.length_mm", length_mm, 0, ENDLESS, "mm")
    require("shop.kerf_mm", kerf_mm, 0, ENDLESS, "mm")
    return math.floor((length_mm + kerf_mm) / (each_mm + kerf_mm) + EDGE_MM)


def sawings(
    *, board_thick_mm: float, board_wide_mm: float, strip_thick_mm: float, strip_wide_mm: float, kerf_mm: float
) -> tuple[Sawing, ...]:
    """The ways a board can be sawn into strips, the one that gives most first; none where it gives none.

    Ripped: rows of strips on edge, 20 mm of the width held back. Resawn off the face: a board too thin to be ripped, or
    wide enough to be ripped into widths first. Joined only where neither reaches and half a width does.
    Valid: all above 0, a kerf of 0 or more. Raises: OutOfRange. Source: geometry; docs/model.md#preparing.

    >>> [(s.how, s.strips) for s in sawings(board_thick_mm=52, board_wide_mm=150, strip_thick_mm=6, strip_wide_mm=46,
    ...     kerf_mm=3)]
    [('resaw', 18), ('rip', 14)]
    """
    for value in (board_thick_mm, board_wide_mm, strip_wide_mm):
        require("part.width_mm", value, 0, ENDLESS, "mm", above=True)
    thick, wide, kerf = strip_thick_mm, strip_wide_mm, kerf_mm

    def ripped(high: float) -> list[StripPlace]:
        across = strips_across(width_mm=board_wide_mm, rough_mm=thick, kerf_mm=kerf)
        rows = lengths_in(length_mm=board_thick_mm, each_mm=high, kerf_mm=kerf)
        return [
            StripPlace(i * (thick + kerf), row * (high + kerf), thick, high)
            for row in range(rows)
            for i in range(across)
        ]

    off_face = [
        StripPlace(column * (wide + kerf), layer * (thick + kerf), wide, thick)
        for column in range(lengths_in(length_mm=board_wide_mm, each_mm=wide, kerf_mm=kerf))
        for layer in range(lengths_in(length_mm=board_thick_mm, each_mm=thick, kerf_mm=kerf))
    ]
    found = [Sawing("rip", tuple(ripped(wide)), HOLD_MM), Sawing("resaw", tuple(off_face), 0.0)]
    made = sorted((s for s in found if s.strips), key=lambda s: -s.strips)
    if not made:
        halves = Sawing("joined", tuple(ripped((wide + kerf) / 2)), HOLD_MM)
        made = [halves] if halves.strips else []
    return tuple(made)
