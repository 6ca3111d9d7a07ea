"""The form of a piece off the form: what it is called, what was measured of it, and what came of it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from ...core.job.job import Job
from ...core.measuring.built_form import MISHAPS
from ...core.shape.arc import FACES
from .fields import Field
from .form_spec import FormSpec

LONGEST_MM = 100_000.0
TOO_LONG = "Enter more than zero and less than 100 m."
BY = {"chord_and_rise": "chord, rise", "heights": "heights", "gaps": "gaps", "ends": "ends", "angle": "angle"}
MEASURED = {  # what is typed for each way of measuring
    "chord_and_rise": ("chord", "rise"),
    "heights": ("heights",),
    "gaps": ("gap_left", "gap_right"),
    "ends": ("opening", "square_left", "square_right"),
    "angle": ("between",),
}
FAULT_AT = {"gaps": "gap_left", "ends": "opening", "angle": "between"}  # where a fault of all its readings is shown


def _length(name: str, label: str, hint: str = "", *, optional: bool = False) -> Field:
    return Field(name, label, "length", hint, may_be_empty=optional)


CHORD_AND_RISE = tuple(
    Field(name, label, "length", least=1e-9, most=LONGEST_MM, wrong=TOO_LONG)
    for name, label in (("chord", "Chord"), ("rise", "Rise"))
)
DAY = Field("day", "Measured on", "day")
PIECE_FORM = FormSpec(
    (
        Field("label", "Piece", "text"),
        DAY,
        Field("by", "What you measured", "choice", choices=tuple(BY.items()), look="pills"),
        *CHORD_AND_RISE,
        Field(
            "heights",
            "Heights along a straightedge from end to end",
            "text",
            "one a line: distance from the left end, height",
            look="lines",
        ),
        _length("gap_left", "Left end off the form", "with its middle on the form; square to the face", optional=True),
        _length("gap_right", "Right end", optional=True),
        _length(
            "opening",
            "Distance between the ends",
            "straightedge against the middle of the face, a square from it to each end; "
            "leave blank what you did not measure",
            optional=True,
        ),
        _length("square_left", "Left end by square", optional=True),
        _length("square_right", "Right end", optional=True),
        Field("between", "Angle between the ends", "angle"),
        Field("face", "On the", "choice", choices=tuple(FACES.items())),
        Field("mishap", "Anything wrong", "choice", choices=tuple(MISHAPS.items())),
        Field("hand", "Which hand", "choice", choices=(("left", "left"), ("right", "right")), look="pills"),
        Field("of_run", "Which piece of the run", "choice", "the run's record is attached"),
        Field("note", "Note", "text", may_be_empty=True, longest=1_900),
        Field("left_out", "do not use for predictions", "check"),
    ),
    prefix="p",
)


def piece_inputs(
    job: Job,
    run_pieces: Sequence[Any],
    *,
    label: str,
    hand: str,
    day: str,
    typed: Mapping[str, str],
    faults: Mapping[str, str],
    unit: Any,
) -> dict[str, Any]:
    """Return the inputs of a new piece, as they stand before anything is typed and as typed.

    Args:
        job: whose piece it is.
        run_pieces: pieces of its runs that are not measured yet; the first of them is proposed.
        label, hand, day: what is proposed for it.
        typed, faults: what was typed, and what is wrong with it.
        unit: of the shop.
    """
    runs = tuple((p.name, f"{p.title}: {p.broke}" if p.broke else p.title) for p in run_pieces)
    starts = {"label": label, "day": day, "by": "chord_and_rise", "face": job.shape.face, "mishap": "", "hand": hand}
    starts |= {"of_run": runs[0][0] if runs else ""}
    return PIECE_FORM.choosing(of_run=(("", "none of them"), *runs)).inputs(unit, starts, typed, faults)


def again_inputs(
    piece_id: int, *, day: str, typed: Mapping[str, str], faults: Mapping[str, str], unit: Any
) -> dict[str, Any]:
    """Return the inputs of a later measurement of a piece."""
    mine = typed.get("again") == str(piece_id)
    form = FormSpec((DAY, *CHORD_AND_RISE), f"again-{piece_id}").labelled(day="day", chord="chord", rise="rise")
    return form.inputs(unit, {"day": day}, typed if mine else {}, faults if mine else {})
