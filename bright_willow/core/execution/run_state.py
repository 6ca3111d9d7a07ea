"""Where a run stands: a pure fold of its events up to a time. Any order of arrival gives the same; none breaks it."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from ..scheduling.job_tasks import CompletedTask
from .events import Event, in_order
from .run_plan import Name, RunPlan


@dataclass(frozen=True, slots=True)
class Mark:
    """An operation that was begun: from, and until when; None while it is under way. saw_begin, saw_end: whether
    somebody said so then; what was only concluded teaches nothing."""

    from_s: float
    to_s: float | None
    saw_begin: bool
    saw_end: bool = False

    @property
    def was_seen(self) -> bool:
        return self.saw_begin and self.saw_end


@dataclass(frozen=True, slots=True)
class PieceLoss:
    """A piece that is out: when, what happened, where on it."""

    at_s: float
    what: str
    where: str


@dataclass(frozen=True)
class State:
    """Where a run stands. marks: what was begun or done; out: pieces that broke; told: events that stand, in order;
    gone: names of those taken back; takes: of a rehearsal, take by take, when it began and when each move was through;
    handled: what went wrong in play and how it was dealt with."""

    now_s: float
    marks: Mapping[Name, Mark]
    out: Mapping[int, PieceLoss]
    told: tuple[Event, ...]
    gone: frozenset[str]
    counts: Mapping[str, float]
    takes: tuple[tuple[float, ...], ...]
    handled: Mapping[str, tuple[str, float]]
    ended_s: float | None

    def is_done(self, name: Name) -> bool:
        mark = self.marks.get(name)
        return mark is not None and mark.to_s is not None

    def running(self, name: Name) -> Mark | None:
        """Its mark while it is under way."""
        mark = self.marks.get(name)
        return mark if mark and mark.to_s is None else None

    def done(self) -> tuple[CompletedTask, ...]:
        """The marks as the days know them."""
        return tuple(CompletedTask(k, n, m.from_s, m.to_s) for (k, n), m in self.marks.items())


def state_of(brief: RunPlan, events: Iterable[Event], now_s: float) -> State:
    """Where a run stands at a time, by its clock. Pure: same events in any order, same state.

    Whatever is told, no operation ends before it begins or in the future, and nothing is begun before all it waits for
    is done: what was not seen is concluded.
    """
    told, gone = in_order(events, brief.started_s, max(now_s, brief.started_s))
    fold = _Fold(brief, max(now_s, brief.started_s))
    for event in told:
        fold.take(event)
    fold.advance(fold.now_s)
    return State(
        fold.now_s,
        {fold.web.name(i): m for i, m in sorted(fold.marks.items())},
        fold.out,
        tuple(told),
        frozenset(gone),
        fold.counts,
        tuple(tuple(t) for t in fold.takes),
        fold.handled,
        fold.ended_s,
    )


class _Fold:
    def __init__(self, brief: RunPlan, now_s: float) -> None:
        self.brief, self.web, self.now_s = brief, brief.web, now_s
        self.marks: dict[int, Mark] = {}
        self.by_itself: set[int] = set()  # under way, and over by themselves
        self.out: dict[int, PieceLoss] = {}
        self.counts: dict[str, float] = {}
        self.takes: list[list[float]] = []
        self.handled: dict[str, tuple[str, float]] = {}
        self.ended_s: float | None = None
        for one in brief.before:
            i = self.web.at.get((one.key, one.number))
            if i is not None:
                self._begin(i, one.from_s, saw=False)
                if one.to_s is not None:
                    self._end(i, one.to_s, saw=False)

    def take(self, event: Event) -> None:
        at = min(max(event.at_s, self.brief.started_s), self.now_s)
        self.advance(at)
        i = self.web.at.get((event.key, event.number))
        match event.kind:
            case "begin" if i is not None:
                self._begin(i, at, saw=True)
            case "done" if i is not None:
                self._done(i, at)
            case "not" if i is not None:
                self._undo(i)
            case "broke" if 0 <= event.number < self.brief.pieces:
                self.out.setdefault(event.number, PieceLoss(at, event.text, event.where))
            case "count":
                self.counts[event.text] = self.counts.get(event.text, 0.0) + event.value
            case "move" if self.takes:
                self.takes[-1].append(at)
            case "again":
                self.takes.append([at])
            case "handle":
                self.handled.setdefault(event.of, (event.text, at))
            case "end":
                self.ended_s = at
            case "open":
                self.ended_s = None

    def advance(self, to_s: float) -> None:
        """What is over by itself until then is over, and what follows it has begun."""
        while self.by_itself:
            i = min(self.by_itself, key=lambda n: (self.marks[n].from_s + self.web.tasks[n].lasts_s, n))
            over = self.marks[i].from_s + self.web.tasks[i].lasts_s
            if over > to_s:
                return
            self._end(i, over, saw=False)

    def _begin(self, i: int, at_s: float, *, saw: bool) -> None:
        if i in self.marks:
            return
        self._settle(i, at_s)
        self.marks[i] = Mark(max(at_s, self._ready_s(i)), None, saw)
        if self.web.ends_itself(i):
            self.by_itself.add(i)

    def _done(self, i: int, at_s: float) -> None:
        if i not in self.marks:
            ready = max((self._over_s(j) for j in self.web.before[i]), default=self.brief.started_s)
            began = min(at_s, max(at_s - self.web.tasks[i].lasts_s, ready))
            self._begin(i, began, saw=False)
        if self.marks[i].to_s is None:
            self._end(i, at_s, saw=True)

    def _end(self, i: int, at_s: float, *, saw: bool) -> None:
        mark = self.marks[i]
        self.marks[i] = Mark(mark.from_s, max(at_s, mark.from_s), mark.saw_begin, saw)
        self.by_itself.discard(i)
        for j in self.web.straight[i]:
            if self.web.is_hands_free(j) and all(self._is_over(k) for k in self.web.before[j]):
                self._begin(j, at_s, saw=mark.saw_begin or saw)

    def _settle(self, i: int, at_s: float) -> None:
        """All that must have come before is done: what was under way until now; what nobody saw, in no time."""
        waiting, missing = list(self.web.before[i]), set[int]()
        while waiting:
            j = waiting.pop()
            if j not in missing and not self._is_over(j):
                missing.add(j)
                waiting += self.web.before[j]
        for j in sorted(missing):
            known = self.marks.get(j)
            start = known.from_s if known else max(at_s, self._ready_s(j))
            saw = bool(known and known.saw_begin)
            self.marks[j] = Mark(start, max(start, at_s), saw, saw and self.web.is_hands_free(j))
            self.by_itself.discard(j)

    def _undo(self, i: int) -> None:
        waiting = [i]
        while waiting:
            j = waiting.pop()
            if self.marks.pop(j, None) is not None or j == i:
                self.by_itself.discard(j)
                waiting += self.web.next[j]

    def _is_over(self, i: int) -> bool:
        mark = self.marks.get(i)
        return mark is not None and mark.to_s is not None

    def _over_s(self, i: int) -> float:
        mark = self.marks.get(i)
        return mark.to_s if mark and mark.to_s is not None else mark.from_s if mark else self.brief.started_s

    def _ready_s(self, i: int) -> float:
        return max((self._over_s(j) for j in self.web.before[i]), default=-1e18)
