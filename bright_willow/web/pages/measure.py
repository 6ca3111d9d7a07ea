"""Pieces off the form, and what they measure."""

from __future__ import annotations

import datetime as dt

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ...core.book.built_form import FAILED, MISHAPS, BuiltForm, check_measured
from ...core.ground.errors import OutOfRange
from ...core.ground.units import Unit, parse_length_mm
from ...core.shape.arc import FACES, Face
from ...store.book import Store
from ..common import Id, go_to, planned, show, store_of, typed_in, view_of, wants_parts

router = APIRouter(include_in_schema=False)


def _lengths(typed: dict[str, str], unit: Unit, faults: dict[str, str]) -> dict[str, float]:
    """Chord and rise in mm; what cannot be read goes to faults."""
    found = {}
    for name in ("chord", "rise"):
        try:
            found[name] = parse_length_mm(typed.get(name, ""), unit, name)
            if not 0 < found[name] <= 100_000:
                faults[name] = "More than nothing and less than 100 m, please."
        except OutOfRange as error:
            faults[name] = error.says(unit)
    return found


def _day(text: str, today: dt.date, faults: dict[str, str]) -> dt.date:
    try:
        day = dt.date.fromisoformat(text.strip())
    except ValueError:
        faults["day"] = "A date like 2026-05-21, please."
        return today
    if not dt.date(1900, 1, 1) <= day <= today + dt.timedelta(days=1):
        faults["day"] = "That day has not come yet." if day > today else "That is too long ago."
    return day


def _checked(
    typed: dict[str, str], built: BuiltForm, unit: Unit
) -> tuple[dict[str, str], tuple[dt.date, float, float, Face]]:
    faults: dict[str, str] = {}
    lengths = _lengths(typed, unit, faults)
    day = _day(typed.get("day", ""), dt.date.today(), faults)
    face = typed.get("face", "")
    if face not in FACES:
        faults["face"] = "Choose the face you measured."
    chord, rise = lengths.get("chord", 0.0), lengths.get("rise", 0.0)
    if not faults:
        try:
            check_measured(built, chord_mm=chord, rise_mm=rise, face=face)  # type: ignore[arg-type]
        except OutOfRange as error:
            faults[error.field.removesuffix("_mm")] = error.says(unit)
    return faults, (day, chord, rise, face)  # type: ignore[return-value]


@router.post("/jobs/{job_id}/pieces")
async def add_piece(request: Request, job_id: Id) -> Response:
    """A piece and its first measurement."""
    return await planned(request, _add_piece, request, job_id, await typed_in(request))


def _add_piece(request: Request, job_id: int, typed: dict[str, str]) -> Response:
    store = store_of(request)
    with store.connected():
        forms, shop = store.forms(job_id), store.shop()
        if not forms:
            return go_to(f"/jobs/{job_id}/form")
        mishap, hand = typed.get("mishap", ""), typed.get("hand", "")
        is_blank = not typed.get("chord", "").strip() and not typed.get("rise", "").strip()
        unmeasured = not forms[-1].built.can_open or (mishap in FAILED and is_blank)
        faults: dict[str, str] = {}
        if not unmeasured:
            faults, (day, chord, rise, face) = _checked(typed, forms[-1].built, shop.units)
        label = typed.get("label", "").strip()
        if hand not in ("", "left", "right"):
            faults["hand"] = "Left or right."
        if not label or len(label) > 40:
            faults["label"] = "A short name, please: a number or a letter will do."
        elif any(p.label == label for p in forms[-1].pieces):
            faults["label"] = "A piece of that name is there already; measure it again in the list."
        if mishap not in MISHAPS:
            faults["mishap"] = "Choose one of the list."
        if faults:
            return show(request, view_of(request, job_id, "measure", piece_typed=typed, piece_faults=faults), 422)
        note = typed.get("note", "").strip()[:2_000]
        of_run = _of_run(store, job_id, typed.get("of_run", ""))
        if unmeasured:
            store.add_unmeasured(forms[-1].id, label=label, mishap=mishap, note=note, hand=hand, of_run=of_run)
            return _written(request, job_id)
        store.add_piece(
            forms[-1].id,
            label=label,
            day=day,
            chord_mm=chord,
            rise_mm=rise,
            face=face,
            error_mm=shop.measuring_error_mm,
            mishap=mishap,
            left_out=typed.get("left_out") == "yes",
            note=note,
            hand=hand,
            of_run=of_run,
        )
        return _written(request, job_id)


def _of_run(store: Store, job_id: int, text: str) -> tuple[int, int] | None:
    """Which piece of which run of this job is meant; none for anything else."""
    run, _, number = text.partition(".")
    if not (run.isascii() and run.isdecimal() and number.isascii() and number.isdecimal() and len(text) < 24):
        return None
    known = {r.id for r in store.runs(job_id)}
    return (int(run), int(number)) if int(run) in known else None


def _written(request: Request, job_id: int) -> Response:
    if wants_parts(request):
        return show(request, view_of(request, job_id, "measure"))
    return go_to(f"/jobs/{job_id}/measure")


@router.post("/pieces/{piece_id}/remove")
def remove_piece(request: Request, piece_id: Id) -> Response:
    """Take a piece that was written down by mistake out for good."""
    store = store_of(request)
    with store.connected():
        return _written(request, store.remove_piece(piece_id))


@router.post("/pieces/{piece_id}/again")
async def measure_again(request: Request, piece_id: Id) -> Response:
    """The same piece on a later day."""
    return await planned(request, _measure_again, request, piece_id, await typed_in(request))


def _measure_again(request: Request, piece_id: int, typed: dict[str, str]) -> Response:
    store = store_of(request)
    with store.connected():
        form, piece = store.piece(piece_id)
        shop = store.shop()
        faults, (day, chord, rise, face) = _checked(typed, form.built, shop.units)
        if not faults and piece.measurements and day < piece.measurements[0].day:
            faults["day"] = "This piece was first measured later than that."
        if faults:
            typed["again"] = str(piece_id)
            return show(request, view_of(request, form.job_id, "measure", piece_typed=typed, piece_faults=faults), 422)
        store.measure_again(
            piece_id, day=day, chord_mm=chord, rise_mm=rise, face=face, error_mm=shop.measuring_error_mm
        )
        if wants_parts(request):
            return show(request, view_of(request, form.job_id, "measure"))
    return go_to(f"/jobs/{form.job_id}/measure")


@router.post("/pieces/{piece_id}/leave-out")
def leave_out(request: Request, piece_id: Id, out: bool, back: str = "") -> Response:
    """Take a piece out of what is learnt, or back in."""
    store = store_of(request)
    with store.connected():
        form, _ = store.piece(piece_id)
        store.leave_out(piece_id, out)
        if wants_parts(request):
            return show(request, view_of(request, form.job_id, "measure"))
    return go_to("/book" if back == "book" else f"/jobs/{form.job_id}/measure")


@router.post("/measurements/{measurement_id}/remove")
def remove(request: Request, measurement_id: Id) -> Response:
    """Take out a slip of the pen."""
    store = store_of(request)
    with store.connected():
        job_id = store.remove_measurement(measurement_id)
        if wants_parts(request):
            return show(request, view_of(request, job_id, "measure"))
    return go_to(f"/jobs/{job_id}/measure")
