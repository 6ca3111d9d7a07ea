"""Working hours as stretches of time, in seconds from a beginning: pure, with no calendar in it."""

from __future__ import annotations

from bisect import bisect_right
from dataclasses import dataclass
from functools import cached_property

from ..common.errors import ENDLESS

NEAR_S = 1e-6


@dataclass(frozen=True)
class TimeRanges:
    """Stretches of time in their order, none touching another: when each opens and closes, seconds."""

    opens: tuple[float, ...]
    closes: tuple[float, ...]

    @cached_property
    def longest_s(self) -> float:
        """The longest of them."""
        return max((c - o for o, c in zip(self.opens, self.closes, strict=True)), default=0.0)

    def first(self, start_s: float, lasts_s: float) -> float:
        """When something unbroken can begin, from a time on; endless where no stretch is long enough.

        >>> days = TimeRanges((8.0, 32.0), (18.0, 42.0))
        >>> days.first(15.0, 2.0), days.first(17.0, 2.0), days.first(0.0, 11.0)
        (15.0, 32.0, inf)
        """
        opens, closes = self.opens, self.closes
        i = bisect_right(opens, start_s) - 1
        if i >= 0 and start_s + lasts_s <= closes[i] + NEAR_S:
            return start_s
        for j in range(i + 1, len(opens)):
            if opens[j] + lasts_s <= closes[j] + NEAR_S:
                return opens[j]
        return ENDLESS

    def spread(self, start_s: float, lasts_s: float) -> list[tuple[float, float]]:
        """What may be broken off, over as many stretches as it takes: from and to of each; less than all of it where
        the stretches end before.

        >>> TimeRanges((8.0, 32.0), (18.0, 42.0)).spread(15.0, 5.0)
        [(15.0, 18.0), (32.0, 34.0)]
        """
        made, left = list[tuple[float, float]](), lasts_s
        for i in range(max(0, bisect_right(self.opens, start_s) - 1), len(self.opens)):
            begin = max(start_s, self.opens[i])
            room = self.closes[i] - begin
            if room <= 0:
                continue
            made.append((begin, begin + min(room, left)))
            left -= made[-1][1] - begin
            if left <= NEAR_S:
                break
        return made

    def holds(self, start_s: float, end_s: float) -> bool:
        """Whether a time from–to lies in one stretch."""
        return self.first(start_s, end_s - start_s) <= start_s + NEAR_S


@dataclass(frozen=True)
class Hours:
    """When hands work, and when somebody is in the shop: through breaks too, where they are covered."""

    hands: TimeRanges
    present: TimeRanges


# Day and night, for what is asked apart from a week.
ALWAYS = Hours(TimeRanges((0.0,), (1e12,)), TimeRanges((0.0,), (1e12,)))
