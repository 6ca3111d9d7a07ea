"""Press: the glue mixed, spread and under pressure in time; the order of clamps; warmth; when it may come off."""

from __future__ import annotations

from typing import Any

from markupsafe import Markup

from ...core.common.findings import worst
from ...core.gluing.pressing import LEAK_KPA, LEAK_MIN, bag_mm
from ...core.gluing.tent_cure import TentCure
from ...core.job.job import Job
from ...core.plan.result import Sketch
from ...core.shop.shop import Shop
from ...core.workpiece.glue_up import GluedUp
from ...core.workpiece.workpiece import GluedLayup
from ...drawing.press_drawing import clamps_svg, race_svg
from ...drawing.section_drawing import section_svg
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

SPREADERS: Choices = (("roller", "roller"), ("brush", "brush"))
TENTS: Choices = (("none", "none"), ("film", "film"), ("blankets", "blankets"))
FIELDS = (
    of_job("glue_up.hands", "People", "spreading and clamping"),
    of_job("glue_up.goes", "Glue-up batches", "1 = all at once"),
    of_job("glue_up.spread_by", "Spread with", choices=SPREADERS, look="pills"),
    of_job("glue_up.temperature_c", "Shop at spreading", "blank = shop temperature"),
    of_job("glue_up.by_weight", "Hardener by weight", "parts to 100 of resin"),
    of_job("glue_up.by_volume", "Hardener by volume", "parts to 100 of resin"),
    of_job("glue_up.open_min", "Open time", "minutes at 20 °C (68 °F)"),
    of_job("glue_up.closed_min", "Closed time", "minutes at 20 °C (68 °F)"),
    of_job("glue_up.pot_min", "Pot life", "minutes at 20 °C (68 °F)"),
    of_job("glue_up.tent", "Tent while it cures", choices=TENTS, look="pills"),
    of_job("glue_up.tent_c", "Temperature in the tent"),
    of_job("glue_up.cold_c", "Wood and form go in at", "blank = shop temperature"),
    of_job("glue_up.tent_mm", "Room around the work"),
)
DIALS = ((1.0, "kPa", 0), (10.0, "mbar", 0), (0.01, "bar", 2), (1 / 3.386389, "inHg", 1))  # of a kPa


def _fields(job: Job, shop: Shop) -> tuple[Field, ...]:
    return FIELDS


def _made(look: StageContext) -> GluedUp | None:
    return look.drawn.glued_up if look.drawn else None


def _items(look: StageContext) -> list[Item]:
    made = _made(look)
    if made is None or look.drawn is None or look.drawn.laid_up is None:
        return []
    w, laid_up = look.words, look.drawn.laid_up
    rows = [
        *_mixed(made, w),
        FigureRow("open time here", f"{made.race.open_s / 60:.0f} min", "allowance"),
        FigureRow("closed assembly time", f"{made.race.closed_s / 60:.0f} min", "allowance"),
        FigureRow("from spreading to clamped", f"{made.race.lasts_s / 60:.0f} min", "allowance"),
    ]
    items: list[Item] = [FigureGroup(f"At {w.temperature(made.temperature_c)}", tuple(rows))]
    items.append(_off(laid_up, look.drawn.tent_cure, w))
    if press := _pressing(look.drawn, laid_up, made, w):
        items.append(press)
    return items


def _mixed(made: GluedUp, w: Formatter) -> list[FigureRow]:
    """What is mixed for one go."""
    mix, lies = made.mix, made.abreast
    go = "one piece" if lies.pieces == 1 else f"{lies.pieces} at once"
    if made.race.goes > 1:
        go += f", each of {made.race.goes} batches"
    rows = [FigureRow(f"glue for {go}", w.glue(mix.mass_g), "allowance")]
    if made.race.pot_s:
        pots = f", {mix.pots} pots" if mix.pots > 1 else ""
        rows.append(FigureRow("pot life here", f"{made.race.pot_s / 60:.0f} min{pots}", "allowance"))
    each = "" if mix.pots == 1 else " in each pot"
    if mix.resin_g is not None and mix.hardener_g is not None:
        rows.append(
            FigureRow(f"weighed{each}", f"{w.glue(mix.resin_g)} resin, {w.glue(mix.hardener_g)} hardener", "physics")
        )
    if mix.by_volume:
        rows.append(FigureRow("or measured", f"100 parts resin, {mix.by_volume:g} hardener", "physics"))
    if mix.problem:
        rows.append(FigureRow("ratio", "no data", None, mix.problem.message(w.unit)))
    return rows


def _off(laid_up: GluedLayup, warmth: TentCure | None, w: Formatter) -> FigureGroup:
    """When it is off, cleaned up and loaded, counted from closing."""
    rows, before = list[FigureRow](), laid_up.warm_h
    if warmth:
        rows.append(FigureRow("middle is warm after", f"{warmth.hours:.1f} h", "physics"))
        rows.append(FigureRow("heater, to hold it", f"{warmth.heater_w:.0f} W", "allowance"))
        rows.append(FigureRow("tent", f"{w.area(warmth.tent_m2)} of skin", "physics"))
    rows.append(FigureRow("under pressure at least", f"{before + laid_up.press_h:.0f} h", "allowance"))
    rows.append(FigureRow("scrape and plane after", f"{before + laid_up.planed_h:.0f} h", "allowance"))
    rows.append(FigureRow("full load after", f"{before + laid_up.glue.full_cure_h:.0f} h", "allowance"))
    return FigureGroup("After clamping", tuple(rows))


def _pressing(drawn: Sketch, laid_up: GluedLayup, made: GluedUp, w: Formatter) -> FigureGroup | None:
    """A bag and its gauge, a band and its tension; of clamps how many."""
    press, choice, lies = laid_up.press, drawn.job.build_up, made.abreast
    rows = []
    if press.kind == "vacuum" and press.pressure_mpa:
        shown = 1000 * press.pressure_mpa.value
        dial = ", ".join(f"{shown * per:.{places}f} {name}" for per, name, places in DIALS)
        long, high, wide = drawn.size_mm
        rows.append(FigureRow("gauge", dial, "physics"))
        size = bag_mm(long_mm=long, wide_mm=wide, high_mm=high)
        rows.append(FigureRow("bag, flat", w.size2(*size), "allowance"))
        leak = f"no more than {w.pressure(LEAK_KPA / 1000)} in {LEAK_MIN:.0f} min, pump off"
        rows.append(FigureRow("leak test", leak, "allowance"))
        if press.open_end_mm and press.open_end_mm.value > 0:
            rows.append(FigureRow("gap at the ends", w.length(press.open_end_mm.value), press.open_end_mm.grade))
    elif press.kind == "band":
        each = f"{choice.bands} bands, {w.force(1000 * choice.band_kn)} each"
        alone = w.force(1000 * choice.band_kn)
        rows.append(FigureRow("tension", each if choice.bands > 1 else alone, "allowance"))
        if press.clamps:
            rows.append(FigureRow("clamps on the straights", str(press.clamps), "allowance"))
        if press.pressure_mpa:
            rows.append(FigureRow("presses at least", w.pressure(press.pressure_mpa.value), press.pressure_mpa.grade))
    else:
        rows.append(FigureRow("clamps, about", str(drawn.form.clamps), "allowance"))
        rows.append(FigureRow("clamp opening needed", w.length(drawn.form.clamp_opening_mm), "physics"))
    for which, off in zip(("inside", "outside"), laid_up.off_alone_mm, strict=False):
        rows.append(FigureRow(f"the {which} alone, at its ends", f"{w.about(off)} off the other", "allowance"))
    if lies.pieces > 1:
        rows.append(FigureRow("ganged", f"{lies.pieces}, one every {w.length(lies.pitch_mm)}", "physics"))
    return FigureGroup("Clamping", tuple(rows))


def _folds(look: StageContext) -> list[Fold]:
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
        Fold(
            "sheet",
            "Glue data",
            ", ".join(given) or "typical for this glue",
            (*sheet, *times),
            "Blank = typical for this glue.",
        ),
        Fold("cool", "Temperature", f"spread at {cool}" if cool else "", ("glue_up.temperature_c",)),
        Fold("tent", "Warmth while it cures", warm, ("glue_up.tent", *tent)),
    ]


def _views(look: StageContext) -> list[BoardView]:
    made, plan = _made(look), look.drawn
    if made is None or plan is None:
        return [THE_BOARD]
    clears: tuple[Item, ...] = ()
    if made.clears:
        shown = [(c.message.rstrip("."), f"{c.race.share:.0%}", f"{c.race.lasts_s / 60:.0f} min") for c in made.clears]
        clears = (grid("Fixes", ("", "of open time", "until clamped"), shown, grade="allowance"),)
    section = plan.lies_on[-1]
    return [
        BoardView("race", "Open-time chart", Markup(race_svg(made.race)), clears),
        BoardView("clamps", "Order of clamps", Markup(clamps_svg(plan, made, look.unit))),
        BoardView("section", "Clamping stack", Markup(section_svg(section, look.unit))),
    ]


def _notes(look: StageContext) -> list[Item]:
    message = (
        "Do a dry run first, with every clamp; follow the glue's data sheet and weigh both parts. No squeeze-out "
        "somewhere: tighten or add glue."
    )
    return [Note(message, "hint"), *cautions(look)]


def _extra(look: StageContext) -> dict[str, Any]:
    made = _made(look)
    return {"clears": made.clears if made else ()}


def _answer(look: StageContext) -> str:
    """Glue, clamps, and the minutes there are."""
    made, drawn = _made(look), look.drawn
    if made is None or drawn is None:
        return ""
    w, clamps = look.words, drawn.form.clamps
    press = (
        f"{clamps} clamps"
        if clamps
        else {"vacuum": "a vacuum bag", "band": "a band clamp"}.get(look.job.build_up.press, "")
    )
    parts = [f"{w.glue(made.mix.mass_g)} of glue", *([press] if press else [])]
    return f"{', '.join(parts)}; clamped in {_about(made.race.lasts_s)}, the glue allows {_about(made.race.closed_s)}."


def _about(seconds: float) -> str:
    return f"{max(1.0, seconds / 60):.0f} min"


def _figures(look: StageContext) -> list[Quantity]:
    made, drawn = _made(look), look.drawn
    if made is None or drawn is None or drawn.laid_up is None:
        return []
    w, laid_up = look.words, drawn.laid_up
    level = worst([f.level for f in drawn.findings if f.code == "press.race"])
    figures = [
        Quantity(
            "Open time used", f"{made.race.share:.0%}", "allowance", f"at {w.temperature(made.temperature_c)}", level
        ),
        Quantity("Under pressure", f"{laid_up.warm_h + laid_up.press_h:.0f} h", "allowance", "at least"),
        Quantity("Scrape and plane", f"{laid_up.warm_h + laid_up.planed_h:.0f} h", "allowance", "after clamping"),
    ]
    if drawn.form.clamps:
        figures.append(Quantity("Clamp opening", w.length(drawn.form.clamp_opening_mm), "physics", "needed"))
    return figures


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
