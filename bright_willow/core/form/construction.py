"""How a form is built: its parts, the sheets they come out of, its clamps and bolts, and whether it is stiff."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..ground.errors import OutOfRange
from ..shop.clamps import CAUL_MM
from .carcase import carcase, nest_of, part_of
from .closing import Closing
from .edges import near_edges, presser_edges
from .holes import clamp_hole_mm, holes_of
from .kinds import KINDS
from .nesting import Nest
from .parts import CLAMP_SEAT_MM, Edge, FormPart, area_mm2, dense
from .site import Post, Site, closing_of, deflection_of, layers_of, posts_of, rib_spacing_mm
from .stiffness import GOODS, Deflection

BOLT_BEYOND_MM = 30.0  # by which a bolt is longer than the stack


@dataclass(frozen=True, slots=True)
class CarryingPart:
    """A part that carries a stretch of the face: its name, its edge towards the wood, its outline, its stretch."""

    name: str
    edge: Edge
    outline: Edge
    start_mm: float
    end_mm: float


@dataclass(frozen=True, slots=True)
class FormSketch:
    """A form before its parts are drawn out: what it is, how it closes, whether it is stiff, how it is clamped.

    outlines: edge and closed outline of the parts that carry a face, base first, each with its stretch of the face
    (mm). problem: the sentence where one of them cannot be made, and problem_field what to blame.
    """

    kind: str
    build: str
    needs: tuple[str, ...]
    closing: Closing | None
    outlines: tuple[CarryingPart, ...]
    posts: tuple[Post, ...]
    layers: int
    deflection: Deflection | None
    rib_spacing_mm: float | None
    clamps: int
    clamp_pitch_mm: float
    clamp_opening_mm: float
    problem: str
    problem_field: str


@dataclass(frozen=True, slots=True)
class FormBuild:
    """Everything to build one form by. sketch: what it is; parts: none where there is a problem, and then no nest.

    without_bolts: stacked parts too small for a bolt with wood round it.
    """

    sketch: FormSketch
    parts: tuple[FormPart, ...]
    nest: Nest | None
    goods_m2: float
    mass_kg: float
    bolts: int
    without_bolts: tuple[str, ...]
    bolt_length_mm: float
    problem: str
    problem_field: str


def form_sketch(site: Site) -> FormSketch:
    """What a form is, without its parts. Raises: OutOfRange where the choice itself cannot be (a direction along the
    face, a split off the form)."""
    check = closing_of(site)
    clamps = site.clamps
    pitch = site.length_mm / clamps
    spacing = rib_spacing_mm(site) if site.choice.build == "ribs" else None
    outlines: tuple[CarryingPart, ...] = ()
    problem = field = ""
    try:
        outlines = _outlines(site, check)
    except OutOfRange as error:
        problem, field = error.says(site.shop.units), error.field
    return FormSketch(
        kind=site.kind,
        build=site.choice.build,
        needs=KINDS[site.kind].needs,
        closing=check,
        outlines=outlines,
        posts=posts_of(site),
        layers=layers_of(site),
        deflection=deflection_of(site, pitch, spacing),
        rib_spacing_mm=spacing,
        clamps=clamps,
        clamp_pitch_mm=pitch,
        clamp_opening_mm=_opening_mm(site, outlines),
        problem=problem,
        problem_field=field,
    )


def form_build(site: Site, sketch: FormSketch) -> FormBuild:
    """Every part of a sketched form, with its holes, on sheets."""
    problem, field = sketch.problem, sketch.problem_field
    parts: tuple[FormPart, ...] = ()
    nest = None
    if not problem:
        try:
            parts = _parts(site, sketch)
            nest = nest_of(site, parts)
        except OutOfRange as error:
            parts, problem, field = (), error.says(site.shop.units), error.field
    sheet = [p for p in parts if p.thickness_mm <= site.choice.sheet_mm + 0.01]
    density = GOODS[site.choice.goods][2]
    stacked = [p for p in parts if sketch.layers > 1 and p.end_mm > 0]
    return FormBuild(
        sketch=sketch,
        parts=parts,
        nest=nest,
        goods_m2=sum(area_mm2(p.outline) * 1e-6 * p.count for p in sheet),
        mass_kg=sum(area_mm2(p.outline) * 1e-9 * p.count * p.thickness_mm * density for p in parts),
        bolts=sum(1 for p in parts for h in p.holes if h.what == "bolt"),
        without_bolts=tuple(p.name for p in stacked if not any(h.what == "bolt" for h in p.holes)),
        bolt_length_mm=site.stack_mm + BOLT_BEYOND_MM,
        problem=problem,
        problem_field=field,
    )


def _outlines(site: Site, check: Closing | None) -> tuple[CarryingPart, ...]:
    if site.kind in ("posts", "in_place"):
        return ()
    edge, outline = near_edges(site)
    name = "base" if check else "drum" if site.kind == "ring" else "form"
    made = [CarryingPart(name, edge, outline, 0.0, site.length_mm)]
    for presser in check.pressers if check else ():
        edge, outline = presser_edges(site, presser)
        made.append(CarryingPart(presser.name, edge, outline, presser.start_mm, presser.end_mm))
    return tuple(made)


def _parts(site: Site, sketch: FormSketch) -> tuple[FormPart, ...]:
    """Raises: OutOfRange where a part is too long to be pieced."""
    choice, spacing = site.choice, sketch.rib_spacing_mm
    ribs = 1 if spacing is None else round((site.stack_mm - choice.sheet_mm) / spacing) + 1
    thickness, count, note = {
        "stack": (choice.sheet_mm, sketch.layers, _stack_says(sketch.layers)),
        "solid": (site.stack_mm, 1, "one block"),
        "ribs": (choice.sheet_mm, ribs, "all alike: gang them up and finish them as one"),
        "sawn_sides": (choice.sheet_mm, 2, "both together"),
    }[choice.build]
    made = []
    for number, own in enumerate(sketch.outlines, 1):
        holes = holes_of(site, own.edge, own.outline, sketch.clamp_pitch_mm, is_near=number == 1)
        edges = (own.outline,) if own.edge is own.outline else (own.outline, own.edge)
        made.append(part_of(site, number, own.name, count, thickness, edges, holes, own.start_mm, own.end_mm, note))
    if made and choice.build in ("ribs", "sawn_sides"):
        made += carcase(site, len(made), made, count, spacing)
    return tuple(made)


def _stack_says(layers: int) -> str:
    return f"layer 1 is the pattern, the other {layers - 1} are copied from it" if layers > 1 else "one layer"


def _opening_mm(site: Site, outlines: tuple[CarryingPart, ...]) -> float:
    """How wide a clamp must open: from its seat over the lay-up to the far side, caul included."""
    lay_up = site.part.thickness_mm + 2 * site.choice.liner_mm + CAUL_MM
    if KINDS[site.kind].has_opposite and len(outlines) > 1:
        points = np.vstack([dense(o.outline) for o in outlines])
        return float(np.ptp(points[:, 1]))
    seat = site.choice.depth_mm if site.face.back is not None else CLAMP_SEAT_MM + clamp_hole_mm(site.shop) / 2
    return seat + lay_up
