"""A piece measured on a picture: pictures rendered from known poses give back the bend and the places they show."""

from __future__ import annotations

import io
import math
from functools import cache

import numpy as np
import pytest
from PIL import Image

from bright_willow.core.common.errors import PlanError
from bright_willow.core.measuring.built_form import BuiltForm
from bright_willow.core.measuring.edge_finding import NEAR_PX, drawn_to, drawn_to_corner, drawn_to_edge
from bright_willow.core.measuring.photo_measurement import MOST_POINTS, PhotoMarks, Plane
from bright_willow.core.measuring.traced import Traced, traced
from bright_willow.core.plan.plan import sketch
from bright_willow.core.shape.arc import face_offset_mm
from tests.core.methods.jobs import job_for
from tools.pictured import Camera, jpeg, picture
from tools.yardstick import Measured

SHEET = np.array([(0, 210), (297, 210), (297, 0), (0, 0)], dtype=float)  # lies below the piece
ARC = BuiltForm.of(sketch(job_for("cold_lamination", shape={"kind": "arc_by_chord", "face": "inner", "chord_mm": 560, "rise_mm": 90})))  # fmt: skip
HOOK = BuiltForm.of(sketch(job_for("steam_free", shape={"kind": "hook", "face": "inner", "start_mm": 180, "end_mm": 60, "radius_mm": 200, "angle_deg": 80})))  # fmt: skip
POSES = (
    Camera(looks_at=(150.0, 200.0)),
    Camera(tilt_deg=-33.0, turn_deg=-14.0, looks_at=(150.0, 190.0), over_mm=1000.0),
)


def laid(built: BuiltForm, k: float, offset_mm: float, count: int) -> np.ndarray:
    """Points of a face of the piece, standing on its middle above the sheet."""
    curve = built.bent_by(k).parallel(offset_mm)
    return curve.at(np.linspace(0, curve.length_mm, count))[0] + np.array([150.0, 330.0])


def outline(built: BuiltForm, k: float) -> np.ndarray:
    half = built.thickness_mm / 2
    return np.concatenate((laid(built, k, half, 400), laid(built, k, -half, 400)[::-1]))


@cache
def seen(pose: int, kind: str, k: float) -> np.ndarray:
    built = {"arc": ARC, "hook": HOOK}[kind]
    made = picture(POSES[pose], outline(built, k), SHEET)
    assert made.width * made.height >= 7_900_000
    return np.asarray(Image.open(io.BytesIO(jpeg(made))).convert("L"))


def marked(
    grey: np.ndarray, camera: Camera, edge: np.ndarray, dice: np.random.Generator, off: float = 5.0
) -> PhotoMarks:
    """Marked by a hand that is off by some dots each time, and drawn to what it meant."""
    corners = [drawn_to_corner(grey, tuple(c + dice.uniform(-off, off, 2))) for c in camera.px(SHEET)]
    places = camera.px(edge)
    last = len(places) - 1
    spots = [
        drawn_to(grey, tuple(p + dice.uniform(-off, off, 2)), NEAR_PX, is_end=i in (0, last))
        for i, p in enumerate(places)
    ]
    assert all(corners) and all(spots)
    return PhotoMarks(corners=tuple(corners), points=tuple(spots))


@pytest.mark.parametrize(("pose", "kind", "k"), [(0, "arc", 1.3), (1, "arc", 0.4), (0, "hook", 1.2), (1, "hook", 0.7)])
def test_a_piece_on_a_picture_of_known_pose(pose, kind, k):
    built, camera = {"arc": ARC, "hook": HOOK}[kind], POSES[pose]
    grey, dice = seen(pose, kind, k), np.random.default_rng(pose + 3)
    edge = laid(built, k, face_offset_mm("outer", built.thickness_mm), 14)
    mine = marked(grey, camera, edge, dice)
    plane = Plane.by(mine)
    # every place of a piece of some 600 mm within half a millimetre, against the pose it was rendered from
    whole = laid(built, k, 0.0, 200)
    assert built.bent_by(k).length_mm > 480
    assert np.hypot(*(plane.mm(camera.px(whole)) - whole).T).max() < 0.5
    assert np.hypot(*(plane.px(whole) - camera.px(whole)).T).max() < 3
    points, errors = plane.mm(np.array(mine.points)), plane.errors_mm(np.array(mine.points))
    assert errors.min() > 0.05 and errors.max() < 0.8
    made = traced(built, Traced(points, errors, "outer"))
    found = made.measured.ratio
    assert abs(found.ratio - k) < max(3 * found.error, 1e-3) and made.measured.misfit < 2.5
    chord, rise, _ = built.on_face(built.bent_by(k), "outer")
    assert made.measured.chord_mm == pytest.approx(chord, abs=0.5)
    assert made.measured.rise_mm == pytest.approx(rise, abs=0.5)
    fitted = plane.px(made.fitted_mm)  # laid back on the picture it lies on the edge
    true = camera.px(laid(built, k, face_offset_mm("outer", built.thickness_mm), 400))
    assert np.hypot(*(fitted[:, None] - true[None]).transpose(2, 0, 1)).min(axis=1).max() < 4


def test_it_is_quick_enough_to_follow_the_finger():
    """Where a click is drawn to, and what four corners make of all points: 200 ms are asked, with room to spare."""
    grey, camera = seen(0, "arc", 1.3), POSES[0]
    spot = tuple(camera.px(laid(ARC, 1.3, 8.0, 5))[2] + 3)
    drawn_to_edge(grey, spot)
    with Measured() as took:
        corners = [drawn_to_corner(grey, tuple(c + 2)) for c in camera.px(SHEET)]
        drawn_to_edge(grey, spot)
        plane = Plane.by(PhotoMarks(corners=tuple(corners)))
        plane.errors_mm(camera.px(laid(ARC, 1.3, 8.0, MOST_POINTS)))
    assert took.seconds < 0.2


@pytest.mark.parametrize("seen_from", ["either side", "either end"])
def test_it_does_not_matter_from_where_it_is_seen(seen_from):
    k = 1.4
    edge = laid(HOOK, k, face_offset_mm("inner", HOOK.thickness_mm), 15)
    other = edge * np.array([-1.0, 1.0]) if seen_from == "either side" else edge[::-1]
    a, b = (traced(HOOK, Traced(e, np.full(15, 0.3), "inner")) for e in (edge, other))
    assert a.measured.ratio.ratio == pytest.approx(k, abs=1e-4) == pytest.approx(b.measured.ratio.ratio, abs=1e-4)
    assert (a.is_mirrored, b.is_mirrored) == (False, seen_from == "either side")
    assert np.allclose(a.stations_mm, b.stations_mm, atol=0.01)


def test_halves_that_opened_otherwise():
    """The left end opened twice as far as the right: each half says its own, and the distances say it too."""
    curve = ARC.bent_by_halves(1.6, 0.8).parallel(face_offset_mm("inner", ARC.thickness_mm))
    edge = curve.at(np.linspace(0, curve.length_mm, 21))[0]
    made = traced(ARC, Traced(edge, np.full(21, 0.1), "inner"))
    left, right = made.halves
    assert left.ratio == pytest.approx(1.6, abs=0.03) and right.ratio == pytest.approx(0.8, abs=0.03)
    assert made.off_mm[0] > made.off_mm[-1] and abs(made.off_mm[10]) < 1.0
    assert made.stations_mm[0] == pytest.approx(0, abs=2) and np.all(np.diff(made.stations_mm) > 0)


def test_errors_are_as_they_are_said_to_be():
    """Marks off by what is allowed for, 40 times: the ratios found scatter as their stated error says."""
    camera, k, dice = POSES[0], 1.1, np.random.default_rng(5)
    edge = laid(ARC, k, face_offset_mm("inner", ARC.thickness_mm), 9)
    corners, places = camera.px(SHEET), camera.px(edge)
    from bright_willow.core.measuring.photo_measurement import LENS, MARK_PX

    found, said = [], []
    for _ in range(40):
        mine = PhotoMarks(
            corners=tuple(map(tuple, corners + dice.normal(0, MARK_PX, corners.shape))),
            points=tuple(map(tuple, places + dice.normal(0, MARK_PX, places.shape))),
        )
        plane = Plane.by(mine)
        at = np.array(mine.points)
        made = traced(ARC, Traced(plane.mm(at), plane.errors_mm(at), "inner"))
        found.append(made.measured.ratio.ratio)
        said.append(made.measured.ratio.error)
    assert LENS > 0 and np.mean(found) == pytest.approx(k, abs=0.02)
    assert 0.5 < np.std(found) / np.mean(said) < 1.3


def test_the_error_of_a_point_is_that_of_its_marks():
    """Corners and points marked 400 times, off by what is allowed for: places scatter from the file, the lens aside."""
    from bright_willow.core.measuring.photo_measurement import LENS, MARK_PX

    camera, dice = POSES[0], np.random.default_rng(8)
    corners, places = camera.px(SHEET), camera.px(np.array([(150.0, 100.0), (-150.0, 330.0), (450.0, 330.0)]))
    seen = []
    for _ in range(400):
        off = PhotoMarks(corners=tuple(map(tuple, corners + dice.normal(0, MARK_PX, corners.shape))))
        seen.append(Plane.by(off).mm(places + dice.normal(0, MARK_PX, places.shape)))
    plane = Plane.by(PhotoMarks(corners=tuple(map(tuple, corners))))
    here = plane.mm(places)
    far = np.hypot(*(here - plane.mm(corners.mean(axis=0)[None, :])).T)
    said = np.sqrt(plane.errors_mm(places) ** 2 - (LENS * far) ** 2)
    scatter = np.sqrt(((np.array(seen) - here) ** 2).sum(axis=2).mean(axis=0) / 2)
    assert scatter == pytest.approx(said, rel=0.12)
    assert said[1] > said[0] and plane.errors_mm(places)[1] > said[1]  # further from the sheet it is less sure


def test_a_bar_taken_square_on():
    """Without a rectangle: one scale all over, y upwards."""
    plane = Plane.by(PhotoMarks(by="bar", across_mm=500.0, corners=((100.0, 900.0), (1100.0, 900.0))))
    assert plane.mm(np.array([(100.0, 400.0)]))[0] - plane.mm(np.array([(100.0, 900.0)]))[0] == pytest.approx([0, 250])
    assert np.allclose(plane.px(plane.mm(np.array([(321.0, 77.0)]))), [(321.0, 77.0)])


@pytest.mark.parametrize(
    ("corners", "message"),
    [
        (((0, 0), (500, 2), (1000, 0), (500, 600)), "in a line"),
        (((0, 0), (800, 0), (0, 600), (800, 600)), "cross"),
        (((0, 0), (3, 2), (800, 600), (0, 600)), "in the same place"),
        (((5, 5), (5.5, 5), (5, 5.2), (5.1, 5.1)), "on top of each other"),
        (((0, 0), (800, 0), (800, 600)), "1 more corner to mark"),
        (((math.inf, 0), (800, 0), (800, 600), (0, 600)), "outside"),
    ],
)
def test_corners_that_are_none(corners, message):
    with pytest.raises(PlanError, match=message):
        Plane.by(PhotoMarks().model_copy(update={"corners": corners}))


def test_a_point_beyond_the_horizon():
    plane = Plane.by(PhotoMarks(corners=((400, 300), (600, 300), (900, 700), (100, 700))))
    with pytest.raises(PlanError, match="horizon"):
        plane.mm(np.array([(500.0, -4000.0)]))


def test_where_nothing_is_to_be_seen_nothing_is_drawn():
    flat = np.full((200, 300), 120, dtype=np.uint8)
    edge = flat.copy()
    edge[:, 150:] = 200
    assert drawn_to_edge(flat, (100.0, 100.0)) is None and drawn_to_corner(flat, (100.0, 100.0)) is None
    assert drawn_to_corner(edge, (148.0, 100.0)) is None  # an edge is no corner
    assert drawn_to_edge(edge, (145.0, 77.0)) == (pytest.approx(150.0, abs=0.02), pytest.approx(77.0, abs=0.02))
    assert drawn_to_edge(edge, (-50.0, 100.0)) is None and drawn_to_edge(edge, (290.0, 100.0)) is None
    for near in (1.9, 60.1, math.nan):
        for draw in (drawn_to_edge, drawn_to_corner):
            with pytest.raises(PlanError):
                draw(edge, (145.0, 77.0), near)
    assert drawn_to_edge(edge, (100.0, 77.0), 60.0) == pytest.approx((150.0, 77.0), abs=0.02)
    assert drawn_to_edge(edge, (100.0, 77.0), 30.0) is None
    corner = flat.copy()
    corner[80:, 150:] = 220
    assert drawn_to_corner(corner, (145.0, 86.0)) == pytest.approx((150.0, 80.0), abs=0.6)


def test_marks_in_order_along_the_edge():
    mine = PhotoMarks(by="bar", corners=((0, 0), (100, 0)))
    for spot in ((10.0, 50.0), (90.0, 50.0), (50.0, 40.0), (70.0, 44.0), (2.0, 55.0), (99.0, 55.0)):
        mine = mine.with_mark(spot)
    assert [p[0] for p in mine.points] == [2, 10, 50, 70, 90, 99]
    assert mine.moved("point-2", (51.0, 41.0)).points[2] == (51.0, 41.0)
    assert len(mine.moved("point-0", None).points) == 5 and len(mine.moved("corner-1", None).corners) == 1
    for name in ("point-9", "corner-2", "spot-0", "point-x"):
        with pytest.raises(PlanError):
            mine.moved(name, (0.0, 0.0))


def test_an_edge_that_ends_too_soon_is_said_with_how_much():
    """Marked to nineteen twentieths of its length, as long as another face might be: it is no bend, it is a slip."""
    curve = ARC.bent_by(1.0).parallel(face_offset_mm("inner", ARC.thickness_mm))
    edge = curve.at(np.linspace(0, 0.95 * curve.length_mm, 12))[0]
    with pytest.raises(PlanError, match="ends .* from where this face"):
        traced(ARC, Traced(edge, np.full(12, 0.3), "inner"))
    close = curve.at(np.linspace(2.0, curve.length_mm - 2.0, 12))[0]  # marked a little short: that is a hand
    assert traced(ARC, Traced(close, np.full(12, 0.3), "inner")).measured.ratio.ratio == pytest.approx(1.0, abs=0.1)


def test_points_that_are_not_this_piece():
    edge = laid(ARC, 1.0, face_offset_mm("inner", ARC.thickness_mm), 9)
    for points, message in ((edge[:3], "4 points"), (edge[:6], "from end to end"), (edge * 1.4, "from end to end")):
        with pytest.raises(PlanError, match=message):
            traced(ARC, Traced(points, np.full(len(points), 0.3), "inner"))
