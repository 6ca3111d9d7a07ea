"""A gentler version of a shape: the figures to change so that its tightest bend has a larger inside radius."""

from __future__ import annotations

import math

import numpy as np

from ..common.errors import PlanError
from .arc import face_offset_mm
from .kinds.shape_base import ShapeBase

RADII = ("radius_mm", "left_radius_mm", "right_radius_mm", "first_radius_mm", "second_radius_mm")
DIAMETER, RISE = "diameter_mm", "rise_mm"
HALVINGS = 24


def gentler_figures(shape: ShapeBase, thickness_mm: float, *, inside_mm: float) -> dict[str, float]:
    """Return the fields of a shape to set, in whole mm, so that no inside radius is below inside_mm.

    Radii and diameters grow; a rise falls, its chord kept. Empty where the shape has no such figure (points, an
    outline, a chain of segments), or where no value of it does. thickness_mm: of the part, above 0. Source: geometry.
    """
    least = inside_mm + thickness_mm / 2 + face_offset_mm(shape.face, thickness_mm)  # radius of the stated face
    fields = type(shape).model_fields
    made: dict[str, float] = {}
    for name in RADII:
        if name in fields and getattr(shape, name) < least:
            made[name] = float(math.ceil(least))
    if DIAMETER in fields and getattr(shape, DIAMETER) < 2 * least:
        made[DIAMETER] = float(2 * math.ceil(least))
    if RISE in fields:
        made |= _lower_rise(shape, thickness_mm, inside_mm)
    return made if made and _tightest_inside_mm(shape, made, thickness_mm) >= inside_mm - 1e-6 else {}


def _lower_rise(shape: ShapeBase, thickness_mm: float, inside_mm: float) -> dict[str, float]:
    low, high = 1.0, float(getattr(shape, RISE))
    for _ in range(HALVINGS):
        middle = (low + high) / 2
        fits = _tightest_inside_mm(shape, {RISE: middle}, thickness_mm) >= inside_mm
        low, high = (middle, high) if fits else (low, middle)
    return {RISE: float(max(1, math.floor(low)))}


def _tightest_inside_mm(shape: ShapeBase, figures: dict[str, float], thickness_mm: float) -> float:
    """Return the least inside radius with some figures changed; 0 where there is no such shape."""
    try:
        mid = shape.model_copy(update=figures).mid_line(thickness_mm)
    except PlanError:
        return 0.0
    return float(1 / np.abs(mid.curvature).max() - thickness_mm / 2)
