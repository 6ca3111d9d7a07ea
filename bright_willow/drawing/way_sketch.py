"""What each way springs back, in small drawings at one scale: the piece wanted, and where it lies on its form."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..core.plan.compare import MethodFigures
from ..core.shape.curve import Curve
from .svg import band, named, num, tag

PAD = 0.06


def way_sketches(made: Sequence[MethodFigures | None]) -> list[str]:
    """One drawing a way, all in the same window; nothing for a way that cannot be."""
    found = [m for m in made if m]
    if not found:
        return ["" for _ in made]
    every = [c.traced(48) for m in found for c in _faces(m.wanted, m) + _faces(m.on_form, m)]
    low, high = np.vstack(every).min(axis=0), np.vstack(every).max(axis=0)
    pad = PAD * float((high - low).max())
    wide, tall = (float(v) + 2 * pad for v in high - low)
    window = f"{num(float(low[0]) - pad)} {num(-float(high[1]) - pad)} {num(wide)} {num(tall)}"
    return [_one(m, window) if m else "" for m in made]


def _faces(curve: Curve, made: MethodFigures) -> tuple[Curve, Curve]:
    half = made.thickness_mm / 2
    return curve.parallel(-half), curve.parallel(half)


def _one(made: MethodFigures, window: str) -> str:
    parts = [
        named("finished shape, filled; on the form, outlined"),
        tag("path", d=band(*_faces(made.wanted, made)), class_="strip"),
        tag("path", d=band(*_faces(made.on_form, made)), class_="outline on-form"),
    ]
    return tag(
        "svg",
        "".join(parts),
        class_="way-sketch",
        viewBox=window,
        role="img",
        xmlns="http://www.w3.org/2000/svg",
        preserveAspectRatio="xMidYMid meet",
    )
