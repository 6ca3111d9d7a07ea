"""A bowed piece bent back over a block, true to scale."""

from __future__ import annotations

import numpy as np

from ..core.common.fineness import format_estimate
from ..core.common.units import Unit, format_length
from ..core.plan.result import Sketch
from ..core.workpiece.workpiece import StraightenedPiece
from .canvas import Canvas, Frame
from .svg import band, named, num, tag

HEIGHT_PX = 440.0
CLAMP_PX = 60.0


def block_svg(plan: Sketch, hot: StraightenedPiece, unit: Unit) -> str:
    """The piece turned over: as it is, and pulled down over the block by the clamps at the ends of the span."""
    half, block = hot.thickness_mm / 2, hot.block
    turned = -1.0 if float((plan.bend.stated.curvature * plan.bend.stated.lengths_mm).sum()) > 0 else 1.0
    bowed = plan.bend.stated.with_curvature(plan.bend.stated.curvature * turned)
    over = plan.bend.on_form.with_curvature(plan.bend.on_form.curvature * turned)
    reach = np.array([-1.0, 1.0]) * block.span_mm / 2
    under = over.parallel(-half)
    held = under.at(np.clip(under.length_mm / 2 + reach, 0, under.length_mm))[0]
    bench = float(held[:, 1].mean())
    ends = np.vstack((bowed.points_mm, over.points_mm, [[0.0, bench]]))
    canvas = Canvas(Frame.around(ends, height_px=HEIGHT_PX, margin_px=(110, 40, 120, 40)))
    px = canvas.px
    left, right = ends[:, 0].min() - 20 * px, ends[:, 0].max() + 20 * px
    for curve in (bowed, over):
        canvas.space.take_line(curve.traced(60), half)
    width = max(40.0, 26 * px)
    top = float(under.traced(60)[:, 1].max())
    canvas.parts += [
        canvas.line(left, bench, right, bench, "bench-top"),
        tag("path", named("as it is"), d=band(bowed.parallel(-half), bowed.parallel(half)), class_="outline target"),
        tag("path", named("over the block"), d=band(under, over.parallel(half)), class_="strip"),
        tag(
            "rect",
            named("block"),
            x=num(-width / 2),
            y=num(-top),
            width=num(width),
            height=num(top - bench),
            class_="stop-block",
        ),
    ]
    for x, y in held:
        head = y + 2 * half
        canvas.parts.append(canvas.arrows(x, head + CLAMP_PX * px, x, head, both=False, class_="pull"))
    canvas.parts.append(canvas.label(canvas.around(held[1][0], held[1][1] + 2 * half + CLAMP_PX * px), "clamp", "note"))
    x, y = bowed.points_mm[-1]
    canvas.parts.append(canvas.label(canvas.around(float(x), float(y), away=14), "as it is, turned over", "note"))
    message = f"block {format_estimate(block.block_mm, unit)}"
    canvas.parts.append(
        canvas.label([(width / 2 + 8 * px, bench - 20 * px, "start"), *canvas.around(0.0, bench)], message, "figure")
    )
    low = bench - 46 * px
    canvas.parts.append(canvas.arrows(float(held[0][0]), low, float(held[1][0]), low))
    span = f"span {format_length(block.span_mm, unit)}"
    canvas.parts.append(canvas.text(0.0, low - 18 * px, span, "figure"))
    x, y = canvas.place(16, 24)
    message = (
        f"bow {format_length(block.bow_mm, unit)} over {format_length(block.base_mm, unit)}; {block.passes} to expect"
    )
    passes = "pass" if block.passes == 1 else "passes"
    canvas.parts.append(canvas.text(x, y, message.replace("to expect", f"{passes} to expect"), "figure", "start", 14))
    return canvas.drawn("The bowed piece over its block, to scale", "board block-drawing", role="img")
