"""Bend: the heat plan, from whether the stock takes the curve to what follows when it is bent."""

from __future__ import annotations

from typing import Any

from markupsafe import Markup

from ...core.bend.bend import Springback
from ...core.bend.makes import HotBlank, Straightened
from ...core.heat.bowstring import Bowstring
from ...core.heat.chamber import WALLS, Chamber
from ...core.heat.dry_heat import DryHeat
from ...core.heat.steam_time import STEAM_SCHOOLS
from ...core.heat.steaming import Steam, SteamHeat
from ...core.heat.strap import Strap
from ...core.job.job import Job
from ...core.shop.clamps import clamp_table
from ...core.wood.species import OwnWood
from ...drawing.bow_drawing import bow_svg
from ...drawing.heat_chart import chamber_svg, heat_chart
from ..figures import Drawing, FigureRow, Figures, Include, Item, Listed, Note, Words, grid
from ..forms.fields import Choices, Field, of_job
from .base import Look, StagePage

STOP_CLAMPS = ("f_clamp", "parallel", "g_clamp", "pipe")
METALS: Choices = (("mild_steel", "mild steel"), ("stainless", "stainless steel"), ("taped", "mild steel, taped"))
SOAKING: Choices = (("none", "no"), ("overnight", "overnight"), ("days", "for days"))
BACKINGS = (("none", "none"), ("by_hand", "a strip held by hand"))
STOPS: Choices = (("welded", "welded"), ("bolted", "bolted"), ("clamps", "clamps"))
CLIMATES: Choices = (("warm", "warm"), ("ordinary", "ordinary"), ("damp", "damp"))
FIELDS = (
    of_job("heat.school", "Time in the steam by", choices=tuple((s.key, s.name) for s in STEAM_SCHOOLS.values())),
    of_job("heat.soak_min", "Soak after heat-through, min"),
    of_job("heat.own_min", "Own trials: minutes"),
    of_job("heat.chamber_c", "Chamber holds", "measured where the stock lies"),
    of_job("heat.soaked", "Soaked beforehand", choices=SOAKING, look="pills"),
    of_job("heat.early", "Taken off before it is dry", look="pills"),
    of_job("heat.start_share", "Bend it has already, of 1", "0 is straight; a bend that missed has some"),
    of_job("heat.at_once", "Pieces bent at once"),
    of_job("heat.hands", "Pairs of hands"),
    of_job("heat.carry_s", "Box to form, s"),
    of_job("heat.moves", "Moves on the form"),
    of_job("heat.clamp_s", "Each move, s"),
    of_job("heat.wall", "Chamber of", choices=tuple((w.key, w.name) for w in WALLS.values())),
    of_job("heat.power_kw", "Steam", "1 kW boils off 1.6 l an hour"),
    of_job("heat.reservoir_l", "Reservoir"),
    of_job("heat.own_inside_high_mm", "Inside high", "of yours; empty: as proposed"),
    of_job("heat.own_inside_wide_mm", "Inside wide"),
    of_job("heat.own_inside_long_mm", "Inside long"),
    of_job("heat.in_bag", "Bent in the bag", "pulled little by little while the steam goes on", look="pills"),
    of_job("heat.backing", "Backing", choices=BACKINGS, look="pills"),
    of_job("heat.strap_mm", "Strap thick"),
    of_job("heat.strap_width_mm", "Strap wide", "empty: as the pieces"),
    of_job("heat.strap_length_mm", "Strap between stops", "of yours, if any"),
    of_job("heat.strap_of", "Strap of", choices=METALS),
    of_job("heat.stop", "End stops", choices=STOPS, look="pills"),
    of_job(
        "heat.stop_clamp",
        "Clamps at each stop",
        choices=tuple((c.key, c.name) for c in clamp_table().values() if c.key in STOP_CLAMPS),
    ),
    of_job("heat.stop_clamps", "How many"),
    of_job("heat.lever_mm", "Lever", "from the bend to the hand or cable"),
    of_job("heat.ratio", "Winch, to 1", "1 is by hand"),
    of_job("heat.iron_c", "Surface", "hot enough to hiss, not to brown"),
    of_job("heat.span_mm", "Clamp span", "for straightening"),
    of_job("heat.on_form_h", "Hours on the form"),
    of_job("heat.forms", "Forms and straps"),
    of_job("heat.climate", "Shop while it dries", choices=CLIMATES, look="pills"),
)


def _fields(job: Job, woods: tuple[OwnWood, ...]) -> tuple[Field, ...]:
    return FIELDS


def _items(look: Look) -> list[Item]:
    if look.drawn is None or look.drawn.hot is None:
        return []
    w, hot, made = look.words, look.drawn.hot, list[Item]()
    if isinstance(hot, HotBlank):
        made.append(_limits(hot, w))
        made += _opening(hot, look.job, w)
    else:
        made += _block(hot, w)
    if isinstance(hot, HotBlank) and hot.bow:
        made += _bow(hot.bow, look, w)
    heat = hot.heat
    made += _dry_heat(heat, look.job, w) if isinstance(heat, DryHeat) else _steam(heat, look, w)
    made += _after(hot, look, w)
    opens = look.drawn.bend.opens
    if isinstance(opens, Springback):
        made.append(Note(f"Springback reckoned {opens.basis}. The band holds 8 bends in 10."))
    if look.plan:
        made.append(Listed("Cautions", look.plan.cautions, is_open=True))
        made.append(Listed("What this rests on", look.plan.assumptions))
    return made


def _limits(hot: HotBlank, w: Words) -> Figures:
    limits = hot.limits
    unbroken = "no data" if limits.unbroken_pct is None else f"{limits.unbroken_pct:.0f}%"
    return Figures(
        "Can it bend",
        (
            FigureRow("inside radius over thickness", w.number(limits.ratio), "physics"),
            FigureRow("this stock wants", w.number(limits.needed), limits.grade),
            FigureRow("tightest, from the start", w.length(limits.at_mm), "physics"),
            FigureRow("with comfort, so thick", w.length(limits.thinner_mm), "allowance"),
            FigureRow("or so gentle, inside", f"R {w.length(limits.gentler_mm)}", "allowance"),
            FigureRow("steamed pieces unbroken", unbroken, "published"),
        ),
    )


def _opening(hot: HotBlank, job: Job, w: Words) -> list[Item]:
    rows = [(x.side, w.spread(x.tip_mm), w.angle_spread(x.angle_deg)) for x in hot.legs]
    released = hot.opening_released_mm
    made: list[Item] = [
        grid("Springback, as it is checked", ("end", "opens", "out of square by"), rows, grade=released.grade),
        Figures(
            "",
            (
                w.row("between the ends, inside: on the form", released, w.length(hot.opening_on_form_mm))
                if not hot.overlap_mm
                else w.row("the ends overlap on the form by", released, w.length(hot.overlap_mm)),
                w.row("released", released, w.spread(released)),
            ),
        ),
    ]
    if job.heat.start_share > 0:
        says = (
            "Bending again: steam it as long as before, start where it is furthest off and work outwards to the ends."
        )
        made.append(Note(says, "hint"))
    return made


def _bow(bow: Bowstring, look: Look, w: Words) -> list[Item]:
    """What a string across the ends makes of it, and where it must be brought to the curve wanted."""
    pulls = [(w.length(sag), w.force(pull)) for sag, pull in bow.pulls]
    made: list[Item] = [
        Drawing(Markup(bow_svg(bow, look.unit)), "Drawn by its ends it is no arc"),
        Figures(
            "",
            (
                FigureRow("sag when the ends have come in", w.length(bow.sag_mm), "physics"),
                FigureRow("of the curve wanted", w.length(bow.wanted_sag_mm), "physics"),
                FigureRow("start with a strut of", w.length(bow.strut_mm), "allowance"),
            ),
        ),
        grid("Pull of the string", ("sag", "pull"), pulls, grade="allowance"),
    ]
    if bow.brackets:
        rows = [(w.length(b.at_mm), f"{'in' if b.by_mm < 0 else 'out'} {w.length(abs(b.by_mm))}") for b in bow.brackets]
        made.append(grid("Brackets that bring it home", ("from the start", "move it"), rows, grade="physics"))
    says = "Without the strut the string has no lever at first; take it out once the bow holds the line off by itself."
    return [*made, Note(says, "hint")]


def _block(hot: Straightened, w: Words) -> list[Item]:
    block = hot.block
    towards = f"{block.towards[:1].upper()}{block.towards[1:]}"
    says = (
        f"{towards}. In a vice, between clamps and blocks, or free over the knee for thin pieces. "
        "Measure again when it is cold."
    )
    return [
        Figures(
            "Straightening",
            (
                FigureRow("bow", f"{w.length(block.bow_mm)} over {w.length(block.base_mm)}", "physics"),
                w.row(f"block under the middle of {w.length(block.span_mm)}", block.block_mm, w.spread(block.block_mm)),
                FigureRow("passes to expect", str(block.passes), "allowance"),
            ),
        ),
        Note(says),
    ]


def _dry_heat(heat: DryHeat, job: Job, w: Words) -> list[Item]:
    made: list[Item] = []
    if heat.bends:
        rows = [
            (
                f"{x.order}, {x.side}",
                w.bare(x.start_mm),
                w.bare(x.end_mm),
                w.bare(x.radius_mm),
                f"{w.angle(x.bent_deg)}, for {w.angle(x.wanted_deg)}",
            )
            for x in heat.bends
        ]
        mate = "; for the other hand they run from the other end" if job.part.copies == "pairs" else ""
        says = (
            f"Marks are from the start of the finished piece, on the flat strip{mate}. Moisten, do not soak; "
            "figured or run-out wood over a thin backing strip, slower."
        )
        made += [grid("Bends, in this order", ("bend", "from", "to", "radius", "bend to"), rows), Note(says, "hint")]
    if heat.blanket:
        steps = [(x.says, w.temperature(x.temperature_c), w.minutes(x.minutes)) for x in heat.blanket]
        made.append(grid("Blanket schedule", (), steps, grade="allowance"))
    return made


def _steam(heat: SteamHeat, look: Look, w: Words) -> list[Item]:
    made = [_times(heat.steam, look.job, w)]
    steam = heat.steam
    if len(steam.loads) > 1:
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
        head = ("piece", "in", "earliest", "out", "latest")
        made.append(grid("One load, minutes from the first going in", head, rows))
    says = (
        f"{steam.soak_says} One piece for each form goes in at a time, a few minutes apart, "
        "so that each comes out at its own right moment."
    )
    made.append(Note(says, "hint"))
    if heat.strap:
        made += _strap(heat.strap, w)
    return [*made, *_chamber(heat.chamber, look, w)]


def _times(steam: Steam, job: Job, w: Words) -> Item:
    time = steam.time
    rows = [(name, w.minutes(minutes)) for _, name, minutes in time.by_school]
    chosen = next((i for i, (key, _, _) in enumerate(time.by_school) if key == job.heat.school), None)
    rows.append(("earliest: hot through", w.minutes(time.earliest_min)))
    if time.latest_min is not None:
        rows.append(("latest, thin stock", w.minutes(time.latest_min)))
    rows.append(("water boils here at", w.temperature(steam.boiling_c)))
    rows.append(("from door to form", f"{w.number(steam.handling_s, 0)} s of {w.number(steam.window_s, 0)} s"))
    return grid("Time in the steam", (), rows, chosen=chosen, grade="allowance")


def _strap(strap: Strap, w: Words) -> list[Item]:
    rows = [FigureRow("between the stops", w.length(strap.length_mm), "physics")]
    if strap.blocks_mm > 0:
        rows.append(FigureRow("blocks to fill yours up", w.length(strap.blocks_mm), "physics"))
    rows.append(FigureRow("end thrust", w.force(strap.thrust_n), "allowance"))
    if strap.grip_n is not None:
        rows.append(FigureRow("the clamps hold", w.force(strap.grip_n), "allowance"))
    rows += [
        FigureRow("strap stress", w.stress(strap.stress_mpa), "allowance"),
        FigureRow("bending moment", w.moment(strap.moment_nmm), "allowance"),
        FigureRow("pull at the lever", w.force(strap.pull_n), "allowance"),
    ]
    if strap.ratio > 1:
        rows.append(FigureRow("at the winch's handle", w.force(strap.hand_n), "allowance"))
    says = (
        "Blank and strap between the stops are the same length at the start; take up play with shims. "
        "Tight stops keep the outside from stretching."
    )
    return [Figures("Strap", tuple(rows)), Note(says, "hint")]


def _chamber(box: Chamber, look: Look, w: Words) -> list[Item]:
    warm = "never" if box.warm_up_min is None else w.minutes(box.warm_up_min)
    tops = f"{w.litres(box.water_l)}, {box.top_ups} top-up{'s' if box.top_ups != 1 else ''}"
    says = (
        "Slope it to the drain; a vent is required, always open; thermometer where the stock lies, away from the inlet."
    )
    if box.wall.caution:
        says += f" {box.wall.caution[:1].upper()}{box.wall.caution[1:].rstrip('.')}."
    return [
        Drawing(_chamber_drawing(box, look), "The chamber, only as big as it must be"),
        Figures(
            "",
            (
                FigureRow("changes of steam a minute", w.number(box.changes_per_min), "allowance"),
                FigureRow("it can hold", w.temperature(box.holds_c), "allowance"),
                FigureRow("warms up in", warm, "allowance"),
                FigureRow("water for one load", tops, "allowance"),
                FigureRow("reservoir lasts", f"{w.number(box.reservoir_h)} h", "allowance"),
            ),
        ),
        Note(says, "hint"),
    ]


def _chamber_drawing(box: Chamber, look: Look) -> Markup:
    assert look.drawn and look.drawn.hot
    thick, wide = look.drawn.hot.thickness_mm, look.job.part.width_mm + look.shop.clean_up_mm
    pieces = box.rows * box.columns
    return Markup(chamber_svg(box, thickness_mm=thick, width_mm=wide, pieces=pieces, unit=look.unit))


def _after(hot: HotBlank | Straightened, look: Look, w: Words) -> list[Item]:
    after, d = hot.drying, hot.set_strain
    rows = [
        FigureRow("cool on the form", f"{w.number(after.cool_h)} h at least", "allowance"),
        w.row("dry in the frame", after.dry_days, f"{w.band(after.dry_days, 1)} days"),
        FigureRow("frame, inside", w.size2(after.frame_width_mm, after.frame_height_mm), "physics"),
    ]
    if look.plan and look.plan.elapsed.form_days:
        rows.append(
            FigureRow("all pieces over the forms", f"{w.number(look.plan.elapsed.form_days)} days", "allowance")
        )
    rows += [
        FigureRow("off too early, the tip opens", f"{w.length(after.early_tip_mm)} more", "allowance"),
        w.row("set strain", d, w.band(d, 4)),
    ]
    return [Figures("After", tuple(rows)), Include("parts/frame.html")]


def _under(look: Look) -> Markup:
    """The chart of the core under the board, where it is steamed."""
    heat = look.drawn.hot.heat if look.drawn and look.drawn.hot else None
    return Markup(heat_chart(heat.steam, look.unit)) if isinstance(heat, SteamHeat) else Markup("")


def _extra(look: Look) -> dict[str, Any]:
    hot = look.drawn.hot if look.drawn else None
    heat = hot.heat if hot else None
    return {
        "steams": not isinstance(heat, DryHeat),
        "straightens": isinstance(hot, Straightened),
        "can_be_backed": bool(look.drawn and getattr(look.drawn.way, "can_be_backed", False)),
        "has_strap": isinstance(heat, SteamHeat) and heat.strap is not None,
        "way_name": look.drawn.way.name if look.drawn else "",
    }


PAGE = StagePage(fields=_fields, items=_items, extra=_extra, under=_under)
