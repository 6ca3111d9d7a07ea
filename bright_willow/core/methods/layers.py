"""Layers of a lay-up as their materials are: stiffness, what they stand, and how they yield."""

from __future__ import annotations

import math
from functools import lru_cache

from ..job.job import Layer
from ..shop.shop import Shop
from ..springback.layup import Layup
from ..wood.sheets import is_sheet, sheet_table
from ..wood.species import species

ACROSS_STIFF = 0.07  # of the stiffness along the grain, for wood laid across. Grade: allowance, from elastic ratios.
ACROSS_STRAIN = 0.005  # that wood across the grain, or a sheet the way it does not roll, stands. Grade: allowance.
VENEER_MM = 1.0  # thinner wood is bought as veneer


def is_bought(layer: Layer) -> bool:
    """Whether a layer is bought at its thickness: a sheet, or veneer."""
    return is_sheet(layer.material) or layer.thickness_mm < VENEER_MM


def layer_of(layer: Layer, slope: float, shop: Shop) -> tuple[float, float, float, float, float, float, str]:
    """Thickness, modulus, starting curvature, strain it stands, yield strain, share of its moment left, and name of a
    layer."""
    start = 1 / layer.bent_radius_mm if layer.bent_radius_mm else 0.0
    sheet, across = sheet_table(shop.sheets).get(layer.material), layer.grain == "across"
    if sheet is not None:
        modulus = sheet.e_across_gpa if across else sheet.e_along_bend_gpa
        stands = ACROSS_STRAIN if across else sheet.least_bend_strain
        yields = math.inf if across or sheet.yield_strain is None else sheet.yield_strain
        left = sheet.share_left if math.isfinite(yields) else 1.0
        return layer.thickness_mm, modulus * 1000, start, stands, yields, left, sheet.name
    wood = species(layer.material, shop.woods)
    if across:
        own = (wood.moe_mpa * ACROSS_STIFF, start, ACROSS_STRAIN, math.inf, 1.0)
        return layer.thickness_mm, *own, f"{wood.name}, across"
    return layer.thickness_mm, wood.moe_mpa, start, wood.breaking_strain * slope, math.inf, 1.0, wood.name


@lru_cache(maxsize=64)
def stepped(rows: tuple[tuple[int, float, float], ...], modulus_mpa: float, axes: int) -> Layup:
    """Lay-ups of a part, all rows at once (axes 1) or the only one (axes 0); their stiffness is worked out once,
    whatever is done to the curve."""
    made = Layup.stepped(rows, modulus_mpa=modulus_mpa)
    return made if axes else Layup(made.thickness_mm[0], made.modulus_mpa[0], made.start_curvature[0])
