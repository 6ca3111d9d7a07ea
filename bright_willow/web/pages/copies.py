"""The whole shop as one file: taken along, and brought back."""

from __future__ import annotations

import logging
from contextlib import ExitStack
from pathlib import Path

from fastapi import APIRouter, Request
from fastapi.responses import FileResponse, Response
from starlette.background import BackgroundTask
from starlette.datastructures import UploadFile

from ...services.bench_runs import EVENTS
from ...store.backup import copied, put_in_place, restored_live, temporary_folder
from ...store.records import CannotOpen
from ..common import attachment, go_to, planned, store_of, today_of
from .shop import shop_page

router = APIRouter(include_in_schema=False)
log = logging.getLogger("bright_willow")


@router.get("/shop/backup")
def backup(request: Request) -> Response:
    """A copy of everything, all of one moment."""
    store = store_of(request)
    with store.connected():
        name = f"bright-willow-{today_of(request).isoformat()}.sqlite3"
    while_sent = ExitStack()
    folder = while_sent.enter_context(temporary_folder())
    try:
        copied(store.path, folder / name)
    except CannotOpen as error:
        while_sent.close()
        return shop_page(request, 503, copy_fault=str(error))
    gone = BackgroundTask(while_sent.close)
    return FileResponse(folder / name, media_type="application/vnd.sqlite3", headers=attachment(name), background=gone)


@router.post("/shop/restore")
async def restore(request: Request) -> Response:
    """Put a copy in the place of the shop, after checking it; what stood there is kept aside."""
    async with request.form(max_files=1, max_fields=4) as form:
        upload = form.get("file")
        if not isinstance(upload, UploadFile) or not upload.filename:
            return await planned(request, shop_page, request, 422, "Choose a backup file first.")
        with temporary_folder() as folder:
            file = folder / "given.sqlite3"
            with file.open("wb") as to:
                while part := await upload.read(1_000_000):
                    to.write(part)
            return await planned(request, _restored, request, file)


def _restored(request: Request, file: Path) -> Response:
    store = store_of(request)
    try:
        done = restored_live(store.path, file)
        _take_over(request, done.aside)
    except CannotOpen as error:
        return shop_page(request, 422, str(error).replace(str(file), "That file"))
    finally:
        EVENTS.forget()
        request.app.state.gatherer.forget_keys()
    if done.left_out:
        return shop_page(request, brought=True, left_out=done.left_out)
    return go_to("/shop?brought=1")


def _take_over(request: Request, aside: Path | None) -> None:
    """Read the shop anew; where that fails, the one that stood there before is put back. Raises: CannotOpen."""
    store = store_of(request)
    try:
        store.taken_over()
    except Exception as error:
        log.exception("a restored file could not be used")
        if aside is None:
            raise
        put_in_place(store.path, aside)
        store.taken_over()
        raise CannotOpen(f"That file could not be used: {error}. The shop is as it was.") from None
