"""Forms as they were built, the pieces that came off them, and what those teach."""

from __future__ import annotations

import datetime as dt
from contextlib import suppress
from typing import Any

from peewee import JOIN, fn
from pydantic import ValidationError

from ..core.common.errors import PlanError
from ..core.learning.belief import MeasuredBend
from ..core.measuring.built_form import FAILED, BuiltForm
from ..core.measuring.settled_since import settled_since
from ..core.shape.arc import Face
from .database import finite, now
from .records import (
    KeptForm,
    KeptPiece,
    LogbookQuery,
    Measurement,
    NotFound,
    Page,
    Unreadable,
)
from .restate_forms import RestatedPrediction
from .tables import FormRow, JobRow, MeasurementRow, PieceRow, TaughtRow
from .training_data import LATER, TrainingData

UNREADABLE = "A form built for this job cannot be read; it is left as it is."


class Forms(RestatedPrediction, TrainingData):
    """Built forms, pieces and measurements in the store."""

    def keep_form(self, job_id: int, built: BuiltForm, origin: str = "") -> int:
        """Freeze a form as built. Built again unchanged, it is the same form. origin: the shop it was brought from.
        Raises: NotKept."""
        with self.writing():
            built = self.of_present_law(built, job_id)
            last = FormRow.select().where(FormRow.job == job_id).order_by(FormRow.id.desc()).first()
            if last and self._form_in(last, ()) and BuiltForm.model_validate_json(last.body) == built:
                return int(last.id)
            made = FormRow.create(
                job=job_id,
                at=now(),
                body=built.model_dump_json(),
                way=built.way,
                stock_group=built.group,
                mean_curvature=built.mean_curvature,
                origin=origin,
            )
            return int(made.id)

    def forms(self, job_id: int | None = None) -> list[KeptForm]:
        """Forms of a job, or of all jobs, that can be read, oldest first, with their pieces."""
        return self._remembered(("forms", job_id), lambda: self._read_forms(job_id))  # type: ignore[no-any-return]

    def _read_forms(self, job_id: int | None) -> list[KeptForm]:
        query = FormRow.select().order_by(FormRow.id)
        if job_id is not None:
            query = query.where(FormRow.job == job_id)
        return self._with_pieces(list(query))

    def forms_page(self, page: Page) -> list[KeptForm]:
        """One page of all forms that can be read, the newest first."""
        return self._with_pieces(list(FormRow.select().order_by(FormRow.id.desc()).offset(page.skip).limit(page.size)))

    def forms_like(self, mean_curvature: float, most: int) -> list[KeptForm]:
        """Forms that can be read, those bent most nearly so first, without their pieces."""
        rows = FormRow.select().order_by(fn.ABS(FormRow.mean_curvature - mean_curvature), FormRow.id).limit(most)
        return [form for form in (self._form_in(r, ()) for r in rows) if form]

    def form_count(self) -> int:
        """How many forms are kept."""
        return int(FormRow.select().count())

    def _with_pieces(self, rows: list[Any]) -> list[KeptForm]:
        pieces = self._pieces([row.id for row in rows])
        kept = (self._form_in(r, tuple(pieces.get(r.id, ()))) for r in rows)
        return [form for form in kept if form]

    @staticmethod
    def _form_in(row: Any, pieces: tuple[KeptPiece, ...]) -> KeptForm | None:
        try:
            built = BuiltForm.model_validate_json(row.body)
            return KeptForm(row.id, row.job_id, row.at, built, pieces, row.origin)
        except ValidationError:
            return None

    def form(self, form_id: int) -> KeptForm:
        """Raises: NotThere, Unreadable."""
        row = FormRow.get_or_none(FormRow.id == form_id)
        if row is None:
            raise NotFound("There is no such form.")
        kept = self._form_in(row, tuple(self._pieces([row.id]).get(row.id, ())))
        if kept is None:
            raise Unreadable(UNREADABLE, "form", row.id)
        return kept

    def _pieces(self, form_ids: list[int]) -> dict[int, list[KeptPiece]]:
        found: dict[int, list[KeptPiece]] = {}
        seen: dict[int, list[Measurement]] = {}
        for some in (form_ids[i : i + 500] for i in range(0, len(form_ids), 500)):
            taken = MeasurementRow.select().join(PieceRow).where(PieceRow.form.in_(some))
            for m in taken.order_by(MeasurementRow.day, MeasurementRow.id):
                made = Measurement(m.id, m.day, m.chord_mm, m.rise_mm, m.face, m.error_mm, m.readings)
                seen.setdefault(m.piece_id, []).append(made)
            bent = self._bent_so(some)
            for r in PieceRow.select().where(PieceRow.form.in_(some)).order_by(PieceRow.id):
                own = tuple(seen.get(r.id, ()))
                said = (r.verdict, r.correction, r.corrected_in, bent.get(r.id))
                piece = KeptPiece(
                    r.id, r.form_id, r.label, r.mishap, r.left_out, r.note, own, r.hand, r.run, r.number, *said
                )
                found.setdefault(r.form_id, []).append(piece)
        return found

    @staticmethod
    def _bent_so(form_ids: list[int]) -> dict[int, BuiltForm]:
        """Forms as pieces were bent on them, by piece, where their hours were recorded."""
        rows = TaughtRow.select(TaughtRow.piece, TaughtRow.built).join(PieceRow)
        seen = rows.where(PieceRow.form.in_(form_ids) & (TaughtRow.built != "")).tuples()
        made = {}
        for piece, body in seen:
            with suppress(ValidationError):  # then it is compared with its form as it was built
                made[piece] = BuiltForm.model_validate_json(body)
        return made

    def add_piece(
        self,
        form_id: int,
        *,
        label: str,
        day: dt.date,
        chord_mm: float,
        rise_mm: float,
        face: Face,
        error_mm: float,
        mishap: str = "",
        left_out: bool = False,
        note: str = "",
        hand: str = "",
        of_run: tuple[int, int] | None = None,
        readings: str = "",
    ) -> int:
        """A piece with its first measurement, together or not at all; of_run: the run it came from, and its number in
        it; readings: how it was read. Raises: NotKept."""
        finite(chord_mm, rise_mm, error_mm)
        run, number = of_run or (None, None)
        with self.writing():
            piece = PieceRow.create(
                form=form_id,
                label=label,
                mishap=mishap,
                left_out=left_out,
                note=note,
                hand=hand,
                run=run,
                number=number,
            )
            self._measured(piece.id, (day, chord_mm, rise_mm, face, error_mm, readings))
        return int(piece.id)

    def _measured(self, piece_id: int, read: tuple[dt.date, float, float, Face, float, str]) -> None:
        names = ("day", "chord_mm", "rise_mm", "face", "error_mm", "readings")
        MeasurementRow.create(piece=piece_id, **dict(zip(names, read, strict=True)))
        self._teach(piece_id)

    def add_unmeasured(
        self,
        form_id: int,
        *,
        label: str,
        mishap: str,
        note: str = "",
        hand: str = "",
        of_run: tuple[int, int] | None = None,
    ) -> int:
        """A piece without a measurement, failed or off a form that cannot open: it counts for the yield only."""
        with self.writing():
            run, number = of_run or (None, None)
            made = PieceRow.create(
                form=form_id,
                label=label,
                mishap=mishap,
                left_out=True,
                note=note,
                hand=hand,
                run=run,
                number=number,
            )
            self._count_up("book")
        return int(made.id)

    def remove_piece(self, piece_id: int) -> int:
        """Take a piece out with all its measurements. Returns the job's id. Raises: NotThere, NotKept."""
        with self.writing():
            row = self._row_of(piece_id)
            job_id = int(FormRow.get_by_id(row.form_id).job_id)
            row.delete_instance()
            self._count_up("book")
        return job_id

    @staticmethod
    def _row_of(piece_id: int) -> Any:
        row = PieceRow.get_or_none(PieceRow.id == piece_id)
        if row is None:
            raise NotFound("There is no such piece.")
        return row

    def piece(self, piece_id: int) -> tuple[KeptForm, KeptPiece]:
        """A piece and the form it came off. Raises: NotThere."""
        form = self.form(self._row_of(piece_id).form_id)
        return form, next(p for p in form.pieces if p.id == piece_id)

    def measure_again(
        self,
        piece_id: int,
        *,
        day: dt.date,
        chord_mm: float,
        rise_mm: float,
        face: Face,
        error_mm: float,
        readings: str = "",
    ) -> None:
        """Another measurement of a piece. Raises: NotThere, NotKept."""
        finite(chord_mm, rise_mm, error_mm)
        with self.writing():
            self._measured(self._row_of(piece_id).id, (day, chord_mm, rise_mm, face, error_mm, readings))

    def judge(self, piece_id: int, verdict: str, correction: str = "", corrected_in: int | None = None) -> None:
        """What becomes of a piece, and how; an empty verdict takes it back. Raises: NotThere, NotKept."""
        with self.writing():
            row = PieceRow.id == self._row_of(piece_id).id
            said = {"verdict": verdict, "correction": correction, "corrected_in": corrected_in}
            PieceRow.update(said).where(row).execute()
            self._count_up("book")

    def leave_out(self, piece_id: int, out: bool) -> None:
        """Take a piece out of what is learnt, or back in. Raises: NotThere, NotKept."""
        with self.writing():
            PieceRow.update(left_out=out).where(PieceRow.id == self._row_of(piece_id).id).execute()
            self._teach(piece_id)

    def remove_measurement(self, measurement_id: int) -> int:
        """Take a slip of the pen out again, and its piece with it if it was the only one. Returns the job's id."""
        with self.writing():
            row = MeasurementRow.get_or_none(MeasurementRow.id == measurement_id)
            if row is None:
                raise NotFound("There is no such measurement.")
            piece = PieceRow.get_by_id(row.piece_id)
            job_id = int(FormRow.get_by_id(piece.form_id).job_id)
            row.delete_instance()
            if MeasurementRow.select().where(MeasurementRow.piece == piece.id).exists():
                self._teach(piece.id)
            else:
                piece.delete_instance()
                self._count_up("book")
        return job_id

    # -- what is learnt -------------------------------------------------------------------------------------------
    def _teach(self, piece_id: int) -> None:
        """Write down anew what a piece teaches, from its first measurement, which is nearest to release."""
        self._count_up("book")
        TaughtRow.delete().where(TaughtRow.piece == piece_id).execute()
        try:
            form, piece = self.piece(piece_id)
        except Unreadable:
            return
        if not piece.measurements:
            return
        first = piece.measurements[0]
        own = self.as_bent(FormRow.get_by_id(form.id), form.built, piece)
        try:
            bend = own.record(
                chord_mm=first.chord_mm,
                rise_mm=first.rise_mm,
                face=first.face,
                error_mm=first.error_mm,
                left_out=piece.left_out,
                label=piece.label,
            )
        except (PlanError, ValidationError):
            return  # kept and shown, but nothing can be learnt from it
        again = settled_since(own, [(float(m.day.toordinal()), m) for m in piece.measurements])
        later = LATER.dump_json(again).decode() if again else ""
        so = "" if own == form.built else own.model_dump_json()
        TaughtRow.replace(piece=piece_id, body=bend.model_dump_json(), later=later, built=so).execute()

    def teach_missing(self) -> int:
        """Write down what pieces of earlier versions teach. Returns how many pieces that were."""
        known = TaughtRow.select(TaughtRow.piece)
        rows = PieceRow.select(PieceRow.id).join(MeasurementRow).where(PieceRow.id.not_in(known)).distinct()
        ids = [row.id for row in rows]
        with self.writing():
            for piece_id in ids:
                self._teach(piece_id)
        return len(ids)

    # -- the book, page by page -----------------------------------------------------------------------------------
    def measured_count(self, sought: LogbookQuery | None = None) -> int:
        """How many pieces are measured, or are such as are sought."""
        return int(self._in_book(sought or LogbookQuery()).count())

    def measured_page(self, page: Page, sought: LogbookQuery | None = None) -> list[tuple[KeptForm, KeptPiece]]:
        """One page of the measured pieces whose form can be read, the newest form first."""
        rows = self._in_book(sought or LogbookQuery()).order_by(PieceRow.form.desc(), PieceRow.id.desc())
        shown = list(rows.offset(page.skip).limit(page.size))
        forms = {
            f.id: f for f in self._with_pieces(list(FormRow.select().where(FormRow.id.in_({r.form_id for r in shown}))))
        }
        return [
            (forms[r.form_id], p) for r in shown if r.form_id in forms for p in forms[r.form_id].pieces if p.id == r.id
        ]

    @staticmethod
    def _in_book(sought: LogbookQuery) -> Any:
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

    def found_bends(self, sought: LogbookQuery, most: int) -> list[tuple[dt.date, int, MeasuredBend]]:
        """The newest pieces that are sought and teach: the day each was first measured, its piece, its record."""
        ids = [r.id for r in self._in_book(sought).order_by(PieceRow.id.desc()).limit(most)]
        known = {piece: bend for _, piece, bend in self.taught()}
        first = (
            MeasurementRow.select(MeasurementRow.piece, fn.MIN(MeasurementRow.day))
            .where(MeasurementRow.piece.in_(ids))
            .group_by(MeasurementRow.piece)
        )
        found = ((dt.date.fromisoformat(str(day)[:10]), piece) for piece, day in first.tuples() if piece in known)
        return [(day, piece, known[piece]) for day, piece in found]

    def measured_on(self, piece_id: int) -> dt.date | None:
        """The day a piece was first measured."""
        row = MeasurementRow.select().where(MeasurementRow.piece == piece_id).order_by(MeasurementRow.day).first()
        return row.day if row else None

    def whole_book(self) -> list[tuple[KeptForm, KeptPiece]]:
        """Every piece off a form that can be read, the oldest first."""
        return [(form, piece) for form in self._read_forms(None) for piece in form.pieces]

    def ways_in_book(self) -> set[str]:
        """The ways forms were built for."""
        return {row.way for row in FormRow.select(FormRow.way).distinct()}

    def pieces_of_jobs(self, job_ids: set[int]) -> dict[int, tuple[int, int]]:
        """How many forms, and pieces off them, each of some jobs has."""
        rows = (
            FormRow.select(FormRow.job, fn.COUNT(FormRow.id.distinct()), fn.COUNT(PieceRow.id))
            .join(PieceRow, JOIN.LEFT_OUTER)
            .where(FormRow.job.in_(job_ids))
            .group_by(FormRow.job)
        )
        return {job: (forms, pieces) for job, forms, pieces in rows.tuples()}

    def has_jobs(self) -> bool:
        """Whether anything of a job was ever kept here."""
        return bool(JobRow.select().exists())
