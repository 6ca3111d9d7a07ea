"""Runs at the bench in the store: what they go by, what happened in them, pictures taken of them."""

from __future__ import annotations

import datetime as dt
import json
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import Any, Literal

from pydantic import TypeAdapter

from ...core.common.errors import PlanError
from ...core.execution.events import Event
from ...core.execution.run_plan import RunPlan
from ..database import finite, now
from ..records import NotFound, Unreadable
from ..tables import (
    BriefRow,
    EventRow,
    JobRow,
    PhotoRow,
    RunRow,
)
from .repository import Repository
from .trials import KeptTrial

Kind = Literal["run", "rehearsal", "game", "trial"]
BRIEFS: TypeAdapter[RunPlan] = TypeAdapter(RunPlan)
MORE = ("key", "number", "text", "where", "value", "of", "source")
MOST_EVENTS = 20_000  # of one run: far more than anybody taps
MOST_CLOSING = 100  # more of them, to put a full run away and open it again
LATEST_S = 7_258_118_400.0  # the year 2200, in seconds since 1970
MOST_PIECES, MOST_OPERATIONS, MOST_TASKS = 700, 200, 40_000  # of a run: more than any plan of this program has
OF_A_BRIEF: dict[str, tuple[float, float]] = {
    "pieces": (1, MOST_PIECES),
    "at_once": (1, MOST_PIECES),
    "forms": (1, MOST_PIECES),
    "places": (1, MOST_PIECES),
    "people": (1, MOST_PIECES),
    "started_s": (0, LATEST_S),
    "seed": (0, 2**63),
    "trial": (0, 2**63),
}  # between which the numbers of a run's plan must lie: what is laid out grows with them
MOST_NUMBER = 4e8  # in an operation: some twelve years in seconds
NEVER_BELOW_0 = ("low", "likely", "high", "hands", "least_s", "most_s", "keeps_s", "seconds", "from_s", "count")


@dataclass(frozen=True)
class KeptRun:
    """A run as it is kept. revision: the one of its job that it goes by; briefs: how many plans it has gone by."""

    id: int
    job_id: int
    kind: Kind
    at: dt.datetime
    ended: dt.datetime | None
    watched_s: float
    revision: int
    body: str

    @cached_property
    def brief(self) -> RunPlan:
        """What it goes by. Raises: Unreadable."""
        try:
            return read_brief(self.body)
        except ValueError:
            raise Unreadable("The plan of this run cannot be read; it is left as it is.", "run", self.id) from None


@lru_cache(maxsize=32)
def read_brief(body: str) -> RunPlan:
    """The plan of a run as it was written down; the same one where it was read before. Its numbers lie in the ranges
    this program itself keeps to, so that what is laid out from it ends. Raises: ValueError."""
    try:
        brief = BRIEFS.validate_json(body)
        for name, (low, high) in OF_A_BRIEF.items():
            if not low <= getattr(brief, name) <= high:
                raise ValueError(f"{name} must be {low:g} to {high:g}")
        if len(brief.operations) > MOST_OPERATIONS or len(brief.operations) * brief.pieces > MOST_TASKS:
            raise ValueError("more operations than a run can have")
        _check_numbers(json.loads(body)["operations"])
        _ = brief.web  # its operations must hang together
    except (KeyError, IndexError, OverflowError, RecursionError) as error:
        raise ValueError(str(error)) from None
    return brief


def _check_numbers(part: Any) -> None:
    """Raises: ValueError for a number in a part of a document that no operation can have."""
    if isinstance(part, dict):
        for name, value in part.items():
            if name in NEVER_BELOW_0 and isinstance(value, int | float) and value < 0:
                raise ValueError(f"{name} must not be below 0")
            _check_numbers(value)
    elif isinstance(part, list):
        for value in part:
            _check_numbers(value)
    elif isinstance(part, int | float) and not abs(part) <= MOST_NUMBER:
        raise ValueError("a number is out of range")


class RunRepository(Repository):
    """Runs, their events and photos."""

    def start(self, job_id: int, kind: Kind, revision: int, brief: RunPlan) -> int:
        """A new run of a job; the one that is under way at the bench where there is one already: two tablets may press
        Start at once. Raises: NotFound, NotKept."""
        with self.database.writing():
            if kind == "run" and (known := self.open_of_job(job_id)):
                return known.id
            if JobRow.get_or_none(JobRow.id == job_id) is None:
                raise NotFound("There is no such job.")
            made = RunRow.create(job=job_id, kind=kind, at=now(), watched=brief.started_s)
            BriefRow.create(
                run=made.id, at=now(), revision=revision, body=BRIEFS.dump_json(brief, by_alias=True).decode()
            )
        return int(made.id)

    def change_plan(self, run_id: int, revision: int, brief: RunPlan) -> None:
        """From now on a run goes by another plan. Raises: NotFound, NotKept."""
        with self.database.writing():
            self._run_row(run_id)
            BriefRow.create(
                run=run_id, at=now(), revision=revision, body=BRIEFS.dump_json(brief, by_alias=True).decode()
            )

    def get(self, run_id: int) -> KeptRun:
        """Raises: NotFound."""
        return self._kept(self._run_row(run_id))

    @staticmethod
    def _run_row(run_id: int) -> RunRow:
        row = RunRow.get_or_none(RunRow.id == run_id)
        if row is None:
            raise NotFound("There is no such run.")
        return row

    @staticmethod
    def _kept(row: RunRow) -> KeptRun:
        last = BriefRow.select().where(BriefRow.run == row.id).order_by(BriefRow.id.desc()).first()
        if last is None:
            raise Unreadable("The plan of this run is missing.", "run", row.id)
        return KeptRun(row.id, row.job_id, row.kind, row.at, row.ended, row.watched, last.revision, last.body)

    def find(self, job_id: int | None = None, *, is_open: bool | None = None, most: int = 50) -> list[KeptRun]:
        """Runs of a job or of all, the newest first; only those that are open, or not."""
        rows = RunRow.select().order_by(RunRow.id.desc())
        if job_id is not None:
            rows = rows.where(RunRow.job == job_id)
        if is_open is not None:
            rows = rows.where(RunRow.ended.is_null(is_open))
        return [self._kept(r) for r in rows.limit(most)]

    def newest(self, most: int) -> list[tuple[int, int, str, dt.datetime]]:
        """The newest runs of all jobs: number, job, kind, when; without what they go by."""
        rows = RunRow.select(RunRow.id, RunRow.job, RunRow.kind, RunRow.at).order_by(RunRow.id.desc()).limit(most)
        return [tuple(r) for r in rows.tuples()]

    def open_of_job(self, job_id: int) -> KeptRun | None:
        """The run of a job that is under way at the bench, not a rehearsal or a game."""
        return next((r for r in self.find(job_id, is_open=True) if r.kind == "run"), None)

    def of_trial(self, trial: KeptTrial) -> list[KeptRun]:
        """Every run of a trial, the oldest first; none of one that had its number before."""
        own = [r for r in self.find(trial.job_id, most=200) if r.brief.trial == trial.id and r.at >= trial.at]
        return own[::-1]

    def open_of_trial(self, trial: KeptTrial) -> KeptRun | None:
        """The run of a trial that is under way at the bench."""
        return next((r for r in self.of_trial(trial) if r.ended is None), None)

    # -- what happened ---------------------------------------------------------------------------------------------
    def add_events(self, run_id: int, events: Sequence[Event]) -> int:
        """Write down what happened, each once by its client name; on the disk when this returns.

        Returns how many were new. Raises: NotFound, NotKept; PlanError where a run put away is opened again and
        another of its job is under way.
        """
        finite(*(v for e in events for v in (e.at_s, e.wall_s, e.value)))
        with self.database.writing():
            row = self._run_row(run_id)
            other = self.open_of_job(row.job_id) if row.kind == "run" and row.ended else None
            if other and any(e.kind == "open" for e in events):
                raise PlanError("events", f"Run {other.id} of this job is under way: archive it first.")
            before = self.event_count(run_id)
            rows = [
                {
                    "run": run_id,
                    "wall_s": e.wall_s,
                    "at_s": e.at_s,
                    "kind": e.kind,
                    "client": e.client,
                    "body": json.dumps({n: getattr(e, n) for n in MORE if getattr(e, n) != getattr(_PLAIN, n)}),
                }
                for e in events
            ]
            for some in (rows[i : i + 100] for i in range(0, len(rows), 100)):
                EventRow.insert_many(some).on_conflict_ignore().execute()
            for e in events:
                if e.kind in ("end", "open"):
                    row.ended = now() if e.kind == "end" else None
                    row.save()
            return self.event_count(run_id) - before

    def event_count(self, run_id: int) -> int:
        """How many events a run has."""
        return int(EventRow.select().where(EventRow.run == run_id).count())

    def count_new(self, run_id: int, clients: Sequence[str]) -> int:
        """How many of some client names no event of a run has yet."""
        told, known = set(clients), 0
        for some in (list(told)[i : i + 500] for i in range(0, len(told), 500)):
            known += EventRow.select().where((EventRow.run == run_id) & EventRow.client.in_(some)).count()
        return len(told) - known

    def events(self, run_id: int, after: int = 0) -> list[tuple[int, Event]]:
        """Events of a run after one of its rows, with their rows, as they came in."""
        rows = self.database.db.execute_sql(
            "select id, wall_s, at_s, kind, client, body from event where run_id = ? and id > ? order by id",
            (run_id, after),
        )
        return [
            (i, Event(at_s, kind, client, wall_s=wall, **json.loads(body or "{}")))
            for i, wall, at_s, kind, client, body in rows.fetchall()
        ]

    def mark_watched(self, run_id: int, wall_s: float) -> None:
        """A page of a game was looked at: it goes on. Raises: NotKept."""
        with self.database.writing():
            RunRow.update(watched=wall_s).where(RunRow.id == run_id).execute()

    # -- pictures --------------------------------------------------------------------------------------------------
    def add_photo(self, run_id: int, client: str, piece: int, at_s: float, body: bytes) -> None:
        """A picture, made small already; the same client name twice is one. Raises: NotFound, NotKept."""
        with self.database.writing():
            self._run_row(run_id)
            PhotoRow.insert(run=run_id, client=client, piece=piece, at_s=at_s, body=body).on_conflict_ignore().execute()

    def photos(self, run_id: int) -> list[tuple[int, str, int]]:
        """Pictures of a run: row, client name, piece."""
        rows = PhotoRow.select(PhotoRow.id, PhotoRow.client, PhotoRow.piece).where(PhotoRow.run == run_id)
        return [(r.id, r.client, r.piece) for r in rows.order_by(PhotoRow.id)]

    def photo(self, run_id: int, client: str) -> bytes:
        """Raises: NotFound."""
        row = PhotoRow.get_or_none((PhotoRow.run == run_id) & (PhotoRow.client == client))
        if row is None:
            raise NotFound("There is no such picture.")
        return bytes(row.body)


_PLAIN = Event(0.0, "", "")
