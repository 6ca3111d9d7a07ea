"""The board: the one drawing of a job, in all its stages, with the story stick under it at the same scale."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..core.common.arrays import Array
from ..core.common.fineness import format_about, format_estimate
from ..core.common.units import Unit, format_length
from ..core.job.job import Job
from ..core.measuring.built_form import BuiltForm
from ..core.plan.result import Sketch
from ..core.shape.curve import Curve, tip_distance_mm
from ..core.workpiece.bend import Springback, Straight
from .board_form import form_drawn, pressers_drawn, reach, shares_key
from .board_lens import KEYS, tips_named
from .board_marks import own_marks_drawn, own_names
from .board_shape import dimensions, end_cuts, handle_points, handles_drawn, handles_of_the_form, points
from .board_stick import STICK_PX, stick
from .canvas import LEAST_PX, MOST_PX, WIDTH_PX, Canvas, Frame
from .svg import (
    arc_chain,
    band,
    named,
    num,
    polyline,
    tag,
)

SIZE_PX = (WIDTH_PX, 470.0)  # of a board where no page says how large its own is
LEAST_SHARE = 0.66  # of the board's width or height that the piece fills, even where its story stick is much longer
HEAD_PX, SIDE_PX = 26.0, 22.0
SEGMENTS = 36
SHOWS_STRAIN = ("build_up", "bend")  # stages that show how hard the wood is bent


Room = Literal["around", "above", "below", "beside"]
ROOMS: tuple[Room, ...] = ("above", "below", "beside")


@dataclass(frozen=True)
class MeasuredOverlay:
    """A measured piece to lay over the prediction: its mid-line, and its name."""

    label: str
    mid_line: Curve


@dataclass(frozen=True)
class OffTheForm:
    """The form as it was built, what was expected off it, and the pieces measured."""

    built: BuiltForm
    pieces: Sequence[MeasuredOverlay]


def crown_mm(job: Job, plan: Sketch) -> float:
    """How far the anchor of the mid-line stands above the chord of the stated face, where the board has its zero."""
    face = plan.geometry.face(job.shape.face).curve
    return -float(face.points_mm[[0, -1], 1].mean())


class BoardDrawing(Canvas):
    """Draws one plan. Coordinates: x from the middle of the part, y above the chord of the face the maker stated."""

    def __init__(
        self,
        job: Job,
        plan: Sketch,
        stage: str,
        unit: Unit,
        off_form: OffTheForm | None = None,
        frame: Frame | None = None,
        *,
        size_px: tuple[float, float] = SIZE_PX,
        room: Room = "around",
        with_segments: bool = True,
        is_last_try: bool = True,
    ) -> None:
        self.job, self.plan, self.stage, self.unit = job, plan, stage, unit
        self.size_px = size_px
        self.with_segments, self.segments_count = with_segments, SEGMENTS
        self.outlines: dict[int, str] = {}
        self.crown_y, self.half = crown_mm(job, plan), job.part.thickness_mm / 2
        bend = plan.bend
        self.target, self.on_form, self.released = bend.target.merged(), bend.on_form.merged(), bend.likely.merged()
        self.settled = bend.settled.merged()
        self.band = (bend.released[0].merged(), bend.released[2].merged())
        self.keys = KEYS
        self.opens_mm, self.opens_said = bend.tip_mm.likely, format_estimate(bend.tip_mm, unit)
        if isinstance(bend.opens, Straight):  # it springs back from past straight to straight
            past = tip_distance_mm(bend.target.lengths_mm, bend.on_form.curvature, bend.likely.curvature)
            self.opens_mm, self.opens_said = float(past), format_about(float(past), unit)
            self.keys = KEYS | {"on-form": "over the block"}
        self.measured: Sequence[MeasuredOverlay] = ()
        if off_form:  # what was built counts, not what would be built today
            built, self.measured = off_form.built, off_form.pieces
            self.crown_y += self.target.anchor_y_mm  # what was built is drawn about its own mid-line
            self.target, self.on_form = built.mid_line(built.wanted_curvature), built.mid_line(built.form_curvature)
            self.released, self.opens_mm = built.mid_line(built.expected), built.expected_tip_mm
            self.opens_said = format_about(self.opens_mm, unit)
            self.band = (built.mid_line(built.expected_low), built.mid_line(built.expected_high))
        self.parts: list[str] = []
        self.own_marks: list[tuple[str, Array, Array]] = []  # name, and both ends of its line
        self.is_last_try, self.is_cramped = is_last_try, False
        super().__init__(frame or self.fitted(room), self.parts)

    # -- geometry -------------------------------------------------------------------------------------------------
    @property
    def lift(self) -> Array:
        """From the placement of the curves to that of the board."""
        return np.array([0.0, self.crown_y])

    def outline(self, curve: Curve) -> str:
        """Path data of the strip bent to a mid-line; drawn more than once, worked out once."""
        known = self.outlines.get(id(curve))
        if known is None:
            faces = (curve.parallel(-self.half), curve.parallel(self.half))
            known = band(*faces, shift=self.lift)
            self.outlines[id(curve)] = known
        return known

    def _ring_joints(self) -> None:
        """Where the ends of each layer of a closed ring meet."""
        y, mid = -self.half, self.on_form
        laid_up = self.plan.laid_up
        for layer, lamina in zip(laid_up.ring, laid_up.laminae, strict=False) if laid_up else ():
            station = layer.joint_deg / 360 * mid.length_mm
            ends = []
            for offset in (y, y + lamina.thickness_mm):
                face = mid.parallel(offset)
                ends.append(face.at(np.array([station * face.length_mm / mid.length_mm]))[0][0] + self.lift)
            (x1, y1), (x2, y2) = ends
            self.parts.append(self.line(x1, y1, x2, y2, "ring-joint"))
            out = (ends[1] - ends[0]) / lamina.thickness_mm * (self.half - y + 16 * self.px)
            self.parts.append(self.text(x1 + out[0], y1 + out[1], str(layer.number), "note", size=12))
            y += lamina.thickness_mm

    def _blank(self) -> Curve:
        return self.on_form.lengthened(*self.plan.bend.trims_mm)

    def fitted(self, room: Room = "around") -> Frame:
        """The window that holds it all. room: where the board has more of it than the piece needs, in the middle or all
        of it on one side, for the lens to stand in."""
        shown = [self.target, self._blank() if self.stage in (*SHOWS_STRAIN, "form") else self.on_form]
        both = [c.parallel(y) for c in shown for y in (-self.half, self.half)]
        points = np.vstack([c.traced(48) for c in both]) + self.lift
        if self.stage == "form":
            points = np.vstack((points, reach(self) + self.lift))
        low = min(points[:, 1].min(), 0.0)
        if self.stage == "shape":  # below the piece, handles lie where its chord is drawn
            points = np.vstack((points, handle_points(self)))
        left, right, high = points[:, 0].min(), points[:, 0].max(), points[:, 1].max()
        wide_px, tall_px = self.size_px
        foot_px = {"measure": 40.0, "shape": STICK_PX + 50}.get(self.stage, STICK_PX + 12)
        px = max((right - left) / (wide_px - 2 * SIDE_PX), (high - low) / (tall_px - foot_px - HEAD_PX))
        if self.stage != "measure":  # the stick has the same scale, unless it would leave the piece too small
            for_stick = 2 * max(self.plan.stick[-1].inner_mm, self.plan.stick[-1].outer_mm) / (wide_px - 40)
            too_small = max((right - left) / wide_px, (high - low) / tall_px) / LEAST_SHARE
            px = max(px, min(for_stick, too_small))
        width, margin = wide_px * px, SIDE_PX * px
        spare_y = tall_px * px - (high - low) - (foot_px + HEAD_PX) * px
        over = {"above": 1.0, "below": 0.0}.get(room, 0.5)
        start = left - margin if room == "beside" else (left + right - width) / 2
        nearly_even = abs(left + right) < 0.1 * width and min(left, -right) > (margin - width) / 2
        if room != "beside" and nearly_even:  # the stick lies under the piece then, center under center
            start = -width / 2
        return Frame(float(start), float(high + HEAD_PX * px + spare_y * over), width, tall_px * px, wide_px)

    # -- drawing --------------------------------------------------------------------------------------------------
    def svg(self) -> str:
        """The whole drawing. Classes carry the look; the style sheet holds it."""
        self._base_line()
        if self.stage != "measure":
            stick(self)  # it has its place at the foot before anything looks for one
        if self.stage == "form":
            form_drawn(self)
        self._strip()
        if self.stage == "form":
            pressers_drawn(self)
        if self.job.hand_text:
            x, y = self.place(14, 20)
            self.parts.append(self.text(x, y, self.job.hand_text, "figure hand-says", "start", 14))
        if self.stage in (*SHOWS_STRAIN, "form", "measure"):
            shapes = self._shapes()
        if self.stage in (*SHOWS_STRAIN, "form"):
            self._ring_joints()
        if self.stage == "shape":
            handles_drawn(self)
            dimensions(self)
            points(self)
            end_cuts(self)
        if self.stage == "form":
            handles_of_the_form(self)
            shares_key(self)
        if self.stage in (*SHOWS_STRAIN, "form", "measure") and not self.job.shape.is_closed:
            self.is_cramped = not tips_named(self, shapes)
        own_names(self)
        of_pair = f", {self.job.hand_text}" if self.job.hand_text else ""
        title = (
            f"{self.job.name}{of_pair}: {self.plan.geometry.mid.sweep_deg:.0f}° bend, chord "
            f"{format_length(self.plan.geometry.mid.chord_mm, self.unit)} and rise "
            f"{format_length(self.plan.geometry.mid.rise_mm, self.unit)} on the centerline"
        )
        return tag(
            "svg",
            named(title) + "".join(self.parts),
            class_=f"board fitted board-{self.stage}",
            viewBox=self.frame.written,
            role="group" if self.stage in ("shape", "form") else "img",
            data_frame=self.frame.sent,
            xmlns="http://www.w3.org/2000/svg",
            preserveAspectRatio="xMidYMid meet",
        )

    def _base_line(self) -> None:
        """The line through both ends, where they lie level."""
        f = self.frame
        ends = self.target.points_mm[[0, -1], 1]
        if abs(ends[1] - ends[0]) > 1e-3:
            return
        self.parts.append(self.line(f.left + 12 * f.px, 0.0, f.left + f.width - 12 * f.px, 0.0, "base-line"))
        self.space.take_line(np.array([[f.left + 12 * f.px, 0.0], [f.left + f.width - 12 * f.px, 0.0]]), gap_px=1.0)

    def _strip(self) -> None:
        """The part at true thickness: at its target while it is shaped, on the form once it is built up."""
        on_form = self.stage in (*SHOWS_STRAIN, "form")
        curve = self.on_form if on_form else self.released if self.stage == "measure" else self.target
        if on_form and self.plan.bend.trim_mm:
            self.parts.append(tag("path", named("trim"), d=self.outline(self._blank()), class_="blank"))
        whole = self._blank() if on_form else curve
        self.space.take_line(whole.traced(96) + self.lift, self.half, gap_px=5.0)
        name = "the part on the form" if on_form else "the part"
        self.parts.append(tag("path", named(name), d=self.outline(curve), class_="strip"))
        own_marks_drawn(self, curve)
        in_place = self.stage == "form" and self.plan.form.kind == "in_place"
        if self.stage in SHOWS_STRAIN or (in_place and self.plan.laid_up):
            self._laminae()
        if self.with_segments:
            self.parts.append(f'<g class="segments">{self._segments(curve)}</g>')

    def _laminae(self) -> None:
        """Every glue line, and the strip coloured by the use of strain, all along it."""
        use = self.plan.make.use
        said = "breaking strain" if use.of == "strain" else "its limit"
        merged = self.on_form.merged()
        starts = merged.stations_mm
        for i, (share, feel) in enumerate(zip(use.along, use.feels, strict=True)):
            stretch = Curve(merged.lengths_mm[i : i + 1], merged.curvature[i : i + 1])
            if merged.lengths_mm.size > 1:
                points, _ = merged.at(np.linspace(starts[i], starts[i + 1], 24))
                d = polyline(points + self.lift)
            else:
                d = arc_chain(stretch, shift=self.lift)
            self.parts.append(
                tag(
                    "path",
                    named(f"{share:.0%} of {said}"),
                    d=d,
                    class_=f"strain strain-{feel.split()[-1]}",
                    stroke__width=num(2 * self.half),
                    fill="none",
                )
            )
        px = self.px
        laid_up = self.plan.laid_up
        thickness = [lamina.thickness_mm for lamina in laid_up.laminae] if laid_up else []
        if not thickness or min(thickness) / px < 0.6:
            return  # too close together to draw
        joints, y = [], -self.half
        for t in thickness[:-1]:
            y += t
            joints.append(arc_chain(self.on_form.parallel(y), shift=self.lift))
        self.parts.append(tag("path", named(f"{len(joints)} glue lines"), d="".join(joints), class_="glue-lines"))

    def _segments(self, curve: Curve) -> str:
        """Places to point at: the same number stands on the strip and on the stick."""
        stations = np.linspace(0, curve.length_mm, SEGMENTS + 1)
        edges = []
        for y in (-self.half, self.half):
            face = curve.parallel(y)
            on_face = np.interp(stations, curve.stations_mm, face.stations_mm)
            edges.append(face.at(on_face)[0] + self.lift)
        return "".join(
            tag(
                "path",
                d=polyline([edges[0][i], edges[1][i], edges[1][i + 1], edges[0][i + 1]]) + "Z",
                class_="segment",
                data_segment=i,
            )
            for i in range(SEGMENTS)
        )

    def _shapes(self) -> list[tuple[str, Curve]]:
        """Outlines of what the piece was, is and will be, by name, and what was measured."""
        shapes = [("target", self.target), ("on-form", self.on_form)]
        if self.job.shape.is_closed:
            return []
        if self.stage != "form" or self.job.form.school != "computed":
            shapes.append(("released", self.released))
        opens = self.plan.bend.opens
        settles = isinstance(opens, Springback) and opens.settling_tip_mm.value > 0.2 * self.px
        if self.stage in SHOWS_STRAIN and settles:
            shapes.append(("settled", self.settled))
        for name, curve in shapes:
            self.space.take_line(curve.traced(96) + self.lift, self.half)
            self.parts.append(tag("path", named(self.keys[name]), d=self.outline(curve), class_=f"outline {name}"))
        for piece in self.measured:
            offset = self.lift
            self.parts.append(
                tag(
                    "path",
                    named(f"{piece.label}, as measured"),
                    d=arc_chain(piece.mid_line, shift=offset),
                    class_="outline measured",
                )
            )
            self.space.take_line(piece.mid_line.traced(96) + offset)
        return shapes + [("measured", piece.mid_line) for piece in self.measured[-1:]]


def board_svg(
    job: Job,
    plan: Sketch,
    *,
    stage: str,
    unit: Unit,
    off_form: OffTheForm | None = None,
    frame: Frame | None = None,
    size_px: tuple[float, float] = SIZE_PX,
    segments: bool = True,
) -> str:
    """The board as SVG markup in mm, true to scale, for page, picture and print.

    Args:
        job: what is drawn.
        plan: what came of it.
        stage: key of the stage, which says what is shown.
        unit: of the lengths written on it.
        off_form: the form as it was built and pieces measured on it.
        frame: the window to keep, while something is dragged.
        size_px: of the board on the page, so that words have the same size everywhere. Valid: LEAST_PX to MOST_PX;
            what is beyond is brought inside.
        segments: whether strip and story stick can be pointed at; left out while something is dragged or typed.
    """
    wide, tall = (min(max(v, LEAST_PX), MOST_PX) for v in size_px)

    def drawn(room: Room, window: Frame | None = frame, *, is_last: bool = True) -> BoardDrawing:
        size = (wide, tall)
        return BoardDrawing(
            job,
            plan,
            stage,
            unit,
            off_form,
            window,
            size_px=size,
            room=room,
            with_segments=segments,
            is_last_try=is_last,
        )

    board = drawn("around", is_last=frame is not None)
    made = board.svg()
    if not board.is_cramped or frame is not None:
        return made
    for room in ROOMS:  # no room to name what is drawn: the piece to one side of the board
        board = drawn(room, is_last=False)
        made = board.svg()
        if not board.is_cramped:
            return made
    return drawn("around").svg()


def thumbnail_svg(plan: Sketch) -> str:
    """The job's own curve as a small line drawing at true proportions."""
    g = plan.geometry
    strip = band(g.inner.curve, g.outer.curve)
    points = np.vstack([c.curve.traced(48) for c in (g.inner, g.outer)])
    low, high = points.min(axis=0), points.max(axis=0)
    pad = 0.06 * max(high - low)
    view = (
        f"{num(low[0] - pad)} {num(-high[1] - pad)} {num(high[0] - low[0] + 2 * pad)} {num(high[1] - low[1] + 2 * pad)}"
    )
    return tag(
        "svg",
        tag("path", d=strip, class_="strip"),
        class_="thumbnail",
        viewBox=view,
        aria_hidden="true",
        xmlns="http://www.w3.org/2000/svg",
        preserveAspectRatio="xMidYMid meet",
    )
