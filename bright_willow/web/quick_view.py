"""The quick answer in words: a question read from an address, its fields, and six lines of answer."""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any
from urllib.parse import parse_qsl, urlencode

from markupsafe import Markup

from ..calendar.time_format import format_day, format_time
from ..core.common.errors import PlanError
from ..core.common.findings import Level
from ..core.common.units import Unit
from ..core.heat.steam_plan import SteamHeat
from ..core.job.faults import JobFaulty
from ..core.job.job import Job
from ..core.job.new_job import starting_job
from ..core.learning.belief import LearnedFigures
from ..core.plan.compare import SuggestedMethod
from ..core.plan.quick import How, QuickAnswer, quick_answer
from ..core.plan.read_job import read_job
from ..core.plan.result import Plan
from ..core.shape.kinds.shape_base import ShapeBase
from ..core.shape.shape_registry import SHAPES, restated
from ..core.shop.shop import Shop
from ..core.workpiece.workpiece import HotBlank
from ..drawing.board import SIZE_PX, board_svg
from ..drawing.refused import refused_svg
from ..drawing.svg import polyline
from .formatting import Formatter
from .forms.fields import Field, of_job, wood_choices
from .forms.form_spec import FieldView
from .forms.typed import by_field, read_fields, shown_in
from .stages import PAGES
from .stages.base import StageContext
from .stages.shape import own_fields
from .summary_figures import LEAST_SHOWN_MM

HALF_HOUR = dt.timedelta(minutes=30)
TONIGHT = dt.time(19)  # when a maker with one evening begins
TABS = {"arc": "arc", "hook": "hook", "u": "U", "s": "S", "hoop": "hoop", "ring": "ring"}
ARCS = {
    "arc_by_chord": "chord and rise",
    "arc_by_radius": "radius and angle",
    "arc_by_length": "radius and length",
}
HOW_SAID: dict[How, str] = {
    "glued": "glued strips",
    "steamed": "steamed",
    "iron": "hot iron",
    "unsure": "not sure",
}
FACES = {"inner": "inside", "mid": "center", "outer": "outside"}
FACE = Field("shape.face", "Size measured on", "choice", choices=tuple(FACES.items()), look="pills")
PART = (of_job("part.thickness_mm", "Thickness"), of_job("part.width_mm", "Width"))
COUNT = of_job("part.count", "How many pieces")


@dataclass(frozen=True)
class QuickQuestion:
    """What was asked. tab: which kind of shape; typed: what stands in the fields; faults: beside them.

    job: none where something is wrong with what was typed. query: the whole question as an address.
    """

    tab: str
    kind: str
    how: How
    typed: Mapping[str, str]
    faults: Mapping[str, str]
    fields: tuple[Field, ...]
    job: Job | None
    query: str

    @property
    def inputs(self) -> dict[str, FieldView]:
        """The fields with what stands in them."""
        return {f.name: FieldView(f, self.typed.get(f.name, ""), self.faults.get(f.name, "")) for f in self.fields}

    @property
    def arc_input(self) -> FieldView:
        """The input of how the size of an arc is given."""
        return FieldView(Field("arc", "Size by", "choice", choices=tuple(ARCS.items())), self.kind, prefix="quick")

    @property
    def how_input(self) -> FieldView:
        """The input of how it is to be bent."""
        return FieldView(Field("how", "How", "choice", choices=tuple(HOW_SAID.items()), look="pills"), self.how)

    @property
    def sizes(self) -> list[FieldView]:
        """The fields of the size alone."""
        own = {f.name for f in own_fields(self.kind)}
        return [i for name, i in self.inputs.items() if name in own]


def question_of(asked: Mapping[str, str], shop: Shop) -> QuickQuestion:
    """Read a question. What is not asked starts from round figures; lengths are read in the unit the address names."""
    unit: Unit = asked.get("unit", "") if asked.get("unit") in ("mm", "in") else shop.units  # type: ignore[assignment]
    tab = asked.get("shape", "arc") if asked.get("shape") in TABS else "arc"
    arc = asked.get("arc", "") if asked.get("arc") in ARCS else "arc_by_chord"
    kind = arc if tab == "arc" else tab
    how: How = asked.get("how", "") if asked.get("how") in HOW_SAID else "glued"  # type: ignore[assignment]
    start = starting_job(unit)
    data = start.model_dump() | {"shape": restated(start.shape, kind, unit)}
    before = read_job(data, unit, shop.woods)
    wood = replace(of_job("stock.species", "Wood"), kind="choice", choices=wood_choices(shop.woods))
    fields = (*((FACE,) if not before.shape.is_closed else ()), *own_fields(kind), *PART, wood, COUNT)
    faults: dict[str, str] = {}
    job: Job | None = None
    try:
        job = read_fields(before, fields, {k: v[:60] for k, v in asked.items()}, unit, shop.woods)
        job = job.model_copy(update={"name": _name(job, tab, shop)})
    except JobFaulty as error:
        faults = by_field(error.faults)
    shown = job or before
    typed = {f.name: shown_in(f, shown.model_dump(), shop.units) for f in fields}
    if faults:
        typed |= {f.name: asked[f.name] for f in fields if f.name in asked}
    return QuickQuestion(tab, kind, how, typed, faults, fields, job, _query(tab, kind, how, shop, typed))


def _query(tab: str, kind: str, how: str, shop: Shop, typed: Mapping[str, str]) -> str:
    arc = {"arc": kind} if tab == "arc" else {}
    return urlencode({"shape": tab, **arc, "how": how, "unit": shop.units, **typed})


def query_of(job: Job, how: str, shop: Shop) -> str:
    """Return the address of the quick answer that asks for a job's shape, section and wood. Valid: a shape of TABS."""
    kind = job.shape.kind
    tab = "arc" if kind in ARCS else kind
    wood = of_job("stock.species", "Wood")
    fields = (*((FACE,) if not job.shape.is_closed else ()), *own_fields(kind), *PART, wood, COUNT)
    data = job.model_dump()
    return _query(tab, kind, how, shop, {f.name: shown_in(f, data, shop.units) for f in fields})


def _name(job: Job, tab: str, shop: Shop) -> str:
    w = Formatter(shop.rule)
    return f"{TABS[tab][:1].upper()}{TABS[tab][1:]}, {w.size(job.part.thickness_mm, job.part.width_mm)}"


@dataclass(frozen=True)
class AnswerLine:
    """One of the six lines: what it answers, the answer, and what goes with it."""

    about: str
    message: str
    more: str = ""
    level: Level = "fit"


@dataclass(frozen=True)
class QuickView:
    """What the page shows of an answer. fault: why there is none; methods: name and why of each that was compared."""

    lines: tuple[AnswerLine, ...]
    board: Markup
    methods: tuple[tuple[str, str], ...] = ()
    fault: str = ""


def answered(question: QuickQuestion, shop: Shop, learnt: LearnedFigures) -> QuickAnswer | PlanError | None:
    """Return the answer to a question, why there can be none, or None where the question itself is at fault."""
    if question.job is None:
        return None
    try:
        return quick_answer(question.job, question.how, shop, learnt)
    except PlanError as error:
        return error


def quick_view(
    question: QuickQuestion,
    answer: QuickAnswer | PlanError | None,
    shop: Shop,
    learnt: LearnedFigures,
    now: dt.datetime,
    size_px: tuple[float, float] = SIZE_PX,
) -> QuickView:
    """Put an answer into words. now: with the shop's zone; size_px: of its drawing."""
    if answer is None or question.job is None:
        return QuickView((), Markup(""), fault="Correct the marked field; nothing is lost.")
    if isinstance(answer, PlanError):
        board = Markup(refused_svg(question.job, answer, shop.rule))
        return QuickView((), board, fault=answer.message(shop.units))
    made = answer.plan
    look = StageContext(made.job, shop, learnt, made, None)
    w = look.words
    lines = (
        AnswerLine("Make", make_line(look), " ".join(x for x in (_pieces(made), _other(answer, w)) if x)),
        AnswerLine("Form", *_form(look)),
        AnswerLine("Overbend", *_overbend(made, w)),
        AnswerLine("Get", _to_get(made, w), equipment_line(look)),
        AnswerLine("Time", *_time(answer, now, shop)),
        AnswerLine("Watch out", *_risk(made)),
    )
    board = Markup(board_svg(made.job, made, stage="form", unit=shop.rule, size_px=size_px, segments=False))
    methods = tuple((m.row.name, _why(m)) for m in answer.methods)
    return QuickView(lines, board, methods)


def make_line(look: StageContext) -> str:
    """How many strips or blanks of which size."""
    made = look.plan
    if made and made.laid_up:
        return PAGES["build_up"].answer(look)
    assert made is not None
    q, part, w = made.quantities, look.job.part, look.words
    blanks = q.pieces + q.spares
    size = w.size(part.thickness_mm, part.width_mm, made.bend.blank.length_mm)
    return f"{blanks} blank{'s' if blanks > 1 else ''} of {size}."


def _pieces(made: Plan) -> str:
    """How many pieces that is for, and how many of them are spares."""
    q = made.quantities
    pieces = f"{q.pieces} piece{'s' if q.pieces > 1 else ''}"
    return f"For {pieces} and {q.spares} spare{'s' if q.spares > 1 else ''}." if q.spares else f"For {pieces}."


def _other(answer: QuickAnswer, w: Formatter) -> str:
    if answer.other is None:
        return ""
    other = answer.other
    back = f": springs back {w.about(other.tip_mm)}" if other.tip_mm >= LEAST_SHOWN_MM else ""
    return f"Or {other.laminae} strips of {w.thin(other.thickness_mm)}{back}."


def _form(look: StageContext) -> tuple[str, str]:
    made, w = look.plan, look.words
    if made is None or made.face_figures.least_radius_mm is None:
        return "No form.", ""
    name = "R" if made.is_one_arc else "tightest R"
    return (
        f"Form {name} {w.length(made.face_figures.least_radius_mm)}.",
        f"The finished piece has {w.length(made.finished_radius_mm)} on that face.",
    )


def _overbend(made: Plan, w: Formatter) -> tuple[str, str]:
    further = made.overbend_mm
    if further.likely < LEAST_SHOWN_MM:
        return "None.", "The form has the finished shape."
    likely = w.most_likely(further)
    return f"{w.estimate(further)} further in at each end.", f"{likely[:1].upper()}{likely[1:]}; it is in the form."


def _to_get(made: Plan, w: Formatter) -> str:
    parts = [f"{w.wood(made.quantities.stock.volume_m3)} of wood"]
    if made.laid_up:
        parts.append(f"{w.glue(made.laid_up.glue_g.value)} of glue")
    if made.form.clamps:
        parts.append(f"{made.form.clamps} clamps that open {w.length(made.form.clamp_opening_mm)}")
    return f"{', '.join(parts)}."


def equipment_line(look: StageContext) -> str:
    """Steam, box, water and strap, where there are any."""
    hot = look.plan.hot if look.plan else None
    heat = hot.heat if isinstance(hot, HotBlank) else None
    if not isinstance(heat, SteamHeat):
        return ""
    w, box = look.words, heat.chamber
    message = f"Steam {w.minutes(heat.steam.time.planned_min)} in a box of {w.litres(box.litres)}, "
    message += f"{w.litres(box.water_l)} of water"
    if heat.strap:
        message += f"; strap {w.length(heat.strap.length_mm)} between its stops"
    return f"{message}."


def _time(answer: QuickAnswer, now: dt.datetime, shop: Shop) -> tuple[str, str]:
    begin = dt.datetime.combine(now.date(), TONIGHT, now.tzinfo)
    off = begin + dt.timedelta(seconds=answer.off_form_s)
    off += (dt.datetime.min - off.replace(tzinfo=None)) % HALF_HOUR
    hours = max(0.5, round(2 * answer.plan.elapsed.attended_h) / 2)
    worked = f"{hours:g}" if hours < 10 else f"{hours:.0f}"
    day = format_day(off.date(), shop.units, weekday="%A")
    return (
        f"About {worked} hour{'' if worked == '1' else 's'} of work.",
        f"Begun tonight at {format_time(begin, shop.units)}, the first piece is off by {day}, "
        f"{format_time(off, shop.units)}.",
    )


def _risk(made: Plan) -> tuple[str, str, Level]:
    """The gravest check; where there is none, what a bend of this kind most often goes wrong by."""
    if made.findings:
        first = made.findings[0]
        return first.message, first.reason, first.level
    return (
        "No open checks.",
        "Springback varies from board to board: measure the first piece before you make more.",
        "fit",
    )


def _why(method: SuggestedMethod) -> str:
    """What speaks for a method, what it changes of what was asked, and the gravest that speaks against it."""
    made = method.row.made
    why = ", ".join(method.why)
    sentences = [f"{why[:1].upper()}{why[1:]}." if why else "", made.changes if made else "", method.row.reason]
    return " ".join(s for s in sentences if s)


def tab_icon(kind: str) -> Markup:
    """A kind of shape as a small line, 44 × 28 px."""
    start = starting_job("mm")
    data = restated(start.shape, "arc_by_chord" if kind == "arc" else kind, "mm")
    return shape_icon(SHAPES[data["kind"]].model_validate(data))


def shape_icon(shape: ShapeBase) -> Markup:
    """A shape as a small line, 44 × 28 px."""
    points = shape.face_curve().traced(48)
    low, high = points.min(axis=0), points.max(axis=0)
    scale = min(38 / max(high[0] - low[0], 1e-9), 22 / max(high[1] - low[1], 1e-9))
    middle = (low + high) / 2
    at = [(22 + (x - middle[0]) * scale, (y - middle[1]) * scale - 14) for x, y in points]  # y upwards
    return Markup('<svg class="tab-icon" viewBox="0 0 44 28" aria-hidden="true"><path d="{}"/></svg>').format(
        polyline(at)
    )


def form_values(question: QuickQuestion) -> dict[str, Any]:
    """What the fields of a question need beside it."""
    return {
        "q": question,
        "tabs": [(key, message, tab_icon(key)) for key, message in TABS.items()],
        "query_values": parse_qsl(question.query, keep_blank_values=True),
    }
