"""A run at the bench as pages ask for it: its events folded up to now, readings joined to it, all of it in words."""

from __future__ import annotations

import datetime as dt
import secrets
import threading
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property

from ..calendar.shop_clock import zone_of
from ..calendar.shop_work import DoneAt
from ..calendar.time_format import format_time
from ..core.common.errors import PlanError
from ..core.common.operation import Move, Operation
from ..core.common.units import MEASURES, Unit, format_temperature
from ..core.execution.bench_status import Live
from ..core.execution.events import Event
from ..core.execution.game import GameState, played
from ..core.execution.live import live
from ..core.execution.run_clock import Clock, clock_of
from ..core.execution.run_plan import RunPlan, brief_of
from ..core.execution.run_records import PieceRecord, RehearsalTake, records_of, takes_of, timed
from ..core.execution.run_state import State, state_of
from ..core.learning.durations import ObservedTime
from ..core.learning.steam_times import SteamedSample
from ..core.measuring.easing import passes_of, samples_of
from ..core.plan.plan import checked_plan
from ..core.scheduling.job_tasks import CompletedTask
from ..devices.port import KINDS
from ..store.repositories.probes import Probe
from ..store.repositories.runs import KeptRun, Kind
from ..store.store import Store
from .readings import ReadingBuffer

Series = tuple[tuple[float, float], ...]
GAME_LOADS = 3  # of a game, with a form for each, so that it is over in a day
UNWATCHED_S = 15.0  # a game stands still when no page has looked at it for so long
PACE_S = 5.0  # readings are looked at in steps of so much
BEFORE_IN_S = 120.0
REMEMBERED = 40


@dataclass(frozen=True)
class ProbeNow:
    """A probe beside a run: its latest reading, and whether the run goes by it."""

    probe: Probe
    at_s: float | None
    value: float | None
    is_used: bool
    refused: int = 0
    refusal: str = ""


@dataclass(frozen=True)
class RunNow:
    """A run as it stands at a time. now_s: by its own clock; rate: how fast that goes. What is to do now and what is
    next is laid out when it is first asked for."""

    run: KeptRun
    name: str
    brief: RunPlan
    state: State
    clock: Clock
    wall_s: float
    chamber: Series
    gauge: Series
    probes: tuple[ProbeNow, ...]
    played: GameState | None
    has_changed: bool
    unit: Unit = "mm"

    @cached_property
    def live(self) -> Live | None:
        """What is to do now and what is next; None in a rehearsal. Raises: PlanError."""
        if self.run.kind == "rehearsal":
            return None
        probe = self.played is None and any(p.is_used for p in self.probes if p.probe.kind == "chamber")
        return live(self.brief, self.state, self.chamber, probe=probe, unit=self.unit)

    @property
    def now_s(self) -> float:
        return self.state.now_s

    @property
    def rate(self) -> float:
        return self.clock.rate(self.wall_s) if self.run.kind == "game" else 1.0

    @property
    def moves(self) -> tuple[tuple[Operation, Move], ...]:
        """The moves that are rehearsed, one after another."""
        return tuple((o, m) for o in self.brief.operations for m in o.moves)

    @property
    def takes(self) -> tuple[RehearsalTake, ...]:
        """Takes of the rehearsal gone through to the end."""
        return takes_of(self.state, len(self.moves))

    @property
    def records(self) -> tuple[PieceRecord, ...]:
        """What it leaves behind of each piece."""
        return records_of(self.brief, self.state, self.chamber, self.gauge)


class Events:
    """Events of the runs that are looked at, read once each. Any thread may ask."""

    def __init__(self) -> None:
        self._known: dict[tuple[str, int], tuple[int, list[Event]]] = {}
        self._lock = threading.Lock()

    def of(self, store: Store, run_id: int) -> list[Event]:
        """All events of a run as they came in."""
        key = (str(store.path), run_id)
        with self._lock:
            last, events = self._known.get(key, (0, []))
        new = store.runs.events(run_id, last)
        if new:
            last, events = new[-1][0], [*events, *(e for _, e in new)]
            with self._lock:
                while len(self._known) >= REMEMBERED:
                    self._known.pop(next(iter(self._known)))
                if self._known.get(key, (0, []))[0] < last:
                    self._known[key] = (last, events)
        return events

    def forget(self) -> None:
        """The shop's file was put in place anew."""
        with self._lock:
            self._known.clear()


EVENTS = Events()


class RunNotifier:
    """Counts what changed of each run, so that its pages look again at once."""

    def __init__(self) -> None:
        self._counts: dict[int, int] = {}
        self.is_closing = False

    def changed(self, run_id: int) -> None:
        self._counts[run_id] = self._counts.get(run_id, 0) + 1

    def count(self, run_id: int) -> int:
        return self._counts.get(run_id, 0)


# -- starting ----------------------------------------------------------------------------------------------------------
def planned_for(store: Store, job_id: int, kind: Kind, now_s: float) -> tuple[int, RunPlan]:
    """What a run of a job as it stands now would go by, and the job's revision. Raises: PlanError, NotFound."""
    state, shop = store.jobs.get(job_id), store.shop_settings.get()
    made = checked_plan(state.job, shop, store.training.learned())
    if isinstance(made, PlanError):
        raise made
    done = store.progress.done([job_id])[job_id] if kind == "run" else []
    before = [CompletedTask(d.key, d.number, _epoch(d.from_at), _epoch(d.to_at) if d.to_at else None) for d in done]
    week = shop.week
    brief = brief_of(made, places=week.places, people=week.people, started_s=now_s, before=before)
    return state.revision, brief if kind == "run" else _for_practice(brief, kind)


def _for_practice(brief: RunPlan, kind: Kind) -> RunPlan:
    """A game is one day of a few loads, each with a form, up to where they come off; what is done once is done."""
    loads = min(GAME_LOADS, brief.batches.often("batch"))
    done = tuple(
        CompletedTask(o.key, -1, brief.started_s, brief.started_s) for o in brief.operations if o.scope == "job"
    )
    if kind == "rehearsal":
        return replace(brief, before=done)
    last = next((n for n, o in enumerate(brief.operations) if o.window), len(brief.operations))
    off = next((n for n, o in enumerate(brief.operations) if n > last and "form" in o.frees), len(brief.operations))
    return replace(
        brief,
        operations=brief.operations[: off + 1],
        before=done,
        pieces=min(brief.pieces, loads * brief.at_once),
        forms=loads,
        places=max(brief.places, loads),
        seed=secrets.randbelow(1_000_000),
    )


def _epoch(at: dt.datetime) -> float:
    return at.replace(tzinfo=dt.UTC).timestamp()


def taken_by_others(store: Store, run_id: int, brief: RunPlan) -> str:
    """Who else is at the same chamber now, in a sentence; empty where nobody is or there is room."""
    if brief.chamber is None:
        return ""
    others = []
    for other in store.runs.find(is_open=True):
        if other.id == run_id or other.kind not in ("run", "trial") or other.brief.chamber is None:
            continue
        state = state_of(other.brief, EVENTS.of(store, other.id), brief.started_s)
        held = sum(1 for (k, _), m in state.marks.items() if m.to_s is None and other.brief.of[k].warms)
        lit = any(m.to_s is None and other.brief.of[k].keeps_s for (k, _), m in state.marks.items())
        if held or lit:
            others.append((other, held))
    if not others:
        return ""
    other, held = others[0]
    name = store.jobs.names({other.job_id}).get(other.job_id, "another job")
    loads = f" with {held} batch{'es' if held > 1 else ''} in it" if held else ""
    return f"The steam box is in use by run {other.id}, {name}{loads}: keep the pieces apart."


def clock_now(store: Store, run: KeptRun, wall_s: float) -> float:
    """The time by a run's own clock. Needs a connection. Raises: Unreadable."""
    events = EVENTS.of(store, run.id) if run.kind == "game" else ()
    return max(run.brief.started_s, clock_of(run.brief.started_s, events).run_s(wall_s))


# -- as it stands ------------------------------------------------------------------------------------------------------
def run_now(store: Store, gatherer: ReadingBuffer | None, run_id: int, wall_s: float) -> RunNow:
    """A run as it stands. Needs a connection. Raises: NotFound, Unreadable."""
    run = store.runs.get(run_id)
    brief, events = run.brief, EVENTS.of(store, run_id)
    clock = clock_of(brief.started_s, events if run.kind == "game" else ())
    state = state_of(brief, events, clock.run_s(wall_s))
    probes = _probes(store, gatherer, state) if run.kind == "run" else ()
    game = played(brief, state) if run.kind == "game" else None
    chamber = game.chamber if game else _series(store, gatherer, probes, "chamber", state, wall_s)
    gauge = _series(store, gatherer, probes, "vacuum", state, wall_s)
    name = store.jobs.names({run.job_id}).get(run.job_id, brief.name)
    changed = run.kind == "run" and run.ended is None and store.jobs.get(run.job_id).revision != run.revision
    return RunNow(
        run, name, brief, state, clock, wall_s, chamber, gauge, probes, game, changed, store.shop_settings.get().units
    )


def _probes(store: Store, gatherer: ReadingBuffer | None, state: State) -> tuple[ProbeNow, ...]:
    """Every probe there is, and of each kind the one the run goes by: the first, unless it was said otherwise."""
    all_ = store.probes.find()
    used: dict[str, int | None] = {}
    for probe in all_:
        used.setdefault(probe.kind, probe.id)
    ids = {str(p.id): p for p in all_}
    for event in state.told:
        if event.kind == "probe" and event.of in ids:
            probe = ids[event.of]
            used[probe.kind] = (
                probe.id if event.text == "use" else None if used[probe.kind] == probe.id else used[probe.kind]
            )
    made = []
    for probe in all_:
        last = gatherer.last.get(probe.id) if gatherer else None
        kept = (last.at, last.value) if last and last.at else store.probes.last_reading(probe.id)
        at, value = kept if kept else (None, None)
        refused, why = (last.refused, last.refusal) if last else (0, "")
        made.append(ProbeNow(probe, at, value, used[probe.kind] == probe.id, refused, why))
    return tuple(made)


def _series(
    store: Store, gatherer: ReadingBuffer | None, probes: Sequence[ProbeNow], kind: str, state: State, wall_s: float
) -> Series:
    """Readings of the probe of a kind the run goes by, since shortly before the first thing it tells of."""
    probe = next((p.probe for p in probes if p.probe.kind == kind and p.is_used), None)
    if probe is None:
        return ()
    begun = [m.from_s for m in state.marks.values() if m.saw_begin or m.saw_end]
    from_s = min(begun, default=state.now_s) - BEFORE_IN_S
    rows = store.probes.readings_in_steps(probe.id, from_s, wall_s, PACE_S)
    late = [r for r in (gatherer.waiting(probe.id) if gatherer else []) if not rows or r[0] > rows[-1][0]]
    return tuple(sorted({*rows, *late}))


def apply_run_effects(store: Store, now: RunNow) -> None:
    """What the bench says is what the days know, and what runs teach of times. Raises: NotKept."""
    if now.run.kind not in ("run", "trial"):
        return
    if now.run.kind == "run":
        _tell_days(store, now)
    store.observed.save_times(
        now.run.id, (ObservedTime(t.seconds, t.planned_s, t.made_of) for t in timed(now.brief, now.state))
    )
    warms = next((o.warms for o in now.brief.operations if o.warms), None)
    if warms:
        steamed = [r for r in now.records if r.steamed_s is not None]
        made = [SteamedSample(now.brief.group, warms.thickness_mm, r.steamed_s / 60, not r.broke) for r in steamed]
        store.observed.save_steamed(now.run.id, made)
    way = store.jobs.get(now.run.job_id).job.way
    passes = [passes_of(now.state.told, piece) for piece in range(now.brief.pieces)]
    store.observed.save_eased(
        now.run.id, [s for own in passes for s in samples_of(own, way=way, group=now.brief.group)]
    )


def _tell_days(store: Store, now: RunNow) -> None:
    """What was begun and done at the bench is so in the job's days."""
    zero = {(d.key, d.number) for d in now.brief.before}
    meant = {
        (k, n): DoneAt(k, n, _utc(m.from_s), None if m.to_s is None else _utc(m.to_s))
        for (k, n), m in now.state.marks.items()
    }
    stands = {(d.key, d.number): d for d in store.progress.done([now.run.job_id])[now.run.job_id]}
    new = [d for name, d in meant.items() if name not in zero and stands.get(name) != d]
    new += [d for name, d in meant.items() if name in zero and stands.get(name) and stands[name].to_at != d.to_at]
    if new:
        store.progress.add(now.run.job_id, new)
    own = {(o.key, n) for o in now.brief.operations for n in range(-1, now.brief.pieces)}
    for name in stands.keys() - meant.keys() & own:
        store.progress.remove(now.run.job_id, *name)


def _utc(seconds: float) -> dt.datetime:
    return dt.datetime.fromtimestamp(round(seconds), dt.UTC).replace(tzinfo=None)


# -- games -------------------------------------------------------------------------------------------------------------
def woken(store: Store, run: KeptRun, wall_s: float) -> bool:
    """A game nobody looked at stood still meanwhile: that is written down. Returns whether it had."""
    gap = wall_s - run.watched_s
    if run.kind != "game" or run.ended is not None:
        return False
    stood = gap > UNWATCHED_S
    if stood:
        clock = clock_of(run.brief.started_s, EVENTS.of(store, run.id))
        rate = clock.rate(run.watched_s)
        at = clock.run_s(run.watched_s)
        names = (secrets.token_hex(8), secrets.token_hex(8))
        store.runs.add_events(
            run.id,
            [
                Event(at, "speed", names[0], value=0.0, source="no page was open", wall_s=run.watched_s),
                Event(at, "speed", names[1], value=rate, source="a page was opened again", wall_s=wall_s),
            ],
        )
    if stood or gap > UNWATCHED_S / 3:
        store.runs.mark_watched(run.id, wall_s)
    return stood


# -- in words ----------------------------------------------------------------------------------------------------------
def clock_text(store: Store, seconds: float, *, with_s: bool = False) -> str:
    """A time of day in the shop's zone."""
    at = dt.datetime.fromtimestamp(seconds, zone_of(store.shop_settings.get().week))
    return format_time(at, store.shop_settings.get().units, with_s=with_s)


def reading_text(kind: str, value: float, unit: Unit) -> str:
    """A reading in the unit the shop reads in."""
    if KINDS[kind].unit == "°C":
        return format_temperature(round(value), unit)
    if kind == "vacuum":
        gauge = MEASURES["gauge"]
        return f"{gauge.format(round(value, 1), unit)} {gauge.shown[unit]}"
    return f"{value:.1f} %"
