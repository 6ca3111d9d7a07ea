"""Parts laid out on the sheets a shop buys."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

from ..common.errors import ENDLESS, PlanError, check_range

GAP_MM = 10.0  # between parts, and along the edge of the sheet: a cutter's width and a little


@dataclass(frozen=True, slots=True)
class NestedPart:
    """A part on a sheet: its lower left corner, and whether it was turned by 90°."""

    part: int
    copy: int
    sheet: int
    x_mm: float
    y_mm: float
    width_mm: float
    height_mm: float
    turned: bool


@dataclass(frozen=True, slots=True)
class Nest:
    """Rectangles round the parts, packed: each lies inside its sheet and over no other."""

    sheet_long_mm: float
    sheet_short_mm: float
    sheets: int
    placed: tuple[NestedPart, ...]
    area_m2: float
    used_share: float


@lru_cache(maxsize=32)
def nested(sizes: tuple[tuple[float, float, int], ...], *, sheet_long_mm: float, sheet_short_mm: float) -> Nest:
    """Parts of (width, height, how many), turned where that helps, on as few sheets as the packer finds.

    Valid: sizes above 0. Raises: PlanError, also where a part fits no sheet. Source: maximal rectangles (rectpack).

    >>> nested(((500.0, 400.0, 4),), sheet_long_mm=1220, sheet_short_mm=1220).sheets
    1
    """
    from rectpack import MaxRectsBssf, newPacker

    long, short = sheet_long_mm - GAP_MM, sheet_short_mm - GAP_MM
    for width, height, _ in sizes:
        for value in (width, height):
            check_range("form.sheet_mm", value, 0, ENDLESS, "mm", above=True)
        if max(width, height) + GAP_MM > long or min(width, height) + GAP_MM > short:
            raise PlanError(
                "form.sheet_mm",
                "A part of {width} × {height} fits no sheet of {long} × {short}.",
                hint="Set a larger sheet under Shop, or make the body less deep.",
                lengths_mm={"width": width, "height": height, "long": sheet_long_mm, "short": sheet_short_mm},
            )
    count = sum(n for _, _, n in sizes)
    packer = newPacker(pack_algo=MaxRectsBssf, rotation=True)
    names = [(part, copy) for part, (_, _, n) in enumerate(sizes) for copy in range(n)]
    for rid, (part, _) in enumerate(names):
        width, height, _ = sizes[part]
        packer.add_rect(_up(width), _up(height), rid)
    for _ in range(count):
        packer.add_bin(int(long * 10), int(short * 10))
    packer.pack()
    placed = []
    for sheet, x, y, width, _, rid in packer.rect_list():
        part, copy = names[rid]
        own = sizes[part]
        turned = abs(width - _up(own[0])) > 1
        size = (own[1], own[0]) if turned else (own[0], own[1])
        placed.append(NestedPart(part, copy, sheet, x / 10 + GAP_MM, y / 10 + GAP_MM, *size, turned))
    sheets = max((p.sheet for p in placed), default=-1) + 1
    area = sum(w * h * n for w, h, n in sizes) * 1e-6
    whole = sheets * sheet_long_mm * sheet_short_mm * 1e-6
    ordered = tuple(sorted(placed, key=lambda p: (p.sheet, p.part, p.copy)))
    return Nest(sheet_long_mm, sheet_short_mm, sheets, ordered, area, area / whole if whole else 0.0)


def _up(mm: float) -> int:
    """A size with its gap, in tenths, rounded up: the packer works in whole numbers."""
    return int(-(-(mm + GAP_MM) * 10 // 1))
