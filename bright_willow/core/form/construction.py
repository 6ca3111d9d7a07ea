"""How a form is built: its parts, the sheets they come out of, its clamps and bolts, and whether it is stiff."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from ..ground.arrays import Array
from ..ground.errors import OutOfRange
from ..shape.curve import Curve
from ..shop.clamps import CAUL_MM, clamp_table, clamps_needed
from ..shop.shop import Shop
from .closing import Closing, Presser, closing
from .face import FormFace
from .kinds import KINDS
from .nesting import Nest, nested
from .parts import (
    BOLT_SPACING_MM,
    CLAMP_PLAY_MM,
    CLAMP_SEAT_MM,
    HOLE_MM,
    Edge,
    FormPart,
    Hole,
    area_mm2,
    closed_by,
    dense,
    edge_of,
    holes_inside,
    joined,
    length_mm,
    rectangle,
)
from .stiffness import GOODS, Deflection, beam_deflection_mm, span_for

if TYPE_CHECKING:
    from ..job.job import Job

MOST_RIB_SPACING_MM = 75.0  # under a skin, whatever the skin stands. Grade: allowance.
SKIN_GIVES_MM = 0.25  # that a skin may give between ribs
JOINT_LAP_MM = 100.0  # by which segments overhang, so that joints of neighbouring layers stand apart
PLATFORM_EDGE_MM = 40.0
MOST_SEGMENTS = 8
LEAST_SIDE = 0.18  # of the face, that a side presser carries


@dataclass(frozen=True, slots=True)
class Post:
    """A post on the table: its place, and the way its bracket looks (degrees from the base line)."""

    number: int
    x_mm: float
    y_mm: float
    angle_deg: float


@dataclass(frozen=True, slots=True)
class FormBuild:
    """Everything to build one form by. problem: the sentence where a part cannot be made; then nothing is nested.

    without_bolts: stacked parts too small for a bolt with wood round it.
    """

    kind: str
    build: str
    needs: tuple[str, ...]
    closing: Closing | None
    parts: tuple[FormPart, ...]
    posts: tuple[Post, ...]
    layers: int
    nest: Nest | None
    goods_m2: float
    mass_kg: float
    deflection: Deflection | None
    rib_spacing_mm: float | None
    clamps: int
    clamp_pitch_mm: float
    clamp_opening_mm: float
    bolts: int
    without_bolts: tuple[str, ...]
    bolt_length_mm: float
    problem: str
    problem_field: str


@dataclass(frozen=True, eq=False)
class Site:
    """What a construction starts from: the job, the shop, the near face, the far face, the load."""

    job: Job
    shop: Shop
    face: FormFace
    far: Curve
    stack_mm: float
    pressure_mpa: float
    released_headings_rad: Array

    @property
    def kind(self) -> str:
        return "ring" if self.job.shape.is_closed else self.job.form.kind

    @property
    def sense(self) -> float:
        """+1 where the lay-up lies above the near face, −1 where below."""
        return 1.0 if self.face.side == "inner" else -1.0


def splits_of(site: Site) -> tuple[float, ...]:
    """The splits of the far half: as given, or, for a three-part form without its two, where the legs begin."""
    given = site.job.form.splits_mm
    if site.kind != "three_part" or len(given) == 2:
        return tuple(given)
    face = site.face
    at = np.linspace(0, face.curve.length_mm, 201)
    headings = face.curve.at(at)[1] + face.tilt_rad
    steep = math.radians(50)
    legs = np.abs(headings) > steep
    left, right = face.curve.length_mm * 0.3, face.curve.length_mm * 0.7
    if legs.any() and not legs.all():
        flat = np.flatnonzero(~legs)
        left = float(at[flat[0]]) if flat[0] > 0 else left
        right = float(at[flat[-1]]) if flat[-1] < at.size - 1 else right
    least = LEAST_SIDE * face.curve.length_mm
    return (max(left, least) - face.middle_mm, min(right, face.curve.length_mm - least) - face.middle_mm)


def built(site: Site, *, brief: bool) -> FormBuild:
    """The whole construction. `brief` leaves out parts and sheets, for an answer while something is dragged.

    Raises: OutOfRange where the choice itself cannot be (a direction along the face, a split off the form).
    """
    kind, choice = site.kind, site.job.form
    check = None
    if KINDS[kind].has_opposite:
        check = closing(
            site.face,
            direction_deg=choice.close_deg,
            splits_mm=splits_of(site),
            released_headings_rad=site.released_headings_rad,
        )
    length = site.face.curve.length_mm
    clamp = clamp_table()["f_clamp"]
    clamps = clamps_needed(
        pressure_mpa=site.pressure_mpa, width_mm=site.job.part.width_mm, length_mm=length, clamp=clamp
    )
    pitch = length / clamps
    spacing = _rib_spacing(site) if choice.build == "ribs" else None
    parts: tuple[FormPart, ...] = ()
    nest, problem, field = None, "", ""
    if not brief or check:
        try:
            parts = _parts(site, check, pitch, spacing, brief)
            nest = None if brief else _nest(site, parts)
        except OutOfRange as error:
            parts, problem, field = (), error.says(site.shop.units), error.field
    sheet = [p for p in parts if p.thickness_mm <= choice.sheet_mm + 0.01]
    area = sum(area_mm2(p.outline) * 1e-6 * p.count for p in sheet)
    density = GOODS[choice.goods][2]
    mass = sum(area_mm2(p.outline) * 1e-9 * p.count * p.thickness_mm * density for p in parts)
    layers = _layers(site)
    holes = [h for p in parts for h in p.holes if h.what == "bolt"]
    return FormBuild(
        kind=kind,
        build=choice.build,
        needs=KINDS[kind].needs,
        closing=check,
        parts=parts,
        posts=_posts(site) if kind == "posts" else (),
        layers=layers,
        nest=nest,
        goods_m2=area,
        mass_kg=mass,
        deflection=_deflection(site, pitch, spacing),
        rib_spacing_mm=spacing,
        clamps=clamps,
        clamp_pitch_mm=pitch,
        clamp_opening_mm=_opening(site, parts),
        bolts=len(holes),
        without_bolts=tuple(
            p.name for p in parts if layers > 1 and p.end_mm > 0 and not any(h.what == "bolt" for h in p.holes)
        )
        if not brief
        else (),
        bolt_length_mm=site.stack_mm + 30.0,
        problem=problem,
        problem_field=field,
    )


def _layers(site: Site) -> int:
    choice = site.job.form
    return math.ceil(site.stack_mm / choice.sheet_mm - 1e-9) if choice.build == "stack" else 1


def _rib_spacing(site: Site) -> float:
    """As far apart as the skin stands with 0.25 mm of give, at most 75 mm, spread evenly over the width."""
    choice = site.job.form
    modulus = GOODS[choice.goods][1]
    free = span_for(
        deflection_mm=SKIN_GIVES_MM, pressure_mpa=site.pressure_mpa, depth_mm=choice.skin_mm, modulus_gpa=modulus
    )
    most = min(MOST_RIB_SPACING_MM, free + choice.sheet_mm)
    between = max(1e-6, site.stack_mm - choice.sheet_mm)
    return between / max(1, math.ceil(between / most - 1e-9))


def _deflection(site: Site, pitch: float, spacing: float | None) -> Deflection | None:
    choice = site.job.form
    if site.kind in ("posts", "in_place"):
        return None
    modulus = GOODS[choice.goods][1]
    where, span, depth = "the body between two clamps", pitch, choice.depth_mm
    if spacing is not None:
        where, span, depth = "the skin between two ribs", max(5.0, spacing - choice.sheet_mm), choice.skin_mm
    elif choice.build == "sawn_sides":
        where, span, depth = "a slat between the sides", max(5.0, site.stack_mm - 2 * choice.sheet_mm), choice.skin_mm
    value = beam_deflection_mm(
        pressure_mpa=site.pressure_mpa,
        width_mm=site.job.part.width_mm,
        span_mm=span,
        depth_mm=depth,
        modulus_gpa=modulus,
    )
    return Deflection(value, where, span)


# -- parts ------------------------------------------------------------------------------------------------------------
def _parts(site: Site, check: Closing | None, pitch: float, spacing: float | None, brief: bool) -> tuple[FormPart, ...]:
    choice = site.job.form
    if site.kind in ("posts", "in_place"):
        return ()
    near, back = _near_edges(site)
    shapes = [("base" if check else "drum" if site.kind == "ring" else "form", near, back, 0.0, near_length(site))]
    for presser in check.pressers if check else ():
        edge, outline = _presser(site, presser)
        shapes.append((presser.name, edge, outline, presser.start_mm, presser.end_mm))
    thickness, count = {
        "stack": (choice.sheet_mm, _layers(site)),
        "solid": (site.stack_mm, 1),
        "ribs": (choice.sheet_mm, _ribs(site, spacing)),
        "sawn_sides": (choice.sheet_mm, 2),
    }[choice.build]
    note = {
        "stack": f"layer 1 is the pattern, the other {count - 1} are copied from it" if count > 1 else "one layer",
        "solid": "one block",
        "ribs": "all alike: gang them up and finish them as one",
        "sawn_sides": "both together",
    }[choice.build]
    made = []
    for number, (name, edge, outline, start, end) in enumerate(shapes, 1):
        holes = () if brief else _holes(site, edge, outline, pitch, is_near=number == 1)
        edges = (outline,) if edge is outline else (outline, edge)
        made.append(_part(site, number, name, count, thickness, edges, holes, start, end, note))
    if choice.build in ("ribs", "sawn_sides") and not brief:
        made += _carcase(site, len(made), made, count, spacing)
    return tuple(made)


def near_length(site: Site) -> float:
    return site.face.curve.length_mm


def _ribs(site: Site, spacing: float | None) -> int:
    if spacing is None:
        return 1
    return round((site.stack_mm - site.job.form.sheet_mm) / spacing) + 1


def _skinned(site: Site, curve: Curve, away: float) -> Curve:
    """The line sheet goods are cut to: the face, less the skin over ribs or slats. away: +1 or −1, into the body."""
    skin = site.job.form.skin_mm if site.job.form.build in ("ribs", "sawn_sides") else 0.0
    return curve.parallel(away * skin, "form.skin_mm") if skin else curve


def _near_edges(site: Site) -> tuple[Edge, Edge]:
    """Edge and closed outline of the part the form stands on."""
    face = site.face
    layer = "RIB" if site.job.form.build in ("ribs", "sawn_sides") else "FACE"
    line = edge_of(layer, _skinned(site, face.curve, -site.sense), face)  # type: ignore[arg-type]
    if site.kind == "ring":
        whole = Edge("BODY", line.points_mm[:-1], line.bulges, True)
        hollow = face.back
        inner = edge_of("BODY", hollow, face) if hollow is not None else None
        return (Edge("BODY", inner.points_mm[:-1], inner.bulges, True) if inner else whole), whole
    if face.back is not None:
        return line, joined(line, edge_of("BODY", face.back, face))
    corners = face.laid(face.base_corners)
    return line, closed_by(line, *((float(x), float(y)) for x, y in corners))


def _presser(site: Site, presser: Presser) -> tuple[Edge, Edge]:
    """Edge and closed outline of a part that presses: its stretch of the far face, and a back square to its push."""
    if not presser.closes:
        raise OutOfRange("form.splits_mm", f"The {presser.name} cannot be made: it could not get past the lay-up.")
    face, far = site.face, site.far
    stretch = (face.curve.stations_mm[-1], far.stations_mm[-1])
    joints = np.interp([presser.start_mm, presser.end_mm], face.curve.stations_mm, far.stations_mm)
    start, end = float(joints[0]), min(float(joints[1]), float(stretch[1]))
    layer = "RIB" if site.job.form.build in ("ribs", "sawn_sides") else "FACE"
    skinned = _skinned(site, far, site.sense)
    on_skin = np.interp([start, end], far.stations_mm, skinned.stations_mm)
    line = edge_of(layer, skinned, face, float(on_skin[0]), float(on_skin[1]))  # type: ignore[arg-type]
    angle = math.radians(presser.direction_deg)
    push = np.array([math.sin(angle), math.cos(angle)]) * site.sense
    points = dense(line)
    level = float((points @ push).max()) + site.job.form.depth_mm
    first, last = np.array(line.points_mm[0]), np.array(line.points_mm[-1])
    corners = [tuple(map(float, p + push * (level - float(p @ push)))) for p in (last, first)]
    return line, closed_by(line, *corners)  # type: ignore[arg-type]


def _holes(site: Site, edge: Edge, outline: Edge, pitch: float, *, is_near: bool) -> tuple[Hole, ...]:
    """Through-bolts of a stack, and clamp holes where the back of the form gives clamps no parallel edge to seat on."""
    choice = site.job.form
    line = dense(edge)
    inwards = _inwards(line) * (-1.0 if is_near else 1.0) * site.sense
    steps = np.hypot(*np.diff(line, axis=0).T)
    along = np.concatenate(([0.0], np.cumsum(steps)))
    made: list[Hole] = []
    if choice.build == "stack" and _layers(site) > 1:
        count = max(2, math.ceil(along[-1] / BOLT_SPACING_MM))
        for share in (0.5, 0.3, 0.75):  # at half depth, or where a small part has room
            made = _row(outline, line, inwards, along, count, min(choice.depth_mm * share, 90.0), HOLE_MM, "bolt")
            if len(made) >= 2:
                break
    if is_near and site.kind == "one_sided" and site.face.back is None and site.job.build_up.press == "clamps":
        count = max(2, round(along[-1] / pitch))
        made += _row(outline, line, inwards, along, count, CLAMP_SEAT_MM, clamp_hole_mm(site.shop), "clamp")
    return tuple(made)


def clamp_hole_mm(shop: Shop) -> float:
    """Holes that let through the jaw of the clamps there are most of, with room to turn; else of F-clamps."""
    most = max(shop.clamps, key=lambda c: c.count, default=None)
    jaw = clamp_table()[most.kind if most else "f_clamp"].jaw_mm
    return jaw + CLAMP_PLAY_MM


def _row(
    outline: Edge, line: Array, inwards: Array, along: Array, count: int, depth: float, diameter: float, what: str
) -> list[Hole]:
    places = (np.arange(count) + 0.5) * along[-1] / count
    at = np.stack([np.interp(places, along, line[:, i]) for i in (0, 1)], axis=1)
    off = np.stack([np.interp(places, along, inwards[:, i]) for i in (0, 1)], axis=1)
    return holes_inside(outline, at + off * depth, diameter_mm=diameter, what=what)  # type: ignore[arg-type]


def _inwards(line: Array) -> Array:
    """Unit normals to the left of travel."""
    way = np.gradient(line, axis=0)
    size = np.maximum(np.hypot(way[:, 0], way[:, 1]), 1e-12)
    return np.stack((-way[:, 1], way[:, 0]), axis=1) / size[:, None]


def _part(
    site: Site,
    number: int,
    name: str,
    count: int,
    thickness: float,
    edges: tuple[Edge, ...],
    holes: tuple[Hole, ...],
    start: float,
    end: float,
    note: str,
) -> FormPart:
    width, height = (float(v) for v in np.ptp(dense(edges[0]), axis=0))
    segments, _, _ = _segments(site.shop, width, height)
    if segments > MOST_SEGMENTS:
        raise OutOfRange(
            "form.sheet_mm",
            f"The {name} is {{width}} × {{height}}: it would be pieced from {segments} lengths of your sheets.",
            hint="Set a larger sheet under Shop.",
            lengths_mm={"width": width, "height": height},
        )
    return FormPart(number, name, count, thickness, edges, holes, start, end, width, height, segments, note)


def _segments(shop: Shop, width: float, height: float) -> tuple[int, float, float]:
    """How many segments a part is made of, and the size of each: lapped where it does not fit the sheet whole."""
    long, short = shop.sheet_long_mm - 20, shop.sheet_short_mm - 20
    sides = []
    for side, room in zip((max(width, height), min(width, height)), (long, short), strict=True):
        count = 1 if side <= room else math.ceil((side - JOINT_LAP_MM) / max(1.0, room - JOINT_LAP_MM))
        sides.append((count, side if count == 1 else side / count + JOINT_LAP_MM))
    return sides[0][0] * sides[1][0], sides[0][1], sides[1][1]


def _carcase(site: Site, numbered: int, ribs: list[FormPart], count: int, spacing: float | None) -> list[FormPart]:
    """What holds ribs or sides: skins, spacers, a platform with edge blocks, a strip that squares them."""
    choice, width = site.job.form, site.stack_mm
    made: list[FormPart] = []

    def add(name: str, how_many: int, thick: float, long: float, wide: float, note: str) -> None:
        number = numbered + len(made) + 1
        made.append(_part(site, number, name, how_many, thick, (rectangle(long, wide),), (), 0.0, 0.0, note))

    for rib in ribs:
        length = length_mm(rib.face_edge)
        if choice.build == "ribs":
            add(f"skin of the {rib.name}", 1, choice.skin_mm, length, width, "bends along its length")
        else:
            slats = math.ceil(length / 40)
            add(f"slats of the {rib.name}", slats, choice.skin_mm, width, 38.0, "side by side over both sides")
        gap = (spacing if spacing is not None else width - choice.sheet_mm) - choice.sheet_mm
        if gap > 1:
            rows = max(2, math.ceil(rib.width_mm / 400) + 1)
            add(f"spacers of the {rib.name}", rows * (count - 1), choice.sheet_mm, gap, 50.0, "square to the ribs")
        add(
            f"platform of the {rib.name}",
            1,
            choice.sheet_mm,
            rib.width_mm + 2 * PLATFORM_EDGE_MM,
            width + 2 * PLATFORM_EDGE_MM,
            "blocks outside the outer ones; a straight strip across all squares them",
        )
    return made


def _nest(site: Site, parts: tuple[FormPart, ...]) -> Nest | None:
    """Sheet parts on sheets; a part longer than the sheet as its segments, with a lap to stagger the joints."""
    sizes = []
    for part in parts:
        if site.job.form.build == "solid":
            continue
        segments, along, across = _segments(site.shop, part.width_mm, part.height_mm)
        sizes.append((along, across, part.count * segments))
    if not sizes:
        return None
    return nested(tuple(sizes), sheet_long_mm=site.shop.sheet_long_mm, sheet_short_mm=site.shop.sheet_short_mm)


def _opening(site: Site, parts: tuple[FormPart, ...]) -> float:
    """How wide a clamp must open: from its seat over the lay-up to the far side, caul included."""
    lay_up = site.job.part.thickness_mm + 2 * site.job.form.liner_mm + CAUL_MM
    if KINDS[site.kind].has_opposite and len(parts) > 1:
        points = np.vstack([dense(p.outline) for p in parts if p.end_mm > 0])
        return float(np.ptp(points[:, 1]))
    seat = site.job.form.depth_mm if site.face.back is not None else CLAMP_SEAT_MM + clamp_hole_mm(site.shop) / 2
    return seat + lay_up


def _posts(site: Site) -> tuple[Post, ...]:
    """Posts along the near face: at both ends and the middle, and no further apart than asked."""
    face, step = site.face, site.job.form.post_mm
    count = 2 * math.ceil(face.curve.length_mm / 2 / step)
    at = np.linspace(0, face.curve.length_mm, count + 1)
    points, headings = face.curve.at(at)
    laid = face.laid(points)
    return tuple(
        Post(i, float(x), float(y), math.degrees(h + face.tilt_rad))
        for i, ((x, y), h) in enumerate(zip(laid, headings, strict=True), 1)
    )
