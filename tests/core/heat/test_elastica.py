"""A strip drawn by its ends: Euler's elastica, against integrating its own law, and against the arc it is taken for."""

import numpy as np
import pytest

from bright_willow.core.common.units import format_force
from bright_willow.core.heat.elastica import bow_points, bowstring
from bright_willow.core.plan.plan import plan
from bright_willow.core.shape.curve import Curve
from tests.core.methods.jobs import job_for

ARC = {"kind": "arc_by_radius", "face": "mid", "radius_mm": 450, "angle_deg": 125}


@pytest.mark.parametrize("chord", [985.0, 900.0, 700.0, 400.0, 50.0])
def test_the_bow_bends_as_the_string_pulls(chord):
    """EI κ = F y: over the whole bow curvature is in proportion to the distance from the string."""
    bow = bow_points(length_mm=1000.0, chord_mm=chord)
    assert np.hypot(*(bow[-1] - bow[0])) == pytest.approx(chord, rel=3e-4, abs=0.1)
    steps = np.diff(bow, axis=0)
    assert np.hypot(*steps.T) == pytest.approx(np.full(180, 1000 / 180), rel=1e-9)
    headings = np.unwrap(np.arctan2(steps[:, 1], steps[:, 0]))
    curvature, y = -np.diff(headings) / (1000 / 180), bow[1:-1, 1]
    share = curvature[15:-15] / y[15:-15]
    assert share == pytest.approx(np.full(share.size, share.mean()), rel=4e-3)


def test_against_the_arc_wanted_it_is_full_in_the_middle_and_flat_at_its_ends():
    arc = Curve.of([1000.0], [2.2 / 1000])
    made = bowstring(arc, thickness_mm=40, moment_nmm=2e6)
    assert made.chord_mm == pytest.approx(2 / 2.2 * 1000 * np.sin(1.1))
    assert made.wanted_sag_mm == pytest.approx(1000 / 2.2 * (1 - np.cos(1.1)))
    assert made.sag_mm > made.wanted_sag_mm
    left, middle, right = made.brackets
    assert left.by_mm == pytest.approx(right.by_mm) and left.by_mm > 0 > middle.by_mm
    assert middle.by_mm == pytest.approx(made.wanted_sag_mm - made.sag_mm, abs=0.05)
    assert made.strut_mm == made.sag_mm  # too heavy for one person at any sag
    assert [p for _, p in made.pulls] == pytest.approx([2e6 / made.sag_mm] * 5)
    light = bowstring(arc, thickness_mm=40, moment_nmm=4e4)
    assert light.strut_mm == 100  # one person's 400 N over it; the string's lever is the sag once that is more
    assert [p for _, p in light.pulls] == pytest.approx([4e4 / max(100, sag) for sag, _ in light.pulls])
    assert max(p for _, p in light.pulls) == pytest.approx(400)
    both_ways = Curve.of([400.0, 400.0], [1 / 300, -1 / 300])
    assert bowstring(both_ways, thickness_mm=40, moment_nmm=2e6) is None


def test_bent_in_the_bag_there_is_no_window():
    heat = {"wall": "bag", "in_bag": True, "hands": 1, "moves": 20}
    made = plan(job_for("steam_free", shape=ARC, heat=heat))
    codes = {f.code for f in made.findings}
    assert "heat.in_bag" in codes and "heat.window" not in codes and made.hot.bow is not None
    bend = next(o for o in made.operations if o.key == "bend")
    keys = [o.key for o in made.operations]
    assert keys.index("load") < keys.index("steam") < keys.index("bend") < keys.index("hold") < keys.index("cool")
    bag, by_key = made.hot.heat.bag, {o.key: o for o in made.operations}
    assert bag.pull_min == bag.hold_min == pytest.approx(20 * made.hot.thickness_mm / 25)
    assert bend.attended_s.likely == pytest.approx(60 * bag.pull_min) and len(bend.moves) == bag.pulls
    assert by_key["hold"].unattended_s.likely == pytest.approx(60 * bag.hold_min)
    assert not by_key["hold"].may_run_alone and by_key["hold"].frees == ("chamber",)
    assert bend.moves[-1].to_s == pytest.approx(60 * bag.pull_min) and "check the curve" in bend.moves[0].message
    every = " ".join(s for o in made.operations for s in o.steps)
    assert "water every" in every and "drain hole" in every.lower() and "vent" in every
    assert "door" not in every and "lever" not in every
    # one pull, whoever asks: the moment over the string's lever, in the forces and in the steps
    assert made.make.forces.lever_pull_n.value == pytest.approx(max(pull for _, pull in made.hot.bow.pulls))
    assert format_force(made.make.forces.lever_pull_n.value, "mm") in every
    assert (
        made.hot.heat.chamber.water_l
        > plan(job_for("steam_free", shape=ARC, heat={**heat, "in_bag": False})).hot.heat.chamber.water_l
    )  # for pulling and holding too
    box = plan(job_for("steam_free", shape=ARC, heat={**heat, "wall": "plywood"}))
    assert "heat.window" in {f.code for f in box.findings} and box.hot.bow is None  # a box does not bend


def test_a_bow_that_is_hardly_bent_rises_as_a_flat_sine():
    """Length 1000, chord 1000 (1 − ε): a half sine of rise (2/π) 1000 √ε, to first order."""
    for short in (1e-4, 4e-4):
        bow = bow_points(length_mm=1000.0, chord_mm=1000.0 * (1 - short))
        assert bow[:, 1].max() == pytest.approx(2 / np.pi * 1000 * np.sqrt(short), rel=2e-3)
