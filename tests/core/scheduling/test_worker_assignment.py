"""Who does what: nobody in two places, and as many as it takes."""

from __future__ import annotations

from hypothesis import HealthCheck, given, settings

from bright_willow.core.scheduling.timetable import timetable
from bright_willow.core.scheduling.worker_assignment import shared_out
from tests.searching import examples

from .test_timetable import shops


@settings(max_examples=examples(60), deadline=None, suppress_health_check=list(HealthCheck))
@given(shops())
def test_nobody_is_in_two_places(shop):
    works, floor = shop
    doings = [d for d in timetable(works, floor, tries=1).doings if d.operation.attended_s.likely < 9 * 3600]
    busy = {}
    for d, who in zip(doings, shared_out(doings, floor.people)):
        if d.operation.attended_s.likely:
            assert len(who) == d.operation.hands == len(set(who))
        for p in who:
            assert busy.get(p, 0.0) <= d.from_s + 1e-3
            busy[p] = d.hands_to_s
