"""How long a job takes from its operations: one shop, so many forms, working days of ten hours; days off left out."""

from __future__ import annotations

import math
from dataclasses import dataclass
from heapq import heappop, heappush

from ..ground.errors import ENDLESS, require
from ..ground.operation import Operation

DAY_S, WORKING_S = 86_400.0, 36_000.0  # a working day is ten hours. Grade: allowance.
AFTERWARDS = "measure_again"  # what comes when the piece is done


@dataclass(frozen=True, slots=True)
class Batches:
    """How the pieces go through: all of them, how many together, and forms to bend them on."""

    pieces: int
    at_once: int = 1
    forms: int = 1


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
    require("shop.times", start_s, 0, ENDLESS)
    require("shop.times", lasts_s, 0, ENDLESS)
    day, inside = divmod(start_s, DAY_S)
    if inside + min(lasts_s, WORKING_S) <= WORKING_S + 1e-6:
        return start_s
    return (day + 1) * DAY_S


def end_of_work(start_s: float, lasts_s: float) -> float:
    """When work begun at a time is done: what does not fit into a day goes on the next morning. Seconds.

    >>> end_of_work(0.0, 12 * 3600.0) / 3600
    26.0
    """
    require("shop.times", start_s, 0, ENDLESS)
    require("shop.times", lasts_s, 0, ENDLESS)
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
    require("part.count", batches.pieces, 1, ENDLESS)
    require("heat.at_once", batches.at_once, 1, ENDLESS)
    require("heat.forms", batches.forms, 1, ENDLESS)
    chains = _chains([o for o in operations if o.kind != AFTERWARDS])
    before = [c for c in chains if c[0].scope == "job"]
    every = [c for c in chains if c[0].scope != "job"]
    now, ends = 0.0, dict[str, float]()
    for chain in before:
        now = _walk(chain, max(now, _waits(chain[0], ends)), 1.0, ends)
    floor = _Floor(every, batches, now, ends)
    attended = sum(o.attended_s.likely * (batches.pieces if o.scope != "job" else 1) for c in chains for o in c)
    done = max(now, floor.run())
    form_days = (floor.last_freed - floor.first_taken) / DAY_S if floor.last_freed > floor.first_taken else 0.0
    return Elapsed(form_days, done / DAY_S, attended / 3600)


class _Floor:
    """The shop floor while batches go through: when hands and each form are free, and what is under way."""

    def __init__(self, chains: list[list[Operation]], batches: Batches, now_s: float, ends: dict[str, float]) -> None:
        self.chains, self.batches, self.ends = chains, batches, ends
        self.hands_s = now_s
        self.forms = [now_s] * batches.forms
        self.held: dict[int, int] = {}  # which form a batch is on
        self.own: dict[int, dict[str, float]] = {}
        self.first_taken, self.last_freed = math.inf, 0.0

    def run(self) -> float:
        """When the last batch is done, seconds."""
        waiting: list[tuple[float, int, int]] = []  # from when, which chain (later ones first), which batch
        blocked: list[tuple[float, int, int]] = []
        count, begun, done = math.ceil(self.batches.pieces / self.batches.at_once), 0, 0.0
        while begun < count or waiting:
            fresh = max(self.hands_s, min(self.forms)) if begun < count and self.chains else math.inf
            if waiting and max(waiting[0][0], self.hands_s) <= fresh:
                wait, chain, batch = heappop(waiting)
                chain = -chain
                if self._takes_form(chain) and min(self.forms) == math.inf:
                    blocked.append((wait, -chain, batch))  # until another batch comes off its form
                    continue
            elif begun < count and fresh < math.inf:
                chain, batch = 0, begun
                self.own[batch] = dict(self.ends)
                begun += 1
            else:
                break
            done = max(done, self._do(chain, batch))
            if blocked and min(self.forms) < math.inf:
                for wait, number, other in blocked:
                    heappush(waiting, (max(wait, min(self.forms)), number, other))
                blocked.clear()
            if chain + 1 < len(self.chains):
                wait = _waits(self.chains[chain + 1][0], self.own[batch])
                heappush(waiting, (wait, -(chain + 1), batch))
        return done

    def _takes_form(self, number: int) -> bool:
        return any(t.what == "form" for o in self.chains[number] for t in o.takes)

    def _do(self, number: int, batch: int) -> float:
        """One chain of one batch; when it ends."""
        chain, own = self.chains[number], self.own[batch]
        size = min(self.batches.at_once, self.batches.pieces - batch * self.batches.at_once)
        start = _waits(chain[0], own)
        if any(o.attended_s.likely for o in chain):
            start = max(start, self.hands_s)
        takes = next((o for o in chain if any(t.what == "form" for t in o.takes)), None)
        if takes:
            self.held[batch] = min(range(len(self.forms)), key=lambda i: self.forms[i])
            start = max(start, self.forms[self.held[batch]])
        end = _walk(chain, start, float(size), own)
        self.hands_s = max(self.hands_s, _hands_free(chain, own, size))
        if takes:
            self.forms[self.held[batch]] = math.inf
            self.first_taken = min(self.first_taken, own[f"{takes.key}:start"])
        for one in chain:
            if "form" in one.frees and batch in self.held:
                self.forms[self.held[batch]] = own[one.key]
                self.last_freed = max(self.last_freed, own[one.key])
        return end


def _chains(operations: list[Operation]) -> list[list[Operation]]:
    """Runs of operations that may not wait for one another."""
    found: list[list[Operation]] = []
    for one in operations:
        rigid = any(a.most_s == 0 and found and a.key == found[-1][-1].key for a in one.after)
        if rigid:
            found[-1].append(one)
        else:
            found.append([one])
    return found


def _waits(one: Operation, ends: dict[str, float]) -> float:
    return max((ends.get(a.key, 0.0) + a.least_s for a in one.after), default=0.0)


def _walk(chain: list[Operation], start_s: float, pieces: float, ends: dict[str, float]) -> float:
    """When a chain ends that begins no sooner than that; the end of each operation is written down."""
    by_hand = sum(_attended(one, pieces) + (0.0 if one.may_run_alone else one.unattended_s.likely) for one in chain)
    now = worked(start_s, by_hand) if by_hand else start_s
    for one in chain:
        ends[f"{one.key}:start"] = now
        now = end_of_work(now, _attended(one, pieces))
        lasts = one.unattended_s.likely
        now = now + lasts if one.may_run_alone else end_of_work(now, lasts)
        ends[one.key] = now
    return now


def _attended(one: Operation, pieces: float) -> float:
    return one.attended_s.likely * (pieces if one.scope == "piece" else 1.0)


def _hands_free(chain: list[Operation], ends: dict[str, float], pieces: int) -> float:
    """When the last work with hands on it in a chain is done."""
    with_hands = [
        ends[f"{one.key}:start"] + _attended(one, float(pieces)) for one in chain if one.attended_s.likely > 0
    ]
    return max(with_hands, default=0.0)
