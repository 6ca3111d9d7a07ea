"""Press: the glue mixed, spread and under pressure in time; the order of clamps; warmth; when it may come off."""

from __future__ import annotations

from typing import Any

from markupsafe import Markup

from ...core.bend.glue_up import GluedUp
from ...core.bend.makes import LaidUp
from ...core.heat.warmth import Warmth
from ...core.job.job import Job
from ...core.plan.result import Sketch
from ...core.shop.pressing import LEAK_KPA, LEAK_MIN, bag_mm
from ...core.shop.shop import Shop
from ...drawing.press_drawing import clamps_svg, race_svg
from ...drawing.section_drawing import section_svg
from ..figures import FigureRow, Figures, Item, Note, Words, grid
from ..forms.fields import Choices, Field, of_job
from .base import THE_BOARD, BoardView, Fold, Look, StagePage, cautions

SPREADERS: Choices = (("roller", "roller"), ("brush", "brush"))
TENTS: Choices = (("none", "none"), ("film", "film"), ("blankets", "blankets"))
FIELDS = (
    of_job("glue_up.hands", "Pairs of hands", "spreading and clamping"),
    of_job("glue_up.goes", "Glued up in goes", "1: all at once"),
    of_job("glue_up.spread_by", "Spread by", choices=SPREADERS, look="pills"),
    of_job("glue_up.temperature_c", "Spread at", "empty: as the shop is"),
    of_job("glue_up.by_weight", "Hardener by weight", "parts to 100 of resin"),
    of_job("glue_up.by_volume", "Hardener by volume", "parts to 100 of resin"),
    of_job("glue_up.open_min", "Open time", "min at 20 °C"),
    of_job("glue_up.closed_min", "Closed time", "min at 20 °C"),
    of_job("glue_up.pot_min", "Pot life", "min at 20 °C"),
    of_job("glue_up.tent", "Tent while it cures", choices=TENTS, look="pills"),
    of_job("glue_up.tent_c", "Warm in there"),
    of_job("glue_up.cold_c", "Wood and form go in at", "empty: as the shop is"),
    of_job("glue_up.tent_mm", "Room round the work"),
)
DIALS = ((1.0, "kPa", 0), (10.0, "mbar", 0), (0.01, "bar", 2), (1 / 3.386389, "inHg", 1))  # of a kPa


def _fields(job: Job, shop: Shop) -> tuple[Field, ...]:
    return FIELDS


def _made(look: Look) -> GluedUp | None:
    return look.drawn.glued_up if look.drawn else None


def _items(look: Look) -> list[Item]:
    made = _made(look)
    if made is None or look.drawn is None or look.drawn.laid_up is None:
        return []
    w, laid_up = look.words, look.drawn.laid_up
    rows = [
        *_mixed(made),
        FigureRow("it stays open here", f"{made.race.open_s / 60:.0f} min", "allowance"),
        FigureRow("covered it may wait", f"{made.race.closed_s / 60:.0f} min", "allowance"),
        FigureRow("from spreading to pressure", f"{made.race.lasts_s / 60:.0f} min", "allowance"),
    ]
    items: list[Item] = [Figures(f"At {w.temperature(made.temperature_c)}", tuple(rows))]
    items.append(_off(laid_up, look.drawn.warmth, w))
    if press := _pressing(look.drawn, laid_up, made, w):
        items.append(press)
    return items


def _mixed(made: GluedUp) -> list[FigureRow]:
    """What is mixed for one go."""
    mix, lies = made.mix, made.abreast
    go = "one piece" if lies.pieces == 1 else f"{lies.pieces} at once"
    if made.race.goes > 1:
        go += f", each of {made.race.goes} goes"
    rows = [FigureRow(f"glue for {go}", f"{mix.mass_g:.0f} g", "allowance")]
    if made.race.pot_s:
        pots = f", {mix.pots} pots" if mix.pots > 1 else ""
        rows.append(FigureRow("pot life here", f"{made.race.pot_s / 60:.0f} min{pots}", "allowance"))
    each = "" if mix.pots == 1 else " in each pot"
    if mix.resin_g is not None and mix.hardener_g is not None:
        rows.append(
            FigureRow(f"weighed{each}", f"{mix.resin_g:.0f} g resin, {mix.hardener_g:.0f} g hardener", "physics")
        )
    if mix.by_volume:
        rows.append(FigureRow("or measured", f"100 parts resin, {mix.by_volume:g} hardener", "physics"))
    if mix.problem:
        rows.append(FigureRow("ratio", "no data", None, mix.problem.says("mm")))
    return rows


def _off(laid_up: LaidUp, warmth: Warmth | None, w: Words) -> Figures:
    """When it is off, cleaned up and loaded, counted from closing."""
    rows, before = list[FigureRow](), laid_up.warm_h
    if warmth:
        rows.append(FigureRow("its middle is warm after", f"{warmth.hours:.1f} h", "physics"))
        rows.append(FigureRow("heater, to hold it", f"{warmth.heater_w:.0f} W", "allowance"))
        rows.append(FigureRow("tent", f"{warmth.tent_m2:.1f} m² of skin", "physics"))
    rows.append(FigureRow("under pressure at least", f"{before + laid_up.press_h:.0f} h", "allowance"))
    rows.append(FigureRow("scraped and planed, not before", f"{before + laid_up.planed_h:.0f} h", "allowance"))
    rows.append(FigureRow("loaded, not before", f"{before + laid_up.glue.full_cure_h:.0f} h", "allowance"))
    return Figures("From closing it", tuple(rows))


def _pressing(drawn: Sketch, laid_up: LaidUp, made: GluedUp, w: Words) -> Figures | None:
    """A bag and its gauge, a band and its tension; of clamps how many."""
    press, choice, lies = laid_up.press, drawn.job.build_up, made.abreast
    rows = []
    if press.kind == "vacuum" and press.pressure_mpa:
        shown = 1000 * press.pressure_mpa.value
        dial = ", ".join(f"{shown * per:.{places}f} {name}" for per, name, places in DIALS)
        long, high, wide = drawn.size_mm
        rows.append(FigureRow("the dial", dial, "physics"))
        size = bag_mm(long_mm=long, wide_mm=wide, high_mm=high)
        rows.append(FigureRow("bag, flat", w.size2(*size), "allowance"))
        leak = f"no more than {LEAK_KPA:.0f} kPa in {LEAK_MIN:.0f} min, pump off"
        rows.append(FigureRow("leak test", leak, "allowance"))
        if press.open_end_mm and press.open_end_mm.value > 0:
            rows.append(FigureRow("free at the ends", w.length(press.open_end_mm.value), press.open_end_mm.grade))
    elif press.kind == "band":
        rows.append(FigureRow("tension", f"{choice.band_kn:g} kN", "allowance"))
        if press.pressure_mpa:
            rows.append(FigureRow("presses at least", w.pressure(press.pressure_mpa.value), press.pressure_mpa.grade))
    else:
        rows.append(FigureRow("clamps, about", str(drawn.form.clamps), "allowance"))
        rows.append(FigureRow("they must open", w.length(drawn.form.clamp_opening_mm), "physics"))
    for which, off in zip(("inner", "outer"), laid_up.off_alone_mm, strict=False):
        rows.append(FigureRow(f"the {which} alone, at its ends", f"{w.about(off)} off the other", "allowance"))
    if lies.pieces > 1:
        rows.append(FigureRow("side by side", f"{lies.pieces}, one every {w.length(lies.pitch_mm)}", "physics"))
    return Figures("Pressed", tuple(rows))


def _folds(look: Look) -> list[Fold]:
    g, w, made = look.job.glue_up, look.words, _made(look)
    two_parts = bool(look.drawn and look.drawn.laid_up and look.drawn.laid_up.glue.parts == 2)
    given = [f"{g.open_min:g} min open"] if g.open_min else []
    if two_parts:
        given.insert(0, f"100 : {g.by_weight:g} by weight" if g.by_weight else "no ratio yet")
    sheet = ("glue_up.by_weight", "glue_up.by_volume") if two_parts else ()
    times = ("glue_up.open_min", "glue_up.closed_min", "glue_up.pot_min")
    warm = "none" if g.tent == "none" else f"{g.tent}, {w.temperature(g.tent_c)}"
    tent = () if g.tent == "none" else ("glue_up.tent_c", "glue_up.cold_c", "glue_up.tent_mm")
    cool = w.temperature(made.temperature_c) if made else ""
    return [
        Fold("sheet", "Data sheet", ", ".join(given) or "of the kind", (*sheet, *times), "Empty: typical of its kind."),
        Fold("cool", "Temperature", f"spread at {cool}" if cool else "", ("glue_up.temperature_c",)),
        Fold("tent", "Warmth while it cures", warm, ("glue_up.tent", *tent)),
    ]


def _views(look: Look) -> list[BoardView]:
    made, plan = _made(look), look.drawn
    if made is None or plan is None:
        return [THE_BOARD]
    clears: tuple[Item, ...] = ()
    if made.clears:
        shown = [(c.says.rstrip("."), f"{c.race.share:.0%}", f"{c.race.lasts_s / 60:.0f} min") for c in made.clears]
        clears = (grid("What clears it", ("", "of what it stands", "to pressure"), shown, grade="allowance"),)
    section = plan.lies_on[-1]
    return [
        BoardView("race", "The race", Markup(race_svg(made.race)), clears),
        BoardView("clamps", "Order of clamps", Markup(clamps_svg(plan, made, look.unit))),
        BoardView("section", "What lies on what", Markup(section_svg(section, look.unit))),
    ]


def _notes(look: Look) -> list[Item]:
    says = (
        "A dry run first, with every clamp. The data sheet comes first for ratio, open time and pressure; weigh both "
        "parts. Squeeze-out all along both edges; where none comes, tighten or it starves."
    )
    return [Note(says, "hint"), *cautions(look)]


def _extra(look: Look) -> dict[str, Any]:
    made = _made(look)
    return {"clears": made.clears if made else ()}


PAGE = StagePage(fields=_fields, items=_items, notes=_notes, folds=_folds, extra=_extra, views=_views)
