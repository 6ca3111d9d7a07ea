"""What is done to bend solid steamed stock, free or in a strap: from the boards to the dry, measured piece."""

from __future__ import annotations

from ...bend.bend import Bend
from ...bend.makes import HotBlank
from ...checks import cautions as caution
from ...form.construction import FormSketch
from ...ground.operation import After, Operation, Taken, in_order
from ...ground.units import format_force, format_length
from ...heat.held import HELD_BY
from ...heat.opening import leg_turns_deg
from ...heat.steaming import SteamHeat
from ...heat.strap import Strap
from ...job.job import Job
from ...shop.shop import Shop
from ...shop.times import Times
from .common import DAY_S, HOUR_S, cooling, dry_run, exactly, finish
from .steaming import blanks, cooling_window, steamed, warm_up

QUARTER_DEG = 90.0


def bending_hot(job: Job, shop: Shop, bend: Bend, make: HotBlank, form: FormSketch) -> tuple[Operation, ...]:
    """Every operation of a steamed bend, in order."""
    heat = make.heat
    assert isinstance(heat, SteamHeat)
    pieces = job.part.count + job.part.spares
    first = blanks(job, shop, bend, thickness_mm=make.thickness_mm, blanks=pieces)
    return in_order(
        (
            *first,
            _set_up(shop, heat.strap, after=first[-1].key),
            dry_run(
                shop, "set_up", with_what="a cold piece, the strap and the helper" if heat.strap else "a cold piece"
            ),
            warm_up(shop, heat, "dry_run"),
            *steamed(shop, heat, "warm_up"),
            round_the_form(job, shop, bend, heat),
            *held(make),
            *dried(shop, make),
            *finish(job, shop, bend, after=After("dry"), cleaned=False),
        )
    )


def _set_up(shop: Shop, strap: Strap | None, *, after: str) -> Operation:
    steps = ["Fix the form down; clamps open and at hand; the helper knows every move."]
    if strap:
        length, thrust = format_length(strap.length_mm, shop.rule), format_force(strap.thrust_n, shop.units)
        steps.append(f"Strap {length} between its stops, tight to the blank; they take {thrust}.")
        if strap.blocks_mm > 0:
            steps.append(f"Fill it up with blocks of {format_length(strap.blocks_mm, shop.rule)}.")
    return Operation(
        key="set_up",
        kind="set_up",
        name="Set everything up",
        scope="job",
        attended_s=Times(shop).of(set_up=1),
        after=(After(after),),
        steps=tuple(steps),
        lay_out=("form, clamps, wedges", *(("strap, shims, winch or lever",) if strap else ())),
        cautions=caution.STRAP if strap else (),
    )


def round_the_form(job: Job, shop: Shop, bend: Bend, heat: SteamHeat) -> Operation:
    """Out of the chamber and round the form: nothing may wait."""
    quarters = 2 * leg_turns_deg(bend.on_form) / QUARTER_DEG
    moves = {"door": 1.0, "round_form": 1.0, "round_quarter": quarters}
    if heat.strap:
        moves["into_strap"] = 1.0
    steps = [f"{heat.steam.window_s:.0f} s from the door to the last clamp; {heat.steam.handling_s:.0f} s are planned."]
    if heat.in_bag:
        steps = [
            "It stays in the bag, and the steam stays on.",
            "Pull a few clicks whenever the line goes slack, the middle against its bracket; then wait.",
            f"At full bend steam on for {heat.steam.time.planned_min / 4:.0f} min, then cool it in place.",
        ]
    if heat.strap:
        steps.insert(0, "Into the strap, stops tight.")
        steps.append(f"Pull steadily: about {format_force(heat.strap.hand_n, shop.units)} at the hand.")
    return Operation(
        key="bend",
        kind="bend",
        name="Pull it little by little in the bag" if heat.in_bag else "Out, round the form, and clamp",
        scope="batch",
        attended_s=Times(shop).of(**moves),
        hands=job.heat.hands,
        takes=(Taken("form"), *((Taken("strap"),) if heat.strap else ())),
        frees=("chamber",),
        after=(After("steam", 0.0, 0.0),),
        steps=(*steps, "Centre mark to centre mark; from the middle outwards."),
        record=("seconds from the door to the form", "cracks, sliding stops"),
        cautions=(*caution.STEAM[:1], *(caution.STRAP if heat.strap else ()), caution.BENT),
        window=None if heat.in_bag else cooling_window(heat),
        meanwhile="on its way round the form",
        moves=() if heat.in_bag else heat.steam.moves,
    )


def held(make: HotBlank) -> tuple[Operation, ...]:
    """Cooled with somebody by, then left on the form."""
    after = make.drying
    stays = max(0.0, after.on_form_h - after.cool_h)
    return (
        cooling("Let it cool on the form", after.cool_h, f"{after.cool_h:.1f} h at least before anything is loosened."),
        Operation(
            key="set",
            kind="set",
            name="Leave it on the form",
            scope="batch",
            attended_s=exactly(0.0),
            unattended_s=exactly(stays * HOUR_S),
            may_run_alone=True,
            after=(After("cool", 0.0, 0.0),),
            steps=(f"{after.on_form_h:.0f} h in all.",),
            record=("hours on the form",),
            meanwhile="on the form",
        ),
    )


def dried(shop: Shop, make: HotBlank) -> tuple[Operation, ...]:
    """Into what holds the shape, until it is dry."""
    after = make.drying
    framed = after.held.by == "frame"
    wide, high = (format_length(v, shop.rule) for v in (after.frame_width_mm, after.frame_height_mm))
    size = (f"Inside it measures {wide} × {high}.",) if framed else ()
    return (
        Operation(
            key="to_frame",
            kind="to_frame",
            name="Into the drying frame" if framed else f"Hold it with {HELD_BY[after.held.by]}",
            scope="batch",
            attended_s=Times(shop).of(to_frame=1),
            takes=(Taken("frame"),) if framed else (),
            frees=("form", "strap"),
            after=(After("set"),),
            steps=(after.held.says(shop.rule), *size),
            cautions=(caution.BENT,),
        ),
        Operation(
            key="dry",
            kind="dry",
            name="Let it dry",
            scope="batch",
            attended_s=exactly(0.0),
            unattended_s=exactly(after.dry_days.likely * DAY_S),
            may_run_alone=True,
            frees=("frame",) if framed else (),
            after=(After("to_frame", 0.0, 0.0),),
            steps=(f"{after.dry_days.likely:.1f} days, {after.dry_days.low:.1f} to {after.dry_days.high:.1f}.",),
            record=("moisture when it is taken out",),
            meanwhile="drying",
        ),
    )
