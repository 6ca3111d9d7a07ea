"""The process that reads outline files: kept warm, watched, and killed when it takes too long or too much."""

from __future__ import annotations

import json
import os
import subprocess
import sys
import threading
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from typing import Any

from ..core.ground.errors import OutOfRange
from ..drawing.outline_files import FIELD, Found
from ..drawing.reading import SECONDS, TOO_MUCH, outline_of

TOO_LONG = (
    f"Reading this file took more than {SECONDS} seconds, so it was given up. Save only the outline, and try again."
)
WARM_AFTER_S = 3.0


class Reader:
    """One file after another. Everything that waits for it waits on a thread of its own."""

    def __init__(self, seconds: float = SECONDS) -> None:
        self.seconds = seconds
        self.waiting = ThreadPoolExecutor(1, "files")
        self._child: subprocess.Popen[bytes] | None = None
        self._lock = threading.Lock()
        self._timer: threading.Timer | None = None

    def warm(self) -> None:
        """Start the process soon, so that the first file does not wait for it."""
        self._timer = threading.Timer(WARM_AFTER_S, self._started)
        self._timer.daemon = True
        self._timer.start()

    def stop(self) -> None:
        """End the process and whatever it is at."""
        if self._timer:
            self._timer.cancel()
        self.waiting.shutdown(wait=False, cancel_futures=True)
        with self._lock:
            if self._child:
                _end(self._child)
                self._child = None

    def _started(self) -> subprocess.Popen[bytes]:
        with self._lock:
            if self._child is None or self._child.poll() is not None:
                if self._child:
                    _end(self._child)
                self._child = subprocess.Popen(
                    [sys.executable, "-m", "bright_willow.drawing.reading"],
                    stdin=subprocess.PIPE,
                    stdout=subprocess.PIPE,
                    stderr=subprocess.DEVNULL,
                    env={**os.environ, "OPENBLAS_NUM_THREADS": "1", "OMP_NUM_THREADS": "1"},
                )
            return self._child

    def read(self, raw: bytes, name: str, which: int) -> tuple[Found, int, str]:
        """The outline asked for, how many there are (longest first) and the unit the file states.

        Raises: OutOfRange with a sentence, also when reading takes too long or too much.
        """
        child = self._started()
        late = threading.Event()

        def kill() -> None:
            late.set()
            child.kill()

        timer = threading.Timer(self.seconds, kill)
        timer.daemon = True
        timer.start()
        try:
            answer = self._asked(child, raw, name, which)
        finally:
            timer.cancel()
        if answer is None:
            with self._lock:  # wholly gone, so that the next file starts a new one
                _end(child)
                if self._child is child:
                    self._child = None
            raise OutOfRange(FIELD, TOO_LONG if late.is_set() else TOO_MUCH)
        return outline_of(answer)

    @staticmethod
    def _asked(child: subprocess.Popen[bytes], raw: bytes, name: str, which: int) -> dict[str, Any] | None:
        """The answer; None when the process died over it."""
        assert child.stdin and child.stdout
        try:
            request = {"name": name, "which": which, "size": len(raw)}
            child.stdin.write(json.dumps(request).encode() + b"\n" + raw)
            child.stdin.flush()
            line = child.stdout.readline()
            return json.loads(line) if line else None
        except (OSError, ValueError):
            return None


def _end(child: subprocess.Popen[bytes]) -> None:
    child.kill()
    child.wait()
    for pipe in (child.stdin, child.stdout):
        with suppress(OSError):
            if pipe:
                pipe.close()
