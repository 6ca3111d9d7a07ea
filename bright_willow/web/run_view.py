"""A run at the bench in words: what to do now, what is next, every piece, the probes, what happened."""

from __future__ import annotations

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any
from zoneinfo import ZoneInfo

from ..calendar.time_format import format_time
from ..core.common.findings import Finding
from ..core.common.units import Unit, format_length, format_temperature
from ..core.execution.bench_status import BenchTask, LoadStatus
from ..core.execution.core_temperature import STALE_S
from ..core.execution.events import KINDS as WORDS
from ..core.execution.events import Event
from ..core.execution.game import WATER
from ..core.measuring.easing import passes_of
from ..core.shop.shop import Shop
from ..devices.port import KINDS as PROBES
from ..services.bench_runs import RunNow, reading_text
from .forms.fields import Field
from .forms.form_spec import FieldView, FormSpec
from .practice_view import (
    TapButton,
    came_rows,
    dealt_rows,
    practice,
    tap_button,
    trouble_view,
)

MOST_LOG = 14
WHERE = ("outside face", "inside face", "at an end", "in the middle", "where the bend starts", "all through")
WHAT = ("splintered", "broken across", "split along the grain", "wrinkled inside", "stop slid", "twisted", "other")
SPEEDS = ((0.0, "pause"), (1.0, "real time"), (10.0, "10 ×"), (60.0, "60 ×"), (300.0, "300 ×"))
HIDDEN = ("speed", "probe", "move", "again", "handle")
RUN_IS = {
    "run": "at the bench",
    "rehearsal": "dry run, nothing hot",
    "game": "practice run, nothing real",
    "trial": "test bends at the bench",
}


@dataclass(frozen=True)
class RunningClock:
    """A clock that runs: seconds by the run's clock it counts from or to, and what it is of."""

    at_s: float
    message: str
    is_down: bool


@dataclass(frozen=True)
class NowView:
    """The one thing to do now, or what is waited for."""

    title: str
    whom: str
    level: str  # rest, due, hurry, over
    ticks: tuple[RunningClock, ...] = ()
    bar: tuple[float, float] | None = None
    taps: tuple[TapButton, ...] = ()
    steps: tuple[str, ...] = ()
    lay_out: tuple[str, ...] = ()
    record: tuple[str, ...] = ()
    cautions: tuple[str, ...] = ()
    due_s: float | None = None
    over_s: float | None = None
    checks: tuple[tuple[int, str], ...] = ()


@dataclass(frozen=True)
class LineView:
    """Something that follows, or could be done too. checks: pieces to check and ease, from 0, with their names."""

    when: str
    title: str
    whom: str
    tap: TapButton | None
    checks: tuple[tuple[int, str], ...] = ()


@dataclass(frozen=True)
class PieceView:
    """Where a load stands."""

    name: str
    message: str
    phase: str
    ticks: tuple[RunningClock, ...]
    facts: tuple[tuple[str, str], ...]
    pieces: tuple[int, ...]
    broke: str
    grade: str = ""


@dataclass(frozen=True)
class ProbeView:
    """A probe: its reading and how old; whether it is live, and used here."""

    id: int
    name: str
    kind: str
    reading: str
    at_s: float | None
    is_live: bool
    is_used: bool
    refused: str


@dataclass(frozen=True)
class LogView:
    """Something that happened, and what takes it back."""

    time: str
    message: str
    by: str
    tap: TapButton | None


class RunWords:
    """Words for one run: its zone, its unit."""

    def __init__(self, now: RunNow, shop: Shop, zone: ZoneInfo) -> None:
        self.unit, self.zone = shop.units, zone
        self.today = self.at(now.now_s).date()

    def at(self, seconds: float) -> dt.datetime:
        return dt.datetime.fromtimestamp(round(seconds), self.zone)

    def clock(self, seconds: float, *, fine: bool = False) -> str:
        """A time of day; with its weekday where it is another day."""
        at = self.at(seconds)
        plain = format_time(at, self.unit, with_s=fine)
        return plain if at.date() == self.today else f"{at:%a} {plain}"

    def temp(self, celsius: float) -> str:
        unit: Unit = self.unit
        return format_temperature(round(celsius), unit)


def run_view(now: RunNow, shop: Shop, zone: ZoneInfo) -> dict[str, Any]:
    """All that a run's page shows but the time itself: the same as long as nothing happens."""
    said, seen = RunWords(now, shop, zone), now.live
    made: dict[str, Any] = {
        "run": now.run,
        "name": now.name,
        "kind_text": RUN_IS[now.run.kind],
        "is_game": now.run.kind == "game",
        "piece_names": [now.brief.piece_text(n) for n in range(now.brief.pieces)],
        "is_ended": now.run.ended is not None,
        "rate": now.rate,
        "log": _log(now, said),
        "has_changed": now.has_changed,
        "tap": tap_button,
    }
    if seen is None:
        return made | {"practice": practice(now)}
    task = seen.now
    made |= {
        "now": _now_view(task, now, said) if task else _waiting(now, said),
        "also": [_line(t, said, _checks(t, now)) for t in seen.also],
        "next": [_line(t, said, _checks(t, now)) for t in seen.next],
        "pieces": [_piece(p, said) for p in seen.pieces],
        "probes": [_probe(p, now, said) for p in now.probes],
        "findings": seen.findings,
        "progress": (seen.done, seen.count),
        "tap_forms": _tap_forms(now),
        "can_fill": any(o.warms for o in now.brief.operations),
        "water": _water(now),
    }
    if now.played is not None:
        made |= {"trouble": trouble_view(now), "came": came_rows(now), "speeds": SPEEDS, "dealt": dealt_rows(now)}
    return made


def _tap_forms(now: RunNow) -> dict[str, list[FieldView]]:
    """The inputs of the taps that say more: a note, a piece that broke, a photo."""
    pieces = tuple((str(n), now.brief.piece_text(n)) for p in now.live.pieces for n in p.pieces) if now.live else ()
    with_all = (("-1", "everything"), *pieces)
    forms = {
        "note": (
            Field("number", "Of", "choice", choices=with_all),
            Field("text", "What you saw or measured", "text", longest=1_000, required=True),
        ),
        "broke": (
            Field("number", "Which", "choice", choices=pieces),
            Field("text", "What", "choice", choices=tuple((w, w) for w in WHAT)),
            Field("where", "Where", "choice", choices=tuple((w, w) for w in WHERE)),
        ),
        "photo": (
            Field("piece", "Of", "choice", choices=with_all),
            Field("photo", "Picture", "file", accept="image/*", required=True),
        ),
    }
    return {key: list(FormSpec(fields, key).inputs("mm").values()) for key, fields in forms.items()}


def _whom(now: RunNow, task: BenchTask) -> str:
    return task.whom[:1].upper() + task.whom[1:] if task.whom else "all pieces"


def _taps(task: BenchTask) -> tuple[TapButton, ...]:
    key, number = task.name
    if task.is_running:
        return (tap_button("Done", "done", key=key, number=number, is_main=True),)
    if task.is_timed:
        return (
            tap_button("Start", "begin", key=key, number=number, is_main=True),
            tap_button("Done already", "done", key=key, number=number),
        )
    return (
        tap_button("Done", "done", key=key, number=number, is_main=True),
        tap_button("Start the clock", "begin", key=key, number=number),
    )


def _now_view(task: BenchTask, now: RunNow, said: RunWords) -> NowView:
    at, o = now.now_s, task.operation
    ticks, level, bar = list[RunningClock](), "rest", None
    if task.is_running:
        ticks.append(RunningClock(task.from_s, "since it started", is_down=False))
        level = "rest" if task.over_s is None else "hurry"
        if task.over_s is not None:
            bar = (task.over_s - (o.window.seconds if o.window else 0.0), task.over_s)
            ticks.insert(0, RunningClock(task.over_s, f"left: {task.over_text}", is_down=True))
            level = "over" if at > task.over_s else "hurry"
    elif task.due_s is not None:
        level = "over" if task.latest_s is not None and at > task.latest_s else "due"
        ticks.append(RunningClock(task.due_s, f"until {said.clock(task.due_s)}, as planned", is_down=True))
        if task.over_s is not None:
            bar = (task.over_s - (o.window.seconds if o.window else 0.0), task.over_s)
            ticks.append(RunningClock(task.over_s, f"left: {task.over_text}", is_down=True))
    return NowView(
        o.name,
        _whom(now, task),
        level,
        tuple(ticks),
        bar,
        _taps(task),
        o.steps,
        o.lay_out,
        o.record,
        o.cautions,
        task.due_s,
        task.over_s if task.is_running else task.latest_s,
        _checks(task, now),
    )


def _checks(task: BenchTask, now: RunNow) -> tuple[tuple[int, str], ...]:
    """The pieces of a task that are checked and eased in it, once they are bent; only in a real run."""
    is_bent = now.state.is_done(("bend", task.name[1]))
    if not task.operation.checked_on or not is_bent or now.run.kind != "run":
        return ()
    left = (n for n in now.brief.pieces_of(task.name) if n not in now.state.out)
    return tuple((n, now.brief.piece_text(n)) for n in left)


def _waiting(now: RunNow, said: RunWords) -> NowView:
    """Nothing to do: what is waited for."""
    seen = now.live
    assert seen is not None
    if seen.is_over:
        return NowView("All is done", "Archive the run when you are ready.", "rest")
    first = seen.next[0]
    at = seen.changes_s or first.from_s
    return NowView(
        "Nothing to do now",
        f"Next at {said.clock(at)}: {first.operation.name}, {first.whom or 'all pieces'}",
        "rest",
        (RunningClock(at, "until then", is_down=True),),
        steps=first.operation.steps,
        lay_out=first.operation.lay_out,
        cautions=first.operation.cautions,
        due_s=at,
    )


def _line(task: BenchTask, said: RunWords, checks: tuple[tuple[int, str], ...] = ()) -> LineView:
    at = task.alone_s if task.alone_s is not None else task.due_s if task.due_s is not None else task.from_s
    when = said.clock(at)
    if task.is_running:
        when = f"until {when}" if task.alone_s else "now"
    taps = _taps(task)
    return LineView(when, task.operation.name, task.whom or "all pieces", taps[0], checks)


def _piece(piece: LoadStatus, said: RunWords) -> PieceView:
    ticks, facts, grade = list[RunningClock](), list[tuple[str, str]](), ""
    if piece.over_s is not None:
        ticks.append(RunningClock(piece.over_s, piece.over_text, is_down=True))
    if piece.since_s is not None:
        ticks.append(RunningClock(piece.since_s, "so far", is_down=False))
    if piece.goal_c is not None:
        core = piece.core
        hot = said.clock(core.hot_s) if core and core.hot_s is not None else "never at this temperature"
        measured = core is not None and core.measured_to_s is not None
        grade = "measured" if measured else "by the plan"
        facts.append(("heated through", f"{hot} ({grade})"))
        if core:
            facts.append(("its middle", f"{said.temp(core.at_c)}, needs {said.temp(piece.goal_c)}"))
    if piece.out_s is not None:
        facts.append(("planned out", said.clock(piece.out_s)))
    if piece.latest_s is not None:
        facts.append(("at the latest", said.clock(piece.latest_s)))
    if piece.until_s is not None and piece.out_s is None:
        facts.append(("until", said.clock(piece.until_s)))
    if piece.form_s is not None:
        ticks.append(RunningClock(piece.form_s, "on the form", is_down=False))
    broke = "; ".join(f"piece {p + 1} {_both(b.what, b.where) or 'broke'}" for p, b in (piece.broke or {}).items())
    left = tuple(p for p in piece.pieces if p not in (piece.broke or {}))
    return PieceView(piece.name, piece.message, piece.phase, tuple(ticks), tuple(facts), left, broke, grade)


def _both(*words: str) -> str:
    """Words with commas between, what is empty left out."""
    return ", ".join(w for w in words if w)


def _probe(p: Any, now: RunNow, said: RunWords) -> ProbeView:
    live = p.at_s is not None and now.wall_s - p.at_s <= STALE_S
    reading = reading_text(p.probe.kind, p.value, said.unit) if p.value is not None else "nothing yet"
    refused = f"{p.refused} refused: {p.refusal}" if p.refused else ""
    return ProbeView(p.probe.id, p.probe.name, PROBES[p.probe.kind].name, reading, p.at_s, live, p.is_used, refused)


def _water(now: RunNow) -> int:
    """How often water was topped up."""
    return round(now.state.counts.get(WATER, 0.0))


def _log(now: RunNow, said: RunWords) -> list[LogView]:
    told: Sequence[Event] = [e for e in now.state.told if e.kind not in HIDDEN]
    made = []
    for e in reversed(told[-MOST_LOG:]):
        of = now.brief.of.get(e.key)
        about = _both(of.name, now.brief.whom((e.key, max(0, e.number)))) if of else ""
        if e.kind == "broke":
            about = _both(now.brief.piece_text(e.number), e.text, e.where)
        elif e.kind == "count":
            about = "water topped up" if e.text == WATER else f"{e.text}: {e.value:g}"
        elif e.kind == "ease":
            about = _eased_text(now, e, said)
        elif e.kind in ("note", "photo"):
            about = f"{'piece ' + str(e.number + 1) + ': ' if e.number >= 0 else ''}{e.text}"
        message = f"{WORDS[e.kind]}: {about}" if about else WORDS[e.kind]
        tap = tap_button("undo", "back", of=e.client) if e.kind not in ("end", "open", "plan") else None
        made.append(LogView(said.clock(e.at_s, fine=True), message, e.source, tap))
    return made


def _eased_text(now: RunNow, event: Event, said: RunWords) -> str:
    """A pass of checking and easing in a line: the piece, its largest gap."""
    name = now.brief.piece_text(event.number)
    for one in passes_of((event,), event.number):
        name += f", largest gap {format_length(one.largest_mm, said.unit)}"
    return name


def gravest(findings: Sequence[Finding]) -> str:
    """The level of the gravest, for how the page looks."""
    return findings[0].level if findings else "fit"
