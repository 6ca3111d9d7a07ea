"""Trials: laid out from a question, gone through piece by piece, and what they answer taken over with one press."""

from __future__ import annotations

import json
import secrets
from dataclasses import replace

from fastapi import APIRouter, Request
from fastapi.responses import Response
from markupsafe import Markup
from pydantic import ValidationError

from ...core.common.errors import PlanError
from ...core.common.units import Unit
from ...core.job.faults import JobFaulty
from ...core.plan.plan import checked_plan
from ...core.plan.read_job import read_job
from ...core.plan.result import Plan
from ...core.trials.design import laid_out
from ...core.trials.questions import QUESTIONS
from ...core.trials.threshold import GRADES
from ...core.trials.trial import DESIGNS, STIFFNESSES, Trial, graded, with_one_more
from ...core.trials.trial_run import called, in_the_days, trial_brief, with_run
from ...drawing.trial_chart import trial_svg
from ...services.bench_runs import run_now
from ..common import (
    Id,
    go_to,
    now_of,
    page,
    planned,
    store_of,
    typed_in,
)
from ..forms.fields import Field
from ..forms.form_spec import FieldView, FormSpec
from ..trial_view import (
    best_text,
    blanks_text,
    growth_text,
    loading_rows,
    own_limit_text,
    takes_text,
    versus_text,
)

router = APIRouter(include_in_schema=False)
MOST_SETTINGS = 12
FURTHEST_MM = 10_000.0
TRIAL_FORM = FormSpec(
    (
        Field("asks", "Question", "choice"),
        Field("settings", "Settings", "text"),
        Field("design", "Order", "choice", choices=tuple(DESIGNS.items())),
        Field("variants", "Compare", "text", "two woods or glues with a comma; blank = only this job’s"),
        Field("repeats", "Pieces of each", "count", least=1, most=20, wrong="From 1 to 20 pieces of each, please."),
        Field("bends", "Bends per blank", "choice", choices=(("1", "one"), ("2", "two, one at each end"))),
        Field("name", "Name", "text", longest=80),
    ),
    prefix="t",
)
FAR = {"may_be_empty": True, "least": -FURTHEST_MM, "most": FURTHEST_MM, "wrong": "Less than 10 m, please."}
GRADED = (
    Field(
        "grade", "How it came out", "choice", choices=(("", "not yet"), *((str(n), g) for n, g in enumerate(GRADES)))
    ),
    Field("springback", "Springback at the end", "length", "springback", **FAR),  # type: ignore[arg-type]
    Field("later", "Springback weeks after", "length", "weeks after", **FAR),  # type: ignore[arg-type]
    Field("stiffness", "How hard to bend", "choice", choices=tuple((s, s or "how hard to bend") for s in STIFFNESSES)),
    Field("note", "Note", "text", "note", longest=500),
)


@router.get("/jobs/{job_id}/trials")
async def trials(request: Request, job_id: Id) -> Response:
    return await planned(request, _trials, request, job_id, 200, {}, {})


def _trials(request: Request, job_id: int, status: int, typed: dict[str, str], faults: dict[str, str]) -> Response:
    store = store_of(request)
    with store.connected():
        state, shop, kept = store.jobs.get(job_id), store.shop_settings.get(), store.trials.find(job_id)
        made = checked_plan(state.job, shop, store.training.learned())
    questions, hints = list[tuple[str, str]](), ["With commas; blank = as proposed here."]
    if isinstance(made, Plan):
        for q in QUESTIONS.values():
            published = q.published(made)
            if published:
                questions.append((q.key, q.name))
                hints.append(f"{q.name} In {q.unit_said(shop.units)}: {', '.join(q.proposed(published, shop.rule))}.")
    form = TRIAL_FORM.choosing(asks=tuple(questions)).hinting(settings=" ".join(hints))
    return page(
        "trials.html",
        request,
        status,
        state=state,
        unit=shop.rule,
        here="jobs",
        kept=kept,
        inputs=form.inputs(shop.rule, {"repeats": 2, "bends": "1", "design": "grid"}, typed, faults),
        message=made.message(shop.units) if isinstance(made, PlanError) else "",
    )


@router.post("/jobs/{job_id}/trials")
async def add_trial(request: Request, job_id: Id) -> Response:
    return await planned(request, _add_trial, request, job_id, await typed_in(request))


def _add_trial(request: Request, job_id: int, typed: dict[str, str]) -> Response:
    store, faults = store_of(request), dict[str, str]()
    with store.connected():
        state, shop = store.jobs.get(job_id), store.shop_settings.get()
        made = checked_plan(state.job, shop, store.training.learned())
        if isinstance(made, PlanError):
            return go_to(f"/jobs/{job_id}/trials")
        settings = list[float]()
        asked = QUESTIONS.get(typed.get("asks", ""))
        try:
            parts = [p for p in typed.get("settings", "").replace(";", ",").split(",") if p.strip()]
            if asked and not parts:  # left empty: as proposed
                parts = asked.proposed(asked.published(made) or 0.0, shop.rule)
            settings = [asked.typed(p.strip(), shop.units) for p in parts[: MOST_SETTINGS + 1]] if asked else [1.0]
            if len(settings) > MOST_SETTINGS:
                faults["settings"] = f"At most {MOST_SETTINGS} settings, please."
            elif not settings or not all(0 < s <= 100_000 for s in settings):
                faults["settings"] = "Enter settings above 0 with commas: 10, 15, 20."
        except PlanError as error:
            faults["settings"] = error.message(shop.units)
        form = TRIAL_FORM.only("repeats", "name").read({"repeats": "1", **typed}, shop.units)
        faults |= form.faults
        if not faults:
            try:
                title = form["name"] or (asked.name if asked else "Test bends")
                seed = secrets.randbelow(100_000)
                trial = laid_out(
                    made,
                    name=title,
                    asks=typed.get("asks", ""),
                    settings=tuple(settings),
                    repeats=form["repeats"],
                    seed=seed,
                    design=typed.get("design", "grid"),
                    variants=tuple(v.strip() for v in typed.get("variants", "").split(",") if v.strip()),
                    bends=2 if typed.get("bends") == "2" else 1,
                )
                return go_to(f"/trials/{store.trials.add(job_id, trial)}")
            except PlanError as error:
                faults[error.field] = error.message(shop.units)
    return _trials(request, job_id, 422, typed, faults)


def _graded_inputs(
    trial: Trial, place: int, unit: Unit, typed: dict[str, str], faults: dict[str, str]
) -> list[FieldView]:
    """The inputs of one test piece: only what its question asks."""
    piece, number, is_whole = trial.pieces[place], place + 1, trial.question.asks_whole
    names = ("grade", "springback", *(("stiffness",) if is_whole else ("later",)), "note")
    form = FormSpec(tuple(replace(f, label=f"{f.label}, piece {number}") for f in GRADED), prefix=f"piece-{number}")
    values = {
        "grade": "" if piece.grade is None else str(piece.grade),
        "springback": piece.springback_mm,
        "later": piece.later_mm,
        "stiffness": piece.stiffness,
        "note": piece.note,
    }
    mine = typed.get("number") == str(number)
    return list(form.only(*names).inputs(unit, values, typed if mine else {}, faults if mine else {}).values())


@router.get("/trials/{trial_id}")
async def trial(request: Request, trial_id: Id) -> Response:
    return await planned(request, _trial, request, trial_id, 200, {}, {})


def _trial(request: Request, trial_id: int, status: int, typed: dict[str, str], faults: dict[str, str]) -> Response:
    store = store_of(request)
    with store.connected():
        kept, shop = store.trials.get(trial_id), store.shop_settings.get()
        state = store.jobs.get(kept.job_id)
        own_wood = kept.trial.own_wood(shop.woods)
        runs = store.runs.of_trial(kept)
        plan = checked_plan(state.job, shop, store.training.learned())
        at = now_of(request).timestamp()
        records = [run_now(store, request.app.state.gatherer, r.id, at) for r in runs]
    own, made, change = kept.trial, kept.trial.answer(), kept.trial.change()
    job = state.job.heat
    taken = change is not None and (job.school, job.own_min) == ("own_trials", change.sets["heat.own_min"])
    return page(
        "trial.html",
        request,
        status,
        state=state,
        unit=shop.rule,
        here="jobs",
        kept=kept,
        t=own,
        chart=Markup(trial_svg(own, shop.rule)),
        answer=made,
        best=best_text(own),
        listed=own.listed,
        one_more=own.one_more(),
        loading=loading_rows(own),
        change=change if not taken else None,
        sets=json.dumps(change.sets) if change else "",
        own_limit=own_limit_text(own_wood, own.has_strap),
        graded=[_graded_inputs(own, n, shop.rule, typed, faults) for n in range(len(own.pieces))],
        called=[called(own, n, shop.rule) for n in range(len(own.pieces))],
        cut=blanks_text(own, plan, shop.rule),
        takes=takes_text(own, plan),
        versus=[(versus_text(own, v, shop.rule), v.of_first.grade) for v in own.versus()],
        growth=growth_text(own, shop.units),
        runs=[(r.id, r.ended is None) for r in runs],
        has_more=any(with_run(own, n.brief, n.records) != own for n in records),
        typed=typed,
        faults=faults,
    )


@router.post("/trials/{trial_id}/piece/{number}")
async def grade(request: Request, trial_id: Id, number: Id) -> Response:
    """What came of a piece."""
    return await planned(request, _grade, request, trial_id, number, await typed_in(request))


def _grade(request: Request, trial_id: int, number: int, typed: dict[str, str]) -> Response:
    store, faults = store_of(request), dict[str, str]()
    with store.connected():
        kept, shop = store.trials.get(trial_id), store.shop_settings.get()
        form = FormSpec(GRADED).only("grade", "springback", "later", "note").read(typed, shop.units)
        faults |= form.faults
        try:
            if not faults:
                made = graded(
                    kept.trial,
                    number,
                    grade=int(form["grade"]) if form["grade"] else None,
                    springback_mm=form["springback"],
                    later_mm=form["later"],
                    note=form["note"],
                    stiffness=typed.get("stiffness", ""),
                )
                store.trials.save(trial_id, made)
                return go_to(f"/trials/{trial_id}#piece-{number}")
        except PlanError as error:
            faults[error.field] = error.message(shop.units)
    return _trial(request, trial_id, 422, typed | {"number": str(number)}, faults)


@router.post("/trials/{trial_id}/bench")
async def bench(request: Request, trial_id: Id) -> Response:
    """Run it at the bench: the pieces not yet graded, each with its own setting."""
    return await planned(request, _bench, request, trial_id)


def _bench(request: Request, trial_id: int) -> Response:
    store = store_of(request)
    with store.connected():
        kept, shop = store.trials.get(trial_id), store.shop_settings.get()
        if known := store.runs.open_of_trial(kept):
            return go_to(f"/runs/{known.id}")
        state, week = store.jobs.get(kept.job_id), shop.week
        made = checked_plan(state.job, shop, store.training.learned())
        if isinstance(made, PlanError):
            return _trial(request, trial_id, 422, {}, {"bench": made.message(shop.units)})
        try:
            brief = trial_brief(
                kept.trial,
                trial_id,
                made,
                places=week.places,
                people=week.people,
                started_s=now_of(request).timestamp(),
                unit=shop.rule,
            )
        except PlanError as error:
            return _trial(request, trial_id, 422, {}, {"bench": error.message(shop.units)})
        run_id = store.runs.start(kept.job_id, "trial", state.revision, brief)
    return go_to(f"/runs/{run_id}")


@router.post("/trials/{trial_id}/days")
async def into_days(request: Request, trial_id: Id) -> Response:
    """Lay it into the shop's days: a job stands for it there."""
    return await planned(request, _into_days, request, trial_id)


def _into_days(request: Request, trial_id: int) -> Response:
    store = store_of(request)
    with store.connected():
        kept, shop = store.trials.get(trial_id), store.shop_settings.get()
        known = kept.trial.in_days
        if known and store.jobs.exists(known):
            return go_to(f"/jobs/{known}/days")
        try:
            job = in_the_days(kept.trial, store.jobs.get(kept.job_id).job)
            made = store.jobs.add(
                read_job(job.model_dump(), shop.units, shop.woods), "stands for test bends on the schedule"
            )
        except PlanError as error:
            return _trial(request, trial_id, 422, {}, {"bench": error.message(shop.units)})
        except (JobFaulty, ValidationError) as error:
            return _trial(request, trial_id, 422, {}, {"bench": f"It cannot be put on the schedule: {error}"})
        store.trials.save(trial_id, kept.trial.model_copy(update={"in_days": made}))
    return go_to(f"/jobs/{made}/days")


@router.post("/trials/{trial_id}/from-bench")
async def from_bench(request: Request, trial_id: Id) -> Response:
    """Take over what its runs say: minutes pieces really had, and which broke."""
    return await planned(request, _from_bench, request, trial_id)


def _from_bench(request: Request, trial_id: int) -> Response:
    store, at = store_of(request), now_of(request).timestamp()
    with store.connected():
        kept = store.trials.get(trial_id)
        made = kept.trial
        for run in store.runs.of_trial(kept):
            now = run_now(store, request.app.state.gatherer, run.id, at)
            made = with_run(made, now.brief, now.records)
        store.trials.save(trial_id, made)
    return go_to(f"/trials/{trial_id}")


@router.post("/trials/{trial_id}/more")
async def one_more(request: Request, trial_id: Id) -> Response:
    """One more piece, where it tells most."""
    return await planned(request, _one_more, request, trial_id)


def _one_more(request: Request, trial_id: int) -> Response:
    store = store_of(request)
    with store.connected():
        try:
            made = with_one_more(store.trials.get(trial_id).trial)
        except PlanError:  # pressed twice: the first press added it
            return go_to(f"/trials/{trial_id}")
        store.trials.save(trial_id, made)
    return go_to(f"/trials/{trial_id}#piece-{len(made.pieces)}")


@router.post("/trials/{trial_id}/own-limit")
def own_limit(request: Request, trial_id: Id) -> Response:
    """The limit a trial found becomes the shop's own for that wood."""
    store = store_of(request)
    with store.connected():
        kept, shop = store.trials.get(trial_id), store.shop_settings.get()
        wood = kept.trial.own_wood(shop.woods)
        if wood is not None:
            woods = (*(w for w in shop.woods if w.key != wood.key), wood)
            store.shop_settings.save(shop.model_copy(update={"woods": woods}))
    return go_to(f"/trials/{trial_id}")


@router.post("/trials/{trial_id}/remove")
def remove(request: Request, trial_id: Id) -> Response:
    store = store_of(request)
    with store.connected():
        job_id = store.trials.remove(trial_id)
    return go_to(f"/jobs/{job_id}/trials")
