"""A trial at the bench: the plan's own operations for its blanks, each with its own setting; and what the run says."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace

from ..common.errors import PlanError
from ..common.estimate import Estimate
from ..common.operation import After, AttendedTime, Operation
from ..common.units import Unit
from ..execution.run_plan import RunPlan, brief_of
from ..execution.run_records import PieceRecord
from ..job.job import Job
from ..job.schedule_choice import Days
from ..plan.result import Plan
from ..scheduling.estimate_days import Elapsed, estimate_days
from .trial import Trial, TrialPiece, graded

BROKE = 3  # how a piece is graded that broke at the bench, until somebody looks closer
LOOK_S = 60.0  # to look a test piece over and mark it. Grade: allowance.
HELD = ("set", "cure")  # kinds of operations in which a piece is held on its form


@dataclass(frozen=True, slots=True)
class Blank:
    """So many blanks of a size, mm."""

    count: int
    thickness_mm: float
    width_mm: float
    length_mm: float


def blanks(trial: Trial, plan: Plan) -> tuple[Blank, ...]:
    """What to cut for the pieces not yet graded: as for the job, of one lamina where it is laid up; of a trial of
    thickness each as thick as its setting."""
    laid_up, part = plan.laid_up, plan.job.part
    thick = laid_up.worst.thickness_mm if laid_up is not None else part.thickness_mm
    open_ = {p.blank or -n - 1: p for n, p in enumerate(trial.pieces) if not p.is_done}
    sizes = Counter(p.setting if trial.asks == "thickness" else thick for p in open_.values())
    long = round(trial.bends * plan.bend.blank.length_mm, 1)
    return tuple(Blank(n, size, part.width_mm, long) for size, n in sorted(sizes.items()))


def trial_operations(trial: Trial, plan: Plan) -> tuple[Operation, ...]:
    """What is done with the pieces not yet graded: the plan's operations one piece at a time, each held in the heat or
    on the form as long as its setting says; where it is only asked whether pieces stay whole they come off at once."""
    settings = tuple(trial.pieces[n].setting for n in loaded(trial))
    ops = list(plan.operations)
    if trial.question.asks_whole:
        bent = next((n for n, o in enumerate(ops) if any(t.what == "form" for t in o.takes)), len(ops) - 1)
        look = Operation(
            key="look",
            kind="look",
            name="Take it off, inspect it, mark it",
            scope="batch",
            attended_s=AttendedTime(LOOK_S, LOOK_S, LOOK_S, "allowance"),
            frees=("form", "strap", "clamps"),
            after=(After(ops[bent].key),),
            steps=("Look at the outside face in low side light, then the inside. Note what you see.",),
        )
        ops = [*ops[: bent + 1], look]
    made = []
    for o in ops:
        each: tuple[float, ...] = ()
        if trial.asks == "minutes" and o.warms:
            each = tuple(60 * s for s in settings)
        elif trial.asks == "hours" and o.kind in HELD:
            each = tuple(3600 * s for s in settings)
        alone = Estimate(min(each), max(each), max(each), "allowance") if each else o.unattended_s
        scope = "batch" if o.scope == "piece" else o.scope
        made.append(replace(o, scope=scope, each_s=each, unattended_s=alone))
    return tuple(made)


def loaded(trial: Trial) -> tuple[int, ...]:
    """Places of the pieces not yet graded, in the order they go in: the longest first where that staggers them."""
    open_ = [n for n, p in enumerate(trial.pieces) if not p.is_done]
    in_at = {p.number - 1: p.in_min for p in trial.loading()}
    return tuple(sorted(open_, key=lambda n: (in_at.get(n, 0.0), n)))


def trial_brief(
    trial: Trial, trial_id: int, plan: Plan, *, places: int, people: int, started_s: float, unit: Unit
) -> RunPlan:
    """What a run of a trial starts with. Raises: PlanError where every piece is graded."""
    order = loaded(trial)
    if not order:
        raise PlanError("trial", "Every piece is graded: add one more first.")
    own = brief_of(plan, places=places, people=people, started_s=started_s)
    return replace(
        own,
        name=trial.name,
        operations=trial_operations(trial, plan),
        pieces=len(order),
        at_once=1,
        places=max(places, len(order)) if trial.asks == "minutes" else places,
        trial=trial_id,
        called=tuple(called(trial, n, unit) for n in order),
        numbers=tuple(n + 1 for n in order),
    )


def called(trial: Trial, place: int, unit: Unit) -> str:
    """What a piece is called besides its number: its setting, and its kind where kinds are set against each other."""
    piece = trial.pieces[place]
    setting = trial.question.said(piece.setting, unit)
    return f"{trial.variants[piece.variant]}, {setting}" if trial.variants else setting


def trial_takes(trial: Trial, plan: Plan) -> Elapsed:
    """Days and hours the pieces not yet graded take. Grade: allowance, as the times are. Raises: PlanError."""
    brief = trial_brief(trial, 0, plan, places=1, people=1, started_s=0.0, unit="mm")
    return estimate_days(brief.operations, brief.batches, people=plan.shop.week.people, owned=plan.shop.owned)


def in_the_days(trial: Trial, job: Job) -> Job:
    """A job that stands for a trial in the shop's days: as many pieces as are not yet graded, one at a time, as long in
    the heat or on the form as the longest of them. Raises: PlanError where every piece is graded."""
    order = loaded(trial)
    if not order:
        raise PlanError("trial", "Every piece is graded: add one more first.")
    longest = max(trial.pieces[n].setting for n in order)
    data = job.model_dump()
    data["name"] = f"Test bends: {trial.name}"[:120]
    data["part"] |= {"count": len(order), "spares": 0, "copies": "alike"}
    data["heat"] |= {"at_once": 1}
    if trial.asks == "minutes":
        data["heat"] |= {"school": "own_trials", "own_min": min(1_440.0, max(1.0, longest))}
    elif trial.asks == "hours":
        data["heat"] |= {"on_form_h": min(2_000.0, longest)}
    data["days"] = Days(in_week=True).model_dump()
    return Job.model_validate(data)


def with_run(trial: Trial, brief: RunPlan, records: Sequence[PieceRecord]) -> Trial:
    """A trial with what its run says: minutes a piece really had in the steam in place of those it was to have; one
    that broke is graded so, if it is not graded yet. What was graded by hand stays."""
    made = trial
    for r in records:
        if r.number >= len(brief.numbers) or not 1 <= brief.numbers[r.number] <= len(trial.pieces):
            continue
        number = brief.numbers[r.number]
        piece = made.pieces[number - 1]
        if trial.asks == "minutes" and r.steamed_s is not None and r.steamed_s > 0:
            minutes = max(0.1, round(r.steamed_s / 60, 1))
            if not math.isclose(minutes, piece.setting, rel_tol=0.02):
                rows = list(made.pieces)
                rows[number - 1] = TrialPiece(**piece.model_dump() | {"setting": minutes})
                made = made.model_copy(update={"pieces": tuple(rows)})
        if r.broke and not piece.is_done:
            made = graded(made, number, grade=BROKE, springback_mm=None, note=r.broke)
    return made
