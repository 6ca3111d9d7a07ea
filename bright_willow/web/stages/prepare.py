"""Prepare: from boards to numbered strips or blanks, in an order that keeps the grain together."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from markupsafe import Markup

from ...core.common.amounts import format_run
from ...core.heat.steam_plan import SteamHeat
from ...core.job.job import Job
from ...core.job.stock_choice import Flaw, InspectedBoard, MoreBoards
from ...core.methods.method_registry import traits_of
from ...core.plan.result import Sketch
from ...core.shop.shop import Shop
from ...core.stock.molding_profile import Profiled
from ...core.stock.prepared_stock import Prepared
from ...core.stock.sawing import HOLD_MM
from ...core.stock.side_by_side import SideBySide, abreast, curl_mm, laid
from ...core.wood.sheets import VENEER_LEAF
from ...drawing.prepare_drawing import HOWS, MOST_SECTIONS, lengths_svg, sections_svg
from ...drawing.profile_drawing import profile_svg
from ...drawing.veneer_drawing import veneer_svg
from ..formatting import (
    FigureGroup,
    FigureRow,
    Formatter,
    Item,
    Note,
    TemplatePart,
    grid,
)
from ..forms.fields import Choices, Field, of, of_job
from ..summary_figures import Quantity, to_cut, wood_of
from .base import (
    THE_BOARD,
    BoardView,
    Fold,
    Slider,
    StageContext,
    StagePage,
)

SAWS: Choices = (("auto", "best yield"), ("rip", "rip"), ("resaw", "resaw"))
PROFILES: Choices = (
    ("none", "none: plain strips"),
    ("round_over", "a rounded corner"),
    ("cove", "a cove"),
    ("chamfer", "a chamfer"),
    ("bead", "a bead"),
    ("points", "your own outline"),
)
ABREAST: Choices = (("strips", "separate strips"), ("wide", "one wide blank, ripped apart after"))
SHOWS: Choices = (("none", "neither"), ("inner", "the inside"), ("outer", "the outside"))
BOARDS = (
    of_job("prepare.saw", "Sawing", choices=SAWS, look="pills"),
    of_job("prepare.thickness_mm", "Boards, thickness"),
    of_job("prepare.width_mm", "Width"),
    of_job("prepare.length_mm", "Length"),
    of_job("prepare.boards", "How many", "0 = as needed"),
)
VERDICTS: Choices = (("keep", "keep"), ("reject", "reject"))
LAID_UP = (
    of_job("prepare.abreast", "Pieces ganged", "1 = not ganged"),
    of_job("prepare.abreast_as", "Ganged as", choices=ABREAST),
    of_job(
        "build_up.tape_after", "Tape after ply", "0 = none; otherwise an inner and an outer piece that fit each other"
    ),
    of_job("build_up.cauls", "Caul plies", "like the outermost ply, pressed on without glue"),
    of_job("prepare.leaf_mm", "Width of veneer leaves", "blank = no limit"),
    of_job("prepare.show", "Show face", choices=SHOWS, look="pills"),
    of_job("prepare.profile.kind", "Molding profile", choices=PROFILES),
    of_job("prepare.profile.size_mm", "Its size"),
    of_job("prepare.profile.points_mm", "Its outline", "depth, height: one point a line, from the inside face"),
    of_job("prepare.profile.blanks", "Blanks to rip the molding from", "0 = automatic"),
)


def _fields(job: Job, shop: Shop) -> tuple[Field, ...]:
    rows = (
        *(f for i in range(len(job.prepare.flaws)) for f in flaw_fields(i)),
        *(f for i in range(len(job.prepare.more)) for f in more_fields(i)),
        *(f for i in range(len(job.prepare.inspected)) for f in inspected_fields(i)),
    )
    return (*BOARDS, *(LAID_UP if _is_laid_up(job) else ()), *rows)


def _is_laid_up(job: Job) -> bool:
    """Whether it is made of strips or sheets, by its way: also where no bend of it can be drawn."""
    return "laid_up" in traits_of(job)


def flaw_fields(i: int) -> tuple[Field, ...]:
    """The inputs of one flaw."""
    made = (
        of(Flaw, "board", f"Board of flaw {i + 1}", "board"),
        of(Flaw, "start_mm", f"Flaw {i + 1} from", "from"),
        of(Flaw, "end_mm", f"Flaw {i + 1} to", "to"),
    )
    return tuple(Field(f"prepare.flaws.{i}.{f.name}", f.label, f.kind, f.hint) for f in made)


def more_fields(i: int) -> tuple[Field, ...]:
    """The inputs of boards of another size."""
    made = (
        of(MoreBoards, "count", f"Other boards {i + 1}, how many", "quantity"),
        of(MoreBoards, "thickness_mm", f"Other boards {i + 1}, thickness", "thick"),
        of(MoreBoards, "width_mm", f"Other boards {i + 1}, width", "wide"),
        of(MoreBoards, "length_mm", f"Other boards {i + 1}, length", "long"),
    )
    return tuple(Field(f"prepare.more.{i}.{f.name}", f.label, f.kind, f.hint) for f in made)


def inspected_fields(i: int) -> tuple[Field, ...]:
    """The inputs of one board that was looked at."""
    made = (
        of(InspectedBoard, "board", f"Inspected board {i + 1}, its number", "board"),
        of(InspectedBoard, "verdict", f"Inspected board {i + 1}, decision", choices=VERDICTS),
        of(InspectedBoard, "matched", f"Inspected board {i + 1}, set", "set"),
        of(InspectedBoard, "note", f"Inspected board {i + 1}, note", "note"),
    )
    return tuple(replace(f, name=f"prepare.inspected.{i}.{f.name}") for f in made)


def _ready(look: StageContext) -> Prepared | None:
    return look.drawn.prepared if look.drawn else None


def _items(look: StageContext) -> list[Item]:
    ready, w = _ready(look), look.words
    if ready is None:
        return [Note("Nothing is sawn for this job: all its plies are bought.")]
    strips = ready.strips
    many = len(strips.kinds) > 1
    rows = [FigureRow(f"{_word(look)}s, with spares", str(strips.count))]
    for kind in strips.kinds:
        size = f"{kind.count} of {w.size2(kind.thick_mm, strips.wide_mm)}" if many else ""
        label = kind.name or ("other strips" if many else "each, rough")
        rows.append(FigureRow(label, size or w.size2(kind.thick_mm, strips.wide_mm), "allowance"))
    rows.append(FigureRow("length, extra length included", w.length(strips.long_mm), "physics"))
    if ready.problem:
        return [FigureGroup(f"{_word(look).capitalize()}s", tuple(rows)), Note(ready.problem.message(look.unit))]
    if ready.cut:
        first = ready.cut.boards[0]
        of = f" of {ready.boards_at_hand}" if ready.boards_at_hand else ""
        rows.append(FigureRow("boards used", f"{len(ready.cut.boards)}{of}", "physics"))
        rows.append(FigureRow("out of a length", f"{first.lengths[0].strips}, {HOWS[first.lanes.how]}", "physics"))
        rows.append(FigureRow("of those boards wasted", w.percent(ready.cut.wasted_share), "physics"))
    made: list[Item] = [FigureGroup(f"{_word(look).capitalize()}s", tuple(rows))]
    return [*made, *_blank(look, w)]


def _word(look: StageContext) -> str:
    return "strip" if _is_laid_up(look.job) else "blank"


def _blank(look: StageContext, w: Formatter) -> list[Item]:
    """What is done to a blank before it is heated."""
    drawn = look.drawn
    if drawn is None or drawn.hot is None or drawn.laid_up is not None:
        return []
    heat, rows = drawn.hot.heat, list[FigureRow]()
    if isinstance(heat, SteamHeat):
        rows.append(FigureRow("edges", "rounded 2 mm all along" if look.unit == "mm" else "rounded 1/16 in all along"))
        rows.append(FigureRow("ends", "sealed with wax or paint the same day"))
        rows.append(FigureRow("soak", heat.steam.soak_text.rstrip("."), "allowance"))
        if heat.strap:
            rows.append(FigureRow("strap face", "the outside of the bend, the straightest grain"))
            rows.append(FigureRow("between its stops", w.length(heat.strap.length_mm), "physics"))
    marks = [(m.name, w.length(m.inner_mm), w.length(m.outer_mm)) for m in drawn.stick]
    made: list[Item] = [FigureGroup("Each blank", tuple(rows))] if rows else []
    return [*made, grid("Marks from the center, on each face", ("mark", "inside face", "outside face"), marks)]


def _folds(look: StageContext) -> list[Fold]:
    if not _is_laid_up(look.job):
        return []
    p, w, job = look.job.prepare, look.words, look.job
    lies = f"{p.abreast} ganged" if p.abreast > 1 else "not ganged"
    cauls = f", {job.build_up.cauls} caul pl{'s' if job.build_up.cauls > 1 else ''}" if job.build_up.cauls else ""
    tape = f", tape after ply {job.build_up.tape_after}" if job.build_up.tape_after else ""
    side = ("prepare.abreast", "prepare.abreast_as", "build_up.cauls", "build_up.tape_after")
    leaf = f"{w.length(p.leaf_mm)} wide" if p.leaf_mm else "no limit"
    shape = dict(PROFILES)[p.profile.kind].partition(":")[0]
    figure = {"none": (), "points": ("points_mm", "blanks")}.get(p.profile.kind, ("size_mm", "blanks"))
    wanted = tuple(f"prepare.profile.{name}" for name in ("kind", *figure))
    return [
        Fold("abreast", "Ganged", lies + cauls + tape, side),
        Fold("profile", "Molding profile", shape, wanted, "A molding that is ripped, bent and glued back together."),
        Fold("veneer", "Veneer", leaf, ("prepare.leaf_mm", "prepare.show")),
    ]


def _views(look: StageContext) -> list[BoardView]:
    ready, drawn = _ready(look), look.drawn
    made: list[BoardView] = []
    if drawn is not None and ready is not None and ready.cut is not None:
        shown = min(MOST_SECTIONS, len(ready.cut.boards))
        sections = Markup(sections_svg(ready, look.unit))
        along = Markup(lengths_svg(ready, look.job.prepare.flaws, look.unit))
        slider = Slider("Board by board", shown, 0) if shown > 1 else None
        made.append(BoardView("boards", "The boards", sections, under=along, slider=slider))
        made.append(
            BoardView("strips", "Cut list", Markup(""), (*_dealt(look, ready), TemplatePart("parts/boards.html")))
        )
    if drawn is not None and drawn.profiled is not None and drawn.profiled.bands:
        svg = Markup(profile_svg(drawn.profiled, look.unit))
        made.append(BoardView("profile", "The molding profile", svg))
        made.append(BoardView("cuts", "Its cuts", Markup(""), (_cuts(drawn.profiled, look.words),)))
    if drawn is not None and drawn.laid_up is not None:
        made.append(BoardView("abreast", "Ganged", Markup(""), _side_by_side(look, drawn)))
    if leaves := _leaves(look):
        made.append(leaves)
    return made or [THE_BOARD]


def _dealt(look: StageContext, ready: Prepared) -> list[Item]:
    """The strips of each piece, from its inner face outward."""
    rows, has_sets = [], any(b.matched for b in ready.boards)
    set_name = "blank" if abreast(look.job, look.shop).as_ == "wide" else "piece"
    for p in ready.pieces:
        own = list(p.strips)
        if ready.has_waste_strip:
            own[-1] = f"and {own[-1]} as the waste strip"
        name = f"{p.number}{f', {p.hand}' if p.hand else ''}"
        matched = (p.matched or "none",) if has_sets else ()
        rows.append((name, " ".join(own), " ".join(p.reserve) or "none", *matched))
    head = (set_name, "strips", "spare", *(("set",) if has_sets else ()))
    return [*_seen(look, ready), grid(f"Strips of each {set_name}, from the inside face outward", head, rows)]


def _seen(look: StageContext, ready: Prepared) -> list[Item]:
    """How many boards were looked at, and what became of them."""
    seen = look.job.prepare.inspected
    if not seen:
        return []
    rejected = sum(board.verdict == "reject" for board in seen)
    mixed = [str(p.number) for p in ready.pieces if p.is_mixed]
    message = f"Inspected: {len(seen) - rejected} kept, {rejected} rejected."
    if mixed:
        message += f" Not of one set: piece{'s' if len(mixed) > 1 else ''} {', '.join(mixed)}."
    return [Note(message)]


def _cuts(made: Profiled, w: Formatter) -> Item:
    rows = [
        (str(b.number), str(b.blank), w.length(max(0.0, b.from_mm)), w.length(b.to_mm), w.length(b.lost_mm))
        for b in made.bands
    ]
    head = ("strip", "molding", "cut from the inside face", "to", "lost to the next")
    return grid("Which strip comes from which molding, in gluing order", head, rows, grade="physics")


def _side_by_side(look: StageContext, drawn: Sketch) -> tuple[Item, ...]:
    """Each by itself, side by side, and one wide blank, against each other."""
    job, shop, w = look.job, look.shop, look.words
    whole = job.part.count + job.part.spares
    side = job.prepare.abreast if job.prepare.abreast > 1 else min(4, whole)
    ways = (laid(job, shop, "alone", 1), laid(job, shop, "strips", side), laid(job, shop, "wide", side))
    layers = len(drawn.quantities.stock.layers_mm) or job.build_up.count
    thick = max(x.thickness_mm for x in drawn.laid_up.laminae) if drawn.laid_up else 0.0
    bent = drawn.bend.on_form.tightest_curvature
    rows = [_way(x, layers, whole, thick, bent, w) for x in dict.fromkeys(ways)]
    head = ("", "form loaded", "form wide", "strips", "wide each", "edges curl", "mates", "pressing")
    own = abreast(job, shop)
    chosen = next((i for i, x in enumerate(dict.fromkeys(ways)) if x == own), None)
    message = (
        "A wide blank curls across its width: use cauls all the way across, and a wider form. Ripped apart, the "
        "pieces spring back alike."
    )
    return grid("Each against the others", head, rows, chosen=chosen, grade="physics"), Note(message, "hint")


def _way(x: SideBySide, layers: int, whole: int, thick_mm: float, bent: float, w: Formatter) -> tuple[str, ...]:
    name = {"alone": "not ganged", "strips": f"{x.pieces} ganged", "wide": f"{x.pieces} from one"}[x.as_]
    mates = {"alone": "as wood and day are", "strips": "pressed together", "wide": "alike: one blank"}[x.as_]
    evenly = "from both edges" if not x.middle_needs_caul else "caul across, or a bag"
    times = f"{x.goes} time{'s' if x.goes > 1 else ''}"
    strips = str(x.strips(layers, whole))
    curl = w.length(curl_mm(width_mm=x.strip_wide_mm, thickness_mm=thick_mm, curvature=bent))
    return name, times, w.length(x.on_form_mm), strips, w.length(x.strip_wide_mm), curl, mates, evenly


def _leaves(look: StageContext) -> BoardView | None:
    """Leaves narrower than the part: how they are joined, what is slit, and the tape; and sheets that are."""
    laid_up, w = look.drawn.laid_up if look.drawn else None, look.words
    sheets = [
        (f"{cut.sheet.name}, {layer} of {cut.layers}", ", ".join(map(w.length, joints)))
        for cut in (laid_up.sheets if laid_up else ())
        for layer, joints in enumerate(cut.joints_across_mm, 1)
        if joints and cut.sheet.key != VENEER_LEAF
    ]
    wide = (grid("Sheets edge to edge", ("ply", "joints, from one edge"), sheets, grade="physics"),) if sheets else ()
    plan = laid_up.veneers if laid_up else None
    if plan is None:
        return BoardView("leaves", "Joints", Markup(""), wide) if wide else None
    rows = [
        (f"{ply.number}{', show face' if ply.shows else ''}", *(", ".join(map(w.length, v)) for v in sizes))
        for ply in plan.plies
        for sizes in [(ply.widths_mm, ply.joints_mm)]
    ]
    slit = [(w.length(wide), str(count)) for wide, count in plan.slit]
    tape = FigureRow("veneer tape", format_run(plan.tape_m, look.unit), "allowance")
    said = (
        grid("Leaves edge to edge", ("ply", "leaves", "joints, from one edge"), rows, grade="physics"),
        grid("Slit for the whole job", ("width", "leaves"), slit, grade="physics"),
        FigureGroup("To buy", (tape,)),
        Note("Slit widths include what shooting takes off each edge at a joint.", "hint"),
        *wide,
    )
    return BoardView("leaves", "Veneer", Markup(veneer_svg(plan, look.unit)), said)


def _notes(look: StageContext) -> list[Item]:
    if not _is_laid_up(look.job):
        message = (
            "Straight grain to the outside of the bend; extra length at both ends, sealed. Mark the center and the "
            "bend starts on all four faces. Push block and splitter at the saw."
        )
        return [Note(message, "hint")]
    message = (
        "Number each strip off the saw and keep that order, so grain and color match. Push block and "
        f"splitter; do not rip the last {look.words.length(HOLD_MM)} of a board."
    )
    return [Note(message, "hint")]


def _extra(look: StageContext) -> dict[str, Any]:
    ready, w = _ready(look), look.words
    cut = ready.cut if ready else None
    off = [o for b in (cut.boards if cut else ()) for o in b.off_cuts]
    out, seen = look.job.prepare.left_out, look.job.prepare.inspected
    notes = {b.board: ", ".join(x for x in (b.matched and f"set {b.matched}", b.note) if x) for b in seen}
    rejected = {b.board for b in seen if b.verdict == "reject"}
    return {
        "lot": ready.lot if ready else "",
        "saws": ready is not None,
        "sawn": cut is not None,
        "has_outline": look.job.prepare.profile.kind == "points",
        "boards": [
            {
                "number": n,
                "name": next((f"{b.letter} ({n})" for b in (cut.boards if cut else ()) if b.number == n), f"({n})"),
                "size": w.size(board.thickness_mm, board.width_mm, board.length_mm),
                "gives": next((b.strips for b in (cut.boards if cut else ()) if b.number == n), 0),
                "left_out": board.left_out,
                "note": notes.get(n, ""),
                "rejected": n in rejected,
                "sets": sorted(set(out) ^ {n}),
            }
            for n, board in enumerate(ready.boards, 1)
            if board.left_out or board.flaws or n in notes or any(b.number == n for b in (cut.boards if cut else ()))
        ]
        if ready
        else [],
        "off_cuts": [w.size(o.thickness_mm, o.width_mm, o.length_mm) for o in off],
        "cut": look.more.get("cut"),
        "may_cut": bool(cut and ready and ready.lot and not cut.short),
        "boards_used": len(cut.boards) if cut else 0,
    }


def _answer(look: StageContext) -> str:
    """What to rip from how many boards."""
    ready, w = _ready(look), look.words
    if ready is None:
        return "Nothing to saw: all plies are bought."
    strips = ready.strips
    size = w.size(strips.kinds[0].thick_mm, strips.wide_mm, strips.long_mm)
    boards = ready.cut.boards if ready.cut and not ready.problem else ()
    from_ = f"{len(boards)} board{'s' if len(boards) != 1 else ''}: " if boards else ""
    return f"{from_}rip {strips.count} {_word(look)}{'s' if strips.count != 1 else ''} of {size}."


def _figures(look: StageContext) -> list[Quantity]:
    if look.drawn is None or _ready(look) is None:
        return []
    ready, w = _ready(look), look.words
    made = [wood_of(look.drawn, w), to_cut(look.drawn, w)]
    if ready and ready.cut and not ready.problem:
        waste = Quantity("Waste", w.percent(ready.cut.wasted_share), "physics", "of the boards used")
        made.append(waste)
    return made


PAGE = StagePage(
    fields=_fields,
    items=_items,
    notes=_notes,
    folds=_folds,
    extra=_extra,
    views=_views,
    pulls="prepare/pull",
    answer=_answer,
    figures=_figures,
)
