"""Veneer plies joined of leaves: by hand, as laws over chance widths, and through the plan to the step that joins them."""

import itertools
import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from bright_willow.core.common.errors import PlanError
from bright_willow.core.common.units import format_length
from bright_willow.core.plan.plan import plan
from bright_willow.core.shop.shop import Shop
from bright_willow.core.shop.times import Times
from bright_willow.core.stock.sheet_cutting import sheet_cut
from bright_willow.core.stock.veneer_plan import tape_mm, veneer_plan
from bright_willow.core.wood.sheets import sheet_table, veneer_leaf
from tests.core.methods.jobs import job_for

LAYERS = [{"thickness_mm": 0.6, "material": "walnut_black"}, {"thickness_mm": 5, "material": "flex_ply_5"}]
LAYERS += [{"thickness_mm": 5, "material": "flex_ply_5"}, {"thickness_mm": 0.6, "material": "walnut_black"}]


def desk(*, show="outer", leaf_mm=320.0, width_mm=900.0, **more):
    layers = {"lay_up": "layers", "layers": LAYERS, "laminae": 4, "lamina_mm": None}
    part = {"thickness_mm": 11.2, "width_mm": width_mm, "count": 2, "spares": 1, **more}
    return job_for("sheet_layup", part=part, build_up=layers, prepare={"leaf_mm": leaf_mm, "show": show})


def test_by_hand():
    """906 mm of leaves of 320: three of 302 on the face that shows, half a leaf further over on the other."""
    made = plan(desk(), Shop(clean_up_mm=6)).laid_up.veneers
    inner, outer = made.plies
    assert (inner.number, inner.shows, inner.widths_mm) == (1, False, (151, 302, 302, 151))
    assert (outer.number, outer.shows, outer.widths_mm, outer.joints_mm) == (4, True, (302, 302, 302), (302, 604))
    # 2 mm for each shot edge; three pieces of each ply
    assert outer.slit_mm == (304, 306, 304) and inner.slit_mm == (153, 306, 306, 153)
    assert made.slit == ((306, 9), (304, 6), (153, 6)) and (made.joints, made.pieces) == (15, 3)
    assert made.tape_m == pytest.approx(15 * tape_mm(made.length_mm) / 1000)


@pytest.mark.parametrize(("show", "plain"), [("inner", 1), ("outer", 4), ("none", 1)])
def test_the_face_that_shows_is_made_of_whole_leaves(show, plain):
    plies = plan(desk(show=show)).laid_up.veneers.plies
    for ply in plies:
        assert ply.shows == (show != "none" and ply.number == plain)
        assert (max(ply.widths_mm) == pytest.approx(min(ply.widths_mm))) == (ply.number == plain)


@pytest.mark.parametrize(("long", "tape"), [(150, 150 + 160), (150.1, 150.1 + 240), (1500, 1500 + 11 * 80)])
def test_tape_on_a_joint(long, tape):
    assert tape_mm(long) == pytest.approx(tape)
    for bad in (0.0, -1.0, math.nan):
        with pytest.raises(PlanError):
            tape_mm(bad)


@given(st.floats(20, 3000), st.floats(30, 700), st.integers(1, 6), st.integers(1, 5))
def test_leaves_cover_the_part_come_out_of_what_is_bought_and_no_joint_lies_over_the_next(width, leaf, layers, pieces):
    cut = sheet_cut(veneer_leaf(leaf), layers=layers, pieces=pieces, length_mm=2000, width_mm=width, kerf_mm=0)
    made = veneer_plan((cut,), (tuple(range(1, layers + 1)),), pieces=pieces, shows=None)
    if width <= leaf:
        assert made is None and cut.leaves == 1
        return
    for ply in made.plies:
        assert sum(ply.widths_mm) == pytest.approx(width) and max(ply.slit_mm) <= leaf + 1e-6
        assert len(ply.widths_mm) == len(ply.joints_mm) + 1
        assert 2 * min(ply.slit_mm) <= leaf or len(set(map(round, ply.widths_mm))) == 1  # two halves out of one leaf
    if cut.leaves > 1:
        for one, other in itertools.pairwise(made.plies):
            assert min(abs(a - b) for a in one.joints_mm for b in other.joints_mm) >= width / cut.leaves / 2 - 1e-6
    assert sum(n for _, n in made.slit) == pieces * sum(len(ply.widths_mm) for ply in made.plies)
    assert cut.leaves * layers * pieces == cut.sheets  # as long as one length


def test_leaves_too_narrow_to_be_shot_are_refused():
    with pytest.raises(PlanError):
        sheet_cut(veneer_leaf(4.0), layers=1, pieces=1, length_mm=900, width_mm=100, kerf_mm=0)
    wide = sheet_table()["flex_ply_5"]  # of plywood no edge is shot
    assert sheet_cut(wide, layers=1, pieces=1, length_mm=900, width_mm=2440, kerf_mm=0).leaves == 2


@pytest.mark.parametrize("unit", ["mm", "in"])
def test_the_leaves_are_joined_in_a_step_of_its_own(unit):
    shop = Shop(units=unit)
    made = plan(desk(), shop)
    veneers, steps = made.laid_up.veneers, {o.key: o for o in made.operations}
    step = steps["join_leaves"]
    assert step.after[0].key == "cut_sheets" and steps["number"].after[0].key == "join_leaves"
    metres = veneers.joints * veneers.length_mm / 1000
    assert step.attended_s.likely == pytest.approx(Times(shop).of(joint_leaf=metres).likely)
    assert all(f"{count} of {format_length(wide, shop.rule)}" in step.steps[1] for wide, count in veneers.slit)
    assert "join_leaves" not in {o.key for o in plan(desk(leaf_mm=None, width_mm=200), shop).operations}
