"""What there is to say about a bend whatever it is made of: whether it meets itself, and whether the form misses."""

from __future__ import annotations

import math

from ..common.findings import Change, Finding
from ..form.schools import SCHOOLS
from ..job.job import CutKind
from ..shape.crossing import crossing_mm
from ..workpiece.end_cuts import Side, end_cut
from ..workpiece.workpiece import HotBlank, Make
from .check_context import CheckContext

MISSED_MM = 1.0
MISSED_SHARE = 0.1  # of what each end opens
MEETS_DEG = 350.0  # of sweep at which the ends of a blank come together


def crossing(at: CheckContext[Make]) -> Finding | None:
    """Whether the blank would meet itself on the form."""
    if at.job.shape.is_closed:
        return None
    sweep = abs(math.degrees(at.bend.blank.sweep_rad))
    if sweep < MEETS_DEG and crossing_mm(at.bend.blank, at.job.part.thickness_mm) is None:
        return None
    return Finding(
        "form.crosses",
        "stop",
        "form",
        "On the form the two ends of the blank would meet or cross.",
        f"With springback and the extra length at each end it covers {sweep:.0f}°.",
        Change("Leave no extra length.", {"part.trim_mm": 0.0, "part.right_trim_mm": None})
        if any(at.job.part.trims_mm)
        else None,
    )


def marks_on_the_piece(at: CheckContext[Make]) -> Finding | None:
    """Whether every mark of the maker's own is on the piece."""
    long = at.bend.target.length_mm
    off = next((m for m in at.job.part.marks if not 0 <= m.station_mm(long) <= long), None)
    if off is None:
        return None
    return Finding(
        "shape.mark_off",
        "watch",
        "shape",
        f"The mark “{off.name}” is beyond the end of the piece, so it is shown nowhere.",
        f"The piece is {at.length(long)} long on its centerline.",
    )


def ends_cut(at: CheckContext[Make]) -> Finding | None:
    """Whether each end can be cut as it is wanted, and is long enough for it."""
    part = at.job.part_as_drawn
    sides: tuple[tuple[Side, CutKind, float, float], ...] = (
        ("left", part.left_cut, part.left_mitre_deg, at.bend.trims_mm[0]),
        ("right", part.right_cut, part.right_mitre_deg, at.bend.trims_mm[1]),
    )
    for side, kind, mitre, trim in sides:
        if kind not in ("mitred", "on_line") or at.job.shape.is_closed:
            continue
        cut = end_cut(at.bend.stated, side, kind, mitre, part.thickness_mm)
        field = "part.trim_mm" if side == "left" else "part.right_trim_mm"
        if at.job.is_right:
            field = "part.right_trim_mm" if side == "left" else "part.trim_mm"
        if cut.is_flat:
            square = field.replace("right_trim_mm", "right_cut").replace("trim_mm", "left_cut")
            return Finding(
                "shape.flat_end",
                "stop",
                "shape",
                f"The {side} end is nearly in line with both ends, so no cut along that line ends the piece.",
                "A cut under 15° to the piece leaves a feather edge.",
                Change("Cut it square.", {square: "square"}),
            )
        if cut.needs_mm > trim + 0.05:
            wanted = float(math.ceil(cut.needs_mm / 5 + 1) * 5)
            return Finding(
                "shape.mitre_short",
                "watch",
                "shape",
                f"The {side} end is too short for its cut: one face needs {at.length(cut.needs_mm)} more.",
                f"{at.length(trim)} extra is there; the cut is {cut.mitre_deg:.0f}° off square.",
                Change(f"Leave {at.length(wanted)} there.", {field: wanted}),
            )
    return None


def points_tell(at: CheckContext[Make]) -> Finding | None:
    """Whether points that were measured tell how tight the bend is."""
    band = at.job.shape.doubtful_mm
    if band is None:
        return None
    low, high = (at.length(r) if r < 1e6 else "straight" for r in band)
    return Finding(
        "shape.rough_points",
        "watch",
        "shape",
        f"These points do not show the tightest radius: it may be R {low} to {'R ' * (high != 'straight')}{high}.",
        "There are too few there, or they are too rough: measure more points, or measure more exactly.",
    )


def overlaps(at: CheckContext[HotBlank]) -> Finding | None:
    """Whether stock bent hot lies over itself on its form, and how such a form is built."""
    over = at.make.overlap_mm
    if over <= 0:
        return None
    sweep = abs(math.degrees(at.bend.blank.sweep_rad))
    return Finding(
        "form.overlaps",
        "watch",
        "form",
        f"On the form the ends overlap by {at.length(over)}: use a round form or a two-level form.",
        f"It covers {sweep:.0f}° with springback and extra length; on a round form the second turn runs beside the "
        "first.",
        Change("Leave no extra length.", {"part.trim_mm": 0.0, "part.right_trim_mm": None})
        if any(at.job.part.trims_mm)
        else None,
    )


def misses(at: CheckContext[Make]) -> Finding | None:
    """Whether the school chosen for the form leaves the released piece off its shape."""
    opens = at.springback
    if opens is None or at.form.kind == "in_place" or at.missed_mm < max(MISSED_MM, MISSED_SHARE * opens.tip_mm.likely):
        return None
    return Finding(
        "form.misses",
        "watch",
        "form",
        f"Off this form the ends miss by {at.about(at.missed_mm)}.",
        f"Overbend is set to “{SCHOOLS[at.job.form.school].name}”; each end springs back {at.estimate(opens.tip_mm)}.",
        Change("Use the calculated overbend.", {"form.school": "computed"}),
    )
