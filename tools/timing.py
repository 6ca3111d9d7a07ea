"""How long a piece of work takes, for `make bench`: in time of a quiet machine, whatever this one does meanwhile."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass

from tools.yardstick import QUIET_S, yardstick_s


@dataclass
class Timed:
    """What a block took, seconds of a quiet machine, waiting included; 0 until it has ended."""

    seconds: float = 0.0

    @property
    def ms(self) -> float:
        return 1000 * self.seconds


@contextmanager
def timed() -> Iterator[Timed]:
    """Time a block by the clock, scaled by a yardstick before and after it, of which the slower counts."""
    made, before, start = Timed(), yardstick_s(), time.perf_counter()
    yield made
    took = time.perf_counter() - start
    made.seconds = took * QUIET_S / max(before, yardstick_s())


def median_ms(work: Callable[[], object], times: int) -> float:
    """Return the median time of one call, ms of a quiet machine."""
    taken, before = [], yardstick_s()
    for _ in range(times):
        start = time.perf_counter()
        work()
        taken.append((time.perf_counter() - start) * 1000)
    return statistics.median(taken) * QUIET_S / max(before, yardstick_s())
