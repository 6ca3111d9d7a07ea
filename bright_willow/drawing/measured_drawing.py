"""Pieces measured, along their whole length against what was expected of them, and over days."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..core.common.arrays import Array
from ..core.common.units import MM_PER_INCH, Unit, format_length
from ..core.measuring.built_form import BuiltForm
from ..core.measuring.profile_readings import ProfileDeviation, opened
from .canvas import WIDTH_PX, Canvas, Frame
from .svg import named, polyline, tag

HIGH_PX = 380.0
LEFT_PX, RIGHT_PX, FOOT_PX, TOP_PX = 66.0, 120.0, 46.0, 30.0
LEAST_MM = 1.0


@dataclass(frozen=True)
class PieceOverlay:
    """A piece beside what was expected: what it is called, and where it lies."""

    label: str
    beside: ProfileDeviation


@dataclass(frozen=True)
class PieceHistory:
    """A piece measured over days: what it is called, days since the first, tips from where they are wanted, mm."""

    label: str
    days: Sequence[float]
    tips_mm: Sequence[float]


def along_svg(built: BuiltForm, pieces: Sequence[PieceOverlay], unit: Unit = "mm") -> str:
    """Opened beyond what was expected (above 0) against the place along the piece, left end to right end: the band
    expected, what is wanted, each piece, and its readings where they have a place."""
    canvas = Canvas(Frame(0.0, HIGH_PX, WIDTH_PX, HIGH_PX))
    at = np.linspace(0.0, 1.0, 61)
    expected = built.mid_line(built.expected)
    low, high = (opened(built.mid_line(k), expected, at) for k in (built.expected_low, built.expected_high))
    wanted = opened(built.mid_line(built.wanted_curvature), expected, at)
    lines = [p.beside.off_expected for p in pieces]
    spots = [p.beside.seen[:, 1] for p in pieces if len(p.beside.seen)]
    y = _axis(canvas, [low, high, wanted, *lines, *spots], unit)

    def x(share: float) -> float:
        return LEFT_PX + (WIDTH_PX - LEFT_PX - RIGHT_PX) * min(max(share, -0.02), 1.02)

    def line(values: Array) -> list[tuple[float, float]]:
        return [(x(float(s)), y(float(v))) for s, v in zip(at, values, strict=True)]

    band = [*line(low), *reversed(line(high))]
    title = named("expected: 8 of 10 fall between")
    canvas.parts.append(tag("path", title, d=polyline(band) + "Z", class_="trial-band"))
    canvas.parts.append(tag("path", named("finished shape"), d=polyline(line(wanted)), class_="wanted-line"))
    for share, name, anchor in ((0.0, "left end", "start"), (0.5, "middle", "middle"), (1.0, "right end", "end")):
        canvas.parts.append(canvas.line(x(share), FOOT_PX, x(share), HIGH_PX - TOP_PX, "grid"))
        canvas.parts.append(canvas.text(x(share), FOOT_PX - 20, name, "note", anchor, 12))
    words: list[tuple[float, str]] = [(y(float(wanted[-1])), "finished shape")]
    for n, piece in enumerate(pieces):
        d = polyline(line(piece.beside.off_expected))
        canvas.parts.append(tag("path", named(f"piece {piece.label}"), d=d, class_=f"settling of-{n % 3}"))
        words.append((y(float(piece.beside.off_expected[-1])), piece.label))
        for share, mm in piece.beside.seen:
            mark = named(f"piece {piece.label}: read here")
            spot = tag("circle", mark, cx=x(float(share)), cy=-y(float(mm)), r=3.5, class_=f"settled of-{n % 3}")
            canvas.parts.append(spot)
    _names(canvas, words)
    canvas.parts.append(canvas.text(WIDTH_PX - 12, 8, "sprang back beyond the range", "note", "end", 12))
    return canvas.drawn("Pieces along their whole length", "board settling-chart", role="img")


def days_svg(pieces: Sequence[PieceHistory], unit: Unit = "mm") -> str:
    """How far tips lie from where they are wanted (opened above 0), day by day since each piece was first measured."""
    canvas = Canvas(Frame(0.0, HIGH_PX, WIDTH_PX, HIGH_PX))
    most = max(7.0, *(max(p.days) for p in pieces)) * 1.05
    y = _axis(canvas, [np.array(p.tips_mm) for p in pieces], unit)

    def x(day: float) -> float:
        return LEFT_PX + (WIDTH_PX - LEFT_PX - RIGHT_PX) * day / most

    for day in steps(most):
        canvas.parts.append(canvas.line(x(day), FOOT_PX, x(day), HIGH_PX - TOP_PX, "grid"))
        canvas.parts.append(canvas.text(x(day), FOOT_PX - 20, f"{day:g}", "note", size=12))
    words = []
    for n, piece in enumerate(pieces):
        spots = [(x(d), y(t)) for d, t in zip(piece.days, piece.tips_mm, strict=True)]
        canvas.parts.append(
            tag("path", named(f"piece {piece.label}"), d=polyline(spots), class_=f"settling of-{n % 3}")
        )
        canvas.parts += [tag("circle", cx=a, cy=-b, r=4.0, class_=f"settled of-{n % 3}") for a, b in spots]
        words.append((spots[-1][1], piece.label))
    _names(canvas, words)
    message = "days since first measured; ends off the finished shape, above 0 is open"
    canvas.parts.append(canvas.text(WIDTH_PX - 12, 8, message, "note", "end", 12))
    return canvas.drawn("Pieces over days", "board settling-chart", role="img")


def _axis(canvas: Canvas, values: Sequence[Array], unit: Unit):  # type: ignore[no-untyped-def]
    """The scale of lengths, drawn; returns where a length stands."""
    ends = np.concatenate([np.atleast_1d(v) for v in values if np.size(v)] or [np.zeros(1)])
    low, high = min(0.0, float(ends.min())), max(0.0, float(ends.max()))
    low, high = min(low, -0.1 * (high - low), -LEAST_MM), max(high, 0.1 * (high - low), LEAST_MM)

    def y(mm: float) -> float:
        return FOOT_PX + (HIGH_PX - FOOT_PX - TOP_PX) * (mm - low) / (high - low)

    one = 1.0 if unit == "mm" else MM_PER_INCH
    step = steps((high - low) / one)[0]
    for n in range(math.ceil(low / one / step), math.floor(high / one / step) + 1):
        mm = n * step * one
        canvas.parts.append(canvas.line(LEFT_PX, y(mm), WIDTH_PX - RIGHT_PX, y(mm), "grid" if n else "base-line"))
        message = "0" if n == 0 else format_length(mm, unit, with_unit=False)
        canvas.parts.append(canvas.text(LEFT_PX - 8, y(mm) - 4, message, "note", "end", 12))
    return y


def _names(canvas: Canvas, words: list[tuple[float, str]]) -> None:
    """Names at the right-hand ends of lines, none over another."""
    last = -1e9
    for at, message in sorted(words):
        last = max(at, last + 15)
        canvas.parts.append(canvas.text(WIDTH_PX - RIGHT_PX + 8, last - 4, message[:16], "note", "start", 12))


def steps(most: float) -> list[float]:
    """Some three to eight round steps from 0 to a most above 0."""
    rough = most / 5
    power = 10.0 ** math.floor(math.log10(rough))
    step = next(m * power for m in (1, 2, 2.5, 5, 10) if m * power >= rough * (1 - 1e-9))
    return [round(i * step, 10) for i in range(1, int(most / step + 1e-9) + 1)]
