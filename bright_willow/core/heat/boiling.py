"""The boiling point of water where the shop stands."""

from __future__ import annotations

import math

from ..common.atmosphere import atmosphere_mpa

MMHG_PA = 101_325 / 760


def boiling_point_c(altitude_m: float) -> float:
    """Temperature at which open water boils: Antoine, log10 p = 8.07131 − 1730.63 / (233.426 + T), p in mmHg.

    Valid: −500 to 5000 m (about 83 to 102 °C; the constants hold from 1 to 100 °C). Raises: PlanError.
    Source: Antoine equation for water on the standard atmosphere; docs/model.md#steam. Grade: physics.

    >>> round(boiling_point_c(0), 1), round(boiling_point_c(1500), 1)
    (100.0, 95.0)
    """
    pressure = atmosphere_mpa(altitude_m) * 1e6 / MMHG_PA
    return 1730.63 / (8.07131 - math.log10(pressure)) - 233.426
