"""Jobs of the list found by name, way, wood and state, what is due first."""

from __future__ import annotations

import datetime as dt
import json
from dataclasses import dataclass
from typing import Any

from peewee import JOIN, Case, fn

from ..records import DamagedRow, JobState, Page
from ..tables import (
    FormRow,
    JobLineRow,
    JobRow,
    MeasurementRow,
    PieceRow,
    RevisionRow,
)
from .job_rows import job_or_damage
from .repository import Repository

ORDERS = {
    "next": "what is next",
    "due": "due first",
    "new": "newest first",
    "name": "by name",
    "wood": "by wood",
}
STATES = {
    "started": "just started",
    "planned": "planning",
    "built": "form built",
    "measured": "pieces measured",
    "stopped": "a Stop check is open",
}
MANY = 1_000  # jobs
AGAIN_DAYS = 7  # after which a piece is measured again, to see what it settles to


@dataclass(frozen=True)
class JobQuery:
    """What is looked for on the list; what is empty is not asked."""

    name: str = ""
    way: str = ""
    wood: str = ""
    state: str = ""
    tag: str = ""
    order: str = "next"

    @property
    def asks(self) -> bool:
        """Whether anything is asked at all."""
        return bool(self.name or self.way or self.wood or self.state or self.tag)


class JobSearchRepository(Repository):
    """Finding jobs in the store."""

    def count(self, sought: JobQuery) -> int:
        """How many jobs on the list are so."""
        return int(self._sought(JobRow.select(JobRow.id), sought).count())

    def page(self, sought: JobQuery, page: Page, today: dt.date) -> list[JobState | DamagedRow]:
        """One page of them: with pieces to measure first, then to measure again, then what is planning, what is
        done last; of each the last changed first."""
        shown = [job for (job,) in self._in_order(sought, today).offset(page.skip).limit(page.size).tuples()]
        found = {row.id: row for row in JobRow.select().where(JobRow.id.in_(shown))}
        return [job_or_damage(found[job]) for job in shown]

    def _in_order(self, sought: JobQuery, today: dt.date) -> Any:
        """The jobs that are so, in the order asked for; of those alike the last changed first."""
        changed = fn.COALESCE(JobRow.changed.cast("text"), "")  # as it is kept: in order as it stands
        if sought.order != "next":
            return self._sorted(sought).order_by_extend(changed.desc(), JobRow.id.desc())
        made = FormRow.select(FormRow.job.alias("job"), fn.COUNT(PieceRow.id).alias("pieces"))
        made = made.join(PieceRow, JOIN.LEFT_OUTER).group_by(FormRow.job).alias("made")
        due = self._due_by_job(today).alias("due")
        now = RevisionRow.alias("now")
        wanted = fn.COALESCE(fn.json_extract(now.body, "$.part.count"), 1)
        rank = Case(
            None,
            (
                (made.c.job.is_null() | now.id.is_null(), Case(None, ((JobRow.settled != "", 2),), 3)),
                (made.c.pieces < wanted, 0),
                (due.c.job.is_null(False), 1),
            ),
            4,
        )
        rows = JobRow.select(JobRow.id).join(made, JOIN.LEFT_OUTER, on=made.c.job == JobRow.id)
        rows = rows.switch(JobRow).join(due, JOIN.LEFT_OUTER, on=due.c.job == JobRow.id)
        rows = rows.switch(JobRow).join(now, JOIN.LEFT_OUTER, on=now.id == JobRow.current)
        return self._sought(rows.switch(JobRow), sought).order_by(rank, changed.desc(), JobRow.id.desc())

    def _sorted(self, sought: JobQuery) -> Any:
        """The jobs that are so by their due day, when they were begun, their names or their woods."""
        own, rows = RevisionRow.alias("own"), JobRow.select(JobRow.id)
        if sought.order in ("due", "wood"):
            rows = rows.join(own, JOIN.LEFT_OUTER, on=own.id == JobRow.current).switch(JobRow)
        by = {
            "due": fn.COALESCE(fn.json_extract(own.body, "$.days.due_day"), "9999-99-99"),
            "wood": fn.COALESCE(fn.json_extract(own.body, "$.stock.species"), "~"),
            "name": fn.LOWER(JobRow.name),
            "new": JobRow.id.desc(),
        }
        return self._sought(rows, sought).order_by(by[sought.order])

    def tags(self) -> list[str]:
        """Every tag of the jobs on the list, in order; of a very long one nothing is looked through for them."""
        if JobRow.select().where(JobRow.archived.is_null()).count() > MANY:
            return []
        tags = fn.json_extract(RevisionRow.body, "$.tags")
        rows = JobRow.select(tags).join(RevisionRow, on=RevisionRow.id == JobRow.current)
        found = rows.where(JobRow.archived.is_null() & (tags != "[]")).distinct().tuples()
        return sorted({str(tag) for (row,) in found for tag in json.loads(row)}, key=str.casefold)

    def _due_by_job(self, today: dt.date, of: set[int] | None = None) -> Any:
        """Of each job, or of some, how many pieces have been measured once, so long ago that they are measured again;
        none of them stands there with 0."""
        last, times = fn.MAX(MeasurementRow.day), fn.COUNT(MeasurementRow.id)
        once = MeasurementRow.select(MeasurementRow.piece).group_by(MeasurementRow.piece)
        once = once.having((times == 1) & (last <= today - dt.timedelta(days=AGAIN_DAYS)))
        if of is not None:
            own = PieceRow.select(PieceRow.id).join(FormRow).where(FormRow.job.in_(of))
            once = once.where(MeasurementRow.piece.in_(own))
        rows = PieceRow.select(FormRow.job.alias("job"), fn.COUNT(PieceRow.id).alias("pieces")).join(FormRow)
        return rows.where((PieceRow.mishap == "") & PieceRow.id.in_(once)).group_by(FormRow.job)

    def again_due(self, job_ids: set[int], today: dt.date) -> dict[int, int]:
        """Of each of some jobs, how many pieces are due to be measured again."""
        return dict(self._due_by_job(today, job_ids).tuples())

    def in_use(self) -> tuple[set[str], set[str]]:
        """The ways and the woods of the jobs on the list; of a very long one nothing is looked through for them."""
        if JobRow.select().where(JobRow.archived.is_null()).count() > MANY:
            return set(), set()
        way, wood = (fn.json_extract(RevisionRow.body, f"$.{name}") for name in ("way", "stock.species"))
        rows = JobRow.select(way, wood).join(RevisionRow, on=RevisionRow.id == JobRow.current)
        found = set(rows.where(JobRow.archived.is_null()).distinct().tuples())
        return {way for way, _ in found if way}, {wood for _, wood in found if wood}

    def _sought(self, rows: Any, sought: JobQuery) -> Any:
        if sought.way or sought.wood or sought.tag:
            rows = rows.join(RevisionRow, JOIN.LEFT_OUTER, on=RevisionRow.id == JobRow.current)
        rows = rows.where(JobRow.archived.is_null())
        for word in sought.name.split()[:8]:
            rows = rows.where(JobRow.name.contains(word))
        if sought.way:
            rows = rows.where(fn.json_extract(RevisionRow.body, "$.way") == sought.way)
        if sought.wood:
            rows = rows.where(fn.json_extract(RevisionRow.body, "$.stock.species") == sought.wood)
        if sought.tag:
            tags = fn.json_extract(RevisionRow.body, "$.tags")
            rows = rows.where(fn.INSTR(tags, json.dumps(sought.tag, ensure_ascii=False)) > 0)
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
