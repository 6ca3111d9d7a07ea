"""What the store hands out: jobs as they stand, forms, pieces, lots; and what cannot be read, for what it is."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

from ..core.job.job import Job
from ..core.measuring.built_form import FAILED, BuiltForm, PieceComparison, compare
from ..core.shape.arc import Face
from ..core.wood.lot import Lot


class NotFound(LookupError):
    """No such job, piece or revision."""


class Unreadable(NotFound):
    """A row that is there but cannot be read; it is kept as it is."""

    def __init__(self, message: str, kind: str, row_id: int) -> None:
        super().__init__(message)
        self.kind, self.row_id = kind, row_id


class NotKept(Exception):
    """A change that could not be written: nothing of it was; says why, in a sentence."""


class CannotOpen(Exception):
    """A data folder that cannot be used; says why, and a way out."""


@dataclass(frozen=True)
class JobState:
    """A job as it stands, and what can be done with its history."""

    id: int
    job: Job
    revision: int
    can_undo: bool
    can_redo: bool
    settled: frozenset[str]
    changed: dt.datetime


@dataclass(frozen=True)
class Revision:
    """A line of a job's history."""

    id: int
    at: dt.datetime
    what: str
    is_current: bool


@dataclass(frozen=True)
class Measurement:
    """Chord and rise of a piece on a day."""

    id: int
    day: dt.date
    chord_mm: float
    rise_mm: float
    face: Face
    error_mm: float
    readings: str = ""


@dataclass(frozen=True)
class KeptPiece:
    """A piece off a form, with its measurements in order of day; none where it failed before it could be measured.

    run, number: which piece (from 0) of which run at the bench it was. verdict: keep, correct or reject, where it was
    said; correction: how; corrected_in: the job that was made for it. built: its form by the hours it was recorded to
    be on it; None where they were not.
    """

    id: int
    form_id: int
    label: str
    mishap: str
    left_out: bool
    note: str
    measurements: tuple[Measurement, ...]
    hand: str = ""
    run: int | None = None
    number: int | None = None
    verdict: str = ""
    correction: str = ""
    corrected_in: int | None = None
    built: BuiltForm | None = None

    @property
    def has_failed(self) -> bool:
        """Whether it can no longer be used."""
        return self.mishap in FAILED or self.verdict == "reject"


@dataclass(frozen=True)
class KeptLot:
    """A lot on the rack."""

    id: int
    lot: Lot


@dataclass(frozen=True)
class KeptForm:
    """A built form and its pieces."""

    id: int
    job_id: int
    at: dt.datetime
    built: BuiltForm
    pieces: tuple[KeptPiece, ...]
    origin: str = ""  # the shop it was brought from; empty: this one's own

    def under(self, piece: KeptPiece) -> BuiltForm:
        """The form as a piece was bent on it: what its measurements are compared with."""
        return piece.built or self.built

    def compared(self, piece: KeptPiece, m: Measurement) -> PieceComparison:
        """What a measurement of a piece says. Raises: PlanError when it cannot belong to it."""
        of = self.under(piece)
        return compare(of, chord_mm=m.chord_mm, rise_mm=m.rise_mm, face=m.face, error_mm=m.error_mm)


@dataclass(frozen=True)
class DamagedRow:
    """A row that cannot be read: what it is, whose, and why."""

    kind: str
    id: int
    name: str
    message: str


@dataclass(frozen=True)
class LogbookQuery:
    """What is sought in the book: words of job, piece, note, stock or shop; a way; an outcome (teaches, left_out,
    failed); first measured from a day on, and up to one."""

    words: str = ""
    way: str = ""
    outcome: str = ""
    since: dt.date | None = None
    until: dt.date | None = None

    @property
    def is_all(self) -> bool:
        """Whether nothing is asked for."""
        return self == LogbookQuery()


@dataclass(frozen=True)
class Page:
    """Which rows of a long list are wanted, and how many there are."""

    number: int
    rows: int
    size: int = 50

    @property
    def last(self) -> int:
        """The number of the last page; the first is 1."""
        return max(1, -(-self.rows // self.size))

    @property
    def at(self) -> int:
        """The page shown: the one asked for, or the last there is."""
        return min(max(1, self.number), self.last)

    @property
    def skip(self) -> int:
        """How many rows stand before it."""
        return (self.at - 1) * self.size
