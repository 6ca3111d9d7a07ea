"""How a blank is cut from a sheet that bends one way only, and where its layers must be joined."""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass
from typing import Literal

from ..common.errors import ENDLESS, check_range
from ..wood.sheets import VENEER_LEAF, Sheet

SHOT_EDGE_MM = 2.0  # that shooting takes off an edge of a leaf at a joint. Grade: allowance.


@dataclass(frozen=True, slots=True)
class SheetCut:
    """The layers of one kind of sheet: how the sheet must bend, how blanks lie on it, and their joints.

    bends_along: the side of the sheet the part must run along, as bought; "either" where both serve.
    joints_mm: for each layer of this sheet in turn, places along the blank where two lengths meet.
    leaves: strips next to one another across the part, for veneer narrower than it; plain_layer: the one whose leaves
    are all as wide, the others lie half a leaf further over by turns.
    """

    sheet: Sheet
    layers: int
    bends_along: Literal["long", "short", "either"]
    per_sheet: int
    sheets: int
    leaves: int
    blank_length_mm: float
    blank_width_mm: float
    joints_mm: tuple[tuple[float, ...], ...]
    plain_layer: int = 0

    @property
    def joints_across_mm(self) -> tuple[tuple[float, ...], ...]:
        """Of each layer, where leaves meet edge to edge, from one edge: half a leaf further over in every second one,
        so that no joint lies over the next."""
        each = self.blank_width_mm / self.leaves
        plain = tuple(each * i for i in range(1, self.leaves))
        between = tuple(each * (i + 0.5) for i in range(self.leaves)) if self.leaves > 1 else ()
        return tuple(between if (layer - self.plain_layer) % 2 else plain for layer in range(self.layers))

    def leaf_widths_mm(self, layer: int) -> tuple[float, ...]:
        """How wide the leaves of a layer are between their joints, from one edge; its sum is the blank's width."""
        edges = (0.0, *self.joints_across_mm[layer], self.blank_width_mm)
        return tuple(b - a for a, b in itertools.pairwise(edges))

    @property
    def run_mm(self) -> float:
        """The side of the sheet that lies along the part."""
        return self.sheet.sheet_short_mm if self.bends_along == "short" else self.sheet.sheet_long_mm

    @property
    def cross_mm(self) -> float:
        """The side of the sheet across the bend, mm."""
        return self.sheet.sheet_long_mm if self.bends_along == "short" else self.sheet.sheet_short_mm


def sheet_cut(
    sheet: Sheet, *, layers: int, pieces: int, length_mm: float, width_mm: float, kerf_mm: float, cauls: int = 0
) -> SheetCut:
    """How so many layers for so many pieces come out of a sheet.

    A blank no longer than the short side can be cut from sheets that bend either way; a longer one needs sheets that
    bend along their long side; one longer than that is made of lengths joined end to end, no joint of a layer over the
    joint of the next. cauls: blanks more, for all pieces. Valid: all above 0. Raises: PlanError. Source: geometry.

    >>> from ..wood.sheets import sheet_table
    >>> sheet = sheet_table()["flex_ply_5"]
    >>> made = sheet_cut(sheet, layers=4, pieces=2, length_mm=1000, width_mm=300, kerf_mm=3)
    >>> sheet.sheet_long_mm, sheet.sheet_short_mm, made.per_sheet, made.sheets
    (2440.0, 1220.0, 8, 1)
    """
    message = "A ply needs a length and a width above zero."
    for count in (layers, pieces):
        check_range("part.count", count, 1, ENDLESS, message=message)
    for value in (length_mm, width_mm):
        check_range("part.width_mm", value, 0, ENDLESS, "mm", above=True, message=message)
    check_range("shop.kerf_mm", kerf_mm, 0, ENDLESS, "mm")
    long, short = sheet.sheet_long_mm, sheet.sheet_short_mm
    along: Literal["long", "short", "either"] = "either" if length_mm <= short else "long"
    run, cross = long, short
    leaves = max(1, math.ceil(width_mm / cross - 1e-9))
    if sheet.key == VENEER_LEAF and leaves > 1:  # both edges of a leaf are shot where it meets others
        check_range("prepare.leaf_mm", cross, 2 * SHOT_EDGE_MM, ENDLESS, "mm", above=True)
        leaves = math.ceil(width_mm / (cross - 2 * SHOT_EDGE_MM) - 1e-9)
    across = max(1, math.floor((cross + kerf_mm) / (width_mm + kerf_mm) + 1e-9))
    lengths = max(1, math.ceil(length_mm / run - 1e-9))
    if lengths == 1:
        ends = math.floor((run + kerf_mm) / (length_mm + kerf_mm) + 1e-9)
        per_sheet = across * max(1, ends)
        needed = math.ceil((layers * pieces + cauls) * leaves / per_sheet)
    else:
        per_sheet = 0
        needed = math.ceil((layers * pieces + cauls) * leaves * lengths / across)
    return SheetCut(
        sheet,
        layers,
        along,
        per_sheet,
        needed,
        leaves,
        length_mm,
        width_mm,
        tuple(_joints(layer, lengths, length_mm, run) for layer in range(layers)),
    )


def _joints(layer: int, lengths: int, length_mm: float, run_mm: float) -> tuple[float, ...]:
    """Joints of a layer: its first length cut shorter from layer to layer, so that none lies over the next."""
    if lengths == 1:
        return ()
    spare = lengths * run_mm - length_mm
    first = run_mm - (layer % 3) / 3 * min(run_mm * 0.75, max(spare, run_mm / 2))
    found = []
    at = first
    while at < length_mm - 1e-6:
        found.append(at)
        at += run_mm
    return tuple(found)
