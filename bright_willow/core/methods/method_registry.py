"""All ways of bending, in one registry. Nothing but this room asks which way a job is bent."""

from __future__ import annotations

from ..common.stages import StageRow, Trait, stages_of
from ..form.skin import PLAIN_SKIN, skin_sheet
from ..job.job import Job
from ..shop.shop import Shop
from .blanket import Blanket
from .cold_lamination import ColdLamination
from .dry_heat import DryHeatBend
from .method import Method, unknown_way
from .sheet_layup import SheetLayup
from .steam_free import SteamFree
from .steam_strap import SteamStrap
from .steamed_laminae import SteamedLaminaeWay
from .straighten import Straighten

WAYS: dict[str, type[Method]] = {
    way.key: way
    for way in (
        ColdLamination,
        SheetLayup,
        SteamedLaminaeWay,
        SteamFree,
        SteamStrap,
        DryHeatBend,
        Blanket,
        Straighten,
    )
}


def way_of(job: Job) -> type[Method]:
    """The way a job is bent. Raises: PlanError for one that is not known."""
    if job.way not in WAYS:
        raise unknown_way(job.way)
    return WAYS[job.way]


def traits_of(job: Job) -> frozenset[Trait]:
    """What the way of a job is: laid up, hot, or both; laid up where it is not known."""
    return WAYS.get(job.way, ColdLamination).traits


def stages_for(job: Job) -> tuple[StageRow, ...]:
    """The stages of a job, in working order."""
    return stages_of(traits_of(job))


def set_up(job: Job, shop: Shop) -> Method:
    """The way of a job, set up for it and the shop: the hand is drawn here, once. Raises: PlanError."""
    form = job.form_as_drawn
    if form.skin_of != PLAIN_SKIN:
        form = form.model_copy(update={"skin_mm": skin_sheet(form.skin_of, shop).thickness_mm})
    return way_of(job).set_up(job.model_copy(update={"form": form}), shop)
