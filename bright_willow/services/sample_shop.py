"""The sample shop beside one's own: a second program on its own port and folder, for this machine alone."""

from __future__ import annotations

import contextlib
import subprocess
import sys
import threading
from pathlib import Path

FOLDER = "sample-shop"
OPENS_WITHIN_S = 60.0
OPEN_AT = "Bright Willow is open at "
CLOSES_WITHIN_S = 10.0


class SampleShop:
    """Opens the sample shop and closes it. A database connection belongs to one process, so it runs in another.

    It ends with the program that opened it: it reads its standard input, which ends with that program.
    """

    def __init__(self, folder: Path) -> None:
        self._folder = folder / FOLDER
        self._program: subprocess.Popen[str] | None = None
        self._address = ""
        self._lock = threading.Lock()

    @property
    def address(self) -> str:
        """Where it is open; empty while it is not."""
        return self._address if self._program is not None and self._program.poll() is None else ""

    def open(self, beside: str) -> str:
        """Open it, or find it open. beside: the address to come back to. Returns its address, empty where it would not
        open within OPENS_WITHIN_S."""
        with self._lock:
            if self.address:
                return self.address
            self._end()  # one that ended by itself still has its pipes
            command = [sys.executable, "-m", "bright_willow.cli", "demo", "--port", "0", "--data", str(self._folder)]
            program = subprocess.Popen(
                [*command, "--beside", beside], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True
            )
            late = threading.Timer(OPENS_WITHIN_S, program.kill)
            late.start()
            try:
                assert program.stdout is not None
                says = next((line for line in program.stdout if OPEN_AT in line), "")
            finally:
                late.cancel()
            self._program = program
            self._address = says.partition(OPEN_AT)[2].split(" ")[0].strip()
            if not self._address:
                self._end()
            return self._address

    def close(self) -> None:
        """Close it; what was tried in it stays in its folder."""
        with self._lock:
            self._end()

    def _end(self) -> None:
        program, self._program, self._address = self._program, None, ""
        if program is None:
            return
        program.terminate()
        try:
            program.wait(CLOSES_WITHIN_S)
        except subprocess.TimeoutExpired:
            program.kill()
        for pipe in (program.stdin, program.stdout):
            if pipe:
                with contextlib.suppress(OSError):
                    pipe.close()
