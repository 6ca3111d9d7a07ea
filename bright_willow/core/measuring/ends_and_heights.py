"""Other ways to measure a piece than chord and rise: its ends by distance and by square, heights along a straightedge,
gaps to the form, the angle of its ends. Each gives the loss ratio that fits it best, and the chord and rise that
belong to it."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from ..common.arrays import Array
from ..common.errors import ENDLESS, PlanError, check_range
from ..learning.belief import LossRatio
from ..shape.arc import Face, face_offset_mm
from ..shape.curve import Curve
from .built_form import BuiltForm

STEP, ROUNDS, STILL = 1e-3, 40, 1e-9
FINE_MM = 2.0  # between points of the outline heights are read off
MOST_RATIO = 20.0
WORST_TOLD = 1e6  # of the matrix of two halves, beyond which readings do not tell them apart
BEYOND_MM = 2.0  # that a height may lie beyond an end
ODD = 3.0  # times the measuring error beyond which readings do not belong together. Grade: allowance.


@dataclass(frozen=True, slots=True)
class Heights:
    """Heights of a face above a straightedge from end to end: how far along from the left end, and how high, mm."""

    at_mm: tuple[float, ...]
    high_mm: tuple[float, ...]
    face: Face


@dataclass(frozen=True, slots=True)
class EndReadings:
    """The ends of a face: the distance between them, and how far each stands by square from a straightedge laid to the
    middle of that face, mm. None for what was not measured."""

    opening_mm: float | None
    left_mm: float | None
    right_mm: float | None
    face: Face


@dataclass(frozen=True, slots=True)
class GapReadings:
    """How far each end stands off the form's face, the piece's middle lying on it, mm. None for an end not measured."""

    left_mm: float | None
    right_mm: float | None


@dataclass(frozen=True, slots=True)
class Angle:
    """The angle one end turns against the other, degrees: by a square and a bevel laid to both ends."""

    between_deg: float


Readings = Heights | GapReadings | Angle | EndReadings


@dataclass(frozen=True, slots=True)
class MeasurementResult:
    """What readings come to: the loss ratio with its error, chord and rise of a face that belong to it, the error of
    either that gives the same error of the ratio, and how far the readings lie from the fit, over their error."""

    ratio: LossRatio
    chord_mm: float
    rise_mm: float
    error_mm: float
    misfit: float

    @property
    def is_odd(self) -> bool:
        """Whether the readings do not belong to one such piece."""
        return self.misfit > ODD


def measured(built: BuiltForm, readings: Readings, *, face: Face, error: float) -> MeasurementResult:
    """The loss ratio that fits some readings best, by least squares (Gauss–Newton on one unknown), with the error that
    the error of each reading gives it.

    error: of one reading, mm, of an angle degrees. Valid: error above 0; readings of a piece off that form. Raises:
    PlanError. Source: geometry; docs/model.md#learning. Grade: physics.
    """
    check_range("error", error, 0, ENDLESS, above=True)
    seen, shows = reader(built, readings)

    def reads(ratio: float) -> Array:
        return shows(built.bent_by(ratio))

    k = 1.0
    slope = np.zeros(seen.size)
    for _ in range(ROUNDS):
        here = reads(k)
        slope = (reads(k + STEP) - here) / STEP
        if not float(slope @ slope) > 1e-12:
            raise PlanError("readings", "These readings do not change with springback: measure something else.")
        change = float(slope @ (seen - here) / (slope @ slope))
        k += max(-2.0, min(2.0, change))
        if abs(change) < STILL:
            break
    if not abs(k) <= MOST_RATIO:
        raise PlanError("readings", "No springback gives these readings: check them.")
    if isinstance(readings, Heights):
        along, _ = straightened(built.bent_by(k).parallel(face_offset_mm(readings.face, built.thickness_mm)))
        if max(readings.at_mm) > along[-1] + BEYOND_MM or min(readings.at_mm) < -BEYOND_MM:
            raise PlanError("heights", "A height is beyond the ends of the piece.")
    left = (seen - reads(k)) / error
    misfit = math.sqrt(float((left**2).mean()))
    sure = error / math.sqrt(float(slope @ slope)) * max(1.0, misfit)
    return came_to(built, LossRatio(k, sure), face, misfit)


def came_to(built: BuiltForm, ratio: LossRatio, face: Face, misfit: float) -> MeasurementResult:
    """What a loss ratio found comes to on a face. Raises: PlanError where it has no chord and rise there."""
    if not abs(ratio.ratio) <= MOST_RATIO:
        raise PlanError("readings", "No springback gives these readings: check them.")
    chord, rise, _ = built.on_face(built.bent_by(ratio.ratio), face)
    if not chord > 0 or not rise > 0:
        raise PlanError("readings", "These readings give no chord and rise: check them.")
    of_one = built.fitted_ratio(chord_mm=chord, rise_mm=rise, face=face, error_mm=1.0).error
    return MeasurementResult(ratio, chord, rise, max(0.05, ratio.error / of_one), misfit)


def ends_measured(
    built: BuiltForm, readings: Readings, *, error: float
) -> tuple[LossRatio, LossRatio] | tuple[None, None]:
    """The loss ratios of the left and of the right half, fitted together; none where the readings do not tell them
    apart, or belong to no such piece. As `measured`. Raises: PlanError."""
    check_range("error", error, 0, ENDLESS, above=True)
    seen, shows = reader(built, readings)
    if seen.size < 2:
        return None, None
    both, slopes = np.ones(2), np.zeros((seen.size, 2))
    steps = np.eye(2) * STEP
    for _ in range(ROUNDS):
        here = shows(built.bent_by_halves(*both))
        slopes = np.stack([(shows(built.bent_by_halves(*(both + s))) - here) / STEP for s in steps], axis=1)
        if not np.linalg.cond(slopes.T @ slopes) < WORST_TOLD:
            return None, None
        change = np.linalg.lstsq(slopes, seen - here, rcond=None)[0]
        both = both + np.clip(change, -2.0, 2.0)
        if float(np.abs(change).max()) < STILL:
            break
    left = (seen - shows(built.bent_by_halves(*both))) / error
    if not (np.abs(both) <= MOST_RATIO).all() or not math.sqrt(float((left**2).mean())) <= ODD:
        return None, None
    sure = error * np.sqrt(np.diag(np.linalg.inv(slopes.T @ slopes)))
    return LossRatio(float(both[0]), float(sure[0])), LossRatio(float(both[1]), float(sure[1]))


def reader(built: BuiltForm, readings: Readings) -> tuple[Array, Callable[[Curve], Array]]:
    """What was read, and what would be read on a piece whose mid-line is such a curve. Raises: PlanError."""
    if isinstance(readings, Heights):
        return _heights(built, readings)
    if isinstance(readings, GapReadings):
        return _gaps(built, readings)
    if isinstance(readings, EndReadings):
        return _by_square(built, readings)
    check_range("between", readings.between_deg, -720, 720, "°")
    return np.array([readings.between_deg]), lambda curve: np.array([_turn_deg(curve)])


def _turn_deg(curve: Curve) -> float:
    return math.degrees(float(curve.lengths_mm @ curve.curvature))


def _heights(built: BuiltForm, seen: Heights) -> tuple[Array, Callable[[Curve], Array]]:
    if not seen.at_mm or len(seen.at_mm) != len(seen.high_mm):
        raise PlanError("heights", "Enter each height with its distance along the piece.")
    for value in (*seen.at_mm, *seen.high_mm):
        check_range("heights", value, -100_000, 100_000, "mm")
    at = np.array(seen.at_mm)

    def reads(curve: Curve) -> Array:
        along, high = straightened(curve.parallel(face_offset_mm(seen.face, built.thickness_mm)))
        return np.asarray(np.interp(at, along, high))

    return np.array(seen.high_mm), reads


def straightened(curve: Curve) -> tuple[Array, Array]:
    """(n,) how far along the line from end to end, and (n,) how high above it, of points of a curve. Raises: PlanError
    where the curve turns back over that line."""
    stations = np.linspace(0.0, curve.length_mm, max(32, math.ceil(curve.length_mm / FINE_MM)))
    points = curve.at(stations)[0]
    ends = points[-1] - points[0]
    long = float(np.hypot(*ends))
    if long < 1.0:
        raise PlanError("heights", "The ends of this piece meet: there is no straightedge between them.")
    along = (points - points[0]) @ ends / long
    high = ((points - points[0]) @ np.array([-ends[1], ends[0]])) / long
    if np.any(np.diff(along) <= 0):
        raise PlanError("heights", "This piece turns back over its own ends: measure chord and rise.")
    return along, high if abs(high.max()) >= abs(high.min()) else -high


def _by_square(built: BuiltForm, seen: EndReadings) -> tuple[Array, Callable[[Curve], Array]]:
    read = (seen.opening_mm, seen.left_mm, seen.right_mm)
    own = [n for n, value in enumerate(read) if value is not None]
    if not own:
        raise PlanError("ends", "The distance between the ends, or one end by square, please.")
    for value in read:
        if value is not None:
            check_range("ends", value, -100_000, 100_000, "mm")

    def reads(curve: Curve) -> Array:
        face = curve.parallel(face_offset_mm(seen.face, built.thickness_mm))
        first, last = face.points_mm[0], face.points_mm[-1]
        low = face.anchor_y_mm
        every = np.array([float(np.hypot(*(last - first))), abs(low - float(first[1])), abs(low - float(last[1]))])
        return every[own]

    return np.array([read[n] for n in own], dtype=float), reads


def _gaps(built: BuiltForm, seen: GapReadings) -> tuple[Array, Callable[[Curve], Array]]:
    own = [(value, end) for value, end in ((seen.left_mm, 0), (seen.right_mm, -1)) if value is not None]
    if not own:
        raise PlanError("gaps", "The gap at one end at least, please.")
    for value, _ in own:
        check_range("gaps", value, -10_000, 10_000, "mm")
    form = built.mid_line(built.form_curvature)
    normals = [_outward(form, end) for _, end in own]
    spots = [form.points_mm[end] for _, end in own]

    def reads(curve: Curve) -> Array:
        points = curve.points_mm
        return np.array([(points[end] - s) @ n for (_, end), s, n in zip(own, spots, normals, strict=True)])

    return np.array([v for v, _ in own]), reads


def _outward(form: Curve, end: int) -> Array:
    """Square to the form at an end, towards where an opening piece goes."""
    heading = float(form.headings_rad[end])
    normal = np.array([-math.sin(heading), math.cos(heading)])
    opens = form.with_curvature(form.curvature * 0.99).points_mm[end] - form.points_mm[end]
    return np.asarray(normal if float(opens @ normal) >= 0 else -normal)


def read_rows(text: str, read: Callable[[str, str], float], *, most: int = 60) -> tuple[tuple[float, float], ...]:
    """Pairs of lengths, one pair a line. read: a length from its text and the field it is of. Raises: PlanError."""
    rows: list[tuple[float, float]] = []
    for number, row in enumerate(text.replace(";", "\n").splitlines(), 1):
        if not row.strip():
            continue
        parts: Sequence[str] = [p for p in row.split(",") if p.strip()] if "," in row else row.split()
        if len(parts) != 2:
            raise PlanError("heights", f"Line {number}: distance along, comma, height.")
        rows.append((read(parts[0].strip(), "heights"), read(parts[1].strip(), "heights")))
        if len(rows) > most:
            raise PlanError("heights", f"At most {most} heights, please.")
    return tuple(rows)
