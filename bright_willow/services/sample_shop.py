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

    @property
    def is_opening(self) -> bool:
        """Whether it was begun and has not said yet where it is open."""
        return self._program is not None and self._program.poll() is None and not self._address

    def open(self, beside: str) -> None:
        """Begin to open it, unless it is open or opening. beside: the address to come back to.

        It says where it is open some seconds later; where it does not within OPENS_WITHIN_S it is ended."""
        with self._lock:
            if self.address or self.is_opening:
                return
            self._end()  # one that ended by itself still has its pipes
            command = [sys.executable, "-m", "bright_willow.cli", "demo", "--port", "0", "--data", str(self._folder)]
            program = subprocess.Popen(
                [*command, "--beside", beside], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True
            )
            self._program = program
            threading.Thread(target=self._listen, args=(program,), daemon=True).start()

    def _listen(self, program: subprocess.Popen[str]) -> None:
        """Wait until a program says where it is open."""
        late = threading.Timer(OPENS_WITHIN_S, program.kill)
        late.daemon = True
        late.start()
        try:
            assert program.stdout is not None
            message = next((line for line in program.stdout if OPEN_AT in line), "")
        except (OSError, ValueError):  # closed meanwhile
            return
        finally:
            late.cancel()
        if program is self._program:
            self._address = message.partition(OPEN_AT)[2].split(" ")[0].strip()

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
