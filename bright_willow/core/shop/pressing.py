"""What presses the lay-up to the form: vacuum or a band, how hard, and the ends it cannot lay down."""

from __future__ import annotations

from ..ground.errors import OutOfRange

HIGHEST_M = 5_000.0


def atmosphere_mpa(altitude_m: float) -> float:
    """Air pressure at an altitude: 101325 (1 − 2.25577·10⁻⁵ h)^5.25588 Pa. Valid: −500 to 5000 m. Raises: OutOfRange.

    Source: international standard atmosphere. Grade: physics.

    >>> round(atmosphere_mpa(0), 6), round(atmosphere_mpa(1500), 4)
    (0.101325, 0.0846)
    """
    if not -500 <= altitude_m <= HIGHEST_M:
        raise OutOfRange("shop.altitude_m", "An altitude from −500 to 5000 m, please.")
    return float(0.101325 * (1 - 2.25577e-5 * altitude_m) ** 5.25588)


def vacuum_mpa(*, gauge_kpa: float, altitude_m: float) -> float:
    """Pressure of a vacuum bag: the gauge reading, which cannot exceed the air outside.

    Valid: above 0. Raises: OutOfRange with the most there is at this altitude. Grade: physics.
    """
    most = atmosphere_mpa(altitude_m) * 1000
    if not 0 < gauge_kpa <= most:
        raise OutOfRange(
            "build_up.gauge_kpa",
            f"At {altitude_m:.0f} m the air presses with {most:.0f} kPa; a gauge cannot show more.",
        )
    return gauge_kpa / 1000


def band_mpa(*, tension_kn: float, radius_mm: float, width_mm: float) -> float:
    """Pressure of a band of tension F round a curve: p = F / (R b). Valid: all above 0. Raises: OutOfRange.

    Source: equilibrium of a band round a curve. Grade: physics.

    >>> round(band_mpa(tension_kn=2.5, radius_mm=500, width_mm=50), 3)
    0.1
    """
    if not (tension_kn > 0 and radius_mm > 0 and width_mm > 0):
        raise OutOfRange("build_up.band_kn", "A tension above zero, please.")
    return tension_kn * 1000 / (radius_mm * width_mm)


def open_end_mm(*, moment_nmm: float, pressure_mpa: float, width_mm: float) -> float:
    """Length at each free end that uniform pressure cannot lay onto the form: a = √(2M / p b).

    Valid: moment 0 or more, the others above zero. Raises: OutOfRange. Source: cantilever under uniform load.

    >>> open_end_mm(moment_nmm=20_000, pressure_mpa=0.08, width_mm=50)
    100.0
    """
    if not (moment_nmm >= 0 and pressure_mpa > 0 and width_mm > 0):
        raise OutOfRange("build_up.press", "Pressure and width must be above zero.")
    return float((2 * moment_nmm / (pressure_mpa * width_mm)) ** 0.5)


def open_end_gap_mm(*, open_end_mm: float, radius_mm: float) -> float:
    """How far the very tip stands off: a² / 4R. Source: the same cantilever, its deflection integrated twice.

    >>> open_end_gap_mm(open_end_mm=100, radius_mm=1000)
    2.5
    """
    if not radius_mm > 0:
        raise OutOfRange("shape.radius_mm", "A radius above zero, please.")
    return open_end_mm**2 / (4 * radius_mm)
