"""Two ways to saw strips out of a board, and where each strip lies in its section."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from ..common.errors import ENDLESS, check_range

HOLD_MM = 20.0  # the last of a board is never ripped: too near the blade to hold. Grade: allowance.
EDGE_MM = 1e-9
STAGGERED = 0.6  # of a joined lamina's width, where its joint lies. Grade: allowance.

How = Literal["rip", "resaw", "joined"]


@dataclass(frozen=True, slots=True)
class StripPlace:
    """Where a strip lies in the section of its board: its lower left corner, how wide and high, mm."""

    x_mm: float
    y_mm: float
    wide_mm: float
    high_mm: float


def lengths_in(*, length_mm: float, each_mm: float, kerf_mm: float) -> int:
    """Pieces so long out of a length, a kerf between them. Valid: each above 0, the rest 0 or more. Raises: PlanError.

    >>> lengths_in(length_mm=2400, each_mm=795, kerf_mm=3)
    3
    """
    check_range("prepare.length_mm", each_mm, 0, ENDLESS, "mm", above=True)
    check_range("prepare.length_mm", length_mm, 0, ENDLESS, "mm")
    check_range("shop.kerf_mm", kerf_mm, 0, ENDLESS, "mm")
    return math.floor((length_mm + kerf_mm) / (each_mm + kerf_mm) + EDGE_MM)


@dataclass(frozen=True, slots=True)
class SawLanes:
    """A way to saw a board's section: so many lanes of strips beside each other, each with room for thicknesses and
    the kerfs between them. rip: lanes lie one over the other, as high as a strip is wide; resaw: side by side.

    halves_mm: of a joined lamina, how wide its two strips are; they follow one another in their lane.
    """

    how: How
    lanes: int
    room_mm: float
    wide_mm: float
    kerf_mm: float
    held_mm: float
    halves_mm: tuple[float, float] | None = None

    @property
    def strips_each(self) -> int:
        """Strips that make one lamina."""
        return 2 if self.halves_mm else 1

    def takes_mm(self, thick_mm: float) -> float:
        """Room a lamina takes, the kerf after it included."""
        return self.strips_each * (thick_mm + self.kerf_mm)

    def holds(self, thick_mm: float) -> int:
        """Laminae so thick that the whole section gives: ripped floor((W − 20 + kerf) / (rough + kerf)) a row.

        >>> SawLanes("rip", 1, 150 - HOLD_MM, 46, 3, HOLD_MM).holds(6)
        14
        """
        each = self.takes_mm(thick_mm) - self.kerf_mm
        return self.lanes * lengths_in(length_mm=self.room_mm, each_mm=each, kerf_mm=self.kerf_mm)

    def places(self, lane: int, at_mm: float, thick_mm: float) -> tuple[StripPlace, ...]:
        """Where a lamina lies that is sawn so far along its lane."""
        if self.halves_mm:
            step = thick_mm + self.kerf_mm
            return tuple(StripPlace(at_mm + i * step, 0.0, thick_mm, high) for i, high in enumerate(self.halves_mm))
        across = lane * (self.wide_mm + self.kerf_mm)
        if self.how == "rip":
            return (StripPlace(at_mm, across, thick_mm, self.wide_mm),)
        return (StripPlace(across, at_mm, self.wide_mm, thick_mm),)

    def reach_mm(self, lane: int, at_mm: float, thick_mm: float) -> float:
        """How far across the section that lamina reaches."""
        if self.how == "resaw":
            return lane * (self.wide_mm + self.kerf_mm) + self.wide_mm
        return at_mm + self.takes_mm(thick_mm) - self.kerf_mm

    def alike(self, thick_mm: float) -> Sawing:
        """The section full of strips of one thickness."""
        return Sawing(self, thick_mm, self.holds(thick_mm) // max(1, self.lanes))


@dataclass(frozen=True, slots=True)
class Sawing:
    """A board's section sawn into strips of one thickness. in_a_lane: laminae that each lane gives. rip: off its edge,
    the strip's width being the board's thickness. resaw: off its face, in widths as wide as a strip. joined: ripped at
    half the width, two side by side for one lamina.
    """

    lanes: SawLanes
    thick_mm: float
    in_a_lane: int

    @property
    def how(self) -> How:
        return self.lanes.how

    @property
    def held_mm(self) -> float:
        """Width kept back for the hand."""
        return self.lanes.held_mm

    @property
    def strips(self) -> int:
        """Laminae out of one length of the section."""
        return self.lanes.lanes * self.in_a_lane

    @property
    def places(self) -> tuple[StripPlace, ...]:
        """Of every strip, in the order they are sawn."""
        takes = self.lanes.takes_mm(self.thick_mm)
        return tuple(
            place
            for lane in range(self.lanes.lanes)
            for i in range(self.in_a_lane)
            for place in self.lanes.places(lane, i * takes, self.thick_mm)
        )


def lanes_of(
    *, board_thick_mm: float, board_wide_mm: float, strip_wide_mm: float, kerf_mm: float
) -> tuple[SawLanes, ...]:
    """The ways a board's section can be sawn into strips so wide; `joined` only where neither other reaches.

    Joined laminae are parted at 0.6 of their width where the board is thick enough, so that turning every second one
    over staggers the joints, and in the middle where it is not. Valid: all above 0, a kerf of 0 or more.
    Raises: PlanError. Source: geometry; docs/model.md#preparing.
    """
    for value in (board_thick_mm, board_wide_mm, strip_wide_mm):
        check_range("part.width_mm", value, 0, ENDLESS, "mm", above=True)
    check_range("kerf_mm", kerf_mm, 0, ENDLESS, "mm", message="A strip has a thickness above zero.")
    wide, kerf = strip_wide_mm, kerf_mm
    rows = lengths_in(length_mm=board_thick_mm, each_mm=wide, kerf_mm=kerf)
    columns = lengths_in(length_mm=board_wide_mm, each_mm=wide, kerf_mm=kerf)
    across = board_wide_mm - HOLD_MM
    made = []
    if rows and across > 0:
        made.append(SawLanes("rip", rows, across, wide, kerf, HOLD_MM))
    if columns:
        made.append(SawLanes("resaw", columns, board_thick_mm, wide, kerf, 0.0))
    share = STAGGERED if board_thick_mm >= STAGGERED * wide - EDGE_MM else 0.5
    if not made and board_thick_mm >= share * wide - EDGE_MM and across > 0:
        made.append(SawLanes("joined", 1, across, wide, kerf, HOLD_MM, (share * wide, (1 - share) * wide)))
    return tuple(made)


def sawings(
    *, board_thick_mm: float, board_wide_mm: float, strip_thick_mm: float, strip_wide_mm: float, kerf_mm: float
) -> tuple[Sawing, ...]:
    """The ways a board can be sawn into strips, the one that gives most first; none where it gives none.

    Ripped: rows of strips on edge, 20 mm of the width held back. Resawn off the face: a board too thin to be ripped, or
    wide enough to be ripped into widths first. Joined only where neither reaches and half a width does.
    Valid: all above 0, a kerf of 0 or more. Raises: PlanError. Source: geometry; docs/model.md#preparing.

    >>> [(s.how, s.strips) for s in sawings(board_thick_mm=52, board_wide_mm=150, strip_thick_mm=6, strip_wide_mm=46,
    ...     kerf_mm=3)]
    [('resaw', 18), ('rip', 14)]
    """
    check_range("rough_mm", strip_thick_mm, 0, ENDLESS, "mm", above=True, message="A strip has a thickness above zero.")
    ways = lanes_of(
        board_thick_mm=board_thick_mm, board_wide_mm=board_wide_mm, strip_wide_mm=strip_wide_mm, kerf_mm=kerf_mm
    )
    made = sorted((w.alike(strip_thick_mm) for w in ways), key=lambda s: -s.strips)
    return tuple(s for s in made if s.strips)
