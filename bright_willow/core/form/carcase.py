"""What holds ribs or sides together, how long parts are pieced, and how all of them lie on sheets."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np

from ..common.errors import PlanError
from ..shop.shop import Shop
from .hold_downs import HoldDown
from .nesting import Nest, nested
from .parts import (
    Edge,
    FormPart,
    Hole,
    dense,
    length_mm,
    rectangle,
)
from .site import Site
from .skin import PLAIN_SKIN, skin_sheet

JOINT_LAP_MM = 100.0  # by which segments overhang, so that joints of neighbouring layers stand apart
PLATFORM_EDGE_MM = 40.0
MOST_SEGMENTS = 8
CUT_TWICE_MM = 1e-6  # an upright through a corner crosses there twice
SPACERS_APART_MM, SPACER_HIGH_MM = 400.0, 50.0  # at most, along a rib; and how high each stands. Grade: allowance.


def rows_of_spacers(width_mm: float) -> int:
    """Rows of spacers along a rib: one at either end, no more than 400 mm apart."""
    return max(2, math.ceil(width_mm / SPACERS_APART_MM) + 1)


def spacer_places(rib: Edge, hollow: Edge | None = None) -> tuple[tuple[float, float], ...]:
    """Where the rows of spacers stand on a rib, seen along the form: half way between its foot and its face, mm; of a
    drum that is no disc, half way between its face and what is cut out of it, above and below."""
    line, cut = dense(rib), dense(hollow) if hollow else None
    left, right = float(line[:, 0].min()), float(line[:, 0].max())
    inset = min(SPACER_HIGH_MM, (right - left) / 4)
    made = []
    for x in np.linspace(left + inset, right - inset, rows_of_spacers(right - left)):
        heights = _crossings(line, float(x))
        if cut is not None:
            heights = sorted(heights + _crossings(cut, float(x)))
        pairs = [(a, b) for a, b in zip(heights[::2], heights[1::2], strict=False) if b - a > CUT_TWICE_MM]
        made += [(float(x), (low + high) / 2) for low, high in (pairs if hollow else pairs[:1])]
    return tuple(made)


def _crossings(line: np.ndarray, x: float) -> list[float]:
    """Heights at which a closed line crosses an upright, from below."""
    (x0, y0), (x1, y1) = line.T, np.roll(line, -1, axis=0).T
    cut = (x0 > x) != (x1 > x)
    return sorted((y0[cut] + (x - x0[cut]) / (x1[cut] - x0[cut]) * (y1[cut] - y0[cut])).tolist())


def part_of(
    site: Site,
    number: int,
    name: str,
    count: int,
    thickness: float,
    edges: tuple[Edge, ...],
    holes: tuple[Hole, ...],
    start: float,
    end: float,
    note: str,
) -> FormPart:
    """A part with its size and the lengths it is pieced from. Raises: PlanError where those would be too many."""
    width, height = (float(v) for v in np.ptp(dense(edges[0]), axis=0))
    segments, _, _ = _segments(site.shop, width, height)
    if segments > MOST_SEGMENTS:
        raise PlanError(
            "form.sheet_mm",
            f"The {name} is {{width}} × {{height}}: it would take {segments} lengths of your sheets.",
            hint="Set a larger sheet on the Shop page.",
            lengths_mm={"width": width, "height": height},
        )
    return FormPart(number, name, count, thickness, edges, holes, start, end, width, height, segments, note)


def _segments(shop: Shop, width: float, height: float) -> tuple[int, float, float]:
    """How many segments a part is made of, and the size of each: lapped where it does not fit the sheet whole."""
    long, short = shop.sheet_long_mm - 20, shop.sheet_short_mm - 20
    sides = []
    for side, room in zip((max(width, height), min(width, height)), (long, short), strict=True):
        count = 1 if side <= room else math.ceil((side - JOINT_LAP_MM) / max(1.0, room - JOINT_LAP_MM))
        sides.append((count, side if count == 1 else side / count + JOINT_LAP_MM))
    return sides[0][0] * sides[1][0], sides[0][1], sides[1][1]


def carcase(site: Site, numbered: int, ribs: list[FormPart], count: int, spacing: float | None) -> list[FormPart]:
    """What holds ribs or sides: skins, spacers, a platform with edge blocks, a strip that squares them."""
    choice, width = site.choice, site.stack_mm
    made: list[FormPart] = []

    def add(name: str, how_many: int, thick: float, long: float, wide: float, note: str) -> None:
        number = numbered + len(made) + 1
        made.append(part_of(site, number, name, how_many, thick, (rectangle(long, wide),), (), 0.0, 0.0, note))

    for rib in ribs:
        length = length_mm(rib.face_edge)
        if choice.build == "ribs":
            of = "" if choice.skin_of == PLAIN_SKIN else f"{skin_sheet(choice.skin_of, site.shop).name}; "
            add(f"skin of the {rib.name}", 1, choice.skin_mm, length, width, f"{of}bends along its length")
        else:
            slats = math.ceil(length / 40)
            add(f"slats of the {rib.name}", slats, choice.skin_mm, width, 38.0, "side by side over both sides")
        gap = (spacing if spacing is not None else width - choice.sheet_mm) - choice.sheet_mm
        if gap > 1:
            many = len(spacer_places(rib.outline, next(iter(rib.hollows), None))) * (count - 1)
            add(f"spacers of the {rib.name}", many, choice.sheet_mm, gap, SPACER_HIGH_MM, "square to the ribs")
        add(
            f"platform of the {rib.name}",
            1,
            choice.sheet_mm,
            rib.width_mm + 2 * PLATFORM_EDGE_MM,
            width + 2 * PLATFORM_EDGE_MM,
            "blocks outside the outer ones; a straight strip across all of them keeps them square",
        )
    return made


def held_down_parts(site: Site, numbered: int, hold_downs: tuple[HoldDown, ...]) -> list[FormPart]:
    """Cauls and cleat as parts: as wide as the strip, of layers of the sheet, or of one block where the form is one."""
    solid = site.choice.build == "solid"
    width = site.part.width_mm
    thickness = width if solid else site.choice.sheet_mm
    count = 1 if solid else math.ceil(width / thickness - 1e-9)
    notes = {
        "caul": "shaped to the strip's far face; pad it where it could mark the wood",
        "cleat": "bolted down to the base board; a thin wedge holds the strip in its slot",
    }
    return [
        replace(
            part_of(
                site,
                numbered + i,
                own.name,
                count,
                thickness,
                (own.outline, own.edge),
                own.holes,
                own.start_mm,
                own.end_mm,
                notes[own.role],
            ),
            role=own.role,
        )
        for i, own in enumerate(hold_downs, 1)
    ]


def base_board(site: Site, number: int, parts: list[FormPart]) -> FormPart:
    """The board that form and cleat are bolted to: as large as both together, and an edge all round."""
    points = np.vstack([dense(p.outline) for p in parts if p.end_mm > 0])
    long, wide = (float(v) + 2 * PLATFORM_EDGE_MM for v in np.ptp(points, axis=0))
    outline = rectangle(long, wide)
    note = "under form and cleat; bolt both through it"
    made = part_of(site, number, "base board", 1, site.choice.sheet_mm, (outline,), (), 0.0, 0.0, note)
    return replace(made, role="stand")


def nest_of(site: Site, parts: tuple[FormPart, ...]) -> Nest | None:
    """Sheet parts on sheets; a part longer than the sheet as its segments, with a lap to stagger the joints."""
    sizes = []
    for part in parts:
        if site.choice.build == "solid":
            continue
        segments, along, across = _segments(site.shop, part.width_mm, part.height_mm)
        sizes.append((along, across, part.count * segments))
    if not sizes:
        return None
    return nested(tuple(sizes), sheet_long_mm=site.shop.sheet_long_mm, sheet_short_mm=site.shop.sheet_short_mm)
