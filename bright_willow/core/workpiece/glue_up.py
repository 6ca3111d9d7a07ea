"""The glue-up of a lay-up: its race at this temperature, what would clear it, and the order of its clamps."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np

from ..common.findings import Change
from ..common.units import format_temperature
from ..form.construction import FormSketch
from ..gluing.adhesive import Adhesive, adhesive_table
from ..gluing.glue_timing import (
    BRUSH_TIMES,
    GlueTiming,
    Moves,
    clamp_order,
    lines_of_goes,
    race,
)
from ..gluing.mix import GlueMix, GlueTimes, glue_times, mix
from ..job.glue_up_choice import GlueUp
from ..job.job import Job
from ..shop.shop import Shop
from ..shop.times import Times
from ..stock.side_by_side import SideBySide, abreast
from .bend import Bend
from .workpiece import GluedLayup

STRAIGHT_END = 0.35  # of the length that is straight at one end alone: there it is held, and closed from. Allowance.
MOST_COOLER_C = 10.0  # that an hour can be looked for. Grade: allowance.
OF_THE_SHEET = ("open_min", "closed_min", "pot_min", "by_weight", "by_volume")  # of the glue that was
TIGHT_SHARE = 0.9  # of what the glue stands, above which a race is too close. Grade: allowance.


@dataclass(frozen=True, slots=True)
class TimingFix:
    """One way to clear a race: what it is, the race it makes, and the change that makes it."""

    message: str
    race: GlueTiming
    change: Change


@dataclass(frozen=True, eq=False)
class GluedUp:
    """The times of a glue-up, what would clear them, the number of each clamp from the left end of the face, what the
    glue stands, how it is mixed for the largest batch of strips, and how pieces lie on the form.

    race: of the largest batch, against what the glue stands. moves: what is done, and how long each takes one person.
    lines: glue lines of each batch. area_m2: of one line. strip_by_strip: each is fixed before the next goes on.
    """

    race: GlueTiming
    moves: Moves
    lines: tuple[int, ...]
    area_m2: float
    hands: int
    is_brushed: bool
    strip_by_strip: bool
    clears: tuple[TimingFix, ...]
    order: tuple[int, ...]
    temperature_c: float
    stands: GlueTimes
    mix: GlueMix
    abreast: SideBySide

    def race_of(self, lines: int) -> GlueTiming:
        """The times of a batch of so many lines, 1 or more."""
        stands = self.stands
        return race(
            replace(self.moves, lines=lines),
            hands=self.hands,
            open_s=stands.open_s,
            closed_s=stands.closed_s,
            pot_s=stands.pot_s,
            brush=self.is_brushed,
        )

    def share_of(self, lines: int) -> float:
        """The share of a stack's glue that goes into so many lines."""
        return lines / max(1, sum(self.lines))

    def spread_m2(self, lines: int) -> float:
        """Square meters spread by one person with a roller that take as long as so many lines do here."""
        return lines * self.area_m2 * (BRUSH_TIMES if self.is_brushed else 1.0) / self.hands

    @property
    def is_tight(self) -> bool:
        return self.race.share > TIGHT_SHARE


def glued_up(job: Job, shop: Shop, bend: Bend, make: GluedLayup, form: FormSketch) -> GluedUp:
    """The glue-up as it is planned. Raises: PlanError."""
    in_place, choice = form.kind == "in_place", job.glue_up
    moves = moves_of(job, shop, bend, make, form)
    every = moves.lines
    moves = replace(moves, lines=min(1, every)) if in_place else moves

    def run(
        hands: int = choice.hands,
        goes: int = choice.goes,
        by: str = choice.spread_by,
        glue: Adhesive = make.glue,
        data: GlueUp = choice,
    ) -> GlueTiming:
        stands = glue_times(glue, data, shop)
        own = {"open_s": stands.open_s, "closed_s": stands.closed_s, "pot_s": stands.pot_s}
        return race(moves, hands=hands, goes=goes, brush=by == "brush", **own)  # type: ignore[arg-type]

    def tried() -> Iterator[tuple[str, GlueTiming, dict[str, object]]]:
        if choice.spread_by == "brush":
            yield "Spread it with a roller.", run(by="roller"), {"glue_up.spread_by": "roller"}
        for hands in range(choice.hands + 1, min(9, choice.hands + 4)):
            yield f"Work with {hands} people.", run(hands=hands), {"glue_up.hands": hands}
        for goes in range(choice.goes + 1, min(7, moves.lines + 1)):
            yield f"Glue up in {goes} batches.", run(goes=goes), {"glue_up.goes": goes}
        for cooler in range(math.ceil(now_c) - 1, math.ceil(max(make.glue.min_temp_c, now_c - MOST_COOLER_C)) - 1, -1):
            then = choice.model_copy(update={"temperature_c": float(cooler)})
            message = f"Glue it up at {format_temperature(cooler, shop.rule)}."
            yield message, run(data=then), {"glue_up.temperature_c": float(cooler)}
        for glue in sorted(adhesive_table().values(), key=lambda g: g.open_min):
            if glue.open_min > make.glue.open_min and glue.creep == make.glue.creep and now_c >= glue.min_temp_c:
                own = choice.model_copy(update=dict.fromkeys(OF_THE_SHEET))
                sets: dict[str, object] = {"build_up.adhesive": glue.key}
                sets |= {f"glue_up.{k}": None for k in OF_THE_SHEET if getattr(choice, k)}
                yield f"Use {glue.name[0].lower() + glue.name[1:]}.", run(glue=glue, data=own), sets

    stands = glue_times(make.glue, choice, shop)
    now, now_c = run(), stands.temperature_c
    clears = _first_of_each(tried()) if now.share > TIGHT_SHARE else ()
    lies, lines = abreast(job, shop), (every,) if in_place or not every else lines_of_goes(every, choice.goes)
    return GluedUp(
        race=now,
        moves=moves,
        lines=lines,
        area_m2=_area_m2(job, shop, bend),
        hands=choice.hands,
        is_brushed=choice.spread_by == "brush",
        strip_by_strip=in_place,
        clears=clears,
        order=clamp_order(form.clamps, start_of(bend)) if form.clamps else (),
        temperature_c=now_c,
        stands=stands,
        mix=mix(make.glue, choice, make.glue_g.value / lies.goes * lines[0] / max(1, sum(lines))),
        abreast=lies,
    )


def _first_of_each(tried: Iterator[tuple[str, GlueTiming, dict[str, object]]]) -> tuple[TimingFix, ...]:
    """The first of each kind of change that clears it."""
    clears, kinds = list[TimingFix](), set[str]()
    for message, then, sets in tried:
        kind = next(iter(sets))
        if then.share <= TIGHT_SHARE and kind not in kinds:
            kinds.add(kind)
            clears.append(TimingFix(message, then, Change(message, sets)))
    return tuple(clears)


def _area_m2(job: Job, shop: Shop, bend: Bend) -> float:
    """Area of one glue line, of all pieces that are glued up together."""
    return abreast(job, shop).wood_mm * bend.blank.length_mm * 1e-6


def moves_of(job: Job, shop: Shop, bend: Bend, make: GluedLayup, form: FormSketch) -> Moves:
    """What is done in one go, by this shop's own times."""
    times = Times(shop)
    area = _area_m2(job, shop, bend)
    close = {
        "clamps": form.clamps * times.seconds("clamp"),
        "vacuum": times.seconds("bag"),
        "band": make.press.bands * times.seconds("band"),
    }
    beside = make.press.clamps * times.seconds("clamp")
    return Moves(
        lines=job.build_up.glue_lines,
        spread_s=area * times.seconds("spread_m2"),
        lay_on_s=times.seconds("lay_on"),
        set_s=times.seconds("set_stack"),
        close_s=close[make.press.kind] + beside,
        beside_s=beside,
    )


def start_of(bend: Bend) -> float:
    """Where closing starts, as a share of the face: at the crown, where half of the bend lies to either side; at an end
    that is straight and held, where the other is not. Source: docs/model.md#pressing. Grade: allowance."""
    blank = bend.blank
    turn = blank.turns_rad
    bent = np.flatnonzero(turn > 1e-6)
    if not bent.size:
        return 0.5
    before = float(blank.stations_mm[bent[0]]) / blank.length_mm
    after = 1 - float(blank.stations_mm[bent[-1] + 1]) / blank.length_mm
    if before > STRAIGHT_END and after < STRAIGHT_END / 2:
        return 0.0
    if after > STRAIGHT_END and before < STRAIGHT_END / 2:
        return 1.0
    along = np.concatenate(([0.0], np.cumsum(turn)))
    return float(np.interp(along[-1] / 2, along, blank.stations_mm)) / blank.length_mm
