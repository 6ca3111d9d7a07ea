"""Which boards are sawn, where along each, and into which strips: fewest boards, then least of their wood."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field

import numpy as np

from ..common.errors import ENDLESS, PlanError, check_range
from .boards import (
    Board,
    CutPlan,
    Length,
    SawnBoard,
    SawnStrip,
    Strips,
    letter_of,
)
from .sawing import SawLanes, lanes_of, lengths_in

EDGE_MM = 1e-9
BUCKETS = 400  # steps a board's yield is told in where strips differ
MARGINS = (1.0, 1.04, 1.1, 1.2, 1.4)  # of what is wanted, that boards are chosen for where strips differ
MOST_SWAPS = 24
MOST_CHOICES, STRIPS_TRIED, SIZES_TRIED = 4_000, 6_000, 2  # choices looked over; strips laid in trying them
MOST_FILLS = 600  # ways to fill a lane looked at


def cut_plan(boards: Sequence[Board], strips: Strips, *, saw: str = "auto") -> CutPlan:
    """Strips out of boards: fewest boards, then the least of their wood. saw: `auto` takes the way that gives most of
    each board, `rip`, `resaw`.

    Strips all alike: exactly, the fewest boards by taking the best first, the least wood among so many by dynamic
    programming. Where they differ, choices of boards are tried from the least wood up; the longest strip left opens a
    length where the least is left over, and each lane of it is filled with the strips that leave the least of it over:
    best fit by levels, minimum bin slack across them. Where boards fall short, all are used and it says how many
    strips are missing. Valid: 1 strip or more. Raises: PlanError for a strip longer than every clear stretch, or wider
    than every board. Source: level packing and minimum bin slack, as published; docs/model.md#preparing.
    """
    check_range("prepare.strips", strips.count, 1, ENDLESS, message="At least one strip is needed.")
    check_range("prepare.strips", strips.kerf_mm, 0, ENDLESS, "mm")
    for kind in strips.kinds:
        check_range("prepare.strips", kind.thick_mm, 0, ENDLESS, "mm", above=True)
        check_range("prepare.strips", kind.long_mm, 0, ENDLESS, "mm", above=True)
    given = _given(boards, strips, saw)
    if not given:
        raise _none(boards, strips)
    fills = _Fills(strips, may_turn=saw == "auto" and len(strips.kinds) > 1)
    best: _Filled | None = None
    for chosen in _choices(given, strips):
        tried = fills.filled(chosen)
        if best is None or tried.cost < best.cost:
            best = tried
        if not tried.short:
            break
    assert best is not None
    best = _swapped(best, given, fills)
    best.keep_reserve(strips)
    return best.plan(strips)


@dataclass(frozen=True, slots=True)
class _Given:
    """A board that gives something: its ways, the chosen one first, and how much."""

    number: int
    board: Board
    ways: tuple[SawLanes, ...]
    gives: float


def _given(boards: Sequence[Board], strips: Strips, saw: str) -> list[_Given]:
    known: dict[tuple[float, float], tuple[SawLanes, ...]] = {}
    made = []
    for number, board in enumerate(boards):
        section = (board.thickness_mm, board.width_mm)
        if section not in known:
            known[section] = _ways(board, strips, saw)
        gives = _gives(board, known[section], strips) if known[section] else 0.0
        if gives:
            made.append(_Given(number, board, known[section], gives))
    return made


@dataclass(slots=True)
class _Level:
    """A length begun: where, and how far each lane of its section is used."""

    start_mm: float
    long_mm: float
    used_mm: list[float]
    laid: list[tuple[int, int, float]] = field(default_factory=list)  # kind, lane, at

    def lay(self, lanes: SawLanes, lane: int, kind: int, thick_mm: float, count: int) -> None:
        """So many strips laid into a lane."""
        takes = lanes.takes_mm(thick_mm)
        for _ in range(count):
            self.laid.append((kind, lane, self.used_mm[lane]))
            self.used_mm[lane] += takes


@dataclass(slots=True)
class _Begun:
    """A board of a choice: how it is sawn, what is left of its clear stretches, and the lengths taken."""

    given: _Given
    lanes: SawLanes
    stretches: list[list[float]]
    levels: list[_Level] = field(default_factory=list)

    def left_over(self, long_mm: float) -> float:
        """What the stretch where a length fits best would have left; endless where none is long enough."""
        return min((s[1] - s[0] - long_mm for s in self.stretches if s[1] - s[0] >= long_mm - EDGE_MM), default=ENDLESS)

    def level(self, long_mm: float) -> _Level:
        """A new length where the shortest stretch that is long enough begins."""
        fits = [s for s in self.stretches if s[1] - s[0] >= long_mm - EDGE_MM]
        stretch = min(fits, key=lambda s: s[1] - s[0])
        made = _Level(stretch[0], long_mm, [0.0] * self.lanes.lanes)
        stretch[0] += long_mm + self.lanes.kerf_mm
        self.levels.append(made)
        return made


@dataclass(slots=True)
class _Filled:
    """Boards filled with strips, and how many strips found no place."""

    begun: list[_Begun]
    short: int

    @property
    def cost(self) -> tuple[int, int, float]:
        return self.short, len(self.begun), sum(b.given.board.volume for b in self.begun)

    def keep_reserve(self, strips: Strips) -> None:
        """Strips in reserve, where lengths begun have room for them."""
        for kind, wanted in enumerate(strips.kinds):
            left = strips.reserve
            for begun, level in ((b, x) for b in self.begun for x in b.levels):
                if level.long_mm < wanted.long_mm - EDGE_MM or not level.laid:
                    continue
                takes = begun.lanes.takes_mm(wanted.thick_mm)
                for lane, used in enumerate(level.used_mm):
                    more = min(left, int((begun.lanes.room_mm + begun.lanes.kerf_mm - used) / takes + EDGE_MM))
                    level.lay(begun.lanes, lane, kind, wanted.thick_mm, more)
                    left -= more

    def plan(self, strips: Strips) -> CutPlan:
        """Boards lettered and strips numbered, lane by lane as they come off the saw."""
        made = []
        for at, begun in enumerate(sorted(self.begun, key=lambda b: b.given.number)):
            lanes, numbers, lengths = begun.lanes, itertools.count(1), []
            for level in sorted(begun.levels, key=lambda x: x.start_mm):
                sawn = tuple(
                    SawnStrip(next(numbers), kind, lanes, lane, used, strips.kinds[kind].thick_mm)
                    for kind, lane, used in sorted(level.laid, key=lambda x: x[1:])
                )
                lengths.append(Length(level.start_mm, level.start_mm + level.long_mm, sawn))
            made.append(SawnBoard(letter_of(at), begun.given.number + 1, begun.given.board, lanes, tuple(lengths)))
        whole = sum(b.board.volume for b in made)
        kept = sum(o.thickness_mm * o.width_mm * o.length_mm for b in made for o in b.off_cuts)
        wood = [k.thick_mm * strips.wide_mm * k.long_mm for k in strips.kinds]
        kept += sum(wood[kind] for begun in self.begun for level in begun.levels for kind, _, _ in level.laid)
        first = self.begun[0]
        others = [w for w in first.given.ways if w != first.lanes]
        other = others[0].alike(strips.kinds[0].thick_mm) if others else None
        return CutPlan(tuple(made), strips.count, self.short, other, 1 - min(whole, kept) / whole)


@dataclass(slots=True)
class _Fills:
    """Strips laid into boards. may_turn: whether each board may be sawn whichever way holds more of what is left."""

    strips: Strips
    may_turn: bool
    known: dict[tuple[float, float, tuple[int, ...]], tuple[int, ...]] = field(default_factory=dict)

    def filled(self, chosen: Iterable[_Given]) -> _Filled:
        """The strips in the boards of a choice, these begun in its order."""
        kinds, waiting, begun, short = self.strips.kinds, list(chosen), list[_Begun](), 0
        left = [k.count for k in kinds]
        while any(left):
            longest = max((k for k, n in enumerate(left) if n), key=lambda k: (kinds[k].long_mm, kinds[k].thick_mm))
            spot = self._spot(begun, waiting, kinds[longest].long_mm, left)
            if spot is None:
                short += left[longest]
                left[longest] = 0
                continue
            level = spot.level(kinds[longest].long_mm)
            for lane in range(spot.lanes.lanes):
                for k, count in enumerate(self.lane(spot.lanes, left, kinds[longest].long_mm)):
                    level.lay(spot.lanes, lane, k, kinds[k].thick_mm, count)
                    left[k] -= count
        return _Filled(begun, short)

    def _spot(self, begun: list[_Begun], waiting: list[_Given], long_mm: float, left: list[int]) -> _Begun | None:
        """The board where a length leaves the least over: of those begun, else the next that holds it."""
        if begun:
            best = min(begun, key=lambda b: b.left_over(long_mm))
            if best.left_over(long_mm) < ENDLESS:
                return best
        for i, given in enumerate(waiting):
            one = _Begun(given, given.ways[0], [list(s) for s in given.board.clear()])
            if one.left_over(long_mm) < ENDLESS:
                del waiting[i]
                if self.may_turn and len(given.ways) > 1:
                    one.lanes = max(given.ways, key=lambda w: self._worth(w, left, long_mm))
                begun.append(one)
                return one
        return None

    def _worth(self, lanes: SawLanes, left: list[int], long_mm: float) -> float:
        """Wood of the strips one length of a board gives, sawn so."""
        rest, worth = list(left), 0.0
        for _ in range(lanes.lanes):
            for k, count in enumerate(self.lane(lanes, rest, long_mm)):
                rest[k] -= count
                worth += count * self.strips.kinds[k].thick_mm * self.strips.kinds[k].long_mm
        return worth

    def lane(self, lanes: SawLanes, left: Sequence[int], long_mm: float) -> tuple[int, ...]:
        """How many of each kind leave the least of a lane over, the thickest that is left among them."""
        kinds, room = self.strips.kinds, lanes.room_mm + lanes.kerf_mm + EDGE_MM
        takes = [lanes.takes_mm(k.thick_mm) for k in kinds]
        own = [int(room / t) if k.long_mm <= long_mm + EDGE_MM else 0 for t, k in zip(takes, kinds, strict=True)]
        most = tuple(min(n, o) for n, o in zip(left, own, strict=True))
        key = (lanes.room_mm, takes[0], (*most, int(long_mm)))
        if key not in self.known:
            self.known[key] = self._fullest(room, takes, most)
        return self.known[key]

    def _fullest(self, room: float, takes: list[float], most: tuple[int, ...]) -> tuple[int, ...]:
        order = sorted((k for k in range(len(takes)) if most[k]), key=lambda k: -takes[k])
        if not order:
            return tuple(0 for _ in takes)
        worth = [t * k.long_mm for t, k in zip(takes, self.strips.kinds, strict=True)]
        best, best_worth, looked = [0] * len(takes), -1.0, 0

        def fill(at: int, counts: list[int], free: float, so_far: float) -> None:
            nonlocal best, best_worth, looked
            k = order[at]
            most_here = min(most[k], int(free / takes[k]))
            last = at == len(order) - 1
            least = most_here if last else 1 if at == 0 and most_here else 0
            for count in range(most_here, least - 1, -1):
                looked += 1
                if looked > MOST_FILLS and best_worth >= 0:
                    return
                counts[k] = count
                now = so_far + count * worth[k]
                if last:
                    if now > best_worth + EDGE_MM:
                        best, best_worth = list(counts), now
                else:
                    fill(at + 1, counts, free - count * takes[k], now)
            counts[k] = 0

        fill(0, [0] * len(takes), room, 0.0)
        return tuple(best)


def _ways(board: Board, strips: Strips, saw: str) -> tuple[SawLanes, ...]:
    """The ways of a board's section that hold every strip, the chosen one first."""
    ways = lanes_of(
        board_thick_mm=board.thickness_mm,
        board_wide_mm=board.width_mm,
        strip_wide_mm=strips.wide_mm,
        kerf_mm=strips.kerf_mm,
    )
    thickest = max(k.thick_mm for k in strips.kinds)
    common = max(strips.kinds, key=lambda k: k.count).thick_mm
    fit = sorted((w for w in ways if w.holds(thickest)), key=lambda w: -w.holds(common))
    return tuple(sorted(fit, key=lambda w: saw != w.how)) if saw != "auto" else tuple(fit)


def _gives(board: Board, ways: tuple[SawLanes, ...], strips: Strips) -> float:
    """What a board gives alone: whole strips where all are alike; else no less than the wood of them that it holds."""
    stretches = [end - start for start, end in board.clear()]
    if len(strips.kinds) == 1:
        each, kind = ways[0].holds(strips.kinds[0].thick_mm), strips.kinds[0]
        return float(
            each * sum(lengths_in(length_mm=s, each_mm=kind.long_mm, kerf_mm=ways[0].kerf_mm) for s in stretches)
        )
    across = max(w.lanes * (w.room_mm + w.kerf_mm) for w in ways)
    shortest, longest = min(k.long_mm for k in strips.kinds), strips.long_mm
    if longest - shortest < EDGE_MM:
        lengths = sum(lengths_in(length_mm=s, each_mm=longest, kerf_mm=strips.kerf_mm) for s in stretches)
        return across * lengths * (longest + strips.kerf_mm)
    return across * sum(s + strips.kerf_mm for s in stretches if s >= shortest)


def _needs(strips: Strips, lanes: SawLanes) -> float:
    if len(strips.kinds) == 1:
        return float(strips.count)
    return sum(k.count * lanes.takes_mm(k.thick_mm) * (k.long_mm + strips.kerf_mm) for k in strips.kinds)


def _choices(given: list[_Given], strips: Strips) -> Iterator[list[_Given]]:
    """Choices of boards to try, each in the order they are filled; all of them last."""
    best_first = sorted(given, key=lambda g: (-g.gives, g.board.volume))
    if len({(g.gives, g.board.volume) for g in given}) > 1:
        needs = _needs(strips, given[0].ways[0])
        if len(strips.kinds) > 1:
            yield from _least_first(best_first, needs, max(4, STRIPS_TRIED // strips.count))
        for margin in MARGINS if len(strips.kinds) > 1 else MARGINS[:1]:
            if chosen := _least_wood(best_first, needs * margin):
                yield sorted(chosen, key=lambda g: (-g.gives, g.board.volume))
    yield best_first
    if len(strips.kinds) > 1:
        yield sorted(given, key=lambda g: g.board.volume / g.gives)


def _least_first(given: list[_Given], needs: float, most: int) -> Iterator[list[_Given]]:
    """Choices that could be enough, of few boards first and of little wood among as many."""
    gives, wood = np.array([g.gives for g in given]), np.array([g.board.volume for g in given])
    fewest = int(np.searchsorted(np.cumsum(gives), needs - EDGE_MM)) + 1
    for count in range(fewest, min(fewest + SIZES_TRIED, len(given)) + 1):
        if math.comb(len(given), count) > MOST_CHOICES:
            return
        rows = np.array(list(itertools.combinations(range(len(given)), count)))
        rows = rows[gives[rows].sum(axis=1) >= needs - EDGE_MM]
        for row in rows[np.argsort(wood[rows].sum(axis=1), kind="stable")][:most]:
            yield [given[i] for i in row]


def _least_wood(best_first: list[_Given], needs: float) -> list[_Given]:
    """As few boards as give what is needed, and of so few those with the least wood; none where all are not enough."""
    total, fewest = 0.0, 0
    for fewest, one in enumerate(best_first, 1):  # noqa: B007
        total += one.gives
        if total >= needs - EDGE_MM:
            break
    else:
        return []
    whole = all(float(g.gives).is_integer() for g in best_first) and needs <= BUCKETS
    step = 1.0 if whole else needs / BUCKETS
    goal = int(np.ceil(needs / step - EDGE_MM))
    least = np.full((fewest + 1, goal + 1), np.inf)
    least[0, 0] = 0.0
    took = np.zeros((len(best_first), fewest + 1, goal + 1), dtype=bool)
    for i, one in enumerate(best_first):
        gives = min(goal, int(one.gives / step + EDGE_MM))
        before = np.arange(goal + 1) - gives
        sooner = least[:-1, np.maximum(before, 0)] + one.board.volume
        took[i, 1:] = sooner < least[1:]
        least[1:] = np.minimum(sooner, least[1:])
    count = next((c for c in range(1, fewest + 1) if np.isfinite(least[c, goal])), 0)
    chosen, left = [], goal
    for i in range(len(best_first) - 1, -1, -1):
        if count and took[i, count, left]:
            chosen.append(best_first[i])
            left = max(0, left - int(best_first[i].gives / step + EDGE_MM))
            count -= 1
    return chosen


def _swapped(best: _Filled, given: list[_Given], fills: _Fills) -> _Filled:
    """Boards exchanged for smaller ones as long as everything still finds its place."""
    if best.short or len({g.board.volume for g in given}) == 1:
        return best
    used = [b.given for b in best.begun]
    idle = sorted((g for g in given if g not in used), key=lambda g: g.board.volume)
    swaps = [(a, b) for a in sorted(used, key=lambda g: -g.board.volume) for b in idle]
    for out, into in [s for s in swaps if s[1].board.volume < s[0].board.volume][:MOST_SWAPS]:
        if out not in used or into in used:
            continue
        tried = fills.filled(sorted([g for g in used if g != out] + [into], key=lambda g: -g.gives))
        if tried.cost < best.cost:
            best, used = tried, [b.given for b in tried.begun]
    return best


def _none(boards: Sequence[Board], strips: Strips) -> PlanError:
    """Why no board gives a strip."""
    longest = max((end - start for b in boards for start, end in b.clear()), default=0.0)
    if all(b.left_out for b in boards):
        return PlanError("prepare.left_out", "Every board is left out.", hint="Use one again.")
    least = min(k.long_mm for k in strips.kinds)
    if longest < least:
        return PlanError(
            "prepare.boards",
            "No board is long enough: a strip is {long}, the longest clear stretch {clear}.",
            hint="Use longer boards, or boards with fewer flaws.",
            lengths_mm={"long": least, "clear": longest},
        )
    return PlanError(
        "prepare.boards",
        "No board gives a strip of {thick} × {wide}.",
        hint="Its thickness or width must be at least the strip's width, or half of it for a joined strip.",
        lengths_mm={"thick": strips.kinds[0].thick_mm, "wide": strips.wide_mm},
    )
