"""The timetable against an exact solver on some of the small shops that `make bench` tries all of."""

from __future__ import annotations

import pytest

from bright_willow.core.scheduling.timetable import timetable
from tools.exact_days import exact, small_shops

from .rules import HOUR, broken

SHOPS = small_shops(12)


@pytest.mark.parametrize("number", [0, 1, 2, 3, 5, 7, 8, 11])
def test_the_last_piece_is_as_soon_as_it_can_be(number):
    works, floor = SHOPS[number]
    best, made = exact(works, floor, within_s=10.0), timetable(works, floor)
    assert broken(works, floor, made) == []
    assert made.done_s >= best.no_earlier_s - 60  # sooner than can be would be a rule broken
    assert made.done_s - 8 * HOUR <= 1.03 * (best.done_s - 8 * HOUR)
