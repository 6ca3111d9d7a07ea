"""A piece while it dries, true to scale: in a frame, tied, with a strip tacked across, or round a disc."""

from __future__ import annotations

import numpy as np

from ..core.common.arrays import Array
from ..core.common.units import Unit, format_length
from ..core.heat.drying_restraint import DryingRestraint
from ..core.plan.result import Sketch
from ..core.shape.curve import Curve
from ..core.workpiece.workpiece import HotBlank, StraightenedPiece
from .canvas import Canvas, Frame
from .svg import band, named, num, polyline, tag

HEIGHT_PX = 440.0
CLEAT_MM, STRIP_MM = 45.0, 20.0


def frame_svg(plan: Sketch, hot: HotBlank | StraightenedPiece, unit: Unit) -> str:
    """The piece as it is held while it dries."""
    mid, half = plan.held_to, plan.job.part.thickness_mm / 2
    inner, outer = mid.parallel(-half), mid.parallel(half)
    points = np.vstack((inner.traced(48), outer.traced(48)))
    canvas = Canvas(Frame.around(points, height_px=HEIGHT_PX, margin_px=(70, 110, 90, 110)))
    px = canvas.px
    canvas.space.take_line(mid.traced(60), half)
    canvas.parts.append(tag("path", named("the piece"), d=band(inner, outer), class_="strip"))
    held = hot.drying.held
    if held.by == "frame":
        _stops(canvas, mid, half)
    elif held.by == "disc" and held.disc:
        x, y, radius = held.disc
        canvas.parts.append(tag("circle", named("the disc"), cx=num(x), cy=num(-y), r=num(radius), class_="stop-block"))
    if held.by == "strip":
        _strip(canvas, held)
    elif held.by != "none":
        ends = np.array(held.ends_mm)
        canvas.parts.append(tag("path", named("bar or string"), d=polyline(ends), class_="bowstring"))
        canvas.space.take_line(ends)
    middle = np.array(held.ends_mm).mean(axis=0)
    message = f"{format_length(held.opening_mm, unit)} between the inside faces"
    low, high = float(middle[1]) - 22 * px, float(middle[1]) + 12 * px
    spots = [(float(middle[0]), low, "middle"), (float(middle[0]), high, "middle"), *canvas.around(*middle)]
    canvas.parts.append(canvas.label(spots, message, "figure"))
    days = hot.drying.dry_days
    word = "held" if hot.drying.has_jig else "dries for"
    lasts = f"{word} {days.likely:.1f} days, likely {days.low:.1f} to {days.high:.1f}"
    long = lasts if days.likely else "dry when it comes off the form"
    lines = (long, held.message(unit))
    for i, text in enumerate(lines):
        x, y = canvas.place(16, 24 + 20 * i)
        canvas.parts.append(canvas.text(x, y, text, "note" if i else "figure", "start", 13 if i else 14))
    return canvas.drawn("The piece while it dries, to scale", "board frame-drawing", role="img")


def _stops(canvas: Canvas, mid: Curve, half: float) -> None:
    """Blocks on both sides of each end."""
    ends, headings = mid.points_mm[[0, -1]], mid.headings_rad[[0, -1]]
    width = max(CLEAT_MM, 16 * canvas.px)
    for i, (end, h) in enumerate(zip(ends, headings, strict=True)):
        away, along = np.array([-np.sin(h), np.cos(h)]), np.array([np.cos(h), np.sin(h)])
        back = -1.0 if i else 1.0
        for side in (-1.0, 1.0):
            foot = end + away * side * half
            corners = [foot, foot + along * back * width, foot + along * back * width + away * side * width / 2]
            corners.append(foot + away * side * width / 2)
            canvas.space.take_area(np.array(corners))
            canvas.parts.append(tag("path", named("stop"), d=polyline(corners) + "Z", class_="stop-block"))


def _strip(canvas: Canvas, held: DryingRestraint) -> None:
    """The strip across, over both ends."""
    corners = strip_corners(held)
    canvas.space.take_area(corners)
    canvas.parts.append(tag("path", named("strip tacked across"), d=polyline(corners) + "Z", class_="stop-block"))


def strip_corners(held: DryingRestraint) -> Array:
    """(4, 2) corners of a strip that runs through both ends of the inner face."""
    first, last = (np.array(e) for e in held.ends_mm)
    along = (last - first) / held.opening_mm
    over, up = (held.strip_mm - held.opening_mm) / 2, np.array([-along[1], along[0]]) * STRIP_MM / 2
    a, b = first - along * over, last + along * over
    return np.array([a - up, b - up, b + up, a + up])
