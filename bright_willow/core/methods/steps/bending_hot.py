"""What is done to bend solid steamed stock, free or in a strap: from the boards to the dry, measured piece."""

from __future__ import annotations

from ...checks import cautions as caution
from ...common.estimate import Estimate
from ...common.fineness import days_said, format_about
from ...common.operation import After, Operation, ResourceHold, in_order
from ...common.units import format_force, format_length
from ...form.construction import FormSketch
from ...form.hold_downs import StartHold
from ...heat.drying_restraint import HELD_BY
from ...heat.springback_measures import leg_turns_deg
from ...heat.steam_plan import SteamHeat
from ...heat.strap_mechanics import Strap
from ...job.job import Job
from ...shop.shop import Shop
from ...shop.times import Times
from ...workpiece.bend import Bend
from ...workpiece.workpiece import HotBlank
from .in_the_bag import heated_in_bag, pulled_in_bag, set_in_bag
from .shared_steps import (
    DAY_S,
    HOUR_S,
    check_and_ease,
    cooling,
    dry_run,
    exactly,
    finish,
)
from .steaming import blanks, cooling_window, people_for, steamed, warm_up

SEEN_PAST_MM = 0.5
QUARTER_DEG = 90.0
STILL_MOIST = "Wedge wavy or curved-back ends straight now, while the wood is still moist: dry wood springs back."


def bending_hot(job: Job, shop: Shop, bend: Bend, make: HotBlank, form: FormSketch) -> tuple[Operation, ...]:
    """Every operation of a steamed bend, in order."""
    heat = make.heat
    assert isinstance(heat, SteamHeat)
    pieces = job.part.count + job.part.spares
    first = blanks(job, shop, bend, thickness_mm=make.thickness_mm, blanks=pieces)
    off = dried(shop, make)
    if heat.bag:
        return in_order(
            (
                *first,
                set_in_bag(shop, first[-1].key),
                *heated_in_bag(heat, heat.bag, "set_up"),
                *pulled_in_bag(job, shop, make, heat, heat.bag),
                *held(make, after="hold"),
                *off,
                *finish(job, shop, bend, after=(After(last_of(off)),), cleaned=False),
            )
        )
    # on a bending table the brackets can still be moved while the wood is warm; on a form nothing can be changed
    eased = (check_and_ease(shop, on="form", after=After("bend", 0.0, 0.0)),) if form.posts else ()
    return in_order(
        (
            *first,
            _set_up(shop, heat.strap, form, after=first[-1].key),
            dry_run(
                shop,
                "set_up",
                with_what="a cold piece and the strap" if heat.strap else "a cold piece",
                people=people_for(job, heat),
            ),
            warm_up(shop, heat, "dry_run"),
            *steamed(shop, heat, "warm_up"),
            round_the_form(job, shop, bend, heat, form.start_hold),
            *eased,
            *held(make, after=eased[-1].key if eased else "bend"),
            *off,
            *finish(job, shop, bend, after=(After(last_of(off)),), cleaned=False),
        )
    )


def _set_up(shop: Shop, strap: Strap | None, form: FormSketch, *, after: str) -> Operation:
    steps = ["Fix the form down. Have clamps open and at hand; the helper knows every step."]
    if strap:
        length, thrust = format_length(strap.length_mm, shop.rule), format_force(strap.thrust_n, shop.units)
        steps.append(f"Strap {length} between its end stops, tight to the blank; they hold {thrust}.")
        if strap.arch_mm:
            arch = format_about(strap.arch_mm, shop.rule)
            steps.append(f"Arch the blank in: it stands {arch} high at its middle; press it flat.")
        for fit in strap.fits:
            steps += [f"Blank {fit.number}: {fit.message(shop.rule)}."] if not fit.is_tight else []
        if strap.blocks_mm > 0:
            steps.append(f"Fill up with blocks of {format_length(strap.blocks_mm, shop.rule)}.")
    return Operation(
        key="set_up",
        kind="set_up",
        name="Set everything up",
        scope="job",
        attended_s=Times(shop).of(set_up=1),
        after=(After(after),),
        steps=tuple(steps),
        lay_out=(
            "form, clamps, wedges",
            *(("cauls shaped to the curve",) if any(h.role == "caul" for h in form.hold_downs) else ()),
            *(("strap, shims, winch or lever",) if strap else ()),
        ),
        cautions=caution.STRAP if strap else (),
    )


def round_the_form(job: Job, shop: Shop, bend: Bend, heat: SteamHeat, start: StartHold | None = None) -> Operation:
    """Out of the chamber and round the form: nothing may wait."""
    quarters = 2 * leg_turns_deg(bend.on_form) / QUARTER_DEG
    moves = {"door": 1.0, "round_form": 1.0, "round_quarter": quarters}
    if heat.strap:
        moves["into_strap"] = 1.0
    steps = [f"Working time {heat.steam.window_s:.0f} s from box to last clamp; {heat.steam.handling_s:.0f} s planned."]
    if heat.strap:
        steps.insert(0, "Into the strap, stops tight.")
        steps.append(f"Pull steadily, about {format_force(heat.strap.hand_n, shop.units)} on the lever.")
    steps.append(_order_of_bending(start, shop))
    return Operation(
        key="bend",
        kind="bend",
        name="Take it out, bend it around the form, and clamp",
        scope="batch",
        attended_s=Times(shop).of(**moves),
        hands=job.heat.hands,
        takes=(ResourceHold("form"), *((ResourceHold("strap"),) if heat.strap else ())),
        frees=("chamber",),
        after=(After("steam", 0.0, 0.0),),
        steps=tuple(steps),
        record=("seconds from box to form", "cracks, sliding stops"),
        cautions=(*caution.STEAM[:1], *(caution.STRAP if heat.strap else ()), caution.BENT),
        window=cooling_window(heat),
        meanwhile="being bent around the form",
        moves=heat.steam.moves,
    )


def _order_of_bending(start: StartHold | None, shop: Shop) -> str:
    """Where the bend begins, and which way it goes on."""
    if start is None or start.kind == "clamps":
        return "Center mark to center mark, from the middle outward."
    slot, other = format_length(start.slot_mm, shop.rule), "right" if start.end == "left" else "left"
    place = {
        "notch": f"Push its {start.end} end into the notch until it stops",
        "cleat": f"Put its {start.end} end under the start cleat, flush with the end of the form",
    }[start.kind]
    return f"{place}, and drive a thin wedge in: the slot is {slot} high. Then bend toward the {other} end."


def held(make: HotBlank, *, after: str = "bend") -> tuple[Operation, ...]:
    """Cooled with somebody by, then left on the form for as long as is planned."""
    then = make.drying
    cools = f"Wait at least {then.cool_h:.1f} h before you loosen anything."
    cool = cooling("Let it cool on the form", then.cool_h, cools, after=after)
    stays = max(0.0, then.on_form_h - then.cool_h)
    return (
        cool,
        Operation(
            key="set",
            kind="set",
            name="Leave it on the form",
            scope="batch",
            attended_s=exactly(0.0),
            unattended_s=exactly(stays * HOUR_S),
            may_run_alone=True,
            after=(After("cool", 0.0, 0.0),),
            steps=(f"{then.on_form_h:g} h in all.",),
            record=("hours on the form",),
            meanwhile="on the form",
        ),
    )


def dried(shop: Shop, make: HotBlank, *, after: str = "set") -> tuple[Operation, ...]:
    """Off the form, and into what holds its shape until it is dry, or nothing."""
    then = make.drying
    if not then.has_jig:
        return (_off_the_form(shop, after), *_left_to_dry(then.dry_days, then.grows_days, "off_form", frees=()))
    framed = then.held.by == "frame"
    wide, high = (format_length(v, shop.rule) for v in (then.frame_width_mm, then.frame_height_mm))
    size = (f"Inside it measures {wide} × {high}.",) if framed else ()
    past = (
        (f"That is {format_length(then.pulled_past_mm, shop.rule)} past size: it opens to size once dry.",)
        if then.pulled_past_mm >= SEEN_PAST_MM
        else ()
    )
    to_jig = Operation(
        key="to_frame",
        kind="to_frame",
        name="Into the drying jig" if framed else f"Hold it with {HELD_BY[then.held.by]}",
        scope="batch",
        attended_s=Times(shop).of(to_frame=1),
        takes=(ResourceHold("frame"),) if framed else (),
        frees=("form", "strap"),
        after=(After(after),),
        steps=(then.held.message(shop.rule), *size, *past, STILL_MOIST),
        cautions=(caution.BENT,),
    )
    return (to_jig, *_left_to_dry(then.dry_days, 0.0, "to_frame", frees=("frame",) if framed else ()))


def _off_the_form(shop: Shop, after: str) -> Operation:
    return Operation(
        key="off_form",
        kind="release",
        name="Take it off the form",
        scope="batch",
        attended_s=Times(shop).of(release=1),
        frees=("form", "strap"),
        after=(After(after),),
        steps=("Loosen from the ends inward.",),
        cautions=(caution.BENT,),
    )


def _left_to_dry(days: Estimate, grows_days: float, after: str, *, frees: tuple[str, ...]) -> tuple[Operation, ...]:
    """Left until it is dry; nothing where dry heat has dried it already."""
    if not days.likely:
        return (_free(after, frees),) if frees else ()
    grows = (f"Nothing holds it, so it keeps springing back for about {days_said(grows_days)}.",) if grows_days else ()
    return (
        Operation(
            key="dry",
            kind="dry",
            name="Let it dry",
            scope="batch",
            attended_s=exactly(0.0),
            unattended_s=exactly(days.likely * DAY_S),
            may_run_alone=True,
            frees=frees,
            after=(After(after, 0.0, 0.0),),
            steps=(f"{days.likely:.1f} days, likely {days.low:.1f} to {days.high:.1f}.", *grows),
            record=("moisture when it is taken out",),
            meanwhile="drying",
        ),
    )


def _free(after: str, frees: tuple[str, ...]) -> Operation:
    """Out of the jig again, where it was only to settle in it."""
    return Operation(
        key="dry",
        kind="dry",
        name="Take it out of the jig",
        scope="batch",
        attended_s=exactly(60.0),
        frees=frees,
        after=(After(after),),
    )


def last_of(operations: tuple[Operation, ...]) -> str:
    """The key of the last operation, which what follows waits for."""
    return operations[-1].key
