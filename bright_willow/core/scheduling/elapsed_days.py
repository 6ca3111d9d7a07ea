"""How long a job takes from its operations: one shop, so many forms, working days of ten hours; days off left out."""

from __future__ import annotations

import math
from dataclasses import dataclass
from heapq import heappop, heappush

from ..common.errors import ENDLESS, check_range
from ..common.operation import Operation, Scope

DAY_S, WORKING_S = 86_400.0, 36_000.0  # a working day is ten hours. Grade: allowance.
AFTERWARDS = "measure_again"  # what comes when the piece is done


@dataclass(frozen=True, slots=True)
class Batches:
    """How the pieces go through: all of them, how many together, and forms to bend them on."""

    pieces: int
    at_once: int = 1
    forms: int = 1

    def often(self, scope: Scope) -> int:
        """How often something is done: once, for each load, for each piece.

        >>> Batches(7, 2).often("batch"), Batches(7, 2).often("job")
        (4, 1)
        """
        return {"job": 1, "batch": math.ceil(self.pieces / self.at_once), "piece": self.pieces}[scope]


@dataclass(frozen=True, slots=True)
class Elapsed:
    """Days from the start of work: while a form is taken, until the last piece is done; hours with hands on it.

    Grade: allowance, as the times are.
    """

    form_days: float
    done_days: float
    attended_h: float


def worked(start_s: float, lasts_s: float) -> float:
    """When work of a length can begin, from a time on, so that it ends the same day; longer work begins a day.

    Valid: both 0 or more. Raises: OutOfRange. Times from the first morning, seconds.

    >>> worked(9 * 3600.0, 2 * 3600.0) / 3600
    24.0
    """
    check_range("shop.times", start_s, 0, ENDLESS)
    check_range("shop.times", lasts_s, 0, ENDLESS)
    return _worked(start_s, lasts_s)


def _worked(start_s: float, lasts_s: float) -> float:
    day, inside = divmod(start_s, DAY_S)
    if inside + min(lasts_s, WORKING_S) <= WORKING_S + 1e-6:
        return start_s
    return (day + 1) * DAY_S


def _end(start_s: float, lasts_s: float) -> float:
    left, now = lasts_s, start_s
    while True:
        day, inside = divmod(now, DAY_S)
        room = max(0.0, WORKING_S - inside)
        if left <= room + 1e-9:
            return now + left
        left, now = left - room, (day + 1) * DAY_S


def elapsed(operations: tuple[Operation, ...], batches: Batches) -> Elapsed:
    """Walk the operations of every batch, whatever can begin first begun first, as hands and forms come free.

    Rigid chains (most lag 0) begin only when their work fits the day; what may run alone runs through the night, what
    may not keeps to the working day. Valid: 1 piece or more at once and in all. Raises: OutOfRange.
    """
    check_range("part.count", batches.pieces, 1, ENDLESS)
    check_range("heat.at_once", batches.at_once, 1, ENDLESS)
    check_range("heat.forms", batches.forms, 1, ENDLESS)
    counted = [o for o in operations if o.kind != AFTERWARDS]
    numbers = {o.key: i for i, o in enumerate(counted)}
    chains = [_Chain.of(c, numbers) for c in _chains(counted)]
    ends, now = [0.0] * len(counted), 0.0
    for chain in chains:
        if chain.once:
            now, _ = chain.walk(max(now, chain.waits(ends)), 1, ends)
    floor = _Floor([c for c in chains if not c.once], batches, now, ends)
    done = max(now, floor.run())
    attended = sum(o.attended_s.likely * batches.often(o.scope) for o in counted)
    form_days = (floor.last_freed - floor.first_taken) / DAY_S if floor.last_freed > floor.first_taken else 0.0
    return Elapsed(form_days, done / DAY_S, attended / 3600)


@dataclass(frozen=True, slots=True)
class _Chain:
    """Operations that may not wait for one another, as plain numbers.

    rows: for each its number, attended and unattended seconds, whether attended for each piece, whether alone.
    in_hours: seconds that keep somebody in the shop, for each piece and besides, without none and without heads rows.
    after: the numbers it waits for, and how long. taken, freed: which of its rows takes a form and which frees it.
    heads: how many rows at the front are left out within keeps_s of the last heat; cools: after which row it is over.
    """

    rows: tuple[tuple[int, float, float, bool, bool], ...]
    in_hours: tuple[tuple[float, float], ...]
    heads: int
    keeps_s: float
    cools: int | None
    after: tuple[tuple[int, float], ...]
    once: bool
    by_hand: bool
    taken: int | None
    freed: int | None

    @classmethod
    def of(cls, chain: list[Operation], numbers: dict[str, int]) -> _Chain:
        rows = tuple(
            (numbers[o.key], o.attended_s.likely, o.unattended_s.likely, o.scope == "piece", o.may_run_alone)
            for o in chain
        )
        taken = next((numbers[o.key] for o in chain if any(t.what == "form" for t in o.takes)), None)
        freed = next((numbers[o.key] for o in chain if "form" in o.frees), None)
        waits = tuple((numbers[a.key], a.least_s) for a in chain[0].after)
        keeps = chain[0].keeps_s
        heat = {t.what for t in chain[0].takes} if keeps else set()
        cools = next((numbers[o.key] for o in chain[1:] if heat.intersection(o.frees)), None)
        once, by_hand = chain[0].scope == "job", any(r[1] for r in rows)
        heads = int(keeps > 0 and len(chain) > 1)
        in_hours = tuple(
            (
                sum(a for _, a, _, each, _ in rows[out:] if each),
                sum((0.0 if each else a) + (0.0 if alone else u) for _, a, u, each, alone in rows[out:]),
            )
            for out in range(heads + 1)
        )
        return cls(rows, in_hours, heads, keeps, cools, waits, once, by_hand, taken, freed)

    def waits(self, ends: list[float]) -> float:
        """From when it can begin, as far as other operations go."""
        return max([ends[i] + least for i, least in self.after], default=0.0)

    def walk(self, start_s: float, size: int, ends: list[float], hot_s: float = -math.inf) -> tuple[float, float]:
        """When it ends that begins no sooner than that, and when hands are free of it; every end is written down.

        hot_s: when the last heat was over.
        """
        rows = self.rows[self.heads :] if self.heads and self._begins(start_s, size, 1) <= hot_s + self.keeps_s else ()
        rows = rows or self.rows
        now, hands = self._begins(start_s, size, len(self.rows) - len(rows)), 0.0
        for number, attended, unattended, each, alone in rows:
            if attended:
                now = hands = _end(now, attended * size if each else attended)
            if unattended:
                now = now + unattended if alone else _end(now, unattended)
            ends[number] = now
        return now, hands

    def _begins(self, start_s: float, size: int, left_out: int) -> float:
        """When it can begin, its first rows left out (0, or heads): what keeps people in the shop ends that day."""
        each, besides = self.in_hours[left_out]
        in_hours = each * size + besides
        return _worked(start_s, in_hours) if in_hours else start_s


class _Floor:
    """The shop floor while batches go through: when hands and each form are free, and what is under way."""

    def __init__(self, chains: list[_Chain], batches: Batches, now_s: float, ends: list[float]) -> None:
        self.chains, self.batches, self.ends = chains, batches, ends
        self.hands_s = now_s
        self.forms = [now_s] * batches.forms
        self.held: dict[int, int] = {}  # which form a batch is on
        self.own: dict[int, list[float]] = {}
        self.hot_s = -math.inf
        self.first_taken, self.last_freed = math.inf, 0.0

    def run(self) -> float:
        """When the last batch is done, seconds."""
        waiting: list[tuple[float, int, int]] = []  # from when, which chain (later ones first), which batch
        blocked: list[tuple[float, int, int]] = []
        count, begun, done = math.ceil(self.batches.pieces / self.batches.at_once), 0, 0.0
        while self.chains and (begun < count or waiting):
            free = min(self.forms)
            fresh = max(self.hands_s, free) if begun < count else math.inf
            if waiting and max(waiting[0][0], self.hands_s) <= fresh:
                wait, chain, batch = heappop(waiting)
                chain = -chain
                if self.chains[chain].taken is not None and free == math.inf:
                    blocked.append((wait, -chain, batch))  # until another batch comes off its form
                    continue
            elif fresh < math.inf:
                chain, batch = 0, begun
                self.own[batch] = list(self.ends)
                begun += 1
            else:
                break
            done = max(done, self._do(self.chains[chain], batch))
            if blocked and min(self.forms) < math.inf:
                for wait, number, other in blocked:
                    heappush(waiting, (max(wait, min(self.forms)), number, other))
                blocked.clear()
            if chain + 1 < len(self.chains):
                heappush(waiting, (self.chains[chain + 1].waits(self.own[batch]), -(chain + 1), batch))
        return done

    def _do(self, chain: _Chain, batch: int) -> float:
        """One chain of one batch; when it ends."""
        own = self.own[batch]
        size = min(self.batches.at_once, self.batches.pieces - batch * self.batches.at_once)
        start = chain.waits(own)
        if chain.by_hand:
            start = max(start, self.hands_s)
        if chain.taken is not None:
            self.held[batch] = form = min(range(len(self.forms)), key=lambda i: self.forms[i])
            start = max(start, self.forms[form])
        end, hands = chain.walk(start, size, own, self.hot_s)
        if chain.cools is not None:
            self.hot_s = own[chain.cools]
        self.hands_s = max(self.hands_s, hands)
        if chain.taken is not None:
            self.forms[self.held[batch]] = math.inf
            self.first_taken = min(self.first_taken, start)
        if chain.freed is not None and batch in self.held:
            self.forms[self.held[batch]] = own[chain.freed]
            self.last_freed = max(self.last_freed, own[chain.freed])
        return end


def _chains(operations: list[Operation]) -> list[list[Operation]]:
    """Runs of operations that may not wait for one another."""
    found: list[list[Operation]] = []
    for one in operations:
        if found and any(a.most_s == 0 and a.key == found[-1][-1].key for a in one.after):
            found[-1].append(one)
        else:
            found.append([one])
    return found
