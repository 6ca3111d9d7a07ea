"""How long a piece of work takes, for the benches."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable


def median_ms(work: Callable[[], object], times: int) -> float:
    """Median time of one call, ms."""
    taken = []
    for _ in range(times):
        start = time.perf_counter()
        work()
        taken.append((time.perf_counter() - start) * 1000)
    return statistics.median(taken)
