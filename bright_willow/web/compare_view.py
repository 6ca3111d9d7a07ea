"""Two variants of a job side by side: the fields that make the other one, and the rows that compare their answers."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

from markupsafe import Markup

from ..core.common.errors import PlanError
from ..core.common.fineness import days_said
from ..core.job.faults import JobFaulty
from ..core.job.job import Job
from ..core.learning.belief import LearnedFigures
from ..core.methods.method_registry import WAYS, stages_for
from ..core.plan.compare import turned_to
from ..core.plan.plan import checked_plan
from ..core.plan.result import Plan
from ..core.shop.shop import Shop
from ..drawing.board import board_svg
from .forms.fields import Field, of_job, wood_choices
from .forms.form_spec import FieldView
from .forms.typed import by_field, read_fields, shown_in
from .quick_view import equipment_line, make_line
from .stages.base import StageContext
from .summary_figures import (
    Quantity,
    face_of,
    glue_of,
    overbend_of,
    springback_of,
    use_of,
    wood_of,
)

THICKNESS = of_job("part.thickness_mm", "Thickness")
STRIPS = of_job("build_up.laminae", "Strips")
HOURS = of_job("heat.on_form_h", "Hours on the form")
NEEDS = {STRIPS.name: "build_up", HOURS.name: "dry"}  # the stage of a job that has such a figure


@dataclass(frozen=True)
class Variant:
    """The other variant. job: none where something typed is wrong; faults: beside their fields."""

    fields: tuple[FieldView, ...]
    job: Job | None
    faults: Mapping[str, str]


@dataclass(frozen=True)
class CompareRow:
    """One question, and both answers with what goes with each."""

    about: str
    values: tuple[str, str]
    notes: tuple[str, str]

    @property
    def differs(self) -> bool:
        """Whether the two answers are not the same."""
        return self.values[0] != self.values[1]


@dataclass(frozen=True)
class ComparePlan:
    """One of the two: its drawing, and why it cannot be made where it cannot."""

    plan: Plan | None
    board: Markup
    fault: str


def variant_of(job: Job, typed: Mapping[str, str], shop: Shop) -> Variant:
    """Return the job with what was typed for the other variant; the method first, for it changes the rest."""
    way = Field("way", "Method", "choice", choices=tuple((w.key, w.name) for w in WAYS.values()))
    wood = replace(of_job("stock.species", "Wood"), kind="choice", choices=wood_choices(shop.woods))
    fields = (way, THICKNESS, wood, *((STRIPS,) if job.build_up.lay_up == "equal" else ()), HOURS)
    faults: dict[str, str] = {}
    made: Job | None = None
    try:
        turned = turned_to(job, typed["way"]) if typed.get("way", job.way) != job.way else job
        made = read_fields(turned, fields[1:], typed, shop.units, shop.woods)
    except JobFaulty as error:
        faults = by_field(error.faults)
    except PlanError as error:
        faults = {"way": error.message(shop.units)}
    shown = made or job
    data, stages = shown.model_dump(), {row.key for row in stages_for(shown)}
    asked = [f for f in fields if NEEDS.get(f.name, "way") in stages]
    views = tuple(FieldView(f, shown_in(f, data, shop.units), faults.get(f.name, "")) for f in asked)
    if faults:
        views = tuple(replace(v, text=typed.get(v.field.name, v.text)) for v in views)
    return Variant(views, made, faults)


def compared(job: Job, shop: Shop, learnt: LearnedFigures) -> ComparePlan:
    """Return one of the two, planned."""
    made = checked_plan(job, shop, learnt)
    if isinstance(made, PlanError):
        return ComparePlan(None, Markup(""), made.message(shop.units))
    return ComparePlan(made, Markup(board_svg(made.job, made, stage="form", unit=shop.rule, segments=False)), "")


def compare_rows(one: Plan, other: Plan, shop: Shop, learnt: LearnedFigures) -> list[CompareRow]:
    """Return every row both or one of them has an answer for."""
    first, second = _answers(one, shop, learnt), _answers(other, shop, learnt)
    about = list(dict.fromkeys((*first, *second)))
    none = Quantity("", "none", "allowance")
    pairs = [(a, first.get(a, none), second.get(a, none)) for a in about]
    return [CompareRow(a, (x.value, y.value), (x.note, y.note)) for a, x, y in pairs]


def _answers(plan: Plan, shop: Shop, learnt: LearnedFigures) -> dict[str, Quantity]:
    """What one variant answers, by question."""
    look = StageContext(plan.job, shop, learnt, plan, None)
    w, q = look.words, plan.quantities
    rows = [
        Quantity("Method", plan.way.name, "physics"),
        Quantity("Make", make_line(look).rstrip("."), "physics"),
        replace(face_of(plan, w), label="Form"),
        replace(overbend_of(plan, w), label="Overbend, each end"),
        replace(springback_of(plan, w), label="Springback, each end"),
        replace(use_of(plan), label="% of the limit"),
        Quantity("Pieces and spares", f"{q.pieces} and {q.spares}", "allowance"),
        wood_of(plan, w),
        *glue_of(plan, w),
    ]
    if plan.form.clamps:
        opens = f"opening {w.length(plan.form.clamp_opening_mm)}"
        rows.append(Quantity("Clamps", f"{plan.form.clamps}", "allowance", opens))
    if steam := equipment_line(look):
        rows.append(Quantity("Steam", steam.rstrip("."), "allowance"))
    took, checks = plan.elapsed, [f for f in plan.findings if f.level != "fit"]
    rows += [
        Quantity("Work", f"{w.number(took.attended_h)} hours", "allowance"),
        Quantity("Until all are done", days_said(took.done_days), "allowance"),
        Quantity("Most serious check", checks[0].message if checks else "none", "allowance"),
    ]
    return {row.label: row for row in rows}
