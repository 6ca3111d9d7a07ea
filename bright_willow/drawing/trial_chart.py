"""A trial as a chart: pieces that came out whole and that did not, the chance with its band, the setting at 90 %; or a
measured figure against the setting."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..core.common.units import MM_PER_INCH, Unit, format_length
from ..core.trials.threshold import ThresholdEstimate
from ..core.trials.trial import Trial
from ..core.trials.two_sided import BestTime
from .canvas import WIDTH_PX, Canvas, Frame
from .svg import named, num, polyline, tag

HEIGHT_PX = 400.0
LEFT_PX, RIGHT_PX, TOP_PX, FOOT_PX = 64.0, 30.0, 46.0, 56.0
DODGE_PX = 9.0


def trial_svg(trial: Trial, unit: Unit = "mm") -> str:
    """The chart of a trial; with nothing graded yet, its settings on the axis. unit: of its lengths."""
    asked = trial.question
    canvas = Canvas(Frame(0.0, HEIGHT_PX, WIDTH_PX, HEIGHT_PX))
    best = trial.best_time
    made, fit = trial.answer(), trial.line() if not trial.question.asks_whole else None
    curve = best or made
    settings = [p.setting for p in trial.pieces]
    low, high = (curve.settings[0], curve.settings[-1]) if curve else (min(settings) * 0.8, max(settings) * 1.2)
    wide, bottom, top = WIDTH_PX - LEFT_PX - RIGHT_PX, FOOT_PX, HEIGHT_PX - TOP_PX

    def across(v: float) -> float:
        return LEFT_PX + wide * float(np.log(v / low) / np.log(high / low))

    scale = MM_PER_INCH if asked.is_length and unit != "mm" else 1.0
    for v in _ticks(low / scale, high / scale):
        at_px = across(v * scale)
        canvas.parts.append(canvas.line(at_px, bottom, at_px, top, "grid"))
        canvas.parts.append(canvas.text(at_px, bottom - 20, f"{v:g}", "note", size=12))
    canvas.parts.append(canvas.text(WIDTH_PX - RIGHT_PX, 12, asked.unit_said(unit), "note", "end", 12))
    if asked.asks_whole:
        _chances(canvas, trial, curve, across, bottom, top, unit)
    else:
        _figures(canvas, trial, across, bottom, top, unit)
    message = "no piece graded yet"
    if best:
        least, most = (asked.said(v, unit, with_unit=False) for v in (best.best.low, best.best.high))
        message = f"best at {asked.said(best.best.likely, unit)}, likely {least} to {most}"
        for edge, look in ((best.too_short, "time"), (best.best, "time time-latest"), (best.too_long, "time")):
            if low < edge.likely < high:
                canvas.parts.append(canvas.line(across(edge.likely), bottom, across(edge.likely), top, look))
        for edge, name, anchor in ((best.too_short, "too short", "end"), (best.too_long, "too long", "start")):
            aside = across(edge.likely) + (-6 if anchor == "end" else 6)
            canvas.parts.append(canvas.text(aside, top - 14, name, "note", anchor, 12))
    elif made:
        at = made.at_90
        least, most = (asked.said(v, unit, with_unit=False) for v in (at.low, at.high))
        message = f"9 of 10 whole at {asked.said(at.likely, unit)}, likely {least} to {most}"
        for v, look in ((at.low, "time"), (at.likely, "time time-latest"), (at.high, "time")):
            if low < v < high:
                canvas.parts.append(canvas.line(across(v), bottom, across(v), top, look))
    elif fit:
        s, per = fit.slope, 1.0 if unit == "mm" else MM_PER_INCH
        least, likely, most = (f"{v / per:+.3g}" for v in (s.low, s.likely, s.high))
        message = f"{likely} {'mm' if unit == 'mm' else 'in'} for each {asked.unit}, likely {least} to {most}"
    canvas.parts.append(canvas.text(16, HEIGHT_PX - 24, message, "figure", "start", 14))
    return canvas.drawn(trial.name, "board trial-chart", role="img")


def _ticks(low: float, high: float) -> list[float]:
    """Round settings between two."""
    made = []
    for power in range(-2, 6):
        made += [m * 10.0**power for m in (1, 1.5, 2, 3, 4, 5, 7) if low <= m * 10.0**power <= high]
    return made[:: max(1, len(made) // 9)]


def _chances(  # type: ignore[no-untyped-def]
    canvas: Canvas,
    trial: Trial,
    made: ThresholdEstimate | BestTime | None,
    across,
    bottom: float,
    top: float,
    unit: Unit,
) -> None:
    def up(p: float) -> float:
        return bottom + 24 + (top - bottom - 48) * p

    for p in (0.0, 0.5, 0.9, 1.0):
        canvas.parts.append(canvas.line(LEFT_PX, up(p), WIDTH_PX - RIGHT_PX, up(p), "grid"))
        canvas.parts.append(canvas.text(LEFT_PX - 8, up(p) - 4, f"{p:.0%}", "note", "end", 12))
    if made:
        xs = [across(v) for v in made.settings]
        band = [*zip(xs, map(up, made.high), strict=True), *reversed([*zip(xs, map(up, made.low), strict=True)])]
        canvas.parts.append(tag("path", named("8 of 10 fall between"), d=polyline(band) + "Z", class_="trial-band"))
        mid = polyline([*zip(xs, map(up, made.chance), strict=True)])
        canvas.parts.append(tag("path", named("chance of a whole piece"), d=mid, class_="trial-line"))
    beside: dict[tuple[float, bool], int] = {}
    for n, piece in enumerate(trial.pieces, 1):
        if not piece.is_done:
            continue
        whole = piece.is_whole
        k = beside.get((piece.setting, whole), 0)
        beside[piece.setting, whole] = k + 1
        y = up(1.0) - DODGE_PX * k if whole else up(0.0) + DODGE_PX * k
        word = {"splintered": "splintered", "brittle": "broke short"}.get(piece.came, "not whole")
        look, name = ("dot", "whole") if whole else ("dot trial-broken", word)
        size = {"cx": num(across(piece.setting)), "cy": num(-y), "r": 4.5}
        canvas.parts.append(
            tag("circle", named(f"piece {n}, {trial.question.said(piece.setting, unit)}: {name}"), class_=look, **size)
        )


def _figures(canvas: Canvas, trial: Trial, across, bottom: float, top: float, unit: Unit) -> None:  # type: ignore[no-untyped-def]
    seen: Sequence[tuple[float, float]] = [
        (p.setting, p.springback_mm) for p in trial.pieces if p.springback_mm is not None
    ]
    if not seen:
        return
    values = [f for _, f in seen]
    low, high = min(0.0, *values), max(*values, 1.0) * 1.15

    def up(v: float) -> float:
        return bottom + 20 + (top - bottom - 40) * (v - low) / (high - low)

    for v in np.linspace(low, high, 5):
        canvas.parts.append(canvas.line(LEFT_PX, up(v), WIDTH_PX - RIGHT_PX, up(v), "grid"))
        canvas.parts.append(canvas.text(LEFT_PX - 8, up(v) - 4, format_length(float(v), unit), "note", "end", 12))
    fit = trial.line()
    if fit:
        settings = sorted({p.setting for p in trial.pieces})
        xs = [across(s) for s in settings]
        band = [*zip(xs, (up(e.high) for e in fit.at), strict=True)]
        band += reversed([*zip(xs, (up(e.low) for e in fit.at), strict=True)])
        canvas.parts.append(tag("path", named("8 of 10 fall between"), d=polyline(band) + "Z", class_="trial-band"))
        mid = polyline([*zip(xs, (up(e.likely) for e in fit.at), strict=True)])
        canvas.parts.append(tag("path", named("springback"), d=mid, class_="trial-line"))
    for n, (s, f) in enumerate(seen, 1):
        size = {"cx": num(across(s)), "cy": num(-up(f)), "r": 4.5}
        canvas.parts.append(
            tag(
                "circle",
                named(f"{n}: {format_length(f, unit)} at {trial.question.said(s, unit)}"),
                class_="dot",
                **size,
            )
        )
