"""A thin strip laid flat before it is bent over heat: its marks, and in which order its bends are made."""

from __future__ import annotations

import numpy as np

from ..core.common.units import Unit, format_length
from ..core.heat.iron_and_blanket import DryBend, DryHeat
from ..core.plan.result import Sketch
from .canvas import Canvas, Frame
from .svg import named, num, tag

HEIGHT_PX = 440.0
ROW_PX = 19.0


def flat_strip_svg(plan: Sketch, heat: DryHeat, unit: Unit) -> str:
    """The strip seen on its flat face, true to scale, the finished piece and what is trimmed off."""
    long, (left, right), wide = plan.bend.target.length_mm, plan.bend.trims_mm, plan.job.part.width_mm
    corners = np.array([[-left, -wide / 2], [long + right, wide / 2]])
    canvas = Canvas(Frame.around(corners, height_px=HEIGHT_PX, margin_px=(150, 40, 170, 40)))
    px = canvas.px
    canvas.space.take_area(
        np.array([[-left, -wide / 2], [long + right, -wide / 2], [long + right, wide / 2], [-left, wide / 2]])
    )
    flat = {"y": num(-wide / 2), "height": num(wide)}
    canvas.parts += [
        tag("rect", named("the blank"), x=num(-left), width=num(long + left + right), class_="blank", **flat),
        tag("rect", named("the finished piece"), x=0, width=num(long), class_="strip", **flat),
    ]
    if heat.blanket and heat.bends:
        first, last = min(b.start_mm for b in heat.bends), max(b.end_mm for b in heat.bends)
        over = {
            "x": num(first),
            "width": num(last - first),
            "y": num(-wide / 2 - 5 * px),
            "height": num(wide + 10 * px),
        }
        canvas.parts.append(tag("rect", named("under the blanket"), class_="blanket-reach", **over))
    for bend in heat.bends:
        _bend(canvas, bend, wide)
    ordered = sorted(heat.bends, key=lambda b: b.start_mm)
    for i, (at, message) in enumerate(_marks(ordered, long, unit)):
        foot = -wide / 2 - (22 + ROW_PX * (i % 3)) * px
        canvas.parts.append(canvas.line(at, wide / 2 + 6 * px, at, foot + 12 * px, "mark"))
        canvas.parts.append(canvas.text(at, foot, message, "note"))
    for mark in plan.own_marks:
        canvas.parts.append(canvas.line(mark.station_mm, wide / 2 + 12 * px, mark.station_mm, -wide / 2, "own-mark"))
        spots = [(mark.station_mm, wide / 2 + (16 + up) * px, "middle") for up in (0, 18, 36)]
        canvas.parts.append(canvas.label(spots, mark.name, "note own-name", 12))
    for i, bend in enumerate(heat.bends):
        x, y = canvas.place(40, 34 + ROW_PX * i)
        message = (
            f"{bend.order}: bend to {bend.bent_deg:.0f}° for {bend.wanted_deg:.0f}°, "
            f"R {format_length(bend.radius_mm, unit)}, {bend.side}"
        )
        canvas.parts.append(canvas.text(x, y, message, "note", "start"))
    x, y = canvas.place(390, HEIGHT_PX - 14)
    message = "marks from the start of the finished piece, on the flat strip"
    canvas.parts.append(canvas.text(x, y, message, "note faint", size=12))
    return canvas.drawn("The flat strip with its marks, to scale", "board flat-strip", role="img")


def _bend(canvas: Canvas, bend: DryBend, wide: float) -> None:
    """A stretch that is bent, with its place in the order."""
    x, px = (bend.start_mm + bend.end_mm) / 2, canvas.px
    message = named(f"bend {bend.order}")
    size = {
        "x": num(bend.start_mm),
        "width": num(bend.end_mm - bend.start_mm),
        "y": num(-wide / 2),
        "height": num(wide),
    }
    canvas.parts.append(tag("rect", message, class_="bend-zone", **size))
    y = wide / 2 + 20 * px
    canvas.parts.append(tag("circle", cx=num(x), cy=num(-y), r=num(11 * px), class_="order"))
    canvas.parts.append(canvas.text(x, y - 5 * px, str(bend.order), "order-text", size=14))


def _marks(bends: list[DryBend], long: float, unit: Unit) -> list[tuple[float, str]]:
    """Places that are marked: both ends of the piece, and where each bend begins and ends, each once."""
    at = sorted({0.0, *(round(b.start_mm, 2) for b in bends), *(round(b.end_mm, 2) for b in bends), long})
    return [(v, format_length(v, unit)) for v in at]
