"""A bend checked at the bench while it can still be changed: gaps in, how far to ease or tighten it where."""

from __future__ import annotations

import secrets
from typing import Annotated, Any

from fastapi import APIRouter, Path, Request
from fastapi.responses import Response
from markupsafe import Markup

from ...core.common.errors import PlanError
from ...core.common.fineness import rule_of
from ...core.common.units import Unit, format_length
from ...core.measuring.easing import CurveCheck, EasingPass, Gap, curve_check, easing_pass, passes_of
from ...core.methods.steps.shared_steps import WORDS_ON
from ...core.plan.plan import plan
from ...drawing.easing_drawing import easing_svg, turn_words
from ...services.bench_runs import RunNow
from ..common import Id, go_to, page, planned, store_of, typed_in
from ..forms.fields import Field
from ..forms.form_spec import FieldView, FormSpec
from .runs import EventLine, add_events, run_at

router = APIRouter(include_in_schema=False)
PieceNumber = Annotated[int, Path(ge=0, le=100_000)]  # from 0
ROWS = 5
SIDES = {"outside": 1.0, "inside": -1.0}


@router.get("/runs/{run_id}/ease/{piece}")
async def show_ease(request: Request, run_id: Id, piece: PieceNumber) -> Response:
    return await planned(request, _page, request, run_id, piece, 200, {}, {})


@router.post("/runs/{run_id}/ease/{piece}")
async def save_ease(request: Request, run_id: Id, piece: PieceNumber) -> Response:
    """One more pass: its gaps are read, and it is an event of the run."""
    return await planned(request, _save, request, run_id, piece, await typed_in(request))


def _checked(request: Request, run_id: int, piece: int) -> tuple[RunNow, CurveCheck | None, float]:
    """The run, what its pieces are checked on, and how thick they are. Needs a connection."""
    store = store_of(request)
    now = run_at(request, run_id)
    job, shop = store.jobs.get(now.run.job_id).job, store.shop_settings.get()
    try:
        made = plan(job, shop, store.training.learned())
    except PlanError:  # the job was changed meanwhile to what cannot be planned
        return now, None, 0.0
    is_possible = now.run.kind == "run" and 0 <= piece < now.brief.pieces
    check = curve_check(made, store.observed.eased()) if is_possible else None
    return now, check, job.part.thickness_mm


def _page(
    request: Request, run_id: int, piece: int, status: int, typed: dict[str, str], faults: dict[str, str]
) -> Response:
    store = store_of(request)
    with store.connected():
        now, check, thickness_mm = _checked(request, run_id, piece)
        shop = store.shop_settings.get()
    if check is None:
        return go_to(f"/runs/{run_id}")
    passes = passes_of(now.state.told, piece)
    places = tuple(g.station_mm for g in passes[-1].gaps) if passes else check.places_mm
    drawing = easing_svg(check, thickness_mm, places, passes[-1] if passes else None, shop.units)
    return page(
        "ease.html",
        request,
        status,
        here="bench",
        unit=shop.units,
        run=now.run,
        name=now.name,
        piece=piece,
        piece_name=now.brief.piece_text(piece),
        against=WORDS_ON[check.against],
        allowed=ALLOWED.inputs(
            shop.rule, {"allowed": passes[-1].allowed_mm if passes else check.tolerance_mm}, typed, faults
        )["allowed"],
        kept=check.kept,
        kept_text=f"{check.kept.likely:.0%} stays, likely {100 * check.kept.low:.0f} to {check.kept.high:.0%}",
        learns=check.against != "form",
        drawing=Markup(drawing),
        rows=_rows(places, typed, faults, shop.rule),
        faults=faults,
        passes=[_pass_view(p, shop.units) for p in passes],
        is_within=bool(passes) and passes[-1].is_within,
        is_ended=now.run.ended is not None,
    )


SIDE_WORDS = (("outside", "outside"), ("inside", "inside"))
ALLOWED = FormSpec((Field("allowed", "Allowed gap", "length"),), prefix="ease")


def _row_form(n: int) -> FormSpec:
    """The inputs of one place. n: from 0."""
    fields = (
        Field(f"at{n}", f"Place {n + 1}, from the left end", "length"),
        Field(f"gap{n}", f"Gap at place {n + 1}", "length"),
        Field(f"side{n}", f"Side at place {n + 1}", "choice", choices=SIDE_WORDS),
    )
    return FormSpec(fields, prefix="ease")


def _rows(
    places: tuple[float, ...], typed: dict[str, str], faults: dict[str, str], rule: Unit
) -> list[list[FieldView]]:
    """The inputs of each place, as typed, else with the places of the last pass; what is wrong with each."""
    rows = []
    for n in range(ROWS):
        stands = {f"at{n}": places[n] if n < len(places) else None, f"side{n}": "outside"}
        rows.append(list(_row_form(n).inputs(rule, stands, typed, faults).values()))
    return rows


def _pass_view(one: EasingPass, unit: Unit) -> dict[str, Any]:
    """A pass in words: its largest gap, and what to do, from the middle outward."""
    steps, coarse = list[str](), rule_of(unit, mm=5, inch=4)
    for turn in one.turns:
        message = f"{turn_words(turn)} at {format_length(turn.station_mm, coarse)} from the left end"
        pushed = one.pushed_deg(turn)
        if pushed and pushed - turn.degrees >= 0.5:
            message += f": push it {round(pushed * 2) / 2:g}°, the rest springs back"
        steps.append(message[0].upper() + message[1:] + ".")
    return {"largest_mm": one.largest_mm, "allowed_mm": one.allowed_mm, "steps": steps}


def _gaps(typed: dict[str, str], unit: Unit, faults: dict[str, str]) -> list[Gap]:
    """The gaps typed; what cannot be read goes to faults. A row without a gap is left out."""
    gaps = []
    for n in range(ROWS):
        if not typed.get(f"gap{n}", "").strip():
            continue
        row = _row_form(n).read({f"side{n}": "outside", **typed}, unit)
        faults |= row.faults
        if not row.faults:
            gaps.append(Gap(row[f"at{n}"], row[f"gap{n}"] * SIDES[row[f"side{n}"]]))
    if not gaps and not faults:
        faults["gaps"] = "Enter the gap at one place at least; 0 where the piece is on its line."
    return gaps


def _save(request: Request, run_id: int, piece: int, typed: dict[str, str]) -> Response:
    store, faults = store_of(request), dict[str, str]()
    with store.connected():
        now, check, _ = _checked(request, run_id, piece)
        unit = store.shop_settings.get().units
        if check is None or now.run.ended is not None:
            return go_to(f"/runs/{run_id}")
        gaps, allowed = _gaps(typed, unit, faults), ALLOWED.read(typed, unit)
        faults |= allowed.faults
        if not faults:
            try:
                text = easing_pass(check, gaps, allowed["allowed"]).text
                tap = EventLine(client=secrets.token_hex(8), kind="ease", key="ease", number=piece, text=text)
                add_events(request, store, run_id, [tap], request.scope.get("guest", ""))
            except PlanError as error:
                faults["allowed" if error.field == "allowed" else "gaps"] = error.message(unit)
    if faults:
        return _page(request, run_id, piece, 422, typed, faults)
    return go_to(f"/runs/{run_id}/ease/{piece}#what-to-do")
