"""Old forms and measured pieces brought to the present law of springback, once, when a shop's file is opened."""

from __future__ import annotations

from typing import Any

from pydantic import ValidationError

from ..core.execution.run_records import records_of
from ..core.execution.run_state import state_of
from ..core.job.job import Job
from ..core.measuring.built_form import LAW, BuiltForm
from ..core.measuring.restated_forms import restated
from .database import Database
from .records import KeptPiece, NotFound, Unreadable
from .tables import FormRow, PieceRow, RevisionRow, TaughtRow

LEAST_H, MOST_H = 0.05, 2_000.0  # on the form, between which a recorded time is taken for one


class RestatedPrediction(Database):
    """What mechanics predicts for a kept form, and for a piece whose hours on the form were recorded."""

    def restate_forms(self) -> int:
        """Work out anew what mechanics predicts for every form of an earlier law. Returns how many forms that were.

        What such forms promised stays; what their pieces teach is deleted, so that `teach_missing` writes it anew.
        """
        made = 0
        for row in FormRow.select().order_by(FormRow.id):
            try:
                built = BuiltForm.model_validate_json(row.body)
            except ValidationError:
                continue  # kept as it is, and told where its job is shown
            if built.law == LAW or (job := self._job_when_built(row)) is None:
                continue
            new = restated(built, job, self.shop())  # type: ignore[attr-defined]
            FormRow.update(body=new.model_dump_json()).where(FormRow.id == row.id).execute()
            TaughtRow.delete().where(
                TaughtRow.piece.in_(PieceRow.select(PieceRow.id).where(PieceRow.form == row.id))
            ).execute()
            made += 1
        if made:
            self._count_up("book")
        return made

    def of_present_law(self, built: BuiltForm, job_id: int) -> BuiltForm:
        """A form that comes in from elsewhere, by the present law. Raises: NotThere, Unreadable."""
        if built.law == LAW:
            return built
        return restated(built, self.job(job_id).job, self.shop())  # type: ignore[attr-defined]

    def as_bent(self, row: Any, built: BuiltForm, piece: KeptPiece) -> BuiltForm:
        """A form as one of its pieces was bent on it: by the hours recorded in its run at the bench, where they are.

        row: of the form.
        """
        hours = self._hours_on_form(piece)
        job = None if hours is None else self._job_when_built(row)
        return built if job is None else restated(built, job, self.shop(), on_form_h=hours)  # type: ignore[attr-defined]

    @staticmethod
    def _job_when_built(row: Any) -> Job | None:
        """The job as it stood when a form was built; None where it cannot be read."""
        kept = RevisionRow.select().where(RevisionRow.job == row.job_id)
        before = kept.where(RevisionRow.at <= row.at).order_by(RevisionRow.id.desc()).first()
        revision = before or kept.order_by(RevisionRow.id).first()
        try:
            return Job.model_validate_json(revision.body) if revision else None
        except ValidationError:
            return None

    def _hours_on_form(self, piece: KeptPiece) -> float | None:
        """Hours a piece was seen on its form, by its run at the bench; None where nobody saw."""
        if piece.run is None or piece.number is None:
            return None
        try:
            run = self.run(piece.run)  # type: ignore[attr-defined]
            events = [e for _, e in self.events(run.id)]  # type: ignore[attr-defined]
            last = max((e.at_s for e in events), default=run.brief.started_s)
            records = records_of(run.brief, state_of(run.brief, events, last))
        except (NotFound, Unreadable, KeyError, ValueError):
            return None
        seen = next((r.on_form_s for r in records if r.number == piece.number), None)
        return min(MOST_H, max(LEAST_H, seen / 3600)) if seen else None
