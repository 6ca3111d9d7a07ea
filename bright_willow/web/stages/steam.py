"""Steam: how long, in what chamber, with how much water, and how long it leaves to get round the form."""

from __future__ import annotations

import json
from typing import Any

from markupsafe import Markup

from ...core.heat.chamber import BAG, WALLS, Chamber
from ...core.heat.steam_plan import Steam, SteamHeat
from ...core.heat.steam_time import STEAM_SCHOOLS
from ...core.job.job import Job
from ...core.learning.steam_times import own_trials
from ...core.shop.shop import Shop
from ...core.workpiece.workpiece import HotBlank
from ...drawing.chamber_drawing import ChamberLoad, chamber_svg
from ...drawing.heat_chart import heat_chart
from ..formatting import (
    FigureGroup,
    FigureRow,
    Formatter,
    Item,
    Note,
    grid,
)
from ..forms.fields import Choices, Field, of_job
from ..summary_figures import Quantity
from .base import (
    THE_BOARD,
    BoardView,
    Fold,
    StageContext,
    StagePage,
    cautions,
)

SOAKING: Choices = (("none", "no"), ("overnight", "overnight"), ("days", "for days"))
FIELDS = (
    of_job("heat.school", "Steam-time rule", choices=tuple((s.key, s.name) for s in STEAM_SCHOOLS.values())),
    of_job("heat.soak_min", "Hold time, min"),
    of_job("heat.own_min", "My own test bends, min"),
    of_job("heat.chamber_c", "Steam box temperature", "measured where the wood is"),
    of_job("heat.soaked", "Pre-soaked", choices=SOAKING, look="pills"),
    of_job("heat.wall", "Steam box made of", choices=tuple((w.key, w.name) for w in WALLS.values())),
    of_job("heat.power_kw", "Steam power, kW", "1 kW boils 1.6 l (0.4 gal) an hour"),
    of_job("heat.reservoir_l", "Reservoir"),
    of_job("heat.own_inside_high_mm", "Inside high", "of your own box; blank = proposed"),
    of_job("heat.own_inside_wide_mm", "Inside wide"),
    of_job("heat.own_inside_long_mm", "Inside long"),
    of_job("heat.banded", "Strips of a piece banded into one pack", "no = apart, and hot sooner", look="pills"),
    of_job("heat.in_bag", "Bent in the bag", "pulled little by little with the steam on", look="pills"),
)


def _fields(job: Job, shop: Shop) -> tuple[Field, ...]:
    return FIELDS


def _heat(look: StageContext) -> SteamHeat | None:
    heat = look.drawn.hot.heat if look.drawn and look.drawn.hot else None
    return heat if isinstance(heat, SteamHeat) else None


def _items(look: StageContext) -> list[Item]:
    heat = _heat(look)
    if heat is None:
        return []
    w = look.words
    return [_times(heat, look.job, w), _chamber(heat.chamber, w)]


def _times(heat: SteamHeat, job: Job, w: Formatter) -> Item:
    steam, time = heat.steam, heat.steam.time
    rows = [(name, w.minutes(minutes)) for _, name, minutes in time.by_school]
    chosen = next((i for i, (key, _, _) in enumerate(time.by_school) if key == job.heat.school), None)
    rows.append(("earliest: heated through", w.minutes(time.earliest_min)))
    if time.latest_min is not None:
        rows.append(("latest, for thin wood", w.minutes(time.latest_min)))
    rows.append(("water boils here at", w.temperature(steam.boiling_c)))
    if heat.bag:
        rows.append((f"then pulled, {heat.bag.pulls} times", w.minutes(heat.bag.pull_min)))
        rows.append(("then held at full bend", w.minutes(heat.bag.hold_min)))
    else:
        rows.append(
            ("box to clamp, of working time", f"{w.number(steam.handling_s, 0)} s of {w.number(steam.window_s, 0)} s")
        )
    return grid("Time in the steam", (), rows, chosen=chosen, grade="allowance")


def _chamber(box: Chamber, w: Formatter) -> FigureGroup:
    warm = "never" if box.warm_up_min is None else w.minutes(box.warm_up_min)
    tops = f"{w.litres(box.water_l)}, {box.top_ups} top-up{'s' if box.top_ups != 1 else ''}"
    return FigureGroup(
        "Steam box and water",
        (
            FigureRow("changes of steam a minute", w.number(box.changes_per_min), "allowance"),
            FigureRow("highest temperature", w.temperature(box.holds_c), "allowance"),
            FigureRow("heats up in", warm, "allowance"),
            FigureRow("water for one batch", tops, "allowance"),
            FigureRow("water lasts", f"{w.number(box.reservoir_h)} h", "allowance"),
        ),
    )


def _loads(steam: Steam, w: Formatter) -> tuple[Item, ...]:
    rows = [
        (
            str(x.piece),
            w.number(x.in_min, 0),
            w.number(x.earliest_min, 0),
            w.number(x.planned_min, 0),
            w.number(x.latest_min, 0) if x.latest_min is not None else "",
        )
        for x in steam.loads
    ]
    message = "Pieces go in a few minutes apart, one for each form, so each comes out at its own time."
    head = ("piece", "in", "earliest", "out", "latest")
    return grid("One batch, minutes after the first goes in", head, rows), Note(message, "hint")


def _views(look: StageContext) -> list[BoardView]:
    """The chamber with the core's curve under it; the pieces of a load, where there are several."""
    plan, heat = look.drawn, _heat(look)
    if plan is None or heat is None or plan.hot is None:
        return [THE_BOARD]
    box = heat.in_box
    stocked = ChamberLoad(box.thickness_mm, box.width_mm, box.length_mm, box.pieces)
    power = f"{plan.job.heat.power_kw:g} kW"
    drawn = Markup(chamber_svg(heat.chamber, stocked, power_text=power, unit=look.unit))
    made = [BoardView("chamber", "Steam box and core", drawn, under=Markup(heat_chart(heat.steam, look.unit)))]
    if len(heat.steam.loads) > 1:
        made.append(BoardView("loads", "The batch", items=_loads(heat.steam, look.words), svg=Markup("")))
    return made


def _folds(look: StageContext) -> list[Fold]:
    h, w = look.job.heat, look.words
    of_chamber = ["wall", "power_kw", "reservoir_l", "own_inside_high_mm", "own_inside_wide_mm", "own_inside_long_mm"]
    if h.wall == BAG and look.drawn and isinstance(look.drawn.hot, HotBlank):
        of_chamber.insert(1, "in_bag")
    if look.drawn and look.drawn.laid_up:
        of_chamber.insert(0, "banded")
    message = f"{WALLS[h.wall].name if h.wall in WALLS else h.wall}, {h.power_kw:g} kW, {w.litres(h.reservoir_l)}"
    return [Fold("chamber", "Steam box", message, tuple(f"heat.{f}" for f in of_chamber))]


def _notes(look: StageContext) -> list[Item]:
    heat = _heat(look)
    if heat is None:
        return []
    message = (
        f"{heat.steam.soak_text} Slope the box to its drain and keep the vent open. Put the thermometer where the "
        "wood is, away from the inlet."
    )
    if heat.chamber.wall.caution:
        caution = heat.chamber.wall.caution
        message += f" {caution[:1].upper()}{caution[1:].rstrip('.')}."
    return [Note(message, "hint"), *cautions(look)]


def _extra(look: StageContext) -> dict[str, Any]:
    return {"way_name": look.drawn.way.name if look.drawn else "", "trials": _trials(look)}


def _trials(look: StageContext) -> dict[str, Any] | None:
    """What pieces of such stock did in this shop's own runs, and the press that goes by it."""
    heat, seen = _heat(look), look.more.get("steamed")
    if heat is None or not seen or look.drawn is None or look.drawn.hot is None:
        return None
    made = own_trials(seen, group=look.drawn.way.group, thickness_mm=look.drawn.hot.thickness_mm)
    if not made.count:
        return None
    message = f"In this shop's runs {made.count} such piece{'s' if made.count > 1 else ''}, {made.whole} whole"
    if made.minutes is None:
        return {"message": f"{message}; after three whole ones a time can be proposed.", "sets": "", "grade": None}
    own = made.minutes
    sets = {"heat.school": "own_trials", "heat.own_min": round(own.likely)}
    goes = look.job.heat.school == "own_trials" and look.job.heat.own_min == sets["heat.own_min"]
    message += f" after {own.likely:.0f} min, most of them {own.low:.0f} to {own.high:.0f}."
    return {
        "message": message,
        "sets": "" if goes else json.dumps(sets),
        "min": f"{own.likely:.0f} min",
        "grade": own.grade,
    }


def _answer(look: StageContext) -> str:
    """How long, how hot, and the seconds after it."""
    heat = _heat(look)
    if heat is None:
        return ""
    w, steam = look.words, heat.steam
    message = f"{w.minutes(steam.time.planned_min)} at {w.temperature(steam.chamber_c)}"
    if heat.bag:
        return f"{message}, then {heat.bag.pulls} pulls in the bag."
    return f"{message}; {steam.window_s:.0f} s from box to clamp."


def _figures(look: StageContext) -> list[Quantity]:
    heat = _heat(look)
    if heat is None:
        return []
    w, time, box = look.words, heat.steam.time, heat.chamber
    made = [Quantity("Heated through", w.minutes(time.earliest_min), "allowance", "earliest time to take it out")]
    if time.latest_min is not None:
        made.append(Quantity("Latest", w.minutes(time.latest_min), "allowance", "thin wood gets brittle after that"))
    if not heat.bag:
        message = "time you have"
        made.append(
            Quantity(
                "Box to clamp",
                f"{heat.steam.handling_s:.0f} s",
                "allowance",
                f"planned; {message} {heat.steam.window_s:.0f} s",
            )
        )
    return [*made, Quantity("Water", w.litres(box.water_l), "allowance", "for one batch")]


PAGE = StagePage(
    fields=_fields,
    items=_items,
    notes=_notes,
    folds=_folds,
    extra=_extra,
    views=_views,
    answer=_answer,
    figures=_figures,
)
