"""The store: everything a shop keeps, in one SQLite file in the data folder."""

from __future__ import annotations

from pathlib import Path

from peewee import DatabaseError

from ..core.measuring.built_form import LAW
from .backup import archive_copy, stamp
from .database import Database, why_not
from .logbook import Logbook
from .network_access import move_secrets
from .open_folder import MIGRATIONS, check, made_ready, migrate, pending
from .records import CannotOpen, NotFound, NotKept
from .repositories.board_cuts import BoardCutRepository
from .repositories.built_forms import FormRepository
from .repositories.job_search import JobSearchRepository
from .repositories.job_summaries import SummaryRepository
from .repositories.jobs import JobRepository
from .repositories.kept_pictures import PictureRepository
from .repositories.observed_times import ObservedTimeRepository
from .repositories.pieces import PieceRepository
from .repositories.presets import PresetRepository
from .repositories.probes import ProbeRepository
from .repositories.progress import ProgressRepository
from .repositories.rack import RackRepository
from .repositories.runs import RunRepository
from .repositories.shop_settings import ShopRepository
from .repositories.training_data import TrainingRepository
from .repositories.trials import TrialRepository
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

__all__ = ["MIGRATIONS", "CannotOpen", "NotFound", "NotKept", "Store"]
RAW = {"shop": ShopRow, "lot": LotRow, "form": FormRow, "trial": TrialRow}


class Store(Database):
    """The open database of a folder, brought up to date, with a repository for each kind of document.

    One per process; every call needs `connected()`.

    Raises: CannotOpen with a sentence and a way out.
    """

    def __init__(self, folder: Path) -> None:
        path = made_ready(folder)
        check(path)
        move_secrets(path)
        super().__init__(path)
        self.jobs = JobRepository(self)
        self.job_search = JobSearchRepository(self)
        self.summaries = SummaryRepository(self)
        self.progress = ProgressRepository(self)
        self.shop_settings = ShopRepository(self)
        self.rack = RackRepository(self)
        self.board_cuts = BoardCutRepository(self)
        self.presets = PresetRepository(self)
        self.forms = FormRepository(self)
        self.pieces = PieceRepository(self)
        self.training = TrainingRepository(self)
        self.runs = RunRepository(self)
        self.observed = ObservedTimeRepository(self)
        self.pictures = PictureRepository(self)
        self.trials = TrialRepository(self)
        self.probes = ProbeRepository(self)
        self.logbook = Logbook(self, self.jobs, self.shop_settings, self.forms, self.pieces, self.runs, self.training)
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
                self.shop_settings.get()
        except DatabaseError as error:
            raise CannotOpen(f"{self.path} could not be opened: {why_not(error, self.path.parent)}") from None

    def taken_over(self) -> None:
        """After the file was put in place anew: forget what was read from the old one."""
        self.training.forget()
        with self.connected():
            self._of_present_law()

    def _of_present_law(self) -> None:
        """Forms of an earlier law predicted anew, and what pieces teach written down where it is missing."""
        if self.fact("law") != str(LAW):
            with self.writing():
                if self.logbook.restate_forms():
                    self.note("taught", "")
                self.note("law", str(LAW))
        if self.fact("taught") != "all":
            self.logbook.write_missing()
            self.note("taught", "all")

    def raw(self, kind: str, row_id: int) -> str:
        """The text of a row as it lies in the file, to take away. Raises: NotFound."""
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
            self.jobs.any()
            or LotRow.select().exists()
            or ShopRow.select().exists()
            or MetaRow.get_or_none(MetaRow.key == "shop")
        )
