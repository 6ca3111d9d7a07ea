"""Forms: faces that are true parallels, closing, parts, nesting, stiffness, and old forms for new jobs."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from bright_willow.core.common.errors import PlanError
from bright_willow.core.form.closing import best_direction, direction_to, shares_along, split_at
from bright_willow.core.form.nesting import GAP_MM, nested
from bright_willow.core.form.parts import area_mm2, dense, length_mm
from bright_willow.core.form.site import MOST_RIB_SPACING_MM
from bright_willow.core.form.stiffness import beam_deflection_mm, span_for
from bright_willow.core.job.faults import JobFaulty
from bright_willow.core.measuring.built_form import BuiltForm
from bright_willow.core.measuring.reuse import candidates
from bright_willow.core.plan.plan import plan
from bright_willow.core.plan.read_job import read_job
from bright_willow.core.shape.curve_figures import CurveFigures
from bright_willow.core.shop.shop import OwnClamps, Shop
from tests.conftest import RIB
from tests.core.plan.test_plan import LEANING
from tests.core.shape.test_shapes import KINDS, job_of


def leaning(**form):
    return read_job(
        {
            **RIB,
            "shape": LEANING,
            "part": {"thickness_mm": 14, "width_mm": 32},
            "build_up": {"laminae": 10},
            "form": form,
        }
    )


def codes(job, shop=None):
    return {f.code: f for f in plan(job, shop or Shop()).findings if f.code.startswith("form.")}


def nearest(a, b):
    """Largest distance of the points of a from the line through b."""
    start, way = b[:-1], np.diff(b, axis=0)
    worst = 0.0
    for p in a:
        t = np.clip(((p - start) * way).sum(1) / np.maximum((way**2).sum(1), 1e-12), 0, 1)
        worst = max(worst, float(np.hypot(*(p - start - way * t[:, None]).T).min()))
    return worst


@pytest.mark.parametrize("kind", [k for k in KINDS if k not in ("ring", "hoop")])
@pytest.mark.parametrize("side", ["inner", "outer"])
def test_opposite_faces_stand_a_stack_apart_everywhere(kind, side):
    job = job_of(kind, form={"kind": "three_part", "side": side, "liner_mm": 0.75})
    made = plan(job)
    near = dense(made.build.parts[0].edges[1], 1.0)
    assert len(made.build.parts) == 4
    for part in made.build.parts[1:]:
        far = dense(part.edges[1], 8.0)
        apart = [float(np.hypot(*(near - p).T).min()) for p in far]
        assert apart == pytest.approx(np.full(len(far), 18 + 1.5), abs=0.06)


def test_shares_by_hand_and_gaps():
    """An arc of a quarter turn, pressed straight: the ends face 45° away, cos 45° = 71 %."""
    made = plan(job_of("arc_by_radius", "mid", form={"kind": "two_part", "school": "to_size"}))
    close = made.form.closing
    half_turn = math.radians(form_sweep(made) / 2)
    assert close.least_share == pytest.approx(math.cos(half_turn), abs=1e-6)
    assert close.gaps_mm(10)[len(close.shares) // 2] == pytest.approx(10)
    assert min(close.gaps_mm(10)) == pytest.approx(10 * math.cos(half_turn), abs=1e-5)
    tilted = plan(job_of("arc_by_radius", "mid", form={"kind": "two_part", "school": "to_size", "close_deg": 20}))
    assert tilted.form.closing.least_share == pytest.approx(math.cos(half_turn + math.radians(20)), abs=1e-6)


def form_sweep(made):
    return abs(made.face_figures.sweep_deg)


@given(st.floats(-1.5, 1.4), st.floats(0.01, 1.6))
def test_no_direction_beats_the_best(low, spread):
    headings = np.linspace(low, low + spread, 40)
    best, share = best_direction(headings)
    assert shares_along(headings, best).min() == pytest.approx(share, abs=1e-9)
    for other in (best - 8, best + 5, 0.0):
        assert shares_along(headings, other).min() <= share + 1e-9


def test_leaning_legs_are_refused_and_their_three_part_form_accepted():
    plain = leaning(kind="two_part")
    made = plan(plain)
    assert codes(plain)["form.undercut"].level == "stop" and made.build.parts == () and made.build.nest is None
    troubles = {t.trouble for t in made.form.closing.pressers[0].troubles}
    assert troubles == {"starved", "undercut"}
    three = leaning(kind="three_part")
    assert "form.closes" in codes(three) and plan(three).form.closing.least_share > 0.5
    way_out = codes(plain)["form.undercut"].fix
    split = leaning(kind="two_part", splits_mm=list(way_out.sets["form.splits_mm"]))
    assert "form.closes" in codes(split) and len(plan(split).build.parts) == 3
    assert "form.holds_on" in codes(split)  # it lets go sideways only
    turned = job_of("hook", form={"kind": "two_part"})
    better = codes(turned)["form.starved"].fix.sets["form.close_deg"]
    assert "form.closes" in codes(job_of("hook", form={"kind": "two_part", "close_deg": better}))


def test_overbending_that_would_keep_a_form_from_closing_is_caught():
    """To size the legs stand square and only starve; with 12° of overbend at each they can no longer be passed."""
    square = {**LEANING, "left_lean_deg": 0, "right_lean_deg": 0}
    common = {**RIB, "shape": square, "part": {"thickness_mm": 14, "width_mm": 32}, "build_up": {"laminae": 10}}
    to_size = read_job({**common, "form": {"kind": "two_part", "school": "to_size"}})
    bent = read_job({**common, "form": {"kind": "two_part", "school": "by_angle", "left_deg": 12, "right_deg": 12}})
    assert "form.starved" in codes(to_size) and "form.undercut" in codes(bent)


def test_bad_directions_and_splits():
    with pytest.raises(JobFaulty) as caught:
        leaning(kind="two_part", close_deg=90)
    assert [f.message for f in caught.value.faults] == ["At most 84°, please."]
    with pytest.raises(PlanError, match="beyond the end"):
        plan(leaning(kind="two_part", splits_mm=[9_000]))
    with pytest.raises(PlanError, match="same place"):
        plan_problem = plan(leaning(kind="two_part", splits_mm=[0, 0]))
        raise PlanError("form", plan_problem.build.problem)
    face = plan(leaning(kind="two_part")).face
    top = face.curve.at(np.array([face.middle_mm]))[0][0]
    assert direction_to(face, top + np.array([0.0, 200.0]), outwards=True) == 0
    assert direction_to(face, top + np.array([200.0, 200.0]), outwards=True) == pytest.approx(45, abs=0.5)
    assert split_at(face, top, 1.0) == pytest.approx(0, abs=1)


@pytest.mark.parametrize("build", ["stack", "ribs", "solid", "sawn_sides"])
def test_parts_of_each_construction(build):
    job = read_job({**RIB, "form": {"build": build, "depth_mm": 100, "skin_mm": 6.5}})
    made = plan(job, Shop(clean_up_mm=6))
    parts = {p.name: p for p in made.build.parts}
    form = parts["form"]
    if build == "stack":
        assert form.count == math.ceil(66 / 18) and made.build.bolts >= 2
        assert all(h.diameter_mm == 10.5 for h in form.holes)
    if build in ("ribs", "sawn_sides"):
        gap = made.form.rib_spacing_mm
        assert form.edges[1].layer == "RIB" and (gap is None or gap <= MOST_RIB_SPACING_MM)
        face = dense(form.edges[1], 2.0)
        skin = made.face
        line = skin.laid(skin.curve.cut_finer(2000).points_mm)
        assert nearest(face[50:-50:25], line) == pytest.approx(6.5, abs=0.02)
    if build == "ribs":
        assert form.count == math.ceil((66 - 18) / made.form.rib_spacing_mm - 1e-9) + 1
        assert parts["skin of the form"].width_mm == pytest.approx(length_mm(form.edges[1]), abs=0.01)
    if build == "solid":
        assert (form.count, form.thickness_mm, made.build.nest) == (1, 66, None)


def test_areas_and_lengths_against_fine_polygons():
    made = plan(job_of("s", form={"kind": "three_part"}))
    for part in made.build.parts:
        x, y = dense(part.outline, 0.2).T
        fine = abs(float(np.dot(x, np.roll(y, -1)) - np.dot(y, np.roll(x, -1)))) / 2
        assert area_mm2(part.outline) == pytest.approx(fine, rel=2e-5)
        walked = float(np.hypot(*np.diff(dense(part.edges[1], 0.2), axis=0).T).sum())
        assert length_mm(part.edges[1]) == pytest.approx(walked, rel=1e-5)


@given(st.lists(st.tuples(st.floats(40, 900), st.floats(30, 500), st.integers(1, 9)), min_size=1, max_size=9))
def test_nested_parts_lie_on_the_sheet_and_apart(sizes):
    nest = nested(tuple(sizes), sheet_long_mm=2440, sheet_short_mm=1220)
    assert len(nest.placed) == sum(n for _, _, n in sizes)
    for i, p in enumerate(nest.placed):
        assert p.x_mm >= GAP_MM - 1e-6 and p.x_mm + p.width_mm <= 2440 + 1e-6
        assert p.y_mm >= GAP_MM - 1e-6 and p.y_mm + p.height_mm <= 1220 + 1e-6
        assert sorted((p.width_mm, p.height_mm)) == sorted(sizes[p.part][:2])
        for q in nest.placed[:i]:
            if q.sheet == p.sheet:
                apart = max(q.x_mm - p.x_mm - p.width_mm, p.x_mm - q.x_mm - q.width_mm)
                above = max(q.y_mm - p.y_mm - p.height_mm, p.y_mm - q.y_mm - q.height_mm)
                assert max(apart, above) >= GAP_MM - 0.2
    assert 0 < nest.used_share <= 1


def test_what_cannot_be_cut_is_said_and_nothing_is_built_half():
    small = Shop(sheet_long_mm=400, sheet_short_mm=300)
    found = codes(read_job(RIB), small)["form.cannot_be_cut"]
    assert found.level == "stop" and "it would take" in found.message
    assert plan(read_job(RIB), small).build.parts == ()
    tight = read_job({**RIB, "form": {"depth_mm": 21}})
    assert "no room for bolts in the form" in codes(tight)["form.no_bolts"].message and plan(tight).build.bolts == 0
    long = plan(read_job({**RIB, "shape": {"kind": "arc_by_chord", "face": "inner", "chord_mm": 4000, "rise_mm": 300}}))
    assert long.build.parts[0].segments == 2 and long.build.nest.sheets >= 1


def test_deflection_and_its_inverse():
    """5 w L⁴ / 384 E I with w = 0.5 · 60 N/mm, L = 300, I = 60 · 50³ / 12, E = 3000: 0.8438 mm... by hand."""
    by_hand = 5 * 30 * 300**4 / (384 * 3000 * 60 * 50**3 / 12)
    made = beam_deflection_mm(pressure_mpa=0.5, width_mm=60, span_mm=300, depth_mm=50, modulus_gpa=3)
    assert made == pytest.approx(by_hand)
    assert span_for(deflection_mm=made, pressure_mpa=0.5, depth_mm=50, modulus_gpa=3) == pytest.approx(300)
    for bad in ({"depth_mm": 0}, {"span_mm": -1}):
        with pytest.raises(PlanError):
            beam_deflection_mm(
                **{"pressure_mpa": 1, "width_mm": 1, "span_mm": 1, "depth_mm": 1, "modulus_gpa": 1, **bad}
            )
    soft = {"part": {"thickness_mm": 12, "width_mm": 600, "trim_mm": 30}, "form": {"build": "sawn_sides", "skin_mm": 3}}
    assert codes(read_job({**RIB, **soft}))["form.gives"].level == "stop"


def test_clamps_in_the_rack():
    few = Shop(
        clamps=(OwnClamps(kind="f_clamp", count=3, opening_mm=400), OwnClamps(kind="g_clamp", count=90, opening_mm=60))
    )
    assert "3 of your clamps open" in codes(read_job(RIB), few)["form.clamps_short"].message
    many = Shop(clamps=(OwnClamps(kind="f_clamp", count=60, opening_mm=400),))
    assert "form.clamps_short" not in codes(read_job(RIB), many)


def test_clamp_holes_are_as_wide_as_the_jaws_there_are():
    """A U too tight for a parallel back: holes inside the face, 15 mm wider than the jaw."""
    tight = job_of("u", form={"depth_mm": 200})
    for kind, jaw in (("parallel", 40), ("f_clamp", 30)):
        holes = [
            h
            for h in plan(tight, Shop(clamps=(OwnClamps(kind=kind, count=9, opening_mm=500),))).build.parts[0].holes
            if h.what == "clamp"
        ]
        assert len(holes) >= 3 and {h.diameter_mm for h in holes} == {jaw + 15}


def test_laminae_one_by_one_in_place():
    made = plan(read_job({**RIB, "form": {"kind": "in_place"}}))
    assert made.build.parts == () and made.form.deflection is None
    first = made.laid_up.laminae[0]
    k = 2 * first.strain / first.thickness_mm
    assert first.pull_n == pytest.approx(
        12_000 * 60 * 5**3 / 12 * k / ((CurveFigures(made.bend.on_form).length_mm + 80) / 2)
    )
    assert sum(x.pull_n for x in made.laid_up.laminae) == pytest.approx(made.make.forces.lever_pull_n.value, rel=1e-6)


def test_posts_stand_on_the_face():
    made = plan(read_job({**RIB, "form": {"kind": "posts", "post_mm": 200}}))
    R, h = made.face_figures.least_radius_mm, made.face_figures.rise_mm
    assert len(made.form.posts) == 2 * math.ceil(made.face_figures.length_mm / 400) + 1
    for post in made.form.posts:
        assert math.hypot(post.x_mm, post.y_mm - (h - R)) == pytest.approx(R, abs=1e-6)
        assert math.tan(math.radians(post.angle_deg)) == pytest.approx(-post.x_mm / (post.y_mm - (h - R)), abs=1e-6)


def built_for(job):
    return BuiltForm.of(plan(job))


def test_its_own_form_does_and_another_with_two_shims():
    bow = {"kind": "arc_by_radius", "face": "inner", "radius_mm": 620, "angle_deg": 128}
    own = read_job(
        {**RIB, "shape": bow, "part": {"thickness_mm": 21, "width_mm": 34, "trim_mm": 30}, "build_up": {"laminae": 6}}
    )
    form = built_for(own)
    (same,) = candidates(own, [(1, form)])
    assert same.does(0.3) and same.fit.off_mm < 0.05 and same.fit.too_short_mm == pytest.approx(0, abs=1e-6)
    (near,) = candidates(
        own.model_copy(update={"shape": own.shape.model_copy(update={"radius_mm": 618.0, "angle_deg": 127.0})}),
        [(1, form)],
    )
    assert not near.does(1.0) and near.does_with_shims(1.0) and max(s.count for s in near.fit.shims) == 2
    gauge = 2 * (1 - math.cos(math.radians(64)))  # by hand: a face 2 mm off in radius, 64° either way
    assert near.fit.off_mm == pytest.approx(gauge, abs=0.15)
    wide = own.model_copy(update={"part": own.part.model_copy(update={"width_mm": 60.0})})
    assert not candidates(wide, [(1, form)])[0].does(1.0)
    longer = own.model_copy(update={"shape": own.shape.model_copy(update={"angle_deg": 140.0})})
    assert candidates(longer, [(1, form)])[0].fit.too_short_mm > 100
    outside = own.model_copy(update={"form": own.form.model_copy(update={"side": "outer"})})
    assert "other side" in candidates(outside, [(1, form)])[0].problem
    far = built_for(read_job({**RIB, "part": {"thickness_mm": 21, "width_mm": 60, "trim_mm": 30}}))
    assert [c.form_id for c in candidates(own, [(2, far), (1, form)])] == [1, 2]
    with pytest.raises(PlanError):
        candidates(own, [], tolerance_mm=0)


def test_shims_fill_what_lacks_to_the_nearest_veneer():
    """Old and needed face as circles, by hand: the gap square to the old face, least of all taken off, over 0.6 mm."""
    bow = {"kind": "arc_by_radius", "face": "inner", "radius_mm": 620, "angle_deg": 128}
    common = {**RIB, "part": {"thickness_mm": 21, "width_mm": 34, "trim_mm": 30}, "build_up": {"laminae": 6}}
    form = built_for(read_job({**common, "shape": bow}))
    job = read_job({**common, "shape": {**bow, "radius_mm": 617, "angle_deg": 126}})
    (found,) = candidates(job, [(1, form)])
    old, needed = (1 / plan(j).bend.on_form.curvature[0] for j in (read_job({**common, "shape": bow}), job))

    def apart(s):
        a, b = s / old, s / needed
        gap = np.array([needed * math.sin(b) - old * math.sin(a), needed * (math.cos(b) - 1) - old * (math.cos(a) - 1)])
        return float(gap @ np.array([math.sin(a), math.cos(a)]))

    half = plan(job).geometry.mid.length_mm / 2
    least = min(apart(s) for s in np.linspace(-half, half, 400))
    for s in (-560, -400, -150, 0, 210, 480):
        here = sum(x.count for x in found.fit.shims if x.start_mm <= s < x.end_mm)
        assert abs(here * 0.6 - (apart(s) - least)) <= 0.33, s
    assert found.fit.shims_mm == pytest.approx(0.6 * max(x.count for x in found.fit.shims))
    assert found.fit.off_with_shims_mm <= 0.31


def test_far_ribs_leave_room_for_both_skins_and_carry_their_depth():
    job = job_of(
        "eased_arc", form={"kind": "two_part", "build": "ribs", "skin_mm": 6.5, "liner_mm": 0.5, "depth_mm": 80}
    )
    base, far = plan(job).build.parts[:2]
    near = dense(base.face_edge, 1.0)
    apart = [float(np.hypot(*(near - p).T).min()) for p in dense(far.face_edge, 9.0)]
    assert apart == pytest.approx(np.full(len(apart), 18 + 2 * 0.5 + 2 * 6.5), abs=0.08)
    edge, outline = np.array(far.face_edge.points_mm), np.array(far.outline.points_mm)
    assert outline[:, 1].max() - dense(far.face_edge)[:, 1].max() == pytest.approx(80, abs=0.05)
    assert far.height_mm == pytest.approx(outline[:, 1].max() - edge[:, 1].min(), abs=0.01)


def test_a_strip_narrower_than_the_sheet_has_one_rib():
    data = {**RIB, "part": {**RIB["part"], "width_mm": 8}, "form": {"build": "ribs", "sheet_mm": 40}}
    made = plan(read_job(data))
    assert all(p.count >= 1 for p in made.build.parts) and made.build.parts[0].count == 1
    assert not any(p.name.startswith("spacers") for p in made.build.parts)
    assert all(o.attended_s.likely >= 0 for o in made.form_work.operations)
