"""Operations of every piece and load as tasks, and those that may not wait for one another as runs of tasks."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

from ..common.errors import ENDLESS
from ..common.operation import AFTERWARDS, Operation
from .job_tasks import OF_THE_JOB, CompletedTask, JobTasks, ShopCapacity, Why

NEAR_S = 1e-6
NOTHING = Why("start")


@dataclass(slots=True)
class ScheduleTask:
    """One operation of one piece or load. after: other tasks by their place, with the shortest wait."""

    work: int
    operation: Operation
    number: int
    attended_s: float
    alone_s: float
    after: list[tuple[int, float]]
    done: CompletedTask | None = None

    @property
    def lasts_s(self) -> float:
        return self.attended_s + self.alone_s

    @property
    def counts(self) -> bool:
        """Whether the piece is not done before it."""
        return self.operation.kind != AFTERWARDS


@dataclass(slots=True)
class BlockLayout:
    """How a run of tasks lies in time, from the beginning of its first task that is always done.

    starts: of each task; begin_s: of the first, before 0 where the heat is made first; end_s: of the last. present:
    stretches somebody must be in the shop for; by_hand: stretches with hands on it; hands: each with how many. things:
    what is taken, from, for how long, how many. frees: what earlier runs took, and when. heat: what is hot from 0 on,
    until when. opens: what is held without an end of its own. spread: one task too long for any day, which is broken
    off over night.
    """

    tasks: tuple[int, ...]  # places in the run
    starts: tuple[float, ...]
    begin_s: float
    end_s: float
    present: tuple[tuple[float, float], ...]
    by_hand: tuple[tuple[float, float], ...]
    hands: tuple[tuple[float, float, int], ...]
    things: tuple[tuple[str, float, float, int], ...]
    frees: tuple[tuple[str, float], ...]
    heat: tuple[str, float] | None
    spread: bool
    opens: tuple[str, ...]

    @property
    def is_plain(self) -> bool:
        """Whether it takes hands once, from its beginning, and nothing else."""
        return len(self.hands) == 1 and not self.things and not self.present and self.hands[0][0] == 0.0


@dataclass(slots=True)
class Block:
    """Tasks of one piece or load that may not wait for one another. cold: with the heat made first; warm: without, in
    a chamber that is hot; both the same where no heat is made. opens: what it holds without a known end."""

    work: int
    tasks: list[int]
    cold: BlockLayout
    warm: BlockLayout
    keeps_s: float = 0.0
    waits: int = 0
    follows: list[int] = field(default_factory=list)
    after: list[tuple[int, float, float]] = field(default_factory=list)  # task, wait, its own task's start
    forced: bool = False  # goes on straight after something already done
    not_before_s: float = 0.0
    warm_from_s: float = 0.0  # the same, where the heat is there already
    from_why: Why = NOTHING
    pinned: bool = False
    opens: tuple[str, ...] = ()
    closes: bool = False  # on the way to where something held is given back
    path: tuple[int, ...] = ()  # of one that holds something: the runs up to where all of it is given back
    tail_s: float = 0.0

    @property
    def has_heat(self) -> bool:
        return self.cold is not self.warm


def tasks_of(works: Sequence[JobTasks]) -> list[ScheduleTask]:
    """Every operation for each piece, load or once, in the order of the works and their operations."""
    made: list[ScheduleTask] = []
    for w, work in enumerate(works):
        size, pieces = work.batches.at_once, work.batches.pieces
        loads = work.batches.often("batch")
        done = {(d.key, d.number): d for d in work.done}
        first: dict[str, int] = {}
        scope = {o.key: o.scope for o in work.operations}
        for o in work.operations:
            first[o.key] = len(made)
            waits = [(first[a.key], scope[a.key], a.least_s) for a in o.after if a.key in first]
            attended, alone, own = o.attended_s.likely, o.unattended_s.likely, o
            for i in range(work.batches.often(o.scope)):
                number = -1 if o.scope == "job" else i
                if o.each_s:
                    own = o.of_number(i)
                    alone = own.unattended_s.likely
                after = [(at + n, least) for at, s, least in waits for n in _those(o.scope, s, i, size, pieces, loads)]
                made.append(ScheduleTask(w, own, number, attended, alone, after, done.get((o.key, number))))
    return made


def _those(own: str, other: str, i: int, size: int, pieces: int, loads: int) -> Sequence[int]:
    """Which of another operation's one of this waits for."""
    if other == "job":
        return (0,)
    if own == "job":
        return range(loads if other == "batch" else pieces)
    if own == other:
        return (i,)
    if own == "piece":
        return (i // size,)
    return range(i * size, min(pieces, (i + 1) * size))


def thing_of(what: str, kind: str, work: JobTasks) -> str:
    """What a thing is called on the floor: the job's own by the job."""
    return f"{what}@{work.job}" if what in OF_THE_JOB else f"{what}:{kind}" if kind else what


class BlockSet:
    """The runs of a case: built once, placed many times.

    owned: everything there is only so much of, by its name on the floor. keeps_s: how long heat is kept for what comes.
    """

    def __init__(self, works: Sequence[JobTasks], floor: ShopCapacity) -> None:
        self.works, self.floor = works, floor
        self.owned = {**floor.owned, **{thing_of(what, "", w): n for w in works for what, n in w.own.items()}}
        self.keeps_s = max((o.keeps_s for w in works for o in w.operations), default=0.0)
        self.tasks = tasks_of(works)
        self.of_task: dict[int, int] = {}
        self.runs: list[Block] = []
        self._follows: dict[int, frozenset[str]] = {}
        self._shapes: dict[tuple[int, tuple[tuple[str, float], ...]], tuple[BlockLayout, BlockLayout]] = {}
        for chain in self._chains():
            self._add(chain)
        self._link()
        self._pin()
        self._tails()

    def _chains(self) -> list[list[int]]:
        made: list[list[int]] = []
        ends: dict[int, int] = {}  # which chain ends with a task
        for i, task in enumerate(self.tasks):
            if task.done:
                continue
            straight = self._straight(task.operation)
            before = (
                next((j for j, _ in task.after if self.tasks[j].operation.key in straight), None) if straight else None
            )
            if before is not None and before in ends and self.tasks[before].number == task.number:
                ends[i] = ends.pop(before)
                made[ends[i]].append(i)
            else:
                ends[i] = len(made)
                made.append([i])
        return made

    def _straight(self, o: Operation) -> frozenset[str]:
        """What an operation follows without a wait."""
        known = self._follows.get(id(o))
        if known is None:
            known = self._follows[id(o)] = frozenset(a.key for a in o.after if a.most_s == 0)
        return known

    def _add(self, chain: list[int]) -> None:
        tasks = self.tasks
        w = tasks[chain[0]].work
        first = tasks[chain[0]].operation
        key = (w, tuple((tasks[i].operation.key, tasks[i].alone_s) for i in chain))
        if key not in self._shapes:
            cold = self._shape(w, chain, 0)
            warm = self._shape(w, chain, 1) if first.keeps_s and len(chain) > 1 else cold
            self._shapes[key] = cold, warm
        cold, warm = self._shapes[key]
        run = Block(w, chain, cold, warm, first.keeps_s)
        run.opens = cold.opens
        now, begin = self.floor.now_s, self.works[w].not_before_s
        run.not_before_s, run.from_why = max(begin, now) - cold.begin_s, Why("now" if now >= begin else "not_before")
        run.warm_from_s = max(begin, now)
        straight = self._straight(first)
        if straight and self.works[w].done:
            before = [tasks[j] for j, _ in tasks[chain[0]].after]
            run.forced = any(b.done and b.operation.key in straight for b in before)
        if run.forced:
            run.not_before_s, run.from_why, run.warm_from_s = 0.0, NOTHING, 0.0
        for i in chain:
            self.of_task[i] = len(self.runs)
        self.runs.append(run)

    def _shape(self, w: int, chain: list[int], head: int) -> BlockLayout:
        """head: how many tasks at the front are left out."""
        tasks, work = [self.tasks[i] for i in chain], self.works[w]
        before = tasks[0].lasts_s if tasks[0].operation.keeps_s and len(tasks) > 1 and not head else 0.0
        at, starts = -before, []
        for task in tasks[head:]:
            starts.append(at)
            at += task.lasts_s
        used = tuple(range(head, len(tasks)))
        present, by_hand, hands = list[tuple[float, float]](), list[tuple[float, float]](), []
        for n, start in zip(used, starts, strict=True):
            task = tasks[n]
            watched = task.attended_s + (0.0 if task.operation.may_run_alone else task.alone_s)
            _joined(present, start, start + watched)
            _joined(by_hand, start, start + task.attended_s)
            if task.attended_s:
                hands.append((start, task.attended_s, task.operation.hands))
        taken: dict[str, tuple[float, int]] = {}
        for n, task in enumerate(tasks):  # what a head left out would take is taken from the beginning
            for t in task.operation.takes:
                taken.setdefault(thing_of(t.what, t.kind, work), (starts[max(0, n - head)], t.count))
        things, frees, own = list[tuple[str, float, float, int]](), list[tuple[str, float]](), set[str]()
        heat: tuple[str, float] | None = None
        heats = {t.what for o in work.operations if o.keeps_s for t in o.takes}
        for k, n in enumerate(used):
            o, end = tasks[n].operation, starts[k] + tasks[n].lasts_s
            if o.keeps_s and len(tasks) > 1:
                continue  # what is hot stays in use
            for what in o.frees:
                for name in _names(what, work):
                    if name in taken and name not in own:
                        begin, count = taken[name]
                        things.append((name, begin, end - begin, count))
                        own.add(name)
                    elif name not in taken:
                        frees.append((name, end))
                if what in heats:
                    heat = (what, end)
        things += [(name, begin, ENDLESS, count) for name, (begin, count) in taken.items() if name not in own]
        long = len(tasks) == 1 and by_hand and by_hand[0][1] > self.floor.hours.hands.longest_s + NEAR_S
        limited = [t for t in things if t[0] in self.owned]
        return BlockLayout(
            used,
            tuple(starts),
            -before,
            at,
            tuple(present) if present != by_hand else (),  # hands are only there when somebody is
            tuple(by_hand),
            tuple(hands),
            tuple(limited),
            tuple(f for f in frees if f[0] in self.owned),
            heat,
            bool(long),
            tuple(what for what, _, lasts, _ in limited if lasts == ENDLESS),
        )

    def _link(self) -> None:
        """What each run waits for, and who holds what until when."""
        for n, run in enumerate(self.runs):
            others = set()
            shape = run.cold
            for k, i in enumerate(run.tasks):
                start = 0.0 if k == 0 and run.has_heat else shape.starts[k]
                for j, least in self.tasks[i].after:
                    if j in self.of_task and self.of_task[j] == n:
                        continue
                    run.after.append((j, least, start))
                    if run.has_heat and k == 0:
                        run.after.append((j, least, shape.begin_s))
                    if j in self.of_task:
                        others.add(self.of_task[j])
            run.waits = len(others)
            for other in others:
                self.runs[other].follows.append(n)
        self._close()

    def _close(self) -> None:
        """Runs on the way to where what is held is given back: these go first, so that nothing waits for it in vain."""
        gives: dict[tuple[int, int, str], list[int]] = {}
        for n, run in enumerate(self.runs):
            for name, _ in run.cold.frees:
                gives.setdefault((run.work, self.tasks[run.tasks[0]].number, name), []).append(n)
        for n, run in enumerate(self.runs):
            path = set[int]()
            for name in run.opens:
                number = self.tasks[run.tasks[0]].number
                waiting = [g for g in gives.get((run.work, number, name), ()) if g > n][:1]
                while waiting:
                    at = waiting.pop()
                    path.add(at)
                    self.runs[at].closes = True
                    before = {self.of_task[j] for j, _, _ in self.runs[at].after if j in self.of_task} - {n}
                    waiting += [b for b in before if b > n and b not in path and self._number(b) == number]
            run.path = tuple(sorted(path))

    def _number(self, n: int) -> int:
        return self.tasks[self.runs[n].tasks[0]].number

    # -- of what is done already -----------------------------------------------------------------------------------
    def takes_of(self, work: JobTasks, o: Operation) -> list[tuple[str, int]]:
        """What an operation takes of what there is only so much of."""
        made = [(thing_of(t.what, t.kind, work), t.count) for t in o.takes]
        return [(name, count) for name, count in made if name in self.owned]

    def gives_of(self, work: JobTasks, o: Operation) -> list[str]:
        """What an operation gives back of that."""
        return [name for what in o.frees for name in _names(what, work) if name in self.owned]

    def heated_by(self, i: int) -> list[str]:
        """What is hot while a task is done: from the making of the heat to where it is given back."""
        own = self.works[self.tasks[i].work].operations
        at = next(n for n, o in enumerate(own) if o.key == self.tasks[i].operation.key)
        made = list[str]()
        for n, o in enumerate(own):
            if not o.keeps_s:
                continue
            for t in o.takes:
                last = next((k for k, x in enumerate(own) if k > n and not x.keeps_s and t.what in x.frees), n)
                made += [t.what] if n <= at <= last else []
        return made

    def _pin(self) -> None:
        """Runs with a task that is pinned, and all they wait for, go first."""
        for w, work in enumerate(self.works):
            for pin in work.pins:
                for n, run in enumerate(self.runs):
                    if run.work != w:
                        continue
                    for k, i in enumerate(run.tasks):
                        task = self.tasks[i]
                        if (task.operation.key, task.number) == (pin.key, pin.number):
                            at = pin.at_s - run.cold.starts[k]
                            if at > run.not_before_s and not run.forced:  # what was begun does not wait for a pin
                                run.not_before_s, run.from_why, run.warm_from_s = at, Why("pin"), at
                            run.pinned = True
                            self._first(n)

    def _first(self, n: int) -> None:
        waiting = [n]
        while waiting:
            run = self.runs[waiting.pop()]
            for j, _, _ in run.after:
                before = self.of_task.get(j)
                if before is not None and not self.runs[before].pinned:
                    self.runs[before].pinned = True
                    waiting.append(before)

    def _tails(self) -> None:
        """The longest way from the beginning of each run to the end of its job."""
        for run in reversed(self.runs):
            lasts = run.cold.end_s - run.cold.begin_s if self.tasks[run.tasks[0]].counts else 0.0
            run.tail_s = lasts + max((self.runs[f].tail_s for f in run.follows), default=0.0)


def _names(what: str, work: JobTasks) -> list[str]:
    """What a thing that is given back may have been taken as."""
    return list(
        dict.fromkeys(thing_of(t.what, t.kind, work) for o in work.operations for t in o.takes if t.what == what)
    )


def _joined(stretches: list[tuple[float, float]], start: float, end: float) -> None:
    """One more stretch, joined to the last where it begins as that ends."""
    if end <= start:
        return
    if stretches and stretches[-1][1] >= start - NEAR_S:
        stretches[-1] = (stretches[-1][0], end)
    else:
        stretches.append((start, end))
