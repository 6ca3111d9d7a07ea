"""Drums: of a closed ring, whichever side of them the wood lies, and of open curves a band can be drawn round."""

import math

import numpy as np
import pytest
from shapely import LineString, Point, Polygon

from bright_willow.core.common.errors import PlanError
from bright_willow.core.form.body import crosses_itself
from bright_willow.core.form.parts import HOLE_MM, dense, disc_of, edge_of, rectangle
from bright_willow.core.form.stiffness import GOODS
from bright_willow.core.plan.plan import plan
from bright_willow.core.shape.kinds.polycurve import Polycurve
from bright_willow.drawing.solids import solids
from tests.core.shape.test_shapes import job_of

RING, DEPTH, SKIN = 300.0, 90.0, 6.5  # the ring's stated radius, how deep its form is, and a skin


def drum_of(kind, face="inner", **form):
    made = plan(job_of(kind, face, form={"kind": "ring", **form}))
    return made, (made.build.parts[0] if made.build.parts else None)


def radii(edge):
    points = dense(edge, 1.0)
    return np.hypot(*(points - (points.min(axis=0) + points.max(axis=0)) / 2).T)


@pytest.mark.parametrize("build", ["stack", "solid", "ribs", "sawn_sides"])
@pytest.mark.parametrize("side", ["inner", "outer"])
def test_the_drum_of_a_ring_by_hand(side, build):
    """Its diameter is stated on that face: the face is a circle of it, the body as deep as the form, less a skin."""
    made, drum = drum_of("ring", side, side=side, build=build, depth_mm=DEPTH, skin_mm=SKIN)
    into = -1 if side == "inner" else 1
    carries = RING + into * (SKIN if build in ("ribs", "sawn_sides") else 0)
    far = RING + into * DEPTH
    assert radii(drum.face_edge) == pytest.approx(np.full(len(dense(drum.face_edge, 1.0)), carries), abs=0.01)
    assert drum.face_edge.layer == ("RIB" if carries != RING else "FACE")
    (hollow,) = drum.hollows
    assert radii(drum.outline).max() == pytest.approx(max(carries, far), abs=0.01)
    assert radii(hollow).max() == pytest.approx(min(carries, far), abs=0.01)
    assert drum.width_mm == pytest.approx(2 * max(carries, far), abs=0.05)
    assert drum.wood_mm2 == pytest.approx(math.pi * abs(carries**2 - far**2), rel=1e-6)
    if build == "solid":
        assert made.build.mass_kg == pytest.approx(drum.wood_mm2 * made.site.stack_mm * GOODS["mdf"][2] * 1e-9)
    wood = Polygon(dense(drum.outline, 1.0)).buffer(0).difference(Polygon(dense(hollow, 1.0)).buffer(0))
    assert bool(drum.holes) == (build == "stack")
    for hole in drum.holes:
        assert wood.contains(Point(hole.x_mm, hole.y_mm))
        assert wood.exterior.distance(Point(hole.x_mm, hole.y_mm)) >= 1.4 * HOLE_MM
        assert min(i.distance(Point(hole.x_mm, hole.y_mm)) for i in wood.interiors) >= 1.4 * HOLE_MM


def test_a_shallow_drum_has_no_room_for_bolts_and_says_so():
    made, drum = drum_of("ring", build="stack", depth_mm=25)
    assert drum.holes == () and made.build.bolts == 0 and "form.no_bolts" in {f.code for f in made.findings}


@pytest.mark.parametrize("side", ["inner", "outer"])
def test_spacers_of_a_drum_stand_in_its_wood_above_and_below(side):
    job = job_of("ring", side, form={"kind": "ring", "side": side, "build": "ribs", "depth_mm": DEPTH})
    made = plan(job.model_copy(update={"part": job.part.model_copy(update={"width_mm": 200.0})}))
    drum = made.build.parts[0]
    (places,) = made.form.spacers
    wood = Polygon(dense(drum.outline, 1.0)).buffer(0).difference(Polygon(dense(drum.hollows[0], 1.0)).buffer(0))
    assert all(wood.contains(Point(*p)) for p in places)
    middle = (wood.bounds[1] + wood.bounds[3]) / 2
    assert sum(p[1] > middle + 50 for p in places) == sum(p[1] < middle - 50 for p in places) > 0
    ribs = drum.count
    (spacers,) = [p for p in made.build.parts if p.name.startswith("spacers")]
    assert spacers.count == len(places) * (ribs - 1)


@pytest.mark.parametrize("side", ["inner", "outer"])
def test_a_drum_drawn_out_weighs_its_wood(side):
    made, drum = drum_of("ring", side, side=side, build="solid", depth_mm=DEPTH)
    (solid,) = solids(made)
    a, b, c = (solid.corners[solid.triangles[:, i]] for i in range(3))
    volume = float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum()) / 6
    assert volume == pytest.approx(drum.wood_mm2 * made.site.stack_mm, rel=2e-4)


@pytest.mark.parametrize("kind", ["hoop", "arc", "u"])
def test_the_drum_of_an_open_curve_carries_its_whole_face(kind):
    job = job_of("u" if kind == "arc" else kind, form={"kind": "ring"})
    made = plan(job.model_copy(update={"shape": wound((300, 230))}) if kind == "arc" else job)
    drum = made.build.parts[0]
    face = dense(edge_of("FACE", made.face.curve, made.face), 1.0)
    ring = Polygon(dense(drum.outline, 0.5)).buffer(0)
    assert max(LineString(ring.exterior.coords).distance(Point(*p)) for p in face) < 0.05
    assert ring.area == pytest.approx(ring.convex_hull.area, rel=2e-3) and not drum.hollows
    if kind != "u":  # a whole disc, whatever its gap
        assert ring.area == pytest.approx(math.pi * made.face_figures.least_radius_mm**2, rel=1e-4)
    else:  # straight across from end to end
        ends = np.hypot(*(face[-1] - face[0]))
        straight = [math.dist(a, b) for a, b in zip(ring.exterior.coords, ring.exterior.coords[1:], strict=False)]
        gap = LineString([face[0], face[-1]])
        across = sum(s for s, p in zip(straight, ring.exterior.coords, strict=False) if gap.distance(Point(p)) < 1e-6)
        assert across == pytest.approx(ends, rel=1e-3)


@pytest.mark.parametrize("turns", [1, -1])
def test_a_disc_runs_as_its_arc_runs(turns):
    made, _ = drum_of("hoop")
    line = edge_of("FACE", made.face.curve if turns > 0 else made.face.curve.mirrored(), made.face)
    disc = disc_of(line)
    assert disc.closed and disc.points_mm[0] == pytest.approx(line.points_mm[0])
    assert radii(disc) == pytest.approx(np.full(len(dense(disc, 1.0)), made.face_figures.least_radius_mm), abs=1e-3)
    assert math.copysign(1, disc.bulges[0]) == math.copysign(1, line.bulges[0])


def wound(*rows):
    """A chain of arcs: radius and angle of each."""
    steps = [{"kind": "arc", "radius_mm": r, "angle_deg": a} for r, a in rows]
    return Polycurve.model_validate({"kind": "polycurve", "face": "mid", "stretches": steps})


@pytest.mark.parametrize(
    ("shape", "side", "message"),
    [
        (job_of("arc_by_radius").shape, "inner", "at least half a circle; this one has"),
        (job_of("u").shape, "outer", "presses from outside"),
        (wound((300, 100), (600, -25), (300, 130)), "inner", "leaves a gap where the curve is hollow"),
        (wound((300, 200), (150, 250)), "inner", "crosses itself"),
    ],
)
def test_no_drum_is_drawn_where_no_band_would_press_and_one_press_clears_it(shape, side, message):
    job = job_of("u", form={"kind": "ring", "side": side}).model_copy(update={"shape": shape})
    made = plan(job)
    assert made.build.parts == ()
    (said,) = [f for f in made.findings if f.code == "form.cannot_be_cut"]
    assert said.level == "stop" and message in said.message
    changed = job.model_copy(update={"form": job.form.model_copy(update={"kind": "one_sided"})})
    assert said.fix.sets == {"form.kind": "one_sided"} and plan(changed).build.parts


def test_a_straight_is_part_of_no_disc_and_two_points_of_no_outline():
    with pytest.raises(PlanError):
        disc_of(rectangle(200, 100))
    bow = np.array([[0.0, 0], [2, 0], [0, 1], [2, 1]])
    assert crosses_itself(bow, closed=True) and not crosses_itself(bow, closed=False)
    for points in (np.zeros((0, 2)), np.array([[0.0, 0], [1, 0]])):
        with pytest.raises(PlanError):
            crosses_itself(points, closed=True)
