"""How long glue needs under pressure at the shop's temperature, and how many days a set of pieces takes on one form."""

from __future__ import annotations

import math

from ..ground.errors import OutOfRange
from .adhesive import Adhesive

WORKING_H = 10.0  # hours of a day in which a piece can be put on or taken off. Grade: allowance.


def press_hours(glue: Adhesive, temperature_c: float) -> float:
    """Hours under pressure: the figure for 20 °C, doubled for each 10 °C below, no shorter above.

    Valid from the glue's least temperature up. Raises: OutOfRange below it. Grade: allowance.
    Source: docs/model.md#pressing.
    """
    if temperature_c < glue.min_temp_c:
        raise OutOfRange(
            "shop.temperature_c", "This glue does not cure below {least}.", temperatures_c={"least": glue.min_temp_c}
        )
    return glue.press_h_20c * 2 ** (max(0.0, 20 - temperature_c) / 10)


def press_days(*, pieces: int, hours: float) -> float:
    """Days on one form: as many pieces a day as a working day of ten hours takes, else one a day, or every so many
    half days.

    >>> press_days(pieces=7, hours=8), press_days(pieces=7, hours=4), press_days(pieces=3, hours=30)
    (7.0, 4.0, 4.5)
    """
    if pieces < 1 or not hours > 0:
        raise OutOfRange("part.count", "At least one piece takes some hours.")
    if hours <= WORKING_H:
        return float(math.ceil(pieces / max(1, math.floor(WORKING_H / hours))))
    return pieces * max(1.0, math.ceil(hours / 12) / 2)
