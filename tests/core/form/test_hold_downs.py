"""Cleats, notches and cauls: where they lie, what they must hold, and how forms, steps and files change with them."""

import itertools
import math

import numpy as np
import pytest
from shapely import LineString, Polygon

from bright_willow.core.common.errors import PlanError
from bright_willow.core.form.hold_downs import (
    CAUL_LONG_MM,
    HOLD_MM,
    WALL_MM,
    bolts_for,
    hook_mm,
    lever_mm,
    start_force_n,
    straight_end_mm,
)
from bright_willow.core.form.parts import area_mm2, corners_of, dense
from bright_willow.core.plan.plan import plan
from bright_willow.core.shape.curve import Curve
from tests.core.methods.jobs import job_for


def made(way="steam_strap", hands=2, **form):
    return plan(job_for(way, form=form, heat={"hands": hands}))


def face_line(drawn):
    return LineString(dense(drawn.build.parts[0].face_edge, 0.5))


def strip_area(drawn):
    """The strip on the form, in the form's own frame."""
    face, half = drawn.face, drawn.job.part.thickness_mm
    sense = drawn.site.sense
    near = face.laid(face.curve.traced(2000))
    far = face.laid(face.curve.parallel(sense * half).traced(2000))
    return Polygon(np.vstack((near, far[::-1])))


def test_forces_by_hand():
    assert lever_mm(150, 50) == 125 and lever_mm(30, 50) == 25  # half of the hold where the bend begins under it
    assert start_force_n(100_000, lever_mm(150, 50)) == pytest.approx(800)
    assert hook_mm(4000, hold_mm=50, width_mm=50, stands_mpa=12) == pytest.approx(math.sqrt(1_200_000 / 600))
    assert hook_mm(10, hold_mm=50, width_mm=50, stands_mpa=12) == 30
    assert [bolts_for(f) for f in (0, 6000, 6001, 9001)] == [2, 2, 3, 4]
    for slip in (
        lambda: lever_mm(-1, 50),
        lambda: start_force_n(1, 0),
        lambda: hook_mm(-1, hold_mm=1, width_mm=1, stands_mpa=1),
    ):
        with pytest.raises(PlanError):
            slip()


def test_the_straight_end_of_a_curve_is_counted_from_its_own_end():
    curve = Curve.of([80, 120, 50, 30], [0.0, 0.004, 0.0, 0.00001])
    assert (straight_end_mm(curve, "left"), straight_end_mm(curve, "right")) == (80, 80)
    assert straight_end_mm(Curve.of([90.0], [0.004]), "right") == 0
    assert straight_end_mm(Curve.of([90.0], [0.0]), "left") == 90


@pytest.mark.parametrize("end", ["left", "right"])
def test_a_notch_is_as_high_as_strip_and_strap_and_stops_the_strip(end):
    drawn = made(start_hold="notch", start_end=end)
    start, job = drawn.form.start_hold, drawn.job
    assert start.slot_mm == pytest.approx(job.part.thickness_mm + job.heat.strap_mm + 1)
    body = Polygon(corners_of(drawn.build.parts[0].outline, 0.5))
    plain = Polygon(corners_of(made().build.parts[0].outline, 0.5))
    assert body.is_valid and body.contains(plain.buffer(-0.01)), "the notch adds to the form"
    assert body.intersection(strip_area(drawn)).area < 1.0, "and leaves the strip its place"
    # straight up from the middle of what is held: the slot, then the hook; straight on from the end: the wall
    along = HOLD_MM / 2 if end == "left" else drawn.site.length_mm - HOLD_MM / 2
    (foot,), (heading,) = drawn.face.curve.at(np.array([along]))
    up = np.array([-math.sin(heading + drawn.face.tilt_rad), math.cos(heading + drawn.face.tilt_rad)])
    foot = drawn.face.laid(foot[None, :])[0]
    ray = LineString([foot + up * 0.2, foot + up * 400]).intersection(body)
    assert ray.distance(LineString([foot, foot + up * 0.01])) == pytest.approx(start.slot_mm, abs=0.1)
    assert ray.length == pytest.approx(start.hook_mm, abs=0.1)
    place = 0.0 if end == "left" else drawn.site.length_mm
    (tip,), (heading,) = drawn.face.curve.at(np.array([place]))
    on = np.array([math.cos(heading + drawn.face.tilt_rad), math.sin(heading + drawn.face.tilt_rad)])
    on, tip = on * (-1 if end == "left" else 1), drawn.face.laid(tip[None, :])[0] + up * 5
    wall = LineString([tip, tip + on * 200]).intersection(body)
    assert wall.length == pytest.approx(WALL_MM, abs=0.1)
    assert wall.distance(LineString([tip, tip + on * 0.001])) < 0.1


@pytest.mark.parametrize(
    ("way", "hold", "side", "cauls"),
    [
        *itertools.product(["steam_strap", "steam_free"], ["clamps", "cleat", "notch"], ["inner"], ["ends_and_middle"]),
        ("steam_free", "cleat", "outer", "ends"),
        ("cold_lamination", "cleat", "inner", "ends_and_middle"),
        ("cold_lamination", "clamps", "outer", "ends"),
    ],
)
def test_cauls_and_cleat_lie_on_the_strip_and_nothing_lies_in_it(way, hold, side, cauls):
    drawn = made(way, side=side, start_hold=hold, matched_cauls=cauls)
    strip, over = strip_area(drawn), drawn.site.over_mm
    parts = [p for p in drawn.build.parts if p.is_hold_down]
    hot = way != "cold_lamination"
    names = {p.name for p in parts}
    assert ("start cleat" in names) == (hot and hold == "cleat")
    assert ("left end caul" in names) == (not hot or hold == "clamps"), "the cleat or the notch is there"
    assert ("middle caul" in names) == (cauls == "ends_and_middle")
    for part in parts:
        body = Polygon(corners_of(part.outline, 0.5))
        assert body.is_valid and body.intersection(strip).area < 0.5, part.name
        gap = over + (1.0 if part.role == "cleat" else 0.0)
        assert body.distance(strip) == pytest.approx(gap, abs=0.02), part.name
        assert part.end_mm - part.start_mm == pytest.approx(HOLD_MM if part.role == "cleat" else CAUL_LONG_MM)
        assert part.count * part.thickness_mm >= drawn.job.part.width_mm
        assert all(body.buffer(-h.diameter_mm / 2).contains(Polygon(corners_of(h.edge)).centroid) for h in part.holes)
    for one, other in itertools.combinations(parts, 2):
        assert not Polygon(corners_of(one.outline)).intersects(Polygon(corners_of(other.outline))), (
            one.name,
            other.name,
        )


def test_a_right_hand_piece_has_its_notch_at_the_other_end():
    job = job_for("steam_strap", form={"start_hold": "notch", "start_end": "left", "end_radius_mm": 8})
    right = job.model_copy(update={"part": job.part.model_copy(update={"copies": "pairs", "hand": "right"})})
    left = job.model_copy(update={"part": job.part.model_copy(update={"copies": "pairs"})})
    one, other = plan(left), plan(right)
    assert (one.form.start_hold.end, other.form.start_hold.end) == ("left", "right")
    assert one.form.start_hold.force_n == pytest.approx(other.form.start_hold.force_n)
    outline = corners_of(one.build.parts[0].outline, 1.0) * [-1, 1]
    turned = Polygon(outline).symmetric_difference(Polygon(corners_of(other.build.parts[0].outline, 1.0)))
    assert turned.area < 20


@pytest.mark.parametrize("side", ["inner", "outer"])
def test_rounded_ends_add_a_quarter_round_beyond_the_face(side):
    plain, rounded = made(side=side), made(side=side, end_radius_mm=15)
    one, other = plain.build.parts[0], rounded.build.parts[0]
    assert other.face_edge == one.face_edge, "the face stays as it is"
    depth = rounded.job.form.depth_mm
    assert area_mm2(other.outline) - area_mm2(one.outline) == pytest.approx(2 * (15 * depth - (1 - math.pi / 4) * 225))
    assert Polygon(corners_of(other.outline)).intersection(strip_area(rounded)).area < 5


@pytest.mark.parametrize(
    ("form", "field"),
    [
        ({"build": "ribs", "start_hold": "notch"}, "form.start_hold"),
        ({"build": "ribs", "end_radius_mm": 5}, "form.end_radius_mm"),
        ({"depth_mm": 25, "end_radius_mm": 40}, "form.end_radius_mm"),
    ],
)
def test_what_cannot_be_shaped_is_said_beside_its_field(form, field):
    part = {"shape": {"kind": "arc_by_radius", "face": "mid", "radius_mm": 700, "angle_deg": 60}}
    build = plan(job_for("steam_strap", form=form, **part)).build
    assert build.problem and build.problem_field == field and not build.parts


def test_what_a_start_holds_is_told_of_what_is_there():
    cleat, notch = (made(start_hold=h).form.start_hold for h in ("cleat", "notch"))
    assert cleat.bolts == 2 and cleat.holds_n == 6000, "two bolts, not the most there can be"
    assert notch.hook_mm == 30 and notch.holds_n == pytest.approx(8 * 30 * 30**2 / (6 * 50)), (
        "30 mm of MDF, as wide as the blank"
    )
    heavy = plan(
        job_for("steam_strap", part=THICK, form={"start_hold": "notch", "goods": "plywood"}, shape=BEND_WITH_LEG)
    )
    start = heavy.form.start_hold
    assert 30 < start.hook_mm < 120 and start.holds_n == pytest.approx(start.force_n), "as thick as it must be"
    assert lifts(heavy) is None


def test_a_caul_with_no_room_blames_the_cauls():
    inside = {"kind": "arc_by_radius", "face": "inner", "radius_mm": 8, "angle_deg": 60}
    thin = {"thickness_mm": 4, "width_mm": 24, "trim_mm": 20}
    form = {"side": "outer", "matched_cauls": "ends"}
    build = plan(job_for("steam_strap", shape=inside, part=thin, form=form, heat={"strap_mm": 10})).build
    assert build.problem and build.problem_field == "form.matched_cauls"


def test_clamp_holes_where_they_are_asked_for():
    holes = {
        c: [h.what for h in made(clamp_holes=c).build.parts[0].holes].count("clamp")
        for c in ("where_needed", "all_along", "none")
    }
    assert holes["where_needed"] == holes["none"] == 0 < holes["all_along"]
    opens = [made(clamp_holes=c).form.clamp_opening_mm for c in ("none", "all_along")]
    assert opens[1] < opens[0], "a clamp that seats in a hole opens less"


def test_the_work_the_steps_and_the_strap_follow_the_start():
    cleat, clamps = made(start_hold="cleat", start_end="right"), made()
    assert [p.name for p in cleat.build.parts][-1] == "base board" and cleat.build.parts[-1].role == "stand"
    assert {o.key for o in cleat.form_work.operations} - {o.key for o in clamps.form_work.operations} == {"form_cleat"}
    bend = {p: next(o for o in p.operations if o.key == "bend").steps[-1] for p in (cleat, clamps)}
    assert "right end under the start cleat" in bend[cleat] and "middle outward" in bend[clamps]
    first, last = cleat.wrapping[0], cleat.wrapping[-1]
    assert [p.side for p in first.pulls] == ["left"] and len(clamps.wrapping[0].pulls) == 2
    held = [s.laid(s.mid.points_mm)[-1] for s in (first, last)]
    assert held[0] == pytest.approx(held[1], abs=1e-6), "the held end stays where it is"
    assert last.laid(last.mid.points_mm) == pytest.approx(last.mid.points_mm, abs=1e-6)


def lifts(drawn):
    return next((f for f in drawn.findings if f.code == "form.start_lifts"), None)


BEND_WITH_LEG = {"kind": "hook", "face": "inner", "start_mm": 120, "radius_mm": 500, "angle_deg": 100, "end_mm": 120}
THICK = {"thickness_mm": 50, "width_mm": 60, "trim_mm": 20, "right_trim_mm": 20}
BEND = {"kind": "arc_by_radius", "face": "inner", "radius_mm": 500, "angle_deg": 100}


def test_who_pulls_decides_whether_the_middle_is_pried_up():
    job = {"part": THICK, "shape": BEND}
    assert lifts(plan(job_for("steam_strap", heat={"hands": 1}, **job)))
    assert lifts(plan(job_for("steam_strap", heat={"hands": 2}, **job))) is None
    assert (
        lifts(plan(job_for("cold_lamination", heat={"hands": 1}, part=THICK, shape=BEND, build_up={"laminae": 20})))
        is None
    )


@pytest.mark.parametrize("hold", ["cleat", "notch"])
@pytest.mark.parametrize(("hand", "end"), [("left", "left"), ("right", "left"), ("left", "right")])
def test_a_start_too_short_lifts_and_the_fix_holds_it(hold, hand, end):
    part = {**THICK, "copies": "pairs", "hand": hand}
    job = job_for(
        "steam_strap", part=part, shape=BEND, form={"start_hold": hold, "start_end": end, "goods": "chipboard"}
    )
    found = lifts(plan(job))
    assert found and found.fix
    data = job.model_dump()
    for name, value in found.fix.sets.items():
        room, _, key = name.partition(".")
        data[room][key] = value
    assert lifts(plan(type(job).model_validate(data))) is None
    assert data["heat"]["hands"] >= 2 and data["form"]["start_hold"] == "clamps"


def test_a_hook_too_weak_is_advised_a_cleat_where_that_holds():
    job = job_for("steam_strap", part=THICK, form={"start_hold": "notch", "goods": "chipboard"}, shape=BEND)
    weak = plan(job).form.start_hold
    assert weak.hook_mm == 120 and weak.force_n > weak.holds_n
    thinner = {**THICK, "width_mm": 12}
    found = lifts(
        plan(job_for("steam_strap", part=thinner, form={"start_hold": "notch", "goods": "chipboard"}, shape=BEND))
    )
    assert found.fix.sets == {"form.start_hold": "cleat", "form.start_end": "left"}


def test_a_caul_needs_no_bolts_and_no_screws_of_the_platform():
    assert made(matched_cauls="ends").build.without_bolts == ()
    rib = {"shape": {"kind": "arc_by_radius", "face": "mid", "radius_mm": 900, "angle_deg": 60}}
    screws = [
        next(
            m.amount
            for m in plan(
                job_for("cold_lamination", form={"build": "ribs", "matched_cauls": c}, **rib)
            ).form_work.materials
            if "screws" in m.name
        )
        for c in ("none", "ends_and_middle")
    ]
    assert screws[0] == screws[1]


def test_the_bend_goes_on_toward_the_other_end():
    for end, other in (("left", "right"), ("right", "left")):
        steps = next(o for o in made(start_hold="notch", start_end=end).operations if o.key == "bend").steps
        assert f"Push its {end} end into the notch" in steps[-1] and f"toward the {other} end" in steps[-1]
