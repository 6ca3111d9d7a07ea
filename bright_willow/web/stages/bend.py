"""Bend: whether the stock takes the curve, what it springs back, and how it is pulled round."""

from __future__ import annotations

from typing import Any

from markupsafe import Markup

from ...core.heat.elastica import Bowstring
from ...core.heat.iron_and_blanket import DryHeat
from ...core.heat.steam_plan import SteamHeat
from ...core.heat.strap_mechanics import Strap
from ...core.heat.wrapping import STEPS
from ...core.job.job import Job
from ...core.shop.clamps import clamp_table
from ...core.shop.shop import Shop
from ...core.workpiece.bend import Springback
from ...core.workpiece.workpiece import HotBlank, StraightenedPiece
from ...drawing.block_drawing import block_svg
from ...drawing.bow_drawing import bow_svg
from ...drawing.flat_strip import flat_strip_svg
from ...drawing.wrap_drawing import SHOWN_FIRST, wrap_svg
from ..formatting import (
    FigureGroup,
    FigureRow,
    Formatter,
    Item,
    Note,
    grid,
)
from ..forms.fields import Choices, Field, of_job
from ..summary_figures import Quantity, face_of, overbend_of, springback_of, use_of
from .base import (
    BoardView,
    Fold,
    Slider,
    StageContext,
    StagePage,
    cautions,
)

STOP_CLAMPS = ("f_clamp", "parallel", "g_clamp", "pipe")
METALS: Choices = (("mild_steel", "mild steel"), ("stainless", "stainless steel"), ("taped", "mild steel, taped"))
BACKINGS = (("none", "none"), ("by_hand", "backing strip, held by hand"))
STOPS: Choices = (("welded", "welded"), ("bolted", "bolted"), ("clamps", "clamps"))
FIELDS = (
    of_job("heat.start_share", "Already bent (0 to 1)", "0 = straight, 1 = finished bend; for re-bending a piece"),
    of_job("heat.at_once", "Pieces bent at once"),
    of_job("heat.backing", "Backing", choices=BACKINGS, look="pills"),
    of_job("heat.strap_mm", "Strap thickness"),
    of_job("heat.strap_width_mm", "Strap width", "blank = width of the pieces"),
    of_job("heat.strap_length_mm", "Strap length between stops", "of your own strap, if you have one"),
    of_job("heat.preload_mm", "Arched in tight by", "how much longer than the strap a blank is cut; 0 for none"),
    of_job("heat.strap_of", "Strap material", choices=METALS),
    of_job("heat.stop", "End stops", choices=STOPS, look="pills"),
    of_job(
        "heat.stop_clamp",
        "Clamps at each stop",
        choices=tuple((c.key, c.name) for c in clamp_table().values() if c.key in STOP_CLAMPS),
    ),
    of_job("heat.stop_clamps", "How many"),
    of_job("heat.lever_mm", "Lever length", "from the bend to the hand or cable"),
    of_job("heat.ratio", "Winch ratio", "for example 5 = 5 to 1; 1 = by hand"),
    of_job("heat.iron_c", "Surface temperature", "hot enough to hiss, not to brown"),
    of_job("heat.span_mm", "Clamp span", "from clamp to clamp, the block in the middle"),
)


def _fields(job: Job, shop: Shop) -> tuple[Field, ...]:
    return (*FIELDS, *(blank_field(i) for i in range(len(job.heat.blanks_mm))))


def blank_field(i: int) -> Field:
    """The input of one measured blank."""
    return Field(f"heat.blanks_mm.{i}", f"Blank {i + 1}", "length")


def _strap_of(look: StageContext) -> Strap | None:
    heat = look.drawn.hot.heat if look.drawn and look.drawn.hot else None
    return heat.strap if isinstance(heat, SteamHeat) else None


def _items(look: StageContext) -> list[Item]:
    if look.drawn is None or look.drawn.hot is None:
        return []
    w, hot, made = look.words, look.drawn.hot, list[Item]()
    if isinstance(hot, HotBlank):
        made.append(_limits(hot, w))
        made += _opening(hot, w)
    else:
        made.append(_block(hot, w))
    if strap := _strap_of(look):
        made.append(_strap(strap, w))
        if strap.fits:
            rows = [(str(f.number), str(f.load), w.length(f.blank_mm), f.message(w.unit)) for f in strap.fits]
            made.append(grid("Shims", ("blank", "load", "measured", "behind it"), rows, grade="physics"))
    opens = look.drawn.bend.opens
    if isinstance(opens, Springback):
        made.append(Note(f"Springback: {opens.basis}."))
    return made


def _limits(hot: HotBlank, w: Formatter) -> FigureGroup:
    limits = hot.limits
    unbroken = "no data" if limits.unbroken_pct is None else f"{limits.unbroken_pct:.0f}%"
    return FigureGroup(
        "Can it bend?",
        (
            FigureRow("inside radius ÷ thickness", w.number(limits.ratio), "physics"),
            FigureRow("minimum needed", w.number(limits.needed), limits.grade),
            FigureRow("tightest place, from the start", w.length(limits.at_mm), "physics"),
            FigureRow("easy at this radius up to thickness", f"{w.about(limits.thinner_mm)} thick", "allowance"),
            FigureRow("easy at this thickness from radius", f"R {w.about(limits.gentler_mm)} inside", "allowance"),
            FigureRow("steamed pieces that stayed whole", unbroken, "published"),
        ),
    )


def _opening(hot: HotBlank, w: Formatter) -> list[Item]:
    rows = [(x.side, w.spread(x.tip_mm), w.angle_spread(x.angle_deg)) for x in hot.legs]
    released = hot.opening_released_mm
    return [
        grid("Springback at each end", ("end", "springback", "change of end angle"), rows, grade=released.grade),
        FigureGroup(
            "",
            (
                w.row("between the ends, inside: on the form", released, w.length(hot.opening_on_form_mm))
                if not hot.overlap_mm
                else w.row("the ends overlap on the form by", released, w.length(hot.overlap_mm)),
                w.row("released", released, w.spread(released)),
                w.row("permanent set (strain)", hot.set_strain, w.band(hot.set_strain, 4)),
            ),
        ),
    ]


def _bow(bow: Bowstring, look: StageContext) -> tuple[Item, ...]:
    """What a string across the ends makes of it, and where it must be brought to the curve wanted."""
    w = look.words
    pulls = [(w.length(sag), w.force(pull)) for sag, pull in bow.pulls]
    made: list[Item] = [
        FigureGroup(
            "Pulled by its ends it is not an arc",
            (
                FigureRow("sag when the ends have come in", w.length(bow.sag_mm), "physics"),
                FigureRow("off the finished curve", w.length(bow.wanted_sag_mm), "physics"),
                FigureRow("start with a strut of", w.length(bow.strut_mm), "allowance"),
            ),
        ),
        grid("Pull of the string", ("sag", "pull"), pulls, grade="allowance"),
    ]
    if bow.brackets:
        rows = [(w.length(b.at_mm), f"{'in' if b.by_mm < 0 else 'out'} {w.length(abs(b.by_mm))}") for b in bow.brackets]
        made.append(grid("Stops to correct the curve", ("from the start", "move it"), rows, grade="physics"))
    message = (
        "Start with the strut, or the string has no leverage. Remove it once the bow holds the line off on its own."
    )
    return (*made, Note(message, "hint"))


def _block(hot: StraightenedPiece, w: Formatter) -> FigureGroup:
    block = hot.block
    under = w.row(f"block under the middle of {w.length(block.span_mm)}", block.block_mm, w.spread(block.block_mm))
    return FigureGroup(
        "Straighten",
        (
            FigureRow("bow", f"{w.length(block.bow_mm)} over {w.length(block.base_mm)}", "physics"),
            under,
            FigureRow("expected passes", str(block.passes), "allowance"),
        ),
    )


def _strap(strap: Strap, w: Formatter) -> FigureGroup:
    rows = [FigureRow("between the stops", w.length(strap.length_mm), "physics")]
    if strap.blocks_mm > 0:
        rows.append(FigureRow("blocks to fill your strap", w.length(strap.blocks_mm), "physics"))
    if strap.arch_mm:
        rows.append(FigureRow("a blank arches before it is pressed in", w.about(strap.arch_mm), "physics"))
    rows.append(FigureRow("end pressure", w.force(strap.thrust_n), "allowance"))
    if strap.grip_n is not None:
        rows.append(FigureRow("the clamps hold", w.force(strap.grip_n), "allowance"))
    rows += [
        FigureRow("strap stress", w.stress(strap.stress_mpa), "allowance"),
        FigureRow("bending moment", w.moment(strap.moment_nmm), "allowance"),
        FigureRow("pull at the lever", w.force(strap.pull_n), "allowance"),
    ]
    if strap.ratio > 1:
        rows.append(FigureRow("pull at the winch handle", w.force(strap.hand_n), "allowance"))
    return FigureGroup("Strap", tuple(rows))


def _schedule(heat: DryHeat, look: StageContext) -> list[Item]:
    """What a blanket is set to, and how a strip is treated."""
    w, made = look.words, list[Item]()
    if heat.blanket:
        steps = [(x.message, w.temperature(x.temperature_c), w.minutes(x.minutes)) for x in heat.blanket]
        made.append(grid("Blanket schedule", (), steps, grade="allowance"))
    mate = "For the other hand, measure the marks from the other end. " if look.job.part.copies == "pairs" else ""
    message = "Moisten, do not soak. Bend figured wood and wood with run-out slowly, over a thin backing strip."
    return [*made, Note(mate + message, "hint")]


def _views(look: StageContext) -> list[BoardView]:
    """What is bent, as it is bent; then the strip on its form with what it springs back."""
    plan, unit = look.drawn, look.unit
    on_form = BoardView("board", "On the form")
    if plan is None or plan.hot is None:
        return [on_form]
    hot = plan.hot
    if isinstance(hot, StraightenedPiece):
        return [BoardView("block", "Over the block", Markup(block_svg(plan, hot, unit)))]
    made = []
    if hot.bow:
        made.append(BoardView("bow", "In the bag", Markup(bow_svg(hot.bow, unit)), _bow(hot.bow, look)))
    if isinstance(hot.heat, DryHeat):
        flat = Markup(flat_strip_svg(plan, hot.heat, unit))
        made.append(BoardView("flat", "The flat strip", flat))
    elif _strap_of(look) or not hot.heat.in_bag:
        name = "In the strap" if _strap_of(look) else "Around the form"
        slider = Slider("Bend around the form", STEPS, SHOWN_FIRST)
        made.append(BoardView("wrap", name, Markup(wrap_svg(plan, unit)), slider=slider))
    return [*made, on_form]


def _folds(look: StageContext) -> list[Fold]:
    h, w, made = look.job.heat, look.words, list[Fold]()
    if _strap_of(look):
        fields = ["strap_mm", "strap_width_mm", "strap_of", "strap_length_mm", "preload_mm", "stop"]
        if h.stop == "clamps":
            fields += ["stop_clamp", "stop_clamps"]
        held = "held by clamps" if h.stop == "clamps" else dict(STOPS)[h.stop]
        message = f"{w.length(h.strap_mm)} {dict(METALS)[h.strap_of]}, stops {held}"
        made.append(_fold("strap", "Strap and stops", message, fields))
        pulled = "by hand" if h.ratio == 1 else f"winch {h.ratio:g} to 1"
        message = f"{w.length(h.lever_mm)} lever, {pulled}, {h.at_once} at once"
        made.append(_fold("pull", "Lever and pull", message, ["lever_mm", "ratio", "at_once"]))
    elif _pulled_by_a_lever(look):
        made.append(_fold("pull", "Lever length", w.length(h.lever_mm), ["lever_mm"]))
    if not _straightens(look):
        message = "straight" if h.start_share == 0 else f"{h.start_share:.0%} of the bend"
        hint = "Re-bending: steam it as long as before. Start where it is furthest off and work toward the ends."
        made.append(_fold("before", "Starting condition", message, ["start_share"], hint if h.start_share else ""))
    return made


def _fold(key: str, name: str, message: str, fields: list[str], hint: str = "") -> Fold:
    return Fold(key, name, message, tuple(f"heat.{f}" for f in fields), hint)


def _pulled_by_a_lever(look: StageContext) -> bool:
    """Whether hands pull it round by levers: not over dry heat, and not by a string in its bag."""
    hot = look.drawn.hot if look.drawn else None
    return isinstance(hot, HotBlank) and isinstance(hot.heat, SteamHeat) and not hot.heat.in_bag


def _dry(look: StageContext) -> bool:
    return bool(look.drawn and look.drawn.hot and isinstance(look.drawn.hot.heat, DryHeat))


def _straightens(look: StageContext) -> bool:
    return bool(look.drawn and isinstance(look.drawn.hot, StraightenedPiece))


def _notes(look: StageContext) -> list[Item]:
    made: list[Item] = []
    hot = look.drawn.hot if look.drawn else None
    if hot and isinstance(hot.heat, DryHeat):
        made += _schedule(hot.heat, look)
    elif isinstance(hot, StraightenedPiece):
        towards = f"{hot.block.towards[:1].upper()}{hot.block.towards[1:]}"
        message = (
            f"{towards}. Use a vise, or clamps and blocks, or your knee for thin pieces. Measure again when it is cold."
        )
        made.append(Note(message, "hint"))
    elif _strap_of(look):
        message = (
            "Make the strap between the stops as long as the blank; shim out any play. Tight stops keep the outside "
            "from stretching."
        )
        made.append(Note(message, "hint"))
    return [*made, *cautions(look)]


def _extra(look: StageContext) -> dict[str, Any]:
    return {
        "is_dry": _dry(look),
        "straightens": _straightens(look),
        "has_strap": _strap_of(look) is not None,
        "can_be_backed": bool(look.drawn and getattr(look.drawn.way, "can_be_backed", False)),
        "way_name": look.drawn.way.name if look.drawn else "",
    }


def _answer(look: StageContext) -> str:
    """Whether it will bend, and with what."""
    drawn = look.drawn
    hot = drawn.hot if drawn else None
    if drawn is None or hot is None:
        return ""
    w = look.words
    if isinstance(hot, StraightenedPiece):
        block = w.estimate(hot.block.block_mm)
        return f"Block {block} high under the middle, clamps {w.length(hot.block.span_mm)} apart."
    limits = hot.limits
    word = {"fit": "OK", "watch": "Borderline", "stop": "Likely to break"}[use_of(drawn).level]
    message = f"{word}: radius ÷ thickness {w.number(limits.ratio)} (needs {w.number(limits.needed)})."
    if strap := _strap_of(look):
        message += f" Strap {w.length(look.job.heat.strap_mm)} steel, {w.length(strap.length_mm)} between end stops."
    return message


def _figures(look: StageContext) -> list[Quantity]:
    drawn, w = look.drawn, look.words
    if drawn is None:
        return []
    if isinstance(drawn.make, StraightenedPiece):
        return [use_of(drawn), face_of(drawn, w), springback_of(drawn, w)]
    made = [use_of(drawn), springback_of(drawn, w), overbend_of(drawn, w)]
    strap = _strap_of(look)
    return [*made, Quantity("Pull on the lever", w.force(strap.hand_n), "allowance", "")] if strap else made


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
