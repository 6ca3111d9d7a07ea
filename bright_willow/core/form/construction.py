"""How a form is built: its parts, the sheets they come out of, its clamps and bolts, and whether it is stiff."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ..common.errors import PlanError
from ..shop.clamps import CAUL_MM
from .carcase import PLATFORM_EDGE_MM, base_board, carcase, held_down_parts, nest_of, part_of, spacer_places
from .closing import ClosingCheck
from .drum_stand import DrumStand, axle_hole, drum_stand, stand_parts
from .edges import level_enough, near_edges, presser_edges
from .hold_downs import HoldDown, StartHold, hold_downs_of, start_hold
from .holes import clamp_hole_mm, has_clamp_holes, holes_of, seat_mm
from .kinds import KINDS
from .nesting import Nest
from .parts import BETWEEN_HOLES_MM, Edge, FormPart, apart_mm, area_mm2, dense
from .site import (
    Post,
    Site,
    closing_of,
    deflection_of,
    layers_of,
    posts_of,
    rib_spacing_mm,
)
from .stiffness import GOODS, Deflection

BOLT_BEYOND_MM = 30.0  # by which a bolt is longer than the stack


@dataclass(frozen=True, slots=True)
class CarryingPart:
    """A part that carries a stretch of the face: its name, its edge towards the wood, its outline, its stretch.

    hollow: the closed line within the outline that is cut out, of a drum that is no disc.
    """

    name: str
    edge: Edge
    outline: Edge
    start_mm: float
    end_mm: float
    hollow: Edge | None = None


@dataclass(frozen=True, eq=False)
class Outlines:
    """What a form is made of besides rectangles, or why it cannot be made."""

    carrying: tuple[CarryingPart, ...] = ()
    hold_downs: tuple[HoldDown, ...] = ()
    stand: DrumStand | None = None
    problem: PlanError | None = None


@dataclass(frozen=True, eq=False)
class FormSketch:
    """A form before its parts are drawn out: what it is, how it closes, whether it is stiff, how it is clamped.

    Each is worked out when it is first asked for.
    """

    site: Site

    @property
    def kind(self) -> str:
        """One of the kinds of form of docs/job-format.md."""
        return self.site.kind

    @property
    def build(self) -> str:
        """How its body is built."""
        return self.site.choice.build

    @property
    def needs(self) -> tuple[str, ...]:
        """What must be at hand besides the parts."""
        return KINDS[self.kind].needs

    @cached_property
    def closing(self) -> ClosingCheck | None:
        """The closing check, of a form with an opposite half."""
        return closing_of(self.site)

    @cached_property
    def start_hold(self) -> StartHold | None:
        """What holds the start of a hot bend; None where nothing is bent around a single form."""
        return start_hold(self.site)

    @cached_property
    def _made(self) -> Outlines:
        try:
            return outlines_of(self.site, self.closing, self.start_hold)
        except PlanError as error:
            return Outlines(problem=error)

    @property
    def outlines(self) -> tuple[CarryingPart, ...]:
        """The parts that carry a face, base first; none where one of them cannot be made."""
        return self._made.carrying

    @property
    def hold_downs(self) -> tuple[HoldDown, ...]:
        """The cauls shaped to the curve, and the cleat at the start."""
        return self._made.hold_downs

    @property
    def stand(self) -> DrumStand | None:
        """What a round form turns on, where it was asked for."""
        return self._made.stand

    @property
    def problem(self) -> PlanError | None:
        """Why a part cannot be made."""
        return self._made.problem

    @cached_property
    def posts(self) -> tuple[Post, ...]:
        """Of a form of posts, where each stands."""
        return posts_of(self.site)

    @cached_property
    def spacers(self) -> tuple[tuple[tuple[float, float], ...], ...]:
        """Of ribs or sides, where the spacers stand on each part that carries a face; in the form's frame, mm."""
        if self.build not in ("ribs", "sawn_sides"):
            return ()
        return tuple(spacer_places(own.outline, own.hollow) for own in self.outlines)

    @property
    def platform_mm(self) -> tuple[float, float, float] | None:
        """Of ribs on a flat foot: the platform under the base, from, to and at what height; in the form's frame."""
        if self.build != "ribs" or not self.outlines or not level_enough(self.site.face):
            return None
        line = dense(self.outlines[0].outline)
        low, high = float(line[:, 1].min()), float(line[:, 1].max())
        foot = low if self.site.sense > 0 else high
        return float(line[:, 0].min()) - PLATFORM_EDGE_MM, float(line[:, 0].max()) + PLATFORM_EDGE_MM, foot

    @property
    def layers(self) -> int:
        """Sheets or laminae in a stack."""
        return layers_of(self.site)

    @cached_property
    def rib_spacing_mm(self) -> float | None:
        return rib_spacing_mm(self.site) if self.build == "ribs" else None

    @cached_property
    def deflection(self) -> Deflection | None:
        """What the weakest place gives under the press, mm; none where nothing spans."""
        return deflection_of(self.site, self.clamp_pitch_mm, self.rib_spacing_mm)

    @cached_property
    def clamps(self) -> int:
        return self.site.clamps

    @property
    def clamp_pitch_mm(self) -> float:
        """From clamp to clamp along the face, mm; 0 where there are none."""
        return self.site.length_mm / self.clamps if self.clamps else 0.0

    @cached_property
    def clamp_opening_mm(self) -> float:
        """How far a clamp must open to go round form and stack, mm."""
        return _opening_mm(self)


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


def form_build(sketch: FormSketch) -> FormBuild:
    """Every part of a sketched form, with its holes, on sheets."""
    site = sketch.site
    unit, stopped = site.shop.rule, sketch.problem
    problem, field = (stopped.message(unit), stopped.field) if stopped else ("", "")
    parts: tuple[FormPart, ...] = ()
    nest = None
    if not stopped:
        try:
            parts = _parts(site, sketch)
            nest = nest_of(site, parts)
        except PlanError as error:
            parts, problem, field = (), error.message(unit), error.field
    sheet = [p for p in parts if p.thickness_mm <= site.choice.sheet_mm + 0.01]
    density = GOODS[site.choice.goods][2]
    stacked = [p for p in parts if sketch.layers > 1 and p.end_mm > 0 and not p.is_hold_down]
    return FormBuild(
        sketch=sketch,
        parts=parts,
        nest=nest,
        goods_m2=sum(area_mm2(p.outline) * 1e-6 * p.count for p in sheet),
        mass_kg=sum(p.wood_mm2 * 1e-9 * p.count * p.thickness_mm * density for p in parts),
        bolts=sum(1 for p in parts for h in p.holes if h.what == "bolt"),
        without_bolts=tuple(p.name for p in stacked if not any(h.what == "bolt" for h in p.holes)),
        bolt_length_mm=site.stack_mm + BOLT_BEYOND_MM,
        problem=problem,
        problem_field=field,
    )


def outlines_of(site: Site, check: ClosingCheck | None, start: StartHold | None) -> Outlines:
    """Every part that has a shape of its own. Raises: PlanError where one cannot be made."""
    if site.kind in ("posts", "in_place"):
        return Outlines()
    edge, outline, hollow = near_edges(site, start)
    name = "base" if check else "round form" if site.kind == "ring" else "form"
    made = [CarryingPart(name, edge, outline, 0.0, site.length_mm, hollow)]
    for presser in check.pressers if check else ():
        edge, presses = presser_edges(site, presser)
        made.append(CarryingPart(presser.name, edge, presses, presser.start_mm, presser.end_mm))
    has_stand = site.kind == "ring" and site.choice.drum_stand
    return Outlines(tuple(made), hold_downs_of(site, start), drum_stand(site, outline) if has_stand else None)


def _parts(site: Site, sketch: FormSketch) -> tuple[FormPart, ...]:
    """Raises: PlanError where a part is too long to be pieced."""
    choice, spacing = site.choice, sketch.rib_spacing_mm
    ribs = round((site.stack_mm - choice.sheet_mm) / spacing) + 1 if spacing else 1
    thickness, count, note = {
        "stack": (choice.sheet_mm, sketch.layers, _stack_text(sketch.layers)),
        "solid": (site.stack_mm, 1, "one block"),
        "ribs": (choice.sheet_mm, ribs, "all the same: gang them and finish them together"),
        "sawn_sides": (choice.sheet_mm, 2, "both together"),
    }[choice.build]
    made = []
    for number, own in enumerate(sketch.outlines, 1):
        holes = holes_of(site, own.edge, own.outline, own.hollow, sketch.clamp_pitch_mm, is_near=number == 1)
        if sketch.stand:
            axle = axle_hole(*sketch.stand.center_mm)
            holes = (*(h for h in holes if apart_mm(h, axle) >= BETWEEN_HOLES_MM), axle)
        edges = tuple(dict.fromkeys(e for e in (own.outline, own.edge, own.hollow) if e))
        made.append(part_of(site, number, own.name, count, thickness, edges, holes, own.start_mm, own.end_mm, note))
    if made and choice.build in ("ribs", "sawn_sides"):
        made += carcase(site, len(made), made, count, spacing)
    made += held_down_parts(site, len(made), sketch.hold_downs)
    if made and sketch.start_hold and sketch.start_hold.kind == "cleat":
        made.append(base_board(site, len(made) + 1, made))
    if sketch.stand:
        made += stand_parts(site, sketch.stand, len(made))
    return tuple(made)


def _stack_text(layers: int) -> str:
    return f"layer 1 is the pattern; copy the other {layers - 1} from it" if layers > 1 else "one layer"


def _opening_mm(sketch: FormSketch) -> float:
    """How wide a clamp must open: from its seat over the lay-up to the far side, caul included."""
    site = sketch.site
    if KINDS[site.kind].has_opposite and len(sketch.outlines) > 1:
        points = np.vstack([dense(o.outline) for o in sketch.outlines])
        return float(np.ptp(points[:, 1]))
    lay_up = site.part.thickness_mm + 2 * site.choice.liner_mm + site.caul_mm + CAUL_MM
    on_back = site.face.back is not None and not has_clamp_holes(site)
    seat = site.choice.depth_mm if on_back else seat_mm(site) + clamp_hole_mm(site.shop) / 2
    return seat + lay_up
