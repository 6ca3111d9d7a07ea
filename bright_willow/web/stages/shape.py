"""Shape: the curve wanted, the finished piece, how many."""

from __future__ import annotations

from dataclasses import replace
from functools import cache
from typing import Any

from markupsafe import Markup

from ...core.common.errors import PlanError
from ...core.common.units import Unit
from ...core.job.job import Job
from ...core.shape.arc import FACES
from ...core.shape.kinds.outline import Outline
from ...core.shape.kinds.polycurve import Polycurve
from ...core.shape.shape_registry import SHAPES
from ...core.shape.smooth_curve import fitted
from ...core.shop.shop import Shop
from ...drawing.refused import refused_svg
from ..formatting import (
    FigureGroup,
    FigureRow,
    Formatter,
    Item,
    Note,
    grid,
)
from ..forms.fields import Field, of_job, of_shape
from ..summary_figures import Quantity, springback_of, use_of
from .base import Fold, StageContext, StagePage

COMMON = (
    of_job("name", "Name"),
    Field("shape.kind", "Shape", "choice", choices=tuple((key, kind.named) for key, kind in SHAPES.items())),
    Field(
        "shape.face",
        "Measured on",
        "choice",
        "Which face did you measure: inside, center, or outside?",
        tuple(FACES.items()),
        "pills",
    ),
)
PART = (
    of_job("part.thickness_mm", "Thickness", "the dimension that bends"),
    of_job("part.width_mm", "Width", "across the bend"),
    of_job("part.count", "How many"),
    of_job("part.spares", "Spares", "extras in case one fails"),
    of_job(
        "part.copies", "Copies", choices=(("alike", "all the same"), ("pairs", "pairs, left and right")), look="pills"
    ),
)
CUTS = (
    ("square", "square"),
    ("on_line", "along the line through both ends"),
    ("mitred", "mitred"),
    ("long", "leave long, cut to fit"),
)
ENDS = (
    of_job("part.trim_mm", "Extra length, left end", "cut off at the end"),
    of_job("part.right_trim_mm", "Extra length, right end", "blank = same as left"),
    of_job("part.left_cut", "Left end cut", choices=CUTS),
    of_job("part.left_mitre_deg", "Off square, left", "negative: inside face longer"),
    of_job("part.right_cut", "Right end cut", choices=CUTS),
    of_job("part.right_mitre_deg", "Off square, right", "negative: inside face longer"),
)
TAGS = of_job("tags", "Tags", "words to find the job by, with commas between")
NOTES = of_job("notes", "Notes", "printed with the steps", look="lines")
PAIRS = (
    of_job("part.hand", "Showing", choices=(("left", "left"), ("right", "right")), look="pills"),
    of_job("part.mate_tolerance_mm", "Pair tolerance", "in chord or rise"),
)
COUNTED_FROM = (("left", "left end"), ("center", "center"), ("right", "right end"))
PARTS_OF_AN_ELLIPSE = (("half", "half"), ("quarter", "quarter"))
STRETCHES = (("straight", "straight"), ("arc", "arc"), ("easing", "transition"))


@cache
def own_fields(kind: str) -> tuple[Field, ...]:
    """The inputs only this kind of shape has."""
    model, made = SHAPES[kind], []
    for ask in SHAPES[kind].asks:
        one = of_shape(model, ask.field, ask.label, ask.hint)
        if one.kind == "choice":
            one = replace(one, choices=PARTS_OF_AN_ELLIPSE)
        made.append(replace(one, look="pills") if one.kind in ("choice", "yes_no") else one)
    return tuple(made)


def _fields(job: Job, shop: Shop) -> tuple[Field, ...]:
    rows: tuple[Field, ...] = ()
    if isinstance(job.shape, Polycurve):
        rows = tuple(f for i, s in enumerate(job.shape.stretches) for f in stretch_fields(i, s.kind))
    return (
        *COMMON,
        *own_fields(job.shape.kind),
        *rows,
        *(f for i in range(len(job.part.marks)) for f in mark_fields(i)),
        *PART,
        *ENDS,
        *(PAIRS if job.part.copies == "pairs" else ()),
        NOTES,
        TAGS,
    )


def mark_fields(i: int) -> tuple[Field, ...]:
    """The inputs of one of the maker's own marks."""
    at, n = f"part.marks.{i}.", i + 1
    return (
        Field(f"{at}name", f"Name of mark {n}", "text", "name"),
        Field(f"{at}at_mm", f"Place of mark {n}", "length", "distance"),
        Field(f"{at}counted_from", f"Mark {n} is counted from", "choice", choices=COUNTED_FROM),
    )


def stretch_fields(i: int, kind: str) -> tuple[Field, ...]:
    """The inputs of one stretch of a chain."""
    at, n = f"shape.stretches.{i}.", i + 1
    length = Field(f"{at}length_mm", f"Length of segment {n}", "length", "length")
    own = {
        "straight": (length,),
        "arc": (
            Field(f"{at}radius_mm", f"Radius of segment {n}", "length", "radius"),
            Field(f"{at}angle_deg", f"Angle of segment {n}", "angle", "angle"),
        ),
        "easing": (
            length,
            Field(f"{at}from_radius_mm", f"Segment {n} start radius", "length", "from", may_be_empty=True),
            Field(f"{at}to_radius_mm", f"Segment {n} end radius", "length", "to", may_be_empty=True),
        ),
    }[kind]
    return (Field(f"{at}kind", f"Segment {n}", "choice", choices=STRETCHES), *own)


def _items(look: StageContext) -> list[Item]:
    if look.drawn is None:
        return []
    w, g = look.words, look.drawn.geometry
    faces = (("inside", g.inner), ("centerline", g.mid), ("outside", g.outer))
    rows = [
        (name, w.bare(f.least_radius_mm or 0.0), w.bare(f.chord_mm), w.bare(f.rise_mm), w.bare(f.length_mm))
        for name, f in faces
    ]
    unit = "inches" if look.unit == "in" else "mm"
    made: list[Item] = [grid(f"The finished piece, {unit}", ("face", "radius", "chord", "rise", "length"), rows)]
    if message := _fit_text(look.job, w):
        made.append(Note(message, grade="physics"))
    made.append(
        FigureGroup(
            "",
            (
                FigureRow("overall size", w.size2(g.overall_across_mm, g.overall_up_mm), "physics"),
                FigureRow("between the ends, inside", w.length(g.inner.chord_mm), "physics"),
                FigureRow("angle between the ends", w.angle(g.legs_angle_deg), "physics"),
            ),
        )
    )
    return made


def _notes(look: StageContext) -> list[Item]:
    if look.drawn is None:
        return []
    turns = f"Bend angle end to end: {look.words.angle(look.drawn.geometry.mid.sweep_deg)}."
    return [Note(f"{turns} {look.job.shape.drag_text}".strip(), "hint")]


def _fit_text(job: Job, w: Formatter) -> str:
    """How near the smoothed curve runs to the points it was made from."""
    if not isinstance(job.shape, Outline):
        return ""
    try:
        fit = fitted(job.shape.points_mm, job.shape.slack_mm)
    except PlanError:
        return ""
    off, place = w.length(fit.largest_mm, 2), w.length(fit.at_mm)
    low, high = fit.radius_mm
    tight = f"R {w.length(low)} to {w.length(high) if high < 1e6 else 'straight'}"
    return (
        f"{len(job.shape.points_mm)} points, accurate to about {w.length(fit.error_mm, 2)}; the curve is off them by "
        f"at most {off}, {place} from the start. Tightest radius there, likely {tight}."
    )


def _folds(look: StageContext) -> list[Fold]:
    if look.job.shape.is_closed:
        return [_notes_fold(look)]
    part, w = look.job.part, look.words
    left, right = part.trims_mm
    trims = w.length(left) if left == right else f"{w.length(left)} and {w.length(right)}"
    cuts = [dict(CUTS)[c].split(",")[0] for c in (part.left_cut, part.right_cut)]
    cut = cuts[0] if cuts[0] == cuts[1] else f"{cuts[0]} and {cuts[1]}"
    names = ["part.trim_mm", "part.right_trim_mm", "part.left_cut"]
    names += ["part.left_mitre_deg"] if part.left_cut == "mitred" else []
    names += ["part.right_cut"]
    names += ["part.right_mitre_deg"] if part.right_cut == "mitred" else []
    return [Fold("ends", "Ends", f"{trims} extra, {cut}", tuple(names)), _notes_fold(look)]


def _notes_fold(look: StageContext) -> Fold:
    first = look.job.notes.strip().split("\n")[0]
    message = ", ".join(look.job.tags) + (": " if look.job.tags and first else "") + first[:60]
    return Fold("notes", "Notes and tags", message or "none", ("notes", "tags"))


def _extra(look: StageContext) -> dict[str, Any]:
    refused = look.more.get("refused")
    attempt = _attempted(refused.job, look.unit) if refused and refused.job else Markup("")
    return {"own_fields": tuple(f.name for f in own_fields(look.job.shape.kind)), "attempt": attempt}


def _attempted(job: Job, unit: Unit) -> Markup:
    """The drawing of a shape that was asked for and cannot be, with the places that stop it."""
    try:
        job.mid_line()
    except PlanError as error:
        return Markup(refused_svg(job, error, unit))
    return Markup("")


def _answer(look: StageContext) -> str:
    """The size of the part and how long its curve is."""
    if look.drawn is None:
        return ""
    w, part, g = look.words, look.job.part, look.drawn.geometry
    face = {"inner": g.inner, "mid": g.mid, "outer": g.outer}[look.job.shape.face]
    radius = f"R {w.length(face.least_radius_mm or 0.0)} {FACES[look.job.shape.face].split(' ')[0]}"
    bend = f"{round(g.mid.sweep_deg, 1):g}° bend"
    return f"{radius}, {bend}, {w.size(part.thickness_mm, part.width_mm)}; {w.length(face.length_mm)} along the curve."


def _figures(look: StageContext) -> list[Quantity]:
    return [springback_of(look.drawn, look.words), use_of(look.drawn)] if look.drawn else []


def _hints(look: StageContext) -> dict[str, str]:
    """How many spares are proposed for so many pieces."""
    if look.drawn is None:
        return {}
    advised = look.drawn.quantities.spares_advised
    return {"part.spares": f"{advised} proposed" if advised else "none proposed"}


PAGE = StagePage(
    fields=_fields,
    hints=_hints,
    items=_items,
    notes=_notes,
    folds=_folds,
    extra=_extra,
    answer=_answer,
    figures=_figures,
    pulls="pull",
)
