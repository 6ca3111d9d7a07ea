"""Plies joined of veneer leaves, to scale: how wide each leaf is, where the joints are, and how they are taped."""

from __future__ import annotations

import numpy as np

from ..core.common.units import Unit, format_length
from ..core.stock.veneer_plan import STRAP_MM, JoinedPly, VeneerPlan, straps
from .canvas import Canvas, Frame
from .svg import named, num, tag

HEIGHT_PX, NAME_PX, APART_PX = 250.0, 24.0, 40.0
MARGIN_PX = (34.0, 24.0, 12.0, 24.0)
MOST_PLIES = 4
LEAST_ROW_PX = 15.0  # of a leaf that has its width written on it


def veneer_svg(plan: VeneerPlan, unit: Unit) -> str:
    """The plies in rows, the part running left to right in each; no more than four."""
    shown = plan.plies[:MOST_PLIES]
    columns = min(range(1, len(shown) + 1), key=lambda n: _laid_out(plan, len(shown), n)[0].px)
    frame, step_x, step_y = _laid_out(plan, len(shown), columns)
    canvas = Canvas(frame)
    for i, ply in enumerate(shown):
        left, top = (i % columns) * step_x, -(i // columns) * step_y - NAME_PX * canvas.px
        _ply(canvas, plan, ply, (left, top), unit)
    more = len(plan.plies) - len(shown)
    title = f"{len(plan.plies)} plies of leaves edge to edge" if len(plan.plies) > 1 else "A ply of leaves edge to edge"
    title += f"; {more} more are not drawn" if more else ""
    canvas.parts.append(canvas.text(*canvas.place(16, 22), title, "figure", "start", 14))
    return canvas.drawn(title, "board veneer", role="img")


def _laid_out(plan: VeneerPlan, count: int, columns: int) -> tuple[Frame, float, float]:
    """The window of so many plies in columns, and how far one is from the next, mm: what is between them is in
    pixels, so the scale is found in a few turns."""
    rows, px = -(-count // columns), 0.0
    for _ in range(30):
        step_x, step_y = plan.length_mm + APART_PX * px, plan.wide_mm + NAME_PX * px
        corners = np.array([(0.0, 0.0), ((columns - 1) * step_x + plan.length_mm, -rows * step_y)])
        frame = Frame.around(corners, height_px=HEIGHT_PX, margin_px=MARGIN_PX)
        px = frame.px
    return frame, step_x, step_y


def _ply(canvas: Canvas, plan: VeneerPlan, ply: JoinedPly, at: tuple[float, float], unit: Unit) -> None:
    """One ply under its name. at: its upper left corner, mm."""
    px, long = canvas.px, plan.length_mm
    left, top = at
    side = "show face: tape outside" if ply.shows else "tape off before the glue-up"
    name = f"ply {ply.number}, {ply.name.lower()}; {side}"
    canvas.parts.append(canvas.text(left, top + 8 * px, name, "note", "start", 13))
    edge = top
    for i, wide in enumerate(ply.widths_mm):
        size = {"x": num(left), "y": num(-edge), "width": num(long), "height": num(wide)}
        kind = "veneer-leaf is-turned" if i % 2 else "veneer-leaf"
        canvas.parts.append(tag("rect", named(f"leaf {i + 1}"), class_=kind, **size))
        if wide > LEAST_ROW_PX * px:
            text = format_length(wide, unit)
            canvas.parts.append(canvas.text(left + long / 2, edge - wide / 2 - 4.5 * px, text, "figure", size=12))
        edge -= wide
    for joint in ply.joints_mm:
        y = top - joint
        canvas.parts.append(canvas.line(left, y, left + long, y, "veneer-tape"))
        half = min(STRAP_MM / 2, min(ply.widths_mm) * 0.45)
        for x in np.linspace(left, left + long, straps(long)):
            canvas.parts.append(canvas.line(x, y - half, x, y + half, "veneer-tape"))
