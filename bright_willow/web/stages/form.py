"""Form: what is built, from the face with the springback in it to the parts and their files."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from markupsafe import Markup

from ...core.common.amounts import BOLT
from ...core.form.closing import STILL_OPEN_MM
from ...core.form.construction import FormBuild, FormSketch
from ...core.form.kinds import BUILDS
from ...core.form.kinds import KINDS as FORM_KINDS
from ...core.form.schools import SCHOOLS
from ...core.form.skin import PLAIN_SKIN
from ...core.form.stiffness import GOODS
from ...core.job.job import Job
from ...core.plan.result import Plan, Sketch
from ...core.shop.shop import Shop
from ...core.wood.sheets import sheet_table
from ...core.workpiece.bend import Springback
from ...drawing.in_place_drawing import in_place_svg, steps_shown
from ...drawing.nest_drawing import nest_svgs
from ...drawing.solids import LARGEST_MM
from ...drawing.steps import lasting, roughly
from ..formatting import (
    Drawing,
    FigureGroup,
    FigureRow,
    FoldedSentences,
    Formatter,
    Item,
    Note,
    TemplatePart,
    grid,
)
from ..forms.fields import Choices, Field, of_job
from ..summary_figures import (
    LEAST_SHOWN_MM,
    Quantity,
    face_of,
    glue_of,
    overbend_of,
    springback_of,
    to_cut,
)
from .base import BoardView, Fold, Slider, StageContext, StagePage

START_HOLDS: Choices = (
    ("clamps", "clamps at its middle, both ends pulled"),
    ("cleat", "a cleat over one end"),
    ("notch", "a notch over one end"),
)
ENDS: Choices = (("left", "left end"), ("right", "right end"))
ENDS: Choices = (("left", "left end"), ("right", "right end"))
MATCHED_CAULS: Choices = (
    ("none", "none"),
    ("ends", "one at each end"),
    ("ends_and_middle", "at both ends and the middle"),
)
CLAMP_HOLES: Choices = (
    ("where_needed", "where the back gives clamps no seat"),
    ("all_along", "all along the face"),
    ("none", "none"),
)
SIDES: Choices = (("inner", "inside of the curve"), ("outer", "outside of the curve"))
FIELDS = (
    of_job("form.kind", "Kind of form", choices=tuple((k.key, k.name) for k in FORM_KINDS.values())),
    of_job("form.build", "Built as", choices=tuple((k, name) for k, (name, _) in BUILDS.items())),
    of_job("form.goods", "Material", choices=tuple((k, name) for k, (name, _, _) in GOODS.items())),
    of_job("form.sheet_mm", "Sheet thickness"),
    of_job("form.skin_mm", "Skin or slats", "how thick"),
    of_job("form.skin_of", "Skin of", choices=((PLAIN_SKIN, "plain thin plywood"),)),
    of_job("form.close_deg", "Closing direction", "0 = square to the base line"),
    of_job("form.post_mm", "Brackets at most this far apart"),
    of_job("form.school", "Overbend", choices=tuple((s.key, s.name) for s in SCHOOLS.values())),
    of_job("form.left_deg", "Overbend, left end"),
    of_job("form.right_deg", "Overbend, right end"),
    of_job("form.left_mm", "Left end closer by"),
    of_job("form.right_mm", "Right end closer by"),
    of_job("form.side", "Form on the", choices=SIDES, look="pills"),
    of_job("form.liner_mm", "Liner or release film", "between face and wood; 0 for wax or tape"),
    of_job("form.start_hold", "Start of the bend held by", choices=START_HOLDS),
    of_job("form.start_end", "Bend begins at the", choices=ENDS, look="pills"),
    of_job("form.matched_cauls", "Cauls shaped to the curve", choices=MATCHED_CAULS),
    of_job("form.end_radius_mm", "Round its ends", "radius where the face ends; 0 for none"),
    of_job("form.clamp_holes", "Holes for clamps", choices=CLAMP_HOLES),
    of_job("form.drum_stand", "Axle, stand and handle", "to turn the round form while the wood goes on"),
    of_job("form.depth_mm", "Depth of the body", "from the face to its back; clamps seat there"),
)


def _fields(job: Job, shop: Shop) -> tuple[Field, ...]:
    sheets = ((PLAIN_SKIN, "plain thin plywood"), *((s.key, s.name) for s in sheet_table(shop.sheets).values()))
    own = tuple(replace(f, choices=sheets) if f.name == "form.skin_of" else f for f in FIELDS)
    return (*own, *(split_field(i) for i in range(len(job.form.splits_mm))))


def split_field(i: int) -> Field:
    """The input of one split of the far half."""
    return Field(f"form.splits_mm.{i}", f"Split {i + 1}", "length", "from the middle, − to the left")


def _items(look: StageContext) -> list[Item]:
    if look.drawn is None:
        return []
    w, drawn, plan = look.words, look.drawn, look.plan
    made: list[Item] = [] if drawn.form.kind == "in_place" else [_face(drawn, w)]
    return [*made, _to_build(drawn, plan.build if plan else None, w), *_closing(drawn.form, w)]


def _notes(look: StageContext) -> list[Item]:
    if look.drawn is None:
        return []
    message = "Cut to the line; no cutter offset included. Wax, film or tape everywhere glue can reach."
    return [Note(message), FoldedSentences("To have at hand", look.drawn.form.needs, look="needs")]


def _views(look: StageContext) -> list[BoardView]:
    """The form with the piece on it; its parts and the sheets they are cut from; its table of offsets."""
    plan, w = look.plan, look.words
    in_place = look.drawn is not None and look.drawn.form.kind == "in_place"
    made = [BoardView("board", "The bend" if in_place else "The form")]
    if plan is None:
        return made
    if in_place and plan.laid_up:
        steps = steps_shown(plan.laid_up)
        slider = Slider("Put the strips on", len(steps), len(steps) - 1)
        drawn = Markup(in_place_svg(plan, plan.laid_up, look.unit))
        made.insert(0, BoardView("place", "Against the part", drawn, slider=slider))
    parts: list[Item] = [*_in_place(plan, w), *_posts(plan.form, w)]
    if plan.build.parts:
        parts.append(TemplatePart("parts/form_parts.html"))
    parts += [Drawing(Markup(svg)) for svg in nest_svgs(plan, look.unit)]
    if parts:
        made.append(BoardView("parts", "Strip by strip" if in_place else "Its parts", Markup(""), tuple(parts)))
    if plan.form_work.operations:
        made.append(BoardView("making", "Making it", Markup(""), (TemplatePart("parts/making_form.html"),)))
    made.append(BoardView("offsets", "Offsets", Markup(""), (TemplatePart("parts/offsets.html"),)))
    return made


def _folds(look: StageContext) -> list[Fold]:
    f, w = look.job.form, look.words
    message = f"{w.length(f.depth_mm)} deep, " + (f"liner {w.length(f.liner_mm)}" if f.liner_mm else "no liner")
    return [*_hold_downs(look), Fold("body", "Body and liner", message, ("form.depth_mm", "form.liner_mm"))]


def _hold_downs(look: StageContext) -> list[Fold]:
    """What holds the bend down: only what the kind of form and the method leave open."""
    if look.drawn is None:
        return []
    form, choice = look.drawn.form, look.job.form
    if form.kind == "ring":
        return [Fold("drum", "Stand", "axle and handle" if choice.drum_stand else "fixed", ("form.drum_stand",))]
    site = form.site
    if form.kind != "one_sided" or site.press not in ("clamps", "held"):
        return []
    names = ["form.matched_cauls", "form.clamp_holes", "form.end_radius_mm"]
    said = dict(START_HOLDS)[choice.start_hold] if site.wrapped_hot else ""
    if site.wrapped_hot:
        names = ["form.start_hold", *(["form.start_end"] if choice.start_hold != "clamps" else []), *names]
    cauls = "" if choice.matched_cauls == "none" else "cauls"
    message = ", ".join(part for part in (said, cauls) if part) or "clamps only"
    return [Fold("holds", "Hold-downs", message, tuple(names))]


def _face(drawn: Sketch, w: Formatter) -> FigureGroup:
    face, grade, opens = drawn.face_figures, drawn.form_grade, drawn.bend.opens
    radius = "radius (trammel)" if drawn.is_one_arc else "tightest radius"
    rows = [
        FigureRow(radius, w.length(face.least_radius_mm), grade),
        FigureRow("form arc with the extra length", w.angle(face.sweep_deg), grade),
        FigureRow("chord, rise", f"{w.length(face.chord_mm)}, {w.length(face.rise_mm)}", grade),
        FigureRow("form thickness, at least", w.length(drawn.site.stack_mm), "allowance"),
    ]
    if isinstance(opens, Springback):
        to_size = opens.to_size_tip_mm
        rows.append(w.row("without overbend the ends spring back", to_size, w.as_sure(to_size.value, opens.tip_mm)))
    return FigureGroup("Form face (springback included)", tuple(rows))


def _closing(form: FormSketch, w: Formatter) -> list[Item]:
    if form.closing is None:
        return []
    rows = [
        (
            x.name,
            w.angle(x.direction_deg),
            w.percent(x.least_share),
            w.angle(x.best_direction_deg),
            w.length(x.pinched_mm),
        )
        for x in form.closing.pressers
    ]
    head = ("part", "closing direction", "least pressed", "best direction", f"at {w.length(STILL_OPEN_MM)} open")
    return [grid("Closing", head, rows)]


def _making(plan: Plan) -> dict[str, Any]:
    """How the form is made, step by step with its times, and what to buy for it."""
    work = plan.form_work
    waits = work.lasts_s - work.attended_s
    alone = f", and {lasting(waits)} for glue and sealer" if waits else ""
    steps = [
        {
            "name": o.name,
            "time": f"about {roughly(o.attended_s.likely)}"
            + (f", then {lasting(o.unattended_s.likely)} unattended" if o.unattended_s.likely else ""),
            "what": " ".join(o.steps),
            "cautions": " ".join(o.cautions),
        }
        for o in work.operations
    ]
    return {
        "message": f"About {roughly(work.attended_s)} hands-on{alone}. The schedule has it before the first bend until "
        "the form is marked as built.",
        "grade": work.operations[0].attended_s.grade if work.operations else "allowance",
        "steps": steps,
        "materials": work.materials,
    }


def _in_place(drawn: Sketch, w: Formatter) -> list[Item]:
    if drawn.form.kind != "in_place" or drawn.laid_up is None:
        return []
    rows = [
        (str(x.number), w.length(x.cut_length_mm), w.force(x.pull_n), str(drawn.form.clamps or "none"))
        for x in drawn.laid_up.laminae
    ]
    message = (
        "Glue a strip, fix it from the middle outward, then the next at once; all cure together. The finished part "
        "is the form: it must not flex."
    )
    head = ("strip", "cut to", "pull at each end", "clamps")
    return [grid("Strip by strip, against the part", head, rows), Note(message, "hint")]


def _posts(form: FormSketch, w: Formatter) -> list[Item]:
    if not form.posts:
        return []
    rows = [(str(x.number), w.length(x.x_mm), w.length(x.y_mm), w.angle(x.angle_deg)) for x in form.posts]
    return [grid("Brackets on the table", ("bracket", "from the middle", "above the base line", "turned"), rows)]


def _to_build(drawn: Sketch, build: FormBuild | None, w: Formatter) -> FigureGroup:
    form, rows = drawn.form, list[FigureRow]()
    if build and build.nest:
        sheets = f"{build.nest.sheets}, {w.percent(build.nest.used_share)} used"
        size = w.sold(build.nest.sheet_long_mm, build.nest.sheet_short_mm)
        rows.append(FigureRow(f"sheets of {size}", sheets, "physics"))
    if build and build.mass_kg:
        rows.append(FigureRow("weight", w.weight(build.mass_kg), "allowance"))
    if form.rib_spacing_mm:
        rows.append(FigureRow("ribs apart", w.length(form.rib_spacing_mm), "allowance"))
    if form.deflection:
        rows.append(FigureRow("flex under clamping", w.length(form.deflection.value_mm, 2), "allowance"))
    if build and build.bolts:
        bolts = f"{build.bolts}, {w.length(build.bolt_length_mm)} long"
        rows.append(FigureRow(f"bolts, {BOLT[w.unit]}", bolts, "allowance"))
    start = form.start_hold
    if start and start.kind != "clamps":
        name = f"pull on the {start.kind} at the {start.end} end"
        rows.append(FigureRow(name, f"{w.force(start.force_n)}; it holds {w.force(start.holds_n)}", "allowance"))
        rows.append(FigureRow("slot for the strip", f"{w.length(start.slot_mm)} high", "allowance"))
    if form.stand:
        rows.append(FigureRow("axle above the base", w.length(form.stand.axle_mm), "allowance"))
        turns = f"{w.length(form.stand.handle_mm)} long, {w.force(form.stand.hand_n)} turns it"
        rows.append(FigureRow("handle", turns, "allowance"))
    if form.clamps:
        clamps = f"{form.clamps}, one every {w.length(form.clamp_pitch_mm)}"
        rows.append(FigureRow("clamps, about", clamps, "allowance"))
        rows.append(FigureRow("clamp opening needed", w.length(form.clamp_opening_mm), "physics"))
    return FigureGroup("To build it", tuple(rows))


def _part_lines(plan: Plan, w: Formatter) -> list[dict[str, Any]]:
    return [
        {
            "number": x.number,
            "name": x.name,
            "note": x.note,
            "count": f"{x.count} in {x.segments}" if x.segments > 1 else str(x.count),
            "size": f"{w.bare(x.width_mm)} × {w.bare(x.height_mm)}",
            "thick": w.bare(x.thickness_mm),
        }
        for x in plan.build.parts
    ]


def _has_half(job: Job, plan: Plan) -> bool:
    """Whether the sheets can be printed as a half to turn over."""
    return plan.bend.is_its_own_mirror and len(set(plan.bend.trims_mm)) == 1 and not job.form.splits_mm


def _has_solids(plan: Plan) -> bool:
    """Whether the form is small enough to be printed or milled whole."""
    carrying = [p for p in plan.build.parts if p.end_mm > 0]
    return bool(carrying) and max(max(p.width_mm, p.height_mm) for p in carrying) <= LARGEST_MM


def _extra(look: StageContext) -> dict[str, Any]:
    w, plan, drawn = look.words, look.plan, look.drawn
    kind = "ring" if look.job.shape.is_closed else look.job.form.kind
    return {
        "has_form_to_build": kind != "in_place",
        "kind": FORM_KINDS[kind],
        "has_half": plan is not None and _has_half(look.job, plan),
        "has_solids": plan is not None and _has_solids(plan),
        "school_text": SCHOOLS[look.job.form.school].message,
        "shape": drawn.form if drawn else None,
        "making": _making(plan) if plan else None,
        "parts": _part_lines(plan, w) if plan else [],
        "radius": w.length(drawn.face_figures.least_radius_mm) if drawn else "",
        "offsets": [(w.length(o.station_mm), w.length(o.height_mm)) for o in plan.offsets] if plan else [],
    }


def _answer(look: StageContext) -> str:
    """The radius of the form, the finished radius, and the overbend."""
    drawn, w = look.drawn, look.words
    if drawn is None:
        return ""
    if drawn.form.kind == "in_place":
        return "The finished part is the form: glue, fix, next strip."
    name = "Form R" if drawn.is_one_arc else "Form, tightest R"
    message = (
        f"{name} {w.length(drawn.face_figures.least_radius_mm or 0.0)}, finished {w.length(drawn.finished_radius_mm)}"
    )
    further = drawn.overbend_mm
    return (
        f"{message}; ends {w.estimate(further)} further in."
        if further.likely >= LEAST_SHOWN_MM
        else f"{message}; no overbend."
    )


def _figures(look: StageContext) -> list[Quantity]:
    drawn, w = look.drawn, look.words
    if drawn is None:
        return []
    if drawn.form.kind == "in_place":
        return [to_cut(drawn, w), *glue_of(drawn, w)]
    stack = Quantity("Form thickness", w.length(drawn.site.stack_mm), "allowance", "at least")
    return [face_of(drawn, w), overbend_of(drawn, w), springback_of(drawn, w), stack]


PAGE = StagePage(
    fields=_fields,
    items=_items,
    notes=_notes,
    folds=_folds,
    extra=_extra,
    views=_views,
    foot="parts/built.html",
    pulls="form/pull",
    answer=_answer,
    figures=_figures,
)
