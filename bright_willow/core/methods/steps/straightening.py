"""What is done to bend a bowed piece back: steam it, over the block, let it cool, measure, and once more if need be."""

from __future__ import annotations

from dataclasses import replace

from ...checks import cautions as caution
from ...common.operation import After, Operation, ResourceHold, in_order
from ...common.units import format_length
from ...job.job import Job
from ...shop.shop import Shop
from ...shop.times import Times
from ...workpiece.bend import Bend
from ...workpiece.workpiece import StraightenedPiece
from .shared_steps import HOUR_S, check_and_ease, cooling, dry_run, exactly, finish
from .steaming import cooling_window, people_for, steamed, warm_up


def over_the_block(job: Job, shop: Shop, bend: Bend, make: StraightenedPiece) -> tuple[Operation, ...]:
    """Every operation of a straightening, in order."""
    return in_order(
        (
            *_measuring(shop, make),
            dry_run(shop, "set_up", with_what="the cold piece", people=people_for(job, make.heat)),
            warm_up(shop, make.heat, "dry_run"),
            *_only_the_bow(shop, job, steamed(shop, make.heat, "warm_up")),
            *_bent_back(job, shop, make),
            check_and_ease(shop, on="straightedge", after=After("out")),
            *finish(job, shop, bend, after=(After("ease"),), cleaned=False),
        )
    )


def _only_the_bow(shop: Shop, job: Job, operations: tuple[Operation, ...]) -> tuple[Operation, ...]:
    """Only the part that is bent back goes into the steam."""
    span = format_length(job.heat.span_mm, shop.rule)
    message = (
        f"Only the {span} that you bend back needs steam. Put rags around the piece where it comes out of the box."
    )
    first, *rest = operations
    return (replace(first, steps=(*first.steps, message)), *rest)


def _measuring(shop: Shop, make: StraightenedPiece) -> tuple[Operation, ...]:
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
            steps=(f"The block is calculated from a bow of {bow} over {base}.",),
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


def _bent_back(job: Job, shop: Shop, make: StraightenedPiece) -> tuple[Operation, ...]:
    """Over the block, cooled there, and left in the clamps for some hours."""
    block, after = make.block, make.drying
    stays = max(0.0, after.on_form_h - after.cool_h)
    twice = ("If it is still bowed, repeat with a lower block.",) if block.passes > 1 else ()
    return (
        Operation(
            key="bend",
            kind="bend",
            name="Bend it back past straight",
            scope="batch",
            attended_s=Times(shop).of(door=1, clamp=2),
            hands=job.heat.hands,
            takes=(ResourceHold("clamps", 2),),
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
            key="set",
            kind="set",
            name="Leave it in the clamps",
            scope="batch",
            attended_s=exactly(0.0),
            unattended_s=exactly(stays * HOUR_S),
            may_run_alone=True,
            after=(After("cool", 0.0, 0.0),),
            steps=(f"{after.on_form_h:g} h in all.",),
            record=("hours in the clamps",),
            meanwhile="in the clamps",
        ),
        Operation(
            key="out",
            kind="release",
            name="Take it out and sight along it",
            scope="batch",
            attended_s=Times(shop).of(release=1),
            frees=("clamps",),
            after=(After("set"),),
            steps=("Expect it straight.", *twice),
            record=("bow that is left",),
        ),
    )
