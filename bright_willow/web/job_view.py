"""What a job page shows, worked out before a template sees it."""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

from markupsafe import Markup

from ..core.common.errors import PlanError
from ..core.common.findings import Finding, Level, gravest_first, worst
from ..core.common.stages import STAGES, StageRow, stage_shown
from ..core.common.units import Unit
from ..core.job.job import Job
from ..core.learning.belief import LearnedFigures
from ..core.methods.method_registry import stages_for, traits_of
from ..core.plan.plan import checked_plan, checked_sketch
from ..core.plan.result import Sketch
from ..core.shop.shop import Shop
from ..drawing.board import SIZE_PX, Frame, OffTheForm, board_svg
from ..drawing.refused import refused_svg
from ..store.records import JobState, KeptForm
from .formatting import Item
from .forms.form_spec import FieldView
from .forms.typed import shown_in
from .guide_texts import Guide, guide_at
from .stages import PAGES, StageContext, StagePage
from .stages.base import BoardView, Fold
from .stages.measure import measured_pieces
from .summary_figures import Quantity, expected


@dataclass(frozen=True)
class NavStep:
    """A stage on the stem."""

    key: str
    name: str
    number: int
    is_here: bool
    is_settled: bool
    level: Level
    message: str


@dataclass(frozen=True)
class OtherChecks:
    """Open checks of other stages: how many, and the gravest with its stage."""

    count: int
    level: Level
    message: str
    stage: str
    stage_name: str


@dataclass(frozen=True)
class FoldView:
    """A fold with its inputs; open where something in it is wrong."""

    fold: Fold
    inputs: tuple[FieldView, ...]

    @property
    def is_open(self) -> bool:
        return any(i.fault for i in self.inputs)


@dataclass
class JobView:
    """Everything a job page or a part of it needs; `x` is what its stage alone shows."""

    state: JobState
    job: Job
    stage: str
    page: StagePage
    unit: Unit
    shop: Shop
    drawn: Sketch | None
    fault: str
    board: Markup
    views: list[BoardView]
    folds: list[FoldView]
    notes: list[Item]
    stem: list[NavStep]
    numbers: list[Quantity]
    findings: tuple[Finding, ...]
    elsewhere: OtherChecks | None
    answer: str
    inputs: dict[str, FieldView]
    items: list[Item]
    x: dict[str, Any]
    form: KeptForm | None
    form_fits: bool
    today: str
    next_stage: StageRow | None
    passing: bool
    file_text: str
    file_fault: bool
    other_faults: tuple[str, ...]
    lists: dict[str, list[list[FieldView]]]
    seen: int
    typed_unit: Unit
    notice: str
    refused: bool
    guide: Guide | None

    @property
    def q(self) -> str:
        """What every change made on this page says of it: the revision and the unit it showed."""
        return f"seen={self.seen}&in={self.typed_unit}"

    @property
    def rows(self) -> list[list[FieldView]]:
        """The rows of a stage that has one list."""
        return next(iter(self.lists.values()), [])

    @property
    def attempt(self) -> Markup:
        """A shape that was asked for and cannot be, drawn."""
        made: Markup = self.x.get("attempt", Markup(""))
        return made

    @property
    def texts(self) -> dict[str, str]:
        """What stands in each input."""
        return {name: i.text for name, i in self.inputs.items()}


def job_view(
    state: JobState,
    job: Job,
    *,
    stage: str,
    shop: Shop,
    learnt: LearnedFigures,
    forms: list[KeptForm],
    today: dt.date,
    typed: dict[str, str] | None = None,
    faults: dict[str, str] | None = None,
    frame: str = "",
    size_px: tuple[float, float] = SIZE_PX,
    passing: bool = False,
    file_text: str = "",
    file_fault: bool = False,
    seen: int | None = None,
    typed_unit: Unit | None = None,
    mine: dict[str, str] | None = None,
    notice: str = "",
    guided: bool = False,
    **more: Any,
) -> JobView:
    """The view of a job at a stage; `job` may be a preview that is not saved, `passing` soon followed by another.

    more: what this stage alone is given: lots, refused, piece_typed, piece_faults.
    """
    stage = stage_shown(stage, traits_of(job))
    page = PAGES[stage]
    answer = (checked_sketch if passing else checked_plan)(job, shop, learnt)
    drawn = None if isinstance(answer, PlanError) else answer
    form = forms[-1] if forms else None
    off = None
    if form and page.sill:
        lines, measured = measured_pieces(form, job, shop)
        more["pieces"], off = lines, OffTheForm(form.built, measured)
    look = StageContext(job, shop, learnt, drawn, form, more, today.isoformat())
    inputs = _inputs(job, page, shop, typed or {}, faults or {}, mine or {}, page.hints(look))
    said = answer.message(shop.units) if isinstance(answer, PlanError) else ""
    findings = drawn.findings if drawn else ()
    if days := more.get("days"):
        findings = gravest_first([*days.findings.get(state.id, ()), *findings])
    return JobView(
        state=state,
        job=job,
        stage=stage,
        page=page,
        unit=shop.rule,
        shop=shop,
        drawn=drawn,
        fault=said,
        board=_board(job, answer, look, page, stage, off, frame, size_px, segments=not passing),
        views=page.views(look) if drawn else [],
        folds=_folds(page.folds(look), inputs),
        notes=page.notes(look),
        stem=_stem(state, job, stage, findings, answer, form, shop),
        numbers=_numbers(look, page),
        findings=tuple(f for f in findings if f.level != "fit" and f.stage == stage),
        elsewhere=_elsewhere(findings, stage, stages_for(job)),
        answer=page.answer(look),
        inputs=inputs,
        items=page.items(look),
        x=page.extra(look),
        form=form,
        form_fits=bool(form and form.built.matches(job)),
        today=today.isoformat(),
        next_stage=_next(job, stage),
        passing=passing,
        file_text=file_text,
        file_fault=file_fault,
        other_faults=tuple(message for name, message in (faults or {}).items() if name not in inputs),
        lists=_lists(inputs),
        seen=state.revision if seen is None else seen,
        typed_unit=typed_unit or shop.units,
        notice=notice,
        refused=bool(faults) and not mine,
        guide=guide_at(stage, stages_for(job)) if guided else None,
    )


def _board(
    job: Job,
    answer: Sketch | PlanError,
    look: StageContext,
    page: StagePage,
    stage: str,
    off: OffTheForm | None,
    frame: str,
    size_px: tuple[float, float],
    *,
    segments: bool,
) -> Markup:
    if isinstance(answer, PlanError):
        return Markup(refused_svg(job, answer, look.unit))
    if page.board:
        return Markup("")
    seen = Frame.parse(frame)
    how = {"off_form": off, "frame": seen, "size_px": size_px, "segments": segments}
    return Markup(board_svg(job, answer, stage=stage, unit=look.unit, **how))  # type: ignore[arg-type]


def _numbers(look: StageContext, page: StagePage) -> list[Quantity]:
    """The figures of the sill; of a stage that shows pieces, what is to be expected of them."""
    if page.sill:
        return expected(look.form, look.job, look.words) if look.form and look.form.built.can_open else []
    return page.figures(look)


def _elsewhere(findings: tuple[Finding, ...], stage: str, rows: tuple[StageRow, ...]) -> OtherChecks | None:
    """The open checks that belong to other stages."""
    names = {r.key: r.name for r in rows}
    others = [f for f in findings if f.level != "fit" and f.stage != stage]
    if not others:
        return None
    first = others[0]
    return OtherChecks(len(others), first.level, first.message, first.stage, names.get(first.stage, ""))


def _folds(folds: list[Fold], inputs: Mapping[str, FieldView]) -> list[FoldView]:
    return [FoldView(f, tuple(inputs[name] for name in f.fields)) for f in folds]


def _lists(inputs: dict[str, FieldView]) -> dict[str, list[list[FieldView]]]:
    """The inputs of each list, row by row."""
    lists: dict[str, dict[str, list[FieldView]]] = {}
    for name, one in inputs.items():
        parts = name.split(".")
        if len(parts) >= 3 and parts[2].isdecimal():
            lists.setdefault(parts[1], {}).setdefault(parts[2], []).append(one)
    return {name: list(rows.values()) for name, rows in lists.items()}


def _inputs(
    job: Job,
    page: StagePage,
    shop: Shop,
    typed: Mapping[str, str],
    faults: Mapping[str, str],
    mine: Mapping[str, str],
    hints: Mapping[str, str],
) -> dict[str, FieldView]:
    data = job.model_dump()
    made = {}
    for field in page.fields(job, shop):
        field = replace(field, hint=hints.get(field.name, field.hint))
        stands = shown_in(field, data, shop.units)
        text = typed.get(field.name, stands) if faults else stands
        made[field.name] = FieldView(field, text, faults.get(field.name, ""), mine.get(field.name))
    return made


def is_settled(row: StageRow, state: JobState, form: KeptForm | None) -> bool:
    """Whether a stage is done: by hand, by a form that is built, or by pieces that are measured."""
    if row.is_done_by == "form":
        return form is not None or row.key in state.settled
    if row.is_done_by == "pieces":
        return bool(form and form.pieces)
    return row.key in state.settled


def _next(job: Job, stage: str) -> StageRow | None:
    rows = stages_for(job)
    at = [row.key for row in rows].index(stage)
    return rows[at + 1] if at + 1 < len(rows) else None


def _stage_of(field: str, job: Job, shop: Shop) -> str:
    """The stage whose page has a field, else the one its room is named after, else the first."""
    has_it = (r.key for r in stages_for(job) if any(f.name == field for f in PAGES[r.key].fields(job, shop)))
    own = next(has_it, "")
    room = field.split(".")[0]
    return own or (room if room in STAGES else "shape")


def _stem(
    state: JobState,
    job: Job,
    stage: str,
    findings: tuple[Finding, ...],
    answer: Sketch | PlanError,
    form: KeptForm | None,
    shop: Shop,
) -> list[NavStep]:
    refused = isinstance(answer, PlanError)
    fault_stage = _stage_of(answer.field, job, shop) if isinstance(answer, PlanError) else ""
    leaves = []
    words = {"fit": "no open checks", "watch": "a check is open", "stop": "a Stop check is open"}
    for number, row in enumerate(stages_for(job), 1):
        own = [f.level for f in findings if f.stage == row.key]
        level: Level = "stop" if refused and row.key == fault_stage else worst(own)
        settled = is_settled(row, state, form)
        leaves.append(NavStep(row.key, row.name, number, row.key == stage, settled, level, words[level]))
    return leaves
