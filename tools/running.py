"""The application in a thread on a free loopback port, for pictures, measurements and browser tests."""

from __future__ import annotations

import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager

import uvicorn

from bright_willow.store.book import Store
from bright_willow.web.app import create_app


@contextmanager
def running_app(store: Store) -> Iterator[str]:
    """Yields the address; stops the server at the end."""
    server = uvicorn.Server(uvicorn.Config(create_app(store), host="127.0.0.1", port=0, log_level="warning"))
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    deadline = time.monotonic() + 20
    while not server.started:
        if time.monotonic() > deadline:
            raise RuntimeError("the server did not start")
        time.sleep(0.02)
    port = server.servers[0].sockets[0].getsockname()[1]
    try:
        yield f"http://127.0.0.1:{port}"
    finally:
        server.should_exit = True
        thread.join(10)
