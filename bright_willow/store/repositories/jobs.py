"""Jobs and every revision of them: kept, joined with what others changed meanwhile, undone, put away."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

from peewee import fn
from pydantic import ValidationError

from ...core.common.units import Unit
from ...core.job.job import Job
from ...core.job.merge import joined
from ...core.plan.read_job import read_job
from ...core.wood.species import OwnWood
from ..database import now
from ..records import (
    DamagedRow,
    JobState,
    NotFound,
    Page,
    Revision,
    Unreadable,
)
from ..tables import JobRow, RevisionRow
from .job_rows import UNREADABLE, job_or_damage, job_state
from .repository import Repository

SHOWN_REVISIONS = 200


@dataclass(frozen=True)
class SaveResult:
    """What came of a change: whether anything was written, and the fields another change stands in the way of."""

    changed: bool
    clashes: tuple[str, ...] = ()
    theirs: Job | None = None


class JobRepository(Repository):
    """Jobs in the store."""

    def find(self) -> list[JobState]:
        """All jobs that are not put away and can be read, the last changed first."""
        rows = JobRow.select().where(JobRow.archived.is_null()).order_by(JobRow.changed.desc(), JobRow.id.desc())
        return [s for s in map(job_or_damage, rows) if isinstance(s, JobState)]

    def count(self, away: bool = False) -> int:
        """How many jobs are on the list, or put away."""
        return int(JobRow.select().where(JobRow.archived.is_null(not away)).count())

    def page(self, page: Page, away: bool = False) -> list[JobState | DamagedRow]:
        """One page of the list, the last changed first, with what cannot be read where it would stand."""
        rows = JobRow.select().where(JobRow.archived.is_null(not away))
        rows = rows.order_by(JobRow.changed.desc(), JobRow.id.desc()).offset(page.skip).limit(page.size)
        return [job_or_damage(row) for row in rows]

    def names(self, job_ids: set[int]) -> dict[int, str]:
        """Names of jobs, as they stand."""
        return {r.id: r.name for r in JobRow.select(JobRow.id, JobRow.name).where(JobRow.id.in_(job_ids))}

    def archived_name(self, job_id: int) -> str:
        """The name of a job that is archived; empty where it is not, or is not there."""
        row = JobRow.get_or_none((JobRow.id == job_id) & JobRow.archived.is_null(False))
        return (row.name or f"Job {row.id}") if row else ""

    def get(self, job_id: int) -> JobState:
        """Raises: NotFound, Unreadable."""
        return self.database.remembered(("job", job_id), lambda: self._read_job(job_id))  # type: ignore[no-any-return]

    def _read_job(self, job_id: int) -> JobState:
        row = JobRow.get_or_none(JobRow.id == job_id)
        if row is None:
            raise NotFound("There is no such job.")
        return job_state(row)

    def revision(self, job_id: int, revision_id: int) -> Job:
        """A job as it stood at a revision. Raises: NotFound."""
        row = RevisionRow.get_or_none((RevisionRow.id == revision_id) & (RevisionRow.job == job_id))
        if row is None:
            raise NotFound("There is no such revision of this job.")
        try:
            return Job.model_validate_json(row.body)
        except ValidationError:
            raise Unreadable(UNREADABLE, "job", job_id) from None

    def as_of(self, job_id: int, when: dt.datetime) -> Job | None:
        """Return a job as it was at a time, or as begun where it is younger; None where it cannot be read."""
        kept = RevisionRow.select().where(RevisionRow.job == job_id)
        before = kept.where(RevisionRow.at <= when).order_by(RevisionRow.id.desc()).first()
        revision = before or kept.order_by(RevisionRow.id).first()
        try:
            return Job.model_validate_json(revision.body) if revision else None
        except ValidationError:
            return None

    def _now_at(self, job_id: int, revision_id: int, job: Job) -> None:
        now_is = {"current": revision_id, "name": job.name, "in_week": job.days.in_week, "changed": now()}
        JobRow.update(**now_is).where(JobRow.id == job_id).execute()

    def exists(self, job_id: int) -> bool:
        """Whether there is such a job, put away or not."""
        return bool(JobRow.select().where(JobRow.id == job_id).exists())

    def add(self, job: Job, what: str = "started") -> int:
        """A new job. Raises: NotKept."""
        with self.database.writing():
            row = JobRow.create(created=now(), name=job.name, changed=now())
            revision = RevisionRow.create(job=row, parent=None, at=now(), what=what, body=job.model_dump_json())
            self._now_at(row.id, revision.id, job)
        return int(row.id)

    def save(self, job_id: int, job: Job, what: str) -> bool:
        """A new revision, unless nothing changed. Returns whether one was made. Raises: NotFound, NotKept."""
        with self.database.writing():
            state = self.get(job_id)
            if state.job == job:
                return False
            made = RevisionRow.create(
                job=job_id, parent=state.revision, at=now(), what=what, body=job.model_dump_json()
            )
            self._now_at(job_id, made.id, job)
        return True

    def save_change(
        self, job_id: int, seen: int, job: Job, what: str, *, unit: Unit = "mm", woods: tuple[OwnWood, ...] = ()
    ) -> SaveResult:
        """A job as it was changed on the revision that was seen, joined with what has been changed since.

        A field both changed stays as the other has it, and is named. Raises: NotFound, NotKept, JobFaulty when the
        two cannot stand together.
        """
        with self.database.writing():
            state = self.get(job_id)
            if seen == state.revision:
                return SaveResult(self.save(job_id, job, what))
            base = self.revision(job_id, seen)
            data, clashes = joined(base.model_dump(), job.model_dump(), state.job.model_dump())
            return SaveResult(self.save(job_id, read_job(data, unit, woods), what), tuple(clashes), state.job)

    def undo(self, job_id: int, seen: int | None = None) -> bool:
        """Back to the revision before; False when there is none, or when it is not the seen one that would go."""
        with self.database.writing():
            state = self.get(job_id)
            current = RevisionRow.get_or_none(RevisionRow.id == state.revision)
            if current is None or current.parent_id is None or seen not in (None, state.revision):
                return False
            self._now_at(job_id, current.parent_id, self.revision(job_id, current.parent_id))
        return True

    def redo(self, job_id: int, seen: int | None = None) -> bool:
        """Forward to the newest revision made from this one; False when there is none, or this one was not seen."""
        with self.database.writing():
            at = self.get(job_id).revision
            child = RevisionRow.select().where(RevisionRow.parent == at).order_by(RevisionRow.id.desc()).first()
            if child is None or seen not in (None, at):
                return False
            self._now_at(job_id, child.id, self.revision(job_id, child.id))
        return True

    def history(self, job_id: int) -> list[Revision]:
        """The newest revisions of a job, newest first; the current one among them however old it is."""
        at = self.get(job_id).revision
        rows = RevisionRow.select().where(RevisionRow.job == job_id).order_by(RevisionRow.id.desc())
        shown = list(rows.limit(SHOWN_REVISIONS))
        if all(r.id != at for r in shown):
            shown += list(rows.where(RevisionRow.id == at))
        return [Revision(r.id, r.at, r.what, r.id == at) for r in shown]

    def revision_count(self, job_id: int) -> int:
        """How many revisions a job has."""
        return int(RevisionRow.select(fn.COUNT(RevisionRow.id)).where(RevisionRow.job == job_id).scalar())

    def go_back_to(self, job_id: int, revision_id: int) -> None:
        """Make an old revision the current one. Raises: NotFound, NotKept."""
        with self.database.writing():
            self._now_at(job_id, revision_id, self.revision(job_id, revision_id))

    def mark_done(self, job_id: int, stage: str) -> None:
        """A stage of a job is settled. Raises: NotFound, NotKept."""
        with self.database.writing():
            settled = self.get(job_id).settled | {stage}
            JobRow.update(settled=",".join(sorted(settled))).where(JobRow.id == job_id).execute()

    def archive(self, job_id: int, away: bool = True) -> None:
        """Take a job off the list, or bring it back; its bends go on teaching. Raises: NotFound, NotKept."""
        with self.database.writing():
            if not JobRow.update(archived=now() if away else None).where(JobRow.id == job_id).execute():
                raise NotFound("There is no such job.")

    def any(self) -> bool:
        """Return whether any job was ever saved here."""
        return bool(JobRow.select().exists())
