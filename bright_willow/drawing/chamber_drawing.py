"""The chamber in section, along and across: stock, rack, steam inlet, drain, vent, thermometer."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..core.common.units import Unit, format_length, format_temperature
from ..core.heat.chamber import GAP_MM, HEAD_MM, Chamber
from .canvas import Box, Canvas, Frame
from .svg import named, num, polyline, tag

HEIGHT_PX = 262.0
SLOPE = 1 / 60  # to the drain
CROSS_PX = 84.0  # the room of the section across
PIPE_MM = 22.0


@dataclass(frozen=True)
class ChamberLoad:
    """What lies in the chamber: pieces of a section and length, mm."""

    thickness_mm: float
    width_mm: float
    length_mm: float
    pieces: int


def chamber_svg(box: Chamber, stock: ChamberLoad, *, power_text: str, unit: Unit) -> str:
    """The chamber along its length, true to scale, sloped to its drain; and across, larger."""
    high, _, long = box.inside_mm
    wall = box.wall.thick_mm
    drop = long * SLOPE
    outside = np.array([[-wall, -wall - drop], [long + wall, high + wall]])
    canvas = Canvas(Frame.around(outside, height_px=HEIGHT_PX, margin_px=(72, 40, 156, 40)))
    _along(canvas, box, stock, wall, drop, power_text, unit)
    _across(canvas, box, stock, wall, unit)
    return canvas.drawn("The steam box in section, to scale", "board chamber-drawing", role="img")


def _along(canvas: Canvas, box: Chamber, stock: ChamberLoad, wall: float, drop: float, power: str, unit: Unit) -> None:
    high, _, long = box.inside_mm
    px = canvas.px

    def at(x: float, y: float) -> tuple[float, float]:
        return x, y - drop * x / long

    def shape(points: list[tuple[float, float]], message: str, class_: str) -> None:
        canvas.parts.append(tag("path", named(message), d=polyline([at(*p) for p in points]) + "Z", class_=class_))

    out = [(-wall, -wall), (long + wall, -wall), (long + wall, high + wall), (-wall, high + wall)]
    canvas.space.take_area(np.array([at(*p) for p in out]))
    shape(out, f"walls of {box.wall.name}", "wall")
    shape([(0, 0), (long, 0), (long, high), (0, high)], "steam", "steam")
    rows = min(box.rows, max(1, int((high - GAP_MM) // (stock.thickness_mm + GAP_MM))))
    start = max(HEAD_MM / 2, (long - stock.length_mm) / 2)
    for row in range(rows):
        y = GAP_MM + row * (stock.thickness_mm + GAP_MM)
        end = min(start + stock.length_mm, long)
        shape(
            [(start, y), (end, y), (end, y + stock.thickness_mm), (start, y + stock.thickness_mm)], "a piece", "strip"
        )
        for share in (0.12, 0.5, 0.88):
            x, yy = at(start + (end - start) * share, y - 5)
            canvas.parts.append(
                tag("circle", named("rack"), cx=num(x), cy=num(-yy), r=num(max(4.0, 2.2 * px)), class_="rack")
            )
    pipe = max(PIPE_MM, 7 * px)
    inlet, vent, drain = long * 0.5, 0.02 * long + pipe, long - pipe * 1.5
    shape(
        [
            (inlet - pipe / 2, -wall - pipe * 1.4),
            (inlet + pipe / 2, -wall - pipe * 1.4),
            (inlet + pipe / 2, 0),
            (inlet - pipe / 2, 0),
        ],
        "steam in",
        "pipe",
    )
    shape(
        [
            (vent - pipe / 2, high),
            (vent + pipe / 2, high),
            (vent + pipe / 2, high + wall + pipe),
            (vent - pipe / 2, high + wall + pipe),
        ],
        "vent, always open",
        "pipe",
    )
    shape(
        [
            (drain - pipe / 2, -wall - pipe),
            (drain + pipe / 2, -wall - pipe),
            (drain + pipe / 2, 0),
            (drain - pipe / 2, 0),
        ],
        "drain",
        "pipe",
    )
    probe = long * 0.78
    x0, y0 = at(probe, high + wall + 18 * px)
    x1, y1 = at(probe, high * 0.55)
    canvas.parts.append(canvas.line(x0, y0, x1, y1, "probe"))
    canvas.parts.append(tag("circle", named("thermometer"), cx=num(x1), cy=num(-y1), r=num(4 * px), class_="probe-tip"))
    words = (
        (at(vent, high + wall + pipe), "vent, always open", "start", 8),
        (at(probe, high + wall + 18 * px), "thermometer where the wood is", "middle", 8),
        (at(inlet, -wall - pipe * 1.4), f"steam in, {power}", "middle", -16),
        (at(drain, -wall - pipe), "drain, at the low end", "end", -16),
    )
    for (x, y), message, anchor, off in words:
        spots = [(x, y + off * px, anchor), (x, y + (off * 1.9 + (4 if off > 0 else -6)) * px, anchor)]
        canvas.parts.append(canvas.label(spots, message, "note", 13))
    left, right = at(0, -wall), at(long, -wall)
    foot = min(left[1], right[1]) - pipe - 50 * px
    canvas.parts.append(canvas.arrows(0.0, foot, long, foot))
    canvas.parts.append(canvas.text(long / 2, foot - 16 * px, f"inside {format_length(long, unit)} long", "figure"))
    ready = "not enough steam" if box.warm_up_min is None else f"hot in {box.warm_up_min:.0f} min"
    x, y = canvas.place(16, 22)
    holds = format_temperature(round(box.holds_c), unit)
    message = f"{ready}; box {holds}, {box.changes_per_min:.1f} changes of steam a minute"
    canvas.parts.append(canvas.text(x, y, message, "figure", "start", 14))


def _across(canvas: Canvas, box: Chamber, stock: ChamberLoad, wall: float, unit: Unit) -> None:
    """The section across, so many times larger, at the lower left."""
    high, wide, _ = box.inside_mm
    room_px = CROSS_PX
    scale = room_px * canvas.px / max(high + 2 * wall, (wide + 2 * wall) * 0.55)
    x0, y0 = canvas.place(60, HEIGHT_PX - 24)
    drawn_w, drawn_h = (wide + 2 * wall) * scale, (high + 2 * wall) * scale

    def rect(x: float, y: float, w: float, h: float, message: str, class_: str) -> None:
        left, top = x0 + (x + wall) * scale, y0 + (y + h + wall) * scale
        size = {"x": num(left), "y": num(-top), "width": num(w * scale), "height": num(h * scale)}
        canvas.parts.append(tag("rect", named(message), class_=class_, **size))

    rect(-wall, -wall, wide + 2 * wall, high + 2 * wall, f"walls of {box.wall.name}", "wall")
    rect(0, 0, wide, high, "steam", "steam")
    drawn = 0
    for row in range(box.rows):
        for column in range(box.columns):
            x, y = GAP_MM + column * (stock.width_mm + GAP_MM), GAP_MM + row * (stock.thickness_mm + GAP_MM)
            if drawn >= stock.pieces or x + stock.width_mm > wide + 0.5 or y + stock.thickness_mm > high + 0.5:
                continue
            rect(x, y, stock.width_mm, stock.thickness_mm, "a piece", "strip")
            drawn += 1
    left_px, top_px = canvas.space.at(np.array([[x0, y0 + drawn_h]]))[0]
    canvas.space.take(Box(left_px, top_px, left_px + drawn_w / canvas.px, HEIGHT_PX))
    message = (
        f"section, enlarged {scale:.1f}×",
        f"inside {format_length(high, unit)} high × {format_length(wide, unit)} wide",
        f"{drawn} piece{'s' if drawn != 1 else ''} on racks, {format_length(GAP_MM, unit)} of steam around each",
        f"{box.wall.name}",
    )
    for i, text in enumerate(message):
        y = y0 + (len(message) - i - 1) * 18 * canvas.px + 3 * canvas.px
        canvas.parts.append(canvas.text(x0 + drawn_w + 14 * canvas.px, y, text, "note", "start"))
