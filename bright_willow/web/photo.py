"""Pictures in and out by Pillow: made anew upright and small, with nothing of where; their grey levels to mark on."""

from __future__ import annotations

import datetime as dt
import io
import threading

import numpy as np
from fastapi import Request

from ..core.ground.arrays import Array
from ..core.ground.errors import OutOfRange
from ..store.book import Store
from ..store.pictures import Picture

MOST_PHOTO_BYTES, MOST_PIXELS, KEPT_BYTES = 20_000_000, 60_000_000, 2_000_000
MOST_SIDE_PX, LEAST_SIDE_PX = 30_000, 16
LONGEST_PX, LONGEST_TO_MEASURE_PX, SMALL_PX = 2400, 3600, 360


async def sent_picture(request: Request) -> tuple[bytes, str]:
    """The picture of a posted form, empty where there is none; and the piece it is said to show."""
    async with request.form(max_files=1, max_fields=8) as form:
        file, piece = form.get("photo"), form.get("piece")
        body = await file.read() if file is not None and not isinstance(file, str) else b""
        return body, piece[:20] if isinstance(piece, str) else ""


def made_small(body: bytes, longest_px: int = LONGEST_PX) -> bytes:
    """A JPEG of at most 2 MB, upright, without anything else in it. Raises: OutOfRange for what is no picture."""
    return sized(body, longest_px)[0]


def sized(body: bytes, longest_px: int = LONGEST_TO_MEASURE_PX) -> tuple[bytes, tuple[int, int]]:
    """As `made_small`, with its dots across and down."""
    from PIL import Image, ImageOps, UnidentifiedImageError

    if not body or len(body) > MOST_PHOTO_BYTES:
        raise OutOfRange("photo", "A picture of up to 20 MB, please." if body else "Choose a picture first.")
    try:
        with Image.open(io.BytesIO(body), formats=("JPEG", "PNG", "WEBP")) as opened:
            wide, high = opened.size  # out of its head: nothing is unfolded yet
            fits = wide * high <= MOST_PIXELS and max(wide, high) <= MOST_SIDE_PX and min(wide, high) >= LEAST_SIDE_PX
            upright = ImageOps.exif_transpose(opened).convert("RGB") if fits else None
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombError):
        raise OutOfRange("photo", "That is no JPEG or PNG picture that can be read.") from None
    if upright is None:
        small = min(wide, high) < LEAST_SIDE_PX
        most = "That picture has too many dots: at most 60 million, 30,000 on a side, please."
        raise OutOfRange("photo", "That picture is too small to show anything." if small else most)
    upright.thumbnail((longest_px, longest_px))
    while True:
        for quality in (88, 75, 60, 40):
            out = io.BytesIO()
            upright.save(out, "JPEG", quality=quality, optimize=True)
            if out.tell() <= KEPT_BYTES:
                return out.getvalue(), upright.size
        upright.thumbnail((upright.width * 3 // 4, upright.height * 3 // 4))


def thumbnail(body: bytes) -> bytes:
    """A picture as lists show it."""
    from PIL import Image

    with Image.open(io.BytesIO(body)) as opened:
        opened.draft("RGB", (SMALL_PX * 2, SMALL_PX * 2))
        opened.thumbnail((SMALL_PX, SMALL_PX))
        out = io.BytesIO()
        opened.convert("RGB").save(out, "JPEG", quality=80)
    return out.getvalue()


class Greys:
    """Grey levels of the picture last marked on: the next mark need not read it in anew."""

    def __init__(self) -> None:
        self._last: tuple[tuple[int, dt.datetime], Array] | None = None
        self._lock = threading.Lock()

    def of(self, store: Store, picture: Picture) -> Array:
        """(h, w) levels 0–255. Needs a connection. Raises: NotThere."""
        from PIL import Image

        with self._lock:
            which = picture.id, picture.at  # a shop brought back may have another picture of that number
            if self._last is None or self._last[0] != which:
                with Image.open(io.BytesIO(store.picture_body(picture.id))) as opened:
                    self._last = which, np.asarray(opened.convert("L"))
            return self._last[1]
