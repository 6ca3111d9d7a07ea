"""A program that has read everything in and waits: each time it is asked it forks into `bright-willow` with some
arguments. For tests that start the program again and again; what they start, kill and start anew is the program whole.
"""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
import time
import traceback
from contextlib import suppress
from pathlib import Path
from tempfile import TemporaryDirectory, mkdtemp
from typing import IO


def wait() -> None:
    """Read requests, one JSON object a line: args, files by their names for what it prints, for its errors and for its
    exit code. Answers with the pid."""
    import scipy.optimize  # read in later by the program, on a thread of its own
    import scipy.special

    import bright_willow.web.app
    from bright_willow.cli import main

    _ = scipy, bright_willow
    signal.signal(signal.SIGCHLD, signal.SIG_IGN)  # what has ended is not waited for
    print("ready", flush=True)
    for line in sys.stdin:
        asked = json.loads(line)
        pid = os.fork()
        if pid:
            print(pid, flush=True)
            continue
        signal.signal(signal.SIGCHLD, signal.SIG_DFL)
        out = os.open(asked["out"], os.O_WRONLY)
        os.dup2(out, 1)
        os.dup2(os.open(asked["err"], os.O_WRONLY) if asked["err"] else out, 2)
        os.dup2(os.open(os.devnull, os.O_RDONLY), 0)
        sys.stdin, sys.stdout, sys.stderr = open(0), open(1, "w", buffering=1), open(2, "w", buffering=1)  # noqa: SIM115
        sys.argv = ["bright-willow", *asked["args"]]
        code = 0
        try:
            main()
        except SystemExit as ended:
            code = ended.code if isinstance(ended.code, int) else int(ended.code is not None)
        except BaseException:
            traceback.print_exc()
            code = 1
        finally:
            sys.stdout.flush()
            sys.stderr.flush()
            if asked["code"]:
                Path(asked["code"]).write_text(str(code))
            os._exit(code)


class Forked:
    """One such program, with what of subprocess.Popen is needed: pid, stdout, poll, wait, kill."""

    _waiting: subprocess.Popen[str] | None = None

    def __init__(self, args: list[str]) -> None:
        pipe = Path(mkdtemp(prefix="bright-willow-")) / "said"
        os.mkfifo(pipe)
        self.pid = self._fork(args, out=pipe)
        self.stdout: IO[str] = pipe.open()
        pipe.unlink()
        pipe.parent.rmdir()

    @classmethod
    def run(cls, args: list[str], seconds: float) -> subprocess.CompletedProcess[str]:
        """Run a command to its end. Raises: subprocess.TimeoutExpired."""
        with TemporaryDirectory(prefix="bright-willow-") as folder:
            out, err, code = (Path(folder) / name for name in ("out", "err", "code"))
            out.touch()
            err.touch()
            made = cls.__new__(cls)
            made.pid = cls._fork(args, out=out, err=err, code=code)
            try:
                made.wait(seconds)
            except subprocess.TimeoutExpired:
                made.kill()
                raise
            return subprocess.CompletedProcess(args, int(code.read_text()), out.read_text(), err.read_text())

    @classmethod
    def _fork(cls, args: list[str], *, out: Path, err: Path | None = None, code: Path | None = None) -> int:
        waiting = cls._waiting_one()
        assert waiting.stdin and waiting.stdout
        asked = {"args": args, "out": str(out), "err": str(err or ""), "code": str(code or "")}
        waiting.stdin.write(json.dumps(asked) + "\n")
        waiting.stdin.flush()
        return int(waiting.stdout.readline())

    @classmethod
    def _waiting_one(cls) -> subprocess.Popen[str]:
        if Forked._waiting is None or Forked._waiting.poll() is not None:
            command = [sys.executable, "-c", "from tools.ready import wait; wait()"]
            made = subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True)
            assert made.stdout
            made.stdout.readline()
            Forked._waiting = made
        return Forked._waiting

    def poll(self) -> int | None:
        """None while it is there."""
        try:
            os.kill(self.pid, 0)
        except ProcessLookupError:
            return 0
        return None

    def wait(self, seconds: float = 10) -> None:
        """Raises: subprocess.TimeoutExpired."""
        end = time.monotonic() + seconds
        while self.poll() is None:
            if time.monotonic() > end:
                raise subprocess.TimeoutExpired("bright-willow", seconds)
            time.sleep(0.01)

    def kill(self) -> None:
        with suppress(ProcessLookupError):
            os.kill(self.pid, signal.SIGKILL)
