"""The form as a full-size template: arcs, lines and words on named layers, in mm, ready for any file format.

Coordinates are those of the form: x from the middle, y above the base line through the ends of the face. Every line is
the finished edge; no cutter or kerf is allowed for, and the template says so.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field

import numpy as np

from ..core.arrays import Array
from ..core.form.face import FormFace
from ..core.job import Job
from ..core.plan import form_face
from ..core.plan_parts import Plan
from ..core.shape.curve import Curve
from ..core.units import Unit, format_length

LAYERS = ("FACE", "BODY", "MARKS", "TEXT")


@dataclass(frozen=True)
class Chain:
    """Arcs and lines end to end. points: (n + 1, 2); bulges: (n,) tan(turn / 4), anticlockwise positive."""

    layer: str
    points: Array
    bulges: Array
    closed: bool = False
    dashed: bool = False

    @classmethod
    def of(cls, layer: str, curve: Curve, face: FormFace) -> Chain:
        """A curve laid as the form is, cut so that no arc turns more than about 60°."""
        pieces = curve.merged()
        turn = np.abs(pieces.lengths_mm * pieces.curvature)
        share = np.maximum(1, np.ceil(turn / 1.05)).astype(int)
        finer = Curve(
            np.repeat(pieces.lengths_mm / share, share),
            np.repeat(pieces.curvature, share),
            pieces.anchor_mm,
            pieces.anchor_y_mm,
        )
        return cls(layer, face.laid(finer.points_mm), -np.tan(finer.lengths_mm * finer.curvature / 4))

    @classmethod
    def line(cls, layer: str, *points: tuple[float, float], dashed: bool = False) -> Chain:
        return cls(layer, np.array(points, dtype=float), np.zeros(len(points) - 1), False, dashed)

    def then(self, other: Chain) -> Chain:
        """This chain, a straight across, and another run backwards, closed: the outline between two parallels."""
        return Chain(
            self.layer,
            np.vstack((self.points, other.points[::-1])),
            np.concatenate((self.bulges, [0.0], -other.bulges[::-1], [0.0])),
            True,
        )

    def arcs(self) -> Iterator[tuple[Array, Array, float]]:
        """Each piece as start point, end point, bulge; the closing piece included."""
        ends = np.vstack((self.points[1:], self.points[:1])) if self.closed else self.points[1:]
        yield from zip(self.points, ends, map(float, self.bulges), strict=False)

    def dense(self, spacing_mm: float = 4.0) -> Array:
        """Points along the chain no further apart than about so much."""
        out = []
        for a, b, bulge in self.arcs():
            n = max(2, int(np.hypot(*(b - a)) / spacing_mm) + 2)
            out.append(bulge_points(a, b, bulge, n))
        return np.vstack(out)


def bulge_points(a: Array, b: Array, bulge: float, n: int) -> Array:
    """n points along an arc given by its ends and its bulge."""
    t = np.linspace(0, 1, n)[:, None]
    if abs(bulge) < 1e-9:
        return np.asarray(a + (b - a) * t)
    centre, radius, start, turn = bulge_arc(a, b, bulge)
    angle = start + turn * t[:, 0]
    return np.asarray(centre + radius * np.stack((np.cos(angle), np.sin(angle)), axis=1))


def bulge_arc(a: Array, b: Array, bulge: float) -> tuple[Array, float, float, float]:
    """Centre, radius, start angle and signed turn (radians) of an arc given by its ends and its bulge."""
    turn = 4 * float(np.arctan(bulge))
    across = b - a
    middle = (a + b) / 2
    to_centre = np.array([-across[1], across[0]]) * (1 - bulge**2) / (4 * bulge)
    centre = middle + to_centre
    spoke = a - centre
    return centre, float(np.hypot(*spoke)), float(np.arctan2(spoke[1], spoke[0])), turn


@dataclass(frozen=True)
class Words:
    """A line of text standing at a point, `angle_deg` anticlockwise."""

    x: float
    y: float
    text: str
    height_mm: float = 6.0
    angle_deg: float = 0.0
    middle: bool = True
    beside_line: bool = True
    layer: str = "TEXT"


@dataclass
class Template:
    """Everything drawn at full size for one part of a form."""

    name: str
    chains: list[Chain] = field(default_factory=list)
    words: list[Words] = field(default_factory=list)

    def bounds(self) -> tuple[float, float, float, float]:
        """Left, bottom, right, top of all lines, mm."""
        points = np.vstack([c.dense() for c in self.chains])
        (left, bottom), (right, top) = points.min(axis=0), points.max(axis=0)
        return float(left), float(bottom), float(right), float(top)


def form_template(job: Job, plan: Plan, unit: Unit) -> Template:
    """The template of a plan's form: face, body, marks, words."""
    face = form_face(plan)
    of_pair = f"{job.hand_says}: " if job.hand_says else ""
    template = Template(f"{of_pair}{job.name}: form")
    line = Chain.of("FACE", face.curve, face)
    if job.shape.is_closed:
        return _drum(template, job, plan, face, line, unit)
    template.chains.append(line)
    if face.back is not None:
        body = line.then(Chain.of("BODY", face.back, face))
        template.chains.append(Chain("BODY", body.points, body.bulges, True))
    else:
        corners = face.laid(face.base_corners)
        closing = Chain("BODY", np.vstack((line.points, corners)), np.append(line.bulges, [0.0, 0.0, 0.0]), True)
        template.chains.append(closing)
    _marks(template, job, plan, unit)
    left, right = float(line.points[0, 0]), float(line.points[-1, 0])
    template.chains.append(Chain.line("MARKS", (left, 0.0), (right, 0.0), dashed=True))
    says = "base line: heights in the table of offsets are above it"
    template.words.append(Words(left + 160.0, 4.0, says, beside_line=False))
    return template


def _drum(template: Template, job: Job, plan: Plan, face: FormFace, line: Chain, unit: Unit) -> Template:
    """The drum of a closed ring: two circles, or one disc, with its centre, its mark, and the joint of each layer."""
    template.chains.append(Chain("FACE", line.points[:-1], line.bulges, True))
    if face.back is not None:
        back = Chain.of("BODY", face.back, face)
        template.chains.append(Chain("BODY", back.points[:-1], back.bulges, True))
    radius = face.curve.length_mm / (2 * np.pi)
    centre = line.points[0] + np.array([0.0, radius])
    for dx, dy in ((15.0, 0.0), (0.0, 15.0)):
        a, b = (float(centre[0] - dx), float(centre[1] - dy)), (float(centre[0] + dx), float(centre[1] + dy))
        template.chains.append(Chain.line("MARKS", a, b))
    inwards = -1.0 if face.side == "inner" else 1.0
    for layer in plan.ring:
        (point,), _ = face.curve.at(np.array([layer.joint_deg / 360 * face.curve.length_mm]))
        foot = face.laid(np.array([point]))[0]
        out = (foot - centre) / radius * inwards
        a, b = foot, foot + out * 12
        template.chains.append(Chain.line("MARKS", (float(a[0]), float(a[1])), (float(b[0]), float(b[1]))))
        spot = foot + out * 18
        template.words.append(Words(float(spot[0]), float(spot[1]) - 2, f"{layer.number}", 5.0))
    lines = [job.name, f"this face to the wood: {face.side} face of the ring"]
    lines += [
        f"diameter {format_length(2 * radius, unit)}",
        "numbers: joint of each layer",
        "the line is the finished edge",
    ]
    for i, text in enumerate(lines):
        template.words.append(Words(float(centre[0]), float(centre[1]) - 28 - 11 * i, text, 6.0 if i == 0 else 4.5))
    return template


def _marks(template: Template, job: Job, plan: Plan, unit: Unit) -> None:
    """Ticks across the face at the finished ends and the middle, and what each is."""
    face = form_face(plan)
    sense = -1.0 if face.side == "inner" else 1.0
    places = [(face.part_start_mm, "finished end"), (face.middle_mm, "centre"), (face.part_end_mm, "finished end")]
    depth = min(30.0, face.depth_mm / 2)

    def foot(station: float) -> tuple[Array, Array, float]:
        """A place of the face, the way into the body there, and its heading, as the form is laid."""
        points, headings = face.curve.at(np.array([station]))
        heading = float(headings[0]) + face.tilt_rad
        return face.laid(points)[0], np.array([-np.sin(heading), np.cos(heading)]) * sense, heading

    for station, name in places:
        point, inwards, heading = foot(station)
        tip, at = point + inwards * depth, point + inwards * (depth + 8)
        template.chains.append(Chain.line("MARKS", (point[0], point[1]), (tip[0], tip[1])))
        template.words.append(Words(float(at[0]), float(at[1]), name, 5.0, float(np.degrees(heading))))
    middle, across, _ = foot(face.middle_mm)
    radius = plan.form.face.least_radius_mm
    lines = [job.name, f"this face to the wood: {face.side} face of the part"]
    lines[1:1] = [job.hand_says] if job.hand_says else []
    if plan.form.is_one_arc and radius:
        lines.append(f"trammel {format_length(radius, unit)}, sweep {plan.form.face.sweep_deg:.2f}°")
    lines.append("the line is the finished edge")
    for i, text in enumerate(lines):
        spot = middle + across * min(depth + 20 + 11 * i, face.depth_mm - 6 + 11 * i)
        template.words.append(Words(float(spot[0]), float(spot[1]), text, 7.0 if i == 0 else 5.0))
