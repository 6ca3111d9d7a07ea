"""What is done to bend a bowed piece back: steam it, over the block, let it cool, measure, and once more if need be."""

from __future__ import annotations

from ...bend.bend import Bend
from ...bend.makes import Straightened
from ...checks import cautions as caution
from ...ground.operation import After, Operation, Taken, in_order
from ...ground.units import format_length
from ...job.job import Job
from ...shop.shop import Shop
from ...shop.times import Times
from .common import DAY_S, cooling, dry_run, exactly, finish
from .steaming import cooling_window, steamed, warm_up


def over_the_block(job: Job, shop: Shop, bend: Bend, make: Straightened) -> tuple[Operation, ...]:
    """Every operation of a straightening, in order."""
    return in_order(
        (
            *_measuring(shop, make),
            dry_run(shop, "set_up", with_what="the cold piece"),
            warm_up(shop, make.heat, "dry_run"),
            *steamed(shop, make.heat, "warm_up"),
            *_bent_back(job, shop, make),
            *finish(job, shop, bend, after=After("dry"), cleaned=False),
        )
    )


def _measuring(shop: Shop, make: Straightened) -> tuple[Operation, ...]:
    """The bow, and the block that follows from it."""
    block = make.block
    bow, base, high, span = (
        format_length(v, shop.rule) for v in (block.bow_mm, block.base_mm, block.block_mm.likely, block.span_mm)
    )
    return (
        Operation(
            key="measure_bow",
            kind="measure_bow",
            name="Measure the bow",
            scope="piece",
            attended_s=Times(shop).of(measure=1),
            steps=(f"{bow} over {base} is what this is reckoned from.",),
            record=("bow", "base"),
        ),
        Operation(
            key="set_up",
            kind="set_up",
            name="Set up block and clamps",
            scope="job",
            attended_s=Times(shop).of(set_up=0.5),
            after=(After("measure_bow"),),
            steps=(f"A block of {high} under the middle, clamps {span} apart.",),
        ),
    )


def _bent_back(job: Job, shop: Shop, make: Straightened) -> tuple[Operation, ...]:
    """Over the block, cooled and dried there."""
    block, after = make.block, make.drying
    return (
        Operation(
            key="bend",
            kind="bend",
            name="Bend it back past straight",
            scope="batch",
            attended_s=Times(shop).of(door=1, clamp=2),
            hands=job.heat.hands,
            takes=(Taken("clamps", 2),),
            frees=("chamber",),
            after=(After("steam", 0.0, 0.0),),
            steps=(f"{block.towards[0].upper()}{block.towards[1:]}.", "Pull the ends down until they touch."),
            record=("cracks",),
            cautions=(caution.STEAM[0], caution.BENT),
            window=cooling_window(make.heat),
            moves=make.heat.steam.moves,
        ),
        cooling("Let it cool in the clamps", after.cool_h),
        Operation(
            key="dry",
            kind="dry",
            name="Let it dry in the clamps",
            scope="batch",
            attended_s=exactly(0.0),
            unattended_s=exactly(after.dry_days.likely * DAY_S),
            may_run_alone=True,
            frees=("clamps",),
            after=(After("cool", 0.0, 0.0),),
            steps=(f"{after.dry_days.likely:.1f} days; a second, smaller pass if it is still out.",),
        ),
    )
