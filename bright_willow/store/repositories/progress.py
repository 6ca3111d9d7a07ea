"""What is done of each job and when, and which jobs are in the shop's week."""

from __future__ import annotations

import secrets
from collections.abc import Iterable

from ...calendar.shop_work import DoneAt
from ..records import JobState, NotFound, NotKept
from ..tables import DoneRow, JobRow
from .job_rows import job_or_damage
from .repository import Repository

MOST_IN_WEEK = 200  # jobs laid into the shop's days at once


class ProgressRepository(Repository):
    """What is done, in the store."""

    def in_week(self) -> list[JobState]:
        """Jobs in the shop's week that can be read, oldest first; as many as are laid into its days at once."""
        return self.database.remembered(("in_week",), self._read_in_week)  # type: ignore[no-any-return]

    def _read_in_week(self) -> list[JobState]:
        rows = JobRow.select().where(JobRow.archived.is_null() & JobRow.in_week).order_by(JobRow.id)
        states = [job_or_damage(row) for row in rows.limit(MOST_IN_WEEK)]
        return [s for s in states if isinstance(s, JobState)]

    def has_week(self) -> bool:
        """Whether any job is in the shop's week."""
        return bool(JobRow.select().where(JobRow.archived.is_null() & JobRow.in_week).exists())

    def done(self, job_ids: Iterable[int]) -> dict[int, list[DoneAt]]:
        """What is done or begun of some jobs, in the order of its beginning."""
        made: dict[int, list[DoneAt]] = {i: [] for i in job_ids}
        for row in DoneRow.select().where(DoneRow.job.in_(list(made))).order_by(DoneRow.from_at, DoneRow.id):
            made[row.job_id].append(DoneAt(row.key, row.number, row.from_at, row.to_at))
        return made

    def add(self, job_id: int, what: Iterable[DoneAt]) -> None:
        """Write down what was begun or done; of what was written before, the later word stands.

        Raises: NotFound, NotKept.
        """
        with self.database.writing():
            if JobRow.get_or_none(JobRow.id == job_id) is None:
                raise NotFound("There is no such job.")
            for one in what:
                self._forget(job_id, one.key, one.number)
                DoneRow.create(job=job_id, key=one.key, number=one.number, from_at=one.from_at, to_at=one.to_at)

    def remove(self, job_id: int, key: str, number: int) -> bool:
        """It was not done after all. Returns whether it had been. Raises: NotKept."""
        with self.database.writing():
            return self._forget(job_id, key, number)

    @staticmethod
    def _forget(job_id: int, key: str, number: int) -> bool:
        mine = (DoneRow.job == job_id) & (DoneRow.key == key) & (DoneRow.number == number)
        return bool(DoneRow.delete().where(mine).execute())

    def shop_id(self) -> str:
        """What tells this shop's calendar from another's; made once. Where nothing can be kept, the same for all."""
        known = self.database.fact("shop id")
        if not known:
            try:
                self.database.note("shop id", secrets.token_hex(6))
            except NotKept:
                return "shop"
            known = self.database.fact("shop id")
        return known
