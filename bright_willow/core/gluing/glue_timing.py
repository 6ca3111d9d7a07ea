"""The race: every glue line from the moment it is spread to the moment there is pressure on it."""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..common.errors import ENDLESS, check_range

CLOSED_TIMES = 1.5  # the open time, that a line may wait once it is covered. Grade: allowance; the data sheet wins.
BRUSH_TIMES = 2.5 / 1.2  # as long as with a roller. Grade: allowance.
DOUBLES_C = 10.0  # for each so many degrees cooler a glue stays open twice as long. Grade: allowance.
USUAL_C = 20.0


@dataclass(frozen=True, slots=True)
class Moves:
    """What is done in one go: glue lines, seconds to spread one, to lay a lamina on, to set the stack, to close all.

    beside_s: of those to close it, for clamps beside a band.
    """

    lines: int
    spread_s: float
    lay_on_s: float
    set_s: float
    close_s: float
    beside_s: float = 0.0


@dataclass(frozen=True, slots=True)
class GlueLineTiming:
    """One glue line: seconds from the start at which it is spread, covered, and pressed."""

    line: int
    spread_s: float
    covered_s: float
    pressed_s: float


@dataclass(frozen=True, slots=True)
class GlueTiming:
    """The bars of the longest go against what the glue stands, seconds. goes: in how many the stack is glued."""

    bars: tuple[GlueLineTiming, ...]
    open_s: float
    closed_s: float
    pot_s: float | None
    goes: int

    @property
    def lasts_s(self) -> float:
        """From the first line to pressure."""
        return self.bars[-1].pressed_s if self.bars else 0.0

    @property
    def press_by_s(self) -> float:
        """By when there must be pressure: the line covered first has waited its closed time, or the pot is over."""
        covered = self.bars[0].covered_s if self.bars else 0.0
        return min(covered + self.closed_s, self.pot_s if self.pot_s else math.inf)

    @property
    def share(self) -> float:
        """Of what the glue stands, at the line that waits longest; above 1 it is lost."""
        if not self.bars:
            return 0.0
        waits = max((b.covered_s - b.spread_s) / self.open_s for b in self.bars)
        closed = max((b.pressed_s - b.covered_s) / self.closed_s for b in self.bars)
        pot = self.bars[-1].covered_s / self.pot_s if self.pot_s else 0.0
        return max(waits, closed, pot)


def at_temperature(time_20c: float, temperature_c: float) -> float:
    """A glue's open time, closed time or pot life at a temperature: t · 2^((20 − T)/10).

    Valid: 0 or more, −20 to 60 °C. Raises: PlanError. Grade: allowance; the data sheet wins.

    >>> at_temperature(12.0, 30.0), at_temperature(12.0, 10.0)
    (6.0, 24.0)
    """
    check_range("build_up.adhesive", time_20c, 0, ENDLESS, "min")
    check_range("shop.temperature_c", temperature_c, -20, 60, "°C")
    return float(time_20c * 2 ** ((USUAL_C - temperature_c) / DOUBLES_C))


def lines_of_goes(lines: int, goes: int) -> tuple[int, ...]:
    """How many glue lines each go has: as even as can be, the longest first. Valid: 1 or more of each.

    Raises: PlanError.

    >>> lines_of_goes(9, 2), lines_of_goes(3, 5)
    ((5, 4), (1, 1, 1))
    """
    check_range("glue_up.goes", goes, 1, ENDLESS)
    check_range("build_up.laminae", lines, 1, ENDLESS)
    goes = min(goes, lines)
    return tuple(lines // goes + (1 if i < lines % goes else 0) for i in range(goes))


def race(
    moves: Moves,
    *,
    hands: int,
    open_s: float,
    pot_s: float | None,
    closed_s: float | None = None,
    goes: int = 1,
    brush: bool = False,
) -> GlueTiming:
    """The race of the longest go: lines spread and covered one after another, then the stack set and closed.

    Hands share spreading and closing; laying on and setting take all of them. open_s, closed_s, pot_s: at this
    temperature; closed_s 1.5 times the open time where none is known.
    Valid: hands 1 or more, times above 0. Raises: PlanError. Source: docs/model.md#pressing. Grade: allowance.

    >>> made = race(Moves(2, 30.0, 10.0, 60.0, 200.0), hands=2, open_s=600, pot_s=None)
    >>> [(b.spread_s, b.covered_s, b.pressed_s) for b in made.bars]
    [(0.0, 25.0, 210.0), (25.0, 50.0, 210.0)]
    """
    check_range("glue_up.hands", hands, 1, ENDLESS)
    for stands in (open_s, closed_s or open_s, pot_s or open_s):
        check_range("build_up.adhesive", stands, 0, ENDLESS, "s", above=True)
    for value in (moves.spread_s, moves.lay_on_s, moves.set_s, moves.close_s):
        check_range("glue_up.hands", value, 0, ENDLESS, "s")
    lines = lines_of_goes(moves.lines, goes)[0] if moves.lines else 0
    spread = moves.spread_s * (BRUSH_TIMES if brush else 1.0) / hands
    covered, at = [], 0.0
    for _ in range(lines):
        covered.append((at, at + spread + moves.lay_on_s))
        at += spread + moves.lay_on_s
    pressed = at + moves.set_s + moves.close_s / hands
    bars = tuple(GlueLineTiming(i, start, end, pressed) for i, (start, end) in enumerate(covered, 1))
    return GlueTiming(bars, open_s, closed_s or CLOSED_TIMES * open_s, pot_s, max(1, min(goes, moves.lines or 1)))


def clamp_order(count: int, start_share: float) -> tuple[int, ...]:
    """The order in which clamps along a face are closed: from a place outwards, both sides in turn.

    start_share: 0 to 1 along the face; 0 or 1 from an end that is held. Returns for each clamp, from the left, its
    number. Valid: 1 clamp or more. Raises: PlanError. Source: docs/model.md#pressing.

    >>> clamp_order(5, 0.5), clamp_order(4, 0.0)
    ((4, 2, 1, 3, 5), (1, 2, 3, 4))
    """
    check_range("glue_up.hands", count, 1, ENDLESS)
    check_range("glue_up.hands", start_share, 0, 1)
    places = [(i + 0.5) / count for i in range(count)]
    nearest = sorted(range(count), key=lambda i: (round(abs(places[i] - start_share), 9), places[i]))
    made = [0] * count
    for number, i in enumerate(nearest, 1):
        made[i] = number
    return tuple(made)
