"""Will one of my forms do? What comes off an old form with a new lay-up, and what veneer on its face would mend."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from ..ground.arrays import Array
from ..shape.curve import Curve
from ..ways.base import Way

VENEER_MM = 0.6
MOST_SHIMS = 8
STATIONS = 121


@dataclass(frozen=True, slots=True)
class Shim:
    """So many thicknesses of veneer over a stretch of the face, mm from its middle."""

    start_mm: float
    end_mm: float
    count: int


@dataclass(frozen=True, slots=True)
class Fit:
    """How an old form serves a new job. All mm.

    too_short_mm: how much face is missing, both ends together. off_mm: the largest distance of the released piece from
    the one wanted, both laid by the middle; start_off, end_off: at its ends (outwards positive). stretch: where it is
    off by more than the tolerance, from the middle. shims: what would mend it, and off_with_shims what is then left.
    """

    too_short_mm: float
    off_mm: float
    start_off_mm: float
    end_off_mm: float
    stretch_mm: tuple[float, float] | None
    shims: tuple[Shim, ...]
    shims_mm: float
    off_with_shims_mm: float | None

    def serves(self, tolerance_mm: float) -> bool:
        """As it is."""
        return self.too_short_mm <= 0 and self.off_mm <= tolerance_mm

    def serves_with_shims(self, tolerance_mm: float) -> bool:
        left = self.off_with_shims_mm
        return self.too_short_mm <= 0 and bool(self.shims) and left is not None and left <= tolerance_mm


def fit_on(
    face: Curve, *, offset_mm: float, way: Way, target: Curve, loss_ratio: float, blank_mm: float, tolerance_mm: float
) -> Fit:
    """A lay-up pressed to an old face, released, against the piece wanted.

    face: the old form's face, laid by its middle; offset_mm: from that face to the mid-line of the new lay-up (outward
    positive); blank_mm: length of the new blank. Veneers of 0.6 mm are put where the face should stand further out.
    Raises: OutOfRange where the new lay-up cannot lie on the face. Source: docs/model.md#forms.
    """
    mid = face.parallel(offset_mm)
    mid = Curve(mid.lengths_mm, mid.curvature)
    missing = blank_mm - mid.length_mm
    half = min(target.length_mm, mid.length_mm) / 2
    stations = np.linspace(-half, half, STATIONS)
    k_form = _curvature_at(mid, stations)
    released = way.release(k_form, loss_ratio=loss_ratio)
    wanted = _curvature_at(target, stations)
    apart = _walked(stations, released) - _walked(stations, wanted)
    outwards = _outwards(stations, wanted)
    off = (apart * outwards).sum(axis=1)
    distance = np.hypot(apart[:, 0], apart[:, 1])
    bad = np.flatnonzero(distance > tolerance_mm)
    shims, thickest, left = _shims(stations, wanted, k_form, way, loss_ratio)
    return Fit(
        max(0.0, missing),
        float(distance.max()),
        float(off[0]),
        float(off[-1]),
        (float(stations[bad[0]]), float(stations[bad[-1]])) if bad.size else None,
        shims,
        thickest,
        left,
    )


def _curvature_at(curve: Curve, from_middle: Array) -> Array:
    cells = np.searchsorted(curve.stations_mm, from_middle + curve.length_mm / 2, side="right") - 1
    return np.asarray(curve.curvature[np.clip(cells, 0, curve.lengths_mm.size - 1)])


def _headings(stations: Array, curvature: Array) -> Array:
    """Headings at the stations, level in the middle."""
    step = np.diff(stations)
    turned = np.concatenate(([0.0], np.cumsum((curvature[1:] + curvature[:-1]) / 2 * step)))
    return np.asarray(np.interp(0.0, stations, turned) - turned)


def _walked(stations: Array, curvature: Array) -> Array:
    """(n, 2) points, the middle at the origin and level."""
    heading, step = _headings(stations, curvature), np.diff(stations)
    mean = (heading[1:] + heading[:-1]) / 2
    x = np.concatenate(([0.0], np.cumsum(np.cos(mean) * step)))
    y = np.concatenate(([0.0], np.cumsum(np.sin(mean) * step)))
    middle = np.array([np.interp(0.0, stations, x), np.interp(0.0, stations, y)])
    return np.asarray(np.stack((x, y), axis=1) - middle)


def _outwards(stations: Array, curvature: Array) -> Array:
    heading = _headings(stations, curvature)
    return np.asarray(np.stack((-np.sin(heading), np.cos(heading)), axis=1))


def _shims(
    stations: Array, wanted: Array, k_form: Array, way: Way, loss_ratio: float
) -> tuple[tuple[Shim, ...], float, float | None]:
    """Veneers that bring the old face to the one this job needs, and what is left of the error at the tips."""
    needed = way.form_curvature_for(wanted, loss_ratio=loss_ratio)
    apart = _walked(stations, needed) - _walked(stations, k_form)
    lack = (apart * _outwards(stations, k_form)).sum(axis=1)
    lack = lack - lack.min()  # the lay-up may stand further out as a whole
    counts = np.rint(lack / VENEER_MM).astype(int)
    if counts.max() == 0 or counts.max() > MOST_SHIMS:
        return (), 0.0, None
    found, start = [], 0
    for i in range(1, counts.size + 1):
        if i == counts.size or counts[i] != counts[start]:
            if counts[start]:
                found.append(Shim(float(stations[start]), float(stations[min(i, counts.size - 1)]), int(counts[start])))
            start = i
    left = lack - counts * VENEER_MM
    return tuple(found), float(counts.max() * VENEER_MM), float(np.ptp(left) / 2 + math.ulp(1.0))
