"""After the bend: cooling, the time on the form, the drying frame, and what coming off early costs."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..ground.errors import ENDLESS, require
from ..ground.estimate import Estimate
from ..laws.hot_set import EARLY_TIMES, SetLaw
from ..shape.curve import Curve, tip_distance_mm
from .held import Held, HeldBy, held

DRY_DAYS: dict[str, Estimate] = {  # for 25 mm. Grade: allowance. Source: docs/model.md#after.
    "warm": Estimate(0.7, 1.0, 1.5, "allowance"),
    "ordinary": Estimate(1.0, 2.0, 3.0, "allowance"),
    "damp": Estimate(3.0, 5.0, 7.0, "allowance"),
}
THICKNESS_POWER = 1.7
DRY_SHARE = 0.1  # of those days that a strip bent over dry heat takes, whatever its thickness
DRY_HEAT_ON_FORM_H = 1.0


@dataclass(frozen=True, slots=True)
class Drying:
    """What follows the bend: hours on the form, days in the frame.

    frame_width_mm, frame_height_mm: inside size of a frame that holds the released shape. early_tip_mm: what the tip
    opens more when it comes off before it is dry. held: what holds it while it dries.
    """

    cool_h: float
    on_form_h: float
    dry_days: Estimate
    straps: int
    frame_width_mm: float
    frame_height_mm: float
    early_tip_mm: float
    held: Held


def dry_days(climate: str, thickness_mm: float) -> Estimate:
    """Days steamed stock takes to dry in a frame: for 25 mm by climate, growing as the thickness to the power 1.7.

    Valid: thickness above 0. Raises: OutOfRange. Grade: allowance. Source: docs/model.md#after.

    >>> round(dry_days("ordinary", 50.0).likely, 1)
    6.5
    """
    require("part.thickness_mm", thickness_mm, 0, ENDLESS, "mm", above=True)
    return _times(DRY_DAYS[climate], (thickness_mm / 25) ** THICKNESS_POWER)


def _times(days: Estimate, share: float) -> Estimate:
    return Estimate(days.low * share, days.likely * share, days.high * share, days.grade)


def drying(
    *,
    steams: bool,
    thickness_mm: float,
    climate: str,
    on_form_h: float,
    early: bool,
    straps: int,
    target: Curve,
    form: Curve,
    law: SetLaw,
    loss_ratio: float,
    held_by: HeldBy,
) -> Drying:
    """What follows a bend. target, form: mid-lines of the same cells. Raises: OutOfRange."""
    base = law.release(form.curvature, loss_ratio=loss_ratio / EARLY_TIMES if early else loss_ratio)
    sooner = law.release(form.curvature, loss_ratio=loss_ratio * (1.0 if early else EARLY_TIMES))
    outside = target.parallel(thickness_mm / 2).cut_finer(64).points_mm
    across, up = np.ptp(outside, axis=0)
    chord = float(np.hypot(*(outside[-1] - outside[0])))
    return Drying(
        cool_h=max(0.5, thickness_mm / 25) if steams else 0.5,
        on_form_h=on_form_h if steams else DRY_HEAT_ON_FORM_H,
        dry_days=dry_days(climate, thickness_mm) if steams else _times(DRY_DAYS[climate], DRY_SHARE),
        straps=straps,
        frame_width_mm=float(max(across, chord)),
        frame_height_mm=float(up),
        early_tip_mm=float(tip_distance_mm(target.lengths_mm, sooner, base)),
        held=held(target, thickness_mm, held_by),
    )
