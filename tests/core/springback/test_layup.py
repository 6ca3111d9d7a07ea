"""Laminae: strain, holding moment, release and its inverse."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from bright_willow.core.common.errors import PlanError
from bright_willow.core.springback.layup import Layup


def equal(*, laminae, total_mm, modulus_mpa):
    return Layup(np.full(laminae, total_mm / laminae), np.full(laminae, float(modulus_mpa)), np.zeros(laminae))


@pytest.mark.parametrize("n", [2, 3, 5, 10, 25])
def test_equal_flat_laminae_lose_one_over_n_squared(n):
    layup = equal(laminae=n, total_mm=20, modulus_mpa=11_000)
    kf = np.array([1e-5])  # gentle: thickness over radius vanishes
    assert 1 - layup.release(kf) / kf == pytest.approx([1 / n**2], rel=1e-3)


def test_by_hand_two_unequal_laminae():
    """t 3 and 5 mm, E 10 and 14 GPa, on a radius of 400 mm; every step done on paper."""
    layup = Layup(np.array([3.0, 5.0]), np.array([10_000.0, 14_000.0]), np.zeros(2))
    kf = 1 / 400
    assert layup.middles_mm == pytest.approx([-2.5, 1.5])
    k1, k2 = kf / (1 - 2.5 * kf), kf / (1 + 1.5 * kf)
    assert layup.strain(np.array([kf]))[:, 0] == pytest.approx([1.5 * k1, 2.5 * k2])
    moment = 10_000 * 27 / 12 * k1 + 14_000 * 125 / 12 * k2
    assert layup.holding_moment(np.array([kf]))[0] == pytest.approx(moment)
    centroid = (10_000 * 3 * -2.5 + 14_000 * 5 * 1.5) / (30_000 + 70_000)  # 0.3
    stiff = 10_000 * (27 / 12 + 3 * (-2.5 - centroid) ** 2) + 14_000 * (125 / 12 + 5 * (1.5 - centroid) ** 2)
    assert layup.stiffness == pytest.approx(stiff)
    assert layup.release(np.array([kf]))[0] == pytest.approx(kf - moment / stiff)


def test_more_laminae_spring_back_less():
    k = np.array([1 / 300])
    lost = [float((k - equal(laminae=n, total_mm=24, modulus_mpa=12_000).release(k))[0]) for n in range(2, 20)]
    assert all(b < a for a, b in zip(lost, lost[1:], strict=False))


def test_laminae_bent_to_the_form_beforehand_keep_everything():
    kf = np.array([1 / 250])
    flat = equal(laminae=3, total_mm=18, modulus_mpa=9_000)
    bent = Layup(flat.thickness_mm, flat.modulus_mpa, flat.lamina_curvature(kf)[:, 0])
    assert bent.release(kf) == pytest.approx(kf)


layups = st.integers(2, 9).flatmap(
    lambda n: st.tuples(
        st.lists(st.floats(0.8, 8), min_size=n, max_size=n),
        st.lists(st.floats(4_000, 16_000), min_size=n, max_size=n),
        st.lists(st.floats(-1e-4, 1e-4), min_size=n, max_size=n),
    )
)


@given(layups, st.lists(st.floats(-1 / 200, 1 / 200), min_size=1, max_size=5), st.floats(0.6, 1.6))
def test_compensate_then_release_returns_the_target(rows, target, ratio):
    layup = Layup(*(np.array(r) for r in rows))
    wanted = np.array(target)
    try:
        form = layup.form_curvature_for(wanted, loss_ratio=ratio)
    except PlanError:  # keeps next to nothing, or the form would be tighter than the stack is thick
        own = layup.modulus_mpa * layup.thickness_mm**3 / 12
        assert ratio * own.sum() / layup.stiffness > 0.5
        return
    assert layup.release(form, loss_ratio=ratio) == pytest.approx(wanted, abs=1e-10)


def test_a_form_cannot_make_up_for_everything():
    with pytest.raises(PlanError, match="thinner strips"):
        equal(laminae=1, total_mm=10, modulus_mpa=10_000).form_curvature_for(np.array([0.001]))
    with pytest.raises(PlanError, match="tighter"):
        equal(laminae=4, total_mm=40, modulus_mpa=10_000).release(np.array([-1 / 10.0]))


def test_a_ladder_answers_as_each_lay_up_alone():
    k = np.array([1 / 500, 1 / 800])
    rows = [(n, 30 / n, 30 / n) for n in range(2, 7)] + [(5, 7.0, 2.0)]
    together = Layup.stepped(rows, modulus_mpa=12_000).release(np.broadcast_to(k, (6, 2)))
    for n in range(2, 7):
        alone = equal(laminae=n, total_mm=30, modulus_mpa=12_000)
        assert together[n - 2] == pytest.approx(alone.release(k), rel=1e-12)
    thin_last = Layup(np.array([7.0, 7, 7, 7, 2]), np.full(5, 12_000.0), np.zeros(5))
    assert together[5] == pytest.approx(thin_last.release(k), rel=1e-12)


def test_lamina_lengths():
    layup = equal(laminae=2, total_mm=20, modulus_mpa=1)
    assert layup.lengths_mm(np.array([100.0]), np.array([1 / 50])) == pytest.approx([90, 110])
