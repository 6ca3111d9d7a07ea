"""Pulled round its form: against statics written out here, and the plan it belongs to."""

import math

import numpy as np
import pytest

from bright_willow.core.common.errors import PlanError
from bright_willow.core.heat.wrapping import STEPS, face_strains, wrapping
from bright_willow.core.plan.plan import plan
from bright_willow.core.shape.curve import Curve
from tests.core.methods.jobs import job_for

BLANK = Curve.of([200.0, 600.0, 250.0], [0.0, 1 / 400, 0.0])
GIVEN = {"thickness_mm": 20.0, "moment_nmm": 88_000.0, "lever_mm": 500.0, "has_stops": True}


def test_straight_at_first_closed_at_last_and_never_less_bent_on_the_way():
    steps = wrapping(BLANK, **GIVEN)
    assert len(steps) == STEPS and [s.share for s in steps] == pytest.approx(np.linspace(0, 1, STEPS))
    assert steps[0].turned_deg == 0 and np.ptp(steps[0].mid.points_mm[:, 1]) == pytest.approx(0)
    assert steps[-1].turned_deg == pytest.approx(math.degrees(1.5))
    assert np.abs(steps[-1].mid.points_mm - BLANK.cut_finer(96).points_mm).max() < 1e-9
    assert all(a.turned_deg < b.turned_deg for a, b in zip(steps, steps[1:], strict=False))
    for s in steps:  # half round is half the turn, for one arc
        assert s.turned_deg == pytest.approx(s.share * math.degrees(1.5), abs=0.3)
        assert s.mid.length_mm == pytest.approx(1050)


def test_the_pull_is_moment_over_arm_and_square_to_its_leg():
    """The moment of the pull about the place where the wood leaves the form, by the cross product, is the moment."""
    for step in wrapping(BLANK, **GIVEN)[1:]:
        for pull, half in zip(step.pulls, (-1, 1), strict=True):
            leaves = 500.0 + half * step.share * 300.0  # the middle of the bend, and so far to either side
            foot, heading = step.mid.at(np.array([leaves]))
            arm = np.array(pull.at) - foot[0]
            force = pull.pull_n * np.array(pull.towards)
            turned = abs(arm[0] * force[1] - arm[1] * force[0])
            assert turned == pytest.approx(88_000, rel=2e-3)
            along = np.array([math.cos(heading[0]), math.sin(heading[0])])
            assert float(along @ pull.towards) == pytest.approx(0, abs=0.02)
            assert np.hypot(*pull.towards) == pytest.approx(1)
            assert pull.towards[1] < 0 or step.turned_deg > 170  # down, round a form that stands below
    first, last = wrapping(BLANK, **GIVEN)[0], wrapping(BLANK, **GIVEN)[-1]
    assert (first.pulls[1].arm_mm, last.pulls[1].arm_mm) == pytest.approx((800, 500))
    assert last.pulls[0].pull_n == pytest.approx(176)


def test_faces_by_lengths_of_arcs():
    """A ring of inside radius R and thickness T: its faces are π R and π (R + T) long over a half turn."""
    R, T = 180.0, 24.0
    inside, middle, outside = (math.pi * r for r in (R, R + T / 2, R + T))
    held, free = (face_strains(1 / (R + T / 2), T, has_stops=h) for h in (True, False))
    assert held == pytest.approx((0.0, inside / outside - 1))
    assert free == pytest.approx((outside / middle - 1, inside / middle - 1))
    for bad in (-0.1, float("nan")):
        with pytest.raises(PlanError):
            face_strains(bad, T, has_stops=True)


def test_it_is_the_plan_s_own_strap_and_lever():
    made = plan(job_for("steam_strap"))
    last = made.wrapping[-1]
    strap = made.hot.heat.strap
    assert last.pulls[1].pull_n == pytest.approx(strap.pull_n) and last.pulls[1].arm_mm == pytest.approx(strap.lever_mm)
    assert last.outer == 0 and last.inner < -0.05
    free = plan(job_for("steam_free"))
    assert free.wrapping[-1].outer == pytest.approx(-free.wrapping[-1].inner)
    assert plan(job_for("cold_lamination")).wrapping == () == plan(job_for("straighten")).wrapping
