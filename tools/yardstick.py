"""A fixed piece of work that tells how fast this machine is right now: machines differ by three, and by the minute."""

from __future__ import annotations

import math
import time

import numpy as np

QUIET_S = 0.010  # what one yardstick takes on a quiet machine, on which a request without a plan takes 1.1 ms


def _work() -> float:
    """Do half of plain Python and half of numpy on small arrays, as a plan does."""
    total = 0.0
    for n in range(32_000):
        total += math.sin(n) * (n % 7)
    small = np.linspace(0.0, 1.0, 40)
    for _ in range(1_050):
        total += float(np.hypot(np.cos(small * total), small).sum())
    return total


def yardstick_s() -> float:
    """Return the processor time of one yardstick, the faster of three, seconds."""
    took = []
    for _ in range(3):
        start = time.thread_time()
        _work()
        took.append(time.thread_time() - start)
    return min(took)


class Measured:
    """Processor time of a block of this thread, in seconds of a quiet machine: `with Measured() as took: …`.

    The yardstick is run before and after the block, and the slower of both counts, since a machine may change between.
    """

    seconds: float

    def __enter__(self) -> Measured:
        self._before = yardstick_s()
        self._start = time.thread_time()
        return self

    def __exit__(self, *_: object) -> None:
        took = time.thread_time() - self._start
        self.seconds = took * QUIET_S / max(self._before, yardstick_s())
