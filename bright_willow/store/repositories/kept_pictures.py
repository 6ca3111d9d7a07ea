"""Pictures of jobs and pieces in the store, and what is marked on them."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

from pydantic import ValidationError

from ...core.measuring.photo_measurement import PhotoMarks
from ..database import now
from ..records import NotFound, NotKept
from ..tables import JobRow, PictureRow, PieceRow
from .repository import Repository

MOST_OF_A_JOB = 200


@dataclass(frozen=True)
class Picture:
    """A picture as lists need it: its size in dots, and what is marked on it, if anything."""

    id: int
    job_id: int
    piece_id: int | None
    at: dt.datetime
    note: str
    wide: int
    high: int
    marks: PhotoMarks | None


class PictureRepository(Repository):
    """Pictures of jobs and of pieces."""

    def add(
        self, job_id: int, body: bytes, size: tuple[int, int], *, piece_id: int | None = None, note: str = ""
    ) -> int:
        """A picture, made small already. size: dots across and down. Raises: NotFound, NotKept."""
        with self.database.writing():
            if JobRow.get_or_none(JobRow.id == job_id) is None:
                raise NotFound("There is no such job.")
            if piece_id is not None and PieceRow.get_or_none(PieceRow.id == piece_id) is None:
                raise NotFound("There is no such piece.")
            if PictureRow.select().where(PictureRow.job == job_id).count() >= MOST_OF_A_JOB:
                raise NotKept(f"A job keeps up to {MOST_OF_A_JOB} pictures: take one out first.")
            made = PictureRow.create(
                job=job_id, piece=piece_id, at=now(), note=note, wide=size[0], high=size[1], body=body
            )
            return int(made.id)

    def of_job(self, job_id: int) -> list[Picture]:
        """Pictures of a job and its pieces, the newest first."""
        own = [f for f in PictureRow._meta.sorted_fields if f is not PictureRow.body]
        rows = PictureRow.select(*own).where(PictureRow.job == job_id).order_by(PictureRow.id.desc())
        return [_picture(row) for row in rows]

    def get(self, picture_id: int) -> Picture:
        """Raises: NotFound."""
        return _picture(self._picture_row(picture_id))

    def body(self, picture_id: int) -> bytes:
        """The picture itself, a JPEG. Raises: NotFound."""
        return bytes(self._picture_row(picture_id).body)

    def save_marks(self, picture_id: int, marks: PhotoMarks) -> None:
        """Raises: NotFound, NotKept."""
        with self.database.writing():
            row = self._picture_row(picture_id)
            PictureRow.update(marks=marks.model_dump_json()).where(PictureRow.id == row.id).execute()

    def assign_piece(self, picture_id: int, piece_id: int) -> None:
        """Say which piece a picture shows. Raises: NotFound, NotKept."""
        with self.database.writing():
            row = self._picture_row(picture_id)
            PictureRow.update(piece=piece_id).where(PictureRow.id == row.id).execute()

    def remove(self, picture_id: int) -> int:
        """Take a picture out for good. Returns its job. Raises: NotFound, NotKept."""
        with self.database.writing():
            row = self._picture_row(picture_id)
            row.delete_instance()
            return int(row.job_id)

    @staticmethod
    def _picture_row(picture_id: int) -> PictureRow:
        row = PictureRow.get_or_none(PictureRow.id == picture_id)
        if row is None:
            raise NotFound("There is no such picture.")
        return row  # type: ignore[no-any-return]


def _picture(row: PictureRow) -> Picture:
    marks = None
    if row.marks:
        try:
            marks = PhotoMarks.model_validate_json(row.marks)
        except ValidationError:
            marks = None  # the picture stays; it can be marked anew
    return Picture(row.id, row.job_id, row.piece_id, row.at, row.note, row.wide, row.high, marks)
