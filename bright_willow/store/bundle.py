"""A job with all that hangs on it as one open file (ZIP): forms, pieces, measurements, runs, photos, trials. Written,
and read back with every part checked: nothing unfolds without end, nothing is what it is not."""

from __future__ import annotations

import datetime as dt
import io
import json
import zipfile
from collections.abc import Callable
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from ..core.bench.events import KINDS, Event
from ..core.book.built_form import MISHAPS, BuiltForm
from ..core.book.trial import Trial
from ..core.ground.document import Document
from ..core.ground.errors import OutOfRange
from ..core.job.days import Days
from ..core.job.job import Job
from ..core.plan.read import read_job
from ..core.shape.arc import Face
from ..core.wood.species import OwnWood
from .book import Store
from .records import Measurement
from .runs import BRIEFS, MORE
from .tables import PieceRow, RunRow

FORMAT = "bright-willow-bundle"
MOST_FILES, MOST_BYTES, MOST_EACH = 1_000, 60_000_000, 8_000_000
MOST_EVENTS = 20_000


class Reading(Document):
    """Chord and rise of a piece on a day."""

    day: str = Field(max_length=10)
    chord_mm: float = Field(gt=0, le=100_000, allow_inf_nan=False)
    rise_mm: float = Field(ge=-100_000, le=100_000, allow_inf_nan=False)
    face: Face
    error_mm: float = Field(gt=0, le=100, allow_inf_nan=False)


class BundledPiece(Document):
    """A piece off a form; run and number: which of the runs of this file it was, by its place there, from 0."""

    label: str = Field(min_length=1, max_length=40)
    mishap: str = Field(default="", max_length=40)
    left_out: bool = False
    note: str = Field(default="", max_length=4_000)
    hand: Literal["", "left", "right"] = ""
    run: int | None = Field(default=None, ge=0, le=10_000)
    number: int | None = Field(default=None, ge=0, le=100_000)
    measurements: tuple[Reading, ...] = Field(default=(), max_length=500, strict=False)


class BundledForm(Document):
    """A built form and its pieces."""

    built: BuiltForm
    pieces: tuple[BundledPiece, ...] = Field(default=(), max_length=2_000, strict=False)


class BundledRun(BaseModel):
    """A run with what it goes by and what happened."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)
    kind: Literal["run", "rehearsal", "game"]
    at: dt.datetime
    ended: dt.datetime | None = None
    brief: dict[str, Any]
    events: list[dict[str, Any]] = Field(max_length=MOST_EVENTS)
    photos: list[dict[str, Any]] = Field(default_factory=list, max_length=300)


class Manifest(Document):
    """What the file is, where it is from, and how much is in it."""

    format: Literal["bright-willow-bundle"]
    version: Literal[1]
    shop: str = Field(default="", max_length=80)
    forms: int = Field(default=0, ge=0, le=500)
    runs: int = Field(default=0, ge=0, le=500)
    trials: int = Field(default=0, ge=0, le=500)


# -- written -----------------------------------------------------------------------------------------------------------
def bundled(store: Store, job_id: int) -> bytes:
    """A job and all that hangs on it. Needs a connection. Raises: NotThere."""
    job, shop = store.job(job_id).job, store.shop()
    forms, runs, trials = store.forms(job_id), list(reversed(store.runs(job_id, most=500))), store.trials(job_id)
    place = {run.id: n for n, run in enumerate(runs)}
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as file:
        head = Manifest(format=FORMAT, version=1, shop=shop.name, forms=len(forms), runs=len(runs), trials=len(trials))
        file.writestr("manifest.json", head.model_dump_json(indent=1))
        file.writestr("job.json", job.model_dump_json(indent=1))
        for n, form in enumerate(forms):
            pieces = tuple(
                BundledPiece(
                    label=p.label,
                    mishap=p.mishap,
                    left_out=p.left_out,
                    note=p.note,
                    hand=p.hand,  # type: ignore[arg-type]
                    run=place.get(p.run) if p.run is not None else None,
                    number=p.number,
                    measurements=tuple(_reading(m) for m in p.measurements),
                )
                for p in form.pieces
            )
            file.writestr(f"forms/{n}.json", BundledForm(built=form.built, pieces=pieces).model_dump_json(indent=1))
        for n, run in enumerate(runs):
            photos = store.photos(run.id)
            made = BundledRun(
                kind=run.kind,
                at=run.at,
                ended=run.ended,
                brief=json.loads(run.body),
                events=[_event(e) for _, e in store.events(run.id)],
                photos=[{"client": client, "piece": piece} for _, client, piece in photos],
            )
            file.writestr(f"runs/{n}.json", made.model_dump_json(indent=1))
            for _, client, _ in photos:
                file.writestr(f"photos/{n}/{client}.jpg", store.photo(run.id, client))
        for n, kept in enumerate(trials):
            file.writestr(f"trials/{n}.json", kept.trial.model_dump_json(indent=1))
    return out.getvalue()


def _reading(m: Measurement) -> Reading:
    return Reading(day=m.day.isoformat(), chord_mm=m.chord_mm, rise_mm=m.rise_mm, face=m.face, error_mm=m.error_mm)


def _event(e: Event) -> dict[str, Any]:
    return {"at_s": e.at_s, "wall_s": e.wall_s, "kind": e.kind, "client": e.client} | {n: getattr(e, n) for n in MORE}


# -- read --------------------------------------------------------------------------------------------------------------
def is_bundle(raw: bytes) -> bool:
    """Whether a file is a ZIP, by its own first letters, whatever it is called."""
    return raw[:4] == b"PK\x03\x04"


class _Parts:
    """The files of a ZIP, each read once, none larger than it may be."""

    def __init__(self, raw: bytes) -> None:
        try:
            self.zip = zipfile.ZipFile(io.BytesIO(raw))
        except (zipfile.BadZipFile, ValueError, OSError, NotImplementedError):
            raise OutOfRange("file", "That file is damaged: it is no ZIP that can be read.") from None
        infos = self.zip.infolist()
        if len(infos) > MOST_FILES or sum(i.file_size for i in infos) > MOST_BYTES:
            raise OutOfRange("file", "There is more in that file than this program takes in: up to 60 MB.")
        self.names = {i.filename for i in infos if not i.is_dir()}

    def read(self, name: str) -> bytes:
        """One file; no more of it is unfolded than it may hold, whatever it says of itself. Raises: OutOfRange."""
        if name not in self.names:
            raise OutOfRange("file", f"{name} is missing in that file.")
        try:
            with self.zip.open(name) as part:
                body = part.read(MOST_EACH + 1)
        except (zipfile.BadZipFile, RuntimeError, OSError, NotImplementedError, EOFError, ValueError):
            raise OutOfRange("file", f"{name} cannot be read: it is damaged, or locked.") from None
        if len(body) > MOST_EACH:
            raise OutOfRange("file", f"{name} is larger than it may be.")
        return body

    def document(self, name: str, of: type[BaseModel]) -> Any:
        try:
            return of.model_validate_json(self.read(name))
        except ValidationError:
            raise OutOfRange("file", f"{name} is not what it says it is.") from None


def brought(
    store: Store,
    raw: bytes,
    made_small: Callable[[bytes], bytes],
    woods: tuple[OwnWood, ...],
    *,
    teaches: bool = True,
) -> int:
    """A job with all that hangs on it, out of a file; whose shop it was stands in its history. All of it or nothing.

    made_small: makes a picture anew; teaches: whether its bends are learnt from here, or kept and left out. Needs a
    connection. Raises: OutOfRange, JobFaulty, NotKept.
    """
    parts = _Parts(raw)
    head: Manifest = parts.document("manifest.json", Manifest)
    try:
        job = read_job(json.loads(parts.read("job.json")), woods=woods)
    except (UnicodeDecodeError, json.JSONDecodeError, RecursionError):
        raise OutOfRange("file", "job.json is not what it says it is.") from None
    forms = [parts.document(f"forms/{n}.json", BundledForm) for n in range(head.forms)]
    runs = [parts.document(f"runs/{n}.json", BundledRun) for n in range(head.runs)]
    trials = [parts.document(f"trials/{n}.json", Trial) for n in range(head.trials)]
    briefs, events = [_brief(r, n) for n, r in enumerate(runs)], [_events(r, n) for n, r in enumerate(runs)]
    photos = [
        [(*_photo(p, n), made_small(parts.read(f"photos/{n}/{_photo(p, n)[0]}.jpg"))) for p in r.photos]
        for n, r in enumerate(runs)
    ]
    days = [[_days(p, n) for p in f.pieces] for n, f in enumerate(forms)]
    if not teaches:
        silent = [f.model_copy(update={"pieces": tuple(_left_out(p) for p in f.pieces)}) for f in forms]
        forms = silent
    with store.writing():
        job_id = _started(store, job, head)
        ids = _runs_kept(store, job_id, list(zip(runs, briefs, events, photos, strict=True)))
        for form, own in zip(forms, days, strict=True):
            _form_kept(store, job_id, form, own, ids)
        for trial in trials:
            store.add_trial(job_id, trial)
    return job_id


def _left_out(piece: BundledPiece) -> BundledPiece:
    return piece.model_copy(update={"left_out": True})


def _started(store: Store, job: Job, head: Manifest) -> int:
    own = job.model_copy(update={"days": Days()})  # what was pinned was by another shop's clock
    return store.add_job(own, f"brought in with its book{' from ' + head.shop if head.shop else ''}"[:200])


def _runs_kept(store: Store, job_id: int, runs: list[Any]) -> list[int]:
    """Runs with what happened in them, put away; returns their numbers here."""
    revision, ids = store.job(job_id).revision, list[int]()
    for run, brief, events, photos in runs:
        run_id = store.start_run(job_id, run.kind, revision, brief)
        RunRow.update(at=run.at, ended=run.ended or run.at).where(RunRow.id == run_id).execute()
        for some in (events[i : i + 500] for i in range(0, len(events), 500)):
            store.add_events(run_id, some)
        for client, piece, body in photos:
            store.add_photo(run_id, client, piece, brief.started_s, body)
        RunRow.update(ended=run.ended or run.at).where(RunRow.id == run_id).execute()
        ids.append(run_id)
    return ids


def _form_kept(store: Store, job_id: int, form: BundledForm, days: list[list[dt.date]], runs: list[int]) -> None:
    form_id = store.keep_form(job_id, form.built)
    for piece, measured_on in zip(form.pieces, days, strict=True):
        of_run = None
        if piece.run is not None and piece.number is not None and piece.run < len(runs):
            of_run = runs[piece.run], piece.number
        more: dict[str, Any] = piece.model_dump(include={"label", "mishap", "note", "hand"}) | {"of_run": of_run}
        if not piece.measurements:
            piece_id = store.add_unmeasured(form_id, **more)
            PieceRow.update(left_out=piece.left_out).where(PieceRow.id == piece_id).execute()
            continue
        own = zip(piece.measurements, measured_on, strict=True)
        reads = [m.model_dump(exclude={"day"}) | {"day": day} for m, day in own]
        piece_id = store.add_piece(form_id, **more, **reads[0], left_out=piece.left_out)
        for read in reads[1:]:
            store.measure_again(piece_id, **read)


def _brief(run: BundledRun, n: int) -> Any:
    try:
        brief = BRIEFS.validate_json(json.dumps(run.brief))
        _ = brief.web  # its operations must hang together
        return brief
    except (ValidationError, ValueError, KeyError, RecursionError):
        raise OutOfRange("file", f"The plan of runs/{n}.json cannot be read.") from None


def _events(run: BundledRun, n: int) -> list[Event]:
    made = []
    try:
        for row in run.events:
            e = Event(**row)
            numbers = (e.at_s, e.wall_s, e.value, e.number)
            words = (e.client, e.key, e.text, e.where, e.of, e.source)
            if e.kind not in KINDS or not all(isinstance(v, int | float) for v in numbers):
                raise ValueError(e.kind)
            if not all(isinstance(w, str) and len(w) <= 1_000 for w in words) or not e.client:
                raise ValueError("words")
            made.append(e)
    except (TypeError, ValueError):
        raise OutOfRange("file", f"What happened in runs/{n}.json cannot be read.") from None
    return made


def _photo(row: dict[str, Any], n: int) -> tuple[str, int]:
    client, piece = row.get("client"), row.get("piece", -1)
    if not isinstance(client, str) or not client.replace("-", "").isalnum() or len(client) > 64:
        raise OutOfRange("file", f"A picture of runs/{n}.json has no name that can be.")
    return client, piece if isinstance(piece, int) and -1 <= piece <= 100_000 else -1


def _days(piece: BundledPiece, n: int) -> list[dt.date]:
    if piece.mishap not in MISHAPS:
        raise OutOfRange("file", f"A piece of forms/{n}.json has a mishap nobody knows.")
    try:
        made = [dt.date.fromisoformat(m.day) for m in piece.measurements]
    except ValueError:
        raise OutOfRange("file", f"A day in forms/{n}.json is no day.") from None
    if any(not dt.date(1900, 1, 1) <= day <= dt.date(2200, 1, 1) for day in made):
        raise OutOfRange("file", f"A day in forms/{n}.json is no day of ours.")
    return made
