"""Pictures of jobs and pieces; a picture that is measured on: a piece off the form, or a shape to bend."""

from __future__ import annotations

import math
from typing import Annotated, Any

from fastapi import APIRouter, Query, Request
from fastapi.responses import JSONResponse, Response

from ...core.common.errors import PlanError
from ...core.job.faults import JobFaulty
from ...core.measuring.edge_finding import LEAST_NEAR_PX, MOST_NEAR_PX, NEAR_PX, drawn_to, drawn_to_corner
from ...core.measuring.photo_measurement import PhotoMarks, Spot
from ...core.measuring.profile_readings import is_slip, written
from ...core.shape.arc import FACES
from ...drawing.picture_files import LONGEST_TO_MEASURE_PX, thumbnail
from ...store.records import KeptForm, NotFound
from ...store.repositories.kept_pictures import Picture
from ...store.store import Store
from ..common import (
    Id,
    go_to,
    page,
    planned,
    store_of,
    today_of,
    typed_in,
    wants_parts,
)
from ..formatting import Formatter
from ..forms.fields import Field
from ..forms.form_spec import FieldView
from ..forms.picture_form import SIZE_FORM, SIZES, picture_inputs
from ..photo_page import (
    PhotoMeasurement,
    asks_for,
    job_shaped,
    piece_items,
    shape_items,
    sight_of,
)
from ..photo_upload import Greys, made_small, sent_picture
from .measure import measured_day, piece_faults

router = APIRouter(include_in_schema=False)
Place = Annotated[float, Query(ge=-100_000, le=100_000, allow_inf_nan=False)]
Mark = Annotated[str, Query(max_length=12)]


# -- pictures of a job -------------------------------------------------------------------------------------------------
@router.get("/jobs/{job_id}/pictures")
async def pictures(request: Request, job_id: Id) -> Response:
    return await planned(request, _pictures, request, job_id)


def _pictures(request: Request, job_id: int, fault: str = "") -> Response:
    store = store_of(request)
    with store.connected():
        state, shop, kept = store.jobs.get(job_id), store.shop_settings.get(), store.pictures.of_job(job_id)
        names = {p.id: p.label for form in store.forms.find(job_id) for p in form.pieces}
    whose = (("", "the job"), *((str(number), f"piece {label}") for number, label in names.items()))
    of_piece = FieldView(Field("piece", "Of", "choice", choices=whose), "", prefix="pic")
    shown = {"state": state, "pictures": kept, "names": names, "fault": fault, "unit": shop.rule, "here": "jobs"}
    shown["of_piece"] = of_piece
    return page("pictures.html", request, 422 if fault else 200, **shown)


@router.post("/jobs/{job_id}/photo")
async def add(request: Request, job_id: Id, measure: str = "") -> Response:
    """A picture of a job, or of a piece of it; measure=yes: it is gone on with at once."""
    body, piece = await sent_picture(request)
    try:
        small, size = await made_small(request, body, LONGEST_TO_MEASURE_PX)
    except PlanError as error:
        if wants_parts(request):
            return JSONResponse({"faults": [{"field": "photo", "says": str(error)}]}, 422)
        return await planned(request, _pictures, request, job_id, str(error))
    return await planned(request, _add, request, job_id, small, size, piece, measure == "yes")


def _add(request: Request, job_id: int, small: bytes, size: tuple[int, int], piece: str, goes_on: bool) -> Response:
    store = store_of(request)
    with store.connected():
        own = {str(p.id): p.id for form in store.forms.find(job_id) for p in form.pieces}
        made = store.pictures.add(job_id, small, size, piece_id=own.get(piece))
    return go_to(f"/pictures/{made}" if goes_on else f"/jobs/{job_id}/pictures")


@router.get("/pictures/{picture_id}/body")
def body(request: Request, picture_id: Id, small: str = "") -> Response:
    store = store_of(request)
    with store.connected():
        found = store.pictures.body(picture_id)
    kept = {"cache-control": "private, max-age=3600"}  # it is never changed, and large
    try:
        shown = thumbnail(found) if small else found
    except PlanError as error:
        raise NotFound(str(error)) from None
    return Response(shown, media_type="image/jpeg", headers=kept)


@router.post("/pictures/{picture_id}/remove")
def remove(request: Request, picture_id: Id) -> Response:
    store = store_of(request)
    with store.connected():
        job_id = store.pictures.remove(picture_id)
    return go_to(f"/jobs/{job_id}/pictures")


# -- marking -----------------------------------------------------------------------------------------------------------
@router.get("/pictures/{picture_id}")
async def look(request: Request, picture_id: Id) -> Response:
    return await planned(request, _show, request, picture_id)


@router.post("/pictures/{picture_id}/look")
async def look_again(request: Request, picture_id: Id) -> Response:
    """What the marks come to on another face."""
    return await planned(request, _show, request, picture_id)


def _form_of(store: Store, picture: Picture) -> KeptForm | None:
    """The form its piece came off: that of the piece it shows, else the job's last."""
    forms = store.forms.find(picture.job_id)
    own = next((f for f in forms if any(p.id == picture.piece_id for p in f.pieces)), None)
    return own or (forms[-1] if forms else None)


def _sight(store: Store, picture: Picture, face: str) -> tuple[PhotoMeasurement, KeptForm | None]:
    form = _form_of(store, picture)
    return sight_of(picture, form, face, store.shop_settings.get().units), form  # type: ignore[arg-type]


def _face(request: Request, job_face: str, typed: dict[str, str] | None = None) -> str:
    asked = (typed or {}).get("face") or request.query_params.get("face", "")
    return asked if asked in FACES else job_face


def _show(
    request: Request,
    picture_id: int,
    typed: dict[str, str] | None = None,
    faults: dict[str, str] | None = None,
) -> Response:
    store = store_of(request)
    with store.connected():
        picture, shop = store.pictures.get(picture_id), store.shop_settings.get()
        state = store.jobs.get(picture.job_id)
        face = _face(request, state.job.shape.face, typed)
        sight, form = _sight(store, picture, face)
    words, unit = Formatter(shop.units), shop.units
    shape, shape_fault = shape_items(sight, words)
    if sight.faults:
        shape_fault = ""
    shown: dict[str, Any] = {
        "picture": picture,
        "state": state,
        "job": state.job,
        "sight": sight,
        "form": form,
        "asks": asks_for(sight),
        "piece_items": piece_items(sight, form, words),
        "shape_items": shape,
        "shape_fault": shape_fault,
        "face": face,
        "i": picture_inputs(
            picture, sight.marks, form, face, today_of(request).isoformat(), unit, typed or {}, faults or {}
        ),
        "faults": {**sight.faults, **(faults or {})},
        "unit": shop.rule,
        "here": "jobs",
    }
    status = 422 if faults else 200
    return page("parts/picture_places.html" if wants_parts(request) else "picture.html", request, status, **shown)


def _drawn(
    request: Request, store: Store, picture: Picture, spot: Spot, near: float, *, corner: bool, end: bool
) -> Spot:
    """Where a mark is drawn to; where nothing is near, it stays where it was put."""
    greys: Greys = request.app.state.greys
    try:
        grey = greys.of(store, picture)
    except PlanError as error:
        raise NotFound(str(error)) from None
    near = max(LEAST_NEAR_PX, min(MOST_NEAR_PX, near))  # so many dots a finger covers
    found = drawn_to_corner(grey, spot, near) if corner else drawn_to(grey, spot, near, is_end=end)
    return found or spot


@router.post("/pictures/{picture_id}/mark")
async def mark(
    request: Request, picture_id: Id, x: Place, y: Place, name: Mark = "", snap: str = "yes", near: float = NEAR_PX
) -> Response:
    """A mark put at a place of the picture, or moved there; drawn to the edge or corner near it unless snap=no.
    near: how far that is, dots."""
    return await planned(request, _mark, request, picture_id, (x, y), name, snap != "no", near)


def _mark(request: Request, picture_id: int, spot: Spot, name: str, snaps: bool, near: float) -> Response:
    store = store_of(request)
    with store.connected():
        picture = store.pictures.get(picture_id)
        marks = picture.marks or PhotoMarks.sheet(store.shop_settings.get().units)
        spot = min(max(spot[0], 0.0), float(picture.wide)), min(max(spot[1], 0.0), float(picture.high))
        try:
            made = marks.moved(name, spot) if name else marks.with_mark(spot)
            if snaps:
                which = name or _newest(marks, made)
                kind, number = which.split("-")
                is_end = int(number) in (0, len(made.points) - 1)
                reach = near if math.isfinite(near) else NEAR_PX
                to = _drawn(request, store, picture, spot, reach, corner=kind == "corner", end=is_end)
                made = made.moved(which, to)
        except PlanError as error:
            return _show(request, picture_id, None, {"points": str(error)})
        store.pictures.save_marks(picture_id, made)
    return _answer(request, picture_id)


def _newest(before: PhotoMarks, after: PhotoMarks) -> str:
    """The name of the mark that was added."""
    if len(after.corners) > len(before.corners):
        return f"corner-{len(after.corners) - 1}"
    old = (*before.points, None)
    return f"point-{next(i for i, p in enumerate(after.points) if p != old[i])}"


def _answer(request: Request, picture_id: int) -> Response:
    return _show(request, picture_id) if wants_parts(request) else go_to(f"/pictures/{picture_id}")


@router.post("/pictures/{picture_id}/unmark")
async def unmark(request: Request, picture_id: Id, name: Mark = "", everything: str = "") -> Response:
    """Take a mark out: the one named, else the last that was made; or all of them."""
    return await planned(request, _unmark, request, picture_id, name, everything)


def _unmark(request: Request, picture_id: int, name: str, everything: str) -> Response:
    store = store_of(request)
    with store.connected():
        marks = store.pictures.get(picture_id).marks or PhotoMarks.sheet(store.shop_settings.get().units)
        if everything == "points":
            made = marks.model_copy(update={"points": ()})
        elif everything:
            made = marks.model_copy(update={"points": (), "corners": ()})
        else:
            last = f"point-{len(marks.points) - 1}" if marks.points else f"corner-{len(marks.corners) - 1}"
            try:
                made = marks.moved(name or last, None)
            except PlanError:
                made = marks
        store.pictures.save_marks(picture_id, made)
    return _answer(request, picture_id)


@router.post("/pictures/{picture_id}/size")
async def size(request: Request, picture_id: Id) -> Response:
    """What the rectangle or the bar is, and its size."""
    return await planned(request, _size, request, picture_id, await typed_in(request))


def _size(request: Request, picture_id: int, typed: dict[str, str]) -> Response:
    store = store_of(request)
    with store.connected():
        unit = store.shop_settings.get().units
        marks = store.pictures.get(picture_id).marks or PhotoMarks.sheet(unit)
        by = typed.get("by") if typed.get("by") in ("rectangle", "bar") else marks.by
        data, faults = marks.model_dump() | {"by": by}, dict[str, str]()
        form = SIZE_FORM.only(*(SIZES if by == "rectangle" else SIZES[:1]))
        stands = form.inputs(unit, {"across": marks.across_mm, "up": marks.up_mm})
        for name in stands:
            if typed.get(name, "").strip() == stands[name].text:  # nobody's change: no rounding
                continue
            read = form.only(name).read(typed, unit)
            faults |= read.faults
            data[f"{name}_mm"] = read.values.get(name, data[f"{name}_mm"])
        if not faults:
            if by != marks.by:
                data["corners"] = data["corners"][:2] if by == "bar" else data["corners"]
            store.pictures.save_marks(picture_id, PhotoMarks.model_validate(data))
    return (
        _show(request, picture_id, typed, faults)
        if faults or wants_parts(request)
        else go_to(f"/pictures/{picture_id}")
    )


# -- what it comes to --------------------------------------------------------------------------------------------------
@router.post("/pictures/{picture_id}/piece")
async def write_piece(request: Request, picture_id: Id) -> Response:
    """Write the piece down as it was measured, a new one or one measured before."""
    return await planned(request, _write_piece, request, picture_id, await typed_in(request))


def _write_piece(request: Request, picture_id: int, typed: dict[str, str]) -> Response:
    store = store_of(request)
    with store.connected():
        picture = store.pictures.get(picture_id)
        face = _face(request, store.jobs.get(picture.job_id).job.shape.face, typed)
        sight, form = _sight(store, picture, face)
        made, faults = sight.trace.measured if sight.trace else None, dict[str, str]()
        day = measured_day(typed.get("day", ""), today_of(request), faults)
        if form is None or made is None or sight.kept is None:
            faults["points"] = "Mark the rectangle and the edge first, please."
            return _show(request, picture_id, typed, faults)
        if is_slip(form.built, sight.kept, made):
            faults["points"] = (
                f"These points are {made.misfit:.0f} × their error away from any such piece: look for a mistake."
            )
        again = next((p for p in form.pieces if str(p.id) == typed.get("again")), None)
        if again is None:
            faults |= piece_faults(form, typed)
        elif again.measurements and day < again.measurements[0].day:
            faults["day"] = "This piece was first measured later than that."
        if faults:
            return _show(request, picture_id, typed, faults)
        read = {
            "day": day,
            "chord_mm": made.chord_mm,
            "rise_mm": made.rise_mm,
            "face": face,
            "error_mm": made.error_mm,
            "readings": written(sight.kept),
        }
        if again:
            store.logbook.measure_again(again.id, **read)
            piece_id = again.id
        else:
            count = len(sight.marks.points)
            note = "; ".join(x for x in (f"by {count} points on a picture", typed.get("note", "").strip()[:1_900]) if x)
            piece_id = store.logbook.add_piece(
                form.id,
                label=typed["label"].strip(),
                mishap=typed.get("mishap", ""),
                hand=typed.get("hand", ""),
                note=note,
                **read,
            )
        store.pictures.assign_piece(picture_id, piece_id)
    return go_to(f"/jobs/{picture.job_id}/measure")


@router.post("/pictures/{picture_id}/shape")
async def take_shape(request: Request, picture_id: Id) -> Response:
    """The edge as the job's shape; undone like any other change."""
    return await planned(request, _take_shape, request, picture_id, await typed_in(request))


def _take_shape(request: Request, picture_id: int, typed: dict[str, str]) -> Response:
    store = store_of(request)
    with store.connected():
        picture, shop = store.pictures.get(picture_id), store.shop_settings.get()
        state = store.jobs.get(picture.job_id)
        sight, _ = _sight(store, picture, _face(request, state.job.shape.face, typed))
        if sight.edge is None:
            return _show(request, picture_id, typed, {"points": "Mark the rectangle and the edge first, please."})
        try:
            made = job_shaped(state.job, sight.edge, shop.units, shop.woods)
        except JobFaulty as error:
            return _show(request, picture_id, typed, {"shape": str(error)})
        store.jobs.save(picture.job_id, made, "shape from a picture")
    return go_to(f"/jobs/{picture.job_id}/shape")
