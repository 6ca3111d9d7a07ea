"""A plan as a file: the open format of docs/job-format.md#plan. Made here, at the edge, and read by nothing inside."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from pydantic import TypeAdapter

from ..common.estimate import Estimate, Figure, Grade
from ..common.findings import Finding
from ..common.operation import Operation
from ..form.closing import ClosingCheck
from ..form.drum_stand import DrumStand
from ..form.hold_downs import StartHold
from ..form.nesting import Nest
from ..form.parts import FormPart
from ..form.site import Post
from ..form.stiffness import Deflection
from ..heat.chamber import Chamber
from ..heat.drying import Drying
from ..heat.elastica import Bracket
from ..heat.iron_and_blanket import BlanketStep, DryBend, DryHeat
from ..heat.limits import LimitFigures
from ..heat.springback_measures import LegOpening
from ..heat.steam_plan import Steam, SteamHeat
from ..heat.straightening_block import Straightening
from ..heat.strap_mechanics import Strap
from ..methods.steps.making_form import FormMaterial
from ..scheduling.estimate_days import Elapsed
from ..shape.curve import Curve
from ..shape.curve_figures import CurveFigures
from ..springback.closed_ring import RingLayer
from ..stock.board_count import BoardUse
from ..stock.sheet_cutting import SheetCut
from ..stock.stock_use import StockUse
from ..stock.veneer_plan import VeneerPlan
from ..workpiece.bend import Springback
from ..workpiece.geometry import StickMark
from ..workpiece.workpiece import (
    Forces,
    GluedLayup,
    HotBlank,
    Lamina,
    LayupOption,
    Press,
    StraightenedPiece,
)
from .offsets import Offset
from .result import Plan


@dataclass(frozen=True, slots=True)
class CurveFile:
    """A curve as runs of length and curvature, with what a maker would check on it.

    Drawn with the station anchor_mm at (0, anchor_y_mm) and level there.
    """

    lengths_mm: tuple[float, ...]
    curvature_per_mm: tuple[float, ...]
    length_mm: float
    sweep_deg: float
    chord_mm: float
    rise_mm: float
    least_radius_mm: float | None
    anchor_mm: float
    anchor_y_mm: float

    @classmethod
    def of(cls, figures: CurveFigures) -> CurveFile:
        curve = figures.curve
        return cls(
            tuple(curve.lengths_mm.tolist()),
            tuple(curve.curvature.tolist()),
            figures.length_mm,
            figures.sweep_deg,
            figures.chord_mm,
            figures.rise_mm,
            figures.least_radius_mm,
            curve.anchored_at_mm,
            curve.anchor_y_mm,
        )

    @classmethod
    def along(cls, curve: Curve) -> CurveFile:
        return cls.of(CurveFigures(curve))


@dataclass(frozen=True, slots=True)
class GeometryFile:
    """The finished piece on its three faces, its size over all as drawn, the angle between its ends."""

    inner: CurveFile
    mid: CurveFile
    outer: CurveFile
    thickness_mm: float
    width_mm: float
    overall_across_mm: float
    overall_up_mm: float
    legs_angle_deg: float


@dataclass(frozen=True, slots=True)
class CurvesFile:
    """The mid-line wanted, on the form, released (likely, and at the ends of the 80 % band), and settled."""

    target: CurveFile
    on_form: CurveFile
    released: CurveFile
    released_most_open: CurveFile
    released_most_closed: CurveFile
    settled: CurveFile


@dataclass(frozen=True, slots=True)
class FaceFile:
    """The form face over the whole blank, trims included; marks are lengths along the face from its start."""

    side: Literal["inner", "outer"]
    face: CurveFile
    part_start_mm: float
    middle_mm: float
    part_end_mm: float
    liner_mm: float
    depth_mm: float
    has_straight_base: bool
    stack_height_mm: float
    is_one_arc: bool
    offsets: tuple[Offset, ...]
    grade: Grade


@dataclass(frozen=True, slots=True)
class BuildFile:
    """How the form is built. parts: none where they were not asked for, or there is a problem."""

    kind: str
    build: str
    needs: tuple[str, ...]
    closing: ClosingCheck | None
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
    start_hold: StartHold | None
    stand: DrumStand | None


@dataclass(frozen=True, slots=True)
class HeatFile:
    """Everything about heat; what a way does not need is null or empty."""

    limits: LimitFigures | None
    set_strain: Estimate
    legs: tuple[LegOpening, ...]
    opening_on_form_mm: float | None
    overlap_mm: float | None
    bow_pulls: tuple[tuple[float, float], ...]
    bow_brackets: tuple[Bracket, ...]
    opening_released_mm: Estimate | None
    gentle: tuple[tuple[float, float], ...]
    steam: Steam | None
    chamber: Chamber | None
    strap: Strap | None
    dry: tuple[DryBend, ...]
    blanket: tuple[BlanketStep, ...]
    straighten: Straightening | None
    after: Drying
    end_spare_mm: float | None


@dataclass(frozen=True, slots=True)
class QuantitiesFile:
    """What to cut and to have at hand, for all pieces and spares."""

    pieces: int
    spares: int
    trim_mm: float
    stock: StockUse
    sheet_m2: float
    glue_g: Figure | None
    expected_yield: Estimate
    spares_advised: int
    boards: BoardUse | None
    sheets: tuple[SheetCut, ...]
    veneers: VeneerPlan | None


@dataclass(frozen=True, slots=True)
class PlanFile:
    """The whole answer for one job."""

    format: Literal["bright-willow-plan"]
    version: Literal[1]
    job_name: str
    way: str
    group: str
    species_name: str
    species_grade: Grade
    species_source: str
    breaking_strain: Figure
    geometry: GeometryFile
    curves: CurvesFile
    use_of_strain: Figure
    use_along: tuple[float, ...]
    laminae: tuple[Lamina, ...]
    ring: tuple[RingLayer, ...]
    ladder: tuple[LayupOption, ...]
    springback: Springback | None
    forces: Forces
    press: Press | None
    form: FaceFile
    build: BuildFile
    heat: HeatFile | None
    stick: tuple[StickMark, ...]
    quantities: QuantitiesFile
    operations: tuple[Operation, ...]
    making_form: tuple[Operation, ...]
    form_materials: tuple[FormMaterial, ...]
    days: Elapsed
    findings: tuple[Finding, ...]
    cautions: tuple[str, ...]
    assumptions: tuple[str, ...]


PLAN_FILE = TypeAdapter(PlanFile)


def plan_json(plan: Plan, *, parts: bool = True, indent: int | None = None) -> bytes:
    """A plan as JSON; `parts`: with the outlines of the form's parts, which are most of it."""
    return PLAN_FILE.dump_json(as_file(plan, parts=parts), indent=indent, by_alias=True)


def as_file(plan: Plan, *, parts: bool = True) -> PlanFile:
    """A plan in the shape of its file."""
    grade, source = plan.way.source
    laid_up, bend = plan.laid_up, plan.bend
    return PlanFile(
        format="bright-willow-plan",
        version=1,
        job_name=plan.job.name,
        way=plan.job.way,
        group=plan.way.group,
        species_name=plan.way.wood.name,
        species_grade=grade,
        species_source=source,
        breaking_strain=plan.make.breaking_strain,
        geometry=_geometry(plan),
        curves=CurvesFile(
            CurveFile.along(bend.target),
            CurveFile.along(bend.on_form),
            CurveFile.along(bend.likely),
            CurveFile.along(bend.released[2]),
            CurveFile.along(bend.released[0]),
            CurveFile.along(bend.settled),
        ),
        use_of_strain=plan.make.use.worst,
        use_along=plan.make.use.along,
        laminae=laid_up.laminae if laid_up else (),
        ring=laid_up.ring if laid_up else (),
        ladder=plan.ladder,
        springback=bend.opens if isinstance(bend.opens, Springback) else None,
        forces=plan.make.forces,
        press=laid_up.press if laid_up else None,
        form=_face(plan),
        build=_build(plan, parts),
        heat=_heat(plan.hot) if plan.hot else None,
        stick=plan.stick,
        quantities=_quantities(plan, laid_up),
        operations=plan.operations,
        making_form=plan.form_work.operations,
        form_materials=plan.form_work.materials,
        days=plan.elapsed,
        findings=plan.findings,
        cautions=plan.cautions,
        assumptions=plan.assumptions,
    )


def _geometry(plan: Plan) -> GeometryFile:
    g = plan.geometry
    return GeometryFile(
        CurveFile.of(g.inner),
        CurveFile.of(g.mid),
        CurveFile.of(g.outer),
        g.thickness_mm,
        g.width_mm,
        g.overall_across_mm,
        g.overall_up_mm,
        g.legs_angle_deg,
    )


def _face(plan: Plan) -> FaceFile:
    face = plan.face
    return FaceFile(
        side=face.side,
        face=CurveFile.of(plan.face_figures),
        part_start_mm=face.part_start_mm,
        middle_mm=face.middle_mm,
        part_end_mm=face.part_end_mm,
        liner_mm=plan.site.choice.liner_mm,
        depth_mm=face.depth_mm,
        has_straight_base=face.back is None,
        stack_height_mm=plan.site.stack_mm,
        is_one_arc=plan.is_one_arc,
        offsets=plan.offsets,
        grade=plan.form_grade,
    )


def _build(plan: Plan, parts: bool) -> BuildFile:
    form, build = plan.form, plan.build
    return BuildFile(
        kind=form.kind,
        build=form.build,
        needs=form.needs,
        closing=form.closing,
        parts=build.parts if parts else (),
        posts=form.posts,
        layers=form.layers,
        nest=build.nest if parts else None,
        goods_m2=build.goods_m2,
        mass_kg=build.mass_kg,
        deflection=form.deflection,
        rib_spacing_mm=form.rib_spacing_mm,
        clamps=form.clamps,
        clamp_pitch_mm=form.clamp_pitch_mm,
        clamp_opening_mm=form.clamp_opening_mm,
        bolts=build.bolts,
        without_bolts=build.without_bolts,
        bolt_length_mm=build.bolt_length_mm,
        problem=build.problem,
        problem_field=build.problem_field,
        start_hold=form.start_hold,
        stand=form.stand,
    )


def _heat(hot: HotBlank | StraightenedPiece) -> HeatFile:
    steam = hot.heat if isinstance(hot.heat, SteamHeat) else None
    dry = hot.heat if isinstance(hot.heat, DryHeat) else None
    blank = hot if isinstance(hot, HotBlank) else None
    return HeatFile(
        limits=blank.limits if blank else None,
        set_strain=hot.set_strain,
        legs=blank.legs if blank else (),
        opening_on_form_mm=blank.opening_on_form_mm if blank else None,
        overlap_mm=blank.overlap_mm if blank else None,
        bow_pulls=blank.bow.pulls if blank and blank.bow else (),
        bow_brackets=blank.bow.brackets if blank and blank.bow else (),
        opening_released_mm=blank.opening_released_mm if blank else None,
        gentle=blank.gentle if blank else (),
        steam=steam.steam if steam else None,
        chamber=steam.chamber if steam else None,
        strap=steam.strap if steam else None,
        dry=dry.bends if dry else (),
        blanket=dry.blanket if dry else (),
        straighten=hot.block if isinstance(hot, StraightenedPiece) else None,
        after=hot.drying,
        end_spare_mm=blank.end_spare_mm if blank else None,
    )


def _quantities(plan: Plan, laid_up: GluedLayup | None) -> QuantitiesFile:
    own = plan.quantities
    return QuantitiesFile(
        own.pieces,
        own.spares,
        own.trim_mm,
        own.stock,
        laid_up.sheet_m2 if laid_up else 0.0,
        laid_up.glue_g if laid_up else None,
        own.expected_yield,
        own.spares_advised,
        own.boards,
        laid_up.sheets if laid_up else (),
        laid_up.veneers if laid_up else None,
    )
