"""Measure: pieces off the form, against what was expected of them."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass
from typing import Any

from markupsafe import Markup

from ...core.common.errors import PlanError
from ...core.common.estimate import Grade
from ...core.common.findings import Level
from ...core.common.units import Unit, format_difference, format_length
from ...core.job.job import Job
from ...core.measuring.built_form import FAILED, MISHAPS, PieceComparison
from ...core.measuring.mates import Mates, PairReading, hands_say, mated
from ...core.measuring.profile_readings import beside, read
from ...core.measuring.verdict import CHOICES, options
from ...core.methods.method_registry import stages_for
from ...core.shape.arc import FACES
from ...core.shop.shop import Shop
from ...core.workpiece.bend import Springback
from ...drawing.board import MeasuredOverlay
from ...drawing.measured_drawing import PieceHistory, PieceOverlay, along_svg, days_svg
from ...store.records import KeptForm, KeptPiece
from ..formatting import Grid, Item, Note, TemplatePart
from ..forms.piece_form import again_inputs, piece_inputs
from .base import THE_BOARD, BoardView, StageContext, StagePage

MOST_ALONG = 6  # pieces that are told apart on one drawing


@dataclass(frozen=True)
class OptionLine:
    """One thing to do with a piece, in words."""

    choice: str
    key: str
    name: str
    message: str
    grade: Grade
    makes_job: bool
    is_chosen: bool


@dataclass(frozen=True)
class MeasurementLine:
    """One measurement of one piece, against what was expected."""

    piece: KeptPiece
    measurement_id: int
    day: dt.date
    chord: str
    chord_off: str
    rise: str
    rise_off: str
    tip_off: str
    verdict: str
    level: Level
    options: tuple[OptionLine, ...]
    is_first: bool
    is_last: bool
    face: str


def measured_pieces(form: KeptForm, job: Job, shop: Shop) -> tuple[list[MeasurementLine], list[MeasuredOverlay]]:
    """Measurements as lines of the table, and the last of each piece for the drawing."""
    lines, drawn, unit, mates = [], [], shop.rule, _mates(job, form)

    def bare(mm: float) -> str:
        return format_length(mm, unit, with_unit=False)

    for piece in form.pieces if form.built.can_open else ():
        for i, m in enumerate(piece.measurements):
            seen = form.compared(piece, m)
            level, verdict = _verdict(seen, piece)
            lines.append(
                MeasurementLine(
                    piece,
                    m.id,
                    m.day,
                    bare(m.chord_mm),
                    _signed(seen.chord_off_mm, unit),
                    bare(m.rise_mm),
                    _signed(seen.rise_off_mm, unit),
                    f"{format_difference(seen.tip_off_mm, unit)} {'open' if seen.opens else 'closed'}",
                    verdict,
                    level,
                    _options(form, piece, seen, job, shop, mates) if i == len(piece.measurements) - 1 else (),
                    i == 0,
                    i == len(piece.measurements) - 1,
                    FACES[m.face],
                )
            )
        if piece.measurements and not piece.left_out:
            drawn.append(MeasuredOverlay(piece.label, seen.mid_line))
    return lines, drawn


def _options(
    form: KeptForm, piece: KeptPiece, seen: PieceComparison, job: Job, shop: Shop, mates: tuple[Mates, ...]
) -> tuple[OptionLine, ...]:
    """What can be done with a piece."""
    broken = piece.mishap in FAILED
    try:
        made = options(
            form.under(piece),
            seen,
            tolerance_mm=job.part.mate_tolerance_mm,
            failed=broken,
            mates=mates,
            label=piece.label,
            woods=shop.woods,
            units=shop.units,
        )
    except PlanError:
        return ()
    lines = []
    for o in made:
        message = o.message.format(**{name: format_length(mm, shop.rule) for name, mm in o.lengths_mm})
        chosen = piece.verdict == o.choice and piece.correction == o.key
        lines.append(OptionLine(o.choice, o.key, o.name, message, o.grade, o.makes_job, chosen))
    return tuple(lines)


def _along(form: KeptForm) -> list[PieceOverlay]:
    """The last pieces beside what was expected, along their whole length."""
    made = []
    for piece in [p for p in form.pieces if p.measurements and not p.left_out][-MOST_ALONG:]:
        m = piece.measurements[-1]
        seen = form.compared(piece, m)
        try:
            made.append(PieceOverlay(piece.label, beside(form.under(piece), seen.ratio, read(m.readings))))
        except PlanError:
            continue
    return made


def _over_days(form: KeptForm) -> list[PieceHistory]:
    """Pieces measured more than once, each over its days."""
    made = []
    for piece in [p for p in form.pieces if len(p.measurements) > 1][-MOST_ALONG:]:
        days, tips = [], []
        for m in piece.measurements:
            seen = form.compared(piece, m)
            days.append(float((m.day - piece.measurements[0].day).days))
            tips.append(seen.opened_mm)
        made.append(PieceHistory(piece.label, days, tips))
    return made


def _views(look: StageContext) -> list[BoardView]:
    views, form = [THE_BOARD], look.form
    if form is None or not form.built.can_open or not (laid := _along(form)):
        return views
    own = [(p.label, p.beside) for p in laid if p.beside.ends[0] and p.beside.ends[1]]
    w, items = look.words, list[Item]()
    rows = [
        (label, *(f"{end.ratio:.2f} ± {end.error:.2f}" for end in b.ends if end), *map(w.length, map(abs, b.tips)))
        for label, b in own
    ]
    if rows:
        head = ("piece", "left half", "right half", "left end off", "right end off")
        items.append(
            Grid("Each half, measured ÷ calculated, and each end off the finished shape", head, rows, grade="physics")
        )
    uneven = [label for label, b in own if b.ends_differ]
    if uneven:
        which = f"Piece {', '.join(uneven)}: one end sprang back more than the other, by more than the measuring error."
        items.append(Note(which))
    svg = Markup(along_svg(form.built, laid, look.unit))
    views.append(BoardView("along", "Along its length", svg, tuple(items)))
    if over := _over_days(form):
        views.append(BoardView("over_days", "Over days", Markup(days_svg(over, look.unit))))
    return views


def _verdict(seen: PieceComparison, piece: KeptPiece) -> tuple[Level, str]:
    if piece.verdict == "reject":
        return "stop", "scrap"
    if piece.has_failed:
        return "stop", MISHAPS[piece.mishap]
    if piece.left_out:
        return "watch", "left out"
    if seen.within_band:
        return "fit", "as expected"
    if seen.ratio <= 0:
        return "watch", "tighter than the form"
    return "watch", "sprang back more than expected" if seen.chord_off_mm > 0 else "sprang back less than expected"


def _signed(mm: float, unit: Unit) -> str:
    text = format_difference(abs(mm), unit)
    return text if text == "0" else ("+" if mm > 0 else "−") + text


def _hands(job: Job, form: KeptForm | None) -> tuple[int, int]:
    """Lefts and rights that came out whole."""
    if form is None or job.part.copies != "pairs":
        return 0, 0
    whole = [p.hand for p in form.pieces if not p.has_failed]
    return whole.count("left"), whole.count("right")


def _mates(job: Job, form: KeptForm | None) -> tuple[Mates, ...]:
    if form is None or job.part.copies != "pairs":
        return ()
    sides: dict[str, list[PairReading]] = {"left": [], "right": []}
    for piece in form.pieces:
        if piece.hand in sides and piece.measurements and not piece.has_failed:
            last = piece.measurements[-1]
            sides[piece.hand].append(PairReading(piece.label, last.chord_mm, last.rise_mm))
    return mated(sides["left"], sides["right"], tolerance_mm=job.part.mate_tolerance_mm)


def _next_label(form: KeptForm | None) -> str:
    """The first number no piece of this form is called by."""
    taken = {p.label for p in form.pieces} if form else set()
    return next(str(n) for n in range(1, len(taken) + 2) if str(n) not in taken)


def _notes(look: StageContext) -> list[Item]:
    if look.drawn is None or look.form is None:
        return []
    w, opens = look.words, look.drawn.bend.opens
    made: list[Item] = []
    if isinstance(opens, Springback):
        tip = opens.tip_mm
        message = f"The next form of this kind would overbend {w.spread(tip)} at each end, {opens.basis}."
        made.append(Note(message, grade=tip.grade))
        error = w.length(look.shop.measuring_error_mm)
        message = (
            "Lay a straightedge or string from end to end of the face. Measure its length and the height at the "
            f"high point, each to about {error}."
        )
        made.append(Note(message, "hint"))
    return [*made, TemplatePart("parts/to_the_book.html")]


def _has_form(look: StageContext) -> bool:
    """Whether a form is built for the job: not where it is straightened, nor against a finished part."""
    return look.job.form.kind != "in_place" and any(row.key == "form" for row in stages_for(look.job))


def _extra(look: StageContext) -> dict[str, Any]:
    form, hands = look.form, _hands(look.job, look.form)
    w = look.words
    typed, faults = look.more.get("piece_typed") or {}, look.more.get("piece_faults") or {}
    is_again = "again" in typed  # what was typed and is wrong belongs to another measurement, not to a new piece
    run_pieces = [p for p in look.more.get("run_pieces") or () if not p.is_written]
    pieces = look.more.get("pieces") or []
    return {
        "pieces": pieces,
        "piece": piece_inputs(
            look.job,
            run_pieces,
            label=_next_label(form),
            hand="right" if hands[0] > hands[1] else "left",
            day=look.today,
            typed={} if is_again else typed,
            faults={} if is_again else faults,
            unit=look.unit,
        ),
        "again": {
            p.piece.id: again_inputs(p.piece.id, day=look.today, typed=typed, faults=faults, unit=look.unit)
            for p in pieces
        },
        "unmeasured": [p for p in form.pieces if not p.measurements] if form else [],
        "mates": [(m, w.length(m.apart_mm)) for m in _mates(look.job, form)],
        "hands_say": hands_say(*hands),
        "has_form": _has_form(look),
        "typed": typed,
        "mishap_text": MISHAPS,
        "choices": CHOICES,
        "can_open": form.built.can_open if form else True,
        "run_pieces": run_pieces,
        "of_run": {p.name: p for p in look.more.get("run_pieces") or ()},
    }


def _answer(look: StageContext) -> str:
    """What to measure, and what to expect."""
    form = look.form
    if form is None:
        return (
            "Mark the form as built first; then measure each piece." if _has_form(look) else "Start the record first."
        )
    if not form.built.can_open:
        return "Record how each piece came out."
    chord, rise = form.built.expected_on(look.job.shape.face)
    w = look.words
    return f"Expect a chord of {w.estimate(chord)} and a rise of {w.estimate(rise)}, {FACES[look.job.shape.face]}."


PAGE = StagePage(notes=_notes, extra=_extra, views=_views, sill="parts/pieces.html", foot="", answer=_answer)
