"""Trials: laid out from a question, gone through piece by piece, and what they answer taken over with one press."""

from __future__ import annotations

import json
import secrets
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import Response
from markupsafe import Markup

from ...core.book.trial import DESIGNS, QUESTIONS, graded, laid_out, with_one_more
from ...core.experience.trials import GRADES
from ...core.ground.errors import OutOfRange
from ...core.ground.units import Unit, format_length, parse_count, parse_length_mm
from ...core.plan.plan import checked_plan
from ...core.plan.result import Plan
from ...drawing.trial_chart import trial_svg
from ..common import Id, go_to, page, planned, store_of, typed_in

router = APIRouter(include_in_schema=False)
MOST_SETTINGS = 12


@router.get("/jobs/{job_id}/trials")
async def trials(request: Request, job_id: Id) -> Response:
    return await planned(request, _trials, request, job_id, 200, {}, {})


def _trials(request: Request, job_id: int, status: int, typed: dict[str, str], faults: dict[str, str]) -> Response:
    store = store_of(request)
    with store.connected():
        state, shop, kept = store.job(job_id), store.shop(), store.trials(job_id)
        made = checked_plan(state.job, shop, store.learnt())
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
        says=made.says(shop.units) if isinstance(made, OutOfRange) else "",
    )


@router.post("/jobs/{job_id}/trials")
async def add_trial(request: Request, job_id: Id) -> Response:
    return await planned(request, _add_trial, request, job_id, await typed_in(request))


def _add_trial(request: Request, job_id: int, typed: dict[str, str]) -> Response:
    store, faults = store_of(request), dict[str, str]()
    with store.connected():
        state, shop = store.job(job_id), store.shop()
        made = checked_plan(state.job, shop, store.learnt())
        if isinstance(made, OutOfRange):
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
                faults["settings"] = "Settings above 0, with commas between: 10, 15, 20."
        except OutOfRange as error:
            faults["settings"] = error.says(shop.units)
        repeats = 1
        try:
            repeats = parse_count(typed.get("repeats", "1"), "repeats", "how often each")
            if not 1 <= repeats <= 20:
                faults["repeats"] = "From 1 to 20 pieces of each, please."
        except OutOfRange as error:
            faults["repeats"] = error.says(shop.units)
        name = typed.get("name", "").strip()[:80]
        if not faults:
            try:
                title = name or (asked.name if asked else "Trial")
                seed = secrets.randbelow(100_000)
                trial = laid_out(
                    made,
                    name=title,
                    asks=typed.get("asks", ""),
                    settings=tuple(settings),
                    repeats=repeats,
                    seed=seed,
                    design=typed.get("design", "grid"),
                )
                return go_to(f"/trials/{store.add_trial(job_id, trial)}")
            except OutOfRange as error:
                faults[error.field] = error.says(shop.units)
    return _trials(request, job_id, 422, typed, faults)


@router.get("/trials/{trial_id}")
async def trial(request: Request, trial_id: Id) -> Response:
    return await planned(request, _trial, request, trial_id, 200, {}, {})


def _trial(request: Request, trial_id: int, status: int, typed: dict[str, str], faults: dict[str, str]) -> Response:
    store = store_of(request)
    with store.connected():
        kept, shop = store.trial(trial_id), store.shop()
        state = store.job(kept.job_id)
        own_wood = kept.trial.own_wood(shop.woods)
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
        one_more=own.one_more(),
        loading=own.loading(),
        change=change if not taken else None,
        sets=json.dumps(change.sets) if change else "",
        own_limit=_limit(own_wood, own.has_strap),
        springback=[_bare(p.springback_mm, shop.units) for p in own.pieces],
        typed=typed,
        faults=faults,
    )


def _bare(mm: float | None, unit: Unit) -> str:
    return "" if mm is None else format_length(mm, unit, with_unit=False)


def _limit(wood: Any, has_strap: bool) -> str:
    if wood is None:
        return ""
    return f"{wood.rt_strap if has_strap else wood.rt_free:g}"


@router.post("/trials/{trial_id}/piece/{number}")
async def grade(request: Request, trial_id: Id, number: Id) -> Response:
    """What came of a piece."""
    return await planned(request, _grade, request, trial_id, number, await typed_in(request))


def _grade(request: Request, trial_id: int, number: int, typed: dict[str, str]) -> Response:
    store, faults = store_of(request), dict[str, str]()
    with store.connected():
        kept, shop = store.trial(trial_id), store.shop()
        text, sprung = typed.get("springback", "").strip(), None
        how = typed.get("grade", "")
        if how and not (how.isascii() and how.isdecimal() and len(how) == 1):
            faults["grade"] = "Choose how it came out."
        try:
            sprung = parse_length_mm(text, shop.units, "springback") if text else None
            if sprung is not None and abs(sprung) > 10_000:
                faults["springback"] = "Less than 10 m, please."
            if not faults:
                note = typed.get("note", "").strip()[:500]
                made = graded(kept.trial, number, grade=int(how) if how else None, springback_mm=sprung, note=note)
                store.save_trial(trial_id, made)
                return go_to(f"/trials/{trial_id}#piece-{number}")
        except OutOfRange as error:
            faults[error.field] = error.says(shop.units)
    return _trial(request, trial_id, 422, typed | {"number": str(number)}, faults)


@router.post("/trials/{trial_id}/more")
async def one_more(request: Request, trial_id: Id) -> Response:
    """One more piece, where it tells most."""
    return await planned(request, _one_more, request, trial_id)


def _one_more(request: Request, trial_id: int) -> Response:
    store = store_of(request)
    with store.connected():
        try:
            made = with_one_more(store.trial(trial_id).trial)
        except OutOfRange:  # pressed twice: the first press added it
            return go_to(f"/trials/{trial_id}")
        store.save_trial(trial_id, made)
    return go_to(f"/trials/{trial_id}#piece-{len(made.pieces)}")


@router.post("/trials/{trial_id}/own-limit")
def own_limit(request: Request, trial_id: Id) -> Response:
    """The limit a trial found becomes the shop's own for that wood."""
    store = store_of(request)
    with store.connected():
        kept, shop = store.trial(trial_id), store.shop()
        wood = kept.trial.own_wood(shop.woods)
        if wood is not None:
            woods = (*(w for w in shop.woods if w.key != wood.key), wood)
            store.save_shop(shop.model_copy(update={"woods": woods}))
    return go_to(f"/trials/{trial_id}")


@router.post("/trials/{trial_id}/remove")
def remove(request: Request, trial_id: Id) -> Response:
    store = store_of(request)
    with store.connected():
        job_id = store.remove_trial(trial_id)
    return go_to(f"/jobs/{job_id}/trials")
