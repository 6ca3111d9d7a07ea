"""A round form on its axle: where the axle stands, how long the handle is, what is cut for it."""

import math

import numpy as np
import pytest
from shapely import Polygon

from bright_willow.core.common.errors import PlanError
from bright_willow.core.form.drum_stand import ABOVE_AXLE_MM, CLEAR_MM, CRANK_N, handle_mm
from bright_willow.core.form.parts import corners_of
from bright_willow.core.plan.plan import plan
from tests.core.methods.jobs import job_for
from tests.core.shape.test_shapes import job_of

HOOP = {"kind": "arc_by_radius", "face": "inner", "radius_mm": 160, "angle_deg": 300}
RING = job_of("ring", "inner", part={"thickness_mm": 18, "width_mm": 30})


def hoop(**form):
    return plan(job_for("steam_strap", shape=HOOP, form={"kind": "ring", "drum_stand": True, **form}))


def test_the_handle_turns_the_moment_that_bends_the_wood():
    assert handle_mm(90_000) == 450 and handle_mm(0) == 200
    with pytest.raises(PlanError):
        handle_mm(-1)
    stand = hoop().form.stand
    assert stand.hand_n * stand.handle_mm == pytest.approx(hoop().make.forces.holding_moment_nmm.value)
    assert stand.hand_n <= CRANK_N


def test_the_axle_goes_through_the_middle_of_the_drum():
    drawn = hoop()
    drum = drawn.build.parts[0]
    (axle,) = [h for h in drum.holes if h.what == "axle"]
    away = np.hypot(*(corners_of(drum.outline) - [axle.x_mm, axle.y_mm]).T)
    assert np.ptp(away) < 0.05, "every corner of the disc is as far from it"
    part = drawn.job.part
    assert drawn.form.stand.reach_mm == pytest.approx(
        away.max() + part.thickness_mm + drawn.job.heat.strap_mm, abs=0.02
    )
    upright = next(p for p in drawn.build.parts if p.name == "upright")
    assert upright.holes[0].y_mm == pytest.approx(drawn.form.stand.reach_mm + CLEAR_MM)
    assert upright.height_mm - upright.holes[0].y_mm == pytest.approx(ABOVE_AXLE_MM)
    for bolt in (h for h in drum.holes if h.what == "bolt"):
        assert math.hypot(bolt.x_mm - axle.x_mm, bolt.y_mm - axle.y_mm) > (bolt.diameter_mm + axle.diameter_mm) / 2


def test_no_bolt_goes_through_the_axle():
    small = plan(
        job_for(
            "steam_strap",
            shape={**HOOP, "radius_mm": 62},
            part={"thickness_mm": 4},
            form={"kind": "ring", "drum_stand": True, "depth_mm": 100},
        )
    )
    holes = small.build.parts[0].holes
    (axle,) = [h for h in holes if h.what == "axle"]
    for bolt in (h for h in holes if h.what == "bolt"):
        assert (
            math.hypot(bolt.x_mm - axle.x_mm, bolt.y_mm - axle.y_mm) >= (bolt.diameter_mm + axle.diameter_mm) / 2 + 12
        )


def test_the_stand_is_cut_bought_and_set_up():
    drawn, fixed = hoop(), hoop(drum_stand=False)
    more = {p.name for p in drawn.build.parts} - {p.name for p in fixed.build.parts}
    assert more == {"upright", "base of the stand", "handle"} and fixed.form.stand is None
    assert {o.key for o in drawn.form_work.operations} - {o.key for o in fixed.form_work.operations} == {"form_stand"}
    assert any(m.name.startswith("round bar") for m in drawn.form_work.materials)
    assert drawn.build.nest.sheets >= fixed.build.nest.sheets and drawn.build.mass_kg > fixed.build.mass_kg


def test_a_closed_ring_turns_on_a_whole_disc():
    ring = plan(RING.model_copy(update={"form": RING.form.model_copy(update={"drum_stand": True})}))
    (drum, *_) = ring.build.parts
    assert not drum.hollows and plan(RING).build.parts[0].hollows
    assert (
        Polygon(corners_of(drum.outline)).centroid.distance(Polygon(corners_of(drum.outline)).envelope.centroid) < 0.1
    )


def test_what_cannot_turn_is_said():
    outside = plan(RING.model_copy(update={"form": RING.form.model_copy(update={"drum_stand": True, "side": "outer"})}))
    assert outside.build.problem_field == "form.drum_stand" and outside.form.stand is None
    thick = {"thickness_mm": 60, "width_mm": 200}
    heavy = plan(
        job_for("steam_strap", shape={**HOOP, "radius_mm": 900}, part=thick, form={"kind": "ring", "drum_stand": True})
    )
    assert heavy.build.problem_field == "form.drum_stand" and "handle" in heavy.build.problem
