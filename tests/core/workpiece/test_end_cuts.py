"""How the ends are cut: by hand, and on the drawing of the piece."""

import math

import numpy as np
import pytest

from bright_willow.core.common.errors import PlanError
from bright_willow.core.plan.plan import plan, sketch
from bright_willow.core.shape.curve import Curve
from bright_willow.core.workpiece.end_cuts import end_cut, mitre_reach_mm
from tests.core.methods.jobs import job_for

HALF_TURN = Curve.of([math.pi * 200], [1 / 200])
GATE = {"kind": "arc_by_radius", "face": "mid", "radius_mm": 600, "angle_deg": 120}


def test_a_cut_leans_by_its_angle_at_either_end():
    """20 thick, 45°: each face 10 off the middle; a positive angle makes the outside face the longer at both ends."""
    left, right = (end_cut(HALF_TURN, side, "mitred", 45, 20) for side in ("left", "right"))
    assert (left.inner_mm, left.outer_mm) == pytest.approx((10, -10))
    assert (right.inner_mm, right.outer_mm) == pytest.approx((-10, 10))
    # the ends of a half turn stand upright: the outer face of each ends 10 lower, the inner 10 higher
    assert left.outer[1] == pytest.approx(right.outer[1]) and left.outer[1] - left.inner[1] == pytest.approx(-20)
    assert mitre_reach_mm(-30, 20) == pytest.approx(-10 / math.sqrt(3)) and left.needs_mm == pytest.approx(10)
    for bad in (76, float("nan")):
        with pytest.raises(PlanError):
            mitre_reach_mm(bad, 20)


@pytest.mark.parametrize("turn", [60.0, 100.0, 250.0])
def test_a_cut_on_the_line_lies_on_it(turn):
    """Both faces of both ends end level with the chord, whatever the piece turns."""
    piece = Curve.of([math.radians(turn) * 500], [1 / 500])
    level = piece.points_mm[0, 1]
    for side in ("left", "right"):
        cut = end_cut(piece, side, "on_line", 0, 30)
        assert [cut.inner[1], cut.outer[1]] == pytest.approx([level, level], abs=1e-9)
        assert cut.mitre_deg == pytest.approx(abs(90 - turn / 2), abs=1e-6)
    assert end_cut(Curve.of([500.0], [1 / 3000]), "left", "on_line", 0, 30).is_flat


def test_each_end_keeps_its_own_trim_to_the_blank_the_stick_and_the_form():
    job = job_for("cold_lamination", shape=GATE, part={"trim_mm": 30, "right_trim_mm": 80, "right_cut": "mitred"})
    made = plan(job)
    wanted = made.bend.target.length_mm
    assert made.bend.blank.length_mm == pytest.approx(wanted + 110)
    marks = {(m.kind, m.mid_mm > 0): m for m in made.stick if m.kind != "centre"}
    assert marks["blank_end", False].mid_mm == pytest.approx(-wanted / 2 - 30)
    assert marks["blank_end", True].mid_mm == pytest.approx(wanted / 2 + 80)
    assert marks["part_end", True].mid_mm == pytest.approx(wanted / 2) == -marks["part_end", False].mid_mm
    half = job.part.thickness_mm / 2
    square = plan(job_for("cold_lamination", shape=GATE, part={"trim_mm": 30, "right_trim_mm": 80})).stick
    straight = next(m for m in square if m.kind == "part_end" and m.mid_mm > 0)
    assert marks["part_end", True].outer_mm - straight.outer_mm == pytest.approx(half)
    assert marks["part_end", True].inner_mm - straight.inner_mm == pytest.approx(-half)
    # on the form the middle of the piece is the middle of its face, not of the blank's
    face = made.face
    start, middle, end = (
        face.curve.at(np.array([s]))[0][0] for s in (face.part_start_mm, face.middle_mm, face.part_end_mm)
    )
    assert np.hypot(*(middle - start)) == pytest.approx(np.hypot(*(middle - end)))
    trim = next(o for o in made.operations if o.key == "trim")
    assert len(trim.steps) == 2 and "45° off square, the outside face the longer" in trim.steps[1]


def test_an_end_left_long_is_not_cut_and_a_short_piece_has_no_witness():
    made = plan(job_for("cold_lamination", shape=GATE, part={"left_cut": "long"}))
    (left, _) = next(o for o in made.operations if o.key == "trim").steps
    assert left == "Leave the left end long; cut it to fit."
    short = {"kind": "arc_by_radius", "face": "mid", "radius_mm": 80, "angle_deg": 100}
    assert sketch(job_for("cold_lamination", shape=short, part={"thickness_mm": 6})).witness_mm is None
