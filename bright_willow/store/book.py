"""The store: everything a shop keeps, in one SQLite file in the data folder."""

from __future__ import annotations

import datetime as dt
import threading
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from peewee import SqliteDatabase
from playhouse.migrations import Runner
from pydantic import ValidationError

from ..core.book.built_form import FAILED, BuiltForm
from ..core.experience.belief import Bend, Learnt, learn
from ..core.job.job import Job
from ..core.shape.arc import Face
from ..core.shop.shop import Shop
from ..core.wood.lot import Lot
from .tables import ALL, FormRow, JobRow, LotRow, MeasurementRow, PieceRow, RevisionRow, ShopRow, database

MIGRATIONS = Path(__file__).parent / "migrations"
PRAGMAS = {"journal_mode": "wal", "foreign_keys": 1, "busy_timeout": 5000, "synchronous": "full"}


class NotThere(LookupError):
    """No such job, piece or revision."""


@dataclass(frozen=True)
class JobState:
    """A job as it stands, and what can be done with its history."""

    id: int
    job: Job
    revision: int
    can_undo: bool
    can_redo: bool
    settled: frozenset[str]
    changed: dt.datetime


@dataclass(frozen=True)
class Revision:
    """A line of a job's history."""

    id: int
    at: dt.datetime
    what: str
    is_current: bool


@dataclass(frozen=True)
class Measurement:
    """Chord and rise of a piece on a day."""

    id: int
    day: dt.date
    chord_mm: float
    rise_mm: float
    face: Face
    error_mm: float


@dataclass(frozen=True)
class Piece:
    """A piece off a form, with its measurements in order of day; none where it failed before it could be measured."""

    id: int
    form_id: int
    label: str
    mishap: str
    left_out: bool
    note: str
    measurements: tuple[Measurement, ...]
    hand: str = ""

    @property
    def has_failed(self) -> bool:
        """Whether it can no longer be used."""
        return self.mishap in FAILED


@dataclass(frozen=True)
class KeptLot:
    """A lot on the rack."""

    id: int
    lot: Lot


@dataclass(frozen=True)
class KeptForm:
    """A built form and its pieces."""

    id: int
    job_id: int
    at: dt.datetime
    built: BuiltForm
    pieces: tuple[Piece, ...]


def _now() -> dt.datetime:
    return dt.datetime.now(dt.UTC).replace(tzinfo=None)


class _Staying(threading.local):
    """Of each thread: whether its connection stays open, and what it remembers of its reads."""

    stays = False
    seen_version = 0
    mark: tuple[Any, ...] = ()

    def __init__(self) -> None:
        self.memory: dict[tuple[Any, ...], Any] = {}


class Store:
    """Opens (and brings up to date) the database in a folder. One per process; every call needs `connected()`."""

    def __init__(self, folder: Path) -> None:
        folder.mkdir(parents=True, exist_ok=True)
        self.path = folder / "bright-willow.sqlite3"
        self.db = SqliteDatabase(str(self.path), pragmas=PRAGMAS)
        database.initialize(self.db)
        self.db.bind(ALL)
        self._mine = _Staying()
        self._learnt: tuple[Any, Learnt] | None = None
        with self.connected():
            Runner(self.db, directory=str(MIGRATIONS)).up()

    @contextmanager
    def connected(self) -> Iterator[None]:
        """A connection on this thread for the length of a with block.

        The thread that answers small questions all the time (`stay_connected`) keeps its own open.
        """
        if self._mine.stays:
            self.db.connect(reuse_if_open=True)
            self._mine.seen_version = self.db.execute_sql("pragma data_version").fetchone()[0]
            yield
        else:
            with self.db.connection_context():
                yield

    def stay_connected(self) -> None:
        """From now on this thread's connection stays open, and what it reads is remembered until anything changes."""
        self._mine.stays = True

    def close(self) -> None:
        """Close this thread's connection."""
        if not self.db.is_closed():
            self.db.close()
        self._mine.stays = False

    def _remembered(self, key: tuple[Any, ...], read: Callable[[], Any]) -> Any:
        """What a read found, from memory while neither this connection nor another has written since."""
        mine = self._mine
        if not mine.stays:
            return read()
        mark = (mine.seen_version, self.db.connection().total_changes)
        if mark != mine.mark:
            mine.memory, mine.mark = {}, mark
        if key not in mine.memory:
            mine.memory[key] = read()
        return mine.memory[key]

    # -- shop -----------------------------------------------------------------------------------------------------
    def shop(self) -> Shop:
        return self._remembered(("shop",), self._read_shop)  # type: ignore[no-any-return]

    def _read_shop(self) -> Shop:
        row = ShopRow.get_or_none()
        return Shop.model_validate_json(row.body) if row else Shop()

    def save_shop(self, shop: Shop) -> None:
        with self.db.atomic("IMMEDIATE"):
            row = ShopRow.get_or_none()
            if row:
                ShopRow.update(body=shop.model_dump_json()).where(ShopRow.id == row.id).execute()
            else:
                ShopRow.create(body=shop.model_dump_json())

    # -- rack -----------------------------------------------------------------------------------------------------
    def lots(self) -> list[KeptLot]:
        """Every lot on the rack, by name. Names are unique."""
        return [KeptLot(r.id, Lot.model_validate_json(r.body)) for r in LotRow.select().order_by(LotRow.name)]

    def lot(self, lot_id: int) -> KeptLot:
        """Raises: NotThere."""
        row = LotRow.get_or_none(LotRow.id == lot_id)
        if row is None:
            raise NotThere("There is no such lot.")
        return KeptLot(row.id, Lot.model_validate_json(row.body))

    def keep_lot(self, lot: Lot, lot_id: int | None = None) -> int | None:
        """A new lot, or an old one changed. None when another lot has that name."""
        with self.db.atomic("IMMEDIATE"):
            namesake = LotRow.get_or_none(LotRow.name == lot.name)
            if namesake is not None and namesake.id != lot_id:
                return None
            if lot_id is None:
                return int(LotRow.create(name=lot.name, body=lot.model_dump_json()).id)
            LotRow.update(name=lot.name, body=lot.model_dump_json()).where(LotRow.id == lot_id).execute()
        return lot_id

    def remove_lot(self, lot_id: int) -> None:
        """Take a used-up lot off the rack; jobs keep what they know of it."""
        self.lot(lot_id)
        LotRow.delete().where(LotRow.id == lot_id).execute()

    # -- jobs -----------------------------------------------------------------------------------------------------
    def jobs(self) -> list[JobState]:
        """All jobs that are not put away, the last changed first. A job that cannot be read is left out."""
        rows = JobRow.select().where(JobRow.archived.is_null())
        states = []
        for row in rows:
            try:
                states.append(self._state(row))
            except (NotThere, ValidationError):
                continue
        return sorted(states, key=lambda s: s.changed, reverse=True)

    def job(self, job_id: int) -> JobState:
        """Raises: NotThere."""
        return self._remembered(("job", job_id), lambda: self._read_job(job_id))  # type: ignore[no-any-return]

    def _read_job(self, job_id: int) -> JobState:
        row = JobRow.get_or_none(JobRow.id == job_id)
        if row is None:
            raise NotThere("There is no such job.")
        return self._state(row)

    def _state(self, row: JobRow) -> JobState:
        revision = RevisionRow.get_or_none(RevisionRow.id == (row.current or 0))
        if revision is None:
            raise NotThere("This job has no revision.")
        has_child = RevisionRow.select().where(RevisionRow.parent == revision.id).exists()
        settled = frozenset(s for s in row.settled.split(",") if s)
        return JobState(
            row.id,
            Job.model_validate_json(revision.body),
            revision.id,
            revision.parent_id is not None,
            has_child,
            settled,
            revision.at,
        )

    def add_job(self, job: Job, what: str = "started") -> int:
        with self.db.atomic("IMMEDIATE"):
            row = JobRow.create(created=_now())
            revision = RevisionRow.create(job=row, parent=None, at=_now(), what=what, body=job.model_dump_json())
            JobRow.update(current=revision.id).where(JobRow.id == row.id).execute()
        return int(row.id)

    def save_job(self, job_id: int, job: Job, what: str) -> bool:
        """A new revision, unless nothing changed. Returns whether one was made."""
        with self.db.atomic("IMMEDIATE"):
            state = self.job(job_id)
            if state.job == job:
                return False
            revision = RevisionRow.create(
                job=job_id, parent=state.revision, at=_now(), what=what, body=job.model_dump_json()
            )
            JobRow.update(current=revision.id).where(JobRow.id == job_id).execute()
        return True

    def undo(self, job_id: int) -> bool:
        """Back to the revision before; False when there is none."""
        with self.db.atomic("IMMEDIATE"):
            current = RevisionRow.get_or_none(RevisionRow.id == self.job(job_id).revision)
            if current is None or current.parent_id is None:
                return False
            JobRow.update(current=current.parent_id).where(JobRow.id == job_id).execute()
        return True

    def redo(self, job_id: int) -> bool:
        """Forward to the newest revision made from this one; False when there is none."""
        with self.db.atomic("IMMEDIATE"):
            now = self.job(job_id).revision
            child = RevisionRow.select().where(RevisionRow.parent == now).order_by(RevisionRow.id.desc()).first()
            if child is None:
                return False
            JobRow.update(current=child.id).where(JobRow.id == job_id).execute()
        return True

    def history(self, job_id: int) -> list[Revision]:
        """Every revision ever made of a job, newest first."""
        now = self.job(job_id).revision
        rows = RevisionRow.select().where(RevisionRow.job == job_id).order_by(RevisionRow.id.desc())
        return [Revision(r.id, r.at, r.what, r.id == now) for r in rows]

    def go_back_to(self, job_id: int, revision_id: int) -> None:
        """Make an old revision the current one. Raises: NotThere."""
        with self.db.atomic("IMMEDIATE"):
            row = RevisionRow.get_or_none((RevisionRow.id == revision_id) & (RevisionRow.job == job_id))
            if row is None:
                raise NotThere("There is no such revision of this job.")
            JobRow.update(current=row.id).where(JobRow.id == job_id).execute()

    def settle(self, job_id: int, stage: str) -> None:
        with self.db.atomic("IMMEDIATE"):
            settled = self.job(job_id).settled | {stage}
            JobRow.update(settled=",".join(sorted(settled))).where(JobRow.id == job_id).execute()

    def put_away(self, job_id: int, away: bool = True) -> None:
        """Take a job off the list, or bring it back; its bends go on teaching."""
        self.job(job_id)
        JobRow.update(archived=_now() if away else None).where(JobRow.id == job_id).execute()

    def jobs_put_away(self) -> list[JobState]:
        return [self._state(row) for row in JobRow.select().where(JobRow.archived.is_null(False))]

    # -- forms, pieces, measurements ------------------------------------------------------------------------------
    def keep_form(self, job_id: int, built: BuiltForm) -> int:
        """Freeze a form as built. Built again unchanged, it is the same form."""
        with self.db.atomic("IMMEDIATE"):
            last = FormRow.select().where(FormRow.job == job_id).order_by(FormRow.id.desc()).first()
            if last and BuiltForm.model_validate_json(last.body) == built:
                return int(last.id)
            return int(FormRow.create(job=job_id, at=_now(), body=built.model_dump_json()).id)

    def forms(self, job_id: int | None = None) -> list[KeptForm]:
        """Forms of a job, or of all jobs, oldest first, with their pieces."""
        return self._remembered(("forms", job_id), lambda: self._read_forms(job_id))  # type: ignore[no-any-return]

    def _read_forms(self, job_id: int | None) -> list[KeptForm]:
        query = FormRow.select().order_by(FormRow.id)
        if job_id is not None:
            query = query.where(FormRow.job == job_id)
        pieces = self._pieces([row.id for row in query])
        return [
            KeptForm(r.id, r.job_id, r.at, BuiltForm.model_validate_json(r.body), tuple(pieces.get(r.id, ())))
            for r in query
        ]

    def form(self, form_id: int) -> KeptForm:
        """Raises: NotThere."""
        row = FormRow.get_or_none(FormRow.id == form_id)
        if row is None:
            raise NotThere("There is no such form.")
        pieces = self._pieces([row.id]).get(row.id, ())
        return KeptForm(row.id, row.job_id, row.at, BuiltForm.model_validate_json(row.body), tuple(pieces))

    def _pieces(self, form_ids: list[int]) -> dict[int, list[Piece]]:
        found: dict[int, list[Piece]] = {}
        seen: dict[int, list[Measurement]] = {}
        rows = list(PieceRow.select().where(PieceRow.form.in_(form_ids)).order_by(PieceRow.id))
        taken = MeasurementRow.select().join(PieceRow).where(PieceRow.form.in_(form_ids))
        for m in taken.order_by(MeasurementRow.day, MeasurementRow.id):
            seen.setdefault(m.piece_id, []).append(Measurement(m.id, m.day, m.chord_mm, m.rise_mm, m.face, m.error_mm))
        for r in rows:
            found.setdefault(r.form_id, []).append(
                Piece(r.id, r.form_id, r.label, r.mishap, r.left_out, r.note, tuple(seen.get(r.id, ())), r.hand)
            )
        return found

    def add_piece(
        self,
        form_id: int,
        *,
        label: str,
        day: dt.date,
        chord_mm: float,
        rise_mm: float,
        face: Face,
        error_mm: float,
        mishap: str = "",
        left_out: bool = False,
        note: str = "",
        hand: str = "",
    ) -> int:
        """A piece with its first measurement, together or not at all."""
        with self.db.atomic("IMMEDIATE"):
            piece = PieceRow.create(form=form_id, label=label, mishap=mishap, left_out=left_out, note=note, hand=hand)
            MeasurementRow.create(
                piece=piece, day=day, chord_mm=chord_mm, rise_mm=rise_mm, face=face, error_mm=error_mm
            )
        return int(piece.id)

    def add_unmeasured(self, form_id: int, *, label: str, mishap: str, note: str = "", hand: str = "") -> int:
        """A piece without a measurement, failed or off a form that cannot open: it counts for the yield only."""
        made = PieceRow.create(form=form_id, label=label, mishap=mishap, left_out=True, note=note, hand=hand)
        return int(made.id)

    def remove_piece(self, piece_id: int) -> int:
        """Take a piece out with all its measurements. Returns the job's id. Raises: NotThere."""
        form, _ = self.piece(piece_id)
        PieceRow.delete().where(PieceRow.id == piece_id).execute()
        return form.job_id

    def piece(self, piece_id: int) -> tuple[KeptForm, Piece]:
        """A piece and the form it came off. Raises: NotThere."""
        row = PieceRow.get_or_none(PieceRow.id == piece_id)
        if row is None:
            raise NotThere("There is no such piece.")
        form = self.form(row.form_id)
        return form, next(p for p in form.pieces if p.id == piece_id)

    def measure_again(
        self, piece_id: int, *, day: dt.date, chord_mm: float, rise_mm: float, face: Face, error_mm: float
    ) -> None:
        self.piece(piece_id)
        MeasurementRow.create(piece=piece_id, day=day, chord_mm=chord_mm, rise_mm=rise_mm, face=face, error_mm=error_mm)

    def leave_out(self, piece_id: int, out: bool) -> None:
        """Take a piece out of what is learnt, or back in."""
        self.piece(piece_id)
        PieceRow.update(left_out=out).where(PieceRow.id == piece_id).execute()

    def remove_measurement(self, measurement_id: int) -> int:
        """Take a slip of the pen out again, and its piece with it if it was the only one. Returns the job's id."""
        row = MeasurementRow.get_or_none(MeasurementRow.id == measurement_id)
        if row is None:
            raise NotThere("There is no such measurement.")
        piece = PieceRow.get_by_id(row.piece_id)
        job_id = int(FormRow.get_by_id(piece.form_id).job_id)
        with self.db.atomic("IMMEDIATE"):
            MeasurementRow.delete().where(MeasurementRow.id == measurement_id).execute()
            if not MeasurementRow.select().where(MeasurementRow.piece == piece.id).exists():
                PieceRow.delete().where(PieceRow.id == piece.id).execute()
        return job_id

    # -- what is learnt -------------------------------------------------------------------------------------------
    def bends(self) -> list[Bend]:
        """One record for each measured piece: its first measurement, which is nearest to release."""
        return list(self._bends())

    def _bends(self) -> Iterable[Bend]:
        for form in self.forms():
            for piece in form.pieces:
                if not piece.measurements:
                    continue
                first = piece.measurements[0]
                yield form.built.record(
                    chord_mm=first.chord_mm,
                    rise_mm=first.rise_mm,
                    face=first.face,
                    error_mm=first.error_mm,
                    left_out=piece.left_out,
                    label=piece.label,
                )

    def learnt(self) -> Learnt:
        """What all bends teach; computed anew only when a piece or a measurement has changed."""
        return self._remembered(("learnt",), self._read_learnt)  # type: ignore[no-any-return]

    def _read_learnt(self) -> Learnt:
        cursor = self.db.execute_sql(
            "select (select count(*) from measurement), (select coalesce(sum(chord_mm), 0) from measurement),"
            " (select coalesce(sum(rise_mm), 0) from measurement), (select coalesce(max(id), 0) from measurement),"
            " (select count(*) from piece), (select coalesce(sum(left_out), 0) from piece),"
            " (select coalesce(sum(id * left_out), 0) from piece), (select coalesce(max(id), 0) from piece)"
        )
        mark = cursor.fetchone()
        if self._learnt is None or self._learnt[0] != mark:
            self._learnt = (mark, replace(learn(self.bends()), made=self._made()))
        return self._learnt[1]

    def _made(self) -> dict[tuple[str, str], tuple[int, int]]:
        """Pieces that came out whole, and that failed, by way and stock group."""
        made: dict[tuple[str, str], tuple[int, int]] = {}
        for form in self.forms():
            good, failed = made.get((form.built.way, form.built.group), (0, 0))
            lost = sum(piece.has_failed for piece in form.pieces)
            made[form.built.way, form.built.group] = (good + len(form.pieces) - lost, failed + lost)
        return made
