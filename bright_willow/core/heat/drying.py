"""After the bend: cooling, hours on the form, the drying jig, and what a piece does that comes off still moist."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..common.arrays import Array
from ..common.errors import ENDLESS, PlanError, check_range
from ..common.estimate import Estimate
from ..shape.curve import Curve, tip_distance_mm
from ..springback.hot_set import HotSetLaw
from .drying_restraint import DryingRestraint, HeldBy, held
from .relaxation import (
    GROWS_TIMES,
    Drying1D,
    growth_share,
    held_share,
    jig_hours,
    share_left_steamed,
)

HOUR_DAYS = 1 / 24
# Of the days until it is dry, eight in ten fall between these. Grade: allowance.
SOONER, LATER = 0.6, 1.6
STEAMED_COOL_MM_H, STEAMED_COOL_LEAST_H = 25.0, 0.5  # cool through: an hour for each 25 mm. Grade: allowance.
COOL_H = {"mold": 0.75, "hand": 0.5}  # after dry heat: under a blanket in its mold, by hand over an iron
CHART_HOURS = tuple(float(h) for h in np.geomspace(1.0, 480.0, 49))
MOST_KEPT = 0.8  # share of its distance from a strip's shape above which that does not set a piece. Grade: allowance.
COMPARED_HOURS = (2.0, 6.0, 24.0, 48.0, 96.0)


@dataclass(frozen=True, slots=True)
class Drying:
    """What follows the bend: hours on the form, then days in what holds it, or in nothing.

    dry_days: after the form, until 90 % of the excess moisture is gone. frame_width_mm, frame_height_mm: inside size of
    a jig that holds the shape. pulled_past_mm: how much nearer its ends are held than they are wanted. early_tip_mm:
    how much more each end springs back over grows_days when nothing holds it.
    share_left: ρ at release; jig_keeps: the share of its distance from the jig's shape that a piece keeps in it, 1
    without one. tau_form_h, tau_after_h: time constants with one face open and with both.
    """

    cool_h: float
    on_form_h: float
    dry_days: Estimate
    straps: int
    frame_width_mm: float
    frame_height_mm: float
    early_tip_mm: float
    held: DryingRestraint
    pulled_past_mm: float
    share_left: float
    jig_keeps: float
    grows_days: float
    tau_form_h: float
    tau_after_h: float

    @property
    def has_jig(self) -> bool:
        """Whether anything holds it after the form."""
        return self.held.by != "none"


@dataclass(frozen=True, slots=True)
class AfterHours:
    """Springback at each end off the same form after so many hours on it, mm: at once, and when it has dried."""

    hours: float
    tip_mm: float
    dried_tip_mm: float
    days: float


@dataclass(frozen=True, slots=True)
class DryingSetup:
    """How a hot bend sets in this job: hours on the form, ρ at release, and what holds it afterwards."""

    times: Drying1D
    on_form_h: float
    cool_h: float
    share_left: float
    held_by: HeldBy
    dries: bool

    @classmethod
    def steamed(cls, times: Drying1D, *, on_form_h: float, cool_h: float, held_by: HeldBy) -> DryingSetup:
        """Return how a steamed bend sets. Raises: PlanError."""
        return cls(times, on_form_h, cool_h, share_left_steamed(on_form_h, times.one_face_h), held_by, True)

    @property
    def after_h(self) -> float:
        """Hours until it is dry once it is off the form, both faces open; 0 where dry heat dried it."""
        return jig_hours(self.on_form_h, self.times) if self.dries else 0.0

    @property
    def jig_keeps(self) -> float:
        """Share of its distance from the jig's shape that it keeps."""
        return 1.0 if self.held_by == "none" else held_share(self.after_h, self.times.both_faces_h)

    @property
    def grows(self) -> float:
        """How much of m it goes on springing back when nothing holds it."""
        return growth_share(self.on_form_h, self.times.one_face_h) if self.dries else 0.0

    def dried(self, released: Array, jig: Array) -> Array:
        """Return the curvature it dries to in a jig of a curvature κ_r: κ_r − ρ_r (κ_r − κ₁), 1/mm."""
        return np.asarray(jig - self.jig_keeps * (jig - released))

    def growth(self, law: HotSetLaw, form_curvature: Array, *, loss_ratio: float) -> Array:
        """Return the curvature it loses after release when nothing holds it, 1/mm."""
        share = self.grows / self.share_left if self.share_left else 0.0
        return np.asarray(share * law.lost(form_curvature - law.start, loss_ratio=loss_ratio))


def pulled_curvature(wanted: Array, released: Array, *, keeps: float) -> Array:
    """Return the curvature a moist piece must be held at so that it is as wanted once dry, 1/mm.

    It dries to κ_r − ρ_r (κ_r − κ₁), so κ_r = κ + (κ − κ₁) ρ_r/(1 − ρ_r). wanted, released: (n,) 1/mm; keeps: ρ_r, up
    to 0.8, for what sets less cannot be held to a shape. Raises: PlanError. Source: docs/model.md#drying.
    Grade: physics on an allowance.

    >>> pulled_curvature(np.array([0.002]), np.array([0.0016]), keeps=0.5)
    array([0.0024])
    """
    if not 0 <= keeps <= MOST_KEPT:
        message = "It hardly dries once it is off the form, so a strip cannot set it."
        raise PlanError("form.school", message, hint="Take it off the form sooner, or use the calculated overbend.")
    check_range("shape", float(np.abs(wanted).sum() + np.abs(released).sum()), 0, ENDLESS, "1/mm")
    return np.asarray(wanted + (wanted - released) * keeps / (1 - keeps))


def cooling_h(thickness_mm: float) -> float:
    """Return the hours until a steamed piece is cool through: an hour for each 25 mm, half an hour at least.

    Valid: thickness above 0. Raises: PlanError. Grade: allowance. Source: docs/model.md#drying.

    >>> cooling_h(25.0), cooling_h(3.0)
    (1.0, 0.5)
    """
    check_range("part.thickness_mm", thickness_mm, 0, ENDLESS, "mm", above=True)
    return max(STEAMED_COOL_LEAST_H, thickness_mm / STEAMED_COOL_MM_H)


def dry_days(hours: float) -> Estimate:
    """Return days until it is dry, with the spread that boards and shops have. Valid: 0 or more. Raises: PlanError."""
    check_range("heat.on_form_h", hours, 0, ENDLESS, "h")
    days = hours * HOUR_DAYS
    return Estimate(SOONER * days, days, LATER * days, "allowance")


def drying(
    setting: DryingSetup,
    *,
    thickness_mm: float,
    straps: int,
    target: Curve,
    form: Curve,
    jig: Curve,
    law: HotSetLaw,
    loss_ratio: float,
) -> Drying:
    """Return what follows a bend. Raises: PlanError.

    Args:
        setting: how it sets.
        thickness_mm: of the piece, above 0.
        straps: how many there are.
        target: the centerline wanted.
        form: the centerline on the form, of the same cells.
        jig: the centerline it is held to afterwards, of the same cells.
        law: what it springs back by.
        loss_ratio: how much this shop's pieces lose compared with the law.
    """
    released = law.release(form.curvature, loss_ratio=loss_ratio)
    grown = released - setting.growth(law, form.curvature, loss_ratio=loss_ratio)
    outside = target.parallel(thickness_mm / 2).traced(64)
    across, up = np.ptp(outside, axis=0)
    chord = float(np.hypot(*(outside[-1] - outside[0])))
    held_to = held(jig, thickness_mm, setting.held_by)
    return Drying(
        cool_h=setting.cool_h,
        on_form_h=setting.on_form_h,
        dry_days=dry_days(setting.after_h),
        straps=straps,
        frame_width_mm=float(max(across, chord)),
        frame_height_mm=float(up),
        early_tip_mm=float(tip_distance_mm(target.lengths_mm, released, grown)),
        held=held_to,
        pulled_past_mm=held(target, thickness_mm, setting.held_by).opening_mm - held_to.opening_mm,
        share_left=setting.share_left,
        jig_keeps=setting.jig_keeps,
        grows_days=GROWS_TIMES * setting.times.both_faces_h * HOUR_DAYS,
        tau_form_h=setting.times.one_face_h,
        tau_after_h=setting.times.both_faces_h,
    )


def springback_by_hours(
    setting: DryingSetup, hours: tuple[float, ...], *, jig: Curve, form: Curve, law: HotSetLaw, loss_ratio: float
) -> tuple[AfterHours, ...]:
    """Return the springback at each end off one form, for hours on it: at release, and once it has dried.

    form: the centerline on the form; jig: what it is held to afterwards; the same for all hours. Raises: PlanError.
    Source: docs/model.md#drying.
    """
    made = []
    for h in hours:
        there = DryingSetup.steamed(setting.times, on_form_h=h, cool_h=setting.cool_h, held_by=setting.held_by)
        ratio = loss_ratio * there.share_left / law.share_left
        released = law.release(form.curvature, loss_ratio=ratio)
        dried = there.dried(released, jig.curvature) - (
            there.growth(law, form.curvature, loss_ratio=ratio) if there.held_by == "none" else 0.0
        )
        tips = tip_distance_mm(form.lengths_mm, np.stack((released, dried)), form.curvature)
        made.append(AfterHours(h, float(tips[0]), float(tips[1]), there.after_h * HOUR_DAYS))
    return tuple(made)
