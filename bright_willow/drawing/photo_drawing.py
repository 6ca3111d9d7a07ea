"""What is marked on a picture, in its own dots (y downwards): the rectangle with its grid, the edge, the fit."""

from __future__ import annotations

from html import escape

import numpy as np

from ..core.common.arrays import Array
from ..core.measuring.photo_measurement import PhotoMarks, Plane
from .svg import named, num, tag

GRID_STEPS_MM = (5.0, 10.0, 20.0, 50.0, 100.0, 200.0, 500.0, 1000.0)
KNOB_SHARE = 1 / 150  # of the picture's width, where the page does not say how large a dot is shown


def grid_step(across_mm: float) -> float:
    """How far apart the lines of the grid are: some four to ten over the rectangle."""
    return next((s for s in GRID_STEPS_MM if across_mm / s <= 10), GRID_STEPS_MM[-1])


def marks_svg(size: tuple[int, int], seen: PhotoMarks, plane: Plane | None, fitted_px: Array | None = None) -> str:
    """The marks as they lie over a picture of such a size in dots: a group of its own."""
    parts = []
    knob = size[0] * KNOB_SHARE
    if plane:
        lines = (_line(line, size) for line in plane.grid_px(grid_step(seen.across_mm)))
        parts.append(tag("g", "".join(lines), class_="photo-grid"))
    if len(seen.corners) > 1:
        closed = seen.by == "rectangle" and len(seen.corners) == 4
        parts.append(_path(np.array(seen.corners), "photo-frame", closed=closed))
    if fitted_px is not None and np.isfinite(fitted_px).all():
        parts.append(_path(fitted_px, "photo-fit"))
    if len(seen.points) > 1:
        parts.append(_path(np.array(seen.points), "photo-edge"))
    what = "Corner" if seen.by == "rectangle" else "End of the bar"
    for i, (x, y) in enumerate(seen.corners):
        parts.append(_mark(f"corner-{i}", x, y, knob, f"{what} {i + 1}", str(i + 1)))
    for i, (x, y) in enumerate(seen.points):
        parts.append(_mark(f"point-{i}", x, y, knob, f"Point {i + 1} of the edge", ""))
    return tag("g", "".join(parts), class_="photo-marks", data_place="marks")


def _mark(name: str, x: float, y: float, knob: float, message: str, text: str) -> str:
    body = named(f"{message}: drag it, or move it with the arrow keys")
    body += tag("circle", cx=x, cy=y, r=knob * 2.4, class_="grab") + tag("circle", cx=x, cy=y, r=knob, class_="knob")
    body += tag("circle", cx=x, cy=y, r=knob / 5, class_="dot")
    if text:
        body += tag("text", escape(text), x=x + knob * 1.4, y=y - knob * 1.2, font__size=knob * 3)
    return tag("g", body, data_mark=name, tabindex="0", role="button", aria__label=message, class_="photo-mark")


def _path(points: Array, look: str, *, closed: bool = False) -> str:
    d = "M" + "L".join(f"{num(float(x))} {num(float(y))}" for x, y in points)
    return tag("path", d=d + ("Z" if closed else ""), class_=look)


def _line(line: Array, size: tuple[int, int]) -> str:
    """A line of the grid, where it lies on the picture or not far off."""
    near = np.isfinite(line).all(axis=1) & (np.abs(line) < 4 * max(size)).all(axis=1)
    runs = np.split(np.arange(len(line)), np.flatnonzero(~near))
    made = (line[[i for i in run if near[i]]] for run in runs)
    return "".join(_path(run, "photo-line") for run in made if len(run) > 1)
