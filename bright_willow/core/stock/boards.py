"""Boards as they lie there, strips as they are wanted, and a plan of how the one is sawn into the other."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

from ..common.errors import ENDLESS, check_range
from .sawing import Sawing, SawLanes, StripPlace

MIXED = "of several sets"  # longer than the name of a set may be
LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"
KEPT_LONG_MM, KEPT_WIDE_MM = 300.0, 40.0  # an off-cut no smaller goes back to the rack. Grade: allowance.


@dataclass(frozen=True, slots=True)
class Board:
    """A board as it lies there. flaws: stretches along it that no strip may hold, from and to, mm from its left end."""

    thickness_mm: float
    width_mm: float
    length_mm: float
    flaws: tuple[tuple[float, float], ...] = ()
    left_out: bool = False
    matched: str = ""  # the set it belongs to in color and grain

    def clear(self) -> list[tuple[float, float]]:
        """Stretches without a flaw, from and to, mm; none of a board that is left out."""
        if self.left_out:
            return []
        made, at = [], 0.0
        for start, end in sorted(self.flaws):
            if start > at:
                made.append((at, min(start, self.length_mm)))
            at = max(at, end)
        if at < self.length_mm:
            made.append((at, self.length_mm))
        return made

    @property
    def volume(self) -> float:
        return self.thickness_mm * self.width_mm * self.length_mm


@dataclass(frozen=True, slots=True)
class StripDemand:
    """Strips of one kind, rough: how thick and long, how many, and what they are for where kinds differ."""

    thick_mm: float
    long_mm: float
    count: int
    name: str = ""


@dataclass(frozen=True, slots=True)
class Strips:
    """What is wanted, all as wide, and what a saw takes. reserve: more of each kind, where boards begun hold them."""

    kinds: tuple[StripDemand, ...]
    wide_mm: float
    kerf_mm: float
    reserve: int = 0

    @classmethod
    def alike(cls, count: int, thick_mm: float, wide_mm: float, long_mm: float, kerf_mm: float) -> Strips:
        """Strips all alike."""
        return cls((StripDemand(thick_mm, long_mm, count),), wide_mm, kerf_mm)

    @property
    def count(self) -> int:
        """All that are wanted."""
        return sum(k.count for k in self.kinds)

    @property
    def long_mm(self) -> float:
        """The longest."""
        return max(k.long_mm for k in self.kinds)


class SawnStrip(NamedTuple):
    """A strip: its number on its board, which kind it is, the lane it is sawn from, how far along it, how thick."""

    number: int
    kind: int
    lanes: SawLanes
    lane: int
    at_mm: float
    thick_mm: float

    @property
    def places(self) -> tuple[StripPlace, ...]:
        """Where it lies in the section; of a joined lamina, where its halves do."""
        return self.lanes.places(self.lane, self.at_mm, self.thick_mm)


@dataclass(frozen=True, slots=True)
class Length:
    """One length taken out of a board: where it lies along it, and the strips it is sawn into."""

    start_mm: float
    end_mm: float
    sawn: tuple[SawnStrip, ...]

    @property
    def first(self) -> int:
        return self.sawn[0].number

    @property
    def strips(self) -> int:
        return len(self.sawn)

    @property
    def reach_mm(self) -> float:
        """How far across the section anything is sawn."""
        return max(s.lanes.reach_mm(s.lane, s.at_mm, s.thick_mm) for s in self.sawn)


@dataclass(frozen=True, slots=True)
class OffCut:
    """What is left of a board and worth keeping: its size, mm, and where it begins along the board."""

    thickness_mm: float
    width_mm: float
    length_mm: float
    start_mm: float


@dataclass(frozen=True, slots=True)
class SawnBoard:
    """A board that is used: its letter, its number among those at hand, how it is sawn, the lengths taken out of it."""

    letter: str
    number: int
    board: Board
    lanes: SawLanes
    lengths: tuple[Length, ...]

    @property
    def strips(self) -> int:
        return sum(length.strips for length in self.lengths)

    @property
    def labels(self) -> tuple[str, ...]:
        """A1, A2 … in the order they are sawn."""
        return tuple(f"{self.letter}{s.number}" for length in self.lengths for s in length.sawn)

    @property
    def off_cuts(self) -> tuple[OffCut, ...]:
        """Lengths and ripped-off widths that are worth keeping, clear of flaws."""
        board, made = self.board, []
        for start, end in board.clear():
            inside = [x for x in self.lengths if start - 1e-6 <= x.start_mm < end]
            at = max((x.end_mm + self.lanes.kerf_mm for x in inside), default=start)
            if end - at >= KEPT_LONG_MM:
                made.append(OffCut(board.thickness_mm, board.width_mm, end - at, at))
        for x in self.lengths:
            wide = board.width_mm - x.reach_mm - self.lanes.kerf_mm
            if wide >= KEPT_WIDE_MM and x.end_mm - x.start_mm >= KEPT_LONG_MM:
                made.append(OffCut(board.thickness_mm, wide, x.end_mm - x.start_mm, x.start_mm))
        return tuple(made)


@dataclass(frozen=True, slots=True)
class CutPlan:
    """Boards used, in the order they are numbered; wanted and short: strips wanted, and those no board gives.

    other: the other way the first of them could be sawn. wasted_share: of the wood of the boards used, what ends
    neither in a strip nor in an off-cut that is kept.
    """

    boards: tuple[SawnBoard, ...]
    wanted: int
    short: int
    other: Sawing | None
    wasted_share: float

    @property
    def found(self) -> int:
        return sum(b.strips for b in self.boards)

    @property
    def labels(self) -> tuple[str, ...]:
        return tuple(label for b in self.boards for label in b.labels)

    @property
    def kinds(self) -> tuple[int, ...]:
        """The kind of each strip, as its label stands in `labels`."""
        return tuple(s.kind for b in self.boards for length in b.lengths for s in length.sawn)

    @property
    def volume(self) -> float:
        """Of the boards used, mm³."""
        return sum(b.board.volume for b in self.boards)


def letter_of(number: int) -> str:
    """A, B … Z, AA … for boards from 0. Valid: 0 or more. Raises: PlanError.

    >>> letter_of(0), letter_of(25), letter_of(26), letter_of(702)
    ('A', 'Z', 'AA', 'AAA')
    """
    check_range("prepare.board", number, 0, ENDLESS)
    text, n = "", number + 1
    while n:
        n, rest = divmod(n - 1, len(LETTERS))
        text = LETTERS[rest] + text
    return text


@dataclass(frozen=True, slots=True)
class PieceStrips:
    """The strips of one piece from its inner face outward, and what is kept in reserve for it where there is enough."""

    number: int
    hand: str
    strips: tuple[str, ...]
    reserve: tuple[str, ...]
    matched: str = ""

    @property
    def is_mixed(self) -> bool:
        """Whether its strips come from boards of more than one set."""
        return self.matched == MIXED


def dealt(
    labels: Sequence[str],
    kinds: Sequence[int],
    *,
    pieces: int,
    layers: Sequence[int],
    pairs: bool,
    sets: Sequence[str] = (),
) -> tuple[PieceStrips, ...]:
    """Strips dealt out in the order they were sawn: neighbours stay together, and mates of a pair are neighbours.

    One of each kind in reserve for each piece where enough are left. A piece is made of one set as long as a set has
    strips enough. Valid: 1 piece, 1 layer or more. Raises: PlanError.

    Args:
        labels: of all strips, in the order they are sawn.
        kinds: of each label.
        pieces: how many are wanted.
        layers: the kind of each layer of a piece from its inner face outward.
        pairs: whether every second piece is the mate of the one before.
        sets: the set each strip's board matches in color and grain; empty for all alike.

    >>> labels, alike, two = ["A1", "A2", "A3", "A4", "A5"], [0] * 5, [0, 0]
    >>> [p.strips for p in dealt(labels, alike, pieces=2, layers=two, pairs=False)]
    [('A1', 'A2'), ('A3', 'A4')]
    """
    check_range("part.count", pieces, 1, ENDLESS)
    check_range("build_up.laminae", len(layers), 1, ENDLESS)
    of_set = dict(zip(labels, sets or [""] * len(labels), strict=True))
    left = {k: [x for x, own in zip(labels, kinds, strict=True) if own == k] for k in set(layers)}
    each = {k: sum(1 for x in layers if x == k) for k in left}
    spare = {k: len(left[k]) - pieces * each[k] >= pieces for k in left}
    made: list[PieceStrips] = []
    for i in range(pieces):
        if any(len(left[k]) < each[k] for k in left):
            break
        chosen = _set_for(left, each, of_set)
        own = tuple(_taken(left[k], of_set, chosen) for k in layers)
        seen = {of_set[x] for x in own}
        matched = seen.pop() if len(seen) == 1 else MIXED
        reserve = tuple(_taken(left[k], of_set, chosen) for k in left if spare[k])
        made.append(PieceStrips(i + 1, ("left", "right")[i % 2] if pairs else "", own, reserve, matched))
    return tuple(made)


def _set_for(left: dict[int, list[str]], each: dict[int, int], of_set: dict[str, str]) -> str | None:
    """The first set that has strips enough for a piece, those that were chosen before boards of none; None for any."""
    names = dict.fromkeys(of_set[x] for strips in left.values() for x in strips)
    for name in sorted(names, key=lambda name: not name):
        if all(sum(of_set[x] == name for x in left[k]) >= each[k] for k in left):
            return name
    return None


def _taken(strips: list[str], of_set: dict[str, str], chosen: str | None) -> str:
    """The next strip of a set taken from those left; of any where the set has no more."""
    at = next((i for i, x in enumerate(strips) if of_set[x] == chosen), 0)
    return strips.pop(at)
