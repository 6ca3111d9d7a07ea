"""The store: everything a shop keeps, in one SQLite file in the data folder."""

from __future__ import annotations

from pathlib import Path

from peewee import DatabaseError

from ..core.measuring.built_form import LAW
from .backup import archive_copy, stamp
from .board_cuts import BoardCuts
from .built_forms import Forms
from .database import why_not
from .job_search import JobSearch
from .job_summaries import Lines
from .jobs import Jobs
from .kept_pictures import Pictures
from .network_access import move_secrets
from .open_folder import MIGRATIONS, check, made_ready, migrate, pending
from .presets import Presets
from .probes import Probes
from .progress import Progress
from .rack import Rack
from .records import CannotOpen, NotFound, NotKept
from .runs import Runs
from .tables import (
    BriefRow,
    FormRow,
    JobRow,
    LotRow,
    MetaRow,
    RevisionRow,
    ShopRow,
    TrialRow,
)
from .trials import Trials

__all__ = ["MIGRATIONS", "CannotOpen", "NotFound", "NotKept", "Store"]
RAW = {"shop": ShopRow, "lot": LotRow, "form": FormRow, "trial": TrialRow}


class Store(Jobs, JobSearch, Forms, Rack, BoardCuts, Progress, Runs, Pictures, Trials, Probes, Presets, Lines):
    """Opens (and brings up to date) the database in a folder. One per process; every call needs `connected()`.

    Raises: CannotOpen with a sentence and a way out.
    """

    def __init__(self, folder: Path) -> None:
        path = made_ready(folder)
        check(path)
        move_secrets(path)
        super().__init__(path)
        try:
            with self.connected():
                if waiting := pending(self.db):
                    archive_copy(path, "before", f"{waiting[0]}-{stamp()}")
                migrate(self.db)
                self._of_present_law()
        except DatabaseError as error:
            raise CannotOpen(f"{path} could not be brought up to date: {error}.") from None

    def hold_open(self) -> None:
        """Keep a connection on this thread for good: with it reading goes on even on a disk that is full.

        Raises: CannotOpen.
        """
        self.stay_connected()
        try:
            with self.connected():
                self.shop()
        except DatabaseError as error:
            raise CannotOpen(f"{self.path} could not be opened: {why_not(error, self.path.parent)}") from None

    def taken_over(self) -> None:
        """After the file was put in place anew: forget what was read from the old one."""
        self._learnt = self._seen = self._drifted = None
        with self.connected():
            self._of_present_law()

    def _of_present_law(self) -> None:
        """Forms of an earlier law predicted anew, and what pieces teach written down where it is missing."""
        if self.fact("law") != str(LAW):
            with self.writing():
                if self.restate_forms():
                    self.note("taught", "")
                self.note("law", str(LAW))
        if self.fact("taught") != "all":
            self.teach_missing()
            self.note("taught", "all")

    def raw(self, kind: str, row_id: int) -> str:
        """The text of a row as it lies in the file, to take away. Raises: NotThere."""
        row = None
        if kind == "job":
            job = JobRow.get_or_none(JobRow.id == row_id)
            row = job and RevisionRow.get_or_none(RevisionRow.id == (job.current or 0))
        elif kind == "run":
            row = BriefRow.select().where(BriefRow.run == row_id).order_by(BriefRow.id.desc()).first()
        elif kind in RAW:
            row = RAW[kind].get_or_none(RAW[kind].id == row_id)
        if row is None:
            raise NotFound("There is no such row.")
        return str(row.body)

    @property
    def is_demo(self) -> bool:
        """Whether the demo filled it, and nothing else."""
        return self.fact("filled by") == "demo"

    @property
    def is_empty(self) -> bool:
        """Whether nothing was ever kept in it."""
        return not (
            self.has_jobs()
            or LotRow.select().exists()
            or ShopRow.select().exists()
            or MetaRow.get_or_none(MetaRow.key == "shop")
        )
