"""The finished piece on its three faces, and the places of its strip that are marked on the story stick."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import numpy as np

from ..shape.curve import Curve
from ..shape.curve_figures import CurveFigures
from ..springback.closed_ring import RingLayer
from ..stock.sheet_cutting import SheetCut
from .end_cuts import EndCut
from .own_marks import MarkPlace

MarkKind = Literal["blank_end", "part_end", "centre", "bend_start", "bend_end", "tightest", "joint", "witness", "own"]
WITNESS_MM = 40.0  # of the witness mark from the left finished end

Place = tuple[str, MarkKind, float]


@dataclass(frozen=True, eq=False)
class Geometry:
    """The piece on its three faces, and what a maker would check: its size over all, as drawn (level in the middle of
    its length), and the angle between its ends (0 for legs that stand parallel, 180 for a straight)."""

    target: Curve
    thickness_mm: float
    width_mm: float

    @cached_property
    def inner(self) -> CurveFigures:
        """The inner face, figures in mm and degrees."""
        return CurveFigures(self.target.parallel(-self.thickness_mm / 2))

    @cached_property
    def mid(self) -> CurveFigures:
        """The mid-line."""
        return CurveFigures(self.target)

    @cached_property
    def outer(self) -> CurveFigures:
        """The outer face."""
        return CurveFigures(self.target.parallel(self.thickness_mm / 2))

    def face(self, name: Literal["inner", "mid", "outer"]) -> CurveFigures:
        """One of the three."""
        return self.inner if name == "inner" else self.mid if name == "mid" else self.outer

    @cached_property
    def _over_all(self) -> tuple[float, float]:
        if self.target.lengths_mm.size == 1:
            return self._over_all_of_an_arc()
        faces = (self.inner.of, self.outer.of)
        points = np.vstack([c.at(np.linspace(0, c.length_mm, 129))[0] for c in faces])
        across, up = np.ptp(points, axis=0)
        return float(across), float(up)

    def _over_all_of_an_arc(self) -> tuple[float, float]:
        """The same where it is one arc, level in its middle: both faces turn alike about one centre."""
        k, half = abs(float(self.target.curvature[0])), self.thickness_mm / 2
        turn = k * self.target.length_mm / 2  # of either half
        inside, outside = 1 / k - half, 1 / k + half
        widest = outside if turn >= math.pi / 2 else outside * math.sin(turn)
        lowest = min(inside * math.cos(turn), outside * math.cos(min(turn, math.pi)))
        return 2 * widest, outside - lowest

    @property
    def overall_across_mm(self) -> float:
        """Width of the box round the piece, along its base line, mm."""
        return self._over_all[0]

    @property
    def overall_up_mm(self) -> float:
        """Height of that box, mm."""
        return self._over_all[1]

    @property
    def legs_angle_deg(self) -> float:
        """Angle between the two ends, 0 to 180 degrees."""
        return abs(math.degrees(math.remainder(math.pi - abs(self.target.sweep_rad), math.tau)))


@dataclass(frozen=True, slots=True)
class StickMark:
    """One mark of the story stick: its distance from the centre along three lines of the blank on the form, mm."""

    name: str
    kind: MarkKind
    inner_mm: float
    mid_mm: float
    outer_mm: float


def stick_marks(
    blank: Curve,
    stated: Curve,
    *,
    thickness_mm: float,
    trims_mm: tuple[float, float],
    ends: tuple[EndCut, EndCut],
    witness_mm: float | None,
    own: tuple[MarkPlace, ...],
    ring: tuple[RingLayer, ...],
    sheets: tuple[SheetCut, ...],
) -> tuple[StickMark, ...]:
    """Marks on the blank as it lies on the form, from its centre along inner face, mid-line and outer face.

    stated: the finished mid-line whose bends are marked; ends: how it is cut, which may cross its faces elsewhere.
    witness_mm: of the mark that tells which way round a piece goes, from its start; own: the maker's own marks.
    Source: geometry.
    """
    half, length = thickness_mm / 2, blank.length_mm
    first, last = trims_mm[0], length - trims_mm[1]
    middle = (first + last) / 2
    places: list[Place] = [
        ("finished end", "part_end", first),
        ("center", "centre", middle),
        ("finished end", "part_end", last),
    ]
    if first > 0:
        places.append(("blank end", "blank_end", 0.0))
    if last < length:
        places.append(("blank end", "blank_end", length))
    if witness_mm is not None:
        places.append(("witness mark", "witness", first + witness_mm))
    # a mark at an end stays between the finished ends, which are the first and the last of the marks
    places += [(m.name, "own", min(max(first + m.station_mm, first + 1e-6), last - 1e-6)) for m in own]
    places += [(f"joint of ply {x.number}", "joint", x.joint_deg / 360 * length) for x in ring]
    for cut in sheets:
        for number, joints in enumerate(cut.joints_mm, 1):
            places += [(f"joint in {cut.sheet.name.lower()} {number}", "joint", at) for at in joints]
    places += [(name, kind, first + station) for name, kind, station in bend_places(stated)]
    places.sort(key=lambda place: place[2])
    along = np.array([station for _, _, station in places])
    _, headings = blank.at(along)
    level = float(blank.at(np.array([middle]))[1][0])  # how far the strip has turned since its centre
    marks = []
    for (name, kind, station), heading in zip(places, headings, strict=True):
        from_centre, gain = station - middle, -half * (float(heading) - level)
        end = next((e for e in ends if kind == "part_end" and (e.side == "left") == (station < middle)), None)
        inner, outer = (end.inner_mm, end.outer_mm) if end else (0.0, 0.0)
        marks.append(StickMark(name, kind, from_centre - gain + inner, from_centre, from_centre + gain + outer))
    return tuple(marks)


def bend_places(stated: Curve) -> list[Place]:
    """Where bends start and end, and the tightest place of a bend that changes: name, kind, mm from the start."""
    curve = stated.merged()
    if curve.lengths_mm.size == 1:
        return []
    bent = np.abs(curve.curvature) > 1e-7
    stations = curve.stations_mm
    found: list[Place] = []
    for i in range(1, bent.size):
        if bent[i] and not bent[i - 1]:
            found.append(("bend starts", "bend_start", float(stations[i])))
        elif bent[i - 1] and not bent[i]:
            found.append(("bend ends", "bend_end", float(stations[i])))
        elif bent[i] and curve.curvature[i] * curve.curvature[i - 1] < 0:
            found.append(("bend turns", "bend_start", float(stations[i])))
    sizes = np.abs(curve.curvature)
    tight = int(sizes.argmax())
    if (sizes > sizes[tight] * (1 - 1e-6)).sum() < max(2, bent.sum()):
        found.append(("tightest", "tightest", float((stations[tight] + stations[tight + 1]) / 2)))
    return found
