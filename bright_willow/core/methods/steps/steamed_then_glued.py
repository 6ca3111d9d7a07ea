"""What is done when laminae are steamed first: the steam day, drying in shape, then the glue-up in the same order."""

from __future__ import annotations

from dataclasses import replace

from ...common.fineness import days_said
from ...common.operation import After, Operation, ResourceHold
from ...form.construction import FormSketch
from ...heat.steam_plan import SteamHeat
from ...job.job import Job
from ...shop.shop import Shop
from ...shop.times import Times
from ...workpiece.bend import Bend
from ...workpiece.workpiece import HotBlank, SteamedLaminae
from .bending_hot import round_the_form
from .gluing import gluing, preparing
from .shared_steps import HOUR_S, cooling, exactly
from .steaming import steamed, warm_up


def steamed_then_glued(
    job: Job, shop: Shop, bend: Bend, make: SteamedLaminae, form: FormSketch
) -> tuple[Operation, ...]:
    """Every operation, in order: strips, steam, dry on the form, glue."""
    first = make.softened
    assert isinstance(first.heat, SteamHeat)
    strips = preparing(job, shop, bend, make.laid_up)
    clamp_on = Operation(
        key="set_up",
        kind="set_up",
        name="Set up the form for the steam day",
        scope="job",
        attended_s=Times(shop).of(set_up=1),
        after=(After(strips[-1].key),),
        steps=("The strips of a piece go on together, in order, with a waste strip outside.",),
        lay_out=("form, clamps", "a waste strip for the outside"),
    )
    before = (
        *strips,
        clamp_on,
        warm_up(shop, first.heat, "set_up"),
        *steamed(shop, first.heat, "warm_up"),
        replace(round_the_form(job, shop, bend, first.heat, form.start_hold), takes=(ResourceHold("form"),)),
        *_dried_in_shape(shop, first),
    )
    return gluing(job, shop, bend, make.laid_up, form, before=before)


def _dried_in_shape(shop: Shop, first: HotBlank) -> tuple[Operation, ...]:
    """Cooled with somebody near, dried on the form, taken off in their order."""
    after = first.drying
    lasts = max(0.0, after.on_form_h - after.cool_h) * HOUR_S
    return (
        cooling("Let them cool on the form", after.cool_h),
        Operation(
            key="dry",
            kind="dry",
            name="Let the strips dry on the form",
            scope="batch",
            attended_s=exactly(0.0),
            unattended_s=exactly(lasts),
            may_run_alone=True,
            after=(After("cool", 0.0, 0.0),),
            steps=(f"{days_said(after.on_form_h / 24)} on the form in all, until about 8 to 12 % moisture.",),
            record=("moisture before gluing",),
            meanwhile="drying in shape",
        ),
        Operation(
            key="laminae_off",
            kind="laminae_off",
            name="Take the strips off, in order",
            scope="batch",
            attended_s=Times(shop).of(release=1),
            frees=("form",),
            after=(After("dry"),),
            steps=("Look for cracks; keep the numbers together.",),
        ),
    )
