"""The web application: its parts put together."""

from __future__ import annotations

import asyncio
import datetime as dt
import gc
import logging
import threading
from collections.abc import AsyncIterator, Callable
from concurrent.futures import ThreadPoolExecutor
from contextlib import asynccontextmanager, suppress
from pathlib import Path
from typing import Any

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import HTMLResponse, JSONResponse, Response
from peewee import DatabaseError
from starlette.exceptions import HTTPException
from starlette.middleware.gzip import GZipMiddleware
from starlette.staticfiles import StaticFiles
from starlette.types import Scope

from .. import __version__
from ..calendar.shop_clock import day_in_shop
from ..core.job.faults import JobFaulty, faults_in
from ..services.bench_runs import RunNotifier
from ..services.importing import Importer
from ..services.outline_reader import Reader
from ..services.readings import ReadingBuffer
from ..services.sample_shop import SampleShop
from ..services.summaries import SummaryRefresher
from ..services.worker import TooManyWait, Worker
from ..store.database import is_full, why_not
from ..store.nightly_backup import NightlyBackup
from ..store.records import NotFound, NotKept, Unreadable
from ..store.store import Store
from .addresses import Addresses
from .connections import AcceptErrors
from .guard import Guard
from .pages import (
    api,
    api_docs,
    bench,
    book,
    breakdown,
    compare,
    copies,
    days,
    drag,
    ease,
    glossary,
    guide,
    help,
    import_outline,
    job,
    jobs,
    learnt,
    measure,
    pack,
    pictures,
    prepare,
    presets,
    quick,
    rack,
    rack_sheets,
    runs,
    sample,
    share,
    shop,
    take,
    track_record,
    trials,
    why,
)
from .photo_upload import Greys, PictureReader
from .render import render

PLANNERS = 4
READ_IN_AFTER_S, WARM_AFTER_S = 0.7, 2.5  # when the first page has been answered, and when the next few
TITLES = {503: "Not saved"}
log = logging.getLogger("bright_willow")
STATIC = Path(__file__).parent / "static"


class ShippedFiles(StaticFiles):
    """Files that ship with the program; a browser may keep them while the version stays."""

    async def get_response(self, path: str, scope: Scope) -> Response:
        response = await super().get_response(path, scope)
        response.headers["cache-control"] = "public, max-age=3600"
        return response


def _day(store: Store, now: dt.datetime) -> dt.date:
    """The day it is in the shop, for a thread that has no connection yet."""
    with store.connected():
        return day_in_shop(now, store.shop_settings.get().week)


def create_app(store: Store, clock: Callable[[], dt.datetime] | None = None) -> FastAPI:
    """The application on an open store. clock: the time with its zone, for whoever wants another than now."""
    now = clock or (lambda: dt.datetime.now(dt.UTC))
    renewer, night = SummaryRefresher(store), NightlyBackup(store.path, lambda: _day(store, now()))

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        gc.collect()
        gc.freeze()  # what is loaded now stays: no use looking through it again between two answers
        gc.set_threshold(20_000, 20, 20)
        reading_in = _later(READ_IN_AFTER_S, _read_in)
        renewer.start()
        night.start()
        app.state.gatherer.start()
        app.state.reader.warm()
        warming = _later(WARM_AFTER_S, _warm, store, app.state.hub)
        loop = asyncio.get_running_loop()
        loop.set_exception_handler(AcceptErrors())
        watching = [loop.create_task(port.watch()) for port in app.state.connections]
        yield
        for task in watching:
            task.cancel()
        reading_in.cancel()
        warming.cancel()
        app.state.hub.is_closing = True
        app.state.sample.close()
        for worker in (renewer, night, *_workers(app), app.state.gatherer):
            worker.stop()
        app.state.planners.shutdown(wait=False, cancel_futures=True)
        app.state.planners = _planners(store)  # it may be started again
        store.close()

    app = FastAPI(
        lifespan=lifespan,
        title="Bright Willow",
        version=__version__,
        docs_url=None,
        redoc_url=None,
        description="Works out how to bend wood. All lengths in mm, curvature in 1/mm, angles in degrees.",
    )
    app.state.store, app.state.renewer = store, renewer
    app.state.lan, app.state.connections = None, []
    app.state.sample, app.state.beside = SampleShop(store.path.parent), ""
    app.state.clock = now
    app.state.reader, app.state.hub, app.state.greys = Reader(), RunNotifier(), Greys()
    app.state.picture_reader, app.state.importer = PictureReader(), Importer()
    app.state.gatherer = ReadingBuffer(store, lambda: app.state.clock().timestamp())
    app.state.planners = _planners(store)
    for page in (
        jobs,
        days,
        bench,
        runs,
        ease,
        breakdown,
        guide,
        drag,
        import_outline,
        quick,
        compare,
        pack,
        share,
        pictures,
        prepare,
        presets,
        glossary,
        help,
        sample,
        take,
        trials,
        why,
        job,
        measure,
        rack,
        rack_sheets,
        learnt,
        track_record,
        book,
        shop,
        copies,
        api_docs,
        api,
    ):
        app.router.routes.extend(page.router.routes)  # as they are: including them would analyze each anew
    app.router.routes.extend(bench.api.routes)
    app.mount("/static", ShippedFiles(directory=STATIC), name="static")
    app.add_exception_handler(Unreadable, _unreadable_row)  # type: ignore[arg-type]
    app.add_exception_handler(NotFound, _not_there)  # type: ignore[arg-type]
    app.add_exception_handler(NotKept, _not_kept)  # type: ignore[arg-type]
    app.add_exception_handler(DatabaseError, _not_kept)  # type: ignore[arg-type]
    app.add_exception_handler(TooManyWait, _busy)  # type: ignore[arg-type]
    app.add_exception_handler(OSError, _disk)  # type: ignore[arg-type]
    app.add_exception_handler(HTTPException, _refused)  # type: ignore[arg-type]
    app.add_exception_handler(RequestValidationError, _unreadable)  # type: ignore[arg-type]
    app.add_exception_handler(JobFaulty, _faulty)  # type: ignore[arg-type]
    app.add_middleware(GZipMiddleware, minimum_size=20_000, compresslevel=4)
    app.add_middleware(Guard, after_change=renewer.wake)
    app.add_middleware(Addresses)
    return app


def _later(after_s: float, work: Callable[..., None], *of: Any) -> threading.Timer:
    """Something begun a while after, on a thread that does not hold the program open."""
    timer = threading.Timer(after_s, work, of)
    timer.daemon = True
    timer.start()
    return timer


def _warm(store: Store, hub: RunNotifier) -> None:
    """What the book teaches is worked out before somebody asks for it."""
    with suppress(DatabaseError, NotFound):
        if not hub.is_closing:
            with store.connected():
                store.training.learned()
                store.training.drifts()


def _workers(app: FastAPI) -> tuple[Worker, ...]:
    """Every process of its own that reads what others made."""
    return app.state.reader, app.state.picture_reader, app.state.importer


def _planners(store: Store) -> ThreadPoolExecutor:
    """Threads for everything that plans, each with its own connection: live answers never wait for a plan."""
    return ThreadPoolExecutor(PLANNERS, "plans", initializer=store.stay_connected)


def _read_in() -> None:
    """What takes long to read in is read in before the first answer that needs it."""
    import scipy.interpolate
    import scipy.linalg
    import scipy.ndimage
    import scipy.optimize
    import scipy.special

    _ = scipy


def _wants_page(request: Request) -> bool:
    return "text/html" in request.headers.get("accept", "")


def _message(request: Request, status: int, message: str) -> Response:
    if _wants_page(request):
        return HTMLResponse(
            render("message.html", title=TITLES.get(status, "Not here"), message=message, raw="", unit="mm", here=""),
            status,
        )
    return JSONResponse({"faults": [{"field": "", "says": message}]}, status)


async def _not_there(request: Request, error: NotFound) -> Response:
    return _message(request, 404, str(error))


async def _unreadable_row(request: Request, error: Unreadable) -> Response:
    if not _wants_page(request):
        return _message(request, 404, str(error))
    raw = f"/raw/{error.kind}/{error.row_id}"
    return HTMLResponse(
        render("message.html", title="Cannot be read", message=str(error), raw=raw, unit="mm", here=""), 404
    )


async def _not_kept(request: Request, error: Exception) -> Response:
    """Nothing was written. 503, so that whoever asked tries again."""
    message = str(error) if isinstance(error, NotKept) else why_not(error, request.app.state.store.path.parent)
    log.warning("not kept: %s at %s", error.__cause__ or error, request.url.path)
    response = _message(request, 503, message)
    response.headers["retry-after"] = "2"
    return response


async def _busy(request: Request, error: TooManyWait) -> Response:
    """More files wait to be read than may. 503, so that whoever asked tries again."""
    response = _message(request, 503, "Other files are being read right now. Try again in a minute.")
    response.headers["retry-after"] = "30"
    return response


async def _disk(request: Request, error: OSError) -> Response:
    """A disk that is full or a folder that is gone: said as what it is. Whatever else the system says is a surprise."""
    folder = request.app.state.store.path.parent
    if not is_full(error) and folder.is_dir():
        raise error
    return await _not_kept(request, error)


async def _refused(request: Request, error: HTTPException) -> Response:
    message = {404: "There is no such page here.", 405: "That cannot be done here."}.get(
        error.status_code, str(error.detail)
    )
    response = _message(request, error.status_code, message)
    for name, value in (error.headers or {}).items():
        response.headers[name] = value
    return response


async def _faulty(request: Request, error: JobFaulty) -> Response:
    return JSONResponse({"faults": [{"field": f.field, "says": f.message} for f in error.faults]}, 422)


async def _unreadable(request: Request, error: RequestValidationError) -> Response:
    if all(item["loc"][:1] == ("path",) for item in error.errors()):
        return _message(request, 404, "There is no such page here.")
    faults = [{"field": f.field, "says": f.message} for f in faults_in(error.errors())]
    return JSONResponse({"faults": faults}, 422)
