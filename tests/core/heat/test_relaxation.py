"""How a bend sets: the time constant of drying against diffusion solved step by step, ρ and its limits, the jig."""

import math

import numpy as np
import pytest
from scipy.linalg import solve_banded

from bright_willow.core.common.errors import PlanError
from bright_willow.core.heat.drying import DryingSetup, cooling_h, dry_days
from bright_willow.core.heat.relaxation import (
    Drying1D,
    drying_tau_h,
    form_hours_until_dry,
    growth_share,
    held_share,
    jig_hours,
    share_left_steamed,
)


def hours_until_dry(thickness_mm: float, faces: int, specific_gravity: float = 0.6) -> float:
    """Independent: moisture in a slab by finite differences, implicit; its surface gives off S (u − u∞) (a Biot
    number), the other face closed where only one is open. Returns hours until 90 % of the excess is gone."""
    path = thickness_mm / 1000 / faces
    diffusivity, surface, cells = 1.0e-10 * (0.6 / specific_gravity) ** 1.5, 2e-7, 120
    dx = path / cells
    step = path**2 / diffusivity / 4000
    fo, biot = diffusivity * step / dx**2, surface * dx / diffusivity
    main, bands = np.full(cells + 1, 1 + 2 * fo), np.zeros((3, cells + 1))
    main[0] = 1 + 2 * fo * (1 + biot)
    bands[0, 1:], bands[1], bands[2, :-1] = -fo, main, -fo
    bands[0, 1], bands[2, -2] = -2 * fo, -2 * fo
    weights = np.ones(cells + 1)
    weights[[0, -1]] = 0.5
    weights /= weights.sum()
    now, elapsed = np.ones(cells + 1), 0.0
    while float(weights @ now) > 0.1:
        now = solve_banded((1, 1), bands, now)
        elapsed += step
    return elapsed / 3600


@pytest.mark.parametrize("thickness", [3.2, 6.35, 12.7, 25.4])
@pytest.mark.parametrize("faces", [1, 2])
def test_the_time_constant_against_diffusion_step_by_step(thickness, faces):
    tau = drying_tau_h(path_mm=thickness / faces, specific_gravity=0.6, climate="ordinary")
    assert 2.1 * tau == pytest.approx(hours_until_dry(thickness, faces), rel=0.10)


def test_the_time_constant_by_hand():
    """16 and 5.1 h for 3.2 mm, 54 and 16 for a quarter inch, 199 and 54 for a half, 762 and 199 for an inch."""
    stated = {3.2: (16, 5.1), 6.35: (54, 16), 12.7: (199, 54), 25.4: (762, 199)}
    for thickness, (one, both) in stated.items():
        made = Drying1D.of(thickness, 0.6, "ordinary")
        assert made.one_face_h == pytest.approx(one, rel=0.02) and made.both_faces_h == pytest.approx(both, rel=0.02)
    inch = Drying1D.of(25.4, 0.6, "ordinary").one_face_h
    path = 4 * 0.0254**2 / (math.pi**2 * 1e-10) / 3600
    warm = Drying1D.of(25.4, 0.6, "warm").one_face_h
    assert warm - 35.28 == pytest.approx(path / 2 ** (10 / 15), rel=1e-3)  # only the way through the wood is quicker
    damp = Drying1D.of(25.4, 0.6, "damp").one_face_h
    assert damp == pytest.approx(2 * (path * 2 ** (5 / 15) + 35.28), rel=1e-3) and damp > 2 * inch
    heavy = Drying1D.of(25.4, 0.7, "ordinary").one_face_h
    assert heavy - 35.28 == pytest.approx(path * (0.7 / 0.6) ** 1.5, rel=1e-3)
    for path_mm, gravity in ((0.0, 0.6), (10.0, 0.0), (10.0, 2.0)):
        with pytest.raises(PlanError):
            drying_tau_h(path_mm=path_mm, specific_gravity=gravity, climate="ordinary")


def test_what_is_left_of_the_moment_falls_with_hours_and_never_below_its_floor():
    hours = np.geomspace(0.01, 5000, 400)
    left = np.array([share_left_steamed(h, 54.0) for h in hours])
    assert (np.diff(left) <= 1e-15).all() and left[0] == 0.98 and 0 < left[-1] < 0.35
    assert share_left_steamed(2, 762) == 0.98  # min(0.98, 0.998)
    assert share_left_steamed(24, 54) == pytest.approx(12**-0.2 * (0.35 + 0.65 * math.exp(-24 / 54)))
    assert share_left_steamed(0.1, 54) == share_left_steamed(0.5, 54)  # no sooner than half an hour
    assert share_left_steamed(24, 16) < share_left_steamed(24, 54)  # what dries sooner sets more
    with pytest.raises(PlanError):
        share_left_steamed(-1, 54)


def test_the_jig_and_what_grows_without_one():
    times = Drying1D(54.0, 16.0)
    assert jig_hours(0, times) == pytest.approx(2.1 * 16) and jig_hours(27, times) == pytest.approx(1.6 * 16)
    assert jig_hours(form_hours_until_dry(times), times) == 0  # dry on the form
    assert held_share(1e6, 16) == pytest.approx(0.35) and held_share(0, 16) == 1
    assert growth_share(2, 54) == pytest.approx(0.3 * share_left_steamed(2, 54) * math.exp(-2 / 54))
    assert growth_share(2, 54) > growth_share(24, 54) > growth_share(200, 54)
    setting = DryingSetup.steamed(times, on_form_h=27.0, cool_h=1.0, held_by="frame")
    released, target = np.array([0.009, 0.0]), np.array([0.010, 0.0])
    keeps = 0.35 + 0.65 * math.exp(-1.6)
    assert setting.dried(released, target) == pytest.approx([0.010 - keeps * 0.001, 0.0])
    free = DryingSetup.steamed(times, on_form_h=27.0, cool_h=1.0, held_by="none")
    assert free.dried(released, target) == pytest.approx(released)


def test_days_and_cooling_by_hand():
    days = dry_days(48.0)
    assert (days.low, days.likely, days.high) == pytest.approx((1.2, 2.0, 3.2))
    assert cooling_h(57) == pytest.approx(2.28) and cooling_h(5) == 0.5
