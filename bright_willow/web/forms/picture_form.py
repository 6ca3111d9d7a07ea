"""The inputs beside a picture that is measured on: the reference, the face, and the piece it shows."""

from __future__ import annotations

from ...core.common.units import Unit
from ...core.measuring.photo_measurement import PhotoMarks
from ...store.records import KeptForm
from ...store.repositories.kept_pictures import Picture
from .fields import Field
from .form_spec import FieldView, FormSpec
from .piece_form import DAY, PIECE_FORM

SIZES = ("across", "up")
SIZE_FORM = FormSpec(
    (
        Field(
            "by",
            "Reference beside it",
            "choice",
            choices=(("rectangle", "a rectangle"), ("bar", "a bar")),
            look="pills",
        ),
        Field("across", "Corner 1 to 2", "length", least=5.0, most=10_000.0),
        Field("up", "Corner 2 to 3", "length", least=5.0, most=10_000.0),
    ),
    prefix="ph",
)


def picture_inputs(
    picture: Picture,
    marks: PhotoMarks,
    form: KeptForm | None,
    face: str,
    today: str,
    unit: Unit,
    typed: dict[str, str],
    faults: dict[str, str],
) -> dict[str, FieldView]:
    """Return every input beside a picture.

    Args:
        picture, marks: the picture and what is marked on it.
        form: what its piece came off, with its other pieces.
        face: that its edge is.
        today: the shop's day.
        unit: of the shop.
        typed, faults: what was typed, and what is wrong with it.
    """
    labels = [p.label for p in form.pieces] if form else []
    pieces = [p for p in form.pieces if p.measurements] if form else []
    which = (("", "a new piece"), *((str(p.id), f"piece {p.label}, again") for p in pieces))
    sizes = SIZE_FORM if marks.by == "rectangle" else SIZE_FORM.labelled(across="How long")
    piece = PIECE_FORM.only("label", "hand", "mishap", "face").labelled(
        label="Name of a new piece", face="The edge is the"
    )
    fields = (*sizes.fields, *piece.fields, DAY, Field("again", "It is", "choice", choices=which))
    stands = {
        "by": marks.by,
        "across": marks.across_mm,
        "up": marks.up_mm,
        "label": next(str(n) for n in range(1, len(labels) + 2) if str(n) not in labels),
        "day": today,
        "face": face,
        "mishap": "",
        "again": str(picture.piece_id or ""),
    }
    return FormSpec(fields, prefix="ph").inputs(unit, stands, typed, faults)
