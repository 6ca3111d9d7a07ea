"""The glue-up drawn: clamps numbered in the order they are closed, and the race of every glue line as a bar."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from ..core.common.arrays import Array
from ..core.common.units import Unit
from ..core.gluing.glue_timing import GlueTiming
from ..core.plan.result import Sketch
from ..core.workpiece.glue_up import GluedUp
from .canvas import WIDTH_PX, Canvas, Frame
from .svg import (
    arc_chain,
    band,
    named,
    num,
    polyline,
    tag,
)

HEIGHT_PX, RACE_PX = 440.0, 440.0
MOST_BARS = 26
LEFT_PX, RIGHT_PX, TOP_PX, FOOT_PX = 70.0, 40.0, 58.0, 48.0


def clamp_places(plan: Sketch, order: Sequence[int]) -> list[tuple[int, Array, Array]]:
    """Each clamp from the left end: its number, where it presses, and the way it stands off."""
    sense, outside = plan.site.sense, plan.bend.blank.parallel(plan.site.sense * plan.job.part.thickness_mm / 2)
    made = []
    for i, number in enumerate(order):
        (foot,), (h,) = outside.at(np.array([(i + 0.5) / len(order) * outside.length_mm]))
        made.append((number, foot, np.array([-math.sin(h), math.cos(h)]) * sense))
    return made


def clamps_svg(plan: Sketch, made: GluedUp, unit: Unit) -> str:
    """The lay-up on its form, every clamp where it presses, numbered in its turn."""
    face, half = plan.face, plan.job.part.thickness_mm / 2
    body, blank = face.outline_points(8.0), plan.bend.blank
    outside = blank.parallel(plan.site.sense * half)
    points = np.vstack((body, outside.traced(48)))
    canvas = Canvas(Frame.around(points, height_px=HEIGHT_PX, margin_px=(96, 80, 50, 80)))
    px = canvas.px
    hatch, turned = tag("path", d="M0 0L0 9", class_="hatch"), f"scale({num(px)}) rotate(45)"
    size = {"width": 9, "height": 9, "patternUnits": "userSpaceOnUse", "patternTransform": turned}
    canvas.parts += [
        tag("pattern", hatch, id="press-hatch", **size),
        tag("path", named("the form"), d=polyline(body) + "Z", class_="form-body", fill="url(#press-hatch)"),
        tag("path", d=arc_chain(face.curve), class_="form-face"),
        tag("path", named("the layup"), d=band(blank.parallel(-half), blank.parallel(half)), class_="strip"),
    ]
    count = len(made.order)
    near = outside.length_mm / max(1, count) / px < 24  # numbers in two rows where clamps stand close
    for i, (number, foot, away) in enumerate(clamp_places(plan, made.order)):
        reach = (30 + (22 if near and i % 2 else 0)) * px
        x, y = foot + away * reach
        canvas.parts.append(canvas.arrows(*(foot + away * (reach - 10 * px)), *foot, both=False, class_="clamp-push"))
        canvas.parts.append(
            tag("circle", named(f"clamp {number}"), cx=num(x), cy=num(-y), r=num(10 * px), class_="order")
        )
        canvas.parts.append(canvas.text(float(x), float(y) - 4 * px, str(number), "order-text", size=12))
    x, y = canvas.place(16, 24)
    message = (
        f"{count} clamps: all snug in this order, then tight in this order"
        if count
        else "no clamps: a bag or a band presses"
    )
    canvas.parts.append(canvas.text(x, y, message, "figure", "start", 14))
    return canvas.drawn("Clamps in the order they are closed", "board clamp-order", role="img")


def race_svg(race: GlueTiming) -> str:
    """A bar for each glue line of the longest go: open while it lies uncovered, closed until there is pressure."""
    most = max(race.lasts_s, race.closed_s) * 1.06
    canvas = Canvas(Frame(0.0, RACE_PX, WIDTH_PX, RACE_PX))
    wide = WIDTH_PX - LEFT_PX - RIGHT_PX

    def across(seconds: float) -> float:
        return LEFT_PX + wide * seconds / most

    bottom, top = FOOT_PX, RACE_PX - TOP_PX
    step = next(s for s in (30, 60, 120, 300, 600, 900, 1800, 3600, 7200, 14400, 43200) if most / s <= 12)
    for i in range(int(most / step) + 1):
        x = across(i * step)
        canvas.parts.append(canvas.line(x, bottom, x, top, "grid"))
        canvas.parts.append(canvas.text(x, bottom - 18, f"{i * step / 60:g} min", "note", size=12))
    shown = race.bars if len(race.bars) <= MOST_BARS else race.bars[:: math.ceil(len(race.bars) / MOST_BARS)]
    row = (top - bottom) / max(1, len(shown))
    for i, bar in enumerate(shown):
        y, high = top - (i + 0.82) * row, row * 0.62
        late = bar.pressed_s - bar.covered_s > race.closed_s or bar.covered_s - bar.spread_s > race.open_s
        for start, end, look in (
            (bar.spread_s, bar.covered_s, "lies-open"),
            (bar.covered_s, bar.pressed_s, "lies-closed"),
        ):
            size = {
                "x": num(across(start)),
                "y": num(-y - high),
                "width": num(across(end) - across(start)),
                "height": num(high),
            }
            message = named(f"line {bar.line}: {look.replace('lies-', '')} for {(end - start) / 60:.1f} min")
            canvas.parts.append(tag("rect", message, class_=f"{look}{' late' if late else ''}", **size))
        if row > 11:
            canvas.parts.append(
                canvas.text(LEFT_PX - 8, y + high * 0.15, f"line {bar.line}", "note", "end", min(12, row * 0.7))
            )
    limit = across(race.bars[0].covered_s + race.closed_s) if race.bars else across(race.closed_s)
    canvas.parts.append(canvas.line(limit, bottom, limit, top + 6, "time time-latest"))
    anchor = "end" if limit > WIDTH_PX - 240 else "start"
    spots = [(limit + (6 if anchor == "start" else -6), top + 8, anchor)]
    canvas.parts.append(canvas.label(spots, "the first line must be clamped", "note", 12))
    canvas.parts.append(canvas.text(16, RACE_PX - 22, _text(race), "figure", "start", 14))
    return canvas.drawn("Open time: each glue line from spreading to clamping", "board race", role="img")


def _text(race: GlueTiming) -> str:
    goes = f", in {race.goes} batches" if race.goes > 1 else ""
    return (
        f"{race.lasts_s / 60:.0f} min from first glue to clamped{goes}; closed time {race.closed_s / 60:.0f} min; "
        f"you use {race.share:.0%}"
    )
