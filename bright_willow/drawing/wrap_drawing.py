"""A hot piece on its way round the form: strap, stops, shims, levers, end thrust, and the pull as it points."""

from __future__ import annotations

import math

import numpy as np

from ..core.common.arrays import Array
from ..core.common.errors import PlanError
from ..core.common.fineness import format_about
from ..core.common.units import Unit, format_force
from ..core.heat.steam_plan import SteamHeat
from ..core.heat.strap_mechanics import Strap
from ..core.heat.wrapping import EndPull, WrapPosition
from ..core.plan.result import Sketch
from ..core.workpiece.workpiece import HotBlank
from .canvas import Canvas, Frame
from .svg import (
    named,
    num,
    polyline,
    tag,
)

HEIGHT_PX = 440.0
SHOWN_FIRST = 5  # of the nine steps: under way, where every part can be told from the others
STOP_MM, SHIM_MM = 30.0, 4.0
SEEN_PX = 6.0  # between two points a line is drawn by
ARROW_PX = 58.0


def wrap_svg(plan: Sketch, unit: Unit) -> str:
    """Every step of the way as a group of its own, one of them shown; a slider changes which."""
    hot = plan.hot
    assert isinstance(hot, HotBlank)
    strap = hot.heat.strap if isinstance(hot.heat, SteamHeat) else None
    steps = plan.wrapping
    body = plan.face.outline_points(10.0)
    hands = np.array([p.at for s in steps for p in s.pulls])
    ends = np.vstack([s.laid(s.mid.points_mm) for s in steps[::4]])
    canvas = Canvas(Frame.around(np.vstack((body, hands, ends)), height_px=HEIGHT_PX, margin_px=(64, 60, 60, 60)))
    px = canvas.px
    hatch = tag("path", d="M0 0L0 9", class_="hatch")
    turned = f"scale({num(px)}) rotate(45)"
    canvas.parts += [
        tag(
            "pattern", hatch, id="wrap-hatch", width=9, height=9, patternUnits="userSpaceOnUse", patternTransform=turned
        ),
        tag("path", named("the form"), d=polyline(body) + "Z", class_="form-body", fill="url(#wrap-hatch)"),
    ]
    for i, step in enumerate(steps):
        own = Canvas(canvas.frame)
        own.space.take_area(body)
        _step(own, step, hot.thickness_mm, strap, unit)
        shown = "step now" if i == SHOWN_FIRST else "step"
        canvas.parts.append(tag("g", "".join(own.parts), class_=shown, data_step=i))
    return canvas.drawn("The piece being bent around the form, to scale", "board wrap-drawing", role="img")


def _step(canvas: Canvas, step: WrapPosition, thickness_mm: float, strap: Strap | None, unit: Unit) -> None:
    px, mid, half = canvas.px, step.mid.merged(), thickness_mm / 2
    sense = step.sense
    cells = max(60, math.ceil(mid.length_mm / (SEEN_PX * px)))
    canvas.space.take_line(step.laid(mid.traced(60)), half + 6 * px)
    sides = [step.laid(mid.parallel(off).traced(cells)) for off in (-half, half)]
    outline = polyline(np.vstack((sides[0], sides[1][::-1]))) + "Z"
    canvas.parts.append(tag("path", named("the piece"), d=outline, class_="strip"))
    thick = max(3 * px, 1.5)
    if strap:
        try:
            line = polyline(step.laid(mid.parallel(sense * (half + thick / 2)).traced(cells)))
            canvas.parts.append(tag("path", named("the strap"), d=line, class_="strap", stroke__width=num(thick)))
        except PlanError:  # against a bend the other way it stands off
            pass
    points, headings = step.laid(mid.points_mm), mid.headings_rad + step.turned_rad
    pulls = {p.side: p for p in step.pulls}
    for end, side, out in ((0, "left", -1.0), (-1, "right", 1.0)):
        along = np.array([np.cos(headings[end]), np.sin(headings[end])]) * out
        away = np.array([-np.sin(headings[end]), np.cos(headings[end])]) * sense
        if strap:
            _stop(canvas, points[end], along, away, half, thick, is_right=out > 0)
        if side in pulls:
            _pull(canvas, points[end], pulls[side], unit, is_named=side == step.pulls[-1].side)
        if strap and out > 0:
            tail = points[end] + along * (STOP_MM + ARROW_PX * px)
            canvas.parts.append(canvas.arrows(*tail, *(points[end] + along * STOP_MM), both=False, class_="thrust"))
            message = f"end pressure {format_force(strap.thrust_n, unit)}"
            canvas.parts.append(canvas.label(canvas.around(*tail), message, "note of-thrust"))
    far = {0.0: "straight", 1.0: "closed"}.get(step.share, f"{step.share:.0%} around")
    strain = f"inside compressed {-step.inner:.1%}, outside stretched {step.outer:.1%}"
    x, y = canvas.place(16, 24)
    canvas.parts.append(canvas.text(x, y, f"{far}, {step.turned_deg:.0f}°: {strain}", "figure", "start", 14))
    arm = (
        f"pull {format_force(step.pulls[-1].pull_n, unit)} at {format_about(step.pulls[-1].arm_mm, unit)} from the bend"
    )
    x, y = canvas.place(16, 44)
    canvas.parts.append(canvas.text(x, y, arm, "note", "start"))


def _stop(canvas: Canvas, end: Array, along: Array, away: Array, half: float, thick: float, *, is_right: bool) -> None:
    """The end stop, and on the right the shim that takes up the play."""
    foot, top = end - away * half, end + away * (half + thick)
    shim = SHIM_MM if is_right else 0.0
    if is_right:
        corners = [foot, foot + along * shim, end + away * half + along * shim, end + away * half]
        canvas.parts.append(tag("path", named("shim"), d=polyline(corners) + "Z", class_="shim"))
    block = [foot + along * shim, foot + along * (shim + STOP_MM), top + along * (shim + STOP_MM), top + along * shim]
    canvas.space.take_area(np.array(block))
    canvas.parts.append(tag("path", named("end stop"), d=polyline(block) + "Z", class_="stop-block"))
    if is_right:
        middle = np.mean(block, axis=0)
        canvas.parts.append(canvas.label(canvas.around(*middle, away=26), "stop and shim", "note"))


def _pull(canvas: Canvas, end: Array, pull: EndPull, unit: Unit, *, is_named: bool) -> None:
    """The lever from the end of the piece to the hand, and the pull there."""
    at, px = np.array(pull.at), canvas.px
    canvas.parts.append(tag("path", named("lever"), d=polyline([end, at]), class_="lever"))
    canvas.space.take_line(np.array([end, at]))
    tip = at + np.array(pull.towards) * ARROW_PX * px
    canvas.parts.append(canvas.arrows(*at, *tip, both=False, class_="pull"))
    if is_named:
        message = f"pull {format_force(pull.pull_n, unit)}"
        spots = [*canvas.around(*(at - np.array(pull.towards) * 16 * px)), *canvas.around(*tip)]
        canvas.parts.append(canvas.label(spots, message, "figure of-pull"))
