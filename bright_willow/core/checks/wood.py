"""What there is to say about the wood and the pieces wanted, whatever they are glued with."""

from __future__ import annotations

from ..common.amounts import rough_up
from ..common.findings import Change, Finding
from ..learning.yields import LEAST_SHARE
from ..wood.lot import GLUE_DRY_PCT, judged
from ..workpiece.workpiece import Make
from .check_context import CheckContext

LEAST_TRIM_MM = 10.0


def green_wood(at: CheckContext[Make]) -> Finding | None:
    """Whether the wood is dry enough to glue."""
    if at.job.stock.dryness != "green":
        return None
    return Finding(
        "stock.green",
        "stop",
        "stock",
        "Green wood cannot be glued up: the joints fail as it shrinks.",
        "Glue needs dry wood, about 8 to 12 % moisture.",
        Change("Use dried wood.", {"stock.dryness": "air_dried"}),
    )


def run_out(at: CheckContext[Make]) -> Finding | None:
    """Whether the grain slopes enough to matter."""
    if at.job.stock.grain_slope <= 1 / 12:
        return None
    return Finding(
        "stock.run_out",
        "watch",
        "stock",
        "Run-out this steep will split in the bend.",
        f"It is 1 in {1 / at.job.stock.grain_slope:.0f}; benders reject wood steeper than 1 in 12.",
        Change("Use straight-grained wood.", {"stock.grain_slope": 0.0}),
    )


def no_spare(at: CheckContext[Make]) -> Finding | None:
    """Whether there is a piece to lose."""
    advised, share = at.quantities.spares_advised, at.quantities.expected_yield
    if share.likely < LEAST_SHARE and share.grade == "learned":
        return Finding(
            "part.poor_record",
            "watch",
            "shape",
            f"By your records only about {max(1, round(10 * share.likely))} of 10 pieces like this come out whole.",
            "Find out why they failed first; spares will not help.",
        )
    if at.job.part.spares >= advised:
        return None
    if at.job.part.spares:
        return Finding(
            "part.few_spares",
            "watch",
            "shape",
            f"Prepare {advised} spares: about {1 - at.quantities.expected_yield.likely:.0%} of pieces like this fail.",
            f"You need {at.job.part.count} good ones; {at.job.part.count + at.job.part.spares} are planned.",
            Change(f"Prepare {advised} spares.", {"part.spares": advised}),
        )
    return Finding(
        "part.no_spare",
        "watch",
        "shape",
        "Add a spare: without one, a failure costs days.",
        f"{at.job.part.count} needed, {at.job.part.count} planned.",
        Change(
            "Add one spare." if advised == 1 else f"Add {advised} spares.",
            {"part.spares": advised},
        ),
    )


def short_trim(at: CheckContext[Make]) -> Finding | None:
    """Whether the ends have something to lose to clamps and squeeze-out."""
    if min(at.job.part.trims_mm) >= LEAST_TRIM_MM or at.job.shape.is_closed:
        return None
    wanted = rough_up(25.0, at.shop.units)
    return Finding(
        "part.short_trim",
        "watch",
        "shape",
        "Leave more extra length at the ends.",
        f"Ends open, slip and starve first; only {at.length(min(at.job.part.trims_mm))} is there to cut off.",
        Change(
            f"Leave {at.length(max(wanted, at.job.part.trim_mm))} at each end.",
            {"part.trim_mm": max(wanted, at.job.part.trim_mm), "part.right_trim_mm": None},
        ),
    )


def figured(at: CheckContext[Make]) -> Finding | None:
    """Whether the wood is figured."""
    if not at.job.stock.figured:
        return None
    return Finding(
        "stock.figured",
        "watch",
        "stock",
        "Keep the figure out of the tightest place: figured wood breaks sooner.",
        "Its breaking strain is taken as 0.7 of straight grain.",
        Change("Use straight-grained wood.", {"stock.figured": False}),
    )


def moist(at: CheckContext[Make]) -> Finding | None:
    """Whether measured moisture is too high to glue."""
    wet = at.job.stock.moisture_pct
    if wet is None or wet <= GLUE_DRY_PCT or at.job.stock.dryness == "green":
        return None
    return Finding(
        "stock.moist",
        "watch",
        "stock",
        f"Let it dry as strips first: at {wet:g} % this wood is too wet to glue.",
        f"Glue needs about 8 to 12 % moisture; above {GLUE_DRY_PCT:g} % joints open.",
    )


def lot_flaws(at: CheckContext[Make]) -> Finding | None:
    """Whether the lot should be bent at all."""
    lot = at.job.stock.lot
    if lot is None or judged(lot).word != "reject":
        return None
    return Finding("stock.reject", "stop", "stock", f"Do not bend the lot “{lot.name}”.", " ".join(judged(lot).reasons))


def lot_short(at: CheckContext[Make]) -> Finding | None:
    """Whether the lot holds wood enough."""
    lot, use = at.job.stock.lot, at.quantities.boards
    if lot is None or use is None or (use.strips_per_board and use.boards <= use.at_hand):
        return None
    if not use.strips_per_board:
        message = f"The boards of “{lot.name}” are too small for the strips of this job."
        reason = (
            f"They are {at.length(lot.thickness_mm)} × {at.length(lot.width_mm)} × {at.length(lot.length_mm)}; the "
            f"strips are {at.length(at.blank_length_mm)} long."
        )
    else:
        message = f"“{lot.name}” is short: you need {use.boards} boards and have {use.at_hand}."
        reason = f"Each board yields {use.strips_per_board} strips."
    return Finding("stock.short", "stop", "stock", message, reason)


def pairs(at: CheckContext[Make]) -> Finding | None:
    """How left and right differ."""
    if at.job.part.copies != "pairs":
        return None
    if at.bend.is_its_own_mirror:
        return Finding(
            "pairs.alike",
            "fit",
            "shape",
            "Left and right are the same bend: this curve is its own mirror image.",
            "Mark them left and right before you cut anything that differs.",
        )
    return Finding(
        "pairs.turned",
        "watch",
        "form",
        "One form makes both hands (flipped over, a right is a left): mark the show edge of each piece.",
        f"Half of the {at.job.part.count} are left and half right; every sheet says which it is for.",
    )
