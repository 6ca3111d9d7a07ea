"""What a run leaves behind: of each piece what was measured, and how long the moves really took."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise

from ..common.errors import ENDLESS, check_range
from ..common.findings import Finding
from ..common.operation import Move, Window
from .run_clock import said_s
from .run_plan import Name, RunPlan
from .run_state import Mark, State

SHUT_S = 120.0  # after the door was shut, from which the chamber is back at its heat. Grade: allowance.
ROOM = 0.8  # of the window, within which moves have room to spare. Grade: allowance.

Series = Sequence[tuple[float, float]]


@dataclass(frozen=True, slots=True)
class PieceRecord:
    """What is known of one piece from its run; None for what nobody saw. number: from 0.

    steamed_s: in the heat; chamber_c, chamber_low_c: its mean and its least while it was in; to_form_s: from the door
    to the last clamp; open_s: from the first spreading to pressure; pressure_kpa: below the air, its mean while
    pressed; broke: what, where. Grade: measured.
    """

    number: int
    steamed_s: float | None = None
    chamber_c: float | None = None
    chamber_low_c: float | None = None
    to_form_s: float | None = None
    open_s: float | None = None
    pressure_kpa: float | None = None
    on_form_s: float | None = None
    broke: str = ""
    notes: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Timed:
    """One operation somebody saw begin and end: its seconds, what was planned, and the moves it was planned of, each
    with its key, how many, and seconds for one."""

    key: str
    seconds: float
    planned_s: float
    made_of: tuple[tuple[str, float, float], ...]


def records_of(brief: RunPlan, state: State, chamber: Series = (), gauge: Series = ()) -> tuple[PieceRecord, ...]:
    """One record for each piece that was in the heat, under glue, or broke. chamber, gauge: time, and °C or kPa.

    Pure. Where nobody said when something began or ended there is nothing of it.
    """
    made = []
    for piece in range(brief.pieces):
        own = {n: m for n, m in state.marks.items() if brief.of[n[0]].scope != "job" and piece in brief.pieces_of(n)}
        record = _record(brief, piece, own, state, chamber, gauge)
        if record != PieceRecord(piece):
            made.append(record)
    return tuple(made)


def _record(
    brief: RunPlan, piece: int, own: Mapping[Name, Mark], state: State, chamber: Series, gauge: Series
) -> PieceRecord:
    steamed = to_form = open_s = on_form = chamber_c = low = pressure = None
    formed: float | None = None
    for (key, number), mark in own.items():
        o = brief.of[key]
        if o.warms and mark.to_s is not None and mark.saw_begin:
            steamed, chamber_c = mark.to_s - mark.from_s, _mean(chamber, mark.from_s, mark.to_s)
            low = min((c for t, c in chamber if mark.from_s + SHUT_S <= t <= mark.to_s), default=None)
        if o.window and mark.to_s is not None and mark.saw_end:
            since = own.get((o.window.since, number), mark)
            if since.saw_begin and o.window.since == key:
                to_form = mark.to_s - since.from_s
            elif since.saw_begin:
                open_s = mark.to_s - since.from_s
        if any(t.what == "form" for t in o.takes) and mark.to_s is not None and mark.saw_end:
            formed = mark.to_s
        if "form" in o.frees and formed is not None and mark.to_s is not None and mark.saw_end:
            on_form = mark.to_s - formed
        if o.kind == "cure" and mark.to_s is not None:
            pressure = _mean(gauge, mark.from_s, mark.to_s)
    broke = state.out.get(piece)
    message = ", ".join(x for x in (broke.what, broke.where) if x) if broke else ""
    notes = tuple(e.text for e in state.told if e.kind == "note" and e.number == piece and e.text)
    out = message or ("broke" if broke else "")
    return PieceRecord(piece, steamed, chamber_c, low, to_form, open_s, pressure, on_form, out, notes)


def _mean(series: Series, from_s: float, to_s: float) -> float | None:
    inside = [v for t, v in series if from_s <= t <= to_s]
    return sum(inside) / len(inside) if inside else None


def timed(brief: RunPlan, state: State) -> tuple[Timed, ...]:
    """Operations with hands on them that were seen from beginning to end, in their order: what they teach of times."""
    made = []
    for (key, _), mark in state.marks.items():
        o = brief.of[key]
        if mark.was_seen and mark.to_s is not None and o.attended_s.likely > 0 and not o.unattended_s.likely:
            made.append(Timed(key, mark.to_s - mark.from_s, o.attended_s.likely, o.attended_s.made_of))
    return tuple(made)


@dataclass(frozen=True, slots=True)
class RehearsalTake:
    """One take of a rehearsal: how long each move took, s, and all of them together."""

    moves_s: tuple[float, ...]

    @property
    def total_s(self) -> float:
        return sum(self.moves_s)


def takes_of(state: State, moves: int) -> tuple[RehearsalTake, ...]:
    """The takes of a rehearsal of so many moves that were gone through to the end."""
    whole = (take[: moves + 1] for take in state.takes if len(take) > moves)
    return tuple(RehearsalTake(tuple(b - a for a, b in pairwise(ends))) for ends in whole)


def mean_take(takes: Sequence[RehearsalTake]) -> RehearsalTake | None:
    """What takes of the same moves come to in the mean, move by move; none where there is no take.

    >>> mean_take([RehearsalTake((6.0, 4.0)), RehearsalTake((8.0, 5.0))])
    RehearsalTake(moves_s=(7.0, 4.5))
    """
    each = zip(*(t.moves_s for t in takes), strict=True)
    return RehearsalTake(tuple(sum(own) / len(takes) for own in each)) if takes else None


def went(took_s: float, window: Window) -> Finding:
    """How moves that took so long stand against the window. Valid: 0 s or more. Raises: PlanError."""
    check_range("heat.carry_s", took_s, 0, ENDLESS, "s")
    took, there = said_s(took_s), said_s(window.seconds)
    if took_s <= ROOM * window.seconds:
        return Finding("bench.moves", "fit", "moves", f"{took} of {there}: time to spare.", "")
    if took_s <= window.seconds:
        return Finding("bench.moves", "watch", "moves", f"{took} of {there}: only just.", "")
    over = said_s(took_s - window.seconds)
    return Finding("bench.moves", "stop", "moves", f"{took}, but only {there} available: {over} too slow.", "")


def own_times(moves: Sequence[Move], takes: Sequence[RehearsalTake]) -> dict[str, float]:
    """What takes of a rehearsal make the shop's own figures: by the name of each figure its mean, s, to a tenth.

    >>> moves = (Move("carry", "you", 0.0, 5.0, "heat.carry_s"), Move("pull", "you", 5.0, 9.0, "heat.clamp_s", 2.0))
    >>> own_times(moves, [RehearsalTake((6.0, 4.0)), RehearsalTake((8.0, 5.0))])
    {'heat.carry_s': 7.0, 'heat.clamp_s': 9.0}
    """
    found: dict[str, list[float]] = {}
    for n, move in enumerate(moves):
        if move.sets:
            found.setdefault(move.sets, []).extend(t.moves_s[n] * move.times for t in takes)
    return {name: round(sum(v) / len(v), 1) for name, v in found.items() if v}
