"""Why did it fail? What is seen is chosen; causes are ranked by this plan and this run, each with its one press."""

from __future__ import annotations

import json
from typing import Annotated

from fastapi import APIRouter, Query, Request
from fastapi.responses import Response
from markupsafe import Markup

from ...core.common.errors import PlanError
from ...core.diagnosis.causes import causes_of, symptoms_of, table
from ...core.execution.run_records import PieceRecord
from ...core.plan.plan import checked_plan
from ...drawing.symptom_drawing import symptom_svg
from ...services.run_results import record_of, run_pieces
from ..common import Id, now_of, page, planned, store_of
from ..forms.fields import Field
from ..forms.form_spec import FieldView

router = APIRouter(include_in_schema=False)
Key = Annotated[str, Query(max_length=40)]
Answers = Annotated[str, Query(max_length=1_500)]


@router.get("/jobs/{job_id}/why")
async def why(
    request: Request, job_id: Id, seen: Key = "", piece: Key = "", yes: Answers = "", no: Answers = ""
) -> Response:
    """yes, no: causes answered, with commas between; piece: which of which run."""
    return await planned(request, _why, request, job_id, seen, piece, yes, no)


def _why(request: Request, job_id: int, seen: str, piece: str, yes: str, no: str) -> Response:
    store, gatherer, at = store_of(request), request.app.state.gatherer, now_of(request).timestamp()
    with store.connected():
        state, shop = store.jobs.get(job_id), store.shop_settings.get()
        made = checked_plan(state.job, shop, store.training.learned())
        pieces = run_pieces(store, gatherer, job_id, at)
        record: PieceRecord | None = record_of(store, gatherer, job_id, piece, at) if piece else None
    runs = tuple((p.name, f"{p.title}: {p.broke}" if p.broke else p.title) for p in pieces)
    of_run = Field("piece", "Which piece of the run", "choice", choices=(("", "not from a run"), *runs))
    shown = {"state": state, "unit": shop.rule, "here": "jobs", "pieces": pieces, "piece": piece, "seen": seen}
    shown["of_run"] = FieldView(of_run, piece, prefix="why")
    if isinstance(made, PlanError):
        return page("why.html", request, **shown, message=made.message(shop.units), symptoms=[], ranked=[], name="")
    causes = table()[1]
    answers = {k: True for k in yes.split(",") if k in causes} | {k: False for k in no.split(",") if k in causes}
    symptoms = [(s.key, s.name, Markup(symptom_svg(s.drawing, s.name))) for s in symptoms_of(made)]
    known = {s.key: s.name for s in symptoms_of(made)}
    ranked = []
    if seen in known:
        for n, r in enumerate(causes_of(seen, made, record, answers), 1):
            speaks = [s for s in r.speaks if s.message]
            ranked.append(
                {
                    "n": n,
                    "key": r.cause.key,
                    "name": r.cause.name,
                    "word": r.word,
                    "share": r.share,
                    "for_": [s.message for s in speaks if s.weight > 0],
                    "against": [s.message for s in speaks if s.weight < 0],
                    "look": r.cause.look,
                    "said": r.cause.said,
                    "answer": r.said,
                    "next": r.cause.next,
                    "sets": json.dumps(r.change.sets) if r.change else "",
                    "change": r.change.message if r.change else "",
                    "yes": _answer(answers, r.cause.key, True),
                    "no": _answer(answers, r.cause.key, False),
                    "open": _answer(answers, r.cause.key, None),
                }
            )
    return page("why.html", request, **shown, message="", symptoms=symptoms, ranked=ranked, name=known.get(seen, ""))


def _answer(answers: dict[str, bool], key: str, said: bool | None) -> str:
    """The query of the page with one answer given, changed, or taken back."""
    now = {k: v for k, v in answers.items() if k != key} | ({key: said} if said is not None else {})
    yes, no = (",".join(k for k, v in now.items() if v is which) for which in (True, False))
    return f"yes={yes}&no={no}"
