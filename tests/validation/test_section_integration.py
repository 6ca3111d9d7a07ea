"""The release law against stresses integrated fibre by fibre through the section, knowing nothing of the law.

Each lamina is bent on its own to its curvature on the form. Then plane sections are glued together, the form is
taken away, and the curvature is sought at which normal force and moment over all fibres vanish.
"""

import numpy as np
import pytest

from bright_willow.core.springback.layup import Layup

CASES = [
    ([4.0] * 10, [12_000.0] * 10, [0.0] * 10, 1 / 1050),
    ([3.0, 5.0, 2.0], [10_000.0, 14_000.0, 8_000.0], [0.0, 0.0, 0.0], 1 / 240),
    ([0.6, 5.0, 5.0, 0.6], [12_000.0, 500.0, 500.0, 12_000.0], [0.0] * 4, 1 / 300),
    ([6.0, 6.0, 4.0], [11_000.0] * 3, [1 / 500, 1 / 420, 0.0], 1 / 350),
    ([3.0, 4.0], [9_000.0, 13_000.0], [0.0, 0.0], -1 / 400),
]


def opened_by_fibres(thickness, modulus, start, kf, fibres=4_000):
    """Curvature at which ∫σ and ∫σ·y vanish, by bisection on the curvature change with the force balanced at each."""
    total = sum(thickness)
    y, stress, stiffness, weight, base = [], [], [], [], -total / 2
    for t, e, k0 in zip(thickness, modulus, start, strict=True):
        z = (np.arange(fibres) + 0.5) / fibres * t - t / 2  # from the lamina's own middle
        own = kf / (1 + kf * (base + t / 2))
        y.append(base + t / 2 + z)
        stress.append(e * z * (own - k0))
        stiffness.append(np.full(fibres, e))
        weight.append(np.full(fibres, t / fibres))
        base += t
    y, stress, stiffness, weight = map(np.concatenate, (y, stress, stiffness, weight))

    def moment_left(change):
        added = stiffness * change * y
        shift = -((stress + added) * weight).sum() / (stiffness * weight).sum()  # strain that balances the force
        return ((stress + added + stiffness * shift) * y * weight).sum()

    low, high = -abs(kf) * 3, abs(kf) * 3
    for _ in range(200):
        middle = (low + high) / 2
        if moment_left(middle) < 0:
            low = middle
        else:
            high = middle
    return kf + (low + high) / 2


@pytest.mark.parametrize(("thickness", "modulus", "start", "kf"), CASES)
def test_release_law_against_fibres(thickness, modulus, start, kf):
    layup = Layup(np.array(thickness), np.array(modulus), np.array(start))
    by_law = float(layup.release(np.array([kf]))[0])
    by_fibres = opened_by_fibres(thickness, modulus, start, kf)
    assert abs(by_law - by_fibres) < 1e-6 * abs(kf)  # the fibres' own error is about 1 / (2·4000²)


def test_where_the_stiffness_lies_decides_not_only_the_count():
    """Four layers: equal ones lose 1/16; stiff skins on soft sheets lose less, soft skins on a stiff core far more."""
    thickness, k = np.array([0.6, 5.0, 5.0, 0.6]), np.array([1 / 300])

    def lost(modulus):
        return 1 - float(Layup(thickness, np.array(modulus), np.zeros(4)).release(k)[0] / k[0])

    assert lost([12_000.0, 500, 500, 12_000]) == pytest.approx(0.024, abs=0.001)
    assert lost([500.0, 12_000, 12_000, 500]) > 3 / 16
