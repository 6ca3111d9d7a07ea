"""Pictures that are sent: made small by a process of their own, one at a time; their gray levels to mark on."""

from __future__ import annotations

import datetime as dt
import io
import threading

import numpy as np
from fastapi import Request

from ..core.common.arrays import Array
from ..core.common.errors import PlanError
from ..drawing.picture_files import LONGEST_TO_MEASURE_PX, NO_PICTURE, SECONDS, TOO_LONG, TOO_MUCH
from ..services.worker import TookTooLong, TookTooMuch, Worker
from ..store.repositories.kept_pictures import Picture
from ..store.store import Store


class PictureReader(Worker):
    """Makes one picture after another small."""

    def __init__(self, seconds: float = SECONDS) -> None:
        super().__init__("bright_willow.drawing.picture_files", seconds)

    def sized(self, body: bytes, longest_px: int = LONGEST_TO_MEASURE_PX) -> tuple[bytes, tuple[int, int]]:
        """A JPEG made anew, upright and small; with its dots across and down. Raises: PlanError with a sentence."""
        try:
            made, (wide, high) = self.ask(body, longest_px)
            return made, (wide, high)
        except TookTooLong:
            raise PlanError("photo", TOO_LONG) from None
        except TookTooMuch:
            raise PlanError("photo", TOO_MUCH) from None


async def sent_picture(request: Request) -> tuple[bytes, str]:
    """The picture of a posted form, empty where there is none; and the piece it is said to show."""
    async with request.form(max_files=1, max_fields=8) as form:
        file, piece = form.get("photo"), form.get("piece")
        body = await file.read() if file is not None and not isinstance(file, str) else b""
        return body, piece[:20] if isinstance(piece, str) else ""


async def made_small(request: Request, body: bytes, longest_px: int) -> tuple[bytes, tuple[int, int]]:
    """A picture that was sent, made small while other answers go on. Raises: PlanError, TooManyWait."""
    reader: PictureReader = request.app.state.picture_reader
    small: tuple[bytes, tuple[int, int]] = await reader.asked(reader.sized, body, longest_px)
    return small


class Greys:
    """Gray levels of the picture last marked on: the next mark need not read it in anew."""

    def __init__(self) -> None:
        self._last: tuple[tuple[int, dt.datetime], Array] | None = None
        self._lock = threading.Lock()

    def of(self, store: Store, picture: Picture) -> Array:
        """(h, w) levels 0–255. Needs a connection. Raises: NotFound, PlanError."""
        from PIL import Image

        with self._lock:
            which = picture.id, picture.at  # a restored shop may have another picture of that number
            if self._last is None or self._last[0] != which:
                try:
                    with Image.open(io.BytesIO(store.pictures.body(picture.id)), formats=("JPEG",)) as opened:
                        if max(opened.size) > LONGEST_TO_MEASURE_PX:
                            raise ValueError("larger than any picture saved")
                        self._last = which, np.asarray(opened.convert("L"))
                except (OSError, ValueError, SyntaxError, Image.DecompressionBombError):
                    raise PlanError("photo", NO_PICTURE) from None
            return self._last[1]
