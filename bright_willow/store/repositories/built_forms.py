"""Forms as they were built."""

from __future__ import annotations

from peewee import fn

from ...core.measuring.built_form import BuiltForm
from ..database import now
from ..records import KeptForm, NotFound, Page, Unreadable
from ..tables import FormRow, PieceRow, TaughtRow
from .form_rows import forms_with_pieces, pieces_of, read_form
from .repository import Repository

UNREADABLE = "A form built for this job cannot be read; it is left as it is."


class FormRepository(Repository):
    """Built forms, each with the pieces that came off it."""

    def add(self, job_id: int, built: BuiltForm, origin: str = "") -> int:
        """Save a form as built and return its number. Built again unchanged, it is the same form.

        origin: the shop it was imported from. Raises: NotKept.
        """
        with self.database.writing():
            last = FormRow.select().where(FormRow.job == job_id).order_by(FormRow.id.desc()).first()
            if last and read_form(last, ()) and BuiltForm.model_validate_json(last.body) == built:
                return int(last.id)
            row = FormRow.create(
                job=job_id,
                at=now(),
                body=built.model_dump_json(),
                way=built.way,
                stock_group=built.group,
                mean_curvature=built.mean_curvature,
                origin=origin,
            )
            return int(row.id)

    def replace(self, form_id: int, built: BuiltForm) -> None:
        """Save a form predicted anew; what its pieces show is deleted, to be written anew. Raises: NotKept."""
        with self.database.writing():
            FormRow.update(body=built.model_dump_json()).where(FormRow.id == form_id).execute()
            pieces = PieceRow.select(PieceRow.id).where(PieceRow.form == form_id)
            TaughtRow.delete().where(TaughtRow.piece.in_(pieces)).execute()

    def find(self, job_id: int | None = None) -> list[KeptForm]:
        """Forms of a job, or of all jobs, that can be read, oldest first, with their pieces."""
        return self.database.remembered(("forms", job_id), lambda: self._read_forms(job_id))  # type: ignore[no-any-return]

    def _read_forms(self, job_id: int | None) -> list[KeptForm]:
        query = FormRow.select().order_by(FormRow.id)
        if job_id is not None:
            query = query.where(FormRow.job == job_id)
        return forms_with_pieces(list(query))

    def page(self, page: Page) -> list[KeptForm]:
        """One page of all forms that can be read, the newest first."""
        return forms_with_pieces(list(FormRow.select().order_by(FormRow.id.desc()).offset(page.skip).limit(page.size)))

    def most_like(self, mean_curvature: float, most: int) -> list[KeptForm]:
        """Forms that can be read, those bent most nearly so first, without their pieces."""
        rows = FormRow.select().order_by(fn.ABS(FormRow.mean_curvature - mean_curvature), FormRow.id).limit(most)
        return [form for form in (read_form(r, ()) for r in rows) if form]

    def count(self) -> int:
        """How many forms are kept."""
        return int(FormRow.select().count())

    def get(self, form_id: int) -> KeptForm:
        """Raises: NotFound, Unreadable."""
        row = FormRow.get_or_none(FormRow.id == form_id)
        if row is None:
            raise NotFound("There is no such form.")
        kept = read_form(row, tuple(pieces_of([row.id]).get(row.id, ())))
        if kept is None:
            raise Unreadable(UNREADABLE, "form", row.id)
        return kept

    def methods(self) -> set[str]:
        """Return the methods forms were built for."""
        return {row.way for row in FormRow.select(FormRow.way).distinct()}

    def origins_of_job(self, job_id: int) -> set[str]:
        """Return the shops that the forms of a job were imported from."""
        return {r.origin for r in FormRow.select(FormRow.origin).where(FormRow.job == job_id) if r.origin}
