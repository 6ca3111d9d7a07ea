"""Where closing starts, and what the blank leaves at its ends: by hand."""

import pytest

from bright_willow.core.plan.plan import plan
from bright_willow.core.workpiece.glue_up import start_of
from tests.core.methods.jobs import job_for

HOOK = {"kind": "hook", "face": "inner", "radius_mm": 250, "angle_deg": 80}


@pytest.mark.parametrize(
    ("start_mm", "end_mm", "share"),
    [(500, 30, 0.0), (30, 500, 1.0)],
)
def test_closing_starts_at_a_straight_end_that_is_held(start_mm, end_mm, share):
    made = plan(job_for("cold_lamination", shape={**HOOK, "start_mm": start_mm, "end_mm": end_mm}, part={"trim_mm": 5}))
    assert start_of(made.bend) == share


def test_closing_starts_where_half_of_the_bend_lies_to_either_side():
    arc = {"kind": "arc_by_chord", "face": "inner", "chord_mm": 900, "rise_mm": 200}
    made = plan(job_for("cold_lamination", shape=arc))
    assert start_of(made.bend) == pytest.approx(0.5, abs=0.01)


def test_the_trim_of_a_blank_is_that_of_its_longer_end():
    made = plan(job_for("cold_lamination", part={"trim_mm": 40, "right_trim_mm": 70}))
    assert made.bend.trims_mm == (40, 70) and made.bend.trim_mm == 70
