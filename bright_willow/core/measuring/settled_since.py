"""What a piece that was measured again gave up since it was first measured."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Protocol

import numpy as np
from pydantic import ValidationError

from ..common.errors import PlanError
from ..learning.belief import loss_ratio
from ..learning.settling import LEAST_DAYS, Remeasurement
from ..shape.arc import Face
from .built_form import BuiltForm

STRAIGHT = 1e-5  # 1/mm, below which a piece has no curvature to give up


class ChordAndRise(Protocol):
    """Chord and rise of a face, mm."""

    @property
    def chord_mm(self) -> float: ...
    @property
    def rise_mm(self) -> float: ...
    @property
    def face(self) -> Face: ...
    @property
    def error_mm(self) -> float: ...


def settled_since(built: BuiltForm, readings: Sequence[tuple[float, ChordAndRise]]) -> list[Remeasurement]:
    """Of each later reading: days since the first, the share of the curvature then that is gone, its error. Curvature
    where the form is tightest. readings: each with its day, in order; what cannot be of this piece is passed over."""
    seen = [(day, *k) for day, r in readings if (k := _curvature(built, r)) is not None]
    if not seen or abs(seen[0][1]) < STRAIGHT:
        return []
    first_day, first, first_error = seen[0]
    made = []
    for day, curvature, error in seen[1:]:
        days = day - first_day
        if days >= LEAST_DAYS:
            off = float(np.hypot(error, first_error * curvature / first)) / abs(first)
            made.append(Remeasurement(days, 1 - curvature / first, off))
    return made


def _curvature(built: BuiltForm, r: ChordAndRise) -> tuple[float, float] | None:
    """Of the mid-line where the form is tightest, 1/mm, with its error."""
    tight = int(np.argmax(np.abs(np.array(built.form_curvature))))
    lost = built.form_curvature[tight] - built.predicted_curvature[tight]
    try:
        bend = built.record(chord_mm=r.chord_mm, rise_mm=r.rise_mm, face=r.face, error_mm=r.error_mm)
        k = loss_ratio(bend)
    except (PlanError, ValidationError):
        return None
    return built.form_curvature[tight] - k.ratio * lost, k.error * abs(lost)
