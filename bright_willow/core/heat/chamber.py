"""The chamber: what it is made of, how large it must be, and whether its steam keeps it hot. Always vented."""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..common.errors import ENDLESS, PlanError, check_range

STEAM_KG_PER_KWH = 1.6
CHANGES_PER_KW_L = 44.0  # changes of steam a minute = 44 kW / litres
GAP_MM = 20.0  # round every piece, for racks and steam
NEARLY_LEAST = 7 / 6
HEAD_MM = 60.0  # beyond the ends of the stock
READY_C, NEAR_BOILING_K = 93.0, 2.0  # ready at so much, or so near to what boiling allows here. Grade: allowance.
GOOD_CHANGES, POOR_CHANGES = 4.0, 2.0


@dataclass(frozen=True, slots=True)
class ChamberWall:
    """What a chamber is made of: U in W/m²K, heat it takes up in kJ/m²K, where it softens, °C, how thick it is, mm.

    Grade: allowance.
    """

    key: str
    name: str
    u_w_m2k: float
    stores_kj_m2k: float
    softens_c: float | None
    caution: str = ""
    thick_mm: float = 5.0


BAG = "bag"  # the wall that gives way with the piece inside
WALLS: dict[str, ChamberWall] = {
    w.key: w
    for w in (
        ChamberWall(
            "plywood",
            "3/4 in plywood (18 mm)",
            3.5,
            16.0,
            None,
            "swells and delaminates in time unless exterior grade",
            18.0,
        ),
        ChamberWall("solid", "1 in solid wood (25 mm)", 3.0, 20.0, None, "leave room: it swells", 25.0),
        ChamberWall(
            "insulated",
            "plywood with 2 in of insulation (50 mm)",
            0.6,
            17.0,
            None,
            "insulation rated for boiling water",
            68.0,
        ),
        ChamberWall("steel", "steel pipe, bare", 10.0, 10.0, None, "too hot to touch: insulate it"),
        ChamberWall("steel_lagged", "steel pipe, insulated", 1.2, 12.0, None, "", 40.0),
        ChamberWall(
            "pvc",
            "PVC pipe",
            5.0,
            6.0,
            80.0,
            "softens near 80 °C (176 °F): support it along its length, short runs only",
        ),
        ChamberWall(
            "abs", "ABS pipe", 5.0, 6.0, 100.0, "sags slowly near boiling: support it, and use it for short runs"
        ),
        ChamberWall("pp", "polypropylene pipe", 4.5, 6.0, 110.0, "support it along its length"),
        ChamberWall(
            BAG, "polyethylene bag", 7.0, 0.6, 105.0, "thin sleeve: support the wood, keep flame and element away", 1.0
        ),
    )
}


@dataclass(frozen=True, slots=True)
class Chamber:
    """A chamber at work. Temperatures °C, power kW, water litres. ready_c: what counts as ready at this altitude.

    Grades: allowance on physics.
    """

    inside_mm: tuple[float, float, float]
    proposed_mm: tuple[float, float, float]
    rows: int
    columns: int
    litres: float
    changes_per_min: float
    steam_kg_h: float
    holds_c: float
    warm_up_min: float | None
    water_l: float
    reservoir_h: float
    top_ups: int
    wall: ChamberWall
    ready_c: float

    @property
    def fits(self) -> bool:
        """Whether the stock goes in with its gaps."""
        return all(a >= b - 0.5 for a, b in zip(self.inside_mm, self.proposed_mm, strict=True))


def proposed_size(
    *, thickness_mm: float, width_mm: float, length_mm: float, pieces: int
) -> tuple[int, int, float, float, float]:
    """Rows, columns, and the least inside height, width, length for so many pieces with 20 mm round each.

    Of the arrangements whose section is within a sixth of the least, the one nearest to square. Valid: all above 0.
    Raises: PlanError. Source: geometry.

    >>> proposed_size(thickness_mm=25, width_mm=50, length_mm=1000, pieces=2)
    (2, 1, 110.0, 90.0, 1120.0)
    """
    check_range("heat.pieces", pieces, 1, 1_000, message="At least one piece goes in.")
    for value in (thickness_mm, width_mm, length_mm):
        check_range("heat.pieces", value, 0, ENDLESS, "mm", above=True, message="At least one piece goes in.")
    found = []
    for rows in range(1, pieces + 1):
        columns = math.ceil(pieces / rows)
        high, wide = rows * (thickness_mm + GAP_MM) + GAP_MM, columns * (width_mm + GAP_MM) + GAP_MM
        found.append((high * wide, abs(math.log(high / wide)), rows, columns, high, wide))
    least = min(f[0] for f in found)
    near = [f for f in found if f[0] <= NEARLY_LEAST * least]
    _, _, rows, columns, high, wide = min(near, key=lambda f: f[1])
    return rows, columns, high, wide, length_mm + 2 * HEAD_MM


def chamber(
    *,
    wall: str,
    inside_mm: tuple[float, float, float] | None,
    proposed: tuple[int, int, float, float, float],
    power_kw: float,
    reservoir_l: float,
    air_c: float,
    boiling_c: float,
    stock_kg: float,
    stock_j_kgk: float,
    hours: float,
) -> Chamber:
    """A chamber with its steam: changes a minute, the temperature it can hold, warm-up, water.

    Holds: air + P/(U A), never above boiling. Warm-up: heat of walls and stock over what the losses leave of the power,
    half of them being lost on the way. Water: 1.6 kg/h for each kW. Valid: power above 0. Raises: PlanError.
    Source: docs/model.md#steam. Grade: allowance.

    >>> two = proposed_size(thickness_mm=25, width_mm=50, length_mm=1000, pieces=2)
    >>> made = chamber(wall="plywood", inside_mm=(200, 200, 1250), proposed=two, power_kw=2.5, reservoir_l=5, air_c=20,
    ...     boiling_c=100, stock_kg=2, stock_j_kgk=1800, hours=2)
    >>> round(made.litres), round(made.changes_per_min, 2), made.steam_kg_h, made.top_ups
    (50, 2.2, 4.0, 1)
    """
    if wall not in WALLS:
        raise PlanError("heat.wall", "There is no such wall in the table.")
    message = "Without heat and water there is no steam."
    check_range("heat.power_kw", power_kw, 0, ENDLESS, "kW", above=True, message=message)
    check_range("heat.reservoir_l", reservoir_l, 0, ENDLESS, "l", above=True, message=message)
    for value in (stock_kg, stock_j_kgk, hours):
        check_range("heat.power_kw", value, 0, ENDLESS)
    check_range("shop.temperature_c", air_c, -60, boiling_c, "°C")
    rows, columns, high, wide, long = proposed
    own = inside_mm or (high, wide, long)
    h, w, length = (x / 1000 for x in own)
    area, litres = 2 * (h * w + w * length + length * h), h * w * length * 1000
    made = WALLS[wall]
    loses = made.u_w_m2k * area  # W/K
    holds = min(boiling_c, air_c + power_kw * 1000 / loses)
    stores = made.stores_kj_m2k * 1000 * area + stock_kg * stock_j_kgk
    rise = boiling_c - air_c
    left = power_kw * 1000 - loses * rise / 2
    ready = min(READY_C, boiling_c - NEAR_BOILING_K)
    warm_up = stores * rise / left / 60 if left > 0 and holds >= ready else None
    steam = STEAM_KG_PER_KWH * power_kw
    water = steam * hours
    return Chamber(
        own,
        (high, wide, long),
        rows,
        columns,
        litres,
        CHANGES_PER_KW_L * power_kw / litres,
        steam,
        holds,
        warm_up,
        water,
        reservoir_l / steam,
        max(0, math.ceil(water / (reservoir_l * 0.8) - 1e-9) - 1),
        made,
        ready,
    )
