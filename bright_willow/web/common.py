"""What the pages share: the store of a request, typed forms, answers."""

from __future__ import annotations

import asyncio
import datetime as dt
from collections.abc import Callable
from typing import Annotated, Any, TypeVar
from urllib.parse import quote

from fastapi import HTTPException, Path, Query, Request
from fastapi.responses import HTMLResponse, RedirectResponse, Response

from ..calendar.shop_clock import day_in_shop
from ..drawing.board import SIZE_PX
from ..services.rack_lists import cut_text, lot_lines
from ..services.run_results import run_pieces, runs_of
from ..services.schedule import shop_days
from ..store.store import Store
from .addresses import address_of
from .guide_texts import FACT
from .job_view import JobView, job_view
from .render import render
from .tablet_rights import for_tablet

T = TypeVar("T")
TABLE_LIMIT = 400
QUICK_PX = (280.0, 410.0)  # the least and most height of the drawing of a quick answer
Id = Annotated[int, Path(ge=1, le=2**62)]
IdOrNew = Annotated[int, Path(ge=0, le=2**62)]
Number = Annotated[int, Query(ge=1, le=10**9)]
Seen = Annotated[int, Query(ge=0, le=2**62)]


def store_of(request: Request) -> Store:
    """The open store."""
    store: Store = request.app.state.store
    return store


async def typed_in(request: Request) -> dict[str, str]:
    """A posted form as text, later values of a name winning; files are left out."""
    try:
        async with request.form(max_fields=TABLE_LIMIT, max_files=1) as form:
            return {name: value for name, value in form.multi_items() if isinstance(value, str)}
    except (LookupError, UnicodeError):
        raise HTTPException(400, "What was sent cannot be read: it is not in UTF-8.") from None


async def planned(request: Request, work: Callable[..., T], *args: Any) -> T:
    """Do something that plans on a thread of its own, off the event loop."""
    return await asyncio.get_running_loop().run_in_executor(request.app.state.planners, work, *args)


def now_of(request: Request) -> dt.datetime:
    """The time it is, with its zone, by the application's clock."""
    now: dt.datetime = request.app.state.clock()
    return now


def today_of(request: Request) -> dt.date:
    """The day it is in the shop. Needs a connection."""
    return day_in_shop(now_of(request), store_of(request).shop_settings.get().week)


def page(template: str, request: Request, status: int = 200, **values: Any) -> HTMLResponse:
    """A whole page, or with a `parts/` template a part of one."""
    guest = request.scope.get("guest", "")
    html = render(template, beside=request.app.state.beside, guest=guest, **values)
    return HTMLResponse(for_tablet(html) if guest else html, status)


def wants_parts(request: Request) -> bool:
    """Whether the page's own script asks, and wants only what changed."""
    return request.headers.get("x-parts") == "yes"


def attachment(name: str) -> dict[str, str]:
    """Headers for a file that is taken along."""
    return {"content-disposition": f"attachment; filename*=UTF-8''{quote(name)}"}


def go_to(path: str) -> Response:
    """After a change: look at this."""
    page, mark, rest = path.partition("#") if "?" not in path else path.partition("?")
    return RedirectResponse(f"{address_of(page)}{mark}{rest}", 303)


def board_px(request: Request) -> tuple[float, float]:
    """How large the drawing is on the page, as its script last measured it; the usual size where it has not yet."""
    wide, _, tall = request.cookies.get("board", "").partition("x")
    return (float(wide), float(tall)) if wide.isdecimal() and tall.isdecimal() and len(wide + tall) < 10 else SIZE_PX


def quick_px(request: Request) -> tuple[float, float]:
    """How large the drawing of the quick answer is: as wide as its script last measured, and as high as that asks."""
    wide = request.cookies.get("quick-board", "")
    width = float(wide) if wide.isdecimal() and len(wide) < 6 else SIZE_PX[0]
    return width, min(QUICK_PX[1], max(QUICK_PX[0], 0.6 * width))


def view_of(request: Request, job_id: int, stage: str, **more: Any) -> JobView:
    """The view of a stored job; `job` among `more` shows a preview in its place. Needs a connection."""
    store = store_of(request)
    state = store.jobs.get(job_id)
    if stage == "stock":
        more.setdefault("lots", lot_lines(store))
    if stage == "prepare":
        more.setdefault("cut", cut_text(store, job_id))
    if stage == "steam":
        by_allowance = "steam_times" in store.shop_settings.get().by_allowance
        more.setdefault("steamed", [] if by_allowance else store.observed.steamed())
    if stage in ("bench", "measure"):
        more.setdefault("runs", runs_of(store, job_id))
    if stage == "measure":
        more.setdefault(
            "run_pieces", run_pieces(store, request.app.state.gatherer, job_id, now_of(request).timestamp())
        )
    if stage == "days":
        asked = request.query_params
        more.setdefault("bar", asked.get("bar", "")[:80])
        more.setdefault("pays", asked.get("pays", "")[:10])
        more.setdefault("from", asked.get("from", more.pop("from_day", ""))[:10])
        shown = more.get("job", state.job)
        more["days"] = shop_days(store, now_of(request), also=(job_id, shown), quick=bool(more.get("passing")))
        more["job_id"] = job_id
    return job_view(
        state,
        more.pop("job", state.job),
        stage=stage,
        shop=store.shop_settings.get(),
        learnt=store.training.learned(),
        forms=store.forms.find(job_id),
        today=today_of(request),
        guided=store.known_fact(FACT) == str(job_id),
        size_px=board_px(request),
        **more,
    )


def show(request: Request, view: JobView, status: int = 200, *, parts: bool | None = None) -> HTMLResponse:
    """A job page, or its changing parts when its script asks."""
    as_parts = wants_parts(request) if parts is None else parts
    template = "parts/passing.html" if view.passing else "parts/places.html" if as_parts else "job.html"
    return page(template, request, status, v=view, unit=view.unit, here="jobs")
