"""Readings as they come in: taken at once, shown at once, written down twice a second, thinned when old."""

from __future__ import annotations

import hashlib
import logging
import threading
import time
from collections import deque
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from ..core.common.errors import PlanError
from ..devices.port import KINDS, ReceivedReadings, SensorReading, taken
from ..store.records import NotKept
from ..store.repositories.probes import Probe
from ..store.store import Store

EVERY_S, THIN_EVERY_S, MOST_WAITING = 0.5, 600.0, 50_000
log = logging.getLogger("bright_willow")


def _hash(key: str) -> str:
    return hashlib.sha256(key.encode()).hexdigest()


class BufferFull(RuntimeError):
    """More readings than can wait to be written down: none of these was taken, and they are to be sent again."""


@dataclass
class LatestReading:
    """The latest reading of a probe, and what it sent that could not be used."""

    at: float
    value: float
    refused: int = 0
    refusal: str = ""


class ReadingBuffer:
    """Takes readings on any thread; one thread writes them down."""

    def __init__(self, store: Store, clock_s: Callable[[], float]) -> None:
        self.store, self.clock_s = store, clock_s
        self.last: dict[int, LatestReading] = {}
        self.count = 0  # of readings taken, so that pages know when there is something new
        self._keys: dict[str, Probe] | None = None
        self._waiting: deque[tuple[int, float, float]] = deque()
        self._ends = threading.Event()
        self._lock = threading.Lock()
        self._thread: threading.Thread | None = None

    def start(self) -> None:
        self._ends.clear()
        self._thread = threading.Thread(target=self._run, name="readings", daemon=True)
        self._thread.start()

    def stop(self) -> None:
        self._ends.set()
        if self._thread:
            self._thread.join(2)
        self.write()

    def forget_keys(self) -> None:
        """A probe was added or removed."""
        self._keys = None

    def known(self, key: str) -> Probe | None:
        """Whose a key is, where that was asked before."""
        return self._keys.get(_hash(key)) if self._keys else None

    def whose(self, key: str) -> Probe | None:
        """Whose a key is; none for a key of nobody."""
        keys = self._keys
        if keys is None or _hash(key) not in keys:
            with self.store.connected():
                self._keys = self.store.probes.by_key_hash()
        return self._keys.get(_hash(key))

    def take(self, probe: Probe, readings: Sequence[SensorReading]) -> ReceivedReadings:
        """Readings of one probe. Raises: PlanError; what is wrong stands beside the probe too. BufferFull."""
        try:
            made = taken(KINDS[probe.kind], probe.name, readings, self.clock_s())
        except PlanError as error:
            with self._lock:
                last = self.last.setdefault(probe.id, LatestReading(0.0, 0.0))
                last.refused, last.refusal = last.refused + 1, str(error)
                self.count += 1
            raise
        with self._lock:
            if len(self._waiting) + len(made.rows) > MOST_WAITING:
                raise BufferFull(f"{len(self._waiting):,} readings are waiting to be saved; send these again later.")
            self._waiting.extend((probe.id, at, value) for at, value in made.rows)
            if made.rows:
                at, value = made.rows[-1]
                last = self.last.setdefault(probe.id, LatestReading(0.0, 0.0))
                if at >= last.at:
                    last.at, last.value = at, value
            self.count += 1
        return made

    def waiting(self, probe_id: int) -> list[tuple[float, float]]:
        """Readings of a probe that are not written down yet."""
        with self._lock:
            return sorted((at, value) for p, at, value in self._waiting if p == probe_id)

    def write(self) -> None:
        """Write down what has come in."""
        with self._lock:
            rows = list(self._waiting)
        if not rows:
            return
        try:
            with self.store.connected():
                self.store.probes.add_readings(rows)
        except NotKept as error:
            log.warning("readings wait: %s", error)
            return
        with self._lock:
            for _ in range(min(len(rows), len(self._waiting))):
                self._waiting.popleft()

    def _run(self) -> None:
        thinned = time.monotonic()
        while not self._ends.wait(EVERY_S):
            try:
                self.write()
                if time.monotonic() - thinned > THIN_EVERY_S:
                    thinned = time.monotonic()
                    with self.store.connected():
                        self.store.probes.thin_readings(self.clock_s())
            except Exception:
                log.exception("readings")
