"""The face of a form: a true parallel of the mid-line, its marks, its body and its table of offsets."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..arrays import Array
from ..errors import OutOfRange
from ..shape.curve import Curve

Side = Literal["inner", "outer"]
CLAMP_REACH_RADIUS_MM = 20.0  # least radius left on the back of a form body before it is closed by a straight base


@dataclass(frozen=True, eq=False)
class FormFace:
    """The edge the wood (or the liner) is pressed to, over the whole blank, with the stations that matter.

    stations are lengths along the face from its start: the finished start, the middle, the finished end.
    """

    curve: Curve
    side: Side
    part_start_mm: float
    middle_mm: float
    part_end_mm: float
    depth_mm: float

    @classmethod
    def under(
        cls, blank: Curve, *, thickness_mm: float, liner_mm: float, side: Side, trim_mm: float, depth_mm: float
    ) -> FormFace:
        """The face for a blank whose mid-line on the form is `blank` (trims included).

        Face = mid-line ∓ (T/2 + liner). Raises: OutOfRange where the face would have a cusp. Source: geometry.
        """
        offset = (thickness_mm / 2 + liner_mm) * (-1.0 if side == "inner" else 1.0)
        curve = blank.parallel(offset, "form.liner_mm" if liner_mm else "shape")
        places = np.array([trim_mm, blank.length_mm / 2, blank.length_mm - trim_mm])
        _, turned = blank.at(places)
        start, middle, end = places + offset * (blank.headings_rad[0] - turned)
        return cls(curve, side, float(start), float(middle), float(end), depth_mm)

    @property
    def back(self) -> Curve | None:
        """The back of the body, parallel to the face at the depth; None where it would fold, so a straight base."""
        away = -self.depth_mm if self.side == "inner" else self.depth_mm
        k = self.curve.curvature
        with np.errstate(divide="ignore"):
            left = np.where(k * away < 0, 1 / np.abs(k) - self.depth_mm, np.inf)
        return None if (left < CLAMP_REACH_RADIUS_MM).any() else self.curve.parallel(away)

    def placed(self, curve: Curve | None = None) -> tuple[Array, Array]:
        """Joints (n + 1, 2) and headings of the face (or its back), the base line through the face ends being y = 0.

        The middle of the face stands at x = 0.
        """
        own = self.curve.points_mm
        shift = np.array([0.0, -(own[0, 1] + own[-1, 1]) / 2])
        if curve is None:
            return own + shift, self.curve.headings_rad
        across = self.depth_mm * (-1.0 if self.side == "inner" else 1.0)
        return curve.points_mm + shift + np.array([0.0, across]), curve.headings_rad

    def outline_points(self, spacing_mm: float = 2.0) -> Array:
        """(m, 2) closed outline of the body for drawing, within a hundredth of a millimetre of the arcs."""
        face = self._dense(self.curve, spacing_mm, None)
        back = self.back
        if back is not None:
            return np.vstack((face, self._dense(back, spacing_mm, back)[::-1]))
        floor = min(face[:, 1].min(), 0.0) - self.depth_mm * (1 if self.side == "inner" else 0)
        ceiling = face[:, 1].max() + self.depth_mm
        level = floor if self.side == "inner" else ceiling
        wide = np.array([[face[:, 0].max(), level], [face[:, 0].min(), level]])
        return np.vstack((face, wide))

    def _dense(self, curve: Curve, spacing_mm: float, back: Curve | None) -> Array:
        finer = curve.cut_finer(max(24, math.ceil(curve.length_mm / spacing_mm)))
        points, _ = self.placed() if back is None else self.placed(back)
        return np.asarray(finer.points_mm + (points[0] - curve.points_mm[0]))

    def offsets(self, step_mm: float) -> list[tuple[float, float]]:
        """Stations from the middle (x) and heights above the base line (y) of the face, every step and at the ends.

        Stations run along the base line while the face stays within 75° of it; a face that turns further is
        stepped off along its own length. Raises: OutOfRange for a step of zero or less.
        """
        if not step_mm > 0:
            raise OutOfRange("step_mm", "Stations need a distance above zero.")
        shift = self.placed()[0][0] - self.curve.points_mm[0]
        if np.abs(self.curve.headings_rad).max() > math.radians(75):
            along = np.array(_both_ways(self.middle_mm, 0.0, self.curve.length_mm, step_mm))
        else:
            ends = self.curve.points_mm[[0, -1], 0]
            along = self._stations_over(np.array(_both_ways(0.0, float(ends[0]), float(ends[1]), step_mm)))
        points = self.curve.at(along)[0] + shift
        return [(float(x), float(y)) for x, y in points]

    def _stations_over(self, across_mm: Array) -> Array:
        """Lengths along the face above so many mm from the middle, by Newton's method; the face must not turn back."""
        k = float(self.curve.curvature[0])
        if self.curve.lengths_mm.size == 1 and k:  # one arc: x = sin(turn) / κ from the middle
            return np.asarray(self.curve.length_mm / 2 + np.arcsin(across_mm * k) / k)
        joints = self.curve.points_mm[:, 0]
        along = np.interp(across_mm, joints, self.curve.stations_mm)
        for _ in range(12):
            points, headings = self.curve.at(along)
            missed = points[:, 0] - across_mm
            along = along - missed / np.cos(headings)
            if np.abs(missed).max() < 1e-7:
                break
        return np.asarray(along)


def _both_ways(middle: float, low: float, high: float, step: float) -> list[float]:
    """Stations from the middle outwards in whole steps, and the two ends."""
    inside = middle + step * np.arange(math.ceil((low - middle) / step), math.floor((high - middle) / step) + 1)
    kept = inside[(inside > low + step * 1e-6) & (inside < high - step * 1e-6)]
    return [low, *map(float, kept), high]
