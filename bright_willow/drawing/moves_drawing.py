"""The moves of a hot bend as bars against the time there is, each with whose it is."""

from __future__ import annotations

from collections.abc import Sequence

from ..core.common.operation import Move
from .canvas import WIDTH_PX, Canvas, Frame
from .svg import named, num, tag

HEIGHT_PX = 440.0
LEFT_PX, RIGHT_PX, TOP_PX, FOOT_PX = 40.0, 40.0, 70.0, 48.0
STEPS_S = (5, 10, 30, 60, 120, 300, 600, 1800, 3600, 7200)


def moves_svg(moves: Sequence[Move], window_s: float | None) -> str:
    """One bar a move, one after another; where the wood must be bent by, the line it may not pass."""
    lasts = moves[-1].to_s
    most = max(lasts, window_s or 0.0) * 1.05
    canvas = Canvas(Frame(0.0, HEIGHT_PX, WIDTH_PX, HEIGHT_PX))
    bottom, top, wide = FOOT_PX, HEIGHT_PX - TOP_PX, WIDTH_PX - LEFT_PX - RIGHT_PX

    def across(seconds: float) -> float:
        return LEFT_PX + wide * seconds / most

    step = next((s for s in STEPS_S if most / s <= 12), STEPS_S[-1])
    unit, each = ("s", 1) if step < 60 else ("min", 60)
    for i in range(int(most / step) + 1):
        x = across(i * step)
        canvas.parts.append(canvas.line(x, bottom, x, top, "grid"))
        canvas.parts.append(canvas.text(x, bottom - 18, f"{i * step / each:g} {unit}", "note", size=12))
    row = min(46.0, (top - bottom) / len(moves))
    for i, move in enumerate(moves):
        y, high = top - (i + 0.9) * row, row * 0.34
        late = window_s is not None and move.to_s > window_s
        size = {"x": num(across(move.from_s)), "y": num(-y - high), "height": num(high)}
        size["width"] = num(max(3.0, across(move.to_s) - across(move.from_s)))
        look = f"move-bar{' late' if late else ''}"
        canvas.parts.append(tag("rect", named(move.message), class_=look, **size))
        message = f"{i + 1}. {move.message}: {said_time(move.takes_s)} ({move.who})"
        big = min(13.0, row * 0.42)
        words = canvas.box(0.0, 0.0, message, "start", big)
        x = min(across(move.from_s), WIDTH_PX - 12 - (words.x1 - words.x0))
        canvas.parts.append(canvas.text(max(12.0, x), y + high + 5, message, "note", "start", big))
    if window_s:
        x = across(window_s)
        canvas.parts.append(canvas.line(x, bottom, x, top + 8, "time time-latest"))
        anchor = "end" if x > WIDTH_PX / 2 else "start"
        words = canvas.text(
            x + (-6 if anchor == "end" else 6), bottom + 8, "too cool to bend after this", "note", anchor
        )
        canvas.parts.append(words)
    message = (
        f"{lasts:.0f} s from the box to the last clamp" if window_s else f"{lasts / 60:.0f} min, one after another"
    )
    against = f" of {window_s:.0f} s working time" if window_s else ""
    canvas.parts.append(canvas.text(16, HEIGHT_PX - 24, message + against, "figure", "start", 14))
    if window_s:
        rehearse = "Do a cold dry run until your time stops improving, then save your own times."
        canvas.parts.append(canvas.text(16, HEIGHT_PX - 44, rehearse, "note", "start"))
    return canvas.drawn("The steps, one after another", "board moves", role="img")


def said_time(seconds: float) -> str:
    """Seconds as they are said: in minutes from two on."""
    return f"{seconds:.0f} s" if seconds < 120 else f"{seconds / 60:.0f} min"
