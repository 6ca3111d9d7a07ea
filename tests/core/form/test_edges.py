"""What a form stands on and is cut to: by hand."""

import numpy as np
import pytest

from bright_willow.core.form.body import _from
from bright_willow.core.form.edges import level_enough
from bright_willow.core.form.face import _both_ways
from bright_willow.core.plan.plan import plan
from tests.core.methods.jobs import job_for


@pytest.mark.parametrize(("angle", "level"), [(150.0, True), (176.0, True), (200.0, False)])
def test_a_rib_stands_flat_until_the_face_turns_back_over_its_foot(angle, level):
    arc = {"kind": "arc_by_radius", "face": "inner", "radius_mm": 300, "angle_deg": angle}
    made = plan(job_for("cold_lamination", shape=arc, form={"school": "to_size"}, part={"trim_mm": 0}))
    assert level_enough(made.face) is level


def test_how_far_a_way_runs_from_a_face_is_its_farthest_point_from_the_nearest_of_it():
    face = np.array([[10.0, 0.0], [20.0, 0.0]])
    assert _from(np.array([[10.0, 3.0], [24.0, 3.0]]), face) == pytest.approx(5.0)
    assert _from(np.empty((0, 2)), face) == 0.0


def test_stations_run_both_ways_from_the_middle_in_whole_steps():
    assert _both_ways(100.0, 60.0, 155.0, 20.0) == [60.0, 80.0, 100.0, 120.0, 140.0, 155.0]
    assert _both_ways(10.0, 0.0, 35.0, 10.0) == [0.0, 10.0, 20.0, 30.0, 35.0]
