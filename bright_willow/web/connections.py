"""Connections to a port, counted where they are accepted: so many in all and from one address, and each must ask
for something soon. One port that is full takes nothing from another."""

from __future__ import annotations

import asyncio
import errno
import logging
import socket
import time
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, field
from typing import Any

from starlette.types import ASGIApp, Receive, Scope, Send

FIRST_REQUEST_S = 10.0  # within which a connection must have asked for something
LOOK_EVERY_S = 1.0
ONCE_A_S = 60.0  # errors of accepting connections are logged so often
FILES_OF_ITS_OWN = 128  # database, logs, libraries, readers
log = logging.getLogger("bright_willow")


@dataclass
class _Connection:
    socket: socket.socket
    who: str
    since_s: float
    has_asked: bool = False


@dataclass
class Connections:
    """The open connections of one port. most: of all; most_each: from one address.

    When the port is full, the connection that has waited longest without asking for anything makes room for the next.
    before_it: ports whose silent connections give way to this one's where the program can open no more files.
    Valid: most and most_each 1 or more.
    """

    most: int
    most_each: int
    clock_s: Callable[[], float] = time.monotonic
    before_it: list[Connections] = field(default_factory=list)
    refused: int = 0
    _open: dict[Any, _Connection] = field(default_factory=dict)

    def __len__(self) -> int:
        return len(self._open)

    def admits(self, peer: Any, connection: socket.socket) -> bool:
        """Take a new connection in, where there is room for it or room can be made."""
        who = str(peer[0]) if isinstance(peer, tuple) else ""
        own = [p for p, c in self._open.items() if c.who == who]
        full = own if len(own) >= self.most_each else list(self._open) if len(self._open) >= self.most else []
        if full and not self._make_room(full):
            self.refused += 1
            return False
        self._open[peer] = _Connection(connection, who, self.clock_s())
        return True

    def _make_room(self, among: list[Any]) -> bool:
        """Cut off the connection that has waited longest without asking; none where all have asked."""
        silent = [p for p in among if not self._open[p].has_asked]
        if not silent:
            return False
        self._cut_off(min(silent, key=lambda p: self._open[p].since_s))
        return True

    def _cut_off(self, peer: Any) -> None:
        gone = self._open.pop(peer, None)
        if gone:
            with suppress(OSError):  # whoever reads it finds its end, and closes it
                gone.socket.shutdown(socket.SHUT_RDWR)

    def give_way(self) -> bool:
        """Cut off a silent connection, of this port or of another that gives way to it, where no file can be opened."""
        return any(port._make_room(list(port._open)) for port in (*self.before_it, self))

    def has_asked(self, peer: Any) -> None:
        """A whole request came in over a connection."""
        if found := self._open.get(peer):
            found.has_asked = True

    def has_gone(self, peer: Any, connection: socket.socket) -> None:
        """A connection was closed."""
        found = self._open.get(peer)
        if found and found.socket is connection:
            del self._open[peer]

    def end_silent(self) -> int:
        """Cut off the connections that have asked for nothing in time. Returns how many."""
        late = [p for p, c in self._open.items() if not c.has_asked and self.clock_s() - c.since_s >= FIRST_REQUEST_S]
        for peer in late:
            self._cut_off(peer)
        return len(late)

    async def watch(self) -> None:
        """End silent connections for as long as the program runs."""
        while True:
            await asyncio.sleep(LOOK_EVERY_S)
            self.end_silent()


class CountedSocket(socket.socket):
    """A connection that says when it is closed."""

    __slots__ = ("_told",)

    def tell(self, told: Callable[[socket.socket], None]) -> None:
        """Call this once it is closed."""
        self._told: Callable[[socket.socket], None] | None = told

    def close(self) -> None:
        told, self._told = getattr(self, "_told", None), None
        super().close()
        if told:
            told(self)


class LimitedListener(socket.socket):
    """A listening socket that accepts no more than its connections have room for."""

    __slots__ = ("connections",)
    connections: Connections

    def accept(self) -> tuple[socket.socket, Any]:
        """The next connection there is room for; those before it that there is none for are closed.

        Raises: BlockingIOError when there is none.
        """
        while True:
            try:
                handle, peer = self._accept()  # type: ignore[attr-defined]
            except OSError as error:
                if error.errno in (errno.EMFILE, errno.ENFILE) and self.connections.give_way():
                    raise BlockingIOError from None  # there is room once what was cut off is closed: asked again then
                raise
            made = CountedSocket(self.family, self.type, self.proto, fileno=handle)
            if self.connections.admits(peer, made):
                made.tell(lambda closed, peer=peer: self.connections.has_gone(peer, closed))  # type: ignore[misc]
                if self.gettimeout() == 0.0:
                    made.setblocking(False)
                return made, peer
            made.close()


class ConnectionActivity:
    """Tells the connections of a port which of them have asked for something. Pure ASGI."""

    def __init__(self, app: ASGIApp, connections: Connections) -> None:
        self.app, self.connections = app, connections

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] == "http" and scope.get("client"):
            self.connections.has_asked(tuple(scope["client"]))
        await self.app(scope, receive, send)


def room_for(share: float) -> int:
    """How many connections a port may hold, by a share of the files this program may open."""
    try:
        import resource

        soft, hard = resource.getrlimit(resource.RLIMIT_NOFILE)
        if soft < hard:
            with suppress(OSError, ValueError):
                resource.setrlimit(resource.RLIMIT_NOFILE, (min(hard, 8192), hard))
        soft = resource.getrlimit(resource.RLIMIT_NOFILE)[0]
    except ImportError:
        soft = 1024
    return max(16, min(1_000, int((soft - FILES_OF_ITS_OWN) * share)))


class AcceptErrors:
    """Says errors of accepting connections once a minute; whatever else goes wrong in the loop is said as ever."""

    def __init__(self, clock_s: Callable[[], float] = time.monotonic) -> None:
        self.clock_s, self.count, self._said_s = clock_s, 0, -ONCE_A_S

    def __call__(self, loop: asyncio.AbstractEventLoop, context: dict[str, Any]) -> None:
        if not self.is_of_accepting(context):
            loop.default_exception_handler(context)
            return
        self.count += 1
        if self.clock_s() - self._said_s >= ONCE_A_S:
            log.warning("connections could not be accepted (%d so far): %s", self.count, context.get("exception"))
            self._said_s = self.clock_s()

    @staticmethod
    def is_of_accepting(context: dict[str, Any]) -> bool:
        """Whether an error is of accepting a connection, or of one that went before it was whole."""
        text = str(context.get("message", ""))
        return "accept" in text or "SSL handshake" in text or "SSL protocol" in text
