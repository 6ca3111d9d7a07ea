"""Form: what is built, from the face with the springback in it to the parts and their files."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from markupsafe import Markup

from ...core.bend.bend import Springback
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
from ...drawing.in_place_drawing import in_place_svg, steps_shown
from ...drawing.nest_drawing import nest_svgs
from ...drawing.solids import LARGEST_MM
from ..figures import Drawing, FigureRow, Figures, Include, Item, Listed, Note, Words, grid
from ..forms.fields import Choices, Field, of_job
from .base import BoardView, Fold, Look, Slider, StagePage

SIDES: Choices = (("inner", "inside the bend"), ("outer", "outside the bend"))
FIELDS = (
    of_job("form.kind", "Kind of form", choices=tuple((k.key, k.name) for k in FORM_KINDS.values())),
    of_job("form.build", "Built as", choices=tuple((k, name) for k, (name, _) in BUILDS.items())),
    of_job("form.goods", "Out of", choices=tuple((k, name) for k, (name, _, _) in GOODS.items())),
    of_job("form.sheet_mm", "Sheet thickness"),
    of_job("form.skin_mm", "Skin or slats", "how thick"),
    of_job("form.skin_of", "Skin of", choices=((PLAIN_SKIN, "plain thin plywood"),)),
    of_job("form.close_deg", "Closes at", "0 is square to the base line"),
    of_job("form.post_mm", "Posts no further apart than"),
    of_job("form.school", "Springback", choices=tuple((s.key, s.name) for s in SCHOOLS.values())),
    of_job("form.left_deg", "Overbend, left end"),
    of_job("form.right_deg", "Overbend, right end"),
    of_job("form.left_mm", "Left end closer by"),
    of_job("form.right_mm", "Right end closer by"),
    of_job("form.side", "The form stands", choices=SIDES, look="pills"),
    of_job("form.liner_mm", "Liner or release film", "between face and wood; 0 for wax or tape"),
    of_job("form.depth_mm", "Depth of the body", "from the face to its back; clamps seat there"),
)


def _fields(job: Job, shop: Shop) -> tuple[Field, ...]:
    sheets = ((PLAIN_SKIN, "plain thin plywood"), *((s.key, s.name) for s in sheet_table(shop.sheets).values()))
    own = tuple(replace(f, choices=sheets) if f.name == "form.skin_of" else f for f in FIELDS)
    return (*own, *(split_field(i) for i in range(len(job.form.splits_mm))))


def split_field(i: int) -> Field:
    """The input of one split of the far half."""
    return Field(f"form.splits_mm.{i}", f"Split {i + 1}", "length", "from the middle, − to the left")


def _items(look: Look) -> list[Item]:
    if look.drawn is None:
        return []
    w, drawn, plan = look.words, look.drawn, look.plan
    made: list[Item] = [_face(drawn, w), _to_build(drawn, plan.build if plan else None, w)]
    return [*made, *_closing(drawn.form, w)]


def _notes(look: Look) -> list[Item]:
    if look.drawn is None:
        return []
    says = (
        "The line is the finished edge: no cutter or kerf is allowed for. Wax, film or tape everywhere glue can reach."
    )
    return [Note(says), Listed("To have at hand", look.drawn.form.needs, look="needs")]


def _views(look: Look) -> list[BoardView]:
    """The form with the piece on it; its parts and the sheets they are cut from; its table of offsets."""
    plan, w = look.plan, look.words
    in_place = look.drawn is not None and look.drawn.form.kind == "in_place"
    made = [BoardView("board", "The bend" if in_place else "The form")]
    if plan is None:
        return made
    if in_place and plan.laid_up:
        steps = steps_shown(plan.laid_up)
        slider = Slider("Put them on", len(steps), len(steps) - 1)
        drawn = Markup(in_place_svg(plan, plan.laid_up, look.unit))
        made.insert(0, BoardView("place", "Against the part", drawn, slider=slider))
    parts: list[Item] = [*_in_place(plan, w), *_posts(plan.form, w)]
    if plan.build.parts:
        parts.append(Include("parts/form_parts.html"))
    parts += [Drawing(Markup(svg)) for svg in nest_svgs(plan, look.unit)]
    if parts:
        made.append(BoardView("parts", "Lamina by lamina" if in_place else "Its parts", Markup(""), tuple(parts)))
    made.append(BoardView("offsets", "Offsets", Markup(""), (Include("parts/offsets.html"),)))
    return made


def _folds(look: Look) -> list[Fold]:
    f, w = look.job.form, look.words
    says = f"{w.length(f.depth_mm)} deep, " + (f"liner {w.length(f.liner_mm)}" if f.liner_mm else "no liner")
    return [Fold("body", "Body and liner", says, ("form.depth_mm", "form.liner_mm"))]


def _face(drawn: Sketch, w: Words) -> Figures:
    face, grade, opens = drawn.face_figures, drawn.form_grade, drawn.bend.opens
    radius = "radius (trammel)" if drawn.is_one_arc else "tightest radius"
    rows = [
        FigureRow(radius, w.length(face.least_radius_mm), grade),
        FigureRow("sweep", w.angle(face.sweep_deg), grade),
        FigureRow("chord, rise", f"{w.length(face.chord_mm)}, {w.length(face.rise_mm)}", grade),
        FigureRow("stack it at least", w.length(drawn.site.stack_mm), "allowance"),
    ]
    if isinstance(opens, Springback):
        to_size = opens.to_size_tip_mm
        rows.append(w.row("made to size instead, ends open", to_size, w.length(to_size.value)))
    return Figures("The face, springback in it", tuple(rows))


def _closing(form: FormSketch, w: Words) -> list[Item]:
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
    head = ("part", "closes at", "least pressed", "best at", f"{w.length(STILL_OPEN_MM)} open leaves")
    return [grid("Closing", head, rows)]


def _in_place(drawn: Sketch, w: Words) -> list[Item]:
    if drawn.form.kind != "in_place" or drawn.laid_up is None:
        return []
    rows = [
        (str(x.number), w.length(x.cut_length_mm), w.force(x.pull_n), str(drawn.form.clamps or "none"))
        for x in drawn.laid_up.laminae
    ]
    says = (
        "Glue, pin from the middle outward, then the next strip at once; all cure together. "
        "What holds them is the part itself: it must not give."
    )
    head = ("lamina", "cut to", "pull at each end", "clamps")
    return [grid("Lamina by lamina, against the part", head, rows), Note(says, "hint")]


def _posts(form: FormSketch, w: Words) -> list[Item]:
    if not form.posts:
        return []
    rows = [(str(x.number), w.length(x.x_mm), w.length(x.y_mm), w.angle(x.angle_deg)) for x in form.posts]
    return [grid("Posts on the table", ("post", "from the middle", "above the base line", "turned"), rows)]


def _to_build(drawn: Sketch, build: FormBuild | None, w: Words) -> Figures:
    form, rows = drawn.form, list[FigureRow]()
    if build and build.nest:
        sheets = f"{build.nest.sheets}, {w.percent(build.nest.used_share)} used"
        size = w.sold(build.nest.sheet_long_mm, build.nest.sheet_short_mm)
        rows.append(FigureRow(f"sheets of {size}", sheets, "physics"))
    if build and build.mass_kg:
        rows.append(FigureRow("it weighs", f"{w.number(build.mass_kg)} kg", "allowance"))
    if form.rib_spacing_mm:
        rows.append(FigureRow("ribs apart", w.length(form.rib_spacing_mm), "allowance"))
    if form.deflection:
        rows.append(FigureRow("gives under the press", w.length(form.deflection.value_mm, 2), "allowance"))
    if build and build.bolts:
        bolts = f"{build.bolts}, {w.length(build.bolt_length_mm)} long"
        rows.append(FigureRow("bolts of 10 mm", bolts, "allowance"))
    if form.clamps:
        clamps = f"{form.clamps}, one every {w.length(form.clamp_pitch_mm)}"
        rows.append(FigureRow("clamps, about", clamps, "allowance"))
        rows.append(FigureRow("they must open", w.length(form.clamp_opening_mm), "physics"))
    return Figures("To build it", tuple(rows))


def _part_lines(plan: Plan, w: Words) -> list[dict[str, Any]]:
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


def _extra(look: Look) -> dict[str, Any]:
    w, plan, drawn = look.words, look.plan, look.drawn
    kind = "ring" if look.job.shape.is_closed else look.job.form.kind
    return {
        "kind": FORM_KINDS[kind],
        "has_half": plan is not None and _has_half(look.job, plan),
        "has_solids": plan is not None and _has_solids(plan),
        "school_says": SCHOOLS[look.job.form.school].says,
        "shape": drawn.form if drawn else None,
        "parts": _part_lines(plan, w) if plan else [],
        "radius": w.length(drawn.face_figures.least_radius_mm) if drawn else "",
        "offsets": [(w.length(o.station_mm), w.length(o.height_mm)) for o in plan.offsets] if plan else [],
    }


PAGE = StagePage(
    fields=_fields,
    items=_items,
    notes=_notes,
    folds=_folds,
    extra=_extra,
    views=_views,
    foot="parts/built.html",
    pulls="form/pull",
)
