"""Trials: laid out from a question, gone through piece by piece, and what they answer taken over with one press."""

from __future__ import annotations

import json
import secrets

from fastapi import APIRouter, Request
from fastapi.responses import Response
from markupsafe import Markup
from pydantic import ValidationError

from ...core.common.errors import PlanError
from ...core.common.units import parse_count, parse_length_mm
from ...core.job.faults import JobFaulty
from ...core.plan.plan import checked_plan
from ...core.plan.read_job import read_job
from ...core.plan.result import Plan
from ...core.trials.design import laid_out
from ...core.trials.questions import QUESTIONS
from ...core.trials.threshold import GRADES
from ...core.trials.trial import DESIGNS, STIFFNESSES, graded, with_one_more
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
from ..trial_view import (
    bare_setting,
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


@router.get("/jobs/{job_id}/trials")
async def trials(request: Request, job_id: Id) -> Response:
    return await planned(request, _trials, request, job_id, 200, {}, {})


def _trials(request: Request, job_id: int, status: int, typed: dict[str, str], faults: dict[str, str]) -> Response:
    store = store_of(request)
    with store.connected():
        state, shop, kept = store.jobs.get(job_id), store.shop_settings.get(), store.trials.find(job_id)
        made = checked_plan(state.job, shop, store.training.learned())
    questions, proposes = [], {}
    if isinstance(made, Plan):
        for q in QUESTIONS.values():
            published = q.published(made)
            if published:
                questions.append((q.key, q.name, q.unit_said(shop.units)))
                proposes[q.key] = ", ".join(q.proposed(published, shop.rule))
    return page(
        "trials.html",
        request,
        status,
        state=state,
        unit=shop.rule,
        here="jobs",
        kept=kept,
        questions=questions,
        proposes=proposes,
        designs=DESIGNS.items(),
        typed=typed,
        faults=faults,
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
        repeats = 1
        try:
            repeats = parse_count(typed.get("repeats", "1"), "repeats", "how often each")
            if not 1 <= repeats <= 20:
                faults["repeats"] = "From 1 to 20 pieces of each, please."
        except PlanError as error:
            faults["repeats"] = error.message(shop.units)
        name = typed.get("name", "").strip()[:80]
        if not faults:
            try:
                title = name or (asked.name if asked else "Test bends")
                seed = secrets.randbelow(100_000)
                trial = laid_out(
                    made,
                    name=title,
                    asks=typed.get("asks", ""),
                    settings=tuple(settings),
                    repeats=repeats,
                    seed=seed,
                    design=typed.get("design", "grid"),
                    variants=tuple(v.strip() for v in typed.get("variants", "").split(",") if v.strip()),
                    bends=2 if typed.get("bends") == "2" else 1,
                )
                return go_to(f"/trials/{store.trials.add(job_id, trial)}")
            except PlanError as error:
                faults[error.field] = error.message(shop.units)
    return _trials(request, job_id, 422, typed, faults)


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
        grades=list(enumerate(GRADES)),
        chart=Markup(trial_svg(own, shop.rule)),
        answer=made,
        best=best_text(own),
        listed=own.listed,
        stiffnesses=STIFFNESSES,
        one_more=own.one_more(),
        loading=loading_rows(own),
        change=change if not taken else None,
        sets=json.dumps(change.sets) if change else "",
        own_limit=own_limit_text(own_wood, own.has_strap),
        springback=[bare_setting(p.springback_mm, shop.units) for p in own.pieces],
        later=[bare_setting(p.later_mm, shop.units) for p in own.pieces],
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
        text, sprung = typed.get("springback", "").strip(), None
        how = typed.get("grade", "")
        if how and not (how.isascii() and how.isdecimal() and len(how) == 1):
            faults["grade"] = "Choose how it came out."
        try:
            sprung = parse_length_mm(text, shop.units, "springback") if text else None
            if sprung is not None and abs(sprung) > 10_000:
                faults["springback"] = "Less than 10 m, please."
            text = typed.get("later", "").strip()
            later = parse_length_mm(text, shop.units, "later") if text else None
            if later is not None and abs(later) > 10_000:
                faults["later"] = "Less than 10 m, please."
            if not faults:
                note = typed.get("note", "").strip()[:500]
                made = graded(
                    kept.trial,
                    number,
                    grade=int(how) if how else None,
                    springback_mm=sprung,
                    later_mm=later,
                    note=note,
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
