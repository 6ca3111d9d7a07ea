"""From boards to numbered strips: which boards, where along each, in what order, and which strips make which piece."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..ground.errors import ENDLESS, OutOfRange, require
from ..shop.sawing import Sawing, lengths_in, sawings

LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"


@dataclass(frozen=True, slots=True)
class Board:
    """A board as it lies there. flaws: stretches along it that no strip may hold, from and to, mm from its left end."""

    thickness_mm: float
    width_mm: float
    length_mm: float
    flaws: tuple[tuple[float, float], ...] = ()

    def clear(self) -> list[tuple[float, float]]:
        """Stretches without a flaw, from and to, mm."""
        made, at = [], 0.0
        for start, end in sorted(self.flaws):
            if start > at:
                made.append((at, min(start, self.length_mm)))
            at = max(at, end)
        if at < self.length_mm:
            made.append((at, self.length_mm))
        return made


@dataclass(frozen=True, slots=True)
class Strips:
    """What is wanted: so many strips, rough, and what a saw takes. lengths mm."""

    count: int
    thick_mm: float
    wide_mm: float
    long_mm: float
    kerf_mm: float


@dataclass(frozen=True, slots=True)
class Length:
    """One length taken out of a board and sawn into strips: where it lies along it, and the strips' numbers."""

    start_mm: float
    end_mm: float
    first: int
    strips: int


@dataclass(frozen=True, slots=True)
class SawnBoard:
    """A board that is used: its letter, how it is sawn, the lengths taken out of it."""

    letter: str
    number: int
    board: Board
    sawing: Sawing
    lengths: tuple[Length, ...]

    @property
    def strips(self) -> int:
        return sum(length.strips for length in self.lengths)

    @property
    def labels(self) -> tuple[str, ...]:
        """A1, A2 … in the order they are sawn."""
        return tuple(
            f"{self.letter}{n}" for length in self.lengths for n in range(length.first, length.first + length.strips)
        )


@dataclass(frozen=True, slots=True)
class CutPlan:
    """Boards used, in the order they are sawn; wanted and found strips; other: the other way they could be sawn.

    wasted_share: of the wood of the boards used that ends in no strip.
    """

    boards: tuple[SawnBoard, ...]
    wanted: int
    other: Sawing | None
    wasted_share: float

    @property
    def found(self) -> int:
        return sum(b.strips for b in self.boards)

    @property
    def short(self) -> int:
        """Strips that no board gives."""
        return max(0, self.wanted - self.found)

    @property
    def labels(self) -> tuple[str, ...]:
        return tuple(label for b in self.boards for label in b.labels)


def letter_of(number: int) -> str:
    """A, B … Z, AA … for boards from 0. Valid: 0 or more. Raises: OutOfRange.

    >>> letter_of(0), letter_of(25), letter_of(26), letter_of(702)
    ('A', 'Z', 'AA', 'AAA')
    """
    require("prepare.board", number, 0, ENDLESS)
    text, n = "", number + 1
    while n:
        n, rest = divmod(n - 1, len(LETTERS))
        text = LETTERS[rest] + text
    return text


def cut_plan(boards: Sequence[Board], strips: Strips, *, saw: str = "auto") -> CutPlan:
    """Strips out of boards: fewest boards, then least waste. saw: `auto` takes the way that gives most, `rip`, `resaw`.

    All strips being equally long, the fewest boards are those that give most (no board gives more than it alone can, so
    taking the largest first is exact); the last is then the one that leaves least over. Where boards fall short, all of
    them are used and it says how many strips are missing. Valid: 1 strip or more. Raises: OutOfRange for a strip longer
    than every clear stretch, or thicker and wider than every board. Source: docs/model.md#preparing.
    """
    require("prepare.strips", strips.count, 1, ENDLESS, says="At least one strip is wanted.")
    require("prepare.strips", strips.kerf_mm, 0, ENDLESS, "mm")
    given, other = [], None
    known: dict[tuple[float, float], tuple[Sawing, ...]] = {}
    for number, board in enumerate(boards):
        section = (board.thickness_mm, board.width_mm)
        if section not in known:
            known[section] = _ways(board, strips)
        ways = known[section]
        chosen = next((w for w in ways if saw in ("auto", w.how)), ways[0] if ways else None)
        other = other or next((w for w in ways if chosen and w.how != chosen.how), None)
        spots = _spots(board, strips) if chosen else []
        if chosen and spots:
            given.append((number, board, chosen, spots))
    if not given:
        raise _none(boards, strips)
    ordered = sorted(given, key=lambda g: (-len(g[3]) * g[2].strips, _volume(g[1])))
    used, wanted = [], strips.count
    while ordered and wanted > 0:
        enough = [g for g in ordered if len(g[3]) * g[2].strips >= wanted]
        pick = min(enough, key=lambda g: _volume(g[1])) if enough else ordered[0]  # the last: least left over
        ordered.remove(pick)
        used.append(pick)
        wanted -= len(pick[3]) * pick[2].strips
    used.sort(key=lambda g: g[0])
    made, left = [], strips.count
    for at, (number, board, sawing, spots) in enumerate(used):
        lengths, first = [], 1
        for start in spots:
            if left <= 0:
                break
            lengths.append(Length(start, start + strips.long_mm, first, sawing.strips))
            first += sawing.strips
            left -= sawing.strips
        if lengths:
            made.append(SawnBoard(letter_of(at), number + 1, board, sawing, tuple(lengths)))
    whole = sum(_volume(b.board) for b in made)
    kept = sum(b.strips for b in made) * strips.thick_mm * strips.wide_mm * strips.long_mm
    return CutPlan(tuple(made), strips.count, other, 1 - min(whole, kept) / whole)


def _ways(board: Board, strips: Strips) -> tuple[Sawing, ...]:
    return sawings(
        board_thick_mm=board.thickness_mm,
        board_wide_mm=board.width_mm,
        strip_thick_mm=strips.thick_mm,
        strip_wide_mm=strips.wide_mm,
        kerf_mm=strips.kerf_mm,
    )


def _spots(board: Board, strips: Strips) -> list[float]:
    """Where lengths begin along a board, flaws left out."""
    made = []
    for start, end in board.clear():
        count = lengths_in(length_mm=end - start, each_mm=strips.long_mm, kerf_mm=strips.kerf_mm)
        made += [start + i * (strips.long_mm + strips.kerf_mm) for i in range(count)]
    return made


def _volume(board: Board) -> float:
    return board.thickness_mm * board.width_mm * board.length_mm


def _none(boards: Sequence[Board], strips: Strips) -> OutOfRange:
    """Why no board gives a strip."""
    longest = max((end - start for b in boards for start, end in b.clear()), default=0.0)
    if longest < strips.long_mm:
        return OutOfRange(
            "prepare.boards",
            "No board is long enough: a strip is {long}, the longest clear stretch {clear}.",
            hint="Take longer boards, or fewer flaws.",
            lengths_mm={"long": strips.long_mm, "clear": longest},
        )
    return OutOfRange(
        "prepare.boards",
        "No board gives a strip of {thick} × {wide}.",
        hint="Its thickness or its width must reach the strip's width, or half of it for a joined lamina.",
        lengths_mm={"thick": strips.thick_mm, "wide": strips.wide_mm},
    )


@dataclass(frozen=True, slots=True)
class PieceStrips:
    """The strips of one piece from its inner face outward, and one kept in reserve where there is enough."""

    number: int
    hand: str
    strips: tuple[str, ...]
    reserve: str | None


def dealt(labels: Sequence[str], *, pieces: int, laminae: int, pairs: bool) -> tuple[PieceStrips, ...]:
    """Strips dealt out in the order they were sawn: neighbours stay together, and mates of a pair are neighbours.

    One in reserve for each piece where enough are left. Valid: 1 piece, 1 lamina or more. Raises: OutOfRange.

    >>> [p.strips for p in dealt(["A1", "A2", "A3", "A4", "A5"], pieces=2, laminae=2, pairs=False)]
    [('A1', 'A2'), ('A3', 'A4')]
    """
    require("part.count", pieces, 1, ENDLESS)
    require("build_up.laminae", laminae, 1, ENDLESS)
    spare = len(labels) - pieces * laminae
    step = laminae + (1 if spare >= pieces else 0)
    made = []
    for i in range(pieces):
        own = tuple(labels[i * step : i * step + laminae])
        if len(own) < laminae:
            break
        reserve = labels[i * step + laminae] if step > laminae else None
        made.append(PieceStrips(i + 1, ("left", "right")[i % 2] if pairs else "", own, reserve))
    return tuple(made)
