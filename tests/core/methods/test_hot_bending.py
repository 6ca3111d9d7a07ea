"""Figures of hot methods that other rooms hand on: spare length at the ends, hours of a reservoir, changes proposed."""

import pytest

from bright_willow.core.heat.bag import WATER_MOST_MIN, WATER_SHARE
from bright_willow.core.heat.extra_length import end_spare_mm
from bright_willow.core.learning.yields import LAMINATED_YIELD
from bright_willow.core.methods.hot_bending import DRY_END_MM, STEAM_KG_PER_KWH
from bright_willow.core.plan.plan import plan
from tests.core.methods.jobs import job_for


def test_steamed_ends_keep_more_spare_than_dry_ones():
    steamed, dry = plan(job_for("steam_strap")), plan(job_for("dry_heat"))
    thick = steamed.job.part.thickness_mm
    assert steamed.hot.end_spare_mm == end_spare_mm(thick) != DRY_END_MM == dry.hot.end_spare_mm


def test_water_is_looked_at_by_what_the_power_boils_of_the_reservoir():
    """0.8 l at 3 kW: a share of 0.8 kg / (steam a kWh × 3 kW) hours; twice the water at half the power: four times."""
    looked = []
    for reservoir, power in ((0.8, 3.0), (1.6, 1.5)):
        heat = {"wall": "bag", "in_bag": True, "reservoir_l": reservoir, "power_kw": power}
        looked.append(plan(job_for("steam_strap", heat=heat)).hot.heat.bag.water_every_min)
    first = 60 * WATER_SHARE * 0.8 / (STEAM_KG_PER_KWH * 3)
    assert looked == pytest.approx([first, min(WATER_MOST_MIN, 4 * first)]) and first < WATER_MOST_MIN


def test_a_second_pass_is_told_only_where_one_is_not_enough():
    for bow in (8.0, 60.0):
        made = plan(job_for("straighten", shape={"kind": "arc_by_chord", "chord_mm": 1200, "rise_mm": bow}))
        told = any("repeat with a lower block" in line for o in made.operations for line in o.steps)
        assert told is (made.make.block.passes > 1), bow


def test_steamed_strips_come_out_whole_where_both_the_bend_and_the_glue_up_do():
    tight = {"kind": "arc_by_radius", "face": "mid", "radius_mm": 70, "angle_deg": 90}
    made = plan(job_for("steam_laminae", shape=tight))
    glued = LAMINATED_YIELD[made.laid_up.use.feel]
    assert made.way.whole_share(made.make) == pytest.approx(glued * made.make.softened.limits.chance)
    assert made.make.softened.limits.chance < 0.97


def test_thinner_strips_are_proposed_only_where_there_are_more_of_them_and_all_alike():
    way = plan(job_for("steam_laminae")).way
    have, thick = way.job.build_up.laminae, way.job.part.thickness_mm
    assert way.thinner(thick / have, "") is None and way.thinner(thick, "") is None
    change = way.thinner(thick / (have + 1), "")
    assert change is not None and change.sets["build_up.laminae"] == have + 1
