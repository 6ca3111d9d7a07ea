"""The clock of a run: the wall's own, or in a game as fast as was chosen, so that days pass in minutes."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterable
from dataclasses import dataclass

from .events import Event

FASTEST = 600.0


@dataclass(frozen=True)
class Clock:
    """Stretches of even speed: from when by the wall and by the run's clock, and how fast. In order of both."""

    legs: tuple[tuple[float, float, float], ...]

    def run_s(self, wall_s: float) -> float:
        """The run's time at a time of the wall; before it begins, as fast as the wall.

        >>> Clock(((100.0, 100.0, 1.0), (160.0, 160.0, 60.0))).run_s(170.0)
        760.0
        """
        i = max(0, bisect_right(self.legs, (wall_s, float("inf"), 0.0)) - 1)
        wall, run, rate = self.legs[i]
        return run + (wall_s - wall) * (rate if wall_s >= wall else 1.0)

    def rate(self, wall_s: float) -> float:
        """How fast it goes at a time of the wall."""
        return self.legs[max(0, bisect_right(self.legs, (wall_s, float("inf"), 0.0)) - 1)][2]


def clock_of(started_s: float, events: Iterable[Event], rate: float = 1.0) -> Clock:
    """The clock of a run from the changes of its speed, in the order they came. It never runs backwards: a change that
    would set it back lets it stand where it is."""
    legs = [(started_s, started_s, rate)]
    for e in sorted((e for e in events if e.kind == "speed"), key=lambda e: e.wall_s):
        now = Clock(tuple(legs))
        wall = max(e.wall_s, legs[-1][0])
        legs.append(
            (wall, max(e.at_s, now.run_s(wall)) if e.at_s else now.run_s(wall), min(max(e.value, 0.0), FASTEST))
        )
    return Clock(tuple(legs))


def said_s(seconds: float) -> str:
    """A time as it is said at the bench.

    >>> said_s(40), said_s(200), said_s(7500)
    ('40 s', '3 min 20 s', '2 h 5 min')
    """
    whole = max(0, round(seconds))
    if whole < 100:
        return f"{whole} s"
    if whole < 3600:
        return f"{whole // 60} min {whole % 60} s" if whole % 60 and whole < 1200 else f"{whole // 60} min"
    if whole < 36 * 3600:
        return f"{whole // 3600} h {whole % 3600 // 60} min"
    return f"{whole / 86_400:.1f} days"
