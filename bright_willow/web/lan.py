"""The shop's network: a passphrase, a certificate made here, sessions that end. Off unless asked for."""

from __future__ import annotations

import asyncio
import datetime as dt
import hashlib
import ipaddress
import socket
import ssl
import threading
import time
from collections import deque
from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass, field
from functools import partial
from pathlib import Path
from typing import Any
from urllib.parse import parse_qs, urlsplit
from zoneinfo import ZoneInfo

from itsdangerous import BadSignature, URLSafeTimedSerializer
from markupsafe import Markup
from starlette.datastructures import Headers
from starlette.requests import ClientDisconnect, Request
from starlette.responses import HTMLResponse, JSONResponse, PlainTextResponse, RedirectResponse, Response
from starlette.types import ASGIApp, Receive, Scope, Send

from ..calendar.time_format import format_time
from ..core.common.units import Unit
from ..store.database import now as utc_now
from ..store.network_access import NetworkAccess, Tablet
from ..store.records import NotKept
from .addresses import route_of
from .forms.fields import Field
from .forms.form_spec import FormSpec
from .guard import HEADERS, host_name
from .render import render
from .tablet_rights import open_to_tablets

SHORTEST, LONGEST = 8, 200
LASTS_S = 12 * 3600  # a session
CLOCK_MAY_DIFFER_S = 300.0  # by which a clock may be set back without ending sessions
COOKIE = "willow"
TRIES, TRIES_IN_ALL, TRIES_WITHIN_S = 5, 40, 300.0
LONGEST_WAIT_S, SLOWED_S = 60.0, 1.0
MOST_JOINING, JOIN_WITHIN_S = 50, 15.0  # attempts that wait their turn; how long one may take to arrive
SEEN_EVERY_S = 60.0
OPEN_PATHS = ("/join", "/api/readings", "/api/health")
OPEN_UNDER = ("/static/",)
CA, CA_KEY, CERT = "lan-ca.pem", "lan-ca.key", "lan-cert.pem"
LONGEST_NAME = 40


def too_weak(passphrase: str) -> str:
    """Why a passphrase will not do, in a sentence; empty where it does."""
    if len(passphrase.strip()) < SHORTEST:
        return f"At least {SHORTEST} letters, please: four plain words are good."
    if len(passphrase) > LONGEST or len(set(passphrase)) < 4:
        return "Use several different letters, 200 at most."
    return ""


def set_passphrase(access: NetworkAccess, passphrase: str) -> None:
    """Keep what a passphrase hashes to; whoever has joined must join again. Raises: NotKept."""
    from argon2 import PasswordHasher

    access.choose_passphrase(PasswordHasher().hash(passphrase.strip()))


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
        _write_closed(ca_file, ca.cert_pem.bytes())
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
class LoginAttempts:
    """Wrong passphrases: who tries on is made to wait, longer each time; where many come in from everywhere, each try
    is slowed down. Nobody is locked out by what others try."""

    _when: dict[str, deque[float]] = field(default_factory=dict)
    _lock: threading.Lock = field(default_factory=threading.Lock)

    def wait_s(self, who: str, now_s: float) -> float:
        """How long somebody must wait before the next attempt: nothing after a few wrong ones, then twice as long each
        time, a minute at most."""
        with self._lock:
            own = self._of(who, now_s)
            if len(own) < TRIES:
                return 0.0
            pause = min(LONGEST_WAIT_S, 2.0 ** (len(own) - TRIES + 1))
            return max(0.0, own[-1] + pause - now_s)

    def pause_s(self, now_s: float) -> float:
        """How much every attempt is slowed down now, for all alike."""
        with self._lock:
            return SLOWED_S if len(self._of("", now_s)) >= TRIES_IN_ALL else 0.0

    def _of(self, who: str, now_s: float) -> deque[float]:
        own = self._when.get(who, deque())
        while own and own[0] < now_s - TRIES_WITHIN_S:
            own.popleft()
        return own

    def failed(self, who: str, now_s: float) -> None:
        with self._lock:
            if len(self._when) > 1_000:
                self._when = {"": self._when.get("", deque())}
            for name in (who, ""):
                self._when.setdefault(name, deque(maxlen=TRIES_IN_ALL)).append(now_s)

    def worked(self, who: str) -> None:
        """The last attempt of somebody was right: none of theirs counts any more."""
        with self._lock:
            own = self._when.pop(who, deque())
            whole = self._when.get("", deque())
            for when in own:
                with suppress(ValueError):
                    whole.remove(when)


class Lan:
    """Who may come in over the network: what the program's pages and the gate share."""

    def __init__(self, access: NetworkAccess, address: str, port: int, fingerprint: str) -> None:
        self.access, self.address, self.port, self.fingerprint = access, address, port, fingerprint
        self.hosts = frozenset({address, "localhost"})
        self.tries = LoginAttempts()

    @property
    def url(self) -> str:
        name = f"[{self.address}]" if _is_v6(self.address) else self.address
        return f"https://{name}:{self.port}/"

    def code(self) -> Markup:
        """The address as a code to photograph."""
        import segno

        made = segno.make(self.url, micro=False, error="m")
        return Markup(made.svg_inline(scale=6, border=2, svgclass=None, lineclass=None, omitsize=True))

    def view(self, zone: ZoneInfo, unit: Unit) -> dict[str, Any]:
        """What the page Bench shows of it."""

        def at(when: dt.datetime) -> str:
            local = when.replace(tzinfo=dt.UTC).astimezone(zone)
            return f"{local:%a} {format_time(local, unit)}"

        joined = [
            {"id": t.id, "name": t.name, "at": at(t.at), "seen": at(t.seen)}
            for t in self.access.tablets()
            if not self._is_over(t)
        ]
        return {"url": self.url, "code": self.code(), "fingerprint": self.fingerprint, "joined": joined}

    @staticmethod
    def _is_over(tablet: Tablet) -> bool:
        """Whether a tablet was sent away, or joined too long ago; by a clock that was ahead it joined in the future."""
        age_s = (utc_now() - tablet.at).total_seconds()
        return tablet.is_out or not -CLOCK_MAY_DIFFER_S <= age_s <= LASTS_S

    # -- joining ---------------------------------------------------------------------------------------------------
    def signer(self) -> URLSafeTimedSerializer:
        return URLSafeTimedSerializer(self.access.secret, salt="tablet")

    def join(self, passphrase: str, name: str, who: str) -> tuple[str, str]:
        """A signed session, or why not. One attempt."""
        from argon2 import PasswordHasher
        from argon2.exceptions import Argon2Error, InvalidHashError

        now_s = time.monotonic()
        if (left := self.tries.wait_s(who, now_s)) > 0:
            return "", f"Too many attempts. Wait {left / 60:.0f} min {left % 60:.0f} s, then try again."
        self.tries.failed(who, now_s)  # counted before it is looked at: many at once are many
        try:
            PasswordHasher().verify(self.access.passphrase_hash, passphrase.strip())
        except (Argon2Error, InvalidHashError):
            return "", "That is not the passphrase."
        try:
            token = self.access.let_in(name.strip()[:LONGEST_NAME] or "tablet")
        except NotKept as error:
            return "", str(error)
        self.tries.worked(who)
        return self.signer().dumps(token), ""

    def guest(self, cookie: str) -> Tablet | None:
        """Whose a cookie is, while the session lasts and nobody has sent them away."""
        try:
            token = self.signer().loads(cookie, max_age=LASTS_S)
        except BadSignature:
            return None
        tablet = self.access.tablet(token) if isinstance(token, str) else None
        if tablet is None or self._is_over(tablet):
            return None
        if abs((utc_now() - tablet.seen).total_seconds()) > SEEN_EVERY_S:
            with suppress(NotKept):
                self.access.seen(tablet.id)
        return tablet


def _is_v6(address: str) -> bool:
    try:
        return ipaddress.ip_address(address).version == 6
    except ValueError:
        return False


class NetworkGate:
    """Stands before the whole application for whoever comes over the network: in only with a session."""

    def __init__(self, app: ASGIApp, lan: Lan, work: Any) -> None:
        self.app, self.lan, self.work = app, lan, work
        self._joining, self._one_at_a_time = 0, asyncio.Lock()

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] == "lifespan":
            return
        if scope["type"] != "http":
            raise RuntimeError("only pages are served over the network")
        scope["hosts"] = self.lan.hosts
        answer = await self._answer(scope, receive)
        await (answer or self.app)(scope, receive, send)

    async def _answer(self, scope: Scope, receive: Receive) -> Response | None:
        request, path = Request(scope, receive), route_of(scope["path"])
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
            message = "Join first, on the page /join."
            return JSONResponse({"faults": [{"field": "", "says": message}]}, 401)
        if not open_to_tablets(scope["method"], path):
            return _owners_only(headers)
        scope["guest"] = guest.name
        scope["is_still_in"] = partial(self._is_still_in, request.cookies.get(COOKIE, ""))
        return None

    def _is_still_in(self, cookie: str) -> bool:
        """What a page that looks on asks before it is sent anything more."""
        return self.lan.guest(cookie) is not None

    async def _join(self, request: Request) -> Response:
        if request.method != "POST":
            return _join_page("", "")
        if not _same_origin(request.headers):
            return PlainTextResponse("Join from this program's own page.", 403)
        try:
            async with asyncio.timeout(JOIN_WITHIN_S):
                body = await _short_body(request)
        except (TimeoutError, ClientDisconnect):
            return _join_page("", "That took too long to arrive.", 408)
        if body is None:
            return _join_page("", "That is too long.", 413)
        typed = {k: v[-1] for k, v in parse_qs(body.decode("utf-8", "replace"), max_num_fields=10).items()}
        who = request.client.host if request.client else ""
        if self._joining >= MOST_JOINING:
            return _join_page(typed.get("name", ""), "Too many attempts at once. Try again in a minute.", 429)
        self._joining += 1
        try:
            async with self._one_at_a_time:
                await asyncio.sleep(self.lan.tries.pause_s(time.monotonic()))
                work = self.lan.join, typed.get("passphrase", ""), typed.get("name", ""), who
                cookie, fault = await asyncio.get_running_loop().run_in_executor(self.work, *work)
        finally:
            self._joining -= 1
        if fault:
            return _join_page(typed.get("name", ""), fault, 429 if "attempts" in fault else 422)
        answer = RedirectResponse("/bench", 303)
        answer.set_cookie(COOKIE, cookie, max_age=LASTS_S, secure=True, httponly=True, samesite="strict", path="/")
        return answer


def _owners_only(headers: Headers) -> Response:
    message = "Do that on the shop's own machine, not on a tablet."
    if "text/html" in headers.get("accept", ""):
        body = render("message.html", title="Not on a tablet", message=message, raw="", unit="mm", here="")
        return HTMLResponse(body, 403, headers=HEADERS)
    return JSONResponse({"faults": [{"field": "", "says": message}]}, 403, headers=HEADERS)


async def _short_body(request: Request) -> bytes | None:
    """What was sent; None where it is more than a passphrase and a name can be."""
    body = b""
    async for some in request.stream():
        body += some
        if len(body) > 4_000:
            return None
    return body


def _is_plain(path: str) -> bool:
    """A path as the program's own pages have it: nothing doubled, nothing that climbs, no odd signs."""
    return path.isprintable() and "\\" not in path and "//" not in path and "/." not in path


def _same_origin(headers: Any) -> bool:
    if headers.get("sec-fetch-site", "same-origin") not in ("same-origin", "none"):
        return False
    origin = headers.get("origin")
    try:
        return origin is None or urlsplit(origin).netloc.lower() == headers.get("host", "").lower()
    except ValueError:
        return False


JOIN_FORM = FormSpec(
    (
        Field("name", "Name of this tablet", "text", "for example: by the steam box", longest=LONGEST_NAME),
        Field("passphrase", "Passphrase", "password", required=True),
    ),
    prefix="join",
)


def _join_page(name: str, fault: str, status: int = 200) -> Response:
    inputs = JOIN_FORM.inputs("mm", {"name": name}, faults={"passphrase": fault} if fault else {})
    body = render("join.html", inputs=list(inputs.values()), unit="mm", here="")
    return HTMLResponse(body, status, headers={**HEADERS, **({"retry-after": "60"} if status == 429 else {})})
