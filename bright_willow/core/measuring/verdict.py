"""What becomes of a piece off the form: keep it, correct it (how, and what that asks), or reject it; each with why."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..common.errors import ENDLESS, PlanError, check_range
from ..common.estimate import Grade
from ..common.units import Unit, format_force
from ..job.job import Job
from ..methods.method_registry import WAYS
from ..wood.species import OwnWood, species
from .built_form import BuiltForm, PieceComparison
from .mates import Mates

Choice = Literal["keep", "correct", "reject"]
CHOICES: dict[str, str] = {"keep": "kept", "correct": "to be corrected", "reject": "rejected"}
BY_HAND_N = 150.0  # with which a piece is drawn in while it is fitted. Grade: allowance.
PLANED_SHARE = 0.06  # of the thickness, planed off a joint without weakening it. Grade: allowance.
MOST_START = 3.0  # of the bend wanted, that a piece bent again may have
LEAST_AGAIN = 0.005  # of the bend, for which nobody heats a piece again. Grade: allowance.


@dataclass(frozen=True, slots=True)
class Option:
    """One thing to do with a piece. says: why, and what it asks, with lengths as {fields}; makes_job: whether it is
    work of its own, laid out as a job."""

    choice: Choice
    key: str
    name: str
    message: str
    grade: Grade
    lengths_mm: tuple[tuple[str, float], ...] = ()
    makes_job: bool = False


def options(
    built: BuiltForm,
    seen: PieceComparison,
    *,
    tolerance_mm: float,
    failed: bool = False,
    mates: Sequence[Mates] = (),
    label: str = "",
    woods: tuple[OwnWood, ...] = (),
    units: Unit = "mm",
) -> tuple[Option, ...]:
    """What can be done with a piece as it was measured last, the best first. tolerance_mm: of its tips from where they
    are wanted, above 0; mates: pairs it could be one of. Raises: PlanError. Source: docs/model.md#verdict.
    """
    check_range("part.mate_tolerance_mm", tolerance_mm, 0, ENDLESS, "mm", above=True)
    off = ("off", seen.tip_off_mm)
    reject = Option(
        "reject", "reject", "Scrap it", "It counts as a failure when the next job's spares are proposed.", "learned"
    )
    if failed:
        return (reject,)
    way, made = WAYS.get(built.way), list[Option]()
    fits = seen.tip_off_mm <= tolerance_mm
    if fits:
        message = "Its ends are off by {off}; {tolerance} is allowed."
        made.append(Option("keep", "keep", "Keep it", message, "physics", (off, ("tolerance", tolerance_mm))))
    mate = next((m for m in mates if label in (m.left, m.right) and m.matches), None)
    if mate and not fits:
        other = f"right {mate.right}" if mate.left == label else f"left {mate.left}"
        message = f"Paired with {other} they differ by " + "{apart}."
        made.append(Option("keep", "mate", f"Pair it with {other}", message, "physics", (("apart", mate.apart_mm),)))
    if not fits:
        pull = draw_in_n(built, seen.tip_off_mm, woods)
        if pull <= BY_HAND_N:
            force = format_force(pull, units)
            message = f"Pull each end in {{off}} at assembly, with about {force}; it stays under load."
            made.append(Option("correct", "draw_in", "Pull in at assembly", message, "physics", (off,)))
        if way and "hot" in way.traits and "laid_up" not in way.traits:
            share = has_share(built, seen)
            if share is not None:
                message = f"It has {share:.0%} of its bend. Heat it and bend it further, as a job of one piece."
                made.append(Option("correct", "again", "Re-bend it", message, "allowance", (), makes_job=True))
            elif is_straight(built):
                bow = ("bow", seen.mid_line.chord_and_rise_mm()[1])
                message = "{bow} of bow is left. Make a second pass over the block, as a job of one piece."
                made.append(Option("correct", "again", "A second pass", message, "allowance", (bow,), makes_job=True))
        if way and "laid_up" in way.traits and seen.tip_off_mm <= PLANED_SHARE * built.thickness_mm:
            message = "Plane {off} off where it meets its neighbor to close the gap. Check with a straightedge."
            made.append(Option("correct", "plane", "Plane the joint", message, "allowance", (off,)))
        message = "Its ends are off by {off}; {tolerance} is allowed. Keep it if its place forgives that."
        made.append(Option("keep", "keep", "Keep it as it is", message, "physics", (off, ("tolerance", tolerance_mm))))
    return (*made, reject)


def draw_in_n(built: BuiltForm, off_mm: float, woods: tuple[OwnWood, ...] = ()) -> float:
    """Pull at each tip that brings a piece home, held at its middle: 3 EI δ / l³, l half its length, N.

    Valid: δ 0 or more. Raises: PlanError for a wood that is not there. Source: a beam held at one end; shallow bends.
    """
    check_range("part.mate_tolerance_mm", off_mm, 0, ENDLESS, "mm")
    stiff = species(built.species, woods).moe_mpa * built.width_mm * built.thickness_mm**3 / 12
    return 3 * stiff * off_mm / (sum(built.lengths_mm) / 2) ** 3


def is_straight(built: BuiltForm) -> bool:
    """Whether a piece was to come out straight."""
    return bool(np.abs(np.array(built.wanted_curvature)).max() < 1e-6)


def has_share(built: BuiltForm, seen: PieceComparison) -> float | None:
    """The share of the bend wanted that a piece has, where it is wanted tightest; none where it is no bend, or beyond
    what is bent again."""
    wanted = np.array(built.wanted_curvature)
    tight = int(np.argmax(np.abs(wanted)))
    if abs(float(wanted[tight])) < 1e-6:
        return None
    share = float(seen.mid_line.curvature[tight] / wanted[tight])
    return share if math.isfinite(share) and 0 <= share <= MOST_START and abs(share - 1) > LEAST_AGAIN else None


def bent_again(job: Job, built: BuiltForm, seen: PieceComparison, label: str) -> Job:
    """The job that bends a piece again: as the one it is of, of one piece, starting with the bend it has. Raises:
    PlanError where it cannot be bent again."""
    share, way = has_share(built, seen), WAYS.get(built.way)
    if way is None or "hot" not in way.traits or (share is None and not is_straight(built)):
        raise PlanError("way", "This piece cannot be re-bent.")
    data = job.model_dump()
    if share is None:
        chord, rise = seen.mid_line.chord_and_rise_mm()
        data["shape"] = {"kind": "arc_by_chord", "face": "mid", "chord_mm": round(chord, 1), "rise_mm": round(rise, 1)}
    data["name"] = f"{job.name[:60]}: {label} again"
    data["way"] = built.way
    data["part"] |= {"count": 1, "spares": 0, "copies": "alike"}
    data["heat"] |= {"start_share": round(share or 0.0, 3), "at_once": 1}
    data["days"] = {}
    return Job.model_validate(data)
