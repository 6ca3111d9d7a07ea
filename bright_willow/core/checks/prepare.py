"""What there is to say about preparing the stock."""

from __future__ import annotations

from ..common.findings import Change, Finding
from ..stock.boards import CutPlan
from ..stock.molding_profile import LEAST_LOST_MM, profiled
from ..stock.side_by_side import abreast, curl_mm
from ..workpiece.workpiece import GluedLayup, Make
from .check_context import CheckContext


def strips_come_out(at: CheckContext[Make]) -> Finding | None:
    """Whether the boards give the strips, and how."""
    ready = at.prepared
    if ready is None:
        return None
    if ready.problem:
        message = ready.problem.message(at.shop.rule)
        return Finding("prepare.no_strips", "watch", "prepare", "These boards give no strips.", message)
    cut = ready.cut
    assert cut is not None
    if cut.short and at.job.stock.lot is None:  # of a lot it is said under Stock
        return Finding(
            "prepare.short",
            "watch",
            "prepare",
            f"The boards yield {cut.wanted - cut.short} of {cut.wanted} strips.",
            f"All {ready.boards_at_hand} of them are used." if ready.boards_at_hand > 1 else "There is only one.",
            _more(at, cut),
        )
    return None


def _more(at: CheckContext[Make], cut: CutPlan) -> Change | None:
    """As many boards of the first size as would do, where they were typed."""
    boards = at.job.prepare.boards
    first = [b for b in cut.boards if b.number <= boards]
    if not first or at.job.stock.lot:
        return None
    wanted = boards + -(-cut.short // max(1, max(b.strips for b in first)))
    return Change(f"Use {wanted} boards.", {"prepare.boards": wanted}) if wanted <= 200 else None


def joined_strips(at: CheckContext[Make]) -> Finding | None:
    """Laminae made of two strips side by side."""
    ready = at.prepared
    lanes = ready.cut.boards[0].lanes if ready and ready.cut else None
    if lanes is None or lanes.halves_mm is None:
        return None
    first, second = lanes.halves_mm
    how = (
        f"Turn every second strip over, so that no joint of {at.length(first)} and {at.length(second)} is over the "
        "next."
        if first - second > 1
        else "The boards are only half wide enough: every joint is over the next, and the part is weaker there."
    )
    message = "No board is wide enough for a whole strip: two edge to edge make one."
    return Finding("prepare.joined", "watch", "prepare", message, how)


def kerf_eats(at: CheckContext[Make]) -> Finding | None:
    """Whether the saw takes more than it leaves."""
    thinnest = min(at.quantities.stock.layers_mm, default=0.0)
    if not 0 < thinnest < at.shop.kerf_mm:
        return None
    return Finding(
        "prepare.kerf",
        "watch",
        "prepare",
        "The saw cut is wider than the strip.",
        f"A strip is {at.length(thinnest)} off the saw, the kerf {at.length(at.shop.kerf_mm)}: use a thinner blade, "
        "a bandsaw, or bought veneer.",
    )


def pressed_evenly(at: CheckContext[GluedLayup]) -> Finding | None:
    """Whether what lies abreast is pressed in its middle too, and lies flat across."""
    lies = abreast(at.job, at.shop)
    if lies.pieces == 1 or not lies.middle_needs_caul or at.make.press.kind != "clamps":
        return None
    worst = at.make.worst
    bent = at.bend.on_form.tightest_curvature
    curl = curl_mm(width_mm=lies.strip_wide_mm, thickness_mm=worst.thickness_mm, curvature=bent)
    return Finding(
        "prepare.wide",
        "watch",
        "prepare",
        f"At {at.length(lies.on_form_mm)} wide, clamps at the edges leave the middle unpressed.",
        f"Use cauls across it, slightly crowned, or a bag: the edges of a bent strip curl up {at.length(curl)}.",
        Change("Press it in a bag.", {"build_up.press": "vacuum"}),
    )


def profile_survives(at: CheckContext[GluedLayup]) -> Finding | None:
    """Whether the profile comes out as it was."""
    made = profiled(at.job, at.shop, [x.thickness_mm for x in at.make.laminae])
    if made is None:
        return None
    if made.problem:
        return Finding(
            "prepare.profile",
            "watch",
            "prepare",
            "The molding profile cannot be glued back together.",
            made.problem.message(at.shop.rule),
        )
    if made.worst_step_mm <= LEAST_LOST_MM and made.lost_mm <= LEAST_LOST_MM:
        return None
    return Finding(
        "prepare.profile",
        "watch",
        "prepare",
        f"Saw kerf takes {at.length(made.lost_mm)} off the molding profile; steps up to "
        f"{at.length(made.worst_step_mm)}.",
        (f"{made.missing} strips get no wood at all. " if made.missing else "")
        + f"Each joint loses what saw and plane remove: {made.blanks} molding{'s' if made.blanks > 1 else ''} to rip "
        "from.",
        Change(f"Rip it from {made.blanks_true}.", {"prepare.profile.blanks": 0}),
    )
