"""The air outside: its pressure where the shop stands."""

from __future__ import annotations

from .errors import check_range

HIGHEST_M = 5_000.0


def atmosphere_mpa(altitude_m: float) -> float:
    """Return the air pressure at an altitude, MPa: 101325 (1 − 2.25577·10⁻⁵ h)^5.25588 Pa.

    Valid: −500 to 5000 m. Raises: PlanError. Source: international standard atmosphere. Grade: physics.

    >>> round(atmosphere_mpa(0), 6), round(atmosphere_mpa(1500), 4)
    (0.101325, 0.0846)
    """
    check_range("shop.altitude_m", altitude_m, -500, HIGHEST_M, message="An altitude from −500 to 5000 m, please.")
    return float(0.101325 * (1 - 2.25577e-5 * altitude_m) ** 5.25588)
