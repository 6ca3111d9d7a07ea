"""How long glue needs under pressure at the shop's temperature."""

from __future__ import annotations

from ..common.errors import PlanError, check_range
from .adhesive import Adhesive


def press_hours(glue: Adhesive, temperature_c: float) -> float:
    """Hours under pressure: the figure for 20 °C, doubled for each 10 °C below, no shorter above.

    Valid from the glue's least temperature to 60 °C. Raises: PlanError. Grade: allowance.
    Source: docs/model.md#pressing.

    >>> from .adhesive import adhesive
    >>> press_hours(adhesive("pva"), 10.0)
    20.0
    """
    if temperature_c < glue.min_temp_c:
        raise PlanError(
            "shop.temperature_c", "This glue does not cure below {least}.", temperatures_c={"least": glue.min_temp_c}
        )
    check_range("shop.temperature_c", temperature_c, glue.min_temp_c, 60, "°C")
    return glue.press_h_20c * 2 ** (max(0.0, 20 - temperature_c) / 10)
