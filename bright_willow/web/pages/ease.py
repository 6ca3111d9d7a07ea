"""A bend checked at the bench while it can still be changed: gaps in, how far to ease or tighten it where."""

from __future__ import annotations

import secrets
from typing import Annotated, Any

from fastapi import APIRouter, Path, Request
from fastapi.responses import Response
from markupsafe import Markup

from ...core.common.errors import PlanError
from ...core.common.fineness import rule_of
from ...core.common.units import Unit, format_length, parse_length_mm
from ...core.measuring.easing import CurveCheck, EasingPass, Gap, curve_check, easing_pass, passes_of
from ...core.methods.steps.shared_steps import WORDS_ON
from ...core.plan.plan import plan
from ...drawing.easing_drawing import easing_svg, turn_words
from ...services.bench_runs import RunNow
from ..common import Id, go_to, page, planned, store_of, typed_in
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
        allowed=typed.get("allowed", format_length(passes[-1].allowed_mm if passes else check.tolerance_mm, shop.rule)),
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


def _rows(places: tuple[float, ...], typed: dict[str, str], faults: dict[str, str], rule: Unit) -> list[dict[str, Any]]:
    """The fields of each place, as typed, else with the places of the last pass; what is wrong with each."""
    rows = []
    for n in range(ROWS):
        known = format_length(places[n], rule) if n < len(places) else ""
        side = typed.get(f"side{n}", "outside")
        row = {"n": n, "at": typed.get(f"at{n}", known), "gap": typed.get(f"gap{n}", ""), "side": side}
        rows.append(row | {"at_fault": faults.get(f"at{n}", ""), "gap_fault": faults.get(f"gap{n}", "")})
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
        text = typed.get(f"gap{n}", "").strip()
        if not text:
            continue
        try:
            station = parse_length_mm(typed.get(f"at{n}", ""), unit, f"at{n}")
        except PlanError as error:
            faults[f"at{n}"] = error.message(unit)
            continue
        try:
            size = parse_length_mm(text, unit, f"gap{n}")
            gaps.append(Gap(station, size * SIDES.get(typed.get(f"side{n}", ""), 1.0)))
        except PlanError as error:
            faults[f"gap{n}"] = error.message(unit)
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
        gaps, allowed_mm = _gaps(typed, unit, faults), 0.0
        try:
            allowed_mm = parse_length_mm(typed.get("allowed", ""), unit, "allowed")
        except PlanError as error:
            faults["allowed"] = error.message(unit)
        if not faults:
            try:
                text = easing_pass(check, gaps, allowed_mm).text
                tap = EventLine(client=secrets.token_hex(8), kind="ease", key="ease", number=piece, text=text)
                add_events(request, store, run_id, [tap], request.scope.get("guest", ""))
            except PlanError as error:
                faults["allowed" if error.field == "allowed" else "gaps"] = error.message(unit)
    if faults:
        return _page(request, run_id, piece, 422, typed, faults)
    return go_to(f"/runs/{run_id}/ease/{piece}#what-to-do")
