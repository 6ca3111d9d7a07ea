"""The whole shop as one file: taken along, and brought back."""

from __future__ import annotations

import datetime as dt
import shutil
import tempfile
from pathlib import Path

from fastapi import APIRouter, Request
from fastapi.responses import FileResponse, Response
from starlette.background import BackgroundTask
from starlette.datastructures import UploadFile

from ...store.copies import copied, restored_live
from ...store.records import CannotOpen
from ..bench import EVENTS
from ..common import attachment, go_to, planned, store_of
from .shop import shop_page

router = APIRouter(include_in_schema=False)


@router.get("/shop/backup")
def backup(request: Request) -> Response:
    """A copy of everything, all of one moment."""
    store = store_of(request)
    name = f"bright-willow-{dt.date.today().isoformat()}.sqlite3"
    folder = Path(tempfile.mkdtemp(prefix="bright-willow-"))
    try:
        copied(store.path, folder / name)
    except CannotOpen as error:
        shutil.rmtree(folder, ignore_errors=True)
        return shop_page(request, 503, copy_fault=str(error))
    gone = BackgroundTask(shutil.rmtree, folder, ignore_errors=True)
    return FileResponse(folder / name, media_type="application/vnd.sqlite3", headers=attachment(name), background=gone)


@router.post("/shop/restore")
async def restore(request: Request) -> Response:
    """Put a copy in the place of the shop, after checking it; what stood there is kept aside."""
    async with request.form(max_files=1, max_fields=4) as form:
        upload = form.get("file")
        if not isinstance(upload, UploadFile) or not upload.filename:
            return await planned(request, shop_page, request, 422, "Choose a copy first: a file that backup made.")
        with tempfile.TemporaryDirectory(prefix="bright-willow-") as folder:
            file = Path(folder) / "brought.sqlite3"
            with file.open("wb") as to:
                while part := await upload.read(1_000_000):
                    to.write(part)
            return await planned(request, _restored, request, file)


def _restored(request: Request, file: Path) -> Response:
    store = store_of(request)
    try:
        restored_live(store.path, file)
    except CannotOpen as error:
        return shop_page(request, 422, str(error).replace(str(file), "That file"))
    store.taken_over()
    EVENTS.forget()
    request.app.state.gatherer.forget_keys()
    return go_to("/shop?brought=1")
