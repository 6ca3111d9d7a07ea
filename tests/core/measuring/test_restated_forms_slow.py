"""Whole simulated shops that bend hot, measure and learn."""

import math

import numpy as np
import pytest

from bright_willow.core.learning.belief import GROUP_SD, SCATTER_SD, SHOP_SD, learn
from bright_willow.core.measuring.built_form import BuiltForm
from bright_willow.core.plan.plan import sketch
from tests.core.methods.jobs import job_for


@pytest.mark.parametrize(("way", "error_mm"), [("steam_strap", 0.5), ("dry_heat", 1.0), ("steam_free", 2.0)])
def test_simulated_shops_that_bend_hot_learn_without_bias_and_their_band_holds(way, error_mm):
    """Pieces of each shop really bent by the law times its own ratio, measured by chord and rise, written down and read
    back; then the likely ratio against the true one, and whether the band holds the next piece."""
    jobs = [job_for(way, heat={"on_form_h": h}) for h in (4, 24, 72)]
    forms = [BuiltForm.of(sketch(job)) for job in jobs]
    rng, off, held, shops = np.random.default_rng(11), [], 0, 120
    for _ in range(shops):
        kind = rng.normal(rng.normal(0, SHOP_SD), GROUP_SD)
        bends = []
        for n in range(9):
            built = forms[n % 3]
            came = built.bent_by(math.exp(rng.normal(kind, SCATTER_SD)))
            chord, rise, _ = built.on_face(came, "inner")
            read = rng.normal(0, error_mm, 2)
            bends.append(
                built.record(chord_mm=chord + read[0], rise_mm=rise + read[1], face="inner", error_mm=error_mm)
            )
        belief = learn(bends).about(way=way, group=forms[0].group)
        assert belief.bends == 9
        band = belief.next_bend()
        off.append(math.log(band.likely) - kind)
        held += math.log(band.low) <= rng.normal(kind, SCATTER_SD) <= math.log(band.high)
    assert abs(math.exp(float(np.median(off))) - 1) < 0.10
    assert 0.75 <= held / shops <= 0.99
