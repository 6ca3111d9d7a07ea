"""A piece in its drying frame: stops on both sides of its ends, a bar or string across, true to scale."""

from __future__ import annotations

import numpy as np

from ..core.bend.makes import HotBlank, Straightened
from ..core.ground.units import Unit, format_length
from ..core.plan.result import Sketch
from .canvas import Canvas, Frame
from .svg import band, named, polyline, tag

HEIGHT_PX = 440.0
CLEAT_MM = 45.0


def frame_svg(plan: Sketch, hot: HotBlank | Straightened, unit: Unit) -> str:
    """The piece as it is wanted, held at its ends while it dries."""
    mid, half = plan.bend.target, plan.job.part.thickness_mm / 2
    inner, outer = mid.parallel(-half), mid.parallel(half)
    points = np.vstack((inner.cut_finer(48).points_mm, outer.cut_finer(48).points_mm))
    canvas = Canvas(Frame.around(points, height_px=HEIGHT_PX, margin_px=(70, 110, 90, 110)))
    px = canvas.px
    canvas.space.take_line(mid.cut_finer(60).points_mm, half)
    canvas.parts.append(tag("path", named("the piece"), d=band(inner, outer), class_="strip"))
    ends, headings = mid.points_mm[[0, -1]], mid.headings_rad[[0, -1]]
    width = max(CLEAT_MM, 16 * px)
    for end, h in zip(ends, headings, strict=True):
        away, along = np.array([-np.sin(h), np.cos(h)]), np.array([np.cos(h), np.sin(h)])
        back = -1.0 if end is ends[1] or bool((end == ends[1]).all()) else 1.0
        for side in (-1.0, 1.0):
            foot = end + away * side * half
            corners = [foot, foot + along * back * width, foot + along * back * width + away * side * width / 2]
            corners.append(foot + away * side * width / 2)
            canvas.space.take_area(np.array(corners))
            canvas.parts.append(tag("path", named("stop"), d=polyline(corners) + "Z", class_="stop-block"))
    canvas.parts.append(tag("path", named("bar or string"), d=polyline(inner.points_mm[[0, -1]]), class_="bowstring"))
    canvas.space.take_line(inner.points_mm[[0, -1]])
    middle = inner.points_mm[[0, -1]].mean(axis=0)
    opening = float(np.hypot(*(inner.points_mm[-1] - inner.points_mm[0])))
    says = f"bar or string, {format_length(opening, unit)} between the inner faces"
    low, high = float(middle[1]) - 22 * px, float(middle[1]) + 12 * px
    spots = [(float(middle[0]), low, "middle"), (float(middle[0]), high, "middle"), *canvas.around(*middle)]
    canvas.parts.append(canvas.label(spots, says, "figure"))
    after = hot.drying
    size = f"{format_length(after.frame_width_mm, unit)} × {format_length(after.frame_height_mm, unit)}"
    days = after.dry_days
    lines = (
        f"in the frame {days.likely:.1f} days, most likely {days.low:.1f} to {days.high:.1f}",
        f"the frame, inside, {size}; stops on both sides of each end",
    )
    for i, text in enumerate(lines):
        x, y = canvas.place(16, 24 + 20 * i)
        canvas.parts.append(canvas.text(x, y, text, "note" if i else "figure", "start", 13 if i else 14))
    return canvas.drawn("The piece in its drying frame, true to scale", "board frame-drawing", role="img")
