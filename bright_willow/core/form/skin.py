"""The skin over the ribs of a form: plain thin plywood, or a sheet that bends, each with its least radius."""

from __future__ import annotations

from ..common.errors import PlanError
from ..job.job import FormChoice
from ..shop.shop import Shop
from ..wood.sheets import Sheet, sheet_table
from .stiffness import GOODS

PLAIN_SKIN = "plain"
PLAIN_TIMES = 60.0  # least radius of plain thin plywood over its thickness, across its face grain. Grade: allowance.


def skin_sheet(key: str, shop: Shop) -> Sheet:
    """Return the sheet a skin is of. Raises: PlanError for one that is in no table."""
    table = sheet_table(shop.sheets)
    if key not in table:
        raise PlanError("form.skin_of", f"No sheet called “{key[:40]}” is in the tables.")
    return table[key]


def least_skin_radius_mm(choice: FormChoice, shop: Shop) -> float:
    """Return the radius a skin follows at least, mm: of plain plywood 60 times its thickness, of a sheet its own.

    Raises: PlanError. Grade: allowance. Source: docs/model.md#construction.
    """
    if choice.skin_of == PLAIN_SKIN:
        return PLAIN_TIMES * choice.skin_mm
    return skin_sheet(choice.skin_of, shop).min_radius_mm


def skin_modulus_gpa(choice: FormChoice, shop: Shop) -> float:
    """Return the stiffness of a skin between two ribs, which it spans across the way it bends. Raises: PlanError."""
    return GOODS[choice.goods][1] if choice.skin_of == PLAIN_SKIN else skin_sheet(choice.skin_of, shop).e_across_gpa
