"""One load at the bench, from the heat or the pot to the form: a bar an operation, to scale in minutes."""

from __future__ import annotations

from collections.abc import Sequence

from ..core.common.operation import Operation
from .canvas import WIDTH_PX, Canvas, Frame
from .steps import lasting
from .svg import named, num, tag

HEIGHT_PX = 440.0
LEFT_PX, RIGHT_PX, TOP_PX, FOOT_PX = 30.0, 30.0, 40.0, 74.0
STEPS_MIN = (1, 2, 5, 10, 15, 30, 60, 120, 240)


def chain(operations: Sequence[Operation]) -> tuple[Operation, ...]:
    """What belongs to one hurry: the last operation with a window, all it follows without a wait, and what heat is made
    for it."""
    of = {o.key: o for o in operations}
    last = next((o for o in reversed(operations) if o.window), None)
    made: list[Operation] = []
    while last is not None:
        made.append(last)
        before = next((a.key for a in last.after if a.most_s == 0), None)
        last = of[before] if before else None
    return tuple(reversed(made))


def run_svg(operations: Sequence[Operation]) -> str:
    """Bars one after another: with hands on it full, by itself pale; the stretch that may not be overrun shaded."""
    own = chain(operations)
    lasts = sum(o.lasts_s for o in own) / 60
    canvas = Canvas(Frame(0.0, HEIGHT_PX, WIDTH_PX, HEIGHT_PX))
    window = own[-1].window if own else None
    begins, at = dict[str, float](), 0.0
    for o in own:
        begins[o.key] = at
        at += o.lasts_s / 60
    limit = begins.get(window.since, 0.0) + window.seconds / 60 if window else 0.0
    most = max(lasts, limit, 1.0) * 1.04
    bottom, top, wide = FOOT_PX, HEIGHT_PX - TOP_PX, WIDTH_PX - LEFT_PX - RIGHT_PX

    def across(minutes: float) -> float:
        return LEFT_PX + wide * minutes / most

    step = next((s for s in STEPS_MIN if most / s <= 12), STEPS_MIN[-1])
    for i in range(int(most / step) + 1):
        x = across(i * step)
        canvas.parts.append(canvas.line(x, bottom, x, top, "grid"))
        canvas.parts.append(canvas.text(x, bottom - 18, f"{i * step} min", "note", size=12))
    if window:
        x0, x1 = across(begins.get(window.since, 0.0)), across(limit)
        size = {"x": num(x0), "y": num(-top), "width": num(max(2.0, x1 - x0)), "height": num(top - bottom)}
        message = f"{window.message}: {lasting(window.seconds)}"
        canvas.parts.append(tag("rect", named(message), class_="run-window-band", **size))
        box = canvas.box(0.0, 0.0, message, "start", 13.0)
        wide_px = box.x1 - box.x0
        at_x = x0 + 6 if x1 - x0 > wide_px + 12 else x1 + 6 if x1 + wide_px + 12 < WIDTH_PX else x0 - 6 - wide_px
        canvas.parts.append(canvas.text(max(12.0, at_x), bottom + 8, message, "note", "start", 13.0))
    row = min(58.0, (top - bottom - 26) / max(1, len(own)))
    for i, o in enumerate(own):
        y, high = top - (i + 1) * row + row * 0.12, row * 0.36
        begin, hands, alone = begins[o.key], o.attended_s.likely / 60, o.unattended_s.likely / 60
        for start, wide_min, look in ((begin, hands, "run-hands"), (begin + hands, alone, "run-alone")):
            if wide_min > 0:
                size = {"x": num(across(start)), "y": num(-y - high), "height": num(high)}
                size["width"] = num(max(3.0, across(start + wide_min) - across(start)))
                canvas.parts.append(tag("rect", named(o.name), class_=look, **size))
        message = f"{i + 1}. {o.name}: {lasting(o.lasts_s)}"
        if o.latest_s is not None:
            message += f", {lasting(o.latest_s)} at the latest"
        box = canvas.box(0.0, 0.0, message, "start", 13.0)
        x = min(across(begin), WIDTH_PX - 12 - (box.x1 - box.x0))
        canvas.parts.append(canvas.text(max(12.0, x), y + high + 5, message, "note", "start", 13.0))
    heading = f"One batch, {lasting(lasts * 60)}; up to {max((o.hands for o in own), default=1)} people"
    canvas.parts.append(canvas.text(16, HEIGHT_PX - 24, heading, "figure", "start", 14))
    canvas.parts.append(canvas.text(16, 22, "dark: hands-on · pale: unattended", "note", "start", 12))
    return canvas.drawn("One batch at the bench, in minutes", "board run-drawing", role="img")
