"""The plies of a lay-up that are bought: how they come out of sheets and leaves, and how narrow leaves are joined."""

from __future__ import annotations

from dataclasses import replace

from ..job.job import Job
from ..shop.shop import Shop
from ..stock.sheet_cutting import SheetCut, sheet_cut
from ..stock.side_by_side import SideBySide
from ..stock.veneer_plan import VeneerPlan, veneer_plan
from ..wood.sheets import VENEER_LEAF, Sheet, sheet_table, veneer_leaf
from .layers import is_bought


def _bought(job: Job, shop: Shop) -> list[tuple[int, Sheet]]:
    """Each ply that is bought, by its number from the inside, with the sheet or leaf it comes from."""
    if job.build_up.lay_up == "equal":
        return []
    sheets, leaf = sheet_table(shop.sheets), veneer_leaf(job.prepare.leaf_mm)
    rows = enumerate(job.build_up.layers, 1)
    return [(number, sheets.get(x.material, leaf)) for number, x in rows if is_bought(x)]


def show_ply(job: Job) -> int | None:
    """The number of the ply whose face shows, from the inside."""
    return {"none": None, "inner": 1, "outer": job.build_up.count}[job.prepare.show]


def sheet_cuts(job: Job, shop: Shop, lies: SideBySide, blank_mm: float) -> tuple[SheetCut, ...]:
    """How the plies that are sheets or veneer come out of what is bought; one for each kind."""
    bought = _bought(job, shop)
    pieces = lies.strips(1, job.part.count + job.part.spares)
    caul = sheet_table(shop.sheets).get(job.build_up.layers[-1].material) if job.build_up.cauls and bought else None
    shows, made = show_ply(job), list[SheetCut]()
    for sheet in dict.fromkeys(sheet for _, sheet in bought):
        numbers = [number for number, s in bought if s == sheet]
        cut = sheet_cut(
            sheet,
            layers=len(numbers),
            pieces=pieces,
            length_mm=blank_mm,
            width_mm=lies.strip_wide_mm,
            kerf_mm=shop.kerf_mm,
            cauls=job.build_up.cauls * lies.strips_a_layer if sheet is caul else 0,
        )
        made.append(replace(cut, plain_layer=numbers.index(shows) if shows in numbers else 0))
    return tuple(made)


def joined_veneers(job: Job, shop: Shop, lies: SideBySide, cuts: tuple[SheetCut, ...]) -> VeneerPlan | None:
    """How veneer plies wider than a leaf are joined; None where none is."""
    leaves = tuple(cut for cut in cuts if cut.sheet.key == VENEER_LEAF)
    numbers = tuple(tuple(n for n, sheet in _bought(job, shop) if sheet == cut.sheet) for cut in leaves)
    pieces = lies.strips(1, job.part.count + job.part.spares)
    return veneer_plan(leaves, numbers, pieces=pieces, shows=show_ply(job))
