"""A closed ring: lengths and joints of its layers, what opens before it is closed, and that nothing opens after."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from bright_willow.core.plan.plan import plan
from bright_willow.core.springback.closed_ring import joint_places_deg
from bright_willow.core.workpiece.bend import NoSpringback
from tests.core.shape.test_shapes import job_of


def test_a_ring_by_hand():
    job = job_of("ring", "outer", part={"thickness_mm": 18, "width_mm": 30})
    made = plan(job)  # 600 outside, six layers of 3 mm
    assert [x.cut_length_mm for x in made.laid_up.ring] == pytest.approx(
        [math.pi * (600 - 36 + 3 + 6 * i) for i in range(6)], rel=1e-9
    )
    assert made.geometry.outer.length_mm == pytest.approx(600 * math.pi)
    for curve in (made.bend.likely, made.bend.on_form, made.bend.settled, made.bend.by_mechanics):
        assert np.array_equal(curve.curvature, made.bend.target.curvature)
    assert isinstance(made.bend.opens, NoSpringback) and made.bend.tip_mm.high == 0
    assert made.face_figures.least_radius_mm == pytest.approx(300 - 18)
    assert made.quantities.trim_mm == 0 and {r.tip_mm for r in made.ladder} == {0}
    assert "ring.closed" in {f.code for f in made.findings}


def test_a_hoop_opens_less_with_every_layer_glued_on():
    made = plan(job_of("ring", part={"thickness_mm": 18, "width_mm": 30}))
    opens = [x.opens_mm for x in made.laid_up.ring]
    assert opens[0] == pytest.approx(made.laid_up.ring[0].cut_length_mm)  # one flat lamina springs straight
    assert all(b < a for a, b in zip(opens, opens[1:], strict=False))
    # six layers, 1/36 lost: a gap of a 2π · 35/36 sweep, its radius grown to match
    two = math.pi * (600 + 6)  # two layers of 3 mm inside 600: their middle is 603 across
    assert opens[1] == pytest.approx(two * math.sin(0.75 * math.pi) / (0.75 * math.pi), rel=6e-3)
    length = np.mean([x.cut_length_mm for x in made.laid_up.ring])
    turn = math.tau * 35 / 36
    assert opens[-1] == pytest.approx(2 * length / turn * math.sin(turn / 2), rel=5e-3)


@given(st.integers(1, 60))
def test_joints_are_spread_evenly_and_neighbours_stand_apart(layers):
    places = joint_places_deg(layers)
    assert sorted(places) == pytest.approx([i * 360 / layers for i in range(layers)])
    if layers > 4:
        gaps = [abs((b - a + 180) % 360 - 180) for a, b in zip(places, places[1:], strict=False)]
        assert min(gaps) > 55
