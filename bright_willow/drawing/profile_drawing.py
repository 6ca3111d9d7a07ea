"""A profile in section: the moldings with their cuts, and the strips put together again, true to scale."""

from __future__ import annotations

import numpy as np

from ..core.common.units import Unit, format_length
from ..core.stock.molding_profile import Profiled
from .canvas import Canvas, Frame
from .svg import named, polyline, tag

HEIGHT_PX = 440.0
APART = 0.45  # of its depth, between two sections
LEAST_PX = 9.0


def profile_svg(made: Profiled, unit: Unit) -> str:
    """Every molding with the strips that are kept of it, and beside them the section as it is glued up."""
    high, step = float(made.outline[:, 1].max()), made.depth_mm * (1 + APART)
    wide = step * made.blanks + made.depth_mm
    corners = np.array([[0.0, 0.0], [wide, high]])
    canvas = Canvas(Frame.around(corners, height_px=HEIGHT_PX, margin_px=(86, 40, 70, 40)))
    px = canvas.px
    for blank in range(made.blanks):
        left = blank * step
        canvas.parts.append(_shape(f"molding {blank + 1}", "board-wood", made.outline, left))
        for band in made.bands:
            if band.blank != blank + 1:
                continue
            for outline in _of_band(made, band.number - 1):
                canvas.parts.append(_shape(f"strip {band.number}", "glued", outline, left))
            if (band.to_mm - band.from_mm) / px >= LEAST_PX:
                middle = left + (band.from_mm + band.to_mm) / 2
                canvas.parts.append(canvas.text(middle, high * 0.25, str(band.number), "note", size=11))
        first = made.first_cut_mm[blank]
        message = f"molding {blank + 1}"
        canvas.parts.append(canvas.text(left + made.depth_mm / 2, -20 * px, message, "figure"))
        message = f"first cut {format_length(max(0.0, first), unit)}" if first > 0 else "from its face"
        canvas.parts.append(canvas.text(left + made.depth_mm / 2, -38 * px, message, "note", size=12))
    left = made.blanks * step
    for n, outlines in enumerate(made.together):
        for outline in outlines:
            canvas.parts.append(_shape(f"strip {n + 1} in place", "glued", outline, left))
    canvas.parts.append(_shape("as it was", "profile-was", made.outline, left))
    canvas.parts.append(canvas.text(left + made.depth_mm / 2, -20 * px, "put together", "figure"))
    x, y = canvas.place(16, 24)
    lost = made.lost_mm
    message = (
        "Nothing of the molding profile is lost"
        if lost < 0.05
        else f"{format_length(lost, unit)} of depth is lost, steps up to {format_length(made.worst_step_mm, unit)}"
    )
    many = f"{made.blanks} moldings" if made.blanks > 1 else "1 molding"
    canvas.parts.append(canvas.text(x, y, f"{len(made.bands)} strips out of {many}. {message}", "figure", "start", 14))
    x, y = canvas.place(16, 44)
    message = "inside face on the left; strips are numbered from it and glued up in that order"
    canvas.parts.append(canvas.text(x, y, message, "note", "start"))
    return canvas.drawn("The molding profile cut and glued, to scale", "board profile", role="img")


def _of_band(made: Profiled, number: int) -> tuple[np.ndarray, ...]:
    """A strip's outlines where it lies in its molding."""
    band, lies = made.bands[number], sum(_thick(made, n) for n in range(number))
    middle = (band.from_mm + band.to_mm) / 2 - _thick(made, number) / 2
    return tuple(o + np.array([middle - lies, 0.0]) for o in made.together[number])


def _thick(made: Profiled, number: int) -> float:
    return made.laminae_mm[number]


def _shape(name: str, class_: str, outline: np.ndarray, left: float) -> str:
    return tag("path", named(name), d=polyline(outline + np.array([left, 0.0])) + "Z", class_=class_)
