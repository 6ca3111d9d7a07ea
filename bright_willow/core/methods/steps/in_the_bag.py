"""What is done to bend a piece inside a steam bag: heat it there, pull by pull round the form, hold at full bend."""

from __future__ import annotations

from ...checks import cautions as caution
from ...common.operation import After, Move, Operation, ResourceHold
from ...common.units import format_force, format_length
from ...heat.bag import BagBend
from ...heat.steam_plan import SteamHeat
from ...job.job import Job
from ...shop.shop import Shop
from ...shop.times import Times
from ...workpiece.workpiece import HotBlank
from .shared_steps import MINUTE_S, check_and_ease, exactly

CLOSE_BAG_S = 120.0  # to slide the piece in and tie both ends. Grade: allowance.
WATER = "Check the water every {minutes:.0f} min and top it up before it is half gone."


def pulls_of(bag: BagBend) -> tuple[Move, ...]:
    """Every pull with its time: a little, then the curve is checked while the wood gives."""
    each = bag.each_min * MINUTE_S
    message = "Pull until it resists, then check the curve against the form"
    return tuple(Move(f"{message}, {i + 1} of {bag.pulls}", "you", i * each, (i + 1) * each) for i in range(bag.pulls))


def set_in_bag(shop: Shop, after: str) -> Operation:
    """Form, brackets and bag made ready; nothing is carried hot."""
    return Operation(
        key="set_up",
        kind="set_up",
        name="Set up the form and the bag",
        scope="job",
        attended_s=Times(shop).of(set_up=1),
        after=(After(after),),
        steps=(
            "Fix the form down with a bracket at its middle; line and ratchet at hand.",
            "Make a drain hole at the lowest place of the bag and a vent at the end away from the hose. Both stay "
            "open.",
            "The bag is loose all around, so it bends with the piece.",
        ),
        lay_out=("form, brackets, line or ratchet strap", "bag, hose, cord to tie its ends", "thermometer"),
        cautions=caution.STRAP,
    )


def heated_in_bag(heat: SteamHeat, bag: BagBend, after: str) -> tuple[Operation, ...]:
    """Into the bag, and heated through there."""
    time = heat.steam.time
    return (
        Operation(
            key="load",
            kind="load",
            name="Slide it into the bag and start the steam",
            scope="batch",
            attended_s=exactly(CLOSE_BAG_S),
            takes=(ResourceHold("chamber"), ResourceHold("form")),
            after=(After(after),),
            steps=("Middle against its bracket. Tie both ends around the piece; leave drain and vent open.",),
            record=("time the steam came",),
            cautions=caution.STEAM[:2],
        ),
        Operation(
            key="steam",
            kind="steam",
            name="Heat it through in the bag",
            scope="batch",
            attended_s=exactly(0.0),
            unattended_s=exactly(time.planned_min * MINUTE_S),
            after=(After("load", 0.0, 0.0),),
            steps=(
                f"Heated through after {time.earliest_min:.0f} min; start pulling after {time.planned_min:.0f}.",
                WATER.format(minutes=bag.water_every_min),
            ),
            record=("temperature in the bag",),
            cautions=caution.STEAM[3:],
            earliest_s=time.earliest_min * MINUTE_S,
            warms=heat.steam.warms,
            meanwhile="in the bag",
        ),
    )


def pulled_in_bag(job: Job, shop: Shop, make: HotBlank, heat: SteamHeat, bag: BagBend) -> tuple[Operation, ...]:
    """Pulled a little at a time with the steam on, then steamed on at full bend."""
    steps = [
        f"{bag.pulls} pulls, about {bag.each_min:.0f} min apart. Pull until the line resists, then wait.",
        "After each pull check the curve against the form; the middle stays against its bracket.",
        WATER.format(minutes=bag.water_every_min),
    ]
    if heat.strap:
        steps.insert(0, "The strap is on the outside of the bend, stops tight.")
    steps.append(f"The line pulls with up to {format_force(make.forces.lever_pull_n.value, shop.units)}.")
    if make.bow:
        steps.append(f"Until its ends are {format_length(make.bow.chord_mm, shop.rule)} apart.")
    return (
        Operation(
            key="bend",
            kind="bend",
            name="Pull it around little by little, steam on",
            scope="batch",
            attended_s=exactly(bag.pull_min * MINUTE_S),
            hands=1,
            takes=(ResourceHold("strap"),) if heat.strap else (),
            after=(After("steam", 0.0, 0.0),),
            steps=tuple(steps),
            record=("the curve after each pull", "cracks"),
            cautions=(*caution.STEAM[:2], *caution.STRAP, caution.BENT),
            meanwhile="being pulled around in the bag",
            moves=pulls_of(bag),
        ),
        check_and_ease(shop, on="form", after=After("bend", 0.0, 0.0), cautions=caution.STEAM[3:]),
        Operation(
            key="hold",
            kind="hold",
            name="Hold it at full bend with steam on",
            scope="batch",
            attended_s=exactly(0.0),
            unattended_s=exactly(bag.hold_min * MINUTE_S),
            frees=("chamber",),
            after=(After("ease", 0.0, 0.0),),
            steps=(
                f"{bag.hold_min:.0f} min of steam with the line held, then the steam off.",
                WATER.format(minutes=bag.water_every_min),
            ),
            cautions=caution.STEAM[3:],
            meanwhile="at full bend in the bag",
        ),
    )
