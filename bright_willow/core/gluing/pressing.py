"""What presses the lay-up to the form: vacuum or a band, how hard, and the ends it cannot lay down."""

from __future__ import annotations

import math

import numpy as np

from ..common.arrays import Array
from ..common.atmosphere import atmosphere_mpa
from ..common.errors import ENDLESS, check_range

BAG_SEAL_MM = 150.0  # of a bag, each way. Grade: allowance.
LEAK_KPA, LEAK_MIN = 10.0, 10.0  # that a bag may lose with its pump off. Grade: allowance.
BAND_FRICTION = {"wood": 0.3, "film": 0.2}  # of a band on dry wood, on film or wax. Grade: allowance.


def vacuum_mpa(*, gauge_kpa: float, altitude_m: float) -> float:
    """Pressure of a vacuum bag: the gauge reading, cut to what the air outside gives.

    Valid: above 0. Raises: PlanError. Source: statics. Grade: physics.

    >>> vacuum_mpa(gauge_kpa=80, altitude_m=0), round(vacuum_mpa(gauge_kpa=101.6, altitude_m=0), 4)
    (0.08, 0.1013)
    """
    check_range("build_up.gauge_kpa", gauge_kpa, 0, ENDLESS, "kPa", above=True)
    return min(gauge_kpa / 1000, atmosphere_mpa(altitude_m))


def bag_mm(*, long_mm: float, wide_mm: float, high_mm: float) -> tuple[float, float]:
    """The bag a form goes into: each way the form and twice its height, and 150 mm to seal. Valid: all 0 or more.

    Raises: PlanError. Grade: allowance. Source: docs/model.md#pressing.

    >>> bag_mm(long_mm=1000, wide_mm=66, high_mm=200)
    (1550.0, 616.0)
    """
    for value in (long_mm, wide_mm, high_mm):
        check_range("build_up.press", value, 0, ENDLESS, "mm")
    more = 2 * high_mm + BAG_SEAL_MM
    return float(long_mm + more), float(wide_mm + more)


def band_pull_kn(*, tension_kn: float, turned_rad: Array, friction: float) -> Array:
    """(n,) what is left of a band's tension where it has turned so far from where it is pulled: F e^(−μθ).

    Valid: tension above 0, angle and friction 0 or more. Raises: PlanError. Source: a rope round a drum.
    Grade: physics on allowance.

    >>> band_pull_kn(tension_kn=2.0, turned_rad=np.array([0.0, np.pi]), friction=0.3).round(2)
    array([2.  , 0.78])
    """
    check_range("build_up.band_kn", tension_kn, 0, ENDLESS, "kN", above=True, message="A tension above zero, please.")
    check_range("build_up.band_on", friction, 0, 10)
    check_range("shape", float(turned_rad.max(initial=0.0)), 0, ENDLESS)
    check_range("shape", float(turned_rad.min(initial=0.0)), 0, ENDLESS)
    return np.asarray(tension_kn * np.exp(-friction * turned_rad))


def band_mpa(*, tension_kn: float, radius_mm: float, width_mm: float) -> float:
    """Pressure of a band of tension F round a curve: p = F / (R b). Valid: all above 0. Raises: PlanError.

    Source: equilibrium of a band round a curve. Grade: physics.

    >>> round(band_mpa(tension_kn=2.5, radius_mm=500, width_mm=50), 3)
    0.1
    """
    for value in (tension_kn, radius_mm, width_mm):
        check_range("build_up.band_kn", value, 0, ENDLESS, above=True, message="A tension above zero, please.")
    return tension_kn * 1000 / (radius_mm * width_mm)


def clamps_on(
    stretches_mm: tuple[float, ...], *, clamps: int, pressure_mpa: float, width_mm: float, force_kn: float
) -> tuple[int, ...]:
    """Return how many of some clamps go on each stretch that nothing else presses: the longest first, each with as many
    as give it the pressure, at least one; none on a stretch there are not enough left for.

    Valid: stretches 0 or more, the rest above 0, clamps 0 or more. Raises: PlanError. Source: p b L/F.
    Grade: allowance.

    >>> clamps_on((100.0, 400.0), clamps=6, pressure_mpa=0.5, width_mm=50, force_kn=4.0)
    (1, 3)
    """
    check_range("build_up.band_clamps", clamps, 0, ENDLESS)
    for value in (pressure_mpa, width_mm, force_kn):
        check_range("build_up.band_clamps", value, 0, ENDLESS, above=True)
    left, made = clamps, [0] * len(stretches_mm)
    for i in sorted(range(len(stretches_mm)), key=lambda i: -stretches_mm[i]):
        needs = clamps_wanted(stretches_mm[i], pressure_mpa=pressure_mpa, width_mm=width_mm, force_kn=force_kn)
        if needs <= left:
            made[i], left = needs, left - needs
    return tuple(made)


def clamps_wanted(length_mm: float, *, pressure_mpa: float, width_mm: float, force_kn: float) -> int:
    """Return the clamps that press a stretch: p b L/F, at least one. Valid: length 0 or more, the rest above 0.

    Raises: PlanError. Grade: allowance.

    >>> clamps_wanted(400.0, pressure_mpa=0.5, width_mm=50, force_kn=4.0)
    3
    """
    check_range("build_up.band_clamps", length_mm, 0, ENDLESS, "mm")
    for value in (pressure_mpa, width_mm, force_kn):
        check_range("build_up.band_clamps", value, 0, ENDLESS, above=True)
    return max(1, math.ceil(pressure_mpa * width_mm * length_mm / (force_kn * 1000) - 1e-9))


def turned_from_ends(angle_rad: Array, *, from_both: bool) -> Array:
    """Return (n,) how far a band has turned at the worst place of each cell, pulled at one end or at both.

    angle_rad: (n,) turn of each cell, 0 or more. Raises: PlanError. Source: geometry.

    >>> turned_from_ends(np.array([1.0, 2.0]), from_both=False), turned_from_ends(np.array([1.0, 2.0]), from_both=True)
    (array([1., 3.]), array([1. , 1.5]))
    """
    check_range("shape", float(angle_rad.min(initial=0.0)), 0, ENDLESS)
    check_range("shape", float(angle_rad.sum()), 0, ENDLESS)
    to, half = np.cumsum(angle_rad), angle_rad.sum() / 2
    if not from_both:
        return np.asarray(to)
    # a cell that holds the middle is worst there, another at its edge that is nearer to it
    nearest = np.clip(half, to - angle_rad, to)
    return np.asarray(half - np.abs(half - nearest))


def open_end_mm(lengths_mm: Array, moments_nmm: Array, *, pressure_mpa: float, width_mm: float) -> float:
    """Length from the first end that uniform pressure cannot lay onto the form: the shortest a with p b x²/2 ≥ M(x) at
    every x beyond it, up to the middle; where not even the middle comes down, the length that one would want.

    lengths_mm, moments_nmm: (n,) cells from that end, M without its sign. Valid: pressure and width above zero, moments
    0 or more. Raises: PlanError. Source: cantilever under uniform load. Grade: physics on published stiffness.

    >>> open_end_mm(np.array([600.0]), np.array([20_000.0]), pressure_mpa=0.08, width_mm=50)
    100.0
    """
    message = "Pressure and width must be above zero."
    for value in (pressure_mpa, width_mm):
        check_range("build_up.press", value, 0, ENDLESS, above=True, message=message)
    check_range("build_up.press", float(moments_nmm.min()), 0, ENDLESS, message=message)
    check_range("build_up.press", float(moments_nmm.max()), 0, ENDLESS, message=message)
    check_range("shape", float(lengths_mm.sum()), 0, ENDLESS, "mm", above=True)
    ends = np.cumsum(lengths_mm)
    starts, middle = ends - lengths_mm, ends[-1] / 2
    wanted = np.sqrt(2 * moments_nmm / (pressure_mpa * width_mm))
    open_there = (wanted > starts) & (starts < middle)
    if not open_there.any():
        return 0.0
    # the last cell before the middle is looked at to its own want, so that it shows how far it is from closing
    upto = np.where(ends < middle, ends, np.inf)
    return float(np.minimum(wanted, upto)[open_there].max())


def open_end_gap_mm(
    lengths_mm: Array, moments_nmm: Array, curvature: Array, *, pressure_mpa: float, width_mm: float, open_mm: float
) -> float:
    """How far the very tip of an open end stands off: ∫ κ (1 − p b x²/2M) x dx over it, where that is not pressed down;
    on an arc a²/4R.

    Cells as for `open_end_mm`; curvature: (n,) without its sign. Valid: an open length of 0 or more.
    Raises: PlanError.
    Source: the same cantilever, its deflection integrated twice. Grade: physics.

    >>> cells = np.array([600.0]), np.array([20_000.0]), np.array([0.001])
    >>> round(open_end_gap_mm(*cells, pressure_mpa=0.08, width_mm=50, open_mm=100), 3)
    2.5
    """
    check_range("build_up.press", open_mm, 0, ENDLESS, "mm")
    check_range("shape", float(lengths_mm.sum()), 0, ENDLESS, "mm", above=True)
    check_range("build_up.press", pressure_mpa * width_mm, 0, ENDLESS, above=True)
    check_range("shape", float(np.abs(curvature).max()), 0, ENDLESS, "1/mm")
    check_range("build_up.press", float(np.abs(moments_nmm).max()), 0, ENDLESS)
    x = np.linspace(0, min(open_mm, float(lengths_mm.sum())), 401)
    cell = np.minimum(np.searchsorted(np.cumsum(lengths_mm), x, side="left"), lengths_mm.size - 1)
    with np.errstate(divide="ignore", invalid="ignore"):
        share = np.where(moments_nmm[cell] > 0, 1 - pressure_mpa * width_mm * x**2 / 2 / moments_nmm[cell], 0.0)
    return float(np.trapezoid(np.abs(curvature)[cell] * np.maximum(share, 0.0) * x, x))
