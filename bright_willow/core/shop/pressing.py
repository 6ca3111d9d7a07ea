"""What presses the lay-up to the form: vacuum or a band, how hard, and the ends it cannot lay down."""

from __future__ import annotations

from ..ground.errors import ENDLESS, require

HIGHEST_M = 5_000.0


def atmosphere_mpa(altitude_m: float) -> float:
    """Air pressure at an altitude: 101325 (1 − 2.25577·10⁻⁵ h)^5.25588 Pa. Valid: −500 to 5000 m. Raises: OutOfRange.

    Source: international standard atmosphere. Grade: physics.

    >>> round(atmosphere_mpa(0), 6), round(atmosphere_mpa(1500), 4)
    (0.101325, 0.0846)
    """
    require("shop.altitude_m", altitude_m, -500, HIGHEST_M, says="An altitude from −500 to 5000 m, please.")
    return float(0.101325 * (1 - 2.25577e-5 * altitude_m) ** 5.25588)


def vacuum_mpa(*, gauge_kpa: float, altitude_m: float) -> float:
    """Pressure of a vacuum bag: the gauge reading, which cannot exceed the air outside.

    Valid: above 0. Raises: OutOfRange with the most there is at this altitude. Source: statics. Grade: physics.

    >>> vacuum_mpa(gauge_kpa=80, altitude_m=0)
    0.08
    """
    most = atmosphere_mpa(altitude_m) * 1000
    says = f"At {altitude_m:.0f} m the air presses with {most:.0f} kPa; a gauge cannot show more."
    require("build_up.gauge_kpa", gauge_kpa, 0, most, above=True, says=says)
    return gauge_kpa / 1000


def band_mpa(*, tension_kn: float, radius_mm: float, width_mm: float) -> float:
    """Pressure of a band of tension F round a curve: p = F / (R b). Valid: all above 0. Raises: OutOfRange.

    Source: equilibrium of a band round a curve. Grade: physics.

    >>> round(band_mpa(tension_kn=2.5, radius_mm=500, width_mm=50), 3)
    0.1
    """
    for value in (tension_kn, radius_mm, width_mm):
        require("build_up.band_kn", value, 0, ENDLESS, above=True, says="A tension above zero, please.")
    return tension_kn * 1000 / (radius_mm * width_mm)


def open_end_mm(*, moment_nmm: float, pressure_mpa: float, width_mm: float) -> float:
    """Length at each free end that uniform pressure cannot lay onto the form: a = √(2M / p b).

    Valid: moment 0 or more, the others above zero. Raises: OutOfRange. Source: cantilever under uniform load.

    >>> open_end_mm(moment_nmm=20_000, pressure_mpa=0.08, width_mm=50)
    100.0
    """
    says = "Pressure and width must be above zero."
    require("build_up.press", moment_nmm, 0, ENDLESS, says=says)
    for value in (pressure_mpa, width_mm):
        require("build_up.press", value, 0, ENDLESS, above=True, says=says)
    return float((2 * moment_nmm / (pressure_mpa * width_mm)) ** 0.5)


def open_end_gap_mm(*, open_end_mm: float, radius_mm: float) -> float:
    """How far the very tip stands off: a² / 4R. Valid: a 0 or more, a radius above 0. Raises: OutOfRange.

    Source: the same cantilever, its deflection integrated twice. Grade: physics.

    >>> open_end_gap_mm(open_end_mm=100, radius_mm=1000)
    2.5
    """
    require("build_up.press", open_end_mm, 0, ENDLESS, "mm")
    require("shape.radius_mm", radius_mm, 0, ENDLESS, "mm", above=True, says="A radius above zero, please.")
    return open_end_mm**2 / (4 * radius_mm)
