"""The board: the one drawing of a job, in all its stages, with the story stick under it at the same scale."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from html import escape

import numpy as np

from ..core.arrays import Array
from ..core.job import Job
from ..core.learning.built_form import BuiltForm
from ..core.plan import form_face
from ..core.plan_parts import Plan
from ..core.shape.arc import FACES
from ..core.shape.curve import Curve
from ..core.shape.handles import handles
from ..core.shape.outline import fitted
from ..core.shape.shapes import Outline
from ..core.units import Unit, format_length
from .svg import arc_chain, band, num, point, polyline, tag

WIDTH_PX = 780.0  # what the drawing is laid out for; the page scales it
HEIGHT_PX = {"measure": 400.0}
USUAL_HEIGHT_PX = 505.0
SEGMENTS = 36
LENS_SCALES = (2, 3, 4, 5, 8, 10, 15, 20, 30, 40)
KEYS = {
    "target": "wanted",
    "on-form": "on the form",
    "released": "released",
    "settled": "after some weeks",
    "measured": "measured",
}


@dataclass(frozen=True)
class Measured:
    """A measured piece to lay over the prediction: its mid-line, and its name."""

    label: str
    mid_line: Curve


@dataclass(frozen=True)
class OffTheForm:
    """The form as it was built, what was expected off it, and the pieces measured."""

    built: BuiltForm
    pieces: Sequence[Measured]


@dataclass
class Frame:
    """The window of the drawing in mm (y upwards) and how many mm one layout pixel shows."""

    left: float
    top: float
    width: float
    height: float

    @property
    def px(self) -> float:
        return self.width / WIDTH_PX

    @classmethod
    def parse(cls, text: str) -> Frame | None:
        """A frame as `written`, or None when it is not one (a drawing then finds its own)."""
        try:
            numbers = [float(n) for n in text.split()]
        except ValueError:
            return None
        if len(numbers) != 4 or not all(np.isfinite(numbers)) or min(numbers[2:]) <= 0 or max(map(abs, numbers)) > 1e6:
            return None
        return cls(numbers[0], -numbers[1], numbers[2], numbers[3])

    @property
    def written(self) -> str:
        return f"{num(self.left)} {num(-self.top)} {num(self.width)} {num(self.height)}"


@dataclass
class Board:
    """Draws one plan. Coordinates: x from the middle of the part, y above the chord of the face the maker stated."""

    job: Job
    plan: Plan
    stage: str
    unit: Unit
    off_form: OffTheForm | None = None
    frame: Frame | None = None
    parts: list[str] = field(default_factory=list)
    keys: list[str] = field(default_factory=list)
    outlines: dict[int, str] = field(default_factory=dict)
    with_segments: bool = True

    def __post_init__(self) -> None:
        T = self.job.part.thickness_mm
        face = getattr(self.plan.geometry, self.job.shape.face).curve
        ends_y = float(face.points_mm[[0, -1], 1].mean())
        # the crown of the mid-line stands this far above the chord of the stated face
        self.crown_y = -ends_y
        self.half = T / 2
        c = self.plan.curves
        self.target, self.on_form, self.released = c.target.curve, c.on_form.curve, c.released.curve
        self.settled = c.settled.curve
        self.band = (c.released_most_closed.curve, c.released_most_open.curve)
        self.opens_mm = self.plan.springback.tip_mm.likely
        self.measured: Sequence[Measured] = ()
        if self.off_form:  # what was built counts, not what would be built today
            built, self.measured = self.off_form.built, self.off_form.pieces
            self.crown_y += self.target.anchor_y_mm  # what was built is drawn about its own mid-line
            self.target, self.on_form = built.mid_line(built.wanted_curvature), built.mid_line(built.form_curvature)
            self.released, self.opens_mm = built.mid_line(built.expected), built.expected_tip_mm
            self.band = (built.mid_line(built.expected_low), built.mid_line(built.expected_high))
        self.frame = self.frame or self._fit()

    # -- geometry -------------------------------------------------------------------------------------------------
    @property
    def _lift(self) -> Array:
        """From the placement of the curves to that of the board."""
        return np.array([0.0, self.crown_y])

    def _outline(self, curve: Curve) -> str:
        """Path data of the strip bent to a mid-line; drawn more than once, worked out once."""
        known = self.outlines.get(id(curve))
        if known is None:
            faces = (curve.parallel(-self.half), curve.parallel(self.half))
            known = band(*faces, shift=self._lift)
            self.outlines[id(curve)] = known
        return known

    def _blank(self) -> Curve:
        trim = self.job.part.trim_mm
        return self.on_form.lengthened(trim, trim)

    def _fit(self) -> Frame:
        shown = [self.target, self.on_form if self.stage in ("shape", "measure") else self._blank()]
        both = [c.parallel(y) for c in shown for y in (-self.half, self.half)]
        points = np.vstack([c.cut_finer(48).points_mm for c in both]) + self._lift
        if self.stage == "form":
            face = form_face(self.plan)
            points = np.vstack((points, face.outline_points(20.0) + self._lift))
        stick = max(self.plan.stick[-1].inner_mm, self.plan.stick[-1].outer_mm)
        left, right = min(points[:, 0].min(), -stick), max(points[:, 0].max(), stick)
        low, high = min(points[:, 1].min(), 0.0), points[:, 1].max()
        tall, foot = HEIGHT_PX.get(self.stage, USUAL_HEIGHT_PX), 60 if self.stage == "measure" else 150
        px = max((right - left) / (WIDTH_PX - 60), (high - low) / (tall - foot))
        width, height = WIDTH_PX * px, tall * px
        top = high + 34 * px + max(0.0, (height - (high - low) - foot * px) / 2)
        return Frame((left + right) / 2 - width / 2, top, width, height)

    # -- drawing --------------------------------------------------------------------------------------------------
    def svg(self) -> str:
        """The whole drawing. Classes carry the look; the style sheet holds it."""
        assert self.frame is not None
        self._base_line()
        if self.stage == "form":
            self._form()
        self._strip()
        if self.stage in ("build_up", "form", "measure"):
            self._shapes()
            self._lens()
        if self.stage == "shape":
            self._dimensions()
            self._handles()
            self._points()
        if self.stage != "measure":
            self._stick()
        self._key()
        title = (
            f"{self.job.name}: {self.plan.geometry.mid.sweep_deg:.0f}° of arc, chord "
            f"{format_length(self.plan.geometry.mid.chord_mm, self.unit)} and rise "
            f"{format_length(self.plan.geometry.mid.rise_mm, self.unit)} on the mid-line"
        )
        return tag(
            "svg",
            tag("title", escape(title)) + "".join(self.parts),
            class_=f"board board-{self.stage}",
            viewBox=self.frame.written,
            role="group" if self.stage == "shape" else "img",
            data_frame=self.frame.written,
            xmlns="http://www.w3.org/2000/svg",
            preserveAspectRatio="xMidYMid meet",
        )

    def _text(
        self, x: float, y: float, text: str, class_: str = "note", anchor: str = "middle", size: float = 13
    ) -> str:
        px = self.frame.px  # type: ignore[union-attr]
        return tag(
            "text",
            escape(text),
            x=num(x),
            y=num(-y),
            class_=class_,
            text__anchor=anchor,
            font__size=num(size * px),
        )

    def _line(self, x1: float, y1: float, x2: float, y2: float, class_: str) -> str:
        return tag("path", d=f"M{point(x1, y1)}L{point(x2, y2)}", class_=class_)

    def _base_line(self) -> None:
        """The line through both ends, where they lie level."""
        f = self.frame
        assert f is not None
        ends = self.target.points_mm[[0, -1], 1]
        if abs(ends[1] - ends[0]) > 1e-3:
            return
        self.parts.append(self._line(f.left + 12 * f.px, 0.0, f.left + f.width - 12 * f.px, 0.0, "base-line"))

    def _strip(self) -> None:
        """The part at true thickness: at its target while it is shaped, on the form once it is built up."""
        on_form = self.stage in ("build_up", "form")
        curve = self.on_form if on_form else self.released if self.stage == "measure" else self.target
        if on_form and self.job.part.trim_mm:
            self.parts.append(tag("path", tag("title", "trim"), d=self._outline(self._blank()), class_="blank"))
        name = "the part on the form" if on_form else "the part"
        self.parts.append(tag("path", tag("title", name), d=self._outline(curve), class_="strip"))
        if self.stage == "build_up":
            self._laminae()
        if self.with_segments:
            self.parts.append(f'<g class="segments">{self._segments(curve)}</g>')

    def _laminae(self) -> None:
        """Every glue line, and the strip coloured by the use of strain, all along it."""
        thickness = [lamina.thickness_mm for lamina in self.plan.laminae]
        merged = self.on_form.merged()
        starts = merged.stations_mm
        for i, use in enumerate(self.plan.use_along):
            stretch = Curve(merged.lengths_mm[i : i + 1], merged.curvature[i : i + 1])
            if merged.lengths_mm.size > 1:
                points, _ = merged.at(np.linspace(starts[i], starts[i + 1], 24))
                d = polyline(points + self._lift)
            else:
                d = arc_chain(stretch, shift=self._lift)
            level = "easy" if use < 0.5 else "firm" if use < 0.7 else "risky" if use < 0.9 else "breaks"
            self.parts.append(
                tag(
                    "path",
                    tag("title", f"{use:.0%} of breaking strain"),
                    d=d,
                    class_=f"strain strain-{level}",
                    stroke__width=num(2 * self.half),
                    fill="none",
                )
            )
        px = self.frame.px  # type: ignore[union-attr]
        if min(thickness) / px < 0.6:
            return  # too close together to draw
        joints, y = [], -self.half
        for t in thickness[:-1]:
            y += t
            joints.append(arc_chain(self.on_form.parallel(y), shift=self._lift))
        self.parts.append(
            tag("path", tag("title", f"{len(joints)} glue lines"), d="".join(joints), class_="glue-lines")
        )

    def _segments(self, curve: Curve) -> str:
        """Places to point at: the same number stands on the strip and on the stick."""
        stations = np.linspace(0, curve.length_mm, SEGMENTS + 1)
        edges = []
        for y in (-self.half, self.half):
            face = curve.parallel(y)
            on_face = np.interp(stations, curve.stations_mm, face.stations_mm)
            edges.append(face.at(on_face)[0] + self._lift)
        return "".join(
            tag(
                "path",
                d=polyline([edges[0][i], edges[1][i], edges[1][i + 1], edges[0][i + 1]]) + "Z",
                class_="segment",
                data_segment=i,
            )
            for i in range(SEGMENTS)
        )

    def _shapes(self) -> None:
        """Outlines of what the piece was, is and will be."""
        shapes = [("target", self.target), ("on-form", self.on_form)]
        if self.stage != "form" or self.job.form.school != "computed":
            shapes.append(("released", self.released))
        settles = self.plan.springback.settling_tip_mm.value > 0.2 * self.frame.px  # type: ignore[union-attr]
        if self.stage == "build_up" and settles:
            shapes.append(("settled", self.settled))
        for name, curve in shapes:
            self.keys.append(name)
            self.parts.append(tag("path", tag("title", KEYS[name]), d=self._outline(curve), class_=f"outline {name}"))
        for piece in self.measured:
            offset = self._lift
            self.parts.append(
                tag(
                    "path",
                    tag("title", f"{piece.label}, as measured"),
                    d=arc_chain(piece.mid_line, shift=offset),
                    class_="outline measured",
                )
            )
        if self.measured:
            self.keys.append("measured")

    def _lens(self) -> None:
        """The right-hand tip enlarged, where springback is too small to see at the scale of the board."""
        f = self.frame
        assert f is not None
        px, gap = f.px, self.opens_mm
        if gap / px > 60:
            return
        scale = next((s for s in LENS_SCALES if gap / px * s >= 44), LENS_SCALES[-1])
        radius = 74 * px
        strip = self.on_form.cut_finer(48).points_mm + self._lift
        right, left = f.left + f.width - radius - 14 * px, f.left + radius + 130 * px
        low = f.top - f.height + radius + (40 if self.stage == "measure" else 120) * px
        corners = [(right, f.top - radius - 14 * px), (right, low), (left, low)]
        room = [float(np.hypot(*(strip - (x - 50 * px, y)).T).min()) for x, y in corners]
        centre = np.array(corners[0 if room[0] > 1.9 * radius else int(np.argmax(room))])
        tip = self.target.points_mm[-1] + self._lift
        if np.hypot(*(tip - centre)) < radius * 1.2:
            return
        look_at = (self.target.points_mm[-1] + self.on_form.points_mm[-1]) / 2 + self._lift
        move = f"translate({point(*centre)}) scale({scale}) translate({point(*(-look_at))})"
        clip = tag("clipPath", tag("circle", cx=num(centre[0]), cy=num(-centre[1]), r=num(radius)), id="lens-clip")
        rim = centre + (tip - centre) / np.hypot(*(tip - centre)) * radius
        says = ["the tip,", f"{scale} times larger:", f"opens {format_length(gap, self.unit)}"]
        self.parts += [
            self._line(*rim, *tip, "leader"),
            tag("circle", cx=num(centre[0]), cy=num(-centre[1]), r=num(radius), class_="lens"),
            clip,
            f'<g clip-path="url(#lens-clip)">{tag("g", self._lens_lines(scale), transform=move)}</g>',
            tag("circle", cx=num(centre[0]), cy=num(-centre[1]), r=num(radius), class_="lens-rim"),
            *(
                self._text(centre[0] - radius - 10 * px, centre[1] + (16 - 18 * i) * px, text, "note", "end")
                for i, text in enumerate(says)
            ),
        ]

    def _lens_lines(self, scale: float) -> str:
        """Outlines of the tip, or, once pieces are measured, mid-lines, the band to expect and the measured tips."""
        curves = [("target", self.target), ("on-form", self.on_form), ("released", self.released)]
        if not self.measured:
            return "".join(tag("path", d=self._outline(c), class_=f"outline {name}") for name, c in curves)
        shift = self._lift
        reach = np.linspace(self.target.length_mm * 0.8, self.target.length_mm, 12)
        lines = "".join(tag("path", d=polyline(c.at(reach)[0] + shift), class_=f"outline {n}") for n, c in curves[:2])
        ends = [c.points_mm[-1] + shift for c in (self.band[0], self.released, self.band[1])]
        lines += tag(
            "path", tag("title", "where 8 tips in 10 should lie"), d=polyline(np.array(ends)), class_="tip-band"
        )
        px = self.frame.px  # type: ignore[union-attr]
        for piece in self.measured:
            curve = piece.mid_line
            x, y = curve.points_mm[-1] + shift
            near = np.linspace(curve.length_mm * 0.9, curve.length_mm, 6)
            lines += tag("path", d=polyline(curve.at(near)[0] + shift), class_="outline measured")
            lines += tag(
                "circle",
                tag("title", f"piece {escape(piece.label)}"),
                cx=num(x),
                cy=num(-y),
                r=num(4 * px / scale),
                class_="tip-dot",
            )
        return lines

    def _form(self) -> None:
        face = form_face(self.plan)
        self.parts.append(
            tag(
                "pattern",
                tag("path", d="M0 0L0 9", class_="hatch"),
                id="hatch",
                width=9,
                height=9,
                patternUnits="userSpaceOnUse",
                patternTransform=f"scale({num(self.frame.px)}) rotate(45)",  # type: ignore[union-attr]
            )
        )
        outline = polyline(face.outline_points(max(2.0, self.frame.px)) + self._lift) + "Z"  # type: ignore[union-attr]
        self.parts.append(tag("path", tag("title", "the form"), d=outline, class_="form-body", fill="url(#hatch)"))
        self.parts.append(
            tag(
                "path",
                tag("title", "the form face"),
                d=arc_chain(face.curve, shift=self._lift),
                class_="form-face",
            )
        )
        px = self.frame.px  # type: ignore[union-attr]
        stations = np.array([face.part_start_mm, face.middle_mm, face.part_end_mm])
        points, headings = face.curve.at(stations)
        sense = -1.0 if face.side == "inner" else 1.0
        for (x, y), h in zip(points + self._lift, headings, strict=True):
            dx, dy = -np.sin(h) * sense * 22 * px, np.cos(h) * sense * 22 * px
            self.parts.append(self._line(x, y, x + dx, y + dy, "form-mark"))

    def _dimensions(self) -> None:
        """Chord, rise and the tightest radius of the stated face, as a maker would check them."""
        reading = getattr(self.plan.geometry, self.job.shape.face)
        px = self.frame.px  # type: ignore[union-attr]
        curve = reading.curve.cut_finer(96)
        points = curve.points_mm + self._lift
        start, end = points[0], points[-1]
        along = (end - start) / max(1e-9, reading.chord_mm)
        away = np.array([along[1], -along[0]])  # to the right of travel: below an arc that bulges upwards
        depth = (points - start) @ -away
        crown = points[int(np.argmax(np.abs(depth)))]
        low = 26 * px + max(0.0, -float(depth.min()))
        a, b = start + away * low, end + away * low
        middle = (a + b) / 2 + away * 17 * px
        says = f"chord {format_length(reading.chord_mm, self.unit)} · {FACES[self.job.shape.face]}"
        self.parts += [
            self._line(*(start + away * 4 * px), *(a + away * 5 * px), "extension"),
            self._line(*(end + away * 4 * px), *(b + away * 5 * px), "extension"),
            self._arrows(*a, *b),
            self._text(middle[0], middle[1], says, "figure", size=14),
        ]
        foot = crown + away * float((crown - start) @ -away)
        rise = f"rise {format_length(reading.rise_mm, self.unit)}"
        if reading.rise_mm / px > 60:
            beside = crown + (foot - crown) * 0.55
            self.parts.append(self._arrows(*foot, *crown))
            self.parts.append(self._text(beside[0] + 9 * px, beside[1], rise, "figure", "start", 14))
        else:
            self.parts.append(self._text(crown[0], self.crown_y + self.half + 12 * px, rise, "figure", size=14))
        self._tightest(curve, reading.rise_mm)

    def _points(self) -> None:
        """The points an outline was made from, on the curve that was fitted to them."""
        if not isinstance(self.job.shape, Outline):
            return
        fit, px = fitted(self.job.shape.points_mm, self.job.shape.slack_mm), self.frame.px  # type: ignore[union-attr]
        step = max(1, len(fit.placed_mm) // 200)
        face = getattr(self.plan.geometry, self.job.shape.face).curve
        turn = float(face.headings_rad[0] - fit.curve.headings_rad[0])
        c, s = math.cos(turn), math.sin(turn)
        start, there = fit.curve.points_mm[0], face.points_mm[0] + self._lift

        def laid(points: Array) -> Array:
            return np.asarray((points - start) @ np.array([[c, s], [-s, c]]) + there)

        for x, y in laid(fit.placed_mm[::step]):
            self.parts.append(tag("circle", cx=num(x), cy=num(-y), r=num(2.2 * px), class_="fit-point"))
        (place,), _ = fit.curve.at(np.array([fit.at_mm]))
        x, y = laid(place)
        says = f"furthest from the points here: {format_length(fit.largest_mm, self.unit, decimals=2)}"
        ring = tag("circle", tag("title", says), cx=num(x), cy=num(-y), r=num(9 * px), class_="fit-worst")
        self.parts += [ring, self._text(x, y + 16 * px, says, "note faint", size=12)]

    def _tightest(self, curve: Curve, rise_mm: float) -> None:
        """An arrow from inside to the tightest place, a little beside the middle where the whole is one arc."""
        px = self.frame.px  # type: ignore[union-attr]
        k = curve.curvature
        tightest = np.flatnonzero(np.abs(k) > float(np.abs(k).max()) * (1 - 1e-6))
        cell = int(tightest[int(len(tightest) * 0.78)])
        station = float(curve.stations_mm[cell] + curve.lengths_mm[cell] / 2)
        (place,), (heading,) = curve.at(np.array([station]))
        inwards = np.array([math.sin(heading), -math.cos(heading)]) * (1 if k[cell] > 0 else -1)
        radius = 1 / abs(float(k[cell]))
        length = min(radius * 0.42, max(rise_mm * 0.62, 50 * px))
        if length / px > 30:
            tip, tail = place + self._lift, place + self._lift + inwards * length
            below = -14 if inwards[1] < 0 else 8
            self.parts.append(self._arrows(*tail, *tip, both=False))
            says = f"R {format_length(radius, self.unit)}"
            self.parts.append(self._text(tail[0], tail[1] + below * px, says, "figure", size=14))

    def _arrows(self, x1: float, y1: float, x2: float, y2: float, both: bool = True) -> str:
        px = self.frame.px  # type: ignore[union-attr]
        along = np.array([x2 - x1, y2 - y1])
        along = along / max(1e-9, np.hypot(*along))
        across = np.array([-along[1], along[0]])
        heads = []
        for at, sense in (((x2, y2), -1), ((x1, y1), 1))[: 2 if both else 1]:
            tip, base = np.array(at), np.array(at) + sense * along * 9 * px
            heads.append(polyline([base + across * 3 * px, tip, base - across * 3 * px]) + "Z")
        return self._line(x1, y1, x2, y2, "dimension") + tag("path", d="".join(heads), class_="arrow")

    def _handles(self) -> None:
        px = self.frame.px  # type: ignore[union-attr]
        for h in handles(self.job.shape):
            self.parts.append(
                tag(
                    "g",
                    tag("title", h.says)
                    + tag("circle", cx=num(h.x_mm), cy=num(-h.y_mm), r=num(16 * px), class_="reach")
                    + tag("circle", cx=num(h.x_mm), cy=num(-h.y_mm), r=num(7 * px), class_="knob"),
                    class_="handle",
                    data_handle=h.name,
                    tabindex=0,
                    role="button",
                    aria_label=f"{h.says}; arrow keys move it",
                    data_step=num(px * 4),
                )
            )

    def _stick(self) -> None:
        """The strip laid straight, with its marks. Distances are along the face that lies on the form."""
        f = self.frame
        assert f is not None
        px, marks = f.px, self.plan.stick
        on_inner = self.plan.form.side == "inner"
        y = f.top - f.height + 62 * px
        half = 7 * px
        along = [m.inner_mm if on_inner else m.outer_mm for m in marks]
        first, last = along[0], along[-1]
        ends = [x for x, m in zip(along, marks, strict=True) if m.kind == "part_end"]
        self.parts.append(
            tag(
                "rect",
                x=num(first),
                y=num(-y - half),
                width=num(last - first),
                height=num(2 * half),
                class_="stick-blank",
            )
        )
        self.parts.append(
            tag(
                "rect",
                x=num(ends[0]),
                y=num(-y - half),
                width=num(ends[1] - ends[0]),
                height=num(2 * half),
                class_="stick",
            )
        )
        if self.with_segments:
            self.parts.append(f'<g class="segments">{self._stick_segments(ends, y, half)}</g>')
        for x, mark in zip(along, marks, strict=True):
            self.parts.append(self._line(x, y - half - 4 * px, x, y + half + 4 * px, f"stick-mark {mark.kind}"))
            if mark.kind in ("blank_end", "tightest"):
                continue
            taken = (0.0, ends[0] + 45 * px, ends[1] - 45 * px)
            near = any(abs(x - other) < 80 * px for other in taken) and mark.kind != "centre"
            if near and mark.kind != "part_end":
                continue
            label = "centre" if mark.kind == "centre" else format_length(abs(x), self.unit)
            anchor = "middle" if mark.kind != "part_end" else "start" if x < 0 else "end"
            self.parts.append(self._text(x, y - half - 17 * px, label, "note", anchor))
        face = "inner" if on_inner else "outer"
        self.parts.append(
            self._text(
                f.left + f.width / 2,
                y + half + 9 * px,
                f"story stick: finished ends from the centre, along the {face} face",
                "note faint",
                size=12,
            )
        )

    def _stick_segments(self, ends: list[float], y: float, half: float) -> str:
        step = (ends[1] - ends[0]) / SEGMENTS
        size = {"y": num(-y - half), "width": num(step), "height": num(2 * half), "class_": "segment"}
        return "".join(tag("rect", x=num(ends[0] + i * step), data_segment=i, **size) for i in range(SEGMENTS))

    def _key(self) -> None:
        if not self.keys:
            return
        f = self.frame
        assert f is not None
        px = f.px
        x, y = f.left + 16 * px, f.top - 20 * px
        for name in self.keys:
            self.parts.append(self._line(x, y, x + 30 * px, y, f"outline {name}"))
            self.parts.append(self._text(x + 36 * px, y - 4.5 * px, KEYS[name], "note", "start"))
            y -= 19 * px


def board_svg(
    job: Job,
    plan: Plan,
    *,
    stage: str,
    unit: Unit,
    off_form: OffTheForm | None = None,
    frame: Frame | None = None,
    segments: bool = True,
) -> str:
    """The board as SVG markup in mm, true to scale, for page, picture and print.

    `segments`: whether strip and story stick can be pointed at; left out while something is being dragged or typed.
    """
    return Board(job, plan, stage, unit, off_form, frame, with_segments=segments).svg()


def thumbnail_svg(plan: Plan) -> str:
    """The job's own curve as a small line drawing at true proportions."""
    g = plan.geometry
    strip = band(g.inner.curve, g.outer.curve)
    points = np.vstack([c.curve.cut_finer(48).points_mm for c in (g.inner, g.outer)])
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
