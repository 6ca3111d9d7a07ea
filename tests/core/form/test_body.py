"""A form that is drawn can be cut: bodies, holes, ribs on their platform, for every job of the demo and tight bends."""

import numpy as np
import pytest
from shapely import LineString, Point, Polygon

from bright_willow.core.form.carcase import rows_of_spacers, spacer_places
from bright_willow.core.form.holes import clamp_hole_mm
from bright_willow.core.form.parts import corners_of, dense
from bright_willow.core.plan.plan import plan
from bright_willow.core.plan.read_job import read_job
from bright_willow.core.shop.clamps import clamp_table
from bright_willow.core.shop.shop import OwnClamps, Shop
from bright_willow.demo.marrow_lane import EXAMPLES, SHOP
from bright_willow.drawing.solids import solids
from tests.conftest import RIB

TIGHT = {
    "hook": {"kind": "hook", "start_mm": 500, "radius_mm": 52, "angle_deg": 175, "end_mm": 60},
    "u": {"kind": "arc_by_radius", "face": "inner", "radius_mm": 60, "angle_deg": 200},
    "s": {
        "kind": "s",
        "start_mm": 50,
        "first_radius_mm": 160,
        "first_angle_deg": 80,
        "straight_mm": 40,
        "second_radius_mm": 120,
        "second_angle_deg": 70,
        "end_mm": 50,
    },
}


def checked(made):
    """Outlines are whole, no finger of them is thin, the wood lies outside, holes keep their wood round them."""
    for part in (p for p in made.build.parts if p.end_mm > 0):
        body = Polygon(dense(part.outline, 1.0)).buffer(0)
        assert body.geom_type == "Polygon", part.name
        holes = [Polygon(dense(h.edge, 1.0)) for h in part.holes]
        for i, hole in enumerate(holes):
            assert body.buffer(-5).contains(hole), (part.name, part.holes[i])
            assert all(hole.distance(other) >= 5 for other in holes[i + 1 :]), part.name
    return body


@pytest.mark.parametrize("number", range(len(EXAMPLES)))
def test_every_form_of_the_demo(number):
    made = plan(EXAMPLES[number].job, SHOP)
    if any(p.end_mm > 0 for p in made.build.parts):
        checked(made)


@pytest.mark.parametrize("kind", ["hook", "u"])
@pytest.mark.parametrize("depth", [60, 120])
def test_a_tight_bend_has_no_spur_and_keeps_off_its_own_wood(kind, depth):
    data = {**RIB, "shape": TIGHT[kind], "part": {"thickness_mm": 12, "width_mm": 24, "trim_mm": 20, "count": 1}}
    made = plan(read_job({**data, "build_up": {"laminae": 8, "adhesive": "uf_liquid"}, "form": {"depth_mm": depth}}))
    body = checked(made)
    face = made.face
    assert face.back is None
    line = face.laid(face.curve.cut_finer(200).points_mm)
    # a body within its depth of the face: nothing of it further away, so no spur
    far = max(LineString(line).distance(Point(p)) for p in np.array(body.exterior.coords))
    assert far <= depth + 1
    # every finger is at least as thick as a saw can leave it, the corners at the ends of the face aside
    opened = body.buffer(-6).buffer(6)
    assert body.difference(opened).area < 0.02 * body.area
    wood = Polygon(
        face.laid(
            np.vstack(
                (
                    made.bend.blank.parallel(-5).cut_finer(200).points_mm,
                    made.bend.blank.parallel(5).cut_finer(200).points_mm[::-1],
                )
            )
        )
    )
    assert wood.buffer(0).intersection(body).area < 0.002 * body.area


def test_clamp_holes_have_a_flat_parallel_to_the_face():
    turned = {**TIGHT["u"], "radius_mm": 140}
    data = {**RIB, "shape": turned, "part": {"thickness_mm": 12, "width_mm": 24, "trim_mm": 20, "count": 1}}
    made = plan(read_job({**data, "build_up": {"laminae": 8, "adhesive": "uf_liquid"}, "form": {"depth_mm": 160}}))
    part = made.build.parts[0]
    seats = [h for h in part.holes if h.what == "clamp"]
    assert seats
    none = plan(read_job({**data, "form": {"depth_mm": 160, "clamp_holes": "none"}})).build.parts[0]
    assert not any(h.what == "clamp" for h in none.holes)
    line = dense(part.face_edge, 0.5)
    for hole in seats:
        a, b = np.array(hole.edge.points_mm[0]), np.array(hole.edge.points_mm[1])
        middle = (a + b) / 2
        apart = np.hypot(*(line - middle).T)
        i = int(np.argmin(apart))
        way = line[min(i + 1, len(line) - 1)] - line[i - 1]
        across = (b - a) / np.hypot(*(b - a))
        assert abs(across @ way) / np.hypot(*way) > 0.98  # parallel
        assert apart[i] < np.hypot(*(np.array([hole.x_mm, hole.y_mm]) - line[i]))  # and on the side of the face


def test_ribs_stand_on_a_platform_with_spacers_within_them():
    data = {**RIB, "form": {"build": "ribs", "depth_mm": 120}}
    made = plan(read_job(data))
    rib, form = made.build.parts[0], made.form
    assert rib.name == "form" and len(form.spacers[0]) == rows_of_spacers(rib.width_mm)
    body = Polygon(dense(rib.outline, 2.0)).buffer(0)
    assert all(body.contains(Point(p)) for p in form.spacers[0])
    left, right, foot = form.platform_mm
    assert foot == pytest.approx(body.bounds[1]) and left < body.bounds[0] and right > body.bounds[2]
    low = [p for p in np.array(rib.outline.points_mm) if abs(p[1] - foot) < 1e-6]
    assert len(low) == 2 and np.ptp([p[0] for p in low]) == pytest.approx(rib.width_mm)  # a flat foot, end to end
    listed = {p.name: p for p in made.build.parts}
    assert listed["platform of the form"].width_mm == pytest.approx(right - left)
    assert listed["spacers of the form"].count == len(form.spacers[0]) * (rib.count - 1)
    assert spacer_places(rib.outline) == form.spacers[0]


@pytest.mark.parametrize(("flat", "leans"), [(20, 6.0), (20, 0.0), (160, 6.0)])
def test_between_legs_that_come_together_the_body_is_one(flat, leans):
    """Two bodies 60 deep beside one another on 250 of form: where they would run into each other they are one; further
    apart, or side by side, the back is a parallel."""
    u = {"kind": "u", "left_leg_mm": 620, "left_radius_mm": 115, "left_lean_deg": leans, "flat_mm": flat}
    u |= {"right_radius_mm": 115, "right_lean_deg": leans, "right_leg_mm": 620, "face": "inner"}
    form = {"depth_mm": 60, "school": "to_size", "build": "solid"}
    job = read_job(
        {**RIB, "way": "steam_strap", "shape": u, "part": {"thickness_mm": 19, "width_mm": 25}, "form": form}
    )
    made = plan(job)
    part = made.build.parts[0]
    ring = Polygon(corners_of(part.outline))
    assert ring.is_valid and (made.face.back is None) == (leans > 0 and flat < 100)
    face = LineString(dense(part.face_edge, 2.0))
    assert max(ring.exterior.distance(Point(*p)) for p in face.coords) < 0.05
    if made.face.back is None:
        assert ring.area == pytest.approx(Polygon(face.coords).area, rel=0.02)


def test_a_curve_both_ways_is_drawn_out_as_a_solid():
    """Its outline begins and ends at one corner, which is no crossing."""
    job = read_job(
        {**RIB, "shape": TIGHT["s"], "part": {"thickness_mm": 8, "width_mm": 24}, "form": {"build": "solid"}}
    )
    made = plan(job)
    (solid,) = solids(made)
    a, b, c = (solid.corners[solid.triangles[:, i]] for i in range(3))
    volume = float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum()) / 6
    assert volume == pytest.approx(made.build.parts[0].wood_mm2 * made.site.stack_mm, rel=1e-3)


def test_by_hand_a_clamp_hole_lets_the_jaw_of_the_commonest_clamp_through_with_15_mm_to_turn():
    shop = Shop(clamps=(OwnClamps(kind="spring", count=2), OwnClamps(kind="g_clamp", count=9)))
    assert clamp_hole_mm(shop) == clamp_table()["g_clamp"].jaw_mm + 15.0
    assert clamp_hole_mm(Shop(clamps=())) == clamp_table()["f_clamp"].jaw_mm + 15.0
