"""How each end of a piece is cut: square, mitred, along the line through both ends, or left long."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..common.errors import ENDLESS, check_range
from ..job.job import CutKind
from ..shape.curve import Curve

FLATTEST = math.cos(math.radians(75.0))  # a cut nearer to the run of the piece than 15° is none
Side = Literal["left", "right"]


@dataclass(frozen=True, slots=True)
class EndCut:
    """The cut at one end. mitre_deg: off square, 0 to 75; inner_mm, outer_mm: how far along the piece the cut crosses
    its inner and outer face from where it crosses the mid-line; inner, outer: those places on the finished piece.

    is_flat: it was to be cut along the line, but lies along it; it is cut square.
    """

    side: Side
    kind: CutKind
    mitre_deg: float
    inner_mm: float
    outer_mm: float
    inner: tuple[float, float]
    outer: tuple[float, float]
    is_flat: bool = False

    @property
    def needs_mm(self) -> float:
        """What the longer face needs beyond the finished end of the mid-line."""
        return max(abs(self.inner_mm), abs(self.outer_mm))


def mitre_reach_mm(mitre_deg: float, thickness_mm: float) -> float:
    """How far either face of a mitred end runs past its middle: T/2 · tan of the angle off square.

    Valid: −75 to 75 degrees, thickness above 0. Raises: PlanError. Source: geometry. Grade: physics.

    >>> round(mitre_reach_mm(45.0, 20.0), 6)
    10.0
    """
    check_range("part.left_mitre_deg", mitre_deg, -75.0, 75.0, "°")
    check_range("part.thickness_mm", thickness_mm, 0, ENDLESS, "mm", above=True)
    return thickness_mm / 2 * math.tan(math.radians(mitre_deg))


def end_cut(target: Curve, side: Side, kind: CutKind, mitre_deg: float, thickness_mm: float) -> EndCut:
    """The cut at an end of a finished mid-line. mitre_deg: positive leans the outer face out, for `mitred` only."""
    points, headings = target.points_mm, target.headings_rad
    end, outwards = (0, -1.0) if side == "left" else (-1, 1.0)
    along = np.array([math.cos(headings[end]), math.sin(headings[end])])
    away = np.array([-along[1], along[0]])  # towards the outer face
    half, is_flat, shift = thickness_mm / 2, False, 0.0
    if kind == "mitred":
        shift = outwards * mitre_reach_mm(mitre_deg, thickness_mm)
    elif kind == "on_line":
        line = points[-1] - points[0]
        line = line / max(1e-9, float(np.hypot(*line)))
        square = float(line @ away)
        is_flat = abs(square) < FLATTEST
        shift = 0.0 if is_flat else half * float(line @ along) / square
    outer, inner = points[end] + away * half + along * shift, points[end] - away * half - along * shift
    angle = math.degrees(math.atan2(abs(shift), half))
    return EndCut(
        side,
        kind,
        angle,
        -shift,
        shift,
        (float(inner[0]), float(inner[1])),
        (float(outer[0]), float(outer[1])),
        is_flat,
    )
