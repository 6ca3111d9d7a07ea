"""Wood by itself: verdicts, grain, own woods, sheets and how layers come out of them."""

import math

import numpy as np
import pytest

from bright_willow.core.common.errors import PlanError
from bright_willow.core.job.faults import JobFaulty
from bright_willow.core.plan.plan import plan
from bright_willow.core.plan.read_job import read_job
from bright_willow.core.shop.shop import Shop
from bright_willow.core.stock.sheet_cutting import sheet_cut
from bright_willow.core.wood.grain import FIGURED_FACTOR, grain_factor, wood_factor
from bright_willow.core.wood.lot import Lot, judged
from bright_willow.core.wood.sheets import sheet_table, veneer_leaf
from bright_willow.core.wood.species import OwnWood, species, species_table, wood_table
from tests.conftest import RIB
from tests.core.plan.test_plan import changed
from tests.core.shop.test_stock import LOT


@pytest.mark.parametrize(
    ("more", "word"),
    [
        ({}, "keep"),
        ({"rise_mm": 25, "run_mm": 300.0}, "keep"),
        ({"rise_mm": 26, "run_mm": 300.0}, "look twice"),
        ({"rise_mm": 61, "run_mm": 300.0}, "reject"),
        ({"flaws": "small_knots"}, "look twice"),
        ({"flaws": "knots"}, "reject"),
        ({"flaws": "checks", "figured": True}, "reject"),
        ({"figured": True}, "look twice"),
        ({"moisture_pct": 18.0}, "look twice"),
        ({"dryness": "green"}, "look twice"),
    ],
)
def test_verdicts(more, word):
    verdict = judged(Lot(**{**LOT, **more}))
    assert verdict.word == word and all(r.endswith(".") for r in verdict.reasons)


def test_figured_wood_uses_more_of_its_strain():
    plain, figured = changed(), changed(stock={"figured": True})
    assert plan(figured).make.use.worst.value == pytest.approx(plan(plain).make.use.worst.value / 0.7)


def test_own_woods_are_marked_and_the_table_stays_as_it_is():
    own = (
        OwnWood(key="ash_white", moe_gpa=9.0),
        OwnWood(key="pear", name="Pear", sg12=0.7, moe_gpa=8, mor_mpa=80, crush_mpa=40),
    )
    ash = species("ash_white", own)
    assert (ash.moe_gpa, ash.mor_mpa, ash.own, ash.stiffness_grade) == (9.0, 103, ("moe_gpa",), "allowance")
    assert species("ash_white").own == () and species_table()["ash_white"].moe_gpa == 12
    assert set(wood_table(own)) - set(species_table()) == {"pear"}
    job = {**RIB, "stock": {"species": "pear"}}
    with pytest.raises(JobFaulty):
        read_job(job)
    made = plan(read_job(job, woods=own), Shop(woods=own))
    assert made.way.wood.name == "Pear" and made.make.breaking_strain.grade == "allowance"
    softer = plan(read_job(RIB), Shop(woods=own))
    assert softer.make.use.worst.value == pytest.approx(plan(read_job(RIB)).make.use.worst.value * 9 / 12)
    for bad in (
        {"key": "pear", "name": "Pear"},
        {"key": "pear", "sg12": 0.5, "moe_gpa": 9, "mor_mpa": 80, "crush_mpa": 40},
    ):
        with pytest.raises(ValueError, match="wood needs"):
            OwnWood(**bad)


def test_sheets_are_turned_the_way_they_bend():
    ply = sheet_table()["flex_ply_5"]
    common = {"layers": 2, "pieces": 3, "width_mm": 100, "kerf_mm": 0}
    short, long, longer = (sheet_cut(ply, length_mm=mm, **common) for mm in (1200, 2000, 3000))
    assert (short.bends_along, long.bends_along) == ("either", "long")
    assert (short.per_sheet, long.per_sheet, long.sheets) == (12 * 2, 12, 1)
    assert [len(j) for j in longer.joints_mm] == [1, 1] and longer.joints_mm[0] != longer.joints_mm[1]
    assert all(0 < at < 3000 and max(at, 3000 - at) <= 2440 for joints in longer.joints_mm for at in joints)
    wide = sheet_cut(veneer_leaf(), layers=1, pieces=1, length_mm=1500, width_mm=900, kerf_mm=0)
    assert wide.leaves == 4 and wide.sheets == 4


def test_grain_weakens_as_it_slopes_and_has_no_figure_beyond_one_in_five():
    """Between the figures along a straight line; at each of them just that; never stronger for sloping more."""
    for run, factor in ((25, 0.96), (20, 0.93), (15, 0.89), (10, 0.81), (5, 0.55)):
        assert grain_factor(1 / run) == pytest.approx(factor)
    assert grain_factor((1 / 10 + 1 / 5) / 2) == pytest.approx((0.81 + 0.55) / 2)
    slopes = np.linspace(0, 0.2, 60)
    factors = [grain_factor(float(s)) for s in slopes]
    assert factors == sorted(factors, reverse=True) and factors[0] == 1
    assert wood_factor(0.1, figured=True) == pytest.approx(0.81 * FIGURED_FACTOR)
    for bad in (-1e-6, 0.2001, math.nan):
        with pytest.raises(PlanError):
            grain_factor(bad)


def test_a_verdict_says_every_reason_the_gravest_first():
    bad = judged(Lot(**{**LOT, "flaws": "checks", "figured": True, "rise_mm": 30, "dryness": "green"}))
    assert (bad.level, bad.word) == ("stop", "reject") and len(bad.reasons) == 4 and "Checks" in bad.reasons[0]
    assert "1 in 10" in bad.reasons[1] and judged(Lot(**LOT)).reasons == ("OK: nothing against it.",)
    for rise, word in ((300 / 12, "keep"), (300 / 12 + 0.01, "look twice"), (60.0, "look twice"), (60.01, "reject")):
        assert judged(Lot(**{**LOT, "rise_mm": rise})).word == word
    for wet, word in ((14.0, "keep"), (14.1, "look twice")):
        assert judged(Lot(**{**LOT, "moisture_pct": wet})).word == word
    assert Lot(**{**LOT, "rise_mm": 20, "run_mm": 400}).grain_slope == pytest.approx(0.05)


def test_every_wood_breaks_at_its_strength_over_its_stiffness():
    for key, wood in species_table().items():
        assert (
            wood.breaking_strain == pytest.approx(wood.mor_mpa / (wood.moe_gpa * 1000))
            and 0.004 < wood.breaking_strain < 0.015
        )
        assert wood.key == key and wood.stiffness_source and (wood.rt_strap is None or wood.bend_source)
        assert wood.rt_strap is None or wood.rt_free is None or wood.rt_strap <= wood.rt_free
    assert species("walnut_black").said[0].islower()
    with pytest.raises(PlanError, match="No wood called"):
        species("unobtainium")
    strap = OwnWood(key="ash_white", rt_strap=5.0)
    assert strap.own_limits == (("in a strap", 5.0),) and wood_table((strap,))["ash_white"].bend_grade == "allowance"
    assert OwnWood(key="ash_white", rt_free=20.0, rt_strap=6.0).own_limits == (("in a strap", 6.0), ("free", 20.0))
    assert OwnWood(key="pear", name="Pear", sg12=0.7, moe_gpa=8, mor_mpa=80, crush_mpa=40, rt_free=9).own_limits == ()


@pytest.mark.parametrize(("length", "width", "layers", "pieces", "kerf"), [
    (1200, 100, 2, 3, 3.0), (800, 300, 5, 4, 0.0), (2400, 50, 7, 2, 3.0), (3000, 200, 3, 2, 3.0), (1000, 1300, 2, 2, 0.0),
])  # fmt: skip
def test_layers_out_of_sheets_are_enough_and_lie_inside(length, width, layers, pieces, kerf):
    sheet = sheet_table()["flex_ply_5"]
    made = sheet_cut(sheet, layers=layers, pieces=pieces, length_mm=length, width_mm=width, kerf_mm=kerf)
    long, short = sheet.sheet_long_mm, sheet.sheet_short_mm
    wanted = layers * pieces * made.leaves
    if made.per_sheet:
        across = math.floor((short + kerf) / (min(width, short) + kerf) + 1e-9)
        assert made.per_sheet == across * math.floor((long + kerf) / (length + kerf) + 1e-9)
        assert made.sheets * made.per_sheet >= wanted > (made.sheets - 1) * made.per_sheet
    else:  # pieced: every length of every layer
        assert length > long and all(len(j) == math.ceil(length / long) - 1 for j in made.joints_mm)
        for one, other in zip(made.joints_mm, made.joints_mm[1:], strict=False):
            assert all(abs(a - b) > 100 for a in one for b in other)
    assert made.leaves == math.ceil(width / short) and made.bends_along == ("either" if length <= short else "long")
    assert (made.run_mm, made.cross_mm) == (long, short)
    more = sheet_cut(sheet, layers=layers, pieces=pieces, length_mm=length, width_mm=width, kerf_mm=kerf, cauls=9)
    assert more.sheets >= made.sheets
    for layer, joints in enumerate(made.joints_across_mm):  # no joint over the next
        assert len(joints) == (made.leaves if layer % 2 and made.leaves > 1 else made.leaves - 1)
        assert all(0 < j < width for j in joints)
    assert sheet.least_bend_strain == pytest.approx(sheet.thickness_mm / (2 * sheet.min_radius_mm))
    assert veneer_leaf(150.0).sheet_short_mm == 150 != veneer_leaf().sheet_short_mm
