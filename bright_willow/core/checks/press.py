"""What there is to say about the glue-up: whether every line is under pressure in time."""

from __future__ import annotations

import math

from ..common.findings import Change, Finding
from ..workpiece.workpiece import GluedLayup
from .check_context import CheckContext

LOST = 1.0
WARMER_K = 8.0  # than the glue's least, that a tent is advised to be. Grade: allowance.
BLEEDS_MM = 0.9  # thinner faces let glue through. Grade: allowance.


def race_is_won(at: CheckContext[GluedLayup]) -> Finding | None:
    """Whether the glue waits longer than it stands."""
    made = at.glued_up
    if not made.is_tight:
        return None
    race = made.race
    return Finding(
        "press.race",
        "stop" if race.share > LOST else "watch",
        "press",
        f"You use {race.share:.0%} of the open time before clamping.",
        f"It takes {race.lasts_s / 60:.0f} min until clamped; closed assembly time is {race.closed_s / 60:.0f} min "
        f"at {at.temperature(made.temperature_c)}.",
        made.clears[0].change if made.clears else None,
    )


def ratio_known(at: CheckContext[GluedLayup]) -> Finding | None:
    """Whether a glue of two parts has its ratio."""
    made = at.glued_up.mix
    if made.problem is None:
        return None
    return Finding(
        "press.ratio",
        "watch",
        "press",
        "Enter the mix ratio from the label.",
        made.problem.message(at.shop.rule),
    )


def spread_in_the_cold(at: CheckContext[GluedLayup]) -> Finding | None:
    """Whether it is spread colder than its glue stands."""
    own = at.job.glue_up.temperature_c
    if own is None or own >= at.make.glue.min_temp_c:
        return None
    return Finding(
        "press.cold",
        "watch",
        "press",
        "Too cold for this glue.",
        f"It is {at.temperature(own)}; the glue needs {at.temperature(at.make.glue.min_temp_c)} from spreading to "
        "cured.",
        Change("Spread it at the shop's temperature.", {"glue_up.temperature_c": None}),
    )


def tent_is_warm(at: CheckContext[GluedLayup]) -> Finding | None:
    """Whether a tent brings the wood to what its glue wants."""
    choice, least = at.job.glue_up, at.make.glue.min_temp_c
    if choice.tent == "none" or choice.tent_c > least:
        return None
    wanted = float(math.ceil(least + WARMER_K))
    return Finding(
        "press.tent",
        "stop",
        "press",
        "The tent is too cool for this glue.",
        f"The tent is at {at.temperature(choice.tent_c)}; the middle of the stack needs {at.temperature(least)}.",
        Change(f"Warm it to {at.temperature(wanted)}.", {"glue_up.tent_c": wanted}),
    )


def bleeds_through(at: CheckContext[GluedLayup]) -> Finding | None:
    """Whether glue comes through a thin face that shows."""
    show = at.job.prepare.show
    if show == "none":
        return None
    face = at.make.laminae[0 if show == "inner" else -1]
    if face.thickness_mm >= BLEEDS_MM:
        return None
    return Finding(
        "press.bleed",
        "watch",
        "press",
        f"Glue may bleed through the {show} show face.",
        f"It is only {at.length(face.thickness_mm)}: spread thin on the other side only, use thicker or tinted glue, "
        "and put film over the face.",
    )
