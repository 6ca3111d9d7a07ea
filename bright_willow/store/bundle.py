"""A job with all that hangs on it as one open file (ZIP): forms, pieces, measurements, runs, photos, trials. Written,
and read back with every part checked: nothing unfolds without end, nothing is what it is not."""

from __future__ import annotations

import datetime as dt
import io
import json
import zipfile
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

from ..core.common.errors import PlanError
from ..core.execution.events import KINDS, Event
from ..core.execution.run_plan import RunPlan
from ..core.job.job import Job
from ..core.job.schedule_choice import Days
from ..core.measuring.built_form import MISHAPS
from ..core.plan.read_job import read_job
from ..core.trials.trial import Trial
from ..core.wood.species import OwnWood
from .bundle_file import (
    FORMAT,
    BundledForm,
    BundledPicture,
    BundledPictures,
    BundledPiece,
    BundledReading,
    BundledRun,
    Manifest,
    ZipParts,
)
from .records import KeptForm, Measurement
from .repositories.runs import LATEST_S, MORE, MOST_PIECES, read_brief
from .store import Store
from .tables import PieceRow, RunRow

MOST_VALUE = 1e12  # of an event


# -- written -----------------------------------------------------------------------------------------------------------
def bundled(store: Store, job_id: int, *, whole: bool = True) -> bytes:
    """A job and all that hangs on it; not whole: its forms, pieces and trials alone. Needs a connection. Raises:
    NotFound."""
    job, shop = store.jobs.get(job_id).job, store.shop_settings.get()
    forms = [f for f in store.forms.find(job_id) if whole or not f.origin]
    trials = store.trials.find(job_id)
    runs = list(reversed(store.runs.find(job_id, most=500))) if whole else []
    pictures = list(reversed(store.pictures.of_job(job_id))) if whole else []
    named = job.model_dump_json() + "".join(f.built.species for f in forms)
    woods = tuple(w for w in shop.woods if w.key in named)
    sheets = tuple(s for s in shop.sheets if s.key in named)
    place = {run.id: n for n, run in enumerate(runs)}
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as file:
        head = Manifest(
            format=FORMAT,
            version=1,
            shop=shop.name,
            forms=len(forms),
            runs=len(runs),
            trials=len(trials),
            pictures=len(pictures),
            woods=woods,
            sheets=sheets,
        )
        file.writestr("manifest.json", head.model_dump_json(indent=1))
        file.writestr("job.json", job.model_dump_json(indent=1))
        for n, form in enumerate(forms):
            file.writestr(f"forms/{n}.json", _form(form, place).model_dump_json(indent=1))
        for n, run in enumerate(runs):
            photos = store.runs.photos(run.id)
            made = BundledRun(
                kind=run.kind,
                at=run.at,
                ended=run.ended,
                brief=json.loads(run.body),
                events=[_event(e) for _, e in store.runs.events(run.id)],
                photos=[{"client": client, "piece": piece} for _, client, piece in photos],
            )
            file.writestr(f"runs/{n}.json", made.model_dump_json(indent=1))
            for _, client, _ in photos:
                file.writestr(f"photos/{n}/{client}.jpg", store.runs.photo(run.id, client))
        for n, kept in enumerate(trials):
            file.writestr(f"trials/{n}.json", kept.trial.model_dump_json(indent=1))
        places = {p.id: (n, i) for n, form in enumerate(forms) for i, p in enumerate(form.pieces)}
        rows = []
        for n, picture in enumerate(pictures):
            of, piece = places.get(picture.piece_id, (None, None)) if picture.piece_id else (None, None)
            rows.append(BundledPicture(form=of, piece=piece, note=picture.note, marks=picture.marks))
            file.writestr(f"pictures/{n}.jpg", store.pictures.body(picture.id))
        if rows:
            file.writestr("pictures.json", BundledPictures(pictures=tuple(rows)).model_dump_json(indent=1))
    return out.getvalue()


def _form(form: KeptForm, place: dict[int, int]) -> BundledForm:
    """A form with its pieces. place: of each run in the file, by its number here."""
    pieces = tuple(
        BundledPiece(
            label=p.label,
            mishap=p.mishap,
            left_out=p.left_out,
            note=p.note,
            hand=p.hand,  # type: ignore[arg-type]
            run=place.get(p.run) if p.run is not None else None,
            number=p.number,
            verdict=p.verdict,  # type: ignore[arg-type]
            correction=p.correction,
            measurements=tuple(_reading(m) for m in p.measurements),
        )
        for p in form.pieces
    )
    return BundledForm(built=form.built, origin=form.origin, pieces=pieces)


def _reading(m: Measurement) -> BundledReading:
    return BundledReading(
        day=m.day.isoformat(),
        chord_mm=m.chord_mm,
        rise_mm=m.rise_mm,
        face=m.face,
        error_mm=m.error_mm,
        readings=m.readings,
    )


def _event(e: Event) -> dict[str, Any]:
    return {"at_s": e.at_s, "wall_s": e.wall_s, "kind": e.kind, "client": e.client} | {n: getattr(e, n) for n in MORE}


# -- read --------------------------------------------------------------------------------------------------------------
MadeSmall = Callable[[bytes], tuple[bytes, tuple[int, int]]]  # makes a picture anew, with its dots across and down


@dataclass(frozen=True)
class ReadBundle:
    """A job with all that hangs on it, as a file holds it: every part read and checked, nothing kept yet.

    runs: each with its plan, its events and its photos (name, piece, picture); days: of each measurement of each piece
    of each form; pictures: each with its dots across and down; woods: those of that shop that were not known.
    """

    head: Manifest
    job: Job
    woods: tuple[OwnWood, ...]
    forms: tuple[BundledForm, ...]
    days: tuple[list[list[dt.date]], ...]
    runs: tuple[tuple[BundledRun, RunPlan, list[Event], list[tuple[str, int, bytes]]], ...]
    trials: tuple[Trial, ...]
    pictures: tuple[tuple[BundledPicture, bytes, tuple[int, int]], ...]


def read_bundle(raw: bytes, made_small: MadeSmall, woods: tuple[OwnWood, ...], *, of_book: bool = False) -> ReadBundle:
    """A job with all that hangs on it, out of a file. woods: those known here; of_book: it lies in the book of a whole
    shop, which holds no runs and no pictures. Raises: PlanError, JobFaulty."""
    parts = ZipParts(raw)
    head: Manifest = parts.document("manifest.json", Manifest)
    if of_book and (head.runs or head.pictures):
        raise PlanError("file", "A job in that file has runs or pictures; a shop's logbook file never does.")
    here = {w.key for w in woods}
    new = tuple(w for w in head.woods if w.key not in here)
    body = parts.read("job.json")
    try:
        raw_job = json.loads(body)
    except (RecursionError, ValueError):  # also of a number of thousands of digits
        raise PlanError("file", "job.json is not what its name says.") from None
    job = read_job(raw_job, woods=(*woods, *new))
    forms = [parts.document(f"forms/{n}.json", BundledForm) for n in range(head.forms)]
    runs = [parts.document(f"runs/{n}.json", BundledRun) for n in range(head.runs)]
    trials = [parts.document(f"trials/{n}.json", Trial) for n in range(head.trials)]
    briefs, events = [_brief(r, n) for n, r in enumerate(runs)], [_events(r, n) for n, r in enumerate(runs)]
    photos = [
        [(*_photo(p, n), made_small(parts.read(f"photos/{n}/{_photo(p, n)[0]}.jpg"))[0]) for p in r.photos]
        for n, r in enumerate(runs)
    ]
    days = [[_days(p, n) for p in f.pieces] for n, f in enumerate(forms)]
    told = parts.document("pictures.json", BundledPictures).pictures if head.pictures else ()
    pictures = [(row, *made_small(parts.read(f"pictures/{n}.jpg"))) for n, row in enumerate(told)]
    return ReadBundle(
        head,
        job,
        new,
        tuple(forms),
        tuple(days),
        tuple(zip(runs, briefs, events, photos, strict=True)),
        tuple(trials),
        tuple(pictures),
    )


def brought(
    store: Store, raw: bytes, made_small: MadeSmall, woods: tuple[OwnWood, ...], *, teaches: bool = True
) -> int:
    """Read a file and keep what is in it: `read_bundle`, then `keep_bundle`. Needs a connection. Raises: PlanError,
    JobFaulty, NotKept."""
    return keep_bundle(store, read_bundle(raw, made_small, woods), teaches=teaches)


def keep_bundle(store: Store, read: ReadBundle, *, teaches: bool = True) -> int:
    """Keep a job with all that hangs on it, all or nothing; whose shop it was stands in its history and with its forms.
    Woods and sheets of that shop's own come along where there are none of that name.

    teaches: whether its bends are learnt from here, or kept and left out. Returns its number here. Needs a connection.
    Raises: NotKept.
    """
    shop, head, forms = store.shop_settings.get(), read.head, read.forms
    if not teaches:
        forms = tuple(f.model_copy(update={"pieces": tuple(_left_out(p) for p in f.pieces)}) for f in forms)
    origin = "" if head.shop == shop.name else head.shop
    with store.writing():
        here, known = {w.key for w in shop.woods}, {s.key for s in shop.sheets}
        new = tuple(w for w in read.woods if w.key not in here)
        sheets = tuple(s for s in head.sheets if s.key not in known)
        if new or sheets:
            own = {"woods": (*shop.woods, *new), "sheets": (*shop.sheets, *sheets)}
            store.shop_settings.save(shop.model_copy(update=own))
        job_id = _started(store, read.job, head)
        ids = _runs_kept(store, job_id, list(read.runs))
        pieces = [_form_kept(store, job_id, f, own, ids, origin) for f, own in zip(forms, read.days, strict=True)]
        for row, body, size in read.pictures:
            made = store.pictures.add(job_id, body, size, piece_id=_piece_here(pieces, row), note=row.note)
            if row.marks:
                store.pictures.save_marks(made, row.marks)
        for trial in read.trials:
            store.trials.add(job_id, trial.model_copy(update={"in_days": None}))  # of that shop's days
    return job_id


def _left_out(piece: BundledPiece) -> BundledPiece:
    return piece.model_copy(update={"left_out": True})


def _started(store: Store, job: Job, head: Manifest) -> int:
    own = job.model_copy(update={"days": Days()})  # what was pinned was by another shop's clock
    return store.jobs.add(own, f"imported with its records{' from ' + head.shop if head.shop else ''}"[:200])


def _runs_kept(store: Store, job_id: int, runs: list[Any]) -> list[int]:
    """Runs with what happened in them, put away; returns their numbers here."""
    revision, ids = store.jobs.get(job_id).revision, list[int]()
    for run, brief, events, photos in runs:
        run_id = store.runs.start(job_id, run.kind, revision, brief)
        RunRow.update(at=run.at, ended=run.ended or run.at).where(RunRow.id == run_id).execute()
        for some in (events[i : i + 500] for i in range(0, len(events), 500)):
            store.runs.add_events(run_id, some)
        for client, piece, body in photos:
            store.runs.add_photo(run_id, client, piece, brief.started_s, body)
        RunRow.update(ended=run.ended or run.at).where(RunRow.id == run_id).execute()
        ids.append(run_id)
    return ids


def _piece_here(pieces: list[list[int]], row: BundledPicture) -> int | None:
    """The piece a picture shows, where it came along."""
    of, n = row.form, row.piece
    if of is None or n is None or of >= len(pieces) or n >= len(pieces[of]):
        return None
    return pieces[of][n]


def _form_kept(
    store: Store, job_id: int, form: BundledForm, days: list[list[dt.date]], runs: list[int], origin: str
) -> list[int]:
    """A form and its pieces; returns their numbers here."""
    form_id, made = store.logbook.save_form(job_id, form.built, form.origin or origin), list[int]()
    for piece, measured_on in zip(form.pieces, days, strict=True):
        of_run = None
        if piece.run is not None and piece.number is not None and piece.run < len(runs):
            of_run = runs[piece.run], piece.number
        more: dict[str, Any] = piece.model_dump(include={"label", "mishap", "note", "hand"}) | {"of_run": of_run}
        if not piece.measurements:
            piece_id = store.logbook.add_unmeasured(form_id, **more)
            PieceRow.update(left_out=piece.left_out).where(PieceRow.id == piece_id).execute()
        else:
            own = zip(piece.measurements, measured_on, strict=True)
            reads = [m.model_dump(exclude={"day"}) | {"day": day} for m, day in own]
            piece_id = store.logbook.add_piece(form_id, **more, **reads[0], left_out=piece.left_out)
            for read in reads[1:]:
                store.logbook.measure_again(piece_id, **read)
        if piece.verdict:
            store.logbook.save_decision(piece_id, piece.verdict, piece.correction)
        made.append(piece_id)
    return made


def _brief(run: BundledRun, n: int) -> Any:
    try:
        return replace(read_brief(json.dumps(run.brief)), trial=0)  # the number of a trial in another shop
    except (ValueError, RecursionError):
        raise PlanError("file", f"The plan of runs/{n}.json cannot be read.") from None


def _events(run: BundledRun, n: int) -> list[Event]:
    made = []
    try:
        for row in run.events:
            e = Event(**row)
            numbers = (e.at_s, e.wall_s, e.value, e.number)
            words = (e.client, e.key, e.text, e.where, e.of, e.source)
            if e.kind not in KINDS or not all(isinstance(v, int | float) for v in numbers):
                raise ValueError(e.kind)
            if not -1e6 <= e.at_s <= LATEST_S or not 0 <= e.wall_s <= LATEST_S or not -1 <= e.number <= MOST_PIECES:
                raise ValueError("time or number")
            if not abs(e.value) <= MOST_VALUE:
                raise ValueError("value")
            if not all(isinstance(w, str) and len(w) <= 1_000 for w in words) or not e.client:
                raise ValueError("words")
            made.append(e)
    except (TypeError, ValueError):
        raise PlanError("file", f"What happened in runs/{n}.json cannot be read.") from None
    return made


def _photo(row: dict[str, Any], n: int) -> tuple[str, int]:
    client, piece = row.get("client"), row.get("piece", -1)
    if not isinstance(client, str) or not client.replace("-", "").isalnum() or len(client) > 64:
        raise PlanError("file", f"A picture in runs/{n}.json has an impossible name.")
    return client, piece if isinstance(piece, int) and -1 <= piece <= 100_000 else -1


def _days(piece: BundledPiece, n: int) -> list[dt.date]:
    if piece.mishap not in MISHAPS:
        raise PlanError("file", f"A piece in forms/{n}.json has an unknown fault.")
    try:
        made = [dt.date.fromisoformat(m.day) for m in piece.measurements]
    except ValueError:
        raise PlanError("file", f"A date in forms/{n}.json is not a date.") from None
    if any(not dt.date(1900, 1, 1) <= day <= dt.date(2200, 1, 1) for day in made):
        raise PlanError("file", f"A date in forms/{n}.json is impossible.")
    return made
