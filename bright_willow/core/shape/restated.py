"""A shape stated another way: the same curve where the other kind can say it, else one of its size to start from."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from ..ground.errors import OutOfRange
from .curve import Curve
from .shapes import ShapeBase

MOST_STRETCHES = 40


def restated(shape: ShapeBase, kind: str) -> dict[str, Any]:
    """The fields of a shape of another kind. Raises: KeyError for a kind that is not known."""
    if kind == getattr(shape, "kind", None):
        return shape.model_dump()
    try:
        curve = shape.face_curve().merged()
        if shape.is_closed:  # cut open, it is most of a circle
            curve = Curve(curve.lengths_mm * 5 / 6, curve.curvature)
    except OutOfRange:
        curve = Curve.of([1000.0], [1 / 900.0])
    chord, rise = curve.chord_and_rise_mm()
    along = curve.at(np.linspace(0, curve.length_mm, 33))[0]
    size = max(40.0, chord, float(np.ptp(along, axis=0).max()))
    exact = _arc_figures(curve) if curve.lengths_mm.size == 1 else {}
    radius, length, angle = exact.get("radius", size), exact.get("length", size), exact.get("angle", 60.0)
    points = curve.at(np.linspace(0, curve.length_mm, 13))[0]
    points = points - points[0]
    ends = [_round(v) for v in (*points[0], *points[6], *points[-1])]
    figures: dict[str, dict[str, Any]] = {
        "arc_by_chord": {
            "chord_mm": chord if exact else size,
            "rise_mm": rise if exact else max(5.0, min(rise, size / 2)),
        },
        "arc_by_radius": {"radius_mm": radius, "angle_deg": angle},
        "arc_by_length": {"radius_mm": radius, "length_mm": length},
        "arc_by_points": dict(zip(("x1_mm", "y1_mm", "x2_mm", "y2_mm", "x3_mm", "y3_mm"), ends, strict=True)),
        "hook": _sized(size, start_mm=0.4, radius_mm=0.25, end_mm=0.12) | {"angle_deg": 120.0},
        "u": _sized(size, left_leg_mm=0.5, left_radius_mm=0.2, flat_mm=0.4, right_radius_mm=0.2, right_leg_mm=0.5),
        "s": _sized(size, first_radius_mm=0.5, straight_mm=0.1, second_radius_mm=0.4)
        | {"first_angle_deg": 60.0, "second_angle_deg": 60.0},
        "hoop": _sized(size, diameter_mm=0.5, gap_mm=0.1),
        "ring": _sized(size, diameter_mm=0.5),
        "eased_arc": _sized(size, easing_mm=0.2, radius_mm=0.5) | {"angle_deg": 90.0},
        "parabola": {"chord_mm": size, "rise_mm": max(5.0, min(rise, size / 2))},
        "ellipse": {"part_of": "half"} | _sized(size, half_width_mm=0.5, height_mm=0.3),
        "polycurve": {"stretches": _stretches(curve)},
        "outline": {"points_mm": [[_round(x), _round(y)] for x, y in points], "slack_mm": 0.2, "source": "typed"},
    }
    return {"kind": kind, "face": shape.face, **figures[kind]}


def _arc_figures(curve: Curve) -> dict[str, float]:
    k = abs(float(curve.curvature[0]))
    return {"radius": 1 / k, "length": curve.length_mm, "angle": math.degrees(curve.length_mm * k)}


def _sized(size: float, **shares: float) -> dict[str, float]:
    return {name: float(max(10, round(size * share))) for name, share in shares.items()}


def _round(value: float) -> float:
    return round(float(value), 2)


def _stretches(curve: Curve) -> list[dict[str, Any]]:
    """A chain of straights and arcs; a curve of very many cells is gathered into fewer."""
    if curve.lengths_mm.size > MOST_STRETCHES:
        joints = np.linspace(0, curve.length_mm, 13)
        turned = np.interp(joints, curve.stations_mm, curve.headings_rad)
        curve = Curve(np.diff(joints), -np.diff(turned) / np.diff(joints))
    made: list[dict[str, Any]] = []
    for length, k in zip(curve.lengths_mm.tolist(), curve.curvature.tolist(), strict=True):
        if abs(k) < 2.1e-5:
            made.append({"kind": "straight", "length_mm": length})
        else:
            made.append({"kind": "arc", "radius_mm": 1 / abs(k), "angle_deg": math.degrees(length * k)})
    return made
