"""How to measure run-out: a board on edge, the grain leaving it, the rise over the run."""

from __future__ import annotations

from html import escape

from ..core.common.units import Unit, format_length
from .svg import named, num, tag


def run_out_svg(*, rise_mm: float, run_mm: float, unit: Unit) -> str:
    """A board's face with its grain at the slope measured (true to slope, not to size), rise and run marked."""
    width, height, left, top = 330.0, 74.0, 14.0, 26.0
    slope = rise_mm / run_mm
    lines = []
    for i in range(-6, 14):
        y = top + height - i * 13
        lines.append(f"M{num(left)} {num(y)}L{num(left + width)} {num(y - width * slope)}")
    run_px = 210.0
    rise_px = min(run_px * slope, height - 14)
    x, y = left + 40, top + height - 12
    parts = [
        named("How to measure run-out"),
        tag("clipPath", tag("rect", x=left, y=top, width=width, height=height), id="run-out-board"),
        tag("rect", x=left, y=top, width=width, height=height, class_="strip"),
        tag("path", d="".join(lines), class_="grain", clip__path="url(#run-out-board)"),
        tag("path", d=f"M{num(x)} {num(y)}H{num(x + run_px)}V{num(y - rise_px)}Z", class_="run-out"),
        _text(x + run_px / 2, y + 26, f"run {format_length(run_mm, unit)}", "middle"),
        _text(x + run_px + 8, y - rise_px / 2 + 4, f"rise {format_length(rise_mm, unit)}", "start"),
        _text(left, 16, "Follow one line of grain or a check on the quarter face.", "start"),
    ]
    return tag(
        "svg",
        "".join(parts),
        class_="run-out-drawing",
        viewBox="0 0 360 132",
        role="img",
        xmlns="http://www.w3.org/2000/svg",
    )


def _text(x: float, y: float, text: str, anchor: str) -> str:
    return tag("text", escape(text), x=num(x), y=num(y), text__anchor=anchor, font__size="13", class_="note")
