"""Pictures made anew: every turn of the camera, grays of 16 bits, and large ones within a limit of memory."""

from __future__ import annotations

import io

import numpy as np
import pytest
from PIL import Image

from bright_willow.core.common.errors import PlanError
from bright_willow.drawing.picture_files import TURNS, sized, thumbnail
from bright_willow.services.worker import TookTooLong, TookTooMuch
from bright_willow.web.photo_upload import PictureReader


def written(image: Image.Image, kind: str = "JPEG", **more) -> bytes:
    out = io.BytesIO()
    image.save(out, kind, **more)
    return out.getvalue()


def levels(body: bytes) -> np.ndarray:
    with Image.open(io.BytesIO(body)) as opened:
        return np.asarray(opened.convert("L")).astype(int)


def test_grays_of_16_bits_are_scaled_not_cut_off():
    """Worked by hand: the level 65,535 x / 255 of a column is x of 255."""
    ramp = np.tile(np.linspace(0, 65_535, 256).astype(np.uint16), (64, 1))
    kept = levels(sized(written(Image.fromarray(ramp), "PNG"))[0])
    assert kept.shape == (64, 256) and np.abs(kept - np.arange(256)).max() <= 3


@pytest.mark.parametrize("value", [1, *TURNS])
def test_every_turn_of_the_camera_is_put_right(value):
    """A picture with one dark corner, stored as each tag says: upright the corner is at the top left."""
    upright = np.full((48, 96), 230, np.uint8)
    upright[:16, :32] = 10
    stored = Image.fromarray(upright)
    back = {2: 0, 3: 3, 4: 1, 5: 5, 6: 2, 7: 6, 8: 4}  # the turn that undoes the one the tag asks for
    if value != 1:
        stored = stored.transpose(Image.Transpose(back[value]))
    exif = Image.Exif()
    exif[0x0112] = value
    kept = levels(sized(written(stored, exif=exif))[0])
    assert kept.shape == (48, 96) and kept[8, 8] < 40 and kept[8, 88] > 200 and kept[40, 8] > 200


def test_a_large_picture_is_read_within_little_memory():
    """60 million dots, 180 MB as they are: read at half size, with a tenth of a gigabyte on top of the program."""
    reader = PictureReader()
    try:
        body, (wide, high) = reader.sized(written(Image.new("RGB", (9_000, 6_600), (200, 180, 90))))
        assert (wide, high) == (3_600, 2_640) and len(body) < 2_000_000
        with pytest.raises(PlanError, match="60 million"):
            reader.sized(written(Image.new("1", (9_000, 6_700)), "PNG"))
        assert reader.sized(written(Image.new("L", (50, 40))))[1] == (50, 40)
    finally:
        reader.stop()


def test_a_reader_that_is_late_or_dies_is_started_again():
    reader = PictureReader(seconds=0.01)
    try:
        for _ in range(2):
            with pytest.raises((TookTooLong, TookTooMuch)):
                reader.ask(written(Image.new("L", (4_000, 4_000))), 3_600)
        reader.seconds = 60
        assert reader.sized(written(Image.new("L", (50, 40))))[1] == (50, 40)
    finally:
        reader.stop()


def test_what_is_no_picture_has_no_small_one():
    for body in (b"", b"GIF89a", written(Image.new("L", (40, 40)))[:90]):
        with pytest.raises(PlanError):
            thumbnail(body)
