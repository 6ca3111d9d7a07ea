"""The quick answer: a curve, a size and a wood, and what the plan says of them with the strips or strap it proposes."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal, get_args

from ..common.errors import PlanError
from ..common.findings import LEVELS, Level, worst
from ..common.operation import Batches
from ..job.job import Job
from ..learning.belief import NOTHING_LEARNT, LearnedFigures
from ..methods.method_registry import WAYS
from ..scheduling.job_tasks import JobTasks, ShopCapacity
from ..scheduling.timetable import BY_NUMBER, timetable
from ..scheduling.working_hours import ALWAYS
from ..shop.shop import Shop
from ..workpiece.strip_options import strip_options
from ..workpiece.workpiece import LayupOption
from .compare import SuggestedMethod, compare_ways, judging, suited, turned_to
from .plan import evaluate, plan
from .result import Plan

How = Literal["glued", "steamed", "iron", "unsure"]
HOWS: tuple[How, ...] = get_args(How)
COMPARED = 2  # methods that stand side by side where none was chosen


@dataclass(frozen=True, eq=False)
class QuickAnswer:
    """What is answered at once.

    plan: of the job as it is proposed; `plan.job` is that job. other: the next best strips; None where nothing is
    glued, or no others are good. methods: the few that suit best, where none was chosen. off_form_s: from the first cut
    until the first piece is off the form (off the iron, dry enough to measure), worked at day and night.
    """

    plan: Plan
    other: LayupOption | None
    methods: tuple[SuggestedMethod, ...]
    off_form_s: float


def quick_answer(job: Job, how: How, shop: Shop, learnt: LearnedFigures = NOTHING_LEARNT) -> QuickAnswer:
    """Return the answer to a question that leaves strips, strap and, with "unsure", the method open.

    job: with the curve, the section, the wood and the count. Raises: PlanError.
    """
    methods: tuple[SuggestedMethod, ...] = ()
    if how == "unsure":
        rows = tuple(replace(r, chosen=False) for r in compare_ways(job, shop, learnt))
        methods = suited(rows)[0][:COMPARED]
        turned = turned_to(job, methods[0].row.key) if methods else job
    else:
        turned = _turned(job, how, shop, learnt)
    made = plan(turned, shop, learnt)
    options = strip_options(made.ladder, thinnest_mm=shop.thinnest_mm)
    best = options.recommended
    if best and not best.chosen:
        strips = turned.build_up.model_copy(update={"laminae": best.laminae, "lamina_mm": best.lamina_mm})
        made = plan(turned.model_copy(update={"build_up": strips}), shop, learnt)
    after = options.rows[options.rows.index(best) + 1 :] if best else ()
    other = next((r for r in after if r.good and best and r.laminae > best.laminae), None)
    return QuickAnswer(made, other, methods, _off_form_s(made, shop))


def _turned(job: Job, how: How, shop: Shop, learnt: LearnedFigures) -> Job:
    """The job by the first method asked for that holds, else by the one that comes nearest. Raises: PlanError."""
    asked = [way for way in WAYS.values() if vars(way).get("asked_as") == how]
    refused: PlanError | None = None
    best: tuple[int, Job] | None = None
    for way in asked:
        try:
            turned = way.turn(job)
            level = LEVELS.index(_level(turned, shop, learnt)) if len(asked) > 1 else 0
        except PlanError as error:
            refused = error
            continue
        if best is None or level < best[0]:
            best = (level, turned)
    if best is None:
        raise refused or PlanError("how", "Choose how it is bent.")
    return best[1]


def _level(job: Job, shop: Shop, learnt: LearnedFigures) -> Level:
    """How grave what speaks against a method is."""
    drawn, _ = evaluate(job, shop, learnt)
    return worst([f.level for f in judging(drawn.findings)])


def _off_form_s(made: Plan, shop: Shop) -> float:
    """Seconds from the first cut until the first piece is off what bent it."""
    work = JobTasks(1, made.job.name, made.operations, Batches(1), {"form": 1, "strap": 1})
    table = timetable([work], ShopCapacity(ALWAYS, max(2, shop.week.people), shop.owned), rule=BY_NUMBER)
    ends = [d.to_s for d in table.doings if {"form", "iron", "strap"} & set(d.operation.frees)]
    return max(ends, default=0.0)
