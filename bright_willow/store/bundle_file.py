"""What is in a job taken along with its book: documents of an open ZIP, each read, none unfolding without end."""

from __future__ import annotations

import datetime as dt
import io
import zipfile
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from ..core.common.document import Document
from ..core.common.errors import PlanError
from ..core.measuring.built_form import BuiltForm
from ..core.measuring.photo_measurement import PhotoMarks
from ..core.measuring.profile_readings import MOST_CHARS
from ..core.shape.arc import Face
from ..core.wood.sheets import OwnSheet
from ..core.wood.species import OwnWood
from .repositories.kept_pictures import MOST_OF_A_JOB

FORMAT = "bright-willow-bundle"
MOST_FILES, MOST_BYTES, MOST_EACH = 1_000, 60_000_000, 8_000_000
MOST_EVENTS = 20_000
NO_ZIP = "That file is damaged: it is not a readable ZIP."


class BundledReading(Document):
    """Chord and rise of a piece on a day."""

    day: str = Field(max_length=10)
    chord_mm: float = Field(gt=0, le=100_000, allow_inf_nan=False)
    rise_mm: float = Field(ge=-100_000, le=100_000, allow_inf_nan=False)
    face: Face
    error_mm: float = Field(gt=0, le=100, allow_inf_nan=False)
    readings: str = Field(default="", max_length=MOST_CHARS)


class BundledPiece(Document):
    """A piece off a form; run and number: which of the runs of this file it was, by its place there, from 0."""

    label: str = Field(min_length=1, max_length=40)
    mishap: str = Field(default="", max_length=40)
    left_out: bool = False
    note: str = Field(default="", max_length=4_000)
    hand: Literal["", "left", "right"] = ""
    run: int | None = Field(default=None, ge=0, le=10_000)
    number: int | None = Field(default=None, ge=0, le=100_000)
    verdict: Literal["", "keep", "correct", "reject"] = ""
    correction: str = Field(default="", max_length=40)
    measurements: tuple[BundledReading, ...] = Field(default=(), max_length=500, strict=False)


class BundledForm(Document):
    """A built form and its pieces."""

    built: BuiltForm
    origin: str = Field(default="", max_length=80)
    pieces: tuple[BundledPiece, ...] = Field(default=(), max_length=2_000, strict=False)


class BundledRun(BaseModel):
    """A run with what it goes by and what happened."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)
    kind: Literal["run", "rehearsal", "game", "trial"]
    at: dt.datetime
    ended: dt.datetime | None = None
    brief: dict[str, Any]
    events: list[dict[str, Any]] = Field(max_length=MOST_EVENTS)
    photos: list[dict[str, Any]] = Field(default_factory=list, max_length=300)


class BundledPicture(Document):
    """A picture of the job or of one of its pieces: of which form and which of its pieces, by their places here."""

    form: int | None = Field(default=None, ge=0, le=500)
    piece: int | None = Field(default=None, ge=0, le=2_000)
    note: str = Field(default="", max_length=255)
    marks: PhotoMarks | None = None


class BundledPictures(Document):
    """All pictures, in the order of their files."""

    pictures: tuple[BundledPicture, ...] = Field(default=(), max_length=MOST_OF_A_JOB, strict=False)


class Manifest(Document):
    """What the file is, where it is from, and how much is in it."""

    format: Literal["bright-willow-bundle"]
    version: Literal[1]
    shop: str = Field(default="", max_length=80)
    forms: int = Field(default=0, ge=0, le=500)
    runs: int = Field(default=0, ge=0, le=500)
    trials: int = Field(default=0, ge=0, le=500)
    pictures: int = Field(default=0, ge=0, le=MOST_OF_A_JOB)
    woods: tuple[OwnWood, ...] = Field(default=(), max_length=200, strict=False)
    sheets: tuple[OwnSheet, ...] = Field(default=(), max_length=100, strict=False)


def is_bundle(raw: bytes) -> bool:
    """Whether a file is a ZIP, by its own first letters, whatever it is called."""
    return raw[:4] == b"PK\x03\x04"


class ZipParts:
    """The files of a ZIP, each read once, none larger than it may be. Raises: PlanError for what is no such file."""

    def __init__(self, raw: bytes) -> None:
        try:
            self.zip = zipfile.ZipFile(io.BytesIO(raw))
        except (zipfile.BadZipFile, ValueError, OSError, NotImplementedError):
            raise PlanError("file", NO_ZIP) from None
        infos = self.zip.infolist()
        if len(infos) > MOST_FILES or sum(i.file_size for i in infos) > MOST_BYTES:
            raise PlanError("file", "That file holds more than the 60 MB this program imports.")
        self.names = {i.filename for i in infos if not i.is_dir()}

    def read(self, name: str) -> bytes:
        """One file; no more of it is unfolded than it may hold, whatever it says of itself. Raises: PlanError."""
        if name not in self.names:
            raise PlanError("file", f"{name} is missing in that file.")
        try:
            with self.zip.open(name) as part:
                body = part.read(MOST_EACH + 1)
        except (zipfile.BadZipFile, RuntimeError, OSError, NotImplementedError, EOFError, ValueError):
            raise PlanError("file", f"{name} cannot be read: it is damaged, or locked.") from None
        if len(body) > MOST_EACH:
            raise PlanError("file", f"{name} is too large.")
        return body

    def document(self, name: str, of: type[BaseModel]) -> Any:
        try:
            return of.model_validate_json(self.read(name))
        except ValidationError:
            raise PlanError("file", f"{name} is not what its name says.") from None
