"""How springback is allowed for in the form: the schools practitioners follow, in one table."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from ..common.arrays import Array
from ..common.errors import PlanError, check_range
from ..job.job import FormChoice
from ..learning.belief import Belief
from ..shape.curve import Curve, end_offsets_mm
from ..springback.law import SpringbackLaw


@dataclass(frozen=True)
class School:
    """One way of allowing for springback: its name on the page, what it does, and the form it makes.

    needs_halves: whether it treats each half by itself, so that the mid-line must have a joint in the middle.
    is_pulled: whether a steamed piece is pulled to size off the form, and held there while it dries.
    """

    key: str
    name: str
    message: str
    form_curvature: Callable[[FormChoice, SpringbackLaw, Curve, float, Belief], Array]
    needs_halves: bool = False
    is_pulled: bool = False


def _computed(choice: FormChoice, law: SpringbackLaw, target: Curve, loss_ratio: float, belief: Belief) -> Array:
    return law.form_curvature_for(target.curvature, loss_ratio=loss_ratio)


def _to_size(choice: FormChoice, law: SpringbackLaw, target: Curve, loss_ratio: float, belief: Belief) -> Array:
    return target.curvature


def _own_record(choice: FormChoice, law: SpringbackLaw, target: Curve, loss_ratio: float, belief: Belief) -> Array:
    if not belief.bends:
        raise PlanError(
            "form.school",
            "The logbook has no bend of this kind.",
            hint="Measure one first, or use the calculated overbend.",
        )
    return law.form_curvature_for(target.curvature, loss_ratio=loss_ratio)


def _by_angle(choice: FormChoice, law: SpringbackLaw, target: Curve, loss_ratio: float, belief: Belief) -> Array:
    return overbent(target, left_rad=np.radians(choice.left_deg), right_rad=np.radians(choice.right_deg))


def _by_distance(choice: FormChoice, law: SpringbackLaw, target: Curve, loss_ratio: float, belief: Belief) -> Array:
    return overbent_by_distance(target, left_mm=choice.left_mm, right_mm=choice.right_mm)


SCHOOLS: dict[str, School] = {
    s.key: s
    for s in (
        School(
            "computed",
            "calculated",
            "The form is overbent by the expected springback.",
            _computed,
        ),
        School("to_size", "none", "The form has the finished shape; the piece springs back from it.", _to_size),
        School(
            "pulled",
            "none; pull to size and tack a strip",
            "The form has the finished shape. Off the form, while still moist, the ends are pulled past size, and a "
            "strip is tacked across them until it is dry. Only for steamed pieces; any other springs back.",
            _to_size,
            is_pulled=True,
        ),
        School("by_angle", "fixed angle", "Each end is overbent by a fixed angle.", _by_angle, True),
        School("by_distance", "fixed distance", "Each end is overbent by a fixed distance.", _by_distance, True),
        School(
            "own_record",
            "from my records",
            "Calculated, but only from bends of this kind in your logbook.",
            _own_record,
        ),
    )
}


def overbent(target: Curve, *, left_rad: float, right_rad: float) -> Array:
    """Curvature (n,) with each half of the curve turned further by so much, in proportion to its own bend.

    Straight stretches stay straight. The halves part at the middle of the length; a cell that holds the middle takes
    the mean of both (`Curve.parted_in_the_middle` makes sure none does).
    Valid: finite angles. Raises: PlanError, also for a half without bend that should be overbent. Source: geometry.
    Grade: physics.

    >>> overbent(Curve.of([500.0, 500.0], [0.001, 0.001]), left_rad=0.05, right_rad=0.0)
    array([0.0011, 0.001 ])
    """
    for angle in (left_rad, right_rad):
        check_range("form.school", abs(angle), 0, 2 * np.pi)
    middle, stations = target.length_mm / 2, target.stations_mm
    left_share = np.clip((middle - stations[:-1]) / target.lengths_mm, 0.0, 1.0)
    turn = target.turns_rad
    gains = []
    for share, extra in ((left_share, left_rad), (1 - left_share, right_rad)):
        own = float((turn * share).sum())
        if extra and own < 1e-9:
            raise PlanError("form.school", "Half of this piece has no bend that could be overbent.")
        gains.append(extra / own if own > 1e-9 else 0.0)
    return np.asarray(target.curvature * (1 + gains[0] * left_share + gains[1] * (1 - left_share)))


def overbent_by_distance(target: Curve, *, left_mm: float, right_mm: float) -> Array:
    """Curvature (n,) that brings each end so many mm from where the target has it, turning it further.

    Each half is solved by bisection on its angle, up to 90°. Raises: PlanError when that is not enough.
    """
    ends = end_offsets_mm(target.lengths_mm, target.curvature)

    def moved(side: int, angle: float) -> float:
        angles = {"left_rad": angle, "right_rad": 0.0} if side == 0 else {"left_rad": 0.0, "right_rad": angle}
        there = end_offsets_mm(target.lengths_mm, overbent(target, **angles))
        return float(np.hypot(*(there[side] - ends[side])))

    found = []
    for side, wanted in ((0, left_mm), (1, right_mm)):
        low, high = 0.0, np.pi / 2
        if wanted > 0 and moved(side, high) < wanted:
            raise PlanError(
                "form.left_mm" if side == 0 else "form.right_mm", "That is further than this end can be bent."
            )
        for _ in range(48 if wanted > 0 else 0):
            middle = (low + high) / 2
            low, high = (middle, high) if moved(side, middle) < wanted else (low, middle)
        found.append(low if wanted > 0 else 0.0)
    return overbent(target, left_rad=found[0], right_rad=found[1])
