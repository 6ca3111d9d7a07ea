"""Markup for drawings in mm. The only place where y is turned from up to down."""

from __future__ import annotations

import math
from collections.abc import Iterable
from html import escape

import numpy as np

from ..core.common.arrays import Array
from ..core.shape.curve import Curve


def num(value: float) -> str:
    """A coordinate, to a thousandth, without a tail of zeros."""
    text = f"{value:.3f}".rstrip("0").rstrip(".")
    return "0" if text in ("-0", "") else text


def point(x: float, y: float) -> str:
    """A point of the drawing, y upwards, as markup has it, y downwards."""
    return f"{num(x)} {num(-y)}"


_NAMES: dict[str, str] = {}


def tag(name: str, body: str = "", /, **attributes: object) -> str:
    """One element. A trailing underscore and double underscores make names like class and stroke-width."""
    text = "<" + name
    for key, value in attributes.items():
        if value is None:
            continue
        attribute = _NAMES.get(key)
        if attribute is None:
            attribute = _NAMES[key] = key.rstrip("_").replace("__", "-").replace("_", "-")
        shown = num(value) if type(value) is float else str(value)
        if '"' in shown or "<" in shown or "&" in shown:
            shown = escape(shown, quote=True)
        text += f' {attribute}="{shown}"'
    return f"{text}>{body}</{name}>" if body else text + "/>"


def named(text: str) -> str:
    """What a thing of a drawing is called, whatever signs are in it."""
    return tag("title", escape(text))


def arc_chain(curve: Curve, *, shift: Array | None = None, backwards: bool = False, move: bool = True) -> str:
    """Path data of a curve: true arcs and lines. `shift` (2,) moves it; `backwards` runs it from its end."""
    if curve.lengths_mm.size == 1 and curve.curvature[0]:
        return _one_arc(curve, shift, backwards, move)
    pieces = curve.merged()
    turn = pieces.turns_rad
    most = float(turn.max())
    if most > math.pi / 2:
        pieces = pieces.cut_finer(max(2, math.ceil(most / (math.pi / 2) * pieces.lengths_mm.size)))
    points = pieces.points_mm + (np.zeros(2) if shift is None else shift)
    k = pieces.curvature
    if backwards:
        points, k = points[::-1], -k[::-1]
    data = [("M" if move else "L") + point(*points[0])]
    for (x, y), bend in zip(points[1:], k, strict=True):
        if abs(bend) < 1e-9:
            data.append("L" + point(x, y))
        else:
            r = num(1 / abs(bend))
            data.append(f"A{r} {r} 0 0 {1 if bend > 0 else 0} {point(x, y)}")
    return "".join(data)


def _one_arc(curve: Curve, shift: Array | None, backwards: bool, move: bool) -> str:
    """Path data of a single arc, level at its anchor: x = sin φ / κ, y = (cos φ − 1) / κ."""
    k = float(curve.curvature[0])
    turn, before = curve.length_mm * k, curve.anchored_at_mm * k
    pieces = max(1, math.ceil(abs(turn) / (math.pi / 2)))
    sx, sy = (0.0, 0.0) if shift is None else (float(shift[0]), float(shift[1]))
    sy += curve.anchor_y_mm
    start, step = (turn - before, -turn / pieces) if backwards else (-before, turn / pieces)
    spots = [start + i * step for i in range(pieces + 1)]
    at = [point(math.sin(phi) / k + sx, (math.cos(phi) - 1) / k + sy) for phi in spots]
    r, clockwise = num(1 / abs(k)), (k > 0) != backwards
    return ("M" if move else "L") + at[0] + "".join(f"A{r} {r} 0 0 {int(clockwise)} {p}" for p in at[1:])


def band(inner: Curve, outer: Curve, *, shift: Array | None = None) -> str:
    """Path data of a strip between two parallel faces, closed at its ends."""
    there = arc_chain(outer, shift=shift)
    back = arc_chain(inner, shift=shift, backwards=True, move=False)
    return there + back + "Z"


def polyline(points: Iterable[tuple[float, float]] | Array) -> str:
    """Path data through points."""
    return "M" + "L".join(point(float(x), float(y)) for x, y in points)
