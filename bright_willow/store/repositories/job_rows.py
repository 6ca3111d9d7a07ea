"""A job read from its rows."""

from __future__ import annotations

from pydantic import ValidationError

from ...core.job.job import Job
from ..records import DamagedRow, JobState, Unreadable
from ..tables import JobRow, RevisionRow

UNREADABLE = "This job cannot be read; all others work."


def job_state(row: JobRow) -> JobState:
    """Return a job as it is now, with what can be done with its history. Raises: Unreadable."""
    revision = RevisionRow.get_or_none(RevisionRow.id == (row.current or 0))
    if revision is None:
        raise Unreadable(UNREADABLE, "job", row.id)
    has_child = RevisionRow.select().where(RevisionRow.parent == revision.id).exists()
    settled = frozenset(s for s in row.settled.split(",") if s)
    try:
        job = Job.model_validate_json(revision.body)
    except ValidationError:
        raise Unreadable(UNREADABLE, "job", row.id) from None
    return JobState(row.id, job, revision.id, revision.parent_id is not None, has_child, settled, revision.at)


def job_or_damage(row: JobRow) -> JobState | DamagedRow:
    """Return a job as it is now, or what to show in its place where it cannot be read."""
    try:
        return job_state(row)
    except Unreadable as error:
        return DamagedRow("job", row.id, row.name or f"Job {row.id}", str(error))
