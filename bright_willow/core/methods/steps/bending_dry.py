"""What is done over an iron or under a blanket: mark, heat, bend, cool, dry, measure."""

from __future__ import annotations

from ...checks import cautions as caution
from ...common.operation import After, Operation, ResourceHold, in_order
from ...common.units import format_length, format_temperature
from ...heat.iron_and_blanket import DryHeat
from ...job.job import Job
from ...shop.shop import Shop
from ...shop.times import Times
from ...workpiece.bend import Bend
from ...workpiece.workpiece import HotBlank
from .bending_hot import dried, last_of
from .shared_steps import (
    KEPT_HOT_S,
    MINUTE_S,
    check_and_ease,
    cooling,
    dry_run,
    exactly,
    finish,
    look_over,
)

IRON_HEATS_MIN = 20.0


def over_the_iron(job: Job, shop: Shop, bend: Bend, make: HotBlank) -> tuple[Operation, ...]:
    """Bend by bend over an iron or a pipe, the tightest first."""
    heat = make.heat
    assert isinstance(heat, DryHeat)
    bends = "; ".join(
        f"{b.order}: {format_length(b.start_mm, shop.rule)} to {format_length(b.end_mm, shop.rule)}, "
        f"to {b.bent_deg:.0f}°, {b.side}"
        for b in heat.bends
    )
    turned = sum(b.bent_deg for b in heat.bends) / 90
    work = Operation(
        key="bend",
        kind="bend",
        name="Bend it over the heat",
        scope="batch",
        attended_s=Times(shop).of(bend_dry=turned),
        takes=(ResourceHold("form"),),
        frees=("iron",),
        after=(After("heat_up", 0.0, 0.0),),
        steps=(
            f"Surface at {format_temperature(round(heat.surface_c), shop.units)}; keep it moving.",
            "Moisten, do not soak.",
            f"In this order, from the start of the piece: {bends}.",
        ),
        record=("surface temperature", "cracks, scorching"),
        cautions=caution.DRY_HEAT,
    )
    return _dry(job, shop, bend, make, heat_up="Heat the iron", work=work)


def under_the_blanket(job: Job, shop: Shop, bend: Bend, make: HotBlank) -> tuple[Operation, ...]:
    """Drawn over a mould between slats, under a blanket."""
    heat = make.heat
    assert isinstance(heat, DryHeat)
    steps = tuple(
        f"{s.message} {format_temperature(round(s.temperature_c), shop.units)}, {s.minutes:.0f} min."
        for s in heat.blanket
    )
    minutes = sum(s.minutes for s in heat.blanket[:-1])
    work = Operation(
        key="bend",
        kind="bend",
        name="Pull it over the form under the blanket",
        scope="batch",
        attended_s=exactly(minutes * MINUTE_S),
        hands=2,
        takes=(ResourceHold("form"),),
        frees=("iron",),
        after=(After("heat_up", 0.0, 0.0),),
        steps=steps,
        lay_out=("slats, blanket, controller", "paper between slat and wood"),
        record=("temperatures and minutes",),
        cautions=caution.DRY_HEAT,
    )
    return _dry(job, shop, bend, make, heat_up="Stack it between slats and blanket", work=work)


def _dry(job: Job, shop: Shop, bend: Bend, make: HotBlank, *, heat_up: str, work: Operation) -> tuple[Operation, ...]:
    pieces = job.part.count + job.part.spares
    long = format_length(bend.blank.length_mm, shop.rule)
    ease = check_and_ease(shop, on="sheet", after=After("cool"), cautions=caution.DRY_HEAT)
    off = dried(shop, make, after="ease")
    thick = format_length(job.part.thickness_mm, shop.rule)
    return in_order(
        (
            look_over(job, shop),
            Operation(
                key="dimension",
                kind="dimension",
                name="Cut the strips and mark the bends",
                scope="job",
                attended_s=Times(shop).of(ease_edges=pieces),
                after=(After("look_over"),),
                steps=(f"{pieces} strips, {thick} thick, {long} long.", "Mark every bend on the flat strip."),
                cautions=("Thin strips at a saw: push block, splitter, zero-clearance insert.",),
            ),
            dry_run(shop, "dimension", with_what="a strip of waste", people=work.hands),
            Operation(
                key="heat_up",
                kind="heat_up",
                name=heat_up,
                scope="batch",
                attended_s=exactly(MINUTE_S),
                unattended_s=exactly(IRON_HEATS_MIN * MINUTE_S),
                takes=(ResourceHold("iron"),),
                after=(After("dry_run"),),
                steps=("Hot enough to hiss, not to brown.",),
                cautions=caution.DRY_HEAT,
                keeps_s=KEPT_HOT_S,
            ),
            work,
            cooling("Let it cool in its shape", make.drying.cool_h),
            ease,
            *off,
            *finish(job, shop, bend, after=(After(last_of(off)),), cleaned=False),
        )
    )
