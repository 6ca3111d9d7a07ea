"""Addresses in the words of the product. What earlier versions called otherwise keeps working: pages are redirected."""

from __future__ import annotations

import re

from starlette.responses import RedirectResponse
from starlette.types import ASGIApp, Receive, Scope, Send

from ..core.common.stages import STAGES

PLACES = {"schedule": "days", "logbook": "book", "test-bends": "trials"}  # new name: the one in routes and older links
OF_A_JOB = {row.path: row.key for row in STAGES.values() if row.path != row.key} | {"test-bends": "trials"}
OF_THE_LOGBOOK = {"what-it-shows": "learnt"}
_LINK = re.compile(r'href="(/[^"?#]*)')
_OLD_PLACES, _OLD_OF_A_JOB, _OLD_LOGBOOK = (
    {old: new for new, old in table.items()} for table in (PLACES, OF_A_JOB, OF_THE_LOGBOOK)
)


def route_of(path: str) -> str:
    """Return the path of the route that answers an address.

    >>> route_of("/jobs/5/layup/keep"), route_of("/schedule"), route_of("/logbook/what-it-shows"), route_of("/rack")
    ('/jobs/5/build_up/keep', '/days', '/book/learnt', '/rack')
    """
    return _renamed(path, PLACES, OF_A_JOB, OF_THE_LOGBOOK)


def address_of(path: str) -> str:
    """Return the address of a page that a route answers: the other way.

    >>> address_of("/jobs/5/way"), address_of("/book"), address_of("/jobs/5/shape")
    ('/jobs/5/method', '/logbook', '/jobs/5/shape')
    """
    return _renamed(path, _OLD_PLACES, _OLD_OF_A_JOB, _OLD_LOGBOOK)


def _renamed(path: str, places: dict[str, str], of_a_job: dict[str, str], of_the_logbook: dict[str, str]) -> str:
    parts = path.split("/")
    if len(parts) > 3 and parts[1] == "jobs":
        parts[3] = of_a_job.get(parts[3], parts[3])
    elif len(parts) > 2 and parts[1] in ("book", "logbook"):
        parts[2] = of_the_logbook.get(parts[2], parts[2])
    if len(parts) > 1:
        parts[1] = places.get(parts[1], parts[1])
    return "/".join(parts)


def linked(html: str) -> str:
    """Return a page with its links to pages at their present addresses.

    >>> linked('<a href="/jobs/5/way?x=1">')
    '<a href="/jobs/5/method?x=1">'
    """
    return _LINK.sub(lambda m: f'href="{address_of(m[1]) if is_page(m[1]) else m[1]}', html)


def is_page(path: str) -> bool:
    """Whether an address is that of a page: a file in it, as a subscribed calendar, keeps its address."""
    parts = path.split("/")
    last = parts[-1]
    return "." not in last and (len(parts) <= 3 or (parts[1] == "jobs" and len(parts) == 4))


def routed(scope: Scope) -> Scope:
    """Return the request with the path of its route."""
    path = route_of(scope["path"])
    return scope if path == scope["path"] else {**scope, "path": path, "raw_path": path.encode()}


class Addresses:
    """Takes requests to their routes, and a reader of an old page to its present address."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        path, to = scope["path"], address_of(scope["path"])
        if scope["method"] in ("GET", "HEAD") and to != path and is_page(path):
            query = scope["query_string"].decode("latin-1")
            await RedirectResponse(f"{to}?{query}" if query else to, 308)(scope, receive, send)
            return
        await self.app(routed(scope), receive, send)
