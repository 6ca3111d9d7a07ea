"""How much of a thing is in use, when: what there is only so many of, along time."""

from __future__ import annotations

from bisect import bisect_left, bisect_right

from ..common.errors import ENDLESS

NEAR_S = 1e-6


class ResourceProfile:
    """So many of a thing, and how many are in use from each moment on; held without an end until it is known.

    What was found is remembered: whoever asks for as many, for as long, from no earlier on, need not look before it,
    for what is taken makes no room. Only what is given back does, and then from that time on.
    """

    __slots__ = ("_found", "most", "times", "used")

    def __init__(self, most: int) -> None:
        self.most = most
        self.times: list[float] = [0.0]
        self.used: list[int] = [0]
        self._found: dict[tuple[int, float], tuple[float, float]] = {}  # by count and length: asked from, found

    def first(self, start_s: float, lasts_s: float, count: int) -> float:
        """When so many are free for so long, from a time on; endless while they are held by who knows how long.

        >>> form = ResourceProfile(1)
        >>> form.take(10.0, 20.0, 1)
        >>> form.first(0.0, 10.0, 1), form.first(0.0, 11.0, 1), form.first(0.0, 1.0, 2)
        (0.0, 20.0, inf)
        """
        if count > self.most:
            return ENDLESS
        times, used, room = self.times, self.used, self.most - count
        last = len(times) - 1
        if lasts_s == ENDLESS:
            return self._for_good(start_s, room)
        asked, known = self._found.get((count, lasts_s), (ENDLESS, 0.0))
        if asked <= start_s < known:
            start_s = known
        else:
            asked = start_s
        i = bisect_right(times, start_s + NEAR_S) - 1
        begin, end = start_s, start_s + lasts_s - NEAR_S
        while True:
            if used[i] > room:
                if i == last:
                    return ENDLESS
                begin = times[i + 1]
                end = begin + lasts_s - NEAR_S
            elif i == last or times[i + 1] >= end:
                if begin > asked:
                    self._found[count, lasts_s] = asked, begin
                return begin
            i += 1

    def _for_good(self, start_s: float, room: int) -> float:
        """From when on, no sooner than a time, so much room stays free as far as is known."""
        used = self.used
        if used[-1] > room:
            return ENDLESS
        for i in range(len(used) - 1, -1, -1):
            if used[i] > room:
                return max(start_s, self.times[i + 1])
        return start_s

    def until(self, start_s: float, count: int) -> float:
        """Until when so many are free that are free at a time; endless where nothing comes.

        >>> form = ResourceProfile(1)
        >>> form.take(10.0, 20.0, 1)
        >>> form.until(0.0, 1), form.until(20.0, 1)
        (10.0, inf)
        """
        room = self.most - count
        for i in range(bisect_right(self.times, start_s + NEAR_S) - 1, len(self.times)):
            if self.used[i] > room:
                return max(start_s, self.times[i])
        return ENDLESS

    def take(self, start_s: float, end_s: float, count: int) -> None:
        """So many in use from a time to another, which may be endless."""
        i = self._mark(start_s)
        j = len(self.times) if end_s == ENDLESS else self._mark(end_s)
        used = self.used
        for k in range(i, j):
            used[k] += count
        self._join(j)
        self._join(i)

    def give(self, start_s: float, count: int) -> None:
        """So many of those held without an end are given back."""
        i = self._mark(start_s)
        for k in range(i, len(self.times)):
            self.used[k] -= count
        self._join(i)
        for (many, lasts_s), (asked, found) in list(self._found.items()):
            if found > start_s - lasts_s:
                self._found[many, lasts_s] = asked, max(asked, start_s - lasts_s)

    def _join(self, i: int) -> None:
        """Let two stretches that are used alike be one: looking for room then passes over both at once."""
        if 0 < i < len(self.times) and self.used[i] == self.used[i - 1]:
            del self.times[i], self.used[i]

    def _mark(self, at_s: float) -> int:
        times = self.times
        i = bisect_left(times, at_s - NEAR_S)
        if i < len(times) and times[i] <= at_s + NEAR_S:
            return i
        times.insert(i, at_s)
        self.used.insert(i, self.used[i - 1])
        return i
