"""Trials in the store."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

from pydantic import ValidationError

from ...core.trials.trial import Trial
from ..database import now
from ..records import NotFound, Unreadable
from ..tables import JobRow, TrialRow
from .repository import Repository


@dataclass(frozen=True)
class KeptTrial:
    """A trial as it is kept."""

    id: int
    job_id: int
    at: dt.datetime
    trial: Trial


class TrialRepository(Repository):
    """Trials of jobs."""

    def add(self, job_id: int, trial: Trial) -> int:
        """Raises: NotFound, NotKept."""
        with self.database.writing():
            if JobRow.get_or_none(JobRow.id == job_id) is None:
                raise NotFound("There is no such job.")
            return int(TrialRow.create(job=job_id, at=now(), body=trial.model_dump_json()).id)

    def save(self, trial_id: int, trial: Trial) -> None:
        """Raises: NotFound, NotKept."""
        with self.database.writing():
            if not TrialRow.update(body=trial.model_dump_json()).where(TrialRow.id == trial_id).execute():
                raise NotFound("There are no such test bends.")

    def remove(self, trial_id: int) -> int:
        """Take a trial out for good. Returns its job. Raises: NotFound, NotKept."""
        with self.database.writing():
            row = TrialRow.get_or_none(TrialRow.id == trial_id)
            if row is None:
                raise NotFound("There are no such test bends.")
            row.delete_instance()
            return int(row.job_id)

    def get(self, trial_id: int) -> KeptTrial:
        """Raises: NotFound, Unreadable."""
        row = TrialRow.get_or_none(TrialRow.id == trial_id)
        if row is None:
            raise NotFound("There are no such test bends.")
        try:
            return KeptTrial(row.id, row.job_id, row.at, Trial.model_validate_json(row.body))
        except ValidationError:
            raise Unreadable("These test bends cannot be read; they are left as they are.", "trial", row.id) from None

    def find(self, job_id: int | None = None) -> list[KeptTrial]:
        """Trials of a job, or of all, that can be read, the newest first."""
        rows = TrialRow.select().order_by(TrialRow.id.desc())
        if job_id is not None:
            rows = rows.where(TrialRow.job == job_id)
        made = []
        for row in rows.limit(200):
            try:
                made.append(KeptTrial(row.id, row.job_id, row.at, Trial.model_validate_json(row.body)))
            except ValidationError:
                continue
        return made
