"""The book: every bend measured, and what the shop has learnt from them."""

from __future__ import annotations

import csv
import datetime as dt
import io
import json
from dataclasses import dataclass
from typing import Annotated, Any
from urllib.parse import urlencode

from fastapi import APIRouter, Query, Request
from fastapi.responses import Response
from markupsafe import Markup

from ...calendar.time_format import format_day
from ...core.common.errors import PlanError
from ...core.gluing.adhesive import adhesive_table
from ...core.learning.belief import Belief, ExperienceFile, LearnedFigures, MeasuredBend, loss_ratio
from ...core.measuring.built_form import MISHAPS
from ...core.wood.lot import DRYNESS
from ...core.wood.species import OwnWood, wood_table
from ...drawing.book_chart import DatedBend, SpringbackShift, book_chart
from ...drawing.learning_chart import Dot, LearningRow, learning_chart
from ...store.records import KeptForm, KeptPiece, LogbookQuery, Page
from ...store.store import Store
from ..common import Number, attachment, page, planned, store_of
from ..forms.find_forms import piece_finding

router = APIRouter(include_in_schema=False)
MOST_DOTS, FEWEST_DOTS, MOST_GROUPS = 400, 10, 40
MOST_FOUND, MOST_SHOWN = 2_000, 20  # runs looked through, and lines of them shown


@dataclass(frozen=True)
class LogbookRow:
    """A line of the book."""

    piece_id: int
    job_id: int
    job: str
    label: str
    kind: str
    day: str
    ratio: str
    tip_off_mm: float | None
    weighs: str
    left_out: bool
    origin: str = ""


CREEPS = {"rigid": "rigid glue", "slight": "glue that creeps a little", "noticeable": "glue that creeps"}


def kind_text(group: str, woods: tuple[OwnWood, ...] = ()) -> str:
    """Words for a stock group."""
    wood, _, creep = group.partition("|")
    rows = wood_table(woods)
    words = {"sheets": "Bending sheets", "mixed": "Several woods"}
    name = rows[wood].name if wood in rows else words.get(wood, wood)
    return f"{name}, {CREEPS.get(creep) or DRYNESS.get(creep, creep)}"


def _line(store: Store, form: KeptForm, piece: KeptPiece, name: str) -> LogbookRow | None:
    kind = kind_text(form.built.group, store.shop_settings.get().woods)
    if not piece.measurements:
        lost = "scrap" if piece.verdict == "reject" else MISHAPS[piece.mishap]
        return LogbookRow(
            piece.id, form.job_id, name, piece.label, kind, "", lost, None, "counts as failed", True, form.origin
        )
    m = piece.measurements[0]
    belief = store.training.learned().about(way=form.built.way, group=form.built.group)
    try:
        seen = form.compared(piece, m)
    except PlanError:
        return None
    return LogbookRow(
        piece.id,
        form.job_id,
        name,
        piece.label,
        kind,
        m.day.isoformat(),
        f"{seen.ratio:.2f} ± {seen.ratio_error:.2f}",
        seen.tip_off_mm,
        _weighs(store, form, piece, belief, seen.ratio_error),
        piece.left_out,
        form.origin,
    )


def _weighs(store: Store, form: KeptForm, piece: KeptPiece, belief: Belief, error: float) -> str:
    """What a bend weighs beside one of this shop's, measured without error."""
    share = next((o.share for o in store.shop_settings.get().others if o.name == form.origin), 1.0)
    if piece.left_out or not share:
        return "not used, left out" if piece.left_out else "not used, another shop's"
    return f"{belief.weighs(error, share):.2f}"


def _rows(store: Store, learnt: LearnedFigures) -> list[LearningRow]:
    """The chart, group by group: every bend counts, the newest are drawn."""
    dots: dict[tuple[str, str], list[tuple[int, MeasuredBend]]] = {}
    for job_id, _, bend in store.training.by_piece():
        dots.setdefault((bend.way, bend.group), []).append((job_id, bend))
    each = max(FEWEST_DOTS, MOST_DOTS // max(1, len(dots)))
    names = store.jobs.names({job_id for marks in dots.values() for job_id, _ in marks[-each:]})
    rows = []
    for (way, group), marks in sorted(dots.items()):
        belief = learnt.about(way=way, group=group)
        shown = [dot for job_id, bend in marks[-each:] if (dot := _dot(bend, names.get(job_id, "")))]
        name = kind_text(group, store.shop_settings.get().woods)
        older = len(marks) - len(shown)
        rows.append(LearningRow(name, belief.next_bend(), belief.bends, tuple(shown), older, belief.scatter))
    return rows[:MOST_GROUPS]


def _dot(bend: MeasuredBend, job: str) -> Dot | None:
    try:
        seen = loss_ratio(bend)
    except PlanError:
        return None
    message = f"{job}, piece {bend.label}: {seen.ratio:.2f}"
    return Dot(seen.ratio, seen.error, message, bend.left_out)


Words = Annotated[str, Query(max_length=80)]


@router.get("/book")
async def book(
    request: Request,
    at: Number = 1,
    q: Words = "",
    way: Words = "",
    outcome: Words = "",
    since: Words = "",
    until: Words = "",
) -> Response:
    """since, until: days a piece was first measured from and up to."""
    faults: dict[str, str] = {}
    days = [_day(text, name, faults) for name, text in (("since", since), ("until", until))]
    sought = LogbookQuery(q.strip(), way, outcome, *days)
    return await planned(request, _book, request, at, sought, {"since": since, "until": until}, faults)


def _day(text: str, name: str, faults: dict[str, str]) -> dt.date | None:
    try:
        return dt.date.fromisoformat(text.strip()) if text.strip() else None
    except ValueError:
        faults[name] = "Enter a date such as 2026-05-21."
        return None


def _book(request: Request, at: int, sought: LogbookQuery, typed: dict[str, str], faults: dict[str, str]) -> Response:
    store = store_of(request)
    with store.connected():
        pages = Page(at, store.pieces.measured_count(sought))
        pieces = store.pieces.measured_page(pages, sought)
        names = store.jobs.names({form.job_id for form, _ in pieces})
        lines = [_line(store, f, p, names.get(f.job_id, "")) for f, p in pieces]
        learnt, shop, ways = store.training.learned(), store.shop_settings.get(), store.forms.methods()
        rows, drifts = _rows(store, learnt), _drifts(store)
        over_time = _over_time(store, sought, [s for s, _ in drifts])
        others = _runs_and_trials(store, sought)
        is_empty = not store.forms.count()
    chart = Markup(learning_chart(rows)) if rows else Markup("")
    asked = {"q": sought.words, "way": sought.way, "outcome": sought.outcome, **typed}
    query = urlencode({k: v for k, v in asked.items() if v})
    return page(
        "book.html",
        request,
        lines=[x for x in lines if x],
        chart=chart,
        rows=rows,
        pages=pages,
        learnt=learnt,
        shop=shop,
        unit=shop.rule,
        glues=adhesive_table(),
        here="book",
        sought=sought,
        finding=piece_finding(sought, ways, typed, faults, shop.rule),
        turn_to=f"/book?{query}" if query else "/book",
        drifts=[s.message for s, _ in drifts],
        over_time=over_time,
        runs=others[0],
        trials=others[1],
        is_empty=is_empty,
    )


def _over_time(store: Store, sought: LogbookQuery, shifts: list[SpringbackShift]) -> Markup:
    """What is found, day by day; nothing where it is none, or all of one day."""
    dots, unit = [], store.shop_settings.get().units
    for day, _, bend in store.logbook.found_bends(sought, MOST_DOTS):
        try:
            seen = loss_ratio(bend)
        except PlanError:
            continue
        message = f"{kind_text(bend.group)}, piece {bend.label}: {seen.ratio:.2f} on {format_day(day, unit, year=True)}"
        dots.append(DatedBend(day, seen.ratio, seen.error, message, bend.left_out))
    if len({d.day for d in dots}) < 2:
        return Markup("")
    return Markup(book_chart(dots, shifts if sought.is_all else ()))


def _runs_and_trials(store: Store, sought: LogbookQuery) -> tuple[list[tuple[int, str]], list[tuple[int, str]]]:
    """Runs and trials whose job, name or day is such as is sought; none where pieces alone are asked for."""
    if sought.outcome or sought.way or sought.is_all:
        return [], []
    words = sought.words.lower().split()

    def is_sought(text: str, day: dt.date) -> bool:
        fits = all(w in text.lower() for w in words)
        return fits and (not sought.since or day >= sought.since) and (not sought.until or day <= sought.until)

    lines = store.runs.newest(MOST_FOUND)
    runs, trials, unit = [], store.trials.find(), store.shop_settings.get().units
    names = store.jobs.names({job for _, job, _, _ in lines} | {t.job_id for t in trials})
    for number, job, kind, at in lines:
        text = f"{kind} {number}, {names.get(job, '')}"
        if is_sought(text, at.date()):
            runs.append((number, f"{text}, {format_day(at, unit, year=True)}"))
    found = [(t.id, f"{t.trial.name}, {names.get(t.job_id, '')}", t.at.date()) for t in trials]
    return runs[:MOST_SHOWN], [(n, s) for n, s, day in found if is_sought(s, day)][:MOST_SHOWN]


def _drifts(store: Store) -> list[tuple[SpringbackShift, str]]:
    """Where a kind of bend springs back differently, from when on; and the kind."""
    said, unit = [], store.shop_settings.get().units
    for group, piece, found in store.training.drifts():
        day = store.pieces.measured_on(piece)
        more = f"{found.times:.1f} × as much as before" if 0 < found.times < 100 else "differently"
        since = f"From {format_day(day, unit, year=True)} on" if day else "Recently"
        kind, was, is_ = kind_text(group, store.shop_settings.get().woods), found.before.likely, found.after.likely
        message = f"{since} {kind} springs back {more}: {was:.2f} before, {is_:.2f} after."
        said.append((SpringbackShift(day or dt.date.min, was, is_, message), group))
    return said


HEAD = (
    "day", "job", "job_name", "piece", "hand", "way", "stock", "species", "adhesive", "laminae", "thickness_mm",
    "width_mm", "chord_mm", "rise_mm", "face", "error_mm", "over_mechanics", "over_mechanics_error", "tip_off_mm",
    "left_out", "mishap", "verdict", "correction", "note", "run", "run_piece", "shop",
)  # fmt: skip


def _records(store: Store) -> list[dict[str, Any]]:
    """Every measurement of every piece, and every piece that was never measured, as plain rows."""
    made = []
    names = store.jobs.names({form.job_id for form, _ in store.logbook.all_pieces()})
    for form, piece in store.logbook.all_pieces():
        built = form.built
        own = dict.fromkeys(HEAD) | {
            "job": form.job_id,
            "job_name": names.get(form.job_id, ""),
            "piece": piece.label,
            "hand": piece.hand,
            "way": built.way,
            "stock": built.group,
            "species": built.species,
            "adhesive": built.adhesive,
            "laminae": built.laminae,
            "thickness_mm": built.thickness_mm,
            "width_mm": built.width_mm,
            "left_out": piece.left_out,
            "mishap": piece.mishap,
            "verdict": piece.verdict,
            "correction": piece.correction,
            "shop": form.origin or store.shop_settings.get().name,
            "note": piece.note,
            "run": piece.run,
            "run_piece": None if piece.number is None else piece.number + 1,
        }
        if not piece.measurements:
            made.append(own)
        for m in piece.measurements:
            row = own | {"day": m.day.isoformat(), "chord_mm": m.chord_mm, "rise_mm": m.rise_mm, "face": m.face}
            row["error_mm"] = m.error_mm
            try:
                seen = form.compared(piece, m)
                row |= {
                    "over_mechanics": round(seen.ratio, 4),
                    "over_mechanics_error": round(seen.ratio_error, 4),
                    "tip_off_mm": round(seen.tip_off_mm, 3),
                }
            except PlanError:
                pass
            made.append(row)
    return made


@router.get("/book/bends.csv")
async def bends_csv(request: Request) -> Response:
    """The whole book as a table; docs/job-format.md says its columns."""
    return await planned(request, _bends_csv, request)


def _bends_csv(request: Request) -> Response:
    with store_of(request).connected():
        rows = _records(store_of(request))
    out = io.StringIO()
    writer = csv.DictWriter(out, HEAD)
    writer.writeheader()
    writer.writerows({k: _plain(v) for k, v in row.items()} for row in rows)
    return Response(out.getvalue(), media_type="text/csv; charset=utf-8", headers=attachment("bends.csv"))


def _plain(value: Any) -> Any:
    """As a table has it; words that a spreadsheet would take for a formula are kept words."""
    if isinstance(value, bool):
        return "yes" if value else "no"
    return f"'{value}" if isinstance(value, str) and value[:1] in "=+-@\t\r" else value


@router.get("/book/bends.json")
async def bends_json(request: Request) -> Response:
    """The whole book as plain records."""
    return await planned(request, _bends_json, request)


def _bends_json(request: Request) -> Response:
    with store_of(request).connected():
        body = {"format": "bright-willow-book", "version": 1, "bends": _records(store_of(request))}
    return Response(json.dumps(body, indent=1), media_type="application/json", headers=attachment("bends.json"))


@router.get("/book/experience.json")
def experience(request: Request) -> Response:
    """Every bend as an open file, for the command line or another shop."""
    store = store_of(request)
    with store.connected():
        file = ExperienceFile(bends=store.training.bends())
    return Response(
        file.model_dump_json(indent=2), media_type="application/json", headers=attachment("experience.json")
    )
