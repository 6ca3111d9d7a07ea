"""How much of a thing is in use: against counting every second, for anything taken, given back and asked in any order."""

from __future__ import annotations

from hypothesis import given, settings
from hypothesis import strategies as st

from bright_willow.core.common.errors import ENDLESS
from bright_willow.core.scheduling.resource_profile import ResourceProfile
from tests.searching import examples

LAST = 60
STEPS = st.lists(
    st.tuples(st.sampled_from(["take", "hold", "give", "ask", "for_good", "until"]), st.integers(0, 40), st.integers(1, 9), st.integers(1, 2)),
    max_size=40,
)  # fmt: skip


class Counted:
    """The same by counting: how many are in use in each second."""

    def __init__(self, most: int) -> None:
        self.most, self.used = most, [0] * (LAST + 1)

    def take(self, a: int, b: int, count: int) -> None:
        for s in range(a, b):
            self.used[s] += count

    def first(self, a: int, lasts: float, count: int) -> float:
        for start in range(a, LAST + 1):
            end = LAST + 1 if lasts == ENDLESS else min(LAST + 1, start + int(lasts))
            if (
                all(self.used[s] + count <= self.most for s in range(start, end))
                and self.used[LAST] + count <= self.most
            ):
                return start
            if lasts != ENDLESS and all(self.used[s] + count <= self.most for s in range(start, end)) and end <= LAST:
                return start
        return ENDLESS


@settings(max_examples=examples(120), deadline=None)
@given(st.integers(1, 3), STEPS)
def test_it_finds_what_counting_finds(most, steps):
    own, counted, held = ResourceProfile(most), Counted(most), []
    for what, start, lasts, count in steps:
        count = min(count, most)
        if what == "take":
            at = own.first(start, lasts, count)
            if at + lasts <= LAST:
                own.take(at, at + lasts, count)
                counted.take(int(at), int(at) + lasts, count)
        elif what == "hold":
            at = own.first(start, ENDLESS, count)
            assert at == counted.first(start, ENDLESS, count)
            if at < LAST - 12:
                own.take(at, ENDLESS, count)
                counted.take(int(at), LAST + 1, count)
                held.append((int(at), count))
        elif what == "give" and held:
            since, count = held.pop(0)
            at = min(LAST, since + lasts)
            own.give(at, count)
            counted.take(at, LAST + 1, -count)
        elif what == "ask":
            assert own.first(start, lasts, count) == counted.first(start, lasts, count)
        elif what == "for_good":
            assert own.first(start, ENDLESS, count) == counted.first(start, ENDLESS, count)
    assert len(own.times) == len(own.used) and all(a != b for a, b in zip(own.used, own.used[1:], strict=False))
