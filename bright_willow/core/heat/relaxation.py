"""How a bend sets: the drying time constant τ, and the share ρ of its moment that is left after hours on the form.

Everything that asks how wood dries in shape asks here: springback, growth after release, the drying jig, days until it
is dry. Source: docs/model.md#drying.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..common.errors import ENDLESS, check_range

# Temperature of the shop while it dries, °C, and how much longer it takes than by temperature alone. Grade: allowance.
CLIMATES: dict[str, tuple[float, float]] = {"warm": (30.0, 1.0), "ordinary": (20.0, 1.0), "damp": (15.0, 2.0)}
DIFFUSIVITY_M2_S = 1.0e-10  # of moisture across the grain, at 20 °C and specific gravity 0.6. Grade: allowance.
SURFACE_M_S = 2e-7  # how fast a surface gives its moisture to still air. Grade: allowance.
DOUBLES_K = 15.0  # warmer by so much, moisture moves twice as fast
DRY_TIMES = 2.1  # τ until 90 % of the excess moisture is gone: ln(10 · 8/π²)
NEVER_SETS = 0.35  # share of the moment that drying under restraint leaves, however long. Grade: allowance.
MOST_LEFT = 0.98  # of the moment at release from a steamed bend
FIRST_H, LEAST_H, CREEP_POWER = 2.0, 0.5, 0.2  # relaxation (t/2 h)^−0.2, no sooner than half an hour
GROWS = 0.3  # of what is left, that a moist piece goes on springing back when nothing holds it. Grade: allowance.
GROWS_TIMES = 2.0  # τ over which it does so
LEFT_BY_HEAT = {"mold": 0.08, "hand": 0.15}  # ρ over dry heat: held hot in a mold, or bent by hand. Grade: allowance.


@dataclass(frozen=True, slots=True)
class Drying1D:
    """How fast a piece dries: τ in hours with one face open (on a form) and with both (in a jig, or free)."""

    one_face_h: float
    both_faces_h: float

    @classmethod
    def of(cls, thickness_mm: float, specific_gravity: float, climate: str) -> Drying1D:
        """Return both time constants of a piece. Raises: PlanError.

        >>> ash = Drying1D.of(25.4, 0.6, "ordinary")
        >>> round(ash.one_face_h), round(ash.both_faces_h)
        (762, 199)
        """
        path_mm = (thickness_mm, thickness_mm / 2)
        one, both = (drying_tau_h(path_mm=p, specific_gravity=specific_gravity, climate=climate) for p in path_mm)
        return cls(one, both)


def drying_tau_h(*, path_mm: float, specific_gravity: float, climate: str) -> float:
    """Return the time constant of drying, τ = 4L²/(π²D) + L/S, hours.

    path_mm: L, the way of the moisture: the thickness with one face on a form, half of it in a jig. D = 1e-10
    (0.6/G)^1.5 · 2^((θ − 20)/15) m²/s, S = 2e-7 m/s; a damp shop takes twice the time. Valid: a path above 0, G 0.05 to
    1.5, a known climate. Raises: PlanError. Source: diffusion in a slab, first term; docs/model.md#drying.
    Grade: physics on allowance.

    >>> [round(drying_tau_h(path_mm=L, specific_gravity=0.6, climate="ordinary")) for L in (3.2, 6.35, 12.7)]
    [16, 54, 199]
    """
    check_range("part.thickness_mm", path_mm, 0, ENDLESS, "mm", above=True)
    check_range("stock.species", specific_gravity, 0.05, 1.5)
    celsius, times = CLIMATES[climate]
    diffusivity = DIFFUSIVITY_M2_S * (0.6 / specific_gravity) ** 1.5 * 2 ** ((celsius - 20) / DOUBLES_K)
    path_m = path_mm / 1000
    return float(times * (4 * path_m**2 / (math.pi**2 * diffusivity) + path_m / SURFACE_M_S) / 3600)


def still_moist(hours: float, tau_h: float) -> float:
    """Return the share of the excess moisture that is left, e^(−t/τ).

    Valid: t 0 or more, τ above 0. Raises: PlanError.
    """
    check_range("heat.on_form_h", hours, 0, ENDLESS, "h")
    check_range("heat.on_form_h", tau_h, 0, ENDLESS, "h", above=True)
    return math.exp(-hours / tau_h)


def share_left_steamed(hours: float, tau_h: float) -> float:
    """Return ρ of a steamed bend after hours on the form: min(0.98, (max(t, 0.5)/2)^−0.2 (0.35 + 0.65 e^(−t/τ))).

    Stress relaxes with time and with drying under restraint. Valid: t 0 or more, τ above 0. Raises: PlanError.
    Source: docs/model.md#springback-of-hot-wood. Grade: allowance.

    >>> round(share_left_steamed(2, 762), 2), round(share_left_steamed(24, 54), 3)
    (0.98, 0.466)
    """
    dried = held_share(hours, tau_h)
    return float(min(MOST_LEFT, (max(hours, LEAST_H) / FIRST_H) ** -CREEP_POWER * dried))


def held_share(hours: float, tau_h: float) -> float:
    """Return ρ_r, how much of its distance from a drying jig a piece keeps after hours in it: 0.35 + 0.65 e^(−t/τ).

    It comes to κ₂ = κ_r − ρ_r (κ_r − κ₁): a jig set to the target pulls a piece that missed a little home. Raises:
    PlanError. Source: docs/model.md#drying. Grade: allowance.

    >>> held_share(0, 50), round(held_share(105, 50), 2)
    (1.0, 0.43)
    """
    return NEVER_SETS + (1 - NEVER_SETS) * still_moist(hours, tau_h)


def growth_share(hours: float, tau_h: float) -> float:
    """Return what a piece released after hours on the form goes on springing back if nothing holds it, of m.

    0.3 ρ(t) e^(−t/τ), over about 2 τ. Raises: PlanError. Source: docs/model.md#drying. Grade: allowance.

    >>> round(growth_share(2, 762), 2), round(growth_share(500, 54), 3)
    (0.29, 0.0)
    """
    return GROWS * share_left_steamed(hours, tau_h) * still_moist(hours, tau_h)


def jig_hours(on_form_h: float, drying: Drying1D) -> float:
    """Return the hours with both faces open until 90 % of the excess moisture is gone, after hours on the form.

    (2.1 − t/τ_form) τ_jig, 0 where it dried on the form. Raises: PlanError. Source: docs/model.md#drying.

    >>> round(jig_hours(0.0, Drying1D(54.0, 16.0)), 1), jig_hours(200.0, Drying1D(54.0, 16.0))
    (33.6, 0.0)
    """
    check_range("heat.on_form_h", on_form_h, 0, ENDLESS, "h")
    for tau in (drying.one_face_h, drying.both_faces_h):
        check_range("heat.climate", tau, 0, ENDLESS, "h", above=True)
    return max(0.0, DRY_TIMES - on_form_h / drying.one_face_h) * drying.both_faces_h


def form_hours_until_dry(drying: Drying1D) -> float:
    """Return the hours on the form until 90 % of the excess moisture is gone: 2.1 τ with one face open."""
    return DRY_TIMES * drying.one_face_h
