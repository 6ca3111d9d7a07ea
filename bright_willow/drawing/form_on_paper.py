"""The wood on its form, printed: to scale across the page, every clamp in its turn, its figures on it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely
from shapely.geometry import LineString, Point, Polygon, box

from ..core.common.arrays import Array
from ..core.common.units import Unit, format_length
from ..core.plan.result import Plan
from .flowing import MM, drawn
from .press_drawing import clamp_places
from .print_font import font, text_width

TALL = 1.3  # times its width, from which a drawing is laid on its side
EDGE_MM, CLAMPS_MM, FOOT_MM = 3.0, 16.0, 9.0  # around the drawing, without and with clamps; more of it at the foot
BELOW_MM = 7.0  # from the ends to a measured line outside them
FIGURE_PT, LEAST_LINE_MM = 13.0, 25.0  # of the type of a figure; a line shorter than that is not measured on
CLEAR_MM = 0.8  # between a figure and a line
NUMBER_MM = 2.6  # radius of the circle around the number of a clamp


@dataclass(frozen=True)
class PaperFigure:
    """A figure on the drawing, mm from its lower left corner: where its text stands, and the line it measures."""

    text: str
    x: float
    y: float
    line: tuple[tuple[float, float], tuple[float, float]]

    @property
    def box(self) -> Polygon:
        """The place its text takes."""
        half, high = text_width(self.text, FIGURE_PT, bold=True) / MM / 2 + 0.8, FIGURE_PT / MM
        return box(self.x - half, self.y - 0.35 * high, self.x + half, self.y + 0.9 * high)


Line = tuple[Array, Array]  # from one place to another, mm


def _tightest(face: Array, *, is_one_arc: bool) -> list[int]:
    """Points of a face at which its least radius may be pointed at, the best first."""
    count = len(face)
    if is_one_arc:
        return [int(count * share) for share in (0.3, 0.7, 0.2, 0.8, 0.4, 0.6)]
    steps = np.diff(face, axis=0)
    turns = np.abs(np.diff(np.unwrap(np.arctan2(steps[:, 1], steps[:, 0]))))
    tight = np.flatnonzero(turns > 0.97 * turns.max()) + 1
    return [int(tight[int(len(tight) * share)]) for share in (0.5, 0.25, 0.75, 0.0)]


def _spots(text: str, start: Array, end: Array, *, ends_at_text: bool) -> Iterator[tuple[float, float]]:
    """Where the text of a line may stand: on it from its middle outward, or at its end; else beside it."""
    shares = np.linspace(0.04, 0.96, 47)
    places = [
        start + (end - start) * s for s in (shares if ends_at_text else sorted(shares, key=lambda s: abs(s - 0.5)))
    ]
    yield from ((float(x), float(y)) for x, y in places)
    if not ends_at_text:
        half, high = text_width(text, FIGURE_PT, bold=True) / MM / 2 + 2.5, FIGURE_PT / MM + 1.0
        asides = ((half, 0.0), (-half, 0.0), (0.0, -high), (0.0, high * 0.6))
        yield from ((float(x + dx), float(y + dy)) for x, y in places for dx, dy in asides)


class FormOnPaper:
    """The drawing with what finds a place on it. figures: those on it; missing: what has no clear place, as text.

    wide_mm: of the drawing; most_mm: its greatest height.
    """

    def __init__(self, plan: Plan, wide_mm: float, most_mm: float, unit: Unit) -> None:
        face, half = plan.face, plan.job.part.thickness_mm / 2
        self.clamps = clamp_places(plan, plan.glued_up.order) if plan.glued_up else []
        body = face.outline_points(8.0)
        edges = [plan.bend.blank.parallel(s * half).traced(120) for s in (-1.0, 1.0)]
        self._turn = np.eye(2)
        points = np.vstack((body, *edges))
        if np.ptp(points[:, 1]) > TALL * np.ptp(points[:, 0]):  # on its side it fills the width of the page
            self._turn = np.array([[0.0, -1.0], [1.0, 0.0]])
            points = points @ self._turn
        (left, low), (right, high) = points.min(axis=0), points.max(axis=0)
        edge = CLAMPS_MM if self.clamps else EDGE_MM
        foot = max(edge, FOOT_MM)
        self.scale = min((wide_mm - 2 * edge) / (right - left), (most_mm - edge - foot) / max(1.0, high - low))
        self._from = np.array([left, low])
        self._aside = np.array([(wide_mm - (right - left) * self.scale) / 2, foot])
        self.size_mm = (wide_mm, (high - low) * self.scale + edge + foot)
        self.body, self.blank = self.placed(body), self.placed(np.vstack((edges[0], edges[1][::-1])))
        self.figures: list[PaperFigure] = []
        self.missing: list[str] = []
        self._measure(plan, unit)

    def placed(self, points: Any) -> Array:
        """Points of the plan on the drawing, mm from its lower left corner."""
        return np.asarray((np.asarray(points) @ self._turn - self._from) * self.scale + self._aside)

    def numbers(self) -> Iterator[tuple[int, Array, Array]]:
        """Each clamp in its turn: its number, where that stands, and where its line meets the wood."""
        for i, (number, foot, away) in enumerate(self.clamps):
            near, far = (self.placed(foot + away * r / self.scale) for r in (1.0, 7.0 + 6.0 * (i % 2)))
            yield number, far, near

    def _measure(self, plan: Plan, unit: Unit) -> None:
        """Put radius, chord and rise of the face where they are clear of every line."""
        figures = plan.face_figures
        face = self.placed(plan.face.curve.traced(240))
        fixed: list[Any] = [LineString(np.vstack((p, p[:1]))) for p in (self.body, self.blank)]
        fixed += [Point(far).buffer(NUMBER_MM) for _, far, _ in self.numbers()]  # the only areas among the lines
        wanted: list[tuple[str, list[Line]]] = []
        start, end = face[0], face[-1]
        chord = f"chord {format_length(figures.chord_mm, unit)}"
        if np.hypot(*(end - start)) >= LEAST_LINE_MM:
            along = (end - start) / np.hypot(*(end - start))
            across = np.array([-along[1], along[0]])
            heights = (face - start) @ across
            top = face[int(np.argmax(np.abs(heights)))]
            foot = start + along * float((top - start) @ along)
            outward = -across * np.sign((top - start) @ across) * BELOW_MM
            wanted.append((chord, [(start, end), (start + outward, end + outward)]))
            wanted.append((f"rise {format_length(figures.rise_mm, unit)}", [(foot, top)]))
        else:
            self.missing.append(chord)
        if figures.least_radius_mm:
            name = "form R" if plan.is_one_arc else "form, tightest R"
            leaders = [self._leader(face, n) for n in _tightest(face, is_one_arc=plan.is_one_arc)]
            wanted.append((f"{name} {format_length(figures.least_radius_mm, unit)}", leaders))
        for n, (text, lines) in enumerate(wanted):
            others = [LineString(own[0]) for m, (_, own) in enumerate(wanted[:2]) if m != n]
            self._place(text, lines, [*fixed, *others], ends_at_text=n == len(wanted) - 1 and "R " in text)

    def _leader(self, face: Array, n: int) -> Line:
        """A line from a place of the face toward the center of its bend, across the drawing. n: of its points."""
        before, after = face[max(0, n - 8)], face[min(len(face) - 1, n + 8)]
        inward = (before + after) / 2 - face[n]
        return face[n], face[n] + inward / max(1e-9, float(np.hypot(*inward))) * max(self.size_mm)

    def _place(self, text: str, lines: Sequence[Line], fixed: list[Any], *, ends_at_text: bool) -> None:
        """Put a figure on the first of its lines where its text is clear; on no line it is missing."""
        boxes = [f.box for f in self.figures]
        tree = shapely.STRtree([*fixed, *boxes, *(LineString(f.line) for f in self.figures)])
        room, solid = box(0, 0, *self.size_mm), [*boxes, *(f for f in fixed if isinstance(f, Polygon))]
        for start, end in lines:
            for x, y in _spots(text, start, end, ends_at_text=ends_at_text):
                upto = (x, y) if ends_at_text else (float(end[0]), float(end[1]))
                figure = PaperFigure(text, x, y, ((float(start[0]), float(start[1])), upto))
                line = LineString(figure.line)
                if not room.contains(figure.box) or tree.query(figure.box, "dwithin", CLEAR_MM).size:
                    continue
                if room.contains(line) and not any(line.intersects(s) for s in solid):
                    self.figures.append(figure)
                    return
        self.missing.append(text)

    def flowable(self) -> Any:
        """Return the drawing as something that flows on a page."""
        return drawn(*self.size_mm, self._draw)

    def _draw(self, canvas: Any) -> None:
        canvas.setLineWidth(0.6)
        _outline(canvas, self.body, grey=0.88)
        canvas.setLineWidth(1.3)
        _outline(canvas, self.blank, grey=None)
        canvas.setFont(font(bold=True), 9)
        for number, (x, y), (foot_x, foot_y) in self.numbers():
            canvas.setLineWidth(0.8)
            canvas.line(x * MM, y * MM, foot_x * MM, foot_y * MM)
            canvas.setFillGray(1)
            canvas.circle(x * MM, y * MM, NUMBER_MM * MM, fill=1)
            canvas.setFillGray(0)
            canvas.drawCentredString(x * MM, y * MM - 3, str(number))
        canvas.setFont(font(bold=True), FIGURE_PT)
        for figure in self.figures:
            _dimension(canvas, figure)


def _dimension(canvas: Any, figure: PaperFigure) -> None:
    """A measured line with an arrow at its ends, its figure on white."""
    (x0, y0), (x1, y1) = figure.line
    canvas.setLineWidth(0.5)
    canvas.line(x0 * MM, y0 * MM, x1 * MM, y1 * MM)
    length = float(np.hypot(x1 - x0, y1 - y0)) or 1.0
    along = np.array([x1 - x0, y1 - y0]) / length
    across = np.array([-along[1], along[0]])
    for tip, back in (((x0, y0), along), ((x1, y1), -along)):
        barbs = [np.array(tip) + back * 2.4 + across * side for side in (-0.8, 0.8)]
        _outline(canvas, np.vstack((tip, *barbs)), grey=0.0)
    left, low, right, high = figure.box.bounds
    canvas.setFillGray(1)
    canvas.rect(left * MM, low * MM, (right - left) * MM, (high - low) * MM, stroke=0, fill=1)
    canvas.setFillGray(0)
    canvas.drawCentredString(figure.x * MM, figure.y * MM, figure.text)


def _outline(canvas: Any, points: Sequence[Any] | Array, *, grey: float | None) -> None:
    """A closed line, filled where a gray is given. points: mm."""
    path = canvas.beginPath()
    path.moveTo(*(float(v) * MM for v in points[0]))
    for point in points[1:]:
        path.lineTo(*(float(v) * MM for v in point))
    path.close()
    if grey is not None:
        canvas.setFillGray(grey)
    canvas.drawPath(path, stroke=1, fill=int(grey is not None))
    canvas.setFillGray(0)
