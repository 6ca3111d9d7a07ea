"""Old forms by the present law; and whole simulated shops that bend hot, measure and learn on it."""

import math

import numpy as np
import pytest

from bright_willow.core.learning.belief import GROUP_SD, SCATTER_SD, SHOP_SD, learn
from bright_willow.core.measuring.built_form import BuiltForm
from bright_willow.core.measuring.restated_forms import restated
from bright_willow.core.plan.plan import sketch
from bright_willow.core.shop.shop import Shop
from tests.core.methods.jobs import JOBS, job_for

HOT = sorted(set(JOBS) - {"cold_lamination", "sheet_layup"})


def old(built: BuiltForm) -> BuiltForm:
    """The form as an early version would have frozen it: predicted by a law that lost twice as much."""
    form, predicted = np.array(built.form_curvature), np.array(built.predicted_curvature)
    twice = tuple((form - 2 * (form - predicted)).tolist())
    return built.model_copy(update={"law": 0, "predicted_curvature": twice, "jig_keeps": 1.0})


@pytest.mark.parametrize("way", [*HOT, "sheet_layup"])
def test_an_old_hot_form_is_predicted_as_a_new_one_and_keeps_what_it_promised(way):
    job = job_for(way)
    new = BuiltForm.of(sketch(job))
    again = restated(old(new), job, Shop())
    assert again.predicted_curvature == pytest.approx(new.predicted_curvature, abs=1e-15)
    assert again.jig_keeps == pytest.approx(new.jig_keeps) and again.law == new.law
    assert (again.expected_low, again.expected, again.expected_high) == (
        new.expected_low,
        new.expected,
        new.expected_high,
    )


def test_a_cold_lamination_is_left_as_it_was():
    job = job_for("cold_lamination")
    was = old(BuiltForm.of(sketch(job)))
    assert restated(was, job, Shop()).predicted_curvature == was.predicted_curvature


def test_recorded_hours_and_the_form_s_own_dryness_count_before_the_job_s():
    job, longer_job = (job_for("steam_strap", heat={"on_form_h": h}, form={"school": "to_size"}) for h in (2, 48))
    built, longer = BuiltForm.of(sketch(job)), BuiltForm.of(sketch(longer_job))
    kept = restated(built, job, Shop(), on_form_h=48.0)
    assert kept.predicted_curvature == pytest.approx(longer.predicted_curvature, abs=1e-15)
    assert abs(kept.predicted_curvature[1]) > abs(built.predicted_curvature[1])  # it springs back less
    changed = job.model_copy(update={"way": "steam_free", "part": job.part.model_copy(update={"thickness_mm": 40.0})})
    assert restated(built, changed, Shop()).predicted_curvature == pytest.approx(built.predicted_curvature, abs=1e-15)


def test_what_the_tables_no_longer_know_stays_as_it_is():
    job = job_for("steam_strap")
    was = old(BuiltForm.of(sketch(job)))
    gone = was.model_copy(update={"species": "no_such_wood"})
    assert restated(gone, job, Shop()).predicted_curvature == was.predicted_curvature
    assert restated(was.model_copy(update={"way": "no_such_way"}), job, Shop()).law == 1


@pytest.mark.slow
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
