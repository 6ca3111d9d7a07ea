"""Pieces off built forms, and their measurements."""

from __future__ import annotations

import datetime as dt
from typing import Any

from peewee import JOIN, fn

from ...core.measuring.built_form import FAILED
from ...core.shape.arc import Face
from ..database import finite
from ..records import KeptForm, KeptPiece, LogbookQuery, NotFound, Page, Unreadable
from ..tables import FormRow, JobRow, MeasurementRow, PieceRow
from .built_forms import UNREADABLE
from .form_rows import forms_with_pieces, pieces_of, read_form
from .repository import Repository


class PieceRepository(Repository):
    """Pieces and measurements. What they show about the shop is written by the logbook, in the same transaction."""

    def add(
        self,
        form_id: int,
        *,
        label: str,
        mishap: str,
        left_out: bool,
        note: str,
        hand: str,
        of_run: tuple[int, int] | None,
    ) -> int:
        """Add a piece without a measurement and return its number.

        Args:
            form_id: the form it came off.
            label: its name.
            mishap: what went wrong with it; empty where nothing did.
            left_out: whether predictions leave it out.
            note: a remark.
            hand: left or right, of a pair.
            of_run: the run it came from, and its number in it from 0.

        Raises: NotKept.
        """
        run, number = of_run or (None, None)
        told = {"label": label, "mishap": mishap, "left_out": left_out, "note": note, "hand": hand}
        with self.database.writing():
            return int(PieceRow.create(form=form_id, run=run, number=number, **told).id)

    def get(self, piece_id: int) -> tuple[KeptForm, KeptPiece]:
        """Return a piece and the form it came off. Raises: NotFound, Unreadable."""
        row = FormRow.get_by_id(_row_of(piece_id).form_id)
        form = read_form(row, tuple(pieces_of([row.id]).get(row.id, ())))
        if form is None:
            raise Unreadable(UNREADABLE, "form", row.id)
        return form, next(p for p in form.pieces if p.id == piece_id)

    def remove(self, piece_id: int) -> int:
        """Remove a piece with all its measurements. Returns the job's number. Raises: NotFound, NotKept."""
        with self.database.writing():
            row = _row_of(piece_id)
            job_id = int(FormRow.get_by_id(row.form_id).job_id)
            row.delete_instance()
        return job_id

    def save_decision(self, piece_id: int, verdict: str, correction: str = "", corrected_in: int | None = None) -> None:
        """Save what becomes of a piece, and how; an empty verdict takes it back. Raises: NotFound, NotKept."""
        with self.database.writing():
            row = PieceRow.id == _row_of(piece_id).id
            decision = {"verdict": verdict, "correction": correction, "corrected_in": corrected_in}
            PieceRow.update(decision).where(row).execute()

    def leave_out(self, piece_id: int, out: bool) -> None:
        """Leave a piece out of predictions, or use it again. Raises: NotFound, NotKept."""
        with self.database.writing():
            PieceRow.update(left_out=out).where(PieceRow.id == _row_of(piece_id).id).execute()

    def add_measurement(
        self,
        piece_id: int,
        *,
        day: dt.date,
        chord_mm: float,
        rise_mm: float,
        face: Face,
        error_mm: float,
        readings: str,
    ) -> None:
        """Add a measurement of a piece.

        Args:
            piece_id: the piece.
            day: when it was measured.
            chord_mm: between its ends, along the face.
            rise_mm: above that chord.
            face: the face measured.
            error_mm: of either figure, one standard deviation.
            readings: how it was read, as it was typed.

        Raises: NotFound, NotKept.
        """
        finite(chord_mm, rise_mm, error_mm)
        read = {"chord_mm": chord_mm, "rise_mm": rise_mm, "face": face, "error_mm": error_mm, "readings": readings}
        with self.database.writing():
            MeasurementRow.create(piece=_row_of(piece_id).id, day=day, **read)

    def remove_measurement(self, measurement_id: int) -> tuple[int, int, bool]:
        """Remove a measurement, and its piece with it if it was the only one.

        Returns the job, the piece, and whether the piece is still there. Raises: NotFound, NotKept.
        """
        with self.database.writing():
            row = MeasurementRow.get_or_none(MeasurementRow.id == measurement_id)
            if row is None:
                raise NotFound("There is no such measurement.")
            piece = PieceRow.get_by_id(row.piece_id)
            job_id = int(FormRow.get_by_id(piece.form_id).job_id)
            row.delete_instance()
            stays = MeasurementRow.select().where(MeasurementRow.piece == piece.id).exists()
            if not stays:
                piece.delete_instance()
        return job_id, int(piece.id), stays

    # -- the logbook, page by page --------------------------------------------------------------------------------
    def measured_count(self, sought: LogbookQuery | None = None) -> int:
        """How many pieces are measured, or are such as are sought."""
        return int(_selected(sought or LogbookQuery()).count())

    def measured_page(self, page: Page, sought: LogbookQuery | None = None) -> list[tuple[KeptForm, KeptPiece]]:
        """One page of the measured pieces whose form can be read, the newest form first."""
        rows = _selected(sought or LogbookQuery()).order_by(PieceRow.form.desc(), PieceRow.id.desc())
        shown = list(rows.offset(page.skip).limit(page.size))
        forms = {
            f.id: f for f in forms_with_pieces(list(FormRow.select().where(FormRow.id.in_({r.form_id for r in shown}))))
        }
        return [
            (forms[r.form_id], p) for r in shown if r.form_id in forms for p in forms[r.form_id].pieces if p.id == r.id
        ]

    def measured_on(self, piece_id: int) -> dt.date | None:
        """Return the day a piece was first measured."""
        row = MeasurementRow.select().where(MeasurementRow.piece == piece_id).order_by(MeasurementRow.day).first()
        return row.day if row else None

    def first_days(self, sought: LogbookQuery, most: int) -> dict[int, dt.date]:
        """Return the day each of the newest pieces that are sought was first measured."""
        ids = [r.id for r in _selected(sought).order_by(PieceRow.id.desc()).limit(most)]
        first = (
            MeasurementRow.select(MeasurementRow.piece, fn.MIN(MeasurementRow.day))
            .where(MeasurementRow.piece.in_(ids))
            .group_by(MeasurementRow.piece)
        )
        return {piece: dt.date.fromisoformat(str(day)[:10]) for piece, day in first.tuples()}

    def counts_by_job(self, job_ids: set[int]) -> dict[int, tuple[int, int]]:
        """Return how many forms, and pieces off them, each of some jobs has."""
        rows = (
            FormRow.select(FormRow.job, fn.COUNT(FormRow.id.distinct()), fn.COUNT(PieceRow.id))
            .join(PieceRow, JOIN.LEFT_OUTER)
            .where(FormRow.job.in_(job_ids))
            .group_by(FormRow.job)
        )
        return {job: (forms, pieces) for job, forms, pieces in rows.tuples()}

    def made_by_jobs(self, job_ids: set[int]) -> tuple[int, int]:
        """Return how many pieces some jobs made in all, and how many of them were lost."""
        failed = fn.SUM(PieceRow.mishap.in_(sorted(FAILED)) | (PieceRow.verdict == "reject"))
        rows = PieceRow.select(fn.COUNT(PieceRow.id), failed).join(FormRow).where(FormRow.job.in_(job_ids))
        made, lost = next(iter(rows.tuples()))
        return int(made), int(lost or 0)


def _row_of(piece_id: int) -> Any:
    row = PieceRow.get_or_none(PieceRow.id == piece_id)
    if row is None:
        raise NotFound("There is no such piece.")
    return row


def _selected(sought: LogbookQuery) -> Any:
    """Pieces that are sought: all that are measured, or that failed where those are asked for."""
    rows = PieceRow.select(PieceRow.id, PieceRow.form)
    if sought.outcome != "failed":
        rows = rows.where(PieceRow.id.in_(MeasurementRow.select(MeasurementRow.piece)))
    if sought.words or sought.way:
        rows = rows.join(FormRow, on=FormRow.id == PieceRow.form)
        if sought.way:
            rows = rows.where(FormRow.way == sought.way)
        if sought.words:
            rows = rows.join(JobRow, on=JobRow.id == FormRow.job)
        for word in sought.words.split()[:8]:
            own = (
                FormRow.origin.contains(word)
                | JobRow.name.contains(word)
                | PieceRow.label.contains(word)
                | PieceRow.note.contains(word)
            )
            rows = rows.where(own | FormRow.stock_group.contains(word))
    if sought.since or sought.until:
        first = MeasurementRow.select(MeasurementRow.piece).group_by(MeasurementRow.piece)
        if sought.since:
            first = first.having(fn.MIN(MeasurementRow.day) >= sought.since)
        if sought.until:
            first = first.having(fn.MIN(MeasurementRow.day) <= sought.until)
        rows = rows.where(PieceRow.id.in_(first))
    if sought.outcome == "failed":
        rows = rows.where(PieceRow.mishap.in_(sorted(FAILED)) | (PieceRow.verdict == "reject"))
    elif sought.outcome == "left_out":
        rows = rows.where(PieceRow.left_out)
    elif sought.outcome == "teaches":
        rows = rows.where(~PieceRow.left_out)
    return rows
