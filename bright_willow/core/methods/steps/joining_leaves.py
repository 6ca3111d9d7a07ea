"""How veneer plies wider than a leaf are made: slit, shot, taped and pressed flat."""

from __future__ import annotations

from ...common.amounts import format_run
from ...common.operation import After, Operation
from ...common.units import format_length
from ...shop.shop import Shop
from ...shop.times import Times
from ...stock.veneer_plan import STRAP_EVERY_MM, VeneerPlan


def join_leaves(shop: Shop, plan: VeneerPlan, *, after: str) -> Operation:
    """Leaves slit, their edges shot, and taped edge to edge into plies."""
    slit = ", ".join(f"{count} of {format_length(wide, shop.rule)}" for wide, count in plan.slit)
    steps = [
        "Number the leaves as they come off the bundle. Damp buckled ones and press them flat between boards "
        "overnight.",
        f"Slit with a knife along a straightedge: {slit}.",
        "Turn every second leaf over, so that the grain mirrors. Shoot the edges of two together.",
        f"Tape every joint: along it, and across every {format_length(STRAP_EVERY_MM, shop.rule)}; "
        f"{format_run(plan.tape_m, shop.units)} of veneer tape. Iron the tape flat through paper, just warm.",
    ]
    if any(ply.shows for ply in plan.plies):
        steps.append("Show face: tape on the outside. Damp the tape and scrape it off when the glue has cured.")
    if any(not ply.shows for ply in plan.plies):
        steps.append("Other plies: glue the edges, and pull the tape off before glue is spread. No tape between plies.")
    return Operation(
        key="join_leaves",
        kind="join_leaves",
        name="Join the veneer leaves",
        scope="job",
        attended_s=Times(shop).of(joint_leaf=plan.joints * plan.length_mm / 1000),
        after=(After(after),),
        steps=tuple(steps),
        lay_out=("knife, straightedge, shooting board", "veneer tape, damp sponge, iron, paper"),
        cautions=("Knife and hot iron: hands clear, cut away from the body.",),
    )
