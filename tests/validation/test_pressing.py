"""Open ends under pressure against the cantilever integrated step by step; the atmosphere against its tables."""

import numpy as np
import pytest

from bright_willow.core.ground.errors import OutOfRange
from bright_willow.core.shop.pressing import atmosphere_mpa, band_mpa, open_end_gap_mm, open_end_mm, vacuum_mpa


def test_open_end_against_integrating_the_cantilever():
    """A strip of stiffness EI that wants to be straight over a form of radius R, pressed by p on its free end."""
    stiffness, radius, pressure, width = 4.0e7, 900.0, 0.07, 45.0
    length = open_end_mm(moment_nmm=stiffness / radius, pressure_mpa=pressure, width_mm=width)
    s = np.linspace(0, length, 20_001)
    moment = pressure * width * (length - s) ** 2 / 2
    assert moment[0] == pytest.approx(stiffness / radius)  # just enough, at the last place that touches
    lift = 1 / radius - moment / stiffness  # curvature of form less that of strip
    slope = np.concatenate(([0.0], np.cumsum((lift[1:] + lift[:-1]) / 2 * np.diff(s))))
    gap = np.concatenate(([0.0], np.cumsum((slope[1:] + slope[:-1]) / 2 * np.diff(s))))
    assert gap[-1] == pytest.approx(open_end_gap_mm(open_end_mm=length, radius_mm=radius), rel=1e-6)


@pytest.mark.parametrize(("altitude", "kpa"), [(0, 101.325), (1000, 89.87), (2000, 79.50), (3000, 70.11)])
def test_atmosphere_against_tables(altitude, kpa):
    assert atmosphere_mpa(altitude) * 1000 == pytest.approx(kpa, abs=0.05)


def test_a_gauge_cannot_show_more_than_there_is():
    assert vacuum_mpa(gauge_kpa=80, altitude_m=1500) == 0.08
    with pytest.raises(OutOfRange, match="85 kPa"):
        vacuum_mpa(gauge_kpa=95, altitude_m=1500)
    for bad in (
        lambda: atmosphere_mpa(9_000),
        lambda: band_mpa(tension_kn=0, radius_mm=1, width_mm=1),
        lambda: open_end_mm(moment_nmm=1, pressure_mpa=0, width_mm=5),
        lambda: open_end_gap_mm(open_end_mm=1, radius_mm=0),
    ):
        with pytest.raises(OutOfRange):
            bad()
