"""Who does what: the people at work shared out over what has hands on it."""

from __future__ import annotations

from collections.abc import Sequence

from .job_tasks import ScheduledTask

NEAR_S = 1e-6


def shared_out(doings: Sequence[ScheduledTask], people: int) -> list[tuple[int, ...]]:
    """For each doing the people who do it, from 0; none where it happens by itself.

    Whoever is longest free does what comes; whoever has begun on a piece stays with it where that can be. Valid: doings
    in order of beginning, of which never more are under way than there are people.
    """
    free = [0.0] * people
    had: list[tuple[int, int] | None] = [None] * people
    made = list[tuple[int, ...]]()
    for d in doings:
        if d.hands_to_s <= d.from_s or not d.operation.attended_s.likely:
            made.append(())
            continue
        ready = [p for p in range(people) if free[p] <= d.from_s + NEAR_S]
        ready.sort(key=lambda p: (had[p] != (d.job, d.number), free[p], p))
        who = tuple(sorted(ready[: d.operation.hands]))
        for p in who:
            free[p], had[p] = d.hands_to_s, (d.job, d.number)
        made.append(who)
    return made
