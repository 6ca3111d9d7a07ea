"""The drawing of a shape that cannot be bent: its line, and the places that stop it."""

from __future__ import annotations

import numpy as np

from ..core.common.errors import PlanError
from ..core.common.units import Unit
from ..core.job.job import Job
from .svg import named, num, polyline, tag

WIDTH_PX, HEIGHT_PX = 780.0, 440.0


def refused_svg(job: Job, why: PlanError, unit: Unit) -> str:
    """The stated face as a line with a ring at each place that stops it; nothing when there is no line at all."""
    try:
        curve = job.shape.face_curve()
    except PlanError:
        return ""
    points = curve.traced(240)
    low, high = points.min(axis=0), points.max(axis=0)
    px = max((high[0] - low[0]) / (WIDTH_PX - 120), (high[1] - low[1]) / (HEIGHT_PX - 120), 1e-6)
    centre = (low + high) / 2
    parts = [named(why.message(unit)), tag("path", d=polyline(points), class_="outline target")]
    share = curve.length_mm / max(1e-9, _mid_length(job, curve.length_mm))
    places = np.clip(np.array(_apart(why.at_mm, 14 * px)) * share, 0, curve.length_mm)
    for x, y in curve.at(places)[0] if places.size else ():
        parts.append(tag("circle", cx=num(x), cy=num(-y), r=num(13 * px), class_="stop-ring"))
    view = f"{num(centre[0] - WIDTH_PX / 2 * px)} {num(-centre[1] - HEIGHT_PX / 2 * px)}"
    return tag(
        "svg",
        "".join(parts),
        class_="board board-refused",
        viewBox=f"{view} {num(WIDTH_PX * px)} {num(HEIGHT_PX * px)}",
        role="img",
        xmlns="http://www.w3.org/2000/svg",
        preserveAspectRatio="xMidYMid meet",
    )


def _mid_length(job: Job, face_length_mm: float) -> float:
    """Length the stations of a refusal are of: the mid-line's, or the face's where there is none."""
    from ..core.shape.arc import face_offset_mm

    try:
        return job.shape.face_curve().parallel(-face_offset_mm(job.shape.face, job.part.thickness_mm)).length_mm
    except PlanError:
        return face_length_mm


def _apart(stations: tuple[float, ...], least_mm: float) -> list[float]:
    """Stations in order, those too near to the last one drawn left out."""
    kept: list[float] = []
    for station in sorted(stations):
        if not kept or station - kept[-1] >= least_mm:
            kept.append(station)
    return kept
