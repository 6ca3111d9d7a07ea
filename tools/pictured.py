"""Pictures of a piece and a sheet of known size on a bench, as a camera of known pose sees them."""

from __future__ import annotations

import io
from dataclasses import dataclass

import numpy as np
from PIL import Image, ImageDraw, ImageFilter

from bright_willow.core.common.arrays import Array
from bright_willow.core.measuring.built_form import BuiltForm
from bright_willow.core.shape.arc import Face, face_offset_mm

FINER = 4
BENCH, SHEET, WOOD = 70, 235, 165
WARM = np.array([1.0, 0.93, 0.8])  # the light of the room


@dataclass(frozen=True)
class Camera:
    """A pinhole above the bench: so high over a place in mm, tilted and turned; its picture is so many dots."""

    wide: int = 3264
    high: int = 2448
    over_mm: float = 900.0
    tilt_deg: float = 24.0
    turn_deg: float = 7.0
    looks_at: tuple[float, float] = (0.0, 0.0)
    focal_px: float = 3000.0

    @property
    def matrix(self) -> Array:
        """(3, 3) mm on the bench, y upwards, to dots of the picture, y downwards."""
        a, b = np.radians(self.tilt_deg), np.radians(self.turn_deg)
        turn = np.array([[np.cos(b), -np.sin(b), 0], [np.sin(b), np.cos(b), 0], [0, 0, 1]])
        tilt = np.array([[1, 0, 0], [0, np.cos(a), -np.sin(a)], [0, np.sin(a), np.cos(a)]])
        axes = np.diag([1, -1, -1]) @ tilt @ turn  # looking down
        back = np.array([0, 0, self.over_mm]) - axes @ np.array([*self.looks_at, 0.0])
        inner = np.array([[self.focal_px, 0, self.wide / 2], [0, self.focal_px, self.high / 2], [0, 0, 1]])
        return inner @ np.column_stack((axes[:, 0], axes[:, 1], back))

    def px(self, mm: Array) -> Array:
        seen = np.column_stack((np.asarray(mm, dtype=float).reshape(-1, 2), np.ones(np.size(mm) // 2))) @ self.matrix.T
        return seen[:, :2] / seen[:, 2:]


def picture(camera: Camera, piece: Array, sheet: Array, *, seed: int = 7) -> Image.Image:
    """piece, sheet: (n, 2) outlines in mm."""
    drawn = Image.new("L", (camera.wide * FINER, camera.high * FINER), BENCH)
    draw = ImageDraw.Draw(drawn)
    for outline, grey in ((sheet, SHEET), (piece, WOOD)):
        draw.polygon([tuple(p) for p in (camera.px(outline) * FINER - 0.5).tolist()], fill=grey)
    small = np.asarray(drawn.reduce(FINER).filter(ImageFilter.GaussianBlur(0.8)), dtype=float)
    seen = small + np.random.default_rng(seed).normal(0, 3, small.shape)
    return Image.fromarray(np.clip(seen[:, :, None] * WARM, 0, 255).astype(np.uint8))


def jpeg(image: Image.Image, **more: object) -> bytes:
    out = io.BytesIO()
    image.save(out, "JPEG", quality=90, **more)
    return out.getvalue()


@dataclass(frozen=True)
class Laid:
    """A piece off a form at a loss ratio, standing above a sheet of A4, and a camera that sees both whole."""

    outline: Array
    face: Array
    camera: Camera
    sheet: Array

    @classmethod
    def of(cls, built: BuiltForm, k: float, face: Face, points: int = 11) -> Laid:
        curve, half = built.bent_by(k), built.thickness_mm / 2

        def along(offset: float, count: int) -> Array:
            own = curve.parallel(offset)
            return own.at(np.linspace(0, own.length_mm, count))[0]

        outline = np.concatenate((along(half, 400), along(-half, 400)[::-1]))
        up = np.array([0.0, 40.0 - float(outline[:, 1].min())])
        sheet = np.array([(-128.5, -20), (168.5, -20), (168.5, -230), (-128.5, -230)], dtype=float)
        middle = (0.0, float((outline + up)[:, 1].mean()) - 60)
        camera = Camera(looks_at=middle, over_mm=max(900.0, curve.length_mm * 1.25))
        return cls(outline + up, along(face_offset_mm(face, built.thickness_mm), points) + up, camera, sheet)

    def photo(self, **more: object) -> bytes:
        return jpeg(picture(self.camera, self.outline, self.sheet), **more)
