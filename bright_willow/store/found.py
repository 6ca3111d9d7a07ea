"""Jobs of the list found by name, way, wood and state, what is due first."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass
from typing import Any

from peewee import JOIN, Case, fn

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
        """One page of them: with pieces to measure first, then what is being planned, what is done last; of each the
        last changed first."""
        forms, pieces = _form_count(), _piece_count()
        wanted = fn.COALESCE(fn.json_extract(RevisionRow.body, "$.part.count"), 1)
        rank = Case(
            None,
            (
                ((forms > 0) & (pieces < wanted), 0),
                (_due_again(today) > 0, 1),
                ((forms == 0) & (JobRow.settled != ""), 2),
                (forms == 0, 3),
            ),
            4,
        )
        rows = self._sought(JobRow.select(JobRow), sought).order_by(rank, JobRow.changed.desc(), JobRow.id.desc())
        return [self._state_or_damage(row) for row in rows.offset(page.skip).limit(page.size)]

    def again_due(self, job_ids: set[int], today: dt.date) -> dict[int, int]:
        """Of each job, how many pieces are due to be measured again."""
        rows = JobRow.select(JobRow.id, _due_again(today).alias("due")).where(JobRow.id.in_(job_ids)).tuples()
        return {job: due for job, due in rows if due}

    def in_use(self) -> tuple[set[str], set[str]]:
        """The ways and the woods of the jobs on the list."""
        way, wood = (fn.json_extract(RevisionRow.body, f"$.{name}") for name in ("way", "stock.species"))
        rows = JobRow.select(way, wood).join(RevisionRow, on=RevisionRow.id == JobRow.current)
        found = set(rows.where(JobRow.archived.is_null()).distinct().tuples())
        return {way for way, _ in found if way}, {wood for _, wood in found if wood}

    def _sought(self, rows: Any, sought: Sought) -> Any:
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


def _due_again(today: dt.date) -> Any:
    """How many pieces of a job have been measured once, so long ago that it is time to measure again."""
    last, times = fn.MAX(MeasurementRow.day), fn.COUNT(MeasurementRow.id)
    once = MeasurementRow.select(MeasurementRow.piece).group_by(MeasurementRow.piece)
    once = once.having((times == 1) & (last <= today - dt.timedelta(days=AGAIN_DAYS)))
    pieces = PieceRow.select(fn.COUNT(PieceRow.id)).join(FormRow)
    return pieces.where((FormRow.job == JobRow.id) & (PieceRow.mishap == "") & PieceRow.id.in_(once))
