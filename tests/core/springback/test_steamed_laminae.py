"""Laminae steamed first: each keeps what hot wood keeps of its own curvature on the form."""

import numpy as np
import pytest

from bright_willow.core.springback.glued import SteamedThenGlued
from bright_willow.core.springback.layup import Layup


def test_each_lamina_sets_from_its_own_curvature():
    flat = Layup(np.array([6.0, 6.0, 12.0]), np.full(3, 12_000.0), np.zeros(3))
    left = np.array([0.2, 0.2, 0.5])
    law, form = SteamedThenGlued(flat, 0.0042, left), np.array([1 / 150])
    middles = np.array([-9.0, -3.0, 6.0])
    own = 1 / (150 + middles)
    limit = 2 * 0.0042 / np.array([6.0, 6.0, 12.0])
    kept = own - left * limit * (1.5 - 0.5 * (limit / own) ** 2)
    assert law.on(form).start_curvature[:, 0] == pytest.approx(kept, rel=1e-12)
    assert law.release(law.form_curvature_for(np.array([1 / 170]))) == pytest.approx([1 / 170], rel=1e-9)
