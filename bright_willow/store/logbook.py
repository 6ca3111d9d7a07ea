"""The logbook: forms as built, pieces off them, and what each piece shows, always written together."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

from pydantic import ValidationError

from ..core.common.errors import PlanError
from ..core.execution.run_records import records_of
from ..core.execution.run_state import state_of
from ..core.learning.belief import MeasuredBend
from ..core.measuring.built_form import LAW, BuiltForm
from ..core.measuring.restated_forms import restated
from ..core.measuring.settled_since import settled_since
from ..core.shape.arc import Face
from ..core.shop.shop import OtherShop
from .database import Database, finite
from .records import KeptForm, KeptPiece, LogbookQuery, NotFound, Unreadable
from .repositories.built_forms import FormRepository
from .repositories.jobs import JobRepository
from .repositories.pieces import PieceRepository
from .repositories.runs import RunRepository
from .repositories.shop_settings import ShopRepository
from .repositories.training_data import TrainingRepository

LEAST_H, MOST_H = 0.05, 2_000.0  # on the form, between which a recorded time is taken for one


@dataclass(frozen=True)
class Logbook:
    """Changes of forms and pieces that touch several repositories: each is written whole or not at all."""

    database: Database
    jobs: JobRepository
    shop_settings: ShopRepository
    forms: FormRepository
    pieces: PieceRepository
    runs: RunRepository
    training: TrainingRepository

    # -- forms ----------------------------------------------------------------------------------------------------
    def save_form(self, job_id: int, built: BuiltForm, origin: str = "") -> int:
        """Save a form as built, predicted by the present law, and return its number.

        origin: the shop it was imported from. Raises: NotFound, Unreadable, NotKept.
        """
        with self.database.writing():
            if built.law != LAW:
                built = restated(built, self.jobs.get(job_id).job, self.shop_settings.get())
            return self.forms.add(job_id, built, origin)

    def restate_forms(self) -> int:
        """Predict every form of an earlier law anew, and return how many forms that were.

        What such forms promised stays; what their pieces show is deleted, so that `write_missing` writes it anew.
        """
        count = 0
        for form in self.forms.find():
            job = self.jobs.as_of(form.job_id, form.at) if form.built.law != LAW else None
            if job is not None:
                self.forms.replace(form.id, restated(form.built, job, self.shop_settings.get()))
                count += 1
        if count:
            self.database.count_up("book")
        return count

    # -- pieces ---------------------------------------------------------------------------------------------------
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
        """Add a piece with its first measurement and return its number.

        Args: as of `PieceRepository.add` and `PieceRepository.add_measurement`. Raises: NotKept.
        """
        finite(chord_mm, rise_mm, error_mm)
        with self.database.writing():
            piece_id = self.pieces.add(
                form_id, label=label, mishap=mishap, left_out=left_out, note=note, hand=hand, of_run=of_run
            )
            read = {"chord_mm": chord_mm, "rise_mm": rise_mm, "error_mm": error_mm}
            self.measure_again(piece_id, day=day, face=face, readings=readings, **read)
        return piece_id

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
        """Add a piece without a measurement, failed or off a form that cannot open: it counts for success only.

        Args: as of `PieceRepository.add`. Raises: NotKept.
        """
        with self.database.writing():
            self.database.count_up("book")
            return self.pieces.add(
                form_id, label=label, mishap=mishap, left_out=True, note=note, hand=hand, of_run=of_run
            )

    def remove_piece(self, piece_id: int) -> int:
        """Remove a piece with all its measurements. Returns the job's number. Raises: NotFound, NotKept."""
        with self.database.writing():
            self.database.count_up("book")
            return self.pieces.remove(piece_id)

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
        """Add another measurement of a piece.

        Args: as of `PieceRepository.add_measurement`. Raises: NotFound, NotKept.
        """
        read = {"chord_mm": chord_mm, "rise_mm": rise_mm, "error_mm": error_mm, "readings": readings}
        with self.database.writing():
            self.pieces.add_measurement(piece_id, day=day, face=face, **read)  # type: ignore[arg-type]
            self._write_training(piece_id)

    def save_decision(self, piece_id: int, verdict: str, correction: str = "", corrected_in: int | None = None) -> None:
        """Save what becomes of a piece, and how; an empty verdict takes it back. Raises: NotFound, NotKept."""
        with self.database.writing():
            self.pieces.save_decision(piece_id, verdict, correction, corrected_in)
            self.database.count_up("book")

    def leave_out(self, piece_id: int, out: bool) -> None:
        """Leave a piece out of predictions, or use it again. Raises: NotFound, NotKept."""
        with self.database.writing():
            self.pieces.leave_out(piece_id, out)
            self._write_training(piece_id)

    def remove_measurement(self, measurement_id: int) -> int:
        """Remove a measurement, and its piece with it if it was the only one. Returns the job's number."""
        with self.database.writing():
            job_id, piece_id, stays = self.pieces.remove_measurement(measurement_id)
            if stays:
                self._write_training(piece_id)
            else:
                self.database.count_up("book")
        return job_id

    def all_pieces(self) -> list[tuple[KeptForm, KeptPiece]]:
        """Return every piece off a form that can be read, the oldest first."""
        return [(form, piece) for form in self.forms.find() for piece in form.pieces]

    # -- what pieces show -----------------------------------------------------------------------------------------
    def write_missing(self) -> int:
        """Write what pieces of earlier versions show, and return how many pieces that were."""
        missing = self.training.missing()
        with self.database.writing():
            for piece_id in missing:
                self._write_training(piece_id)
        return len(missing)

    def found_bends(self, sought: LogbookQuery, most: int) -> list[tuple[dt.date, int, MeasuredBend]]:
        """Return the newest pieces that are sought and used: when first measured, the piece, its record."""
        known = {piece: bend for _, piece, bend in self.training.by_piece()}
        days = self.pieces.first_days(sought, most)
        return [(day, piece, known[piece]) for piece, day in days.items() if piece in known]

    def set_share(self, job_id: int, share: float) -> None:
        """Count the shops whose forms a job has by a share from now on, where nothing is set for them yet.

        Raises: NotKept.
        """
        shop = self.shop_settings.get()
        names = self.forms.origins_of_job(job_id) - {other.name for other in shop.others}
        if names:
            new = tuple(OtherShop(name=name, share=share) for name in sorted(names))
            self.shop_settings.save(shop.model_copy(update={"others": (*shop.others, *new)}))

    def _write_training(self, piece_id: int) -> None:
        """Write anew what a piece shows, from its first measurement, which is nearest to release."""
        bend, later, built = None, [], ""
        try:
            form, piece = self.pieces.get(piece_id)
            if piece.measurements:
                first, as_bent = piece.measurements[0], self._as_bent(form, piece)
                bend = as_bent.record(
                    chord_mm=first.chord_mm,
                    rise_mm=first.rise_mm,
                    face=first.face,
                    error_mm=first.error_mm,
                    left_out=piece.left_out,
                    label=piece.label,
                )
                later = settled_since(as_bent, [(float(m.day.toordinal()), m) for m in piece.measurements])
                built = "" if as_bent == form.built else as_bent.model_dump_json()
        except (Unreadable, PlanError, ValidationError):
            bend = None  # kept and shown, but nothing can be predicted from it
        self.training.save(piece_id, bend, later=later, built=built)

    def _as_bent(self, form: KeptForm, piece: KeptPiece) -> BuiltForm:
        """Return a form by the hours one of its pieces was recorded to be on it; as built where they were not."""
        hours = self._hours_on_form(piece)
        job = None if hours is None else self.jobs.as_of(form.job_id, form.at)
        return form.built if job is None else restated(form.built, job, self.shop_settings.get(), on_form_h=hours)

    def _hours_on_form(self, piece: KeptPiece) -> float | None:
        """Return the hours a piece was on its form, by its run at the bench; None where they were not recorded."""
        if piece.run is None or piece.number is None:
            return None
        try:
            run = self.runs.get(piece.run)
            events = [e for _, e in self.runs.events(run.id)]
            last = max((e.at_s for e in events), default=run.brief.started_s)
            records = records_of(run.brief, state_of(run.brief, events, last))
        except (NotFound, Unreadable, KeyError, ValueError):
            return None
        seen = next((r.on_form_s for r in records if r.number == piece.number), None)
        return min(MOST_H, max(LEAST_H, seen / 3600)) if seen else None
