"""Pictures made anew by Pillow: upright and small, with nothing of where they were taken.

A large JPEG is decoded at a half, a quarter or an eighth of its size at once, so that it never takes the memory of all
its dots. Run as `python -m bright_willow.drawing.picture_files` it does so in a process of its own;
bright_willow.working says how it is asked.
"""

from __future__ import annotations

import io
from typing import TYPE_CHECKING

from ..core.common.errors import PlanError
from ..working import serve

if TYPE_CHECKING:
    from PIL import Image

MOST_PHOTO_BYTES, MOST_PIXELS, KEPT_BYTES = 20_000_000, 60_000_000, 2_000_000
MOST_SIDE_PX, LEAST_SIDE_PX = 30_000, 16
LONGEST_PX, LONGEST_TO_MEASURE_PX, SMALL_PX = 2400, 3600, 360
ORIENTATION = 0x0112  # tag of a picture: how it must be turned or mirrored to stand upright
TURNS = {2: 0, 3: 3, 4: 1, 5: 5, 6: 4, 7: 6, 8: 2}  # its value, and Pillow's number of that turn
MEMORY_BYTES, SECONDS = 512 * 2**20, 20
TOO_MUCH = "That picture takes more memory than a picture may. Make it smaller, and try again."
TOO_LONG = f"Reading that picture took more than {SECONDS} seconds, so it was stopped. Make it smaller and try again."
NO_PICTURE = "That is not a readable JPEG or PNG picture."


def sized(body: bytes, longest_px: int = LONGEST_TO_MEASURE_PX) -> tuple[bytes, tuple[int, int]]:
    """A JPEG of at most 2 MB, upright, without anything else in it; with its dots across and down.

    Raises: PlanError for what is no picture, or too large or too small a one.
    """
    from PIL import Image, UnidentifiedImageError

    if not body or len(body) > MOST_PHOTO_BYTES:
        raise PlanError("photo", "A picture of up to 20 MB, please." if body else "Choose a picture first.")
    try:
        with Image.open(io.BytesIO(body), formats=("JPEG", "PNG", "WEBP")) as opened:
            _check_size(opened)
            turn = TURNS.get(opened.getexif().get(ORIENTATION, 1))
            opened.draft("RGB", (longest_px, longest_px))
            upright = _in_colors(opened, longest_px)
            upright.load()  # all of it, before the file is closed
            if turn is not None:
                upright = upright.transpose(Image.Transpose(turn))
    except PlanError:
        raise
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombError):
        raise PlanError("photo", NO_PICTURE) from None
    while True:
        for quality in (88, 75, 60, 40):
            out = io.BytesIO()
            upright.save(out, "JPEG", quality=quality, optimize=True)
            if out.tell() <= KEPT_BYTES:
                return out.getvalue(), upright.size
        upright.thumbnail((upright.width * 3 // 4, upright.height * 3 // 4))


def _check_size(opened: Image.Image) -> None:
    """Raises: PlanError by the size in the head of a picture; nothing is unfolded yet."""
    wide, high = opened.size
    if min(wide, high) < LEAST_SIDE_PX:
        raise PlanError("photo", "That picture is too small to show anything.")
    if wide * high > MOST_PIXELS or max(wide, high) > MOST_SIDE_PX:
        most = "That picture has too many pixels: at most 60 million, 30,000 on a side, please."
        raise PlanError("photo", most)


def _in_colors(opened: Image.Image, longest_px: int) -> Image.Image:
    """A picture in colors of 8 bits, small enough."""
    made = opened
    if made.mode.startswith("I"):  # gray of 16 bits: scaled, not cut off at 255
        made = made.point(lambda level: level * (255 / 65_535)).convert("L")
    if made.mode not in ("RGB", "L"):
        made = made.convert("RGB")
    made.thumbnail((longest_px, longest_px))
    return made if made.mode == "RGB" else made.convert("RGB")


def thumbnail(body: bytes) -> bytes:
    """A picture as lists show it. Raises: PlanError for what is no picture."""
    from PIL import Image

    try:
        with Image.open(io.BytesIO(body), formats=("JPEG",)) as opened:
            _check_size(opened)
            opened.draft("RGB", (SMALL_PX * 2, SMALL_PX * 2))
            opened.thumbnail((SMALL_PX, SMALL_PX))
            out = io.BytesIO()
            opened.convert("RGB").save(out, "JPEG", quality=80)
    except PlanError:
        raise
    except (OSError, ValueError, SyntaxError, Image.DecompressionBombError):
        raise PlanError("photo", NO_PICTURE) from None
    return out.getvalue()


if __name__ == "__main__":
    from PIL import Image, JpegImagePlugin, PngImagePlugin, WebPImagePlugin  # read in before the first picture comes

    _ = JpegImagePlugin, PngImagePlugin, WebPImagePlugin
    serve(sized, memory_bytes=MEMORY_BYTES, seconds=SECONDS)
