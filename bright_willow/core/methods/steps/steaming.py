"""What is done to make stock hot: from the rough blank to the open door. Shared by every way that steams."""

from __future__ import annotations

from ...checks import cautions as caution
from ...common.operation import After, Operation, ResourceHold, Window
from ...common.units import MEASURES, format_length, format_temperature
from ...heat.steam_plan import SteamHeat, soak_days
from ...job.job import Job
from ...shop.shop import Shop
from ...shop.times import Times
from ...workpiece.bend import Bend
from .shared_steps import (
    DAY_S,
    HOUR_S,
    KEPT_HOT_S,
    MINUTE_S,
    exactly,
    look_over,
    people_needed,
)

SOAK_OVERNIGHT_H = 12.0
FILL_S = 300.0  # to fill, light and look after the boiler


def blanks(job: Job, shop: Shop, bend: Bend, *, thickness_mm: float, blanks: int) -> tuple[Operation, ...]:
    """Look the boards over, dimension the blanks, seal and mark them, soak them where that was chosen."""
    times, pieces = Times(shop), blanks
    size = " × ".join(
        format_length(v, shop.rule) for v in (thickness_mm, job.part.width_mm + shop.clean_up_mm, bend.blank.length_mm)
    )
    made = [
        look_over(job, shop),
        Operation(
            key="dimension",
            kind="dimension",
            name="Mill the blanks and round their edges",
            scope="job",
            attended_s=times.of(ease_edges=pieces),
            takes=(ResourceHold("saw"),),
            frees=("saw",),
            after=(After("look_over"),),
            steps=(f"{pieces} blanks, {size}.", "Mark center and bend starts from the story stick."),
            cautions=("Push block and splitter at the saw.",),
        ),
        Operation(
            key="seal_ends",
            kind="seal_ends",
            name="Seal the ends",
            scope="job",
            attended_s=times.of(seal_end=2 * pieces),
            after=(After("dimension"),),
            steps=("Wax or paint on the end grain, so it does not check.",),
        ),
    ]
    if job.heat.soaked != "none":
        days = soak_days(thickness_mm)
        lasts = days * DAY_S if job.heat.soaked == "days" else SOAK_OVERNIGHT_H * HOUR_S
        made.append(
            Operation(
                key="soak",
                kind="soak",
                name="Pre-soak in plain water",
                scope="job",
                attended_s=exactly(MINUTE_S * 5),
                unattended_s=exactly(lasts),
                may_run_alone=True,
                after=(After("seal_ends"),),
                steps=(f"{days} days, weighted down." if job.heat.soaked == "days" else "Overnight, weighted down.",),
                record=("moisture when it comes out",),
                meanwhile="soaking",
            )
        )
    return tuple(made)


def warm_up(shop: Shop, heat: SteamHeat, after: str) -> Operation:
    """The chamber brought to heat; somebody stays by it."""
    box, unit = heat.chamber, shop.rule
    water = MEASURES["volume"]
    minutes = box.warm_up_min if box.warm_up_min is not None else 60.0
    return Operation(
        key="warm_up",
        kind="warm_up",
        name="Heat up the steam box",
        scope="batch",
        attended_s=exactly(FILL_S),
        unattended_s=exactly(minutes * MINUTE_S),
        takes=(ResourceHold("chamber"),),
        frees=("chamber",),
        after=(After(after),),
        steps=(
            f"About {minutes:.0f} min, until it reads {format_temperature(round(heat.steam.chamber_c), unit)} where "
            "the wood is.",
            f"{water.format(box.water_l, unit)} {water.shown[unit]} of water for one batch.",
        ),
        lay_out=("gloves, long sleeves", "thermometer where the wood is", "water to top up"),
        record=("box temperature",),
        cautions=caution.STEAM,
        keeps_s=KEPT_HOT_S,
        meanwhile="the steam box heats up",
    )


def steamed(shop: Shop, heat: SteamHeat, after: str) -> tuple[Operation, ...]:
    """In, and left in the steam until it is time."""
    time = heat.steam.time
    latest = f", {time.latest_min:.0f} at the latest" if time.latest_min is not None else ""
    return (
        Operation(
            key="load",
            kind="load",
            name="Put it in the steam box",
            scope="batch",
            attended_s=Times(shop).of(door=1),
            takes=(ResourceHold("chamber"),),
            after=(After(after, 0.0, 0.0),),
            steps=("Work fast, and stand to the side of the door.",),
            record=("time it went in",),
            cautions=caution.STEAM[:1],
        ),
        Operation(
            key="steam",
            kind="steam",
            name="Leave it in the steam",
            scope="batch",
            attended_s=exactly(0.0),
            unattended_s=exactly(time.planned_min * MINUTE_S),
            after=(After("load", 0.0, 0.0),),
            steps=(
                f"Heated through after {time.earliest_min:.0f} min; take it out after {time.planned_min:.0f}{latest}.",
            ),
            record=("box temperature",),
            cautions=caution.STEAM[3:],
            earliest_s=time.earliest_min * MINUTE_S,
            latest_s=time.latest_min * MINUTE_S if time.latest_min is not None else None,
            warms=heat.steam.warms,
            meanwhile="in the steam",
        ),
    )


def people_for(job: Job, heat: SteamHeat) -> int:
    """People that bending a hot piece takes."""
    return people_needed(job.heat.hands, lasts_s=heat.steam.handling_s, may_last_s=heat.steam.window_s)


def cooling_window(heat: SteamHeat) -> Window:
    """How long working time once the door is open."""
    return Window("working time", "bend", heat.steam.window_s, "physics")
