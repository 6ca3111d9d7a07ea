"""Jobs of the list found by name, way, wood and state, what is due first."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass
from typing import Any

from peewee import JOIN, fn

from .base import Opened
from .records import Damaged, JobState, Page
from .tables import FormRow, JobLineRow, JobRow, MeasurementRow, PieceRow, RevisionRow

STATES = {
    "started": "just started",
    "planned": "being planned",
    "built": "form built",
    "measured": "pieces measured",
    "stopped": "something stops it",
}
MANY = 1_000  # jobs
AGAIN_DAYS = 7  # after which a piece is measured again, to see what it settles to


@dataclass(frozen=True)
class Sought:
    """What is looked for on the list; what is empty is not asked."""

    name: str = ""
    way: str = ""
    wood: str = ""
    state: str = ""

    @property
    def asks(self) -> bool:
        """Whether anything is asked at all."""
        return bool(self.name or self.way or self.wood or self.state)


class Found(Opened):
    """Finding jobs in the store."""

    def _state_or_damage(self, row: JobRow) -> JobState | Damaged:
        raise NotImplementedError

    def found_count(self, sought: Sought) -> int:
        """How many jobs on the list are so."""
        return int(self._sought(JobRow.select(JobRow.id), sought).count())

    def found_page(self, sought: Sought, page: Page, today: dt.date) -> list[JobState | Damaged]:
        """One page of them: with pieces to measure first, then to measure again, then what is being planned, what is
        done last; of each the last changed first."""
        made, due = self._still_wanted(), self._due_by_job(today)
        changed = JobRow.changed.cast("text")  # as it is kept: in order as it stands, with nothing to read out of it
        rows = self._sought(JobRow.select(JobRow.id, JobRow.settled, changed), sought)

        def rank(job: int, settled: str) -> int:
            if job in made:
                return 0 if made[job] else 1 if job in due else 4
            return 2 if settled else 3

        order = sorted(rows.tuples(), key=lambda r: (str(r[2] or ""), r[0]), reverse=True)
        order.sort(key=lambda r: rank(r[0], r[1]))
        shown = [job for job, _, _ in order[page.skip : page.skip + page.size]]
        found = {row.id: row for row in JobRow.select().where(JobRow.id.in_(shown))}
        return [self._state_or_damage(found[job]) for job in shown]

    def _still_wanted(self) -> dict[int, bool]:
        """Of each job with a form: whether fewer pieces have come off it than are wanted."""
        counted = (
            FormRow.select(FormRow.job, fn.COUNT(PieceRow.id)).join(PieceRow, JOIN.LEFT_OUTER).group_by(FormRow.job)
        )
        pieces = dict(counted.tuples())
        wanted = fn.COALESCE(fn.json_extract(RevisionRow.body, "$.part.count"), 1)
        asked = JobRow.select(JobRow.id, wanted).join(RevisionRow, on=RevisionRow.id == JobRow.current)
        asked = asked.where(JobRow.id.in_(FormRow.select(FormRow.job)))
        return {job: pieces.get(job, 0) < count for job, count in asked.tuples()}

    def _due_by_job(self, today: dt.date) -> dict[int, int]:
        """Of each job, how many pieces have been measured once, so long ago that it is time to measure again."""
        last, times = fn.MAX(MeasurementRow.day), fn.COUNT(MeasurementRow.id)
        once = MeasurementRow.select(MeasurementRow.piece).group_by(MeasurementRow.piece)
        once = once.having((times == 1) & (last <= today - dt.timedelta(days=AGAIN_DAYS)))
        rows = PieceRow.select(FormRow.job, fn.COUNT(PieceRow.id)).join(FormRow)
        rows = rows.where((PieceRow.mishap == "") & PieceRow.id.in_(once)).group_by(FormRow.job)
        return dict(rows.tuples())

    def again_due(self, job_ids: set[int], today: dt.date) -> dict[int, int]:
        """Of each of some jobs, how many pieces are due to be measured again."""
        return {job: due for job, due in self._due_by_job(today).items() if job in job_ids}

    def in_use(self) -> tuple[set[str], set[str]]:
        """The ways and the woods of the jobs on the list; of a very long one nothing is looked through for them."""
        if JobRow.select().where(JobRow.archived.is_null()).count() > MANY:
            return set(), set()
        way, wood = (fn.json_extract(RevisionRow.body, f"$.{name}") for name in ("way", "stock.species"))
        rows = JobRow.select(way, wood).join(RevisionRow, on=RevisionRow.id == JobRow.current)
        found = set(rows.where(JobRow.archived.is_null()).distinct().tuples())
        return {way for way, _ in found if way}, {wood for _, wood in found if wood}

    def _sought(self, rows: Any, sought: Sought) -> Any:
        if sought.way or sought.wood:
            rows = rows.join(RevisionRow, JOIN.LEFT_OUTER, on=RevisionRow.id == JobRow.current)
        rows = rows.where(JobRow.archived.is_null())
        for word in sought.name.split()[:8]:
            rows = rows.where(JobRow.name.contains(word))
        if sought.way:
            rows = rows.where(fn.json_extract(RevisionRow.body, "$.way") == sought.way)
        if sought.wood:
            rows = rows.where(fn.json_extract(RevisionRow.body, "$.stock.species") == sought.wood)
        if sought.state == "stopped":
            stopped = JobLineRow.select(JobLineRow.job).where(fn.json_extract(JobLineRow.body, "$.level") == "stop")
            rows = rows.where(JobRow.id.in_(stopped))
        elif sought.state:
            forms, pieces = _form_count(), _piece_count()
            rows = rows.where(
                {
                    "started": (forms == 0) & (JobRow.settled == ""),
                    "planned": (forms == 0) & (JobRow.settled != ""),
                    "built": (forms > 0) & (pieces == 0),
                    "measured": pieces > 0,
                }[sought.state]
            )
        return rows


def _form_count() -> Any:
    return FormRow.select(fn.COUNT(FormRow.id)).where(FormRow.job == JobRow.id)


def _piece_count() -> Any:
    return PieceRow.select(fn.COUNT(PieceRow.id)).join(FormRow).where(FormRow.job == JobRow.id)
