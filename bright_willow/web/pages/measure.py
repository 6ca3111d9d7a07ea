"""Pieces off the form, and what they measure."""

from __future__ import annotations

import datetime as dt
from typing import Annotated

from fastapi import APIRouter, Query, Request
from fastapi.responses import Response
from pydantic import ValidationError

from ...calendar.shop_clock import zone_of
from ...core.common.errors import PlanError
from ...core.common.units import Unit, parse_length_mm
from ...core.job.faults import JobFaulty
from ...core.measuring.built_form import FAILED, MISHAPS, BuiltForm, check_measured
from ...core.measuring.ends_and_heights import (
    Angle,
    EndReadings,
    GapReadings,
    Heights,
    Readings,
    measured,
    read_rows,
)
from ...core.measuring.profile_readings import KeptReading, is_slip, written
from ...core.measuring.verdict import CHOICES, bent_again
from ...core.plan.read_job import read_job
from ...core.shape.arc import FACES, Face
from ...core.shop.shop import Shop
from ...store.records import KeptForm
from ...store.store import Store
from ..common import (
    Id,
    go_to,
    planned,
    show,
    store_of,
    today_of,
    typed_in,
    view_of,
    wants_parts,
)
from ..forms.piece_form import FAULT_AT, MEASURED, PIECE_FORM

router = APIRouter(include_in_schema=False)
Choice = Annotated[str, Query(max_length=20)]
ANGLE_ERROR_DEG = 0.5  # of a bevel laid to an end. Grade: allowance.
OTHERWISE = tuple(name for by, names in MEASURED.items() if by != "chord_and_rise" for name in names)


def _otherwise(
    typed: dict[str, str], built: BuiltForm, shop: Shop, today: dt.date, faults: dict[str, str]
) -> tuple[dt.date, float, float, Face, float, str, str] | None:
    """A piece measured another way than by chord and rise: day, the chord and rise that belong to it, the face, the
    error, how it was measured in words, and what was read as it is kept; none where something is wrong, which is then
    among faults."""
    by, unit = typed.get("by", ""), shop.units
    day = measured_day(typed.get("day", ""), today, faults)
    face = typed.get("face", "")
    if face not in FACES:
        faults["face"] = "Choose the face you measured."
        return None
    error = shop.measuring_error_mm
    typed_values = PIECE_FORM.only(*MEASURED[by]).read(typed, unit)
    if typed_values.faults:
        faults |= typed_values.faults
        return None
    v = typed_values.values
    try:
        if by == "heights":
            rows = read_rows(v["heights"], lambda text, field: parse_length_mm(text, unit, field))
            readings: Readings = Heights(tuple(a for a, _ in rows), tuple(h for _, h in rows), face)  # type: ignore[arg-type]
            message = f"by {len(rows)} heights along a straightedge"
        elif by == "gaps":
            readings, message = GapReadings(v["gap_left"], v["gap_right"]), "by its gap to the form"
        elif by == "ends":
            ends = EndReadings(v["opening"], v["square_left"], v["square_right"], face)  # type: ignore[arg-type]
            readings, message = ends, "by its ends"
        else:
            readings, message, error = Angle(v["between"]), "by angle between the ends", ANGLE_ERROR_DEG
        made = measured(built, readings, face=face, error=error)  # type: ignore[arg-type]
    except PlanError as fault:
        faults[FAULT_AT.get(by, by)] = fault.message(unit)
        return None
    if is_slip(built, KeptReading(readings, error), made):
        faults[FAULT_AT.get(by, by)] = (
            f"These readings are {made.misfit:.0f} × their error away from any such piece: look for a mistake."
        )
        return None
    read = written(KeptReading(readings, error))
    return day, made.chord_mm, made.rise_mm, face, made.error_mm, message, read  # type: ignore[return-value]


def measured_day(text: str, today: dt.date, faults: dict[str, str]) -> dt.date:
    """Return the day a piece was measured; what is wrong with it goes to faults. today: by the shop's clock."""
    try:
        day = dt.date.fromisoformat(text.strip())
    except ValueError:
        faults["day"] = "Enter a date such as 2026-05-21."
        return today
    if not dt.date(1900, 1, 1) <= day <= today + dt.timedelta(days=1):
        faults["day"] = "That day has not come yet." if day > today else "That is too long ago."
    return day


def _checked(
    typed: dict[str, str], built: BuiltForm, unit: Unit, today: dt.date
) -> tuple[dict[str, str], tuple[dt.date, float, float, Face]]:
    read = PIECE_FORM.only("chord", "rise").read(typed, unit)
    faults = dict(read.faults)
    day = measured_day(typed.get("day", ""), today, faults)
    face = typed.get("face", "")
    if face not in FACES:
        faults["face"] = "Choose the face you measured."
    chord, rise = read.values.get("chord", 0.0), read.values.get("rise", 0.0)
    if not faults:
        try:
            check_measured(built, chord_mm=chord, rise_mm=rise, face=face)  # type: ignore[arg-type]
        except PlanError as error:
            faults[error.field.removesuffix("_mm")] = error.message(unit)
    return faults, (day, chord, rise, face)  # type: ignore[return-value]


@router.post("/jobs/{job_id}/pieces")
async def add_piece(request: Request, job_id: Id) -> Response:
    """A piece and its first measurement."""
    return await planned(request, _add_piece, request, job_id, await typed_in(request))


def _add_piece(request: Request, job_id: int, typed: dict[str, str]) -> Response:
    store = store_of(request)
    with store.connected():
        forms, shop = store.forms.find(job_id), store.shop_settings.get()
        if not forms:
            return go_to(f"/jobs/{job_id}/form")
        mishap, hand = typed.get("mishap", ""), typed.get("hand", "")
        is_blank = not typed.get("chord", "").strip() and not typed.get("rise", "").strip()
        unmeasured = not forms[-1].built.can_open or (mishap in FAILED and is_blank)
        faults: dict[str, str] = {}
        error, how, readings, by = shop.measuring_error_mm, "", "", typed.get("by", "chord_and_rise")
        if by in MEASURED and by != "chord_and_rise" and forms[-1].built.can_open:
            unmeasured = mishap in FAILED and not any(typed.get(n, "").strip() for n in OTHERWISE)
            found = None if unmeasured else _otherwise(typed, forms[-1].built, shop, today_of(request), faults)
            if found:
                day, chord, rise, face, error, how, readings = found
        elif not unmeasured:
            faults, (day, chord, rise, face) = _checked(typed, forms[-1].built, shop.units, today_of(request))
        faults |= piece_faults(forms[-1], typed) | PIECE_FORM.only("note").read(typed, shop.units).faults
        label = typed.get("label", "").strip()
        of_run = _of_run(store, job_id, typed.get("of_run", ""))
        if of_run and not unmeasured and not faults and day < (begun := _begun_on(store, of_run[0])):
            faults["day"] = f"Its run began on {begun}: it cannot have been measured before."
        if faults:
            return show(request, view_of(request, job_id, "measure", piece_typed=typed, piece_faults=faults), 422)
        note = "; ".join(x for x in (how, typed.get("note", "").strip()) if x)
        if unmeasured:
            store.logbook.add_unmeasured(forms[-1].id, label=label, mishap=mishap, note=note, hand=hand, of_run=of_run)
            return _written(request, job_id)
        store.logbook.add_piece(
            forms[-1].id,
            label=label,
            day=day,
            chord_mm=chord,
            rise_mm=rise,
            face=face,
            error_mm=error,
            mishap=mishap,
            left_out=typed.get("left_out") == "yes",
            note=note,
            hand=hand,
            of_run=of_run,
            readings=readings,
        )
        return _written(request, job_id)


def piece_faults(form: KeptForm, typed: dict[str, str]) -> dict[str, str]:
    """What is wrong with what is said of a new piece beside its measures."""
    faults, label = {}, typed.get("label", "").strip()
    if typed.get("hand", "") not in ("", "left", "right"):
        faults["hand"] = "Left or right."
    if not label or len(label) > 40:
        faults["label"] = "Enter a short name: a number or a letter will do."
    elif any(p.label == label for p in form.pieces):
        faults["label"] = "There is a piece of that name already; measure it again in the list."
    if typed.get("mishap", "") not in MISHAPS:
        faults["mishap"] = "Choose one from the list."
    return faults


def _of_run(store: Store, job_id: int, text: str) -> tuple[int, int] | None:
    """Which piece of which run of this job is meant; none for anything else."""
    run, _, number = text.partition(".")
    if not (run.isascii() and run.isdecimal() and number.isascii() and number.isdecimal() and len(text) < 24):
        return None
    known = {r.id for r in store.runs.find(job_id)}
    return (int(run), int(number)) if int(run) in known else None


def _begun_on(store: Store, run_id: int) -> dt.date:
    """The day a run began, in the shop's zone."""
    return dt.datetime.fromtimestamp(
        store.runs.get(run_id).brief.started_s, zone_of(store.shop_settings.get().week)
    ).date()


def _written(request: Request, job_id: int) -> Response:
    if wants_parts(request):
        return show(request, view_of(request, job_id, "measure"))
    return go_to(f"/jobs/{job_id}/measure")


@router.post("/pieces/{piece_id}/remove")
def remove_piece(request: Request, piece_id: Id) -> Response:
    """Take a piece that was written down by mistake out for good."""
    store = store_of(request)
    with store.connected():
        return _written(request, store.logbook.remove_piece(piece_id))


@router.post("/pieces/{piece_id}/again")
async def measure_again(request: Request, piece_id: Id) -> Response:
    """The same piece on a later day."""
    return await planned(request, _measure_again, request, piece_id, await typed_in(request))


def _measure_again(request: Request, piece_id: int, typed: dict[str, str]) -> Response:
    store = store_of(request)
    with store.connected():
        form, piece = store.pieces.get(piece_id)
        shop = store.shop_settings.get()
        faults, (day, chord, rise, face) = _checked(typed, form.built, shop.units, today_of(request))
        if not faults and piece.measurements and day < piece.measurements[0].day:
            faults["day"] = "This piece was first measured later than that."
        if faults:
            typed["again"] = str(piece_id)
            return show(request, view_of(request, form.job_id, "measure", piece_typed=typed, piece_faults=faults), 422)
        store.logbook.measure_again(
            piece_id, day=day, chord_mm=chord, rise_mm=rise, face=face, error_mm=shop.measuring_error_mm
        )
        if wants_parts(request):
            return show(request, view_of(request, form.job_id, "measure"))
    return go_to(f"/jobs/{form.job_id}/measure")


@router.post("/pieces/{piece_id}/verdict")
async def judge(request: Request, piece_id: Id, choice: Choice = "", how: Choice = "") -> Response:
    """Keep a piece, correct it so, or reject it; what is work of its own becomes a job."""
    return await planned(request, _judge, request, piece_id, choice, how)


def _judge(request: Request, piece_id: int, choice: str, how: str) -> Response:
    store = store_of(request)
    with store.connected():
        form, piece = store.pieces.get(piece_id)
        state, shop, made = store.jobs.get(form.job_id), store.shop_settings.get(), None
        if choice not in CHOICES:
            store.logbook.save_decision(piece_id, "")
            return _written(request, form.job_id)
        if how == "again" and piece.corrected_in is None and piece.measurements:
            m = piece.measurements[-1]
            try:
                seen = form.compared(piece, m)
                job = bent_again(state.job, form.under(piece), seen, f"piece {piece.label}")
                made = store.jobs.add(read_job(job.model_dump(), shop.units, shop.woods), f"{piece.label} is re-bent")
            except (PlanError, JobFaulty, ValidationError) as error:
                typed = {"again": str(piece_id)}
                message = error.message(shop.units) if isinstance(error, PlanError) else str(error)
                more = {"piece_typed": typed, "piece_faults": {"chord": f"It cannot be re-bent: {message}"}}
                return show(request, view_of(request, form.job_id, "measure", **more), 422)
        store.logbook.save_decision(piece_id, choice, how, made or piece.corrected_in)
    return go_to(f"/jobs/{made}") if made else _written(request, form.job_id)


@router.post("/pieces/{piece_id}/leave-out")
def leave_out(request: Request, piece_id: Id, out: bool, back: str = "") -> Response:
    """Take a piece out of what is learnt, or back in."""
    store = store_of(request)
    with store.connected():
        form, _ = store.pieces.get(piece_id)
        store.logbook.leave_out(piece_id, out)
        if wants_parts(request):
            return show(request, view_of(request, form.job_id, "measure"))
    return go_to("/book" if back == "book" else f"/jobs/{form.job_id}/measure")


@router.post("/measurements/{measurement_id}/remove")
def remove(request: Request, measurement_id: Id) -> Response:
    """Take out a slip of the pen."""
    store = store_of(request)
    with store.connected():
        job_id = store.logbook.remove_measurement(measurement_id)
        if wants_parts(request):
            return show(request, view_of(request, job_id, "measure"))
    return go_to(f"/jobs/{job_id}/measure")
