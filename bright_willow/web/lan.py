"""The shop's network: a passphrase, a certificate made here, sessions that end. Off unless asked for."""

from __future__ import annotations

import asyncio
import datetime as dt
import hashlib
import ipaddress
import secrets
import socket
import ssl
import threading
import time
from collections import deque
from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any
from urllib.parse import parse_qs, urlsplit
from zoneinfo import ZoneInfo

from itsdangerous import BadSignature, URLSafeTimedSerializer
from markupsafe import Markup
from starlette.datastructures import Headers
from starlette.requests import Request
from starlette.responses import HTMLResponse, JSONResponse, PlainTextResponse, RedirectResponse, Response
from starlette.types import ASGIApp, Receive, Scope, Send

from ..store.base import now as utc_now
from ..store.book import Store
from ..store.probes import Guest
from ..store.records import NotKept
from .guard import HEADERS, host_name
from .render import render

PASSPHRASE, SECRET = "lan passphrase", "lan secret"
SHORTEST, LONGEST = 8, 200
LASTS_S = 12 * 3600  # a session
COOKIE = "willow"
TRIES, TRIES_IN_ALL, TRIES_WITHIN_S = 5, 40, 300.0
SEEN_EVERY_S = 60.0
OPEN_PATHS = ("/join", "/api/readings", "/api/health")
OPEN_UNDER = ("/static/",)
NOT_FOR_GUESTS = ("/shop/restore", "/shop/backup", "/bench/guests", "/raw")
CA, CA_KEY, CERT = "lan-ca.pem", "lan-ca.key", "lan-cert.pem"
LONGEST_NAME = 40


def too_weak(passphrase: str) -> str:
    """Why a passphrase will not do, in a sentence; empty where it does."""
    if len(passphrase.strip()) < SHORTEST:
        return f"At least {SHORTEST} letters, please: four plain words are good."
    if len(passphrase) > LONGEST or len(set(passphrase)) < 4:
        return "A passphrase of several different letters, please, and no more than 200."
    return ""


def set_passphrase(store: Store, passphrase: str) -> None:
    """Keep what a passphrase hashes to; whoever has joined must join anew. Raises: NotKept."""
    from argon2 import PasswordHasher

    store.note(PASSPHRASE, PasswordHasher().hash(passphrase.strip()))
    store.note(SECRET, secrets.token_hex(32))


def has_passphrase(store: Store) -> bool:
    """Whether one was ever chosen."""
    return bool(store.fact(PASSPHRASE))


def own_address() -> str:
    """This machine's address on its network, as far as it can be told without asking anybody."""
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as probe:
        try:
            probe.connect(("10.255.255.255", 1))  # nothing is sent: it only chooses a way
            return str(probe.getsockname()[0])
        except OSError:
            return "127.0.0.1"


def certificate(folder: Path, names: Sequence[str]) -> tuple[Path, str]:
    """A certificate for some addresses, signed by this shop's own authority, both made when first needed.

    Returns its file, with its key, and the fingerprint to compare on the tablet. Raises: OSError.
    """
    import trustme

    ca_file, key_file, cert_file = folder / CA, folder / CA_KEY, folder / CERT
    if ca_file.is_file() and key_file.is_file():
        ca = trustme.CA.from_pem(ca_file.read_bytes(), key_file.read_bytes())
    else:
        ca = trustme.CA(organization_name="Bright Willow", organization_unit_name="this shop's own")
        ca.cert_pem.write_to_path(str(ca_file))
        _write_closed(key_file, ca.private_key_pem.bytes())
    made = ca.issue_cert(*names)
    _write_closed(cert_file, made.private_key_and_cert_chain_pem.bytes())
    first = made.cert_chain_pems[0].bytes().decode()
    digest = hashlib.sha256(ssl.PEM_cert_to_DER_cert(first)).hexdigest().upper()
    return cert_file, ":".join(digest[i : i + 2] for i in range(0, len(digest), 2))


def _write_closed(path: Path, body: bytes) -> None:
    path.touch(mode=0o600)
    path.chmod(0o600)
    path.write_bytes(body)


@dataclass
class Tries:
    """Attempts at the passphrase: only so many from one address, and from all, within a time."""

    _when: dict[str, deque[float]] = field(default_factory=dict)
    _lock: threading.Lock = field(default_factory=threading.Lock)

    def wait_s(self, who: str, now_s: float) -> float:
        """How long somebody must wait before the next attempt."""
        with self._lock:
            return max(self._left(who, TRIES, now_s), self._left("", TRIES_IN_ALL, now_s))

    def _left(self, who: str, most: int, now_s: float) -> float:
        own = self._when.get(who, deque())
        while own and own[0] < now_s - TRIES_WITHIN_S:
            own.popleft()
        return own[-most] + TRIES_WITHIN_S - now_s if len(own) >= most else 0.0

    def failed(self, who: str, now_s: float) -> None:
        with self._lock:
            if len(self._when) > 1_000:
                self._when = {"": self._when.get("", deque())}
            for name in (who, ""):
                self._when.setdefault(name, deque(maxlen=TRIES_IN_ALL)).append(now_s)

    def worked(self, who: str) -> None:
        """The last attempt of somebody was right: it does not count."""
        with self._lock:
            for name in (who, ""):
                if self._when.get(name):
                    self._when[name].pop()


class Lan:
    """Who may come in over the network: what the program's pages and the gate share."""

    def __init__(self, store: Store, address: str, port: int, fingerprint: str) -> None:
        self.store, self.address, self.port, self.fingerprint = store, address, port, fingerprint
        self.hosts = frozenset({address, "localhost"})
        self.tries = Tries()
        with store.connected():
            self._secret = store.fact(SECRET)
        self._guests: dict[str, tuple[float, Guest]] = {}

    @property
    def url(self) -> str:
        name = f"[{self.address}]" if _is_v6(self.address) else self.address
        return f"https://{name}:{self.port}/"

    def code(self) -> Markup:
        """The address as a code to photograph."""
        import segno

        made = segno.make(self.url, micro=False, error="m")
        return Markup(made.svg_inline(scale=6, border=2, svgclass=None, lineclass=None, omitsize=True))

    def view(self, guests: Sequence[Guest], zone: ZoneInfo) -> dict[str, Any]:
        """What the page Bench shows of it."""

        def at(when: dt.datetime) -> str:
            return f"{when.replace(tzinfo=dt.UTC).astimezone(zone):%a %H:%M}"

        joined = [
            {"id": g.id, "name": g.name, "at": at(g.at), "seen": at(g.seen)} for g in guests if not self._is_over(g)
        ]
        return {"url": self.url, "code": self.code(), "fingerprint": self.fingerprint, "joined": joined}

    @staticmethod
    def _is_over(guest: Guest) -> bool:
        return guest.is_out or (utc_now() - guest.at).total_seconds() > LASTS_S

    # -- joining ---------------------------------------------------------------------------------------------------
    def signer(self) -> URLSafeTimedSerializer:
        return URLSafeTimedSerializer(self._secret, salt="tablet")

    def join(self, passphrase: str, name: str, who: str) -> tuple[str, str]:
        """A signed session, or why not. One attempt."""
        from argon2 import PasswordHasher
        from argon2.exceptions import Argon2Error, InvalidHashError

        now_s = time.monotonic()
        if (left := self.tries.wait_s(who, now_s)) > 0:
            return "", f"Too many attempts. Wait {left / 60:.0f} min {left % 60:.0f} s, then try again."
        self.tries.failed(who, now_s)  # counted before it is looked at: many at once are many
        with self.store.connected():
            known = self.store.fact(PASSPHRASE)
            try:
                PasswordHasher().verify(known, passphrase.strip())
            except (Argon2Error, InvalidHashError):
                return "", "That is not the passphrase."
            token = self.store.let_in(name.strip()[:LONGEST_NAME] or "tablet")
        self.tries.worked(who)
        return self.signer().dumps(token), ""

    def guest(self, cookie: str) -> Guest | None:
        """Who a cookie is of, while the session lasts and nobody has put them out."""
        try:
            token = self.signer().loads(cookie, max_age=LASTS_S)
        except BadSignature:
            return None
        if not isinstance(token, str):
            return None
        with self.store.connected():
            guest = self.store.guest(token)
            if guest is None or guest.is_out:
                return None
            if (utc_now() - guest.seen).total_seconds() > SEEN_EVERY_S:
                with suppress(NotKept):
                    self.store.guest_seen(guest.id)
        return guest


def _is_v6(address: str) -> bool:
    try:
        return ipaddress.ip_address(address).version == 6
    except ValueError:
        return False


class Gate:
    """Stands before the whole application for whoever comes over the network: in only with a session."""

    def __init__(self, app: ASGIApp, lan: Lan, work: Any) -> None:
        self.app, self.lan, self.work = app, lan, work

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] == "lifespan":
            return
        if scope["type"] != "http":
            raise RuntimeError("only pages come over the network")
        scope["hosts"] = self.lan.hosts
        answer = await self._answer(scope, receive)
        await (answer or self.app)(scope, receive, send)

    async def _answer(self, scope: Scope, receive: Receive) -> Response | None:
        request, path = Request(scope, receive), scope["path"]
        if not _is_plain(path):
            return PlainTextResponse("There is no such page here.", 404)
        headers = Headers(scope=scope)
        if host_name(headers.get("host", "")) not in self.lan.hosts:
            return PlainTextResponse("This program answers only under its own address.", 400)
        if path == "/join" and scope["method"] in ("GET", "HEAD", "POST"):
            return await self._join(request)
        if path in OPEN_PATHS or path.startswith(OPEN_UNDER):
            return None
        loop = asyncio.get_running_loop()
        guest = await loop.run_in_executor(self.work, self.lan.guest, request.cookies.get(COOKIE, ""))
        if guest is None:
            if "text/html" in headers.get("accept", "") and scope["method"] == "GET":
                return RedirectResponse("/join", 303)
            says = "Join first: the page is at /join."
            return JSONResponse({"faults": [{"field": "", "says": says}]}, 401)
        if path.startswith(NOT_FOR_GUESTS):
            return PlainTextResponse("That is done on the shop's own machine.", 403)
        scope["guest"] = guest.name
        return None

    async def _join(self, request: Request) -> Response:
        if request.method != "POST":
            return _join_page("", "")
        if not _same_origin(request.headers):
            return PlainTextResponse("Join from this program's own page.", 403)
        body = b""
        async for some in request.stream():
            body += some
            if len(body) > 4_000:
                return _join_page("", "That is too long.", 413)
        typed = {k: v[-1] for k, v in parse_qs(body.decode("utf-8", "replace"), max_num_fields=10).items()}
        who = request.client.host if request.client else ""
        work = self.lan.join, typed.get("passphrase", ""), typed.get("name", ""), who
        cookie, fault = await asyncio.get_running_loop().run_in_executor(self.work, *work)
        if fault:
            return _join_page(typed.get("name", ""), fault, 429 if "attempts" in fault else 422)
        answer = RedirectResponse("/bench", 303)
        answer.set_cookie(COOKIE, cookie, max_age=LASTS_S, secure=True, httponly=True, samesite="strict", path="/")
        return answer


def _is_plain(path: str) -> bool:
    """A path as the program's own pages have it: nothing doubled, nothing that climbs, no odd signs."""
    return path.isprintable() and "\\" not in path and "//" not in path and "/." not in path


def _same_origin(headers: Any) -> bool:
    origin = headers.get("origin")
    try:
        return origin is None or urlsplit(origin).netloc.lower() == headers.get("host", "").lower()
    except ValueError:
        return False


def _join_page(name: str, fault: str, status: int = 200) -> Response:
    body = render("join.html", name=name, fault=fault, unit="mm", here="")
    return HTMLResponse(body, status, headers={**HEADERS, **({"retry-after": "60"} if status == 429 else {})})
