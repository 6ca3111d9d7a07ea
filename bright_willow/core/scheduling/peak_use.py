"""How many of each thing a schedule needs at one time: as many as that will do, and no day is later for it."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable

from .job_tasks import ResourceUse


def peak_use(held: Iterable[ResourceUse], from_s: float = 0.0) -> dict[str, int]:
    """Return the most of each thing that is in use at once, from a time on.

    What is given back at a moment is free for whoever takes it then. from_s: seconds of the schedule's clock.

    >>> uses = [ResourceUse("frame", 0, 2, 1, 0, 0.0, 10.0), ResourceUse("frame", 2, 1, 1, 1, 5.0, 20.0)]
    >>> peak_use([*uses, ResourceUse("frame", 0, 2, 1, 2, 10.0, 30.0)]), peak_use(uses, from_s=10.0)
    ({'frame': 3}, {'frame': 1})
    """
    changes: dict[str, list[tuple[float, int]]] = defaultdict(list)
    for use in held:
        if use.to_s > max(from_s, use.from_s):
            changes[use.what] += [(max(from_s, use.from_s), use.count), (use.to_s, -use.count)]
    peaks = {}
    for what, moments in changes.items():
        in_use = most = 0
        for _, count in sorted(moments):  # at one moment what is given back comes first
            in_use += count
            most = max(most, in_use)
        peaks[what] = most
    return peaks
