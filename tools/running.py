"""The application in a thread, or as a program of its own, on a free loopback port: for pictures and tests."""

from __future__ import annotations

import datetime as dt
import http.client
import os
import select
import signal
import socket
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from urllib.parse import urlsplit

import uvicorn

from bright_willow.store.store import Store
from bright_willow.web.app import create_app
from tools.ready import Forked

PATIENCE_S = 240.0  # for what a busy machine may take; only what hangs is waited for so long


@contextmanager
def running_app(store: Store, clock: Callable[[], dt.datetime] | None = None) -> Iterator[str]:
    """Yields the address; stops the server at the end."""
    app = create_app(store, clock)
    server = uvicorn.Server(
        uvicorn.Config(app, host="127.0.0.1", port=0, log_level="warning", timeout_graceful_shutdown=2)
    )
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    deadline = time.monotonic() + PATIENCE_S
    while not server.started:
        if time.monotonic() > deadline:
            raise RuntimeError("the server did not start")
        time.sleep(0.02)
    port = server.servers[0].sockets[0].getsockname()[1]
    try:
        yield f"http://127.0.0.1:{port}"
    finally:
        app.state.hub.is_closing = True
        server.should_exit = True
        thread.join(10)


class Program:
    """`bright-willow serve` as its user starts it: it can be stopped, killed and started again on the same port.

    often: it is started so often that it is forked from one that has read everything in.
    """

    def __init__(
        self, folder: Path, what: str = "serve", port: int = 0, more: tuple[str, ...] = (), *, often: bool = False
    ) -> None:
        self.folder, self.what, self.port, self.more, self.often = folder, what, port, more, often
        self.address = ""
        self._process: subprocess.Popen[str] | Forked | None = None

    def start(self, seconds: float = PATIENCE_S) -> Program:
        args = [self.what, "--port", str(self.port), "--data", str(self.folder), *self.more]
        if self.often:
            self._process = Forked(args)
        else:
            command = [sys.executable, "-c", "from bright_willow.cli import main; main()", *args]
            self._process = subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True)
        assert self._process.stdout
        if not select.select([self._process.stdout], [], [], seconds)[0]:
            raise RuntimeError("the program did not start")
        said = self._process.stdout.readline()
        if not said.startswith("Bright Willow is open at "):
            self.end()
            raise RuntimeError(said)
        self.address = said.split()[5].rstrip("/")
        self.port = urlsplit(self.address).port or 0
        deadline = time.monotonic() + seconds
        while time.monotonic() < deadline:  # it says where it will be open a moment before it listens
            with suppress(ConnectionRefusedError), socket.create_connection(("127.0.0.1", self.port)):
                return self
            time.sleep(0.02)
        raise RuntimeError("the program does not listen")

    def said_until(self, words: str) -> str:
        """The line that begins with some words, of those it says next."""
        assert self._process and self._process.stdout
        for _ in range(20):
            line = self._process.stdout.readline()
            if line.startswith(words):
                return line
        raise RuntimeError(f"it never said {words}")

    def __enter__(self) -> Program:
        return self

    def __exit__(self, *_: object) -> None:
        self.end()

    @property
    def pid(self) -> int:
        assert self._process
        return self._process.pid

    def end(self, how: signal.Signals = signal.SIGINT, seconds: float = PATIENCE_S) -> float:
        """End it; returns after how many seconds it was gone."""
        if self._process is None:
            return 0.0
        start = time.monotonic()
        with suppress(ProcessLookupError):  # it may be gone before it is told to
            if self._process.poll() is None:
                os.kill(self._process.pid, how)
        try:
            self._process.wait(seconds)
        finally:
            if self._process.poll() is None:
                self._process.kill()
                self._process.wait()
            if self._process.stdout:
                self._process.stdout.close()
            self._process = None
        return time.monotonic() - start

    def ask(
        self, method: str, path: str, body: bytes = b"", seconds: float = PATIENCE_S, **headers: str
    ) -> tuple[int, bytes]:
        """One question on a connection of its own: the status, and the answer's body."""
        connection = http.client.HTTPConnection("127.0.0.1", self.port, timeout=seconds)
        try:
            form = {"content-type": "application/x-www-form-urlencoded"} if body else {}
            connection.request(method, path, body, {**form, **{k.replace("_", "-"): v for k, v in headers.items()}})
            answer = connection.getresponse()
            return answer.status, answer.read()
        finally:
            connection.close()


def run_command(*words: object) -> subprocess.CompletedProcess[str]:
    """Run `bright-willow` with some words to its end, forked from a program that has read everything in."""
    return Forked.run([str(word) for word in words], PATIENCE_S)
