"""What a full-size drawing holds: arcs and lines on named layers, and words; in mm, ready for any file format."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field, replace

import numpy as np

from ..core.common.arrays import Array
from ..core.form.face import FormFace
from ..core.form.parts import Edge, bulge_points
from ..core.shape.curve import Curve

LAYERS = ("FACE", "RIB", "SKIN", "BODY", "HOLES", "MARKS", "TEXT", "BOARD", "STRIP", "KEPT", "FLAW")


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
        turn = pieces.turns_rad
        share = np.maximum(1, np.ceil(turn / 1.05)).astype(int)
        finer = Curve(
            np.repeat(pieces.lengths_mm / share, share),
            np.repeat(pieces.curvature, share),
            pieces.anchor_mm,
            pieces.anchor_y_mm,
        )
        return cls(layer, face.laid(finer.points_mm), -np.tan(finer.lengths_mm * finer.curvature / 4))

    @classmethod
    def edge(cls, edge: Edge, layer: str | None = None, *, dashed: bool = False) -> Chain:
        """An edge of a part as it lies in the form."""
        return cls(layer or edge.layer, np.array(edge.points_mm), np.array(edge.bulges), edge.closed, dashed)

    @classmethod
    def circle(cls, layer: str, x: float, y: float, diameter: float) -> Chain:
        r = diameter / 2
        return cls(layer, np.array([[x - r, y], [x + r, y]]), np.array([1.0, 1.0]), True)

    def moved(self, dx: float, dy: float) -> Chain:
        return replace(self, points=self.points + np.array([dx, dy]))

    @classmethod
    def line(cls, layer: str, *points: tuple[float, float], dashed: bool = False) -> Chain:
        return cls(layer, np.array(points, dtype=float), np.zeros(len(points) - 1), False, dashed)

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


@dataclass(frozen=True)
class TemplateText:
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
    words: list[TemplateText] = field(default_factory=list)

    def turned(self, degrees: float) -> Template:
        """The same drawing turned anticlockwise."""
        if not degrees:
            return self
        angle = np.radians(degrees)
        turn = np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
        made = Template(self.name, [replace(c, points=c.points @ turn.T) for c in self.chains])
        for w in self.words:
            x, y = turn @ np.array([w.x, w.y])
            made.words.append(replace(w, x=float(x), y=float(y), angle_deg=w.angle_deg + degrees))
        return made

    def bounds(self) -> tuple[float, float, float, float]:
        """Left, bottom, right, top of all lines, mm."""
        points = np.vstack([c.dense() for c in self.chains])
        (left, bottom), (right, top) = points.min(axis=0), points.max(axis=0)
        return float(left), float(bottom), float(right), float(top)
