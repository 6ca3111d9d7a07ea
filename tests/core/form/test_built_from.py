"""What a form is made from: schools of springback, clamps, stiffness, ribs and spacers, holes, pieced parts, shims."""

import math

import numpy as np
import pytest
from scipy.integrate import solve_bvp
from shapely.geometry import Point, Polygon

from bright_willow.core.common.errors import PlanError
from bright_willow.core.form.carcase import JOINT_LAP_MM, PLATFORM_EDGE_MM, rows_of_spacers, spacer_places
from bright_willow.core.form.closing import Presser, closing, gap_left_mm, shares_along, splits_for
from bright_willow.core.form.face import FormFace
from bright_willow.core.form.holes import clamp_hole_mm
from bright_willow.core.form.nesting import GAP_MM, nested
from bright_willow.core.form.parts import (
    Edge,
    Hole,
    apart_mm,
    area_mm2,
    dense,
    edge_of,
    holes_inside,
    joined,
    length_mm,
    rectangle,
)
from bright_willow.core.form.schools import SCHOOLS, overbent, overbent_by_distance
from bright_willow.core.form.shims import VENEER_MM, OldFormFit, fit_on
from bright_willow.core.form.stiffness import GOODS, beam_deflection_mm
from bright_willow.core.job.job import FormChoice
from bright_willow.core.learning.belief import NOTHING_LEARNT
from bright_willow.core.plan.plan import plan, sketch
from bright_willow.core.shape.curve import Curve
from bright_willow.core.shop.clamps import CAUL_MM, clamp_table, clamps_needed
from bright_willow.core.shop.shop import OwnClamps, Shop
from bright_willow.core.springback.glued import Glued
from bright_willow.core.springback.layup import Layup
from tests.core.methods.jobs import job_for

HOOK = Curve.of([300.0, 250.0, 250.0, 100.0], [0.0, 1 / 400, 1 / 400, 0.0])
LAW = Glued(Layup(np.full(6, 4.0), np.full(6, 12_000.0), np.zeros(6)))
NOBODY = NOTHING_LEARNT.about(way="cold_lamination", group="ash_white|rigid")


# -- schools --------------------------------------------------------------------------------------------------------
def test_an_end_turned_further_turns_by_just_that():
    """Each half by its own angle, in proportion to its own bend; straights stay straight."""
    over = overbent(HOOK, left_rad=0.1, right_rad=0.03)
    turn = HOOK.lengths_mm * (over - HOOK.curvature)
    middle = HOOK.length_mm / 2
    assert turn.sum() == pytest.approx(0.13)
    assert over[0] == over[-1] == 0 and (over[1:3] > HOOK.curvature[1:3]).all()
    halves = HOOK.parted_in_the_middle()
    exact = overbent(halves, left_rad=0.1, right_rad=0.03)
    gained = halves.lengths_mm * (exact - halves.curvature)
    left = halves.stations_mm[1:] <= middle + 1e-9
    assert (gained[left].sum(), gained[~left].sum()) == pytest.approx((0.1, 0.03))
    # within a half in proportion to its own bend: every bent cell by the same share
    share = exact[1:] / np.where(halves.curvature[1:], halves.curvature[1:], 1)
    bent = halves.curvature[1:] != 0
    assert len({round(float(s), 9) for s in share[bent & left[1:]]}) == 1
    with pytest.raises(PlanError, match="no bend that could"):
        overbent(Curve.of([500.0, 500.0], [0.0, 2e-3]), left_rad=0.1, right_rad=0.0)
    assert overbent(Curve.of([500.0, 500.0], [0.0, 2e-3]), left_rad=0.0, right_rad=0.0) == pytest.approx([0, 2e-3])


@pytest.mark.parametrize(("left", "right"), [(12.0, 0.0), (0.0, 7.5), (20.0, 5.0)])
def test_an_end_brought_in_ends_just_so_far_from_where_it_was(left, right):
    halves = HOOK.parted_in_the_middle()
    over = halves.with_curvature(overbent_by_distance(halves, left_mm=left, right_mm=right))

    def ends(curve):
        points, headings = curve.at(np.array([0.0, curve.length_mm / 2, curve.length_mm]))
        c, s = math.cos(headings[1]), math.sin(headings[1])
        return (points - points[1]) @ np.array([[c, -s], [s, c]])  # level in the middle

    moved = np.hypot(*(ends(over) - ends(halves)).T)
    assert (moved[0], moved[2]) == pytest.approx((left, right), abs=1e-6)
    with pytest.raises(PlanError, match="further than this end"):
        overbent_by_distance(halves, left_mm=2_000.0, right_mm=0.0)


def test_each_school_makes_its_own_form():
    choice = FormChoice(left_deg=2.0, right_deg=3.0, left_mm=4.0, right_mm=5.0)
    halves = HOOK.parted_in_the_middle()
    made = {
        key: school.form_curvature(choice, LAW, halves, 1.2, NOBODY)
        for key, school in SCHOOLS.items()
        if key != "own_record"
    }
    assert LAW.release(made["computed"], loss_ratio=1.2) == pytest.approx(halves.curvature, abs=1e-12)
    assert made["to_size"] is halves.curvature
    assert made["by_angle"] == pytest.approx(overbent(halves, left_rad=math.radians(2), right_rad=math.radians(3)))
    assert made["by_distance"] == pytest.approx(overbent_by_distance(halves, left_mm=4, right_mm=5))
    assert {k for k, s in SCHOOLS.items() if s.needs_halves} == {"by_angle", "by_distance"}
    with pytest.raises(PlanError, match="has no bend of this kind"):
        SCHOOLS["own_record"].form_curvature(choice, LAW, halves, 1.2, NOBODY)


# -- clamps and stiffness -------------------------------------------------------------------------------------------
def test_clamps_by_force_by_reach_and_by_their_own_width():
    clamp = clamp_table()["f_clamp"]
    newtons = clamp.force_kn * 1000
    by_force = clamps_needed(pressure_mpa=1.0, width_mm=newtons / 200, length_mm=1000, clamp=clamp, spread_mm=500)
    assert by_force == 1000 / 200  # each presses 200 mm of it
    assert clamps_needed(pressure_mpa=1.0, width_mm=newtons / 201, length_mm=1000, clamp=clamp, spread_mm=500) == 5
    assert clamps_needed(pressure_mpa=1.0, width_mm=newtons / 199, length_mm=1000, clamp=clamp, spread_mm=500) == 6
    reach = clamp.jaw_mm + 2 * CAUL_MM
    assert clamps_needed(pressure_mpa=1e-3, width_mm=20, length_mm=4 * reach, clamp=clamp) == 4
    assert clamps_needed(pressure_mpa=1e-3, width_mm=20, length_mm=4 * reach + 1, clamp=clamp) == 5
    wide = clamps_needed(pressure_mpa=1e-3, width_mm=20, length_mm=4 * reach, clamp=clamp, spread_mm=200)
    assert wide < 4
    assert clamps_needed(pressure_mpa=50, width_mm=500, length_mm=1000, clamp=clamp) == 1000 // clamp.jaw_mm
    assert clamps_needed(pressure_mpa=50, width_mm=500, length_mm=5, clamp=clamp) == 1
    assert clamp_hole_mm(Shop()) == clamp.jaw_mm + 15
    more = Shop(
        clamps=(OwnClamps(kind="f_clamp", count=3, opening_mm=300), OwnClamps(kind="parallel", count=9, opening_mm=300))
    )
    assert clamp_hole_mm(more) == clamp_table()["parallel"].jaw_mm + 15  # of those there are most of


@pytest.mark.parametrize(("depth", "span"), [(60.0, 200.0), (25.0, 350.0)])
def test_what_a_body_gives_against_a_beam_that_was_solved(depth, span):
    """E I y'''' = w with both ends held up: another program's boundary value problem."""
    pressure, width, modulus = 0.4, 50.0, 6.0
    ei = modulus * 1000 * width * depth**3 / 12
    grid = np.linspace(0, span, 201)
    solved = solve_bvp(
        lambda x, y: np.vstack((y[1], y[2], y[3], np.full_like(x, pressure * width / ei))),
        lambda a, b: np.array([a[0], a[2], b[0], b[2]]),
        grid,
        np.zeros((4, grid.size)),
        tol=1e-8,
    )
    made = beam_deflection_mm(pressure_mpa=pressure, width_mm=width, span_mm=span, depth_mm=depth, modulus_gpa=modulus)
    assert made == pytest.approx(float(np.abs(solved.y[0]).max()), rel=1e-5)


def test_what_spans_is_named_and_nothing_spans_under_a_bag():
    def weak(**form):
        press = form.pop("press", "clamps")
        return sketch(job_for("cold_lamination", form=form, build_up={"press": press, "adhesive": "epoxy"}))

    ribs, sides, body = weak(build="ribs"), weak(build="sawn_sides"), weak(build="stack")
    assert ribs.form.deflection.where == "the skin between two ribs"
    assert ribs.form.deflection.span_mm == pytest.approx(max(5.0, ribs.form.rib_spacing_mm - 18))
    assert sides.form.deflection.where == "a slat between the sides"
    assert sides.form.deflection.span_mm == pytest.approx(max(5.0, sides.site.stack_mm - 36))
    assert body.form.deflection.span_mm == pytest.approx(body.form.clamp_pitch_mm)
    for made, depth in (
        (ribs, ribs.site.choice.skin_mm),
        (sides, sides.site.choice.skin_mm),
        (body, body.site.choice.depth_mm),
    ):
        own = made.form.deflection
        by_hand = beam_deflection_mm(
            pressure_mpa=made.site.pressure_mpa, width_mm=40, span_mm=own.span_mm, depth_mm=depth,
            modulus_gpa=GOODS[made.site.choice.goods][1],
        )  # fmt: skip
        assert own.value_mm == pytest.approx(by_hand)
    assert weak(build="stack", press="vacuum").form.deflection is None
    assert weak(build="ribs", press="vacuum").form.deflection is not None
    assert weak(kind="posts").form.deflection is None
    assert weak(press="vacuum").form.clamps == 0 == weak(press="vacuum").form.clamp_pitch_mm


# -- parts ----------------------------------------------------------------------------------------------------------
def test_holes_keep_their_wood_and_their_distance():
    """Against shapely: no bolt nearer to the edge than one and a half diameters, no two nearer than 12 mm."""
    outline = rectangle(400.0, 60.0)
    body = Polygon(dense(outline))
    spots = np.array(
        [[10.0, 30.0], [16.0, 30.0], [40.0, 30.0], [60.0, 30.0], [200.0, 14.0], [200.0, 44.0], [390, 5], [500, 30]]
    )
    made = holes_inside(outline, spots, diameter_mm=10.5, what="bolt", turned_rad=np.arange(8) / 10)
    assert [(h.x_mm, h.y_mm) for h in made] == [(16, 30), (40, 30), (200, 44)]
    for hole in made:
        assert body.contains(Point(hole.x_mm, hole.y_mm))
        assert body.exterior.distance(Point(hole.x_mm, hole.y_mm)) >= 1.5 * 10.5 - 1e-6
        assert hole.turned_rad == pytest.approx(list(map(tuple, spots.tolist())).index((hole.x_mm, hole.y_mm)) / 10)
    for i, one in enumerate(made):
        for other in made[i + 1 :]:
            assert apart_mm(one, other) >= 12
    assert (10.0, 30.0) not in {(h.x_mm, h.y_mm) for h in made} and (500.0, 30.0) not in {
        (h.x_mm, h.y_mm) for h in made
    }
    clamps = holes_inside(outline, np.array([[200.0, 30.0]]), diameter_mm=37.0, what="clamp")
    assert clamps == [] and holes_inside(outline, np.array([[200.0, 30.0]]), diameter_mm=35.0, what="clamp")


def test_a_clamp_hole_has_its_flat_towards_the_wood():
    """Half a radius from its middle, square to where the wood is: a circle less a segment of 120°."""
    hole = Hole(100.0, 50.0, 40.0, "clamp", math.radians(90))
    edge = hole.edge
    flat = np.array(edge.points_mm[:2])
    assert edge.bulges[0] == 0 and np.hypot(*(flat[1] - flat[0])) == pytest.approx(20 * math.sqrt(3))
    middle = flat.mean(axis=0) - [100, 50]
    assert np.hypot(*middle) == pytest.approx(10) and middle == pytest.approx([-10, 0])  # its wood lies to the left
    whole, cut = math.pi * 400, 400 * (math.pi / 3 - math.sqrt(3) / 4)
    assert area_mm2(edge) == pytest.approx(whole - cut, rel=1e-6)
    assert area_mm2(Hole(0, 0, 10.5, "bolt").edge) == pytest.approx(math.pi * 10.5**2 / 4)


def test_spacers_stand_within_their_rib():
    arch = Edge("BODY", ((0.0, 0.0), (900.0, 0.0), (900.0, 80.0), (0.0, 80.0)), (0.0, 0.0, 0.2, 0.0), True)
    body = Polygon(dense(arch, 1.0))
    places = spacer_places(arch)
    assert len(places) == rows_of_spacers(900.0) == 4 and all(body.contains(Point(*p)) for p in places)
    xs = [x for x, _ in places]
    assert (xs[0], xs[-1]) == pytest.approx((50, 850), abs=1) and np.diff(xs) == pytest.approx(np.diff(xs)[0])
    assert [rows_of_spacers(w) for w in (100, 400, 401, 800, 801)] == [2, 2, 3, 3, 4]


def test_a_form_on_ribs_is_counted_out():
    made = plan(job_for("cold_lamination", form={"build": "ribs", "skin_mm": 6.5}, part={"width_mm": 300}))
    parts = {p.name: p for p in made.build.parts}
    ribs = round((made.site.stack_mm - 18) / made.form.rib_spacing_mm) + 1
    assert parts["form"].count == ribs and parts["spacers of the form"].count == rows_of_spacers(
        parts["form"].width_mm
    ) * (ribs - 1)
    assert parts["spacers of the form"].width_mm == pytest.approx(made.form.rib_spacing_mm - 18)
    platform = parts["platform of the form"]
    assert platform.width_mm == pytest.approx(parts["form"].width_mm + 2 * PLATFORM_EDGE_MM)
    assert platform.height_mm == pytest.approx(made.site.stack_mm + 2 * PLATFORM_EDGE_MM)
    assert parts["skin of the form"].width_mm == pytest.approx(made.face.curve.length_mm, rel=0.05)
    by_area = sum(area_mm2(p.outline) * p.count * p.thickness_mm * 1e-9 for p in made.build.parts)
    assert made.build.mass_kg == pytest.approx(by_area * GOODS[made.site.choice.goods][2])
    assert made.build.goods_m2 == pytest.approx(sum(area_mm2(p.outline) * p.count * 1e-6 for p in made.build.parts))
    assert made.build.bolts == 0 == len(made.build.without_bolts)
    stack = plan(job_for("cold_lamination", form={"build": "stack", "sheet_mm": 18})).build
    assert stack.bolts == sum(1 for h in stack.parts[0].holes if h.what == "bolt") >= 2
    assert stack.bolt_length_mm == pytest.approx(plan(job_for("cold_lamination")).site.stack_mm + 30)


def test_a_part_longer_than_the_sheet_is_pieced_with_a_lap():
    small = Shop(sheet_long_mm=700.0, sheet_short_mm=600.0)
    made = plan(job_for("cold_lamination"), small).build
    (part,) = made.parts
    long = max(part.width_mm, part.height_mm)
    short = min(part.width_mm, part.height_mm)
    pieces = math.ceil((long - JOINT_LAP_MM) / (680 - JOINT_LAP_MM)) * math.ceil(
        max(1, (short - JOINT_LAP_MM) / (580 - JOINT_LAP_MM)) if short > 580 else 1
    )
    assert part.segments == pieces > 1
    assert len(made.nest.placed) == part.count * pieces
    for one in made.nest.placed:
        assert one.x_mm >= GAP_MM and one.x_mm + one.width_mm <= 700 - GAP_MM + 0.2
        assert one.y_mm >= GAP_MM and one.y_mm + one.height_mm <= 600 - GAP_MM + 0.2
    with pytest.raises(PlanError, match="fits no sheet"):
        nested(((500.0, 700.0, 1),), sheet_long_mm=600, sheet_short_mm=600)


# -- the face, and an old form for a new job ------------------------------------------------------------------------
def test_a_base_is_level_and_a_back_is_parallel():
    face = FormFace.under(HOOK, thickness_mm=24, liner_mm=2, side="inner", trims_mm=(30, 50), depth_mm=100)
    assert face.back.curvature == pytest.approx(face.curve.parallel(-100).curvature) and face.wood_mm == 28
    laid = face.laid(face.curve.points_mm)
    assert laid[[0, -1], 1] == pytest.approx([0, 0], abs=1e-9) and laid[0, 0] == pytest.approx(-laid[-1, 0])
    # 386 of radius is left of 400; a body as deep as leaves 20 has a back, one deeper has none
    for depth, has in ((365.9, True), (366.1, False)):
        deep = FormFace.under(HOOK, thickness_mm=24, liner_mm=2, side="inner", trims_mm=(0, 0), depth_mm=depth)
        assert (deep.back is not None) == has
    outer = FormFace.under(HOOK, thickness_mm=24, liner_mm=2, side="outer", trims_mm=(0, 0), depth_mm=9_000)
    assert outer.back is not None  # outwards it never folds
    assert face.along_mm(0.0) == face.part_start_mm and face.along_mm(1.0) == face.part_end_mm
    assert face.part_start_mm == pytest.approx(30) and face.curve.length_mm - face.part_end_mm == pytest.approx(50)
    # the middle of the wood, on a face that is shorter by what turns before it
    before = float(HOOK.at(np.array([(30 + HOOK.length_mm - 50) / 2]))[1][0]) - HOOK.headings_rad[0]
    assert face.middle_mm == pytest.approx((30 + HOOK.length_mm - 50) / 2 + 14 * before)


def test_pressure_falls_with_the_slope():
    assert shares_along(np.radians([0, 60, 90, 120]), 0.0) == pytest.approx([1, 0.5, 0, -0.5], abs=1e-12)
    assert shares_along(np.radians([-30.0]), 30.0) == pytest.approx([1])  # falling to the right, pushed that way
    one = Presser("far half", 0, 100, 0, 0.4, 0, 0.4, ())
    assert one.pinched_mm == pytest.approx(2.0) and one.closes
    assert not Presser("far half", 0, 100, 0, -0.01, 0, 0.4, ()).closes and gap_left_mm(5.0, -0.2) == 0


def test_an_old_form_serves_within_its_tolerance_and_no_shorter():
    def fit(face, tolerance=1.0, blank=None):
        return fit_on(
            face,
            offset_mm=12.0,
            law=LAW,
            target=HOOK,
            loss_ratio=1.0,
            blank_mm=blank or HOOK.length_mm,
            tolerance_mm=tolerance,
        )

    own = HOOK.with_curvature(LAW.form_curvature_for(HOOK.curvature)).parallel(-12.0)
    same = fit(own)
    assert (
        same.off_mm == pytest.approx(0, abs=1e-6) and same.serves(0.01) and same.stretch_mm is None and same.shims == ()
    )
    short = fit(own, blank=HOOK.length_mm + 40)
    assert short.too_short_mm == pytest.approx(40) and not short.serves(50) and not short.serves_with_shims(50)
    gentler = HOOK.with_curvature(LAW.form_curvature_for(HOOK.curvature) * 0.985).parallel(-12.0)
    off = fit(gentler)
    released = HOOK.with_curvature(LAW.release(gentler.parallel(12.0).curvature))
    apart = np.hypot(*(released.points_mm - HOOK.points_mm).T)
    assert (
        off.off_mm == pytest.approx(apart.max(), rel=0.02)
        and not off.serves(off.off_mm - 0.01)
        and off.serves(off.off_mm)
    )
    assert off.start_off_mm > 0 < off.end_off_mm  # it opens: both ends stand outwards
    assert off.stretch_mm and off.shims and off.shims_mm == pytest.approx(max(s.count for s in off.shims) * VENEER_MM)
    assert off.off_with_shims_mm <= VENEER_MM / 2 + 1e-9 and off.serves_with_shims(VENEER_MM)
    assert not OldFormFit(0.0, 5.0, 5.0, 5.0, None, (), 0.0, None).serves_with_shims(9.0)


# -- runs along a face ----------------------------------------------------------------------------------------------
def test_a_long_turn_is_split_evenly_by_how_far_it_turns():
    """Half a turn and more: two pieces; none turns further than a straight push presses."""
    assert splits_for(np.linspace(0, 1000, 401), np.linspace(1.3, -1.3, 401), 500.0) == ()
    at, headings = np.linspace(0, 1000, 401), np.linspace(1.6, -1.6, 401)
    assert splits_for(at, headings, 500.0) == (0.0,) and splits_for(at, headings, 400.0)[0] == pytest.approx(100, abs=2)
    # all of the turning in the last fifth: the split lies there, not in the middle
    late = np.concatenate((np.full(321, 1.6), np.linspace(1.6, -1.6, 80)))
    (cut,) = splits_for(at, late, 500.0)
    assert cut == pytest.approx(900 - 500, abs=3)
    three = splits_for(at, np.linspace(3.0, -3.0, 401), 500.0)
    assert (
        len(three) == 2
        and three[0] == pytest.approx(-three[1], abs=1)
        and three[0] == pytest.approx(1000 / 3 - 500, abs=2)
    )
    assert splits_for(at, np.linspace(9.0, -9.0, 401), 500.0) == ()  # four would not do


def test_stretches_that_starve_and_that_look_away_are_told_apart():
    face = FormFace.under(
        Curve.of([200.0, 200.0 * 2.2, 200.0], [0.0, 1 / 200, 0.0]),
        thickness_mm=10, liner_mm=0, side="inner", trims_mm=(0, 0), depth_mm=60,
    )  # fmt: skip
    made = closing(face, direction_deg=0.0, splits_mm=(), released_headings_rad=face.curve.headings_rad)
    (far,) = made.pressers
    assert far.name == "outer half" and far.closes != (far.least_share < 0)
    kinds = [t.trouble for t in far.troubles]
    assert set(kinds) <= {"starved", "undercut"} and kinds == kinds[::-1]  # the same at both legs
    shares = np.array(made.shares)
    for trouble in far.troubles:
        own = shares[
            (np.array(made.stations_mm) >= trouble.start_mm - 1e-9)
            & (np.array(made.stations_mm) <= trouble.end_mm + 1e-9)
        ]
        assert own.min() == pytest.approx(trouble.least_share)
        assert (own < 0.25).all() if trouble.trouble == "starved" else (own < 0).all()
    covered = sum(
        ((np.array(made.stations_mm) >= t.start_mm - 1e-9) & (np.array(made.stations_mm) <= t.end_mm + 1e-9)).sum()
        for t in far.troubles
    )
    assert covered == (shares < 0.25).sum()
    names = [
        p.name
        for p in closing(
            face, direction_deg=0.0, splits_mm=(-120.0, 120.0), released_headings_rad=face.curve.headings_rad
        ).pressers
    ]
    assert names == ["left side caul", "middle caul", "right side caul"]
    two = closing(face, direction_deg=0.0, splits_mm=(0.0,), released_headings_rad=face.curve.headings_rad).pressers
    assert [p.name for p in two] == ["outer half 1", "outer half 2"] and two[0].end_mm == two[
        1
    ].start_mm == face.middle_mm


def test_a_stretch_of_a_curve_is_cut_into_arcs_that_lie_on_it():
    """Across joints, from the middle of one cell to the middle of another; every arc on the curve, none over 60°."""
    face = FormFace.under(HOOK, thickness_mm=24, liner_mm=0, side="inner", trims_mm=(0, 0), depth_mm=60)
    for start, end in ((0.0, None), (120.0, 700.0), (310.0, 520.0)):
        edge = edge_of("FACE", face.curve, face, start, end)
        dots = dense(edge, 1.0)
        stop = face.curve.length_mm if end is None else end
        wanted = face.laid(face.curve.at(np.linspace(start, stop, 4000))[0])
        apart = np.hypot(dots[:, None, 0] - wanted[None, :, 0], dots[:, None, 1] - wanted[None, :, 1]).min(axis=1)
        assert apart.max() < 0.2 and max(abs(b) for b in edge.bulges) <= math.tan(1.05 / 4) + 1e-9
        assert length_mm(edge) == pytest.approx(stop - start, rel=1e-6)
        assert len(edge.points_mm) == len(edge.bulges) + 1
    with pytest.raises(PlanError, match="same place"):
        edge_of("FACE", face.curve, face, 200.0, 200.0)
    there, back = edge_of("FACE", face.curve, face), edge_of("BODY", face.back, face)
    ring = joined(there, back)
    swept = Polygon(np.vstack((dense(there, 0.5), dense(back, 0.5)[::-1])))
    assert area_mm2(ring) == pytest.approx(swept.area, rel=1e-4) and ring.closed


def test_a_hole_in_the_hollow_of_a_u_is_not_in_its_wood():
    """To its right the line is crossed twice: outside."""
    u = Edge(
        "BODY", ((0, 0), (300, 0), (300, 300), (220, 300), (220, 80), (80, 80), (80, 300), (0, 300)), (0.0,) * 8, True
    )
    places = np.array([[40.0, 200.0], [150.0, 200.0], [260.0, 200.0], [150.0, 40.0], [150.0, 400.0]])
    made = holes_inside(u, places, diameter_mm=10.5, what="bolt")
    assert [(h.x_mm, h.y_mm) for h in made] == [(40, 200), (260, 200), (150, 40)]


@pytest.mark.parametrize("sheet", [18.0, 12.0, 10.0])
def test_layers_and_ribs_fill_the_height_of_the_form(sheet):
    made = plan(job_for("cold_lamination", form={"build": "stack", "sheet_mm": sheet}))
    layers = made.form.layers
    assert layers * sheet >= made.site.stack_mm - 1e-6 > (layers - 1) * sheet and made.build.parts[0].count == layers
    assert plan(job_for("cold_lamination", form={"build": "solid"})).form.layers == 1
    ribs = plan(job_for("cold_lamination", form={"build": "ribs", "sheet_mm": sheet}, part={"width_mm": 500}))
    spacing, between = ribs.form.rib_spacing_mm, ribs.site.stack_mm - sheet
    assert between / spacing == pytest.approx(round(between / spacing)) and spacing <= 75
    skins = [p for p in ribs.build.parts if p.name.startswith("skin")]
    assert [p.count for p in skins] == [1] and skins[0].height_mm == pytest.approx(ribs.site.stack_mm)
    assert plan(job_for("cold_lamination", form={"build": "sawn_sides"})).build.parts[0].count == 2


def test_offsets_are_counted_from_the_middle_both_ways():
    face = FormFace.under(
        Curve.of([900.0], [1 / 1000]), thickness_mm=20, liner_mm=0, side="inner", trims_mm=(0, 0), depth_mm=60
    )
    rows = face.offsets(100.0)
    xs = [round(x, 6) for x, _ in rows]
    assert 0.0 in xs and xs == sorted(xs) and xs[1:-1] == pytest.approx([100.0 * n for n in range(-4, 5)])
    top = dict(zip(xs, (y for _, y in rows), strict=True))[0.0]
    chord, rise = face.curve.chord_and_rise_mm()
    assert (
        top == pytest.approx(rise)
        and (xs[-1] - xs[0]) == pytest.approx(chord)
        and rows[0][1] == pytest.approx(0, abs=1e-9)
    )
    with pytest.raises(PlanError):
        face.offsets(0.0)
