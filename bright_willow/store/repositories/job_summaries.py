"""What lists show of each job, kept beside it: worked out from its plan, and old once job, shop or book change."""

from __future__ import annotations

from dataclasses import dataclass

from peewee import JOIN, fn

from ... import __version__
from ..tables import CutRow, JobLineRow, JobRow
from .repository import Repository


@dataclass(frozen=True)
class JobSummary:
    """What a list shows of a job, as it was worked out; is_old when something has changed since."""

    body: str
    is_old: bool


class SummaryRepository(Repository):
    """Lines of jobs in the store."""

    def mark(self) -> str:
        """What every line is worked out from besides its job: this program, the shop's figures, the book."""
        facts = [self.database.fact(name) for name in ("shop", "book", "times")]
        return " ".join([__version__, *facts]).rstrip()

    def of_jobs(self, job_ids: set[int]) -> dict[int, JobSummary]:
        """The lines of some jobs that have one."""
        mark, current = self.mark(), {}
        for row in JobRow.select(JobRow.id, JobRow.current).where(JobRow.id.in_(job_ids)):
            current[row.id] = row.current
        rows = JobLineRow.select().where(JobLineRow.job.in_(job_ids))
        return {r.job_id: JobSummary(r.body, (r.revision, r.mark) != (current.get(r.job_id), mark)) for r in rows}

    def outdated(self, most: int, job_ids: set[int] | None = None) -> list[int]:
        """Jobs on the list whose line is missing or old, the last changed first."""
        return [int(row.id) for row in self._old(job_ids).order_by(JobRow.changed.desc()).limit(most)]

    def outdated_count(self) -> int:
        """How many lines are missing or old."""
        return int(self._old(None).count())

    def _old(self, job_ids: set[int] | None):  # type: ignore[no-untyped-def]
        on = JobLineRow.job == JobRow.id
        rows = JobRow.select(JobRow.id).join(JobLineRow, JOIN.LEFT_OUTER, on=on).where(JobRow.archived.is_null())
        fresh = (JobLineRow.revision == JobRow.current) & (JobLineRow.mark == self.mark())
        rows = rows.where(JobLineRow.job.is_null() | ~fresh)
        return rows if job_ids is None else rows.where(JobRow.id.in_(job_ids))

    def save(self, made: list[tuple[int, int, str, str, int, str]]) -> None:
        """Keep lines: job, revision, mark, lot, boards, body. Raises: NotKept."""
        with self.database.writing():
            for job, revision, mark, lot, boards, body in made:
                if JobRow.select().where(JobRow.id == job).exists():
                    JobLineRow.replace(
                        job=job, revision=revision, mark=mark, lot=lot, boards=boards, body=body
                    ).execute()

    @staticmethod
    def _not_cut():  # type: ignore[no-untyped-def]
        """Of a job whose boards still lie on the rack."""
        return JobLineRow.job.not_in(CutRow.select(CutRow.job).where(CutRow.taken_back.is_null()))

    def boards_by_lot(self) -> dict[str, tuple[int, int]]:
        """Of each lot by name: how many jobs take boards from it, and how many boards."""
        rows = (
            JobLineRow.select(JobLineRow.lot, fn.COUNT(JobLineRow.job), fn.SUM(JobLineRow.boards))
            .join(JobRow)
            .where((JobLineRow.boards > 0) & JobRow.archived.is_null() & self._not_cut())
            .group_by(JobLineRow.lot)
        )
        return {lot: (jobs, boards) for lot, jobs, boards in rows.tuples()}

    def all_of_lot(self, lot: str, most: int) -> list[int]:
        """Jobs that took boards from a lot or will, the archived and the cut ones too; the last changed first."""
        rows = JobLineRow.select(JobRow.id).join(JobRow).where((JobLineRow.lot == lot) & (JobLineRow.boards > 0))
        return [job for (job,) in rows.order_by(JobRow.changed.desc()).limit(most).tuples()]

    def jobs_of_lot(self, lot: str, most: int) -> list[tuple[int, str, int]]:
        """Jobs that take boards from a lot: job, its name, how many boards; the last changed first."""
        rows = (
            JobLineRow.select(JobRow.id, JobRow.name, JobLineRow.boards)
            .join(JobRow)
            .where((JobLineRow.lot == lot) & (JobLineRow.boards > 0) & JobRow.archived.is_null() & self._not_cut())
            .order_by(JobRow.changed.desc())
            .limit(most)
        )
        return list(rows.tuples())
