"""What there is to say about a bend whatever it is made of: whether it meets itself, and whether the form misses."""

from __future__ import annotations

import math
from typing import Any

from ..bend.makes import HotBlank
from ..form.schools import SCHOOLS
from ..ground.findings import Change, Finding
from .at import At

MISSED_MM = 1.0
MISSED_SHARE = 0.1  # of what each end opens
MEETS_DEG = 350.0  # of sweep at which the ends of a blank come together


def crossing(at: At[Any]) -> Finding | None:
    """Whether the blank would meet itself on the form."""
    sweep = 0.0 if at.job.shape.is_closed else abs(math.degrees(at.bend.blank.sweep_rad))
    if sweep < MEETS_DEG:
        return None
    return Finding(
        "form.crosses",
        "stop",
        "form",
        "On the form the two ends of the blank would meet or cross.",
        f"With springback and trims the form sweeps {sweep:.0f}°.",
        Change("Leave no trim.", {"part.trim_mm": 0.0}) if at.job.part.trim_mm else None,
    )


def points_tell(at: At[Any]) -> Finding | None:
    """Whether points that were measured tell how tight the bend is."""
    band = at.job.shape.doubtful_mm
    if band is None:
        return None
    low, high = (at.length(r) if r < 1e6 else "straight" for r in band)
    return Finding(
        "shape.rough_points",
        "watch",
        "shape",
        f"These points do not tell the tightest radius: it may be from R {low} to {'R ' * (high != 'straight')}{high}.",
        "They are too few there, or too rough. Measure more of them, or measure them better.",
    )


def overlaps(at: At[HotBlank]) -> Finding | None:
    """Whether stock bent hot lies over itself on its form, and how such a form is built."""
    over = at.make.overlap_mm
    if over <= 0:
        return None
    sweep = abs(math.degrees(at.bend.blank.sweep_rad))
    return Finding(
        "form.overlaps",
        "watch",
        "form",
        f"On the form the ends lie past one another by {at.length(over)}: one plane does not hold it.",
        f"With springback and trims it sweeps {sweep:.0f}°. Bend it round a drum whose second turn runs beside the "
        "first, offset by the width; or build the form on two levels.",
        Change("Leave no trim.", {"part.trim_mm": 0.0}) if at.job.part.trim_mm else None,
    )


def misses(at: At[Any]) -> Finding | None:
    """Whether the school chosen for the form leaves the released piece off its shape."""
    opens = at.springback
    if opens is None or at.missed_mm < max(MISSED_MM, MISSED_SHARE * opens.tip_mm.likely):
        return None
    return Finding(
        "form.misses",
        "watch",
        "form",
        f"Off this form the tips end {at.about(at.missed_mm)} from where they are wanted.",
        f"The form is {SCHOOLS[at.job.form.school].name}; each end opens {at.estimate(opens.tip_mm)}.",
        Change("Let the form be computed.", {"form.school": "computed"}),
    )
