"""Old forms by the present law; and whole simulated shops that bend hot, measure and learn on it."""

import numpy as np
import pytest

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
