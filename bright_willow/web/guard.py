"""What stands before every request: host and origin checks, a limit on size, and the headers of every answer."""

from __future__ import annotations

import logging
import re
import secrets
from collections.abc import Callable
from urllib.parse import urlsplit

from starlette.datastructures import Headers, MutableHeaders
from starlette.responses import PlainTextResponse
from starlette.types import ASGIApp, Message, Receive, Scope, Send

log = logging.getLogger("bright_willow")
POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; font-src 'self'; "
    "connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"
)
HEADERS = {
    "content-security-policy": POLICY,
    "x-content-type-options": "nosniff",
    "referrer-policy": "same-origin",
    "cross-origin-opener-policy": "same-origin",
    "cross-origin-resource-policy": "same-origin",
    "permissions-policy": "camera=(), geolocation=(), microphone=(), payment=(), usb=()",
    "cache-control": "no-store",  # a page shows what stands now: Back must not bring up what stood before
}
MOST_BYTES: tuple[tuple[str, int], ...] = (
    (r"/shop/restore", 4_000_000_000),
    (r"/(jobs|book)/bring", 62_000_000),
    (r".*/photo", 21_000_000),
    (r"/jobs/\d+/outline", 4_000_000),
    (r"/api/plan", 2_000_000),
    (r"/runs/\d+/events", 2_000_000),
    (r"/api/readings", 100_000),
    (r".*", 1_000_000),
)
"""How many bytes a request may bring, by its path: the first that fits."""
LOCAL = frozenset({"127.0.0.1", "localhost", "::1"})


class Guard:
    """Pure ASGI, so that it costs next to nothing."""

    def __init__(
        self, app: ASGIApp, hosts: frozenset[str] = LOCAL, after_change: Callable[[], None] = lambda: None
    ) -> None:
        self.app = app
        self.hosts = hosts
        self.after_change = after_change

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        refusal = self._refusal(scope, headers)
        if refusal is not None:
            await refusal(scope, receive, send)
            return
        started, over, taken = False, False, 0
        most = _most(scope)

        async def counted() -> Message:
            nonlocal taken, over
            message = await receive()
            taken += len(message.get("body", b""))
            if taken > most:
                over = True
                return {"type": "http.disconnect"}
            return message

        async def dressed(message: Message) -> None:
            nonlocal started
            if over and not started:
                return  # whatever was made of half a body is not said
            if message["type"] == "http.response.start":
                started = True
                out = MutableHeaders(scope=message)
                for name, value in HEADERS.items():
                    out.setdefault(name, value)
            await send(message)

        try:
            await self.app(scope, counted, dressed)
            if over and not started:
                await _too_much()(scope, receive, send)
            if scope["method"] == "POST":
                self.after_change()
        except Exception:
            if over and not started:
                await _too_much()(scope, receive, send)
                return
            number = secrets.token_hex(4)
            log.exception("surprise %s at %s %s", number, scope["method"], scope["path"])
            if started:
                raise
            text = f"Something went wrong in the program. Reference {number}: see the log in the data folder."
            await PlainTextResponse(text, 500)(scope, receive, send)

    def _refusal(self, scope: Scope, headers: Headers) -> PlainTextResponse | None:
        host = host_name(headers.get("host", ""))
        if host not in scope.get("hosts", self.hosts):
            return PlainTextResponse("This program answers only under its own address.", 400)
        if scope["method"] not in ("GET", "HEAD", "OPTIONS"):
            origin = headers.get("origin")
            if origin is not None and _netloc(origin) != headers.get("host", "").lower():
                return PlainTextResponse("Changes are accepted only from this program's own pages.", 403)
            if headers.get("sec-fetch-site", "same-origin") not in ("same-origin", "none"):
                return PlainTextResponse("Changes are accepted only from this program's own pages.", 403)
        length = headers.get("content-length", "0")
        if not length.isascii() or not length.isdigit() or len(length) > 12 or int(length) > _most(scope):
            return _too_much()
        return None


def _most(scope: Scope) -> int:
    """How many bytes a request may bring."""
    return next(most for path, most in MOST_BYTES if re.fullmatch(path, scope["path"], re.DOTALL))


def _netloc(origin: str) -> str:
    try:
        return urlsplit(origin).netloc.lower()
    except ValueError:
        return ""


def _too_much() -> PlainTextResponse:
    return PlainTextResponse("That is more than this program accepts at once.", 413)


def host_name(host: str) -> str:
    """The name in a Host header, without its port; empty where it is none."""
    host = host.lower()
    if host.startswith("["):
        name, closed, _ = host[1:].partition("]")
        return name if closed else ""
    return host.rpartition(":")[0] if ":" in host else host
