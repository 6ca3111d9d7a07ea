"""A process of its own for files made by others: started when it is needed, watched, and killed when it takes too long
or too much."""

from __future__ import annotations

import asyncio
import os
import subprocess
import sys
import threading
import weakref
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from typing import Any

from ..working import receive, send

WARM_AFTER_S = 3.0
MOST_WAITING = 12


class TookTooLong(Exception):
    """Work that was given up after its time."""


class TookTooMuch(Exception):
    """Work whose process died over it, mostly for want of memory."""


class TooManyWait(Exception):
    """More work than may wait its turn."""


class Worker:
    """One piece of work after another, on a process that runs a module. Whoever waits for it waits on a thread of its
    own, so that nothing else does. seconds: after which it is given up."""

    def __init__(self, module: str, seconds: float) -> None:
        self.module, self.seconds = module, seconds
        self.waiting = ThreadPoolExecutor(1, module.rpartition(".")[2])
        self.wait_count = 0
        self._held: list[subprocess.Popen[bytes]] = []  # the process, where one is started
        weakref.finalize(self, _end_all, self._held)  # it never outlives who asks it
        self._lock = threading.Lock()
        self._turn = threading.Lock()
        self._timer: threading.Timer | None = None

    def warm(self) -> None:
        """Start the process soon, so that the first file does not wait for it."""
        self._timer = threading.Timer(WARM_AFTER_S, self._started)
        self._timer.daemon = True
        self._timer.start()

    def stop(self) -> None:
        """End the process and whatever it is at; it starts again where it is needed again."""
        if self._timer:
            self._timer.cancel()
        with self._lock:
            _end_all(self._held)

    def _started(self) -> subprocess.Popen[bytes]:
        with self._lock:
            if not self._held or self._held[0].poll() is not None:
                _end_all(self._held)
                made = subprocess.Popen(
                    [sys.executable, "-m", self.module],
                    stdin=subprocess.PIPE,
                    stdout=subprocess.PIPE,
                    stderr=subprocess.DEVNULL,
                    env={**os.environ, "OPENBLAS_NUM_THREADS": "1", "OMP_NUM_THREADS": "1"},
                )
                self._held.append(made)
            return self._held[0]

    async def asked(self, work: Callable[..., Any], *arguments: Any) -> Any:
        """Do something that asks this process, on the thread that waits for it. Raises: TooManyWait."""
        if self.wait_count >= MOST_WAITING:
            raise TooManyWait
        self.wait_count += 1
        try:
            return await asyncio.get_running_loop().run_in_executor(self.waiting, work, *arguments)
        finally:
            self.wait_count -= 1

    def ask(self, *arguments: Any) -> Any:
        """What the process answers. Raises: TookTooLong, TookTooMuch, and whatever the process raised."""
        with self._turn:
            child, late = self._started(), threading.Event()

            def kill() -> None:
                late.set()
                child.kill()

            timer = threading.Timer(self.seconds, kill)
            timer.daemon = True
            timer.start()
            try:
                assert child.stdin and child.stdout
                send(child.stdin, arguments)
                is_well, answer = receive(child.stdout)
            except (OSError, EOFError):
                with self._lock:  # wholly gone, so that the next file starts a new one
                    if child in self._held:
                        _end_all(self._held)
                raise TookTooLong if late.is_set() else TookTooMuch from None
            finally:
                timer.cancel()
        if is_well:
            return answer
        if isinstance(answer, MemoryError):
            raise TookTooMuch
        raise answer


def _end_all(held: list[subprocess.Popen[bytes]]) -> None:
    while held:
        _end(held.pop())


def _end(child: subprocess.Popen[bytes]) -> None:
    child.kill()
    child.wait()
    for pipe in (child.stdin, child.stdout):
        with suppress(OSError):
            if pipe:
                pipe.close()
