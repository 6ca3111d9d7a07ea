"""How a piece was read, kept beside chord and rise: what it says of each end, and of the whole length."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from pydantic import ConfigDict, TypeAdapter, ValidationError

from ..common.arrays import Array
from ..common.errors import PlanError
from ..learning.belief import LossRatio
from ..shape.arc import Face, face_offset_mm
from ..shape.curve import Curve, end_offsets_mm
from .built_form import BuiltForm
from .ends_and_heights import (
    Angle,
    EndReadings,
    GapReadings,
    Heights,
    MeasurementResult,
    ends_measured,
    reader,
)
from .traced import Trace, Traced, traced

MOST_CHARS = 40_000


@dataclass(frozen=True, slots=True)
class EdgePoints:
    """Points along an edge from end to end, mm, and the error of each, as they were found on a picture."""

    points_mm: tuple[tuple[float, float], ...]
    errors_mm: tuple[float, ...]
    face: Face

    @property
    def error_mm(self) -> float:
        """What a point of it is good to, in the middle of them."""
        return float(np.median(self.errors_mm))

    @property
    def traced(self) -> Traced:
        return Traced(np.array(self.points_mm), np.array(self.errors_mm), self.face)


@lru_cache(maxsize=256)
def traced_by(built: BuiltForm, points: EdgePoints) -> Trace:
    """As `traced`, remembered: a page that shows a piece again need not fit it again. Raises: PlanError."""
    return traced(built, points.traced)


@dataclass(frozen=True, slots=True)
class KeptReading:
    """What was read, and the error of one reading: mm, of an angle degrees."""

    __pydantic_config__ = ConfigDict(extra="forbid", allow_inf_nan=False)
    by: Heights | GapReadings | EndReadings | Angle | EdgePoints
    error: float


_KEPT: TypeAdapter[KeptReading] = TypeAdapter(KeptReading)


def written(kept: KeptReading) -> str:
    """As it is kept."""
    return _KEPT.dump_json(kept).decode()


def read(text: str) -> KeptReading | None:
    """What was written; none where nothing was, or it cannot be read."""
    if not text or len(text) > MOST_CHARS:
        return None
    try:
        return _KEPT.validate_json(text)
    except ValidationError:
        return None


def is_slip(built: BuiltForm, kept: KeptReading, made: MeasurementResult) -> bool:
    """Whether readings belong to no such piece, not even to one whose ends opened otherwise."""
    return made.is_odd and ends_by(built, kept)[0] is None


@dataclass(frozen=True, eq=False)
class ProfileDeviation:
    """A piece beside what was expected of it and what is wanted, the middle laid on the middle, level there.

    stations: (n,) shares of the length, 0 at the left end; off_expected, off_wanted: (n,) mm from the curve expected
    or wanted, above 0 where the piece lies opened. ends: each end's own loss ratio where it was read, else None; tips:
    how far each tip lies from where it is wanted, mm, opened above 0. seen: (m, 2) share and mm of the readings
    themselves against what was expected, where they have a place along the piece.
    """

    stations: Array
    off_expected: Array
    off_wanted: Array
    ends: tuple[LossRatio, LossRatio] | tuple[None, None]
    tips: tuple[float, float]
    seen: Array

    @property
    def ends_differ(self) -> bool:
        """Whether one end opened more than the other, beyond what measuring may be off by."""
        left, right = self.ends
        if left is None or right is None:
            return False
        return abs(left.ratio - right.ratio) > 2 * float(np.hypot(left.error, right.error))


def beside(built: BuiltForm, ratio: float, kept: KeptReading | None) -> ProfileDeviation:
    """What a measured piece shows along its whole length and at each end. ratio: its loss ratio as a whole.

    Each end is taken by its own ratio where it was read. Raises: PlanError. Source: geometry. Grade: physics.
    """
    ends = ends_by(built, kept) if kept else (None, None)
    came = built.bent_by_halves(ends[0].ratio, ends[1].ratio) if ends[0] and ends[1] else built.bent_by(ratio)
    at = np.linspace(0.0, 1.0, 61)
    expected, wanted = built.mid_line(built.expected), built.mid_line(built.wanted_curvature)
    off_wanted = opened(came, wanted, at)
    return ProfileDeviation(
        at,
        opened(came, expected, at),
        off_wanted,
        ends,
        (_tip(came, wanted, 0), _tip(came, wanted, 1)),
        _seen(built, kept) if kept else np.empty((0, 2)),
    )


def opened(came: Curve, other: Curve, shares: Array) -> Array:
    """(n,) how far points of one curve lie from those of another at the same station, opened above 0."""
    there, heading = other.at(shares * other.length_mm)
    here = came.at(shares * came.length_mm)[0]
    out = np.stack((-np.sin(heading), np.cos(heading)), axis=1)
    square_to = ((here - there) * out).sum(axis=1)
    return np.asarray(square_to * _bulges(other))


def _bulges(curve: Curve) -> float:
    """1 where a curve bulges upwards on the whole, so that its ends open upwards; −1 the other way."""
    return 1.0 if curve.sweep_rad >= 0 else -1.0


def _tip(came: Curve, wanted: Curve, end: int) -> float:
    """How far one tip lies from where it is wanted, opened above 0."""
    here = end_offsets_mm(came.lengths_mm, came.curvature)[end]
    there = end_offsets_mm(wanted.lengths_mm, wanted.curvature)[end]
    heading = float(wanted.headings_rad[-1 if end else 0])
    opened = (here - there) @ np.array([-np.sin(heading), np.cos(heading)]) * _bulges(wanted)
    return float(np.copysign(np.hypot(*(here - there)), opened))


def ends_by(built: BuiltForm, kept: KeptReading) -> tuple[LossRatio, LossRatio] | tuple[None, None]:
    """Each half's own ratio, where what was read tells them apart."""
    try:
        if isinstance(kept.by, EdgePoints):
            return traced_by(built, kept.by).halves
        return ends_measured(built, kept.by, error=kept.error)
    except PlanError:
        return None, None


def _seen(built: BuiltForm, kept: KeptReading) -> Array:
    """(m, 2) share of the length and mm opened beyond what was expected, of readings that have a place."""
    by = kept.by
    if isinstance(by, EdgePoints):
        made = traced_by(built, by)
        long = built.bent_by(made.measured.ratio.ratio).parallel(face_offset_mm(by.face, built.thickness_mm)).length_mm
        return np.stack((made.stations_mm / long, made.off_mm * _bulges(built.mid_line(built.expected))), axis=1)
    if isinstance(by, GapReadings):
        read_, shows = reader(built, by)
        shares = [share for share, gap in ((0.0, by.left_mm), (1.0, by.right_mm)) if gap is not None]
        return np.stack((np.array(shares), read_ - shows(built.mid_line(built.expected))), axis=1)
    return np.empty((0, 2))
