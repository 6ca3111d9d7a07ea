"""What there is to say about preparing the stock."""

from __future__ import annotations

from ..bend.makes import LaidUp
from ..ground.findings import Change, Finding
from ..prepare.boards import CutPlan
from ..prepare.stock import prepared
from .at import At


def strips_come_out(at: At[LaidUp]) -> Finding | None:
    """Whether the boards give the strips, and how."""
    if at.job.stock.lot is None and not at.job.prepare.boards:
        return None  # nobody has said what boards there are
    ready = prepared(at.job, at.shop, at.quantities.stock)
    if ready is None:
        return None
    if ready.problem:
        says = ready.problem.says(at.shop.rule)
        return Finding("prepare.no_strips", "watch", "prepare", "These boards give no strips.", says)
    cut = ready.cut
    assert cut is not None
    if cut.short and at.job.stock.lot is None:  # of a lot it is said under Stock
        return Finding(
            "prepare.short",
            "watch",
            "prepare",
            f"The boards give {cut.found} strips of the {cut.wanted} wanted.",
            f"All {ready.boards_at_hand} of them are used.",
            _more(at, cut, ready.boards_at_hand),
        )
    if cut.boards[0].sawing.how == "joined":
        return Finding(
            "prepare.joined",
            "watch",
            "prepare",
            "No board is thick or wide enough for a whole lamina: two strips side by side make one.",
            "Stagger the joints from layer to layer, and leave the width over to plane off.",
        )
    return None


def _more(at: At[LaidUp], cut: CutPlan, boards: int) -> Change | None:
    """As many boards of this size as would do, where they were typed."""
    wanted = -(-cut.wanted // max(1, cut.found // boards))
    return (
        Change(f"Take {wanted} boards.", {"prepare.boards": wanted}) if not at.job.stock.lot and wanted <= 200 else None
    )
