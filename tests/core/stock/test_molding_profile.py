"""A profile ripped, bent and put together: offsets by hand, laws of area, what is refused."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from shapely import Polygon, box

from bright_willow.core.common.errors import PlanError
from bright_willow.core.job.stock_choice import Profile
from bright_willow.core.plan.plan import plan
from bright_willow.core.plan.read_job import read_job
from bright_willow.core.stock.molding_profile import blanks_needed, cut_profile, section
from tests.conftest import RIB


def test_offsets_by_hand():
    """Five strips of 4 mm, a cut of 3 and nothing planed: two mouldings, strips 0, 8, 16 of one and 4, 12 of the other."""
    made = cut_profile(box(0, 0, 20, 30), [4.0] * 5, kerf_mm=3, planing_mm=0)
    assert made.blanks == made.blanks_true == 2 and made.lost_mm == 0
    assert [(b.blank, b.from_mm, b.to_mm) for b in made.bands] == [
        (1, 0, 4),
        (2, 4, 8),
        (1, 8, 12),
        (2, 12, 16),
        (1, 16, 20),
    ]
    assert made.first_cut_mm == (0, 4)
    one = cut_profile(box(0, 0, 20, 30), [4.0] * 5, kerf_mm=3, planing_mm=0, blanks=1)
    assert [b.from_mm for b in one.bands] == [0, 7, 14, 21, 28] and one.lost_mm == 12 and one.missing == 2
    planed = cut_profile(box(0, 0, 20, 30), [4.0] * 5, kerf_mm=3, planing_mm=1)
    assert planed.blanks == 2 and (planed.bands[1].from_mm, planed.bands[1].to_mm) == (3.5, 8.5)  # rough, 1 mm more
    assert cut_profile(box(0, 0, 20, 30), [4.0] * 5, kerf_mm=4.5, planing_mm=0).blanks == 3


@given(kerf=st.floats(0, 8), planing=st.floats(0, 3), strip=st.floats(0.5, 12))
def test_between_two_strips_of_a_moulding_there_is_room_for_the_saw(kerf, planing, strip):
    count = blanks_needed(kerf_mm=kerf, planing_mm=planing, strip_mm=strip)
    assert (count - 1) * strip >= kerf + planing - 1e-6 and (count == 1 or (count - 2) * strip < kerf + planing)


@given(
    kind=st.sampled_from(["round_over", "cove", "chamfer", "bead"]),
    size=st.floats(3, 18),
    count=st.integers(2, 9),
)
def test_put_together_it_is_the_profile_again(kind, size, count):
    drawn = section(Profile(kind=kind, size_mm=size), 20.0, 40.0)
    made = cut_profile(drawn, [20.0 / count] * count, kerf_mm=3, planing_mm=0, blanks=None)
    area = sum(Polygon(o).area for band in made.together for o in band)
    assert made.lost_mm == pytest.approx(0, abs=1e-9) and area == pytest.approx(drawn.area, rel=1e-9)
    lossy = cut_profile(drawn, [20.0 / count] * count, kerf_mm=3, planing_mm=0, blanks=1)
    assert sum(Polygon(o).area for band in lossy.together for o in band) < drawn.area


def test_areas_of_plain_sections():
    """A square corner of 10 loses (1 − π/4) · 100 rounded, π/4 · 100 hollowed, 50 cut off; a bead is a half round."""
    whole = 20.0 * 40.0
    area = {k: section(Profile(kind=k, size_mm=10), 20, 40).area for k in ("round_over", "cove", "chamfer")}
    assert area["round_over"] == pytest.approx(whole - (1 - math.pi / 4) * 100, rel=2e-3)
    assert area["cove"] == pytest.approx(whole - math.pi / 4 * 100, rel=2e-3)
    assert area["chamfer"] == pytest.approx(whole - 50)
    bead = section(Profile(kind="bead", size_mm=10), 20, 40)
    assert bead.area == pytest.approx(20 * 35 + math.pi * 25 / 2, rel=2e-3)
    with pytest.raises(PlanError, match="larger than the part"):
        section(Profile(kind="cove", size_mm=25), 20, 40)


@pytest.mark.parametrize(
    ("points", "message"),
    [
        ([[0, 0], [10, 0]], "three points"),
        ([[0, 0], [10, 10], [10, 0], [0, 10]], "crosses itself"),
        ([[0, 0], [90, 0], [90, 20], [0, 20]], "deep"),
    ],
)
def test_what_makes_no_section_is_said(points, message):
    job = read_job({**RIB, "prepare": {"profile": {"kind": "points", "points_mm": points}}})
    made = plan(job)
    assert message in made.profiled.problem.message("mm")
    assert "prepare.profile" in {f.code for f in made.findings}


def test_a_step_is_how_far_the_profile_jumps():
    wedge = Polygon([(0, 0), (20, 0), (20, 10), (0, 30)])  # falls one for one
    made = cut_profile(wedge, [4.0] * 3, kerf_mm=3, planing_mm=0, blanks=1)
    assert made.worst_step_mm == pytest.approx(3.0, abs=1e-6)
    assert np.ptp(made.outline[:, 1]) == 30
