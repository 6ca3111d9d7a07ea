"""The face of a form: a true parallel of the mid-line, its marks, its body and its table of offsets."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import numpy as np

from ..common.arrays import Array
from ..common.errors import PlanError
from ..shape.curve import Curve
from .body import body_back, crosses_itself

Side = Literal["inner", "outer"]
CLAMP_REACH_RADIUS_MM = 20.0  # least radius left on the back of a form body before it is closed by a straight base
SEEN_MM = 8.0  # between the points a body is told by, to see whether it runs into itself
SHUT_MM = 1e-3  # between the ends of a face that is closed


@dataclass(frozen=True, eq=False)
class FormFace:
    """The edge the wood (or the liner) is pressed to, over the whole blank, with the stations that matter.

    stations are lengths along the face from its start: the finished start, the middle, the finished end. wood_mm: what
    lies on the face, liners and all.
    """

    curve: Curve
    side: Side
    part_start_mm: float
    middle_mm: float
    part_end_mm: float
    depth_mm: float
    wood_mm: float = 0.0

    @classmethod
    def under(
        cls,
        blank: Curve,
        *,
        thickness_mm: float,
        liner_mm: float,
        side: Side,
        trims_mm: tuple[float, float],
        depth_mm: float,
    ) -> FormFace:
        """The face for a blank whose mid-line on the form is `blank` (trims included).

        Face = mid-line ∓ (T/2 + liner). Raises: PlanError where the face would have a cusp. Source: geometry.
        """
        offset = (thickness_mm / 2 + liner_mm) * (-1.0 if side == "inner" else 1.0)
        curve = blank.parallel(offset, "form.liner_mm" if liner_mm else "shape")
        first, last = trims_mm[0], blank.length_mm - trims_mm[1]
        places = np.array([first, (first + last) / 2, last])
        _, turned = blank.at(places)
        start, middle, end = (float(v) for v in places + offset * (blank.headings_rad[0] - turned))
        return cls(curve, side, start, middle, end, depth_mm, thickness_mm + 2 * liner_mm)

    def along_mm(self, share: float) -> float:
        """The station of the face at a share (0 to 1) of the finished piece."""
        return self.part_start_mm + share * (self.part_end_mm - self.part_start_mm)

    @property
    def _away_mm(self) -> float:
        """The depth, in the sense of a parallel."""
        return -self.depth_mm if self.side == "inner" else self.depth_mm

    @cached_property
    def _folds(self) -> bool:
        """Whether a parallel at the depth would fold, or leave a clamp no room."""
        k = self.curve.curvature
        with np.errstate(divide="ignore"):
            left = np.where(k * self._away_mm < 0, 1 / np.abs(k) - self.depth_mm, np.inf)
        return bool((left < CLAMP_REACH_RADIUS_MM).any())

    @cached_property
    def back(self) -> Curve | None:
        """The back of the body, parallel to the face at the depth; None where it would fold, or where the body would
        run into itself though the face does not: between legs that come together."""
        if self._folds:
            return None
        back = self.curve.parallel(self._away_mm)
        return None if self._meets_itself(back) else back

    def _meets_itself(self, back: Curve) -> bool:
        """Whether an open body runs into itself where its face does not: only where it turns more than half round."""
        if float(self.curve.turns_rad.sum()) <= math.pi or self._gap_mm < SHUT_MM:
            return False
        face = self._dense(self.curve, SEEN_MM)
        round_it = np.vstack((face, self._dense(back, SEEN_MM)[::-1]))
        return crosses_itself(round_it, closed=True) and not crosses_itself(face, closed=False)

    @property
    def _gap_mm(self) -> float:
        """From one end of the face to the other."""
        points = self.curve.points_mm
        return float(np.hypot(*(points[-1] - points[0])))

    @property
    def _is_whole_between(self) -> bool:
        """Whether a body that turns more than half round ends in two legs so near that they are one: from end to end it
        goes straight across."""
        if self._folds or self._gap_mm >= 2 * self.depth_mm:
            return False
        return not crosses_itself(self._dense(self.curve, SEEN_MM), closed=True)

    @cached_property
    def _turn(self) -> tuple[Array, Array]:
        """Rotation (2, 2) and shift (2,) that lay the ends of the face on the base line y = 0, its middle at x = 0."""
        own = self.curve.points_mm
        along = own[-1] - own[0]
        angle = -math.atan2(along[1], along[0]) if np.hypot(*along) > 1e-6 else 0.0
        turn = np.array([[math.cos(angle), -math.sin(angle)], [math.sin(angle), math.cos(angle)]])
        return turn, -(turn @ (own[0] + own[-1]) / 2)

    def laid(self, points: Array) -> Array:
        """Points of the drawing (the placement of the mid-line) laid as the form is drawn: base line y = 0."""
        turn, shift = self._turn
        return np.asarray(points @ turn.T + shift)

    @property
    def tilt_rad(self) -> float:
        """How far the form is turned against the drawing of the mid-line."""
        turn, _ = self._turn
        return math.atan2(turn[1, 0], turn[0, 0])

    def outline_points(self, spacing_mm: float = 2.0) -> Array:
        """(m, 2) closed outline of the body in the placement of the mid-line, for drawing."""
        face = self._dense(self.curve, spacing_mm)
        back = self.back
        if back is not None:
            return np.vstack((face, self._dense(back, spacing_mm)[::-1]))
        return np.vstack((face, self.round_the_back))

    @cached_property
    def round_the_back(self) -> Array:
        """(m, 2) the way round a body that has no parallel back, from the end of the face to its start."""
        if self._is_whole_between:
            return np.empty((0, 2))
        face = self._dense(self.curve, 4.0)
        way = body_back(face, depth_mm=self.depth_mm, wood_mm=self.wood_mm, left_of_face=self.side == "outer")
        return self.base_corners if way is None else way

    @property
    def base_corners(self) -> Array:
        """(2, 2) corners of a straight base, right then left, for a body that has no parallel back."""
        turn, shift = self._turn
        face = self.laid(self._dense(self.curve, 10.0))
        level = min(face[:, 1].min(), 0.0) - self.depth_mm if self.side == "inner" else face[:, 1].max() + self.depth_mm
        corners = np.array([[face[:, 0].max(), level], [face[:, 0].min(), level]])
        return np.asarray((corners - shift) @ turn)

    @staticmethod
    def _dense(curve: Curve, spacing_mm: float) -> Array:
        return curve.traced(max(24, math.ceil(curve.length_mm / spacing_mm)))

    def offsets(self, step_mm: float) -> list[tuple[float, float]]:
        """Stations from the middle (x) and heights above the base line (y) of the face, every step and at the ends.

        Stations run along the base line while the face stays within 75° of it; a face that turns further is
        stepped off along its own length. Raises: PlanError for a step of zero or less.
        """
        if not step_mm > 0:
            raise PlanError("step_mm", "Stations need a distance above zero.")
        level = np.abs(self.curve.headings_rad + self.tilt_rad).max()
        if level > math.radians(75):
            along = np.array(_both_ways(self.middle_mm, 0.0, self.curve.length_mm, step_mm))
        else:
            reach = float(np.hypot(*(self.curve.points_mm[-1] - self.curve.points_mm[0]))) / 2
            along = self._stations_over(np.array(_both_ways(0.0, -reach, reach, step_mm)))
        return [(float(x), float(y)) for x, y in self.laid(self.curve.at(along)[0])]

    def _stations_over(self, across_mm: Array) -> Array:
        """Lengths along the face above so many mm from the middle of the base line; the face must not turn back."""
        k = float(self.curve.curvature[0])
        if self.curve.lengths_mm.size == 1 and k:  # one arc: x = sin(turn) / κ from the middle
            return np.asarray(self.curve.length_mm / 2 + np.arcsin(across_mm * k) / k)
        joints = self.laid(self.curve.points_mm)[:, 0]
        along = np.interp(across_mm, joints, self.curve.stations_mm)
        for _ in range(12):  # Newton's method
            points, headings = self.curve.at(along)
            missed = self.laid(points)[:, 0] - across_mm
            along = along - missed / np.cos(headings + self.tilt_rad)
            if np.abs(missed).max() < 1e-7:
                break
        return np.asarray(along)


def _both_ways(middle: float, low: float, high: float, step: float) -> list[float]:
    """Stations from the middle outwards in whole steps, and the two ends."""
    inside = middle + step * np.arange(math.ceil((low - middle) / step), math.floor((high - middle) / step) + 1)
    kept = inside[(inside > low + step * 1e-6) & (inside < high - step * 1e-6)]
    return [low, *map(float, kept), high]
