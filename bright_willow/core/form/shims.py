"""Will one of my forms do? What comes off an old form with a new lay-up, and what veneer on its face would mend."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from ..common.arrays import Array
from ..shape.curve import Curve
from ..springback.law import SpringbackLaw

VENEER_MM = 0.6
MOST_SHIMS = 8
STATIONS = 121  # besides the joints of both curves


@dataclass(frozen=True, slots=True)
class Shim:
    """So many thicknesses of veneer over a stretch of the face, mm from its middle."""

    start_mm: float
    end_mm: float
    count: int


@dataclass(frozen=True, slots=True)
class OldFormFit:
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
        """With the veneer named, within a tolerance in mm."""
        left = self.off_with_shims_mm
        return self.too_short_mm <= 0 and bool(self.shims) and left is not None and left <= tolerance_mm


def fit_on(
    face: Curve,
    *,
    offset_mm: float,
    law: SpringbackLaw,
    target: Curve,
    loss_ratio: float,
    blank_mm: float,
    tolerance_mm: float,
) -> OldFormFit:
    """A lay-up pressed to an old face, released, against the piece wanted.

    face: the old form's face, laid by its middle; offset_mm: from that face to the mid-line of the new lay-up (outward
    positive); blank_mm: length of the new blank. Veneers of 0.6 mm are put where the face should stand further out.
    Raises: PlanError where the new lay-up cannot lie on the face. Source: docs/model.md#forms.
    """
    mid = face.parallel(offset_mm)
    half = min(target.length_mm, mid.length_mm) / 2
    edges = _joints(half, mid, target)
    lengths, middles = np.diff(edges), (edges[1:] + edges[:-1]) / 2
    own = law.over(_cells(target, middles))
    on_form = Curve(lengths, mid.curvature[_cells(mid, middles)])
    wanted = Curve(lengths, target.curvature[_cells(target, middles)])
    released = own.release(on_form.curvature, loss_ratio=loss_ratio)
    apart = wanted.with_curvature(released).points_mm - wanted.points_mm
    off = (apart * _outwards(wanted)).sum(axis=1)
    distance = np.hypot(apart[:, 0], apart[:, 1])
    bad = np.flatnonzero(distance > tolerance_mm)
    needed = wanted.with_curvature(own.form_curvature_for(wanted.curvature, loss_ratio=loss_ratio))
    shims, thickest, left = _shims(edges, needed, on_form)
    return OldFormFit(
        max(0.0, blank_mm - mid.length_mm),
        float(distance.max()),
        float(off[0]),
        float(off[-1]),
        (float(edges[bad[0]]), float(edges[bad[-1]])) if bad.size else None,
        shims,
        thickest,
        left,
    )


def _joints(half_mm: float, *curves: Curve) -> Array:
    """(m + 1,) stations from the middle at which any of the curves changes, and enough between them."""
    own = [c.stations_mm - c.length_mm / 2 for c in curves]
    every = np.sort(np.concatenate((np.linspace(-half_mm, half_mm, STATIONS), *own)))
    inside = every[(every > -half_mm + 1e-6) & (every < half_mm - 1e-6)]
    kept = inside[np.concatenate(([True], np.diff(inside) > 1e-6))]
    return np.concatenate(([-half_mm], kept, [half_mm]))


def _cells(curve: Curve, from_middle: Array) -> Array:
    """(m,) which cell of a curve holds each station, counted from its middle."""
    cells = np.searchsorted(curve.stations_mm, from_middle + curve.length_mm / 2, side="right") - 1
    return np.asarray(np.clip(cells, 0, curve.lengths_mm.size - 1))


def _outwards(curve: Curve) -> Array:
    """(n + 1, 2) unit vectors square to the curve at its joints."""
    heading = curve.headings_rad
    return np.asarray(np.stack((-np.sin(heading), np.cos(heading)), axis=1))


def _shims(stations: Array, needed: Curve, on_form: Curve) -> tuple[tuple[Shim, ...], float, float | None]:
    """Veneers that bring the old face to the one this job needs, and what is left of the error at the tips."""
    lack = ((needed.points_mm - on_form.points_mm) * _outwards(on_form)).sum(axis=1)
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
