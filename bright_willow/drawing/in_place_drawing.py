"""Bent in place: the finished part, each lamina as it goes on against it, its clamps and the pull at either end."""

from __future__ import annotations

import math

import numpy as np

from ..core.common.units import Unit, format_force, format_length
from ..core.form.face import FormFace
from ..core.plan.result import Sketch
from ..core.workpiece.workpiece import GluedLayup, Lamina
from .canvas import Canvas, Frame
from .svg import (
    arc_chain,
    band,
    named,
    num,
    polyline,
    tag,
)

HEIGHT_PX = 440.0
MOST_STEPS, MOST_CLAMPS = 16, 24
ARROW_PX = 56.0


def steps_shown(laid_up: GluedLayup) -> list[int]:
    """Which laminae are drawn going on, counted from the part: every one, or of many a few up to the last."""
    count = len(laid_up.laminae)
    return sorted({round(n) for n in np.linspace(1, count, min(count, MOST_STEPS))})


def in_place_svg(plan: Sketch, laid_up: GluedLayup, unit: Unit) -> str:
    """A step for each lamina that goes on, the last of them shown; a slider changes which."""
    face, sense = plan.face, plan.site.sense
    body = face.outline_points(6.0)
    out = plan.bend.blank.parallel(sense * plan.job.part.thickness_mm / 2).traced(48)
    canvas = Canvas(Frame.around(np.vstack((body, out)), height_px=HEIGHT_PX, margin_px=(120, 110, 40, 110)))
    px = canvas.px
    hatch, turned = tag("path", d="M0 0L0 9", class_="hatch"), f"scale({num(px)}) rotate(45)"
    size = {"width": 9, "height": 9, "patternUnits": "userSpaceOnUse", "patternTransform": turned}
    canvas.parts += [
        tag("pattern", hatch, id="place-hatch", **size),
        tag("path", named("the finished part"), d=polyline(body) + "Z", class_="form-body", fill="url(#place-hatch)"),
        tag("path", d=arc_chain(face.curve), class_="form-face"),
    ]
    canvas.space.take_area(body[:: max(1, len(body) // 200)])
    middle = face.laid(body).mean(axis=0)
    spot = body[int(np.argmin(np.hypot(*(face.laid(body) - middle).T)))]
    canvas.parts.append(canvas.label(canvas.around(*spot, away=14), "the finished part", "note"))
    ordered = laid_up.laminae if sense > 0 else laid_up.laminae[::-1]
    shown = steps_shown(laid_up)
    for i, count in enumerate(shown):
        own = Canvas(canvas.frame)
        own.space.cells |= canvas.space.cells
        _step(own, plan, face, ordered[:count], sense, unit)
        name = "step now" if i == len(shown) - 1 else "step"
        canvas.parts.append(tag("g", "".join(own.parts), class_=name, data_step=i))
    return canvas.drawn("Strip by strip against the finished part, to scale", "board in-place", role="img")


def _step(canvas: Canvas, plan: Sketch, face: FormFace, on: tuple[Lamina, ...], sense: float, unit: Unit) -> None:
    """Some laminae on the part, the last of them being clamped."""
    half, px = plan.job.part.thickness_mm / 2, canvas.px
    y = -half * sense
    for i, lamina in enumerate(on):
        faces = (plan.bend.blank.parallel(y), plan.bend.blank.parallel(y + sense * lamina.thickness_mm))
        look = "strip" if i == len(on) - 1 else "strip set"
        canvas.parts.append(tag("path", named(f"strip {lamina.number}"), d=band(*faces), class_=look))
        y += sense * lamina.thickness_mm
    outside = plan.bend.blank.parallel(y)
    canvas.space.take_line(outside.traced(60), gap_px=4)
    clamps = min(plan.form.clamps, MOST_CLAMPS)
    for i in range(clamps):
        (foot,), (h,) = outside.at(np.array([(i + 0.5) / clamps * outside.length_mm]))
        away = np.array([-math.sin(h), math.cos(h)]) * sense
        canvas.parts.append(canvas.arrows(*(foot + away * 26 * px), *foot, both=False, class_="clamp-push"))
    last = on[-1]
    for station, is_named in ((0.0, False), (outside.length_mm, True)):
        (foot,), (h,) = outside.at(np.array([station]))
        away = np.array([-math.sin(h), math.cos(h)]) * sense
        tail = foot + away * ARROW_PX * px
        canvas.parts.append(canvas.arrows(*tail, *foot, both=False, class_="pull"))
        if is_named:
            message = f"pull {format_force(last.pull_n, unit)}"
            canvas.parts.append(canvas.label(canvas.around(*tail), message, "figure of-pull"))
    x, top = canvas.place(16, 24)
    message = f"strip {last.number} of {len(plan.laid_up.laminae) if plan.laid_up else 1}"
    message += f", cut to {format_length(last.cut_length_mm, unit)}"
    canvas.parts.append(canvas.text(x, top, message, "figure", "start", 14))
    x, top = canvas.place(16, 44)
    how = f"{plan.form.clamps} pins or clamps from the middle outward; then the next strip at once"
    canvas.parts.append(canvas.text(x, top, how, "note", "start"))
