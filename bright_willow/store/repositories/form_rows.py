"""Built forms and the pieces off them, read from their rows."""

from __future__ import annotations

from contextlib import suppress
from typing import Any

from pydantic import ValidationError

from ...core.measuring.built_form import BuiltForm
from ..records import KeptForm, KeptPiece, Measurement
from ..tables import MeasurementRow, PieceRow, TaughtRow


def read_form(row: Any, pieces: tuple[KeptPiece, ...]) -> KeptForm | None:
    """Return a form with its pieces; None where its row cannot be read."""
    try:
        built = BuiltForm.model_validate_json(row.body)
        return KeptForm(row.id, row.job_id, row.at, built, pieces, row.origin)
    except ValidationError:
        return None


def _forms_as_bent(form_ids: list[int]) -> dict[int, BuiltForm]:
    """Forms as pieces were bent on them, by piece, where their hours were recorded."""
    rows = TaughtRow.select(TaughtRow.piece, TaughtRow.built).join(PieceRow)
    seen = rows.where(PieceRow.form.in_(form_ids) & (TaughtRow.built != "")).tuples()
    made = {}
    for piece, body in seen:
        with suppress(ValidationError):  # then it is compared with its form as it was built
            made[piece] = BuiltForm.model_validate_json(body)
    return made


def pieces_of(form_ids: list[int]) -> dict[int, list[KeptPiece]]:
    """Return the pieces of some forms with their measurements, by form."""
    found: dict[int, list[KeptPiece]] = {}
    seen: dict[int, list[Measurement]] = {}
    for some in (form_ids[i : i + 500] for i in range(0, len(form_ids), 500)):
        taken = MeasurementRow.select().join(PieceRow).where(PieceRow.form.in_(some))
        for m in taken.order_by(MeasurementRow.day, MeasurementRow.id):
            made = Measurement(m.id, m.day, m.chord_mm, m.rise_mm, m.face, m.error_mm, m.readings)
            seen.setdefault(m.piece_id, []).append(made)
        bent = _forms_as_bent(some)
        for r in PieceRow.select().where(PieceRow.form.in_(some)).order_by(PieceRow.id):
            own = tuple(seen.get(r.id, ()))
            said = (r.verdict, r.correction, r.corrected_in, bent.get(r.id))
            piece = KeptPiece(
                r.id, r.form_id, r.label, r.mishap, r.left_out, r.note, own, r.hand, r.run, r.number, *said
            )
            found.setdefault(r.form_id, []).append(piece)
    return found


def forms_with_pieces(rows: list[Any]) -> list[KeptForm]:
    """Return the forms of some rows that can be read, with their pieces."""
    pieces = pieces_of([row.id for row in rows])
    kept = (read_form(r, tuple(pieces.get(r.id, ()))) for r in rows)
    return [form for form in kept if form]
