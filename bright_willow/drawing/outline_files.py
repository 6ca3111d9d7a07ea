"""Outlines out of files: SVG paths, DXF curves, CSV points. Hardened: no entities, no deep nesting, bounded work."""

from __future__ import annotations

import io
import math
from dataclasses import dataclass
from typing import Any

import numpy as np

from ..core.common.arrays import Array
from ..core.common.errors import PlanError
from ..core.form.parts import bulge_points

FIELD = "shape.points_mm"
MOST_SHAPES, SAMPLES, MOST_DEPTH, JOIN = 400, 240, 64, 1e-3
MOST_POINTS = 20_000
MOST_STRETCHES, MOST_BENT = 60, 2_000
MOST_RUNS = 20_000
LARGEST = 1e9  # of any figure in a file
SMOOTH_RAD = math.radians(0.3)


@dataclass(frozen=True, eq=False)
class FileOutline:
    """One outline in a file: its name, its points (y upwards) and its length, in the unit of the file.

    `chain` is the outline as (length, curvature) of straights and arcs, where it is made of nothing else and runs on
    without a corner: then it can be taken exactly. Positive curvature turns to the right.
    """

    name: str
    points: Array
    length: float
    chain: tuple[tuple[float, float], ...] = ()

    @property
    def is_sound(self) -> bool:
        """Whether every figure of it is a number, and none beyond all measure."""
        figures = (self.length, *(x for pair in self.chain for x in pair))
        return bool(np.abs(self.points).max(initial=0) < LARGEST) and all(abs(x) < LARGEST for x in figures)

    @classmethod
    def of(cls, name: str, points: Array) -> FileOutline:
        kept = np.concatenate(([True], np.hypot(*np.diff(points, axis=0).T) > 1e-9))
        points = points[kept]
        return cls(name, points, float(np.hypot(*np.diff(points, axis=0).T).sum()))

    @classmethod
    def of_arcs(cls, name: str, corners: Array, bulges: list[float]) -> FileOutline:
        """From corner points (n + 1, 2) and the bulge of each piece between them."""
        if len(bulges) > MOST_BENT or not any(bulges):  # so finely drawn that the corners say it all
            found = cls.of(name, corners)
        else:
            pieces = [bulge_points(corners[i], corners[i + 1], bulge, 33) for i, bulge in enumerate(bulges)]
            found = cls.of(name, np.vstack(pieces))
        chain = _chain(corners, bulges)
        return cls(name, found.points, sum(length for length, _ in chain) or found.length, chain)


def _chain(corners: Array, bulges: list[float]) -> tuple[tuple[float, float], ...]:
    """Lengths and curvatures of a run without corners; nothing for one with a corner, or longer than can be listed."""
    chain: list[tuple[float, float]] = []
    heading = 0.0
    for i, bulge in enumerate(bulges):
        across = corners[i + 1] - corners[i]
        chord, turn = float(np.hypot(*across)), 4 * math.atan(bulge)
        if chord < 1e-9:
            continue
        direction = math.atan2(across[1], across[0])
        if chain and abs(math.remainder(direction - turn / 2 - heading, math.tau)) > SMOOTH_RAD:
            return ()
        heading = direction + turn / 2
        length = chord if abs(turn) < 1e-9 else chord * (turn / 2) / math.sin(turn / 2)
        k = -turn / length
        if chain and abs(chain[-1][1] - k) < 1e-6 * max(abs(k), 1e-9):
            chain[-1] = (chain[-1][0] + length, k)
        else:
            chain.append((length, k))
    if not 0 < len(chain) <= MOST_STRETCHES or not any(k for _, k in chain):
        return ()
    if sum(length * k for length, k in chain) < 0:  # taken from its other end it bends the usual way
        chain = [(length, -k) for length, k in reversed(chain)]
    return tuple(chain)


def to_stretches(found: FileOutline, *, unit_mm: float, scale: float) -> list[dict[str, Any]]:
    """An outline of straights and arcs as the stretches of a chain, exactly, in mm. Raises: PlanError."""
    factor = _factor(unit_mm, scale)
    made: list[dict[str, Any]] = []
    for length, k in found.chain:
        if k:
            made.append({"kind": "arc", "radius_mm": factor / abs(k), "angle_deg": math.degrees(length * k)})
        else:
            made.append({"kind": "straight", "length_mm": length * factor})
    return made


def _factor(unit_mm: float, scale: float) -> float:
    if not (0 < scale <= 1_000):
        raise PlanError("scale", "A scale above 0 and up to 1000, please.")
    return unit_mm * scale


def outlines_in(raw: bytes, file_name: str) -> tuple[list[FileOutline], str]:
    """The outlines in a file, longest first, and the unit the file states ("" when it states none).

    Raises: PlanError with a sentence for a file that holds none or cannot be read.
    """
    if not raw:
        raise PlanError(FIELD, "Choose a file first: SVG, DXF or CSV.")
    ending = file_name.lower().rpartition(".")[2]
    if ending == "svg":
        found, unit = _from_svg(raw)
    elif ending == "dxf":
        found, unit = _from_dxf(raw)
    elif ending in ("csv", "txt", "tsv"):
        found, unit = [_from_csv(raw)], ""
    else:
        raise PlanError(FIELD, "A file ending in .svg, .dxf or .csv, please.")
    found = [f for f in found if (len(f.points) >= 3 or f.length > 0) and f.is_sound]
    if not found:
        raise PlanError(
            FIELD, "There is no outline in this file.", hint="Text, pictures and empty layers are left out."
        )
    return sorted(found, key=lambda f: -f.length), unit


WIDEST_SECTION_MM, MOST_CORNERS = 2_000.0, 400
SECTION_SLACKS_MM = (0.01, 0.03, 0.1, 0.3)


def to_points_mm(found: FileOutline, *, unit_mm: float, scale: float) -> list[list[float]]:
    """The points of an outline in mm, from its first point, at most 20,000 of them. Raises: PlanError."""
    points = (found.points - found.points[0]) * _factor(unit_mm, scale)
    if not np.isfinite(points).all() or float(np.abs(points).max()) > 50_000:
        raise PlanError(FIELD, "At this unit and scale the outline is more than 50 m across.")
    return [[round(float(x), 4), round(float(y), 4)] for x, y in evenly(points)]


def to_section_mm(found: FileOutline, *, unit_mm: float) -> list[list[float]]:
    """The corners of a section in mm from its lower left, at most 400 of them. Raises: PlanError."""
    from shapely import LineString

    points = (found.points - found.points.min(axis=0)) * _factor(unit_mm, 1.0)
    if not np.isfinite(points).all() or float(np.abs(points).max()) > WIDEST_SECTION_MM:
        raise PlanError(FIELD, "In this unit the section is more than 2 m across.")
    for slack in SECTION_SLACKS_MM:
        corners = np.asarray(LineString(points).simplify(slack).coords)
        if len(corners) <= MOST_CORNERS:
            return [[round(float(x), 4), round(float(y), 4)] for x, y in corners]
    raise PlanError(FIELD, "This section has more corners than can be used: draw it simpler.")


def evenly(points: Array) -> Array:
    """Points evenly along a polyline, so that a long straight weighs as much in the fit as a bend of many points."""
    along = np.concatenate(([0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))))
    even = np.linspace(0, along[-1], min(MOST_POINTS, max(SAMPLES, len(points))))
    return np.stack((np.interp(even, along, points[:, 0]), np.interp(even, along, points[:, 1])), axis=1)


def _from_csv(raw: bytes) -> FileOutline:
    rows = []
    for number, line in enumerate(raw.decode("utf-8-sig", "replace").splitlines(), 1):
        parts = [p for p in line.replace(";", " ").replace("\t", " ").replace(",", " ").split() if p]
        if not parts or (not rows and not any(c.isdigit() for c in line)):
            continue
        try:
            values = [float(p) for p in parts[:2]]
        except ValueError:
            values = []
        if len(values) != 2 or not all(map(math.isfinite, values)):
            raise PlanError(FIELD, f"Line {number} of the file should hold two numbers, across and up.")
        rows.append(values)
        if len(rows) > MOST_POINTS * 10:
            raise PlanError(FIELD, "There are more points in this file than can be used.")
    if len(rows) < 3:
        raise PlanError(FIELD, "Three points or more are needed; two make a straight line.")
    return FileOutline.of("points", np.array(rows))


def _from_svg(raw: bytes) -> tuple[list[FileOutline], str]:
    from defusedxml import DefusedXmlException
    from defusedxml.ElementTree import iterparse

    depth = 0
    try:
        for event, _ in iterparse(io.BytesIO(raw), events=("start", "end"), forbid_dtd=True):
            depth += 1 if event == "start" else -1
            if depth > MOST_DEPTH:
                raise PlanError(FIELD, "This drawing is nested too deeply to be read.")
    except PlanError:
        raise
    except DefusedXmlException:
        raise PlanError(FIELD, "This drawing holds entities or a document type; save it as plain SVG.") from None
    except Exception:
        raise PlanError(FIELD, "This file cannot be read as SVG.") from None
    import svgelements as svg

    try:
        root = svg.SVG.parse(io.BytesIO(raw), reify=True, ppi=25.4)  # one user unit a millimetre where the file says mm
        return _svg_shapes(root, svg), "mm"
    except PlanError:
        raise
    except Exception:
        raise PlanError(FIELD, "The shapes of this drawing cannot be read.") from None


def _svg_shapes(root: Any, svg: Any) -> list[FileOutline]:
    found = []
    for element in root.elements():
        if not isinstance(element, svg.Shape) or len(found) >= MOST_SHAPES:
            continue
        path = svg.Path(element)
        for number, part in enumerate(path.as_subpaths(), 1):
            piece = svg.Path(part)
            if len(piece) < 2:
                continue
            name = str(f"{element.id or type(element).__name__.lower()} {number}")[:60]
            exact = _svg_arcs(piece, svg)
            if exact is not None:
                found.append(FileOutline.of_arcs(name, *exact))
                continue
            points = []
            for segment in piece:
                if isinstance(segment, svg.Move) or segment.start is None or segment.end is None:
                    continue
                straight = isinstance(segment, svg.Line | svg.Close)
                for t in (0.0, 1.0) if straight else np.linspace(0, 1, 129):
                    p = segment.point(float(t))
                    points.append((p.x, -p.y))
            if len(points) >= 2:
                found.append(FileOutline.of(name, np.array(points, dtype=float)))
    return found


def _svg_arcs(piece: Any, svg: Any) -> tuple[Array, list[float]] | None:
    """Corners and bulges of a path of lines and circular arcs; None for any other."""
    corners, bulges = [], []
    for segment in piece:
        if isinstance(segment, svg.Move) or segment.start is None or segment.end is None:
            continue
        if isinstance(segment, svg.Arc):
            rx, ry = float(abs(segment.rx)), float(abs(segment.ry))
            if abs(rx - ry) > 1e-6 * max(rx, ry) or abs(segment.sweep) > 6.2:
                return None
            bulge = -math.tan(float(segment.sweep) / 4)
        elif isinstance(segment, svg.Line | svg.Close):
            bulge = 0.0
        else:
            return None
        if not corners:
            corners.append((segment.start.x, -segment.start.y))
        corners.append((segment.end.x, -segment.end.y))
        bulges.append(bulge)
    return (np.array(corners, dtype=float), bulges) if len(corners) > 1 else None


DXF_UNITS = {1: "in", 4: "mm", 5: "cm", 6: "m"}


def _from_dxf(raw: bytes) -> tuple[list[FileOutline], str]:
    import ezdxf
    from ezdxf import path as paths

    if raw.startswith(b"AutoCAD Binary DXF"):
        raise PlanError(FIELD, "This DXF is binary; save it as ASCII DXF.")
    try:
        document = ezdxf.read(io.StringIO(raw.decode("utf-8", "replace")))
        space = document.modelspace()
        runs, blocks = [], 0
        for entity in space:
            kind = entity.dxftype()
            blocks += kind == "INSERT"
            if kind not in ("LINE", "ARC", "CIRCLE", "ELLIPSE", "LWPOLYLINE", "POLYLINE", "SPLINE"):
                continue
            if len(runs) >= MOST_RUNS:
                raise PlanError(
                    FIELD, f"There are more than {MOST_RUNS:,} lines in this drawing. Save only the outline."
                )
            layer = f"outline on layer {entity.dxf.layer}"[:60]
            exact = _dxf_arcs(entity)
            if exact is not None:
                runs.append(VertexRun(layer, *exact))
                continue
            if not _dxf_sound(entity):
                continue
            path = paths.make_path(entity)
            if not path.has_lines and not path.has_curves:
                continue
            reach = max(path.start.distance(path.end), *(path.start.distance(v) for v in path.control_vertices()), 1e-6)
            points = np.array([(v.x, v.y) for v in path.flattening(reach / 60_000, 16)], dtype=float)
            runs.append(VertexRun(layer, points, None))
    except PlanError:
        raise
    except Exception:
        raise PlanError(FIELD, "This file cannot be read as DXF.") from None
    if not runs:
        why = (
            "it holds only blocks: break them up and save again."
            if blocks
            else "it holds no line, arc, polyline or spline."
        )
        raise PlanError(FIELD, f"There is no outline in this drawing; {why}")
    return _joined(runs), DXF_UNITS.get(int(document.header.get("$INSUNITS", 0)), "")


@dataclass(frozen=True, eq=False)
class VertexRun:
    """Corners of a line or curve, and the bulge of each piece; None for bulges when it is only points along a curve."""

    layer: str
    corners: Array
    bulges: list[float] | None

    def turned(self) -> VertexRun:
        """The same run from its other end."""
        return VertexRun(
            self.layer, self.corners[::-1], None if self.bulges is None else [-b for b in reversed(self.bulges)]
        )

    def as_points(self) -> VertexRun:
        return VertexRun(self.layer, self.found().points, None)

    def found(self) -> FileOutline:
        if self.bulges is None:
            return FileOutline.of(self.layer, self.corners)
        return FileOutline.of_arcs(self.layer, self.corners, self.bulges)


def _dxf_sound(entity: Any) -> bool:
    """Whether the figures of a round thing are numbers: else it would be followed for ever."""
    figures: list[float] = []
    for name in ("center", "major_axis", "radius", "ratio", "start_param", "end_param"):
        if entity.dxf.hasattr(name):
            value = entity.dxf.get(name)
            figures += list(value) if hasattr(value, "__iter__") else [value]
    return all(abs(x) < LARGEST for x in figures)


def _dxf_arcs(entity: Any) -> tuple[Array, list[float]] | None:
    """Corners and bulges of a line, an arc or a light polyline; None for any other."""
    kind = entity.dxftype()
    if kind == "LINE":
        return np.array([(p.x, p.y) for p in (entity.dxf.start, entity.dxf.end)], dtype=float), [0.0]
    if kind == "ARC":
        turn = math.radians((entity.dxf.end_angle - entity.dxf.start_angle) % 360)
        ends = np.array([(p.x, p.y) for p in (entity.start_point, entity.end_point)], dtype=float)
        return (ends, [math.tan(turn / 4)]) if 0 < turn < 6.2 else None
    if kind == "LWPOLYLINE":
        rows = np.array(entity.get_points("xyb"), dtype=float)
        if len(rows) < 2:
            return None
        corners, bulges = rows[:, :2], rows[:, 2].tolist()
        if entity.closed:
            return np.vstack((corners, corners[:1])), bulges
        return corners, bulges[:-1]
    return None


def _joined(runs: list[VertexRun]) -> list[FileOutline]:
    """Lines and arcs drawn end to end on one layer become one outline. Near linear in how many there are."""
    by_layer: dict[str, list[VertexRun]] = {}
    for run in runs:
        by_layer.setdefault(run.layer, []).append(run)
    return [chained(pieces).found() for layer in by_layer.values() for pieces in _chains(layer)]


def _chains(runs: list[VertexRun]) -> list[list[VertexRun]]:
    """Runs of one layer in the order and the direction in which they follow one another."""
    from scipy.spatial import cKDTree

    ends = np.array([end for run in runs for end in (run.corners[0], run.corners[-1])])  # 2 i: start, 2 i + 1: end
    tree, free, chains = cKDTree(ends), [True] * len(runs), []
    for first, run in enumerate(runs):
        if not free[first]:
            continue
        free[first] = False
        near = JOIN * max(1.0, float(np.abs(run.corners).max()) * 1e-3)
        chain = [run]
        for _ in range(2):  # from its end, then from its start
            while True:
                beside = sorted(tree.query_ball_point(chain[-1].corners[-1], near))
                at = next((i for i in beside if free[i // 2]), None)
                if at is None:
                    break
                free[at // 2] = False
                chain.append(runs[at // 2] if at % 2 == 0 else runs[at // 2].turned())
            chain = [piece.turned() for piece in reversed(chain)]
        chains.append(chain)
    return chains


def chained(pieces: list[VertexRun]) -> VertexRun:
    """Return one run of several that follow one another; only points along it where one of them is no more."""
    pieces = [p.as_points() for p in pieces] if any(p.bulges is None for p in pieces) else pieces
    corners = np.vstack([pieces[0].corners, *(piece.corners[1:] for piece in pieces[1:])])
    bulges = None if pieces[0].bulges is None else [b for piece in pieces for b in piece.bulges or ()]
    return VertexRun(pieces[0].layer, corners, bulges)
