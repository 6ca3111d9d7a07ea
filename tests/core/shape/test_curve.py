"""Geometry of curves told by curvature."""

import math

import numpy as np
import pytest
from scipy.integrate import solve_ivp

from bright_willow.core.common.errors import PlanError
from bright_willow.core.shape.arc import Arc, curvature_error, curvature_from_chord_and_rise
from bright_willow.core.shape.curve import Curve, end_offsets_mm, tip_distance_mm


def test_chord_and_rise_by_hand():
    arc = Arc.from_chord_and_rise(chord_mm=1800, rise_mm=500)
    assert arc.radius_mm == pytest.approx(1060)  # 1800²/4000 + 250
    assert math.degrees(arc.angle_rad) == pytest.approx(116.21, abs=0.01)
    assert (arc.chord_mm, arc.rise_mm) == (pytest.approx(1800), pytest.approx(500))


def test_more_than_a_half_circle():
    arc = Arc.from_chord_and_rise(chord_mm=600, rise_mm=900)
    assert arc.radius_mm == pytest.approx(500)
    assert arc.angle_rad > math.pi
    assert arc.curve().chord_and_rise_mm() == (pytest.approx(600), pytest.approx(900))


@pytest.mark.parametrize(("chord", "rise"), [(0, 5), (5, 0), (-1, 2)])
def test_no_arc_out_of_nothing(chord, rise):
    with pytest.raises(PlanError):
        Arc.from_chord_and_rise(chord_mm=chord, rise_mm=rise)


def test_points_agree_with_integrating_the_heading():
    """An independent integration of x' = cos θ, y' = sin θ, θ' = −κ along an unequal chain."""
    curve = Curve.of([130, 75, 210, 40], [0.0, 1 / 90, -1 / 300, 1 / 55])
    stations, k = curve.stations_mm, curve.curvature

    def turn(s, state):
        cell = min(int(np.searchsorted(stations, s, side="right")) - 1, 3)
        return [math.cos(state[2]), math.sin(state[2]), -k[cell]]

    at = [0.0, 0.0, 0.0]
    for a, b in zip(stations[:-1], stations[1:], strict=True):
        at = solve_ivp(turn, (a, b - 1e-9), at, rtol=1e-10, atol=1e-10).y[:, -1]
    start, end = curve.points_mm[0], curve.points_mm[-1]
    h = curve.headings_rad[0]
    turned = np.array([[math.cos(h), -math.sin(h)], [math.sin(h), math.cos(h)]]) @ at[:2]
    assert end - start == pytest.approx(turned, abs=1e-4)


def test_mean_curvature_is_what_one_arc_of_the_same_length_and_turning_would_have():
    curve = Curve.of([300, 100, 50], [1 / 200, 0.0, -1 / 80])
    assert curve.mean_curvature == pytest.approx((1.5 - 0.625) / 450)
    turned = curve.headings_rad[0] - curve.headings_rad[-1]
    assert abs(turned) == pytest.approx(abs(curve.mean_curvature) * 450)
    assert curve.turns_rad == pytest.approx([1.5, 0.0, 0.625])
    assert curve.mirrored().mean_curvature == pytest.approx(curve.mean_curvature)


def test_the_middle_of_the_length_is_the_origin_and_level():
    curve = Curve.of([300, 100, 50], [1 / 200, 0.0, -1 / 80])
    points, headings = curve.at(np.array([curve.length_mm / 2]))
    assert points[0] == pytest.approx([0, 0], abs=1e-9)
    assert headings[0] == pytest.approx(0, abs=1e-12)


def test_parallels_are_exact_and_refuse_cusps():
    curve = Curve.of([100, 80], [1 / 50, -1 / 120])
    outer = curve.parallel(10)
    assert outer.lengths_mm == pytest.approx([100 * 60 / 50, 80 * 110 / 120])
    assert 1 / outer.curvature == pytest.approx([60, -110])
    gap = outer.points_mm - outer.points_mm[1] - (curve.points_mm - curve.points_mm[1])
    assert np.hypot(*(gap[0] - gap[1])) > 0
    with pytest.raises(PlanError, match="would fold") as caught:
        curve.parallel(-50)
    assert "1 31/32 in" in caught.value.message("in")


def test_tip_distance_against_points():
    lengths = np.array([200.0, 150.0, 150.0])
    a, b = np.array([0.002, 0.001, 0.003]), np.array([0.0019, 0.0009, 0.0028])
    one, two = Curve(lengths, a).points_mm, Curve(lengths, b).points_mm
    by_points = max(np.hypot(*(one[0] - two[0])), np.hypot(*(one[-1] - two[-1])))
    assert tip_distance_mm(lengths, a, b) == pytest.approx(by_points, abs=1e-9)
    stacked = tip_distance_mm(lengths, np.stack((a, b)), np.stack((b, b)))
    assert stacked == pytest.approx([by_points, 0])


def test_cutting_finer_and_merging_change_nothing():
    curve = Curve.of([100, 300], [0.004, -0.001])
    finer = curve.cut_finer(50)
    assert finer.lengths_mm.size >= 50
    assert finer.points_mm[-1] == pytest.approx(curve.points_mm[-1])
    assert finer.merged().lengths_mm == pytest.approx(curve.lengths_mm)


def test_a_curve_needs_sound_numbers():
    for lengths, k in [([], []), ([1.0], [1.0, 2.0]), ([0.0], [1.0]), ([1.0], [float("nan")]), ([float("inf")], [0.0])]:
        with pytest.raises(ValueError, match="curv|length"):
            Curve(np.array(lengths), np.array(k))


def test_measuring_error_agrees_with_trying_it():
    chord, rise, e = 900.0, 140.0, 0.5
    d_rise = curvature_from_chord_and_rise(chord_mm=chord, rise_mm=rise + e) - curvature_from_chord_and_rise(
        chord_mm=chord, rise_mm=rise
    )
    d_chord = curvature_from_chord_and_rise(chord_mm=chord + e, rise_mm=rise) - curvature_from_chord_and_rise(
        chord_mm=chord, rise_mm=rise
    )
    assert curvature_error(chord_mm=chord, rise_mm=rise, error_mm=e) == pytest.approx(
        math.hypot(d_rise, d_chord), rel=0.02
    )


@pytest.mark.parametrize("anchor", [None, 0.0, 130.0])
def test_a_curve_traced_is_the_curve_cut_finer(anchor):
    """One arc goes its own quicker way to the same points; a chain keeps its joints among them."""
    for lengths, k in (([600.0], [1 / 300]), ([600.0], [0.0]), ([200.0, 400.0], [1 / 300, -1 / 500])):
        curve = Curve(np.array(lengths), np.array(k), anchor, 7.0)
        dots = curve.traced(60)
        assert dots == pytest.approx(curve.cut_finer(60).points_mm, abs=1e-8) and len(dots) >= 61
        for joint in curve.points_mm:
            assert np.hypot(*(dots - joint).T).min() < 1e-8


def test_chord_rise_and_ends_of_chance_curves_are_those_of_many_points():
    """The rise lies between joints, and the ends are seen from the middle, wherever the joints fall."""
    rng = np.random.default_rng(7)
    for _ in range(150):
        cells = int(rng.integers(2, 9))
        curve = Curve(rng.uniform(10, 400, cells), rng.uniform(-0.01, 0.01, cells) * (rng.random(cells) > 0.2))
        points = curve.traced(3000)
        line = points[-1] - points[0]
        chord, rise = curve.chord_and_rise_mm()
        assert chord == pytest.approx(np.hypot(*line), abs=1e-6)
        if chord > 1:
            aside = np.abs((points - points[0]) @ np.array([-line[1], line[0]]) / chord).max()
            assert rise == pytest.approx(aside, abs=0.01)
        middle, headings = curve.at(np.array([curve.length_mm / 2]))
        turn = np.array([[np.cos(headings[0]), np.sin(headings[0])], [-np.sin(headings[0]), np.cos(headings[0])]])
        ends = (points[[0, -1]] - middle[0]) @ turn.T
        assert end_offsets_mm(curve.lengths_mm, curve.curvature) == pytest.approx(ends, abs=1e-6)
        both = end_offsets_mm(curve.lengths_mm, np.stack((curve.curvature, -curve.curvature)))
        assert both[0] == pytest.approx(ends, abs=1e-6) and both[1] == pytest.approx(ends * [1, -1], abs=1e-6)
