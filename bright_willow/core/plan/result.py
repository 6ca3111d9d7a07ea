"""What plan() answers: a sketch of a bend, which is all a drag needs, and the whole plan that completes it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import numpy as np

from ..common.estimate import Estimate, Grade
from ..common.findings import Finding
from ..common.operation import Move, Operation
from ..form.construction import FormBuild, FormSketch
from ..form.face import FormFace
from ..form.site import Site
from ..gluing.stack_section import Section
from ..gluing.tent_cure import TentCure, tent_cure
from ..heat.drying import CHART_HOURS, COMPARED_HOURS, AfterHours
from ..heat.steam_plan import SteamHeat
from ..heat.wrapping import WrapPosition, wrapping
from ..job.job import Job
from ..methods.method import Method
from ..methods.steps.making_form import FormWork, after_form, form_work
from ..scheduling.estimate_days import Elapsed, estimate_days
from ..shape.curve import Curve, tip_distance_mm
from ..shape.curve_figures import CurveFigures
from ..shop.shop import Shop
from ..stock.molding_profile import Profiled, profiled
from ..stock.prepared_stock import Prepared, prepared
from ..workpiece.bend import Bend, Springback
from ..workpiece.end_cuts import EndCut, end_cut
from ..workpiece.geometry import WITNESS_MM, Geometry, StickMark, stick_marks
from ..workpiece.glue_up import GluedUp, glued_up
from ..workpiece.own_marks import MarkPlace, mark_places
from ..workpiece.quantities import Quantities
from ..workpiece.workpiece import (
    GluedLayup,
    HotBlank,
    LayupOption,
    Make,
    StraightenedPiece,
    hot_of,
    laid_up_of,
)
from .offsets import Offset, offsets_of


@dataclass(frozen=True, eq=False)
class Sketch:
    """A bend as far as it shows while something is dragged: its curves, what is made, its form without the parts."""

    job: Job
    shop: Shop
    way: Method
    bend: Bend
    make: Make
    quantities: Quantities
    form: FormSketch
    findings: tuple[Finding, ...]

    @cached_property
    def geometry(self) -> Geometry:
        """The finished piece, as the maker stated it."""
        part = self.job.part
        return Geometry(self.bend.stated, part.thickness_mm, part.width_mm)

    @cached_property
    def ends(self) -> tuple[EndCut, EndCut]:
        """How the left and the right end of the finished piece are cut."""
        part, mid = self.job.part_as_drawn, self.bend.stated
        return (
            end_cut(mid, "left", part.left_cut, part.left_mitre_deg, part.thickness_mm),
            end_cut(mid, "right", part.right_cut, part.right_mitre_deg, part.thickness_mm),
        )

    @property
    def witness_mm(self) -> float | None:
        """Where the mark stands that tells which way round a piece goes: near its left end, on a right-hand piece near
        its right; from the start of the finished piece. None for a ring, and for a piece too short for it."""
        length = self.bend.target.length_mm
        if self.job.shape.is_closed or length <= 4 * WITNESS_MM:
            return None
        return length - WITNESS_MM if self.job.is_right else WITNESS_MM

    @cached_property
    def own_marks(self) -> tuple[MarkPlace, ...]:
        """The maker's own marks on the finished piece."""
        return mark_places(self.job, self.bend.target.length_mm)

    @cached_property
    def stick(self) -> tuple[StickMark, ...]:
        """The marks of the story stick."""
        laid_up = self.laid_up
        return stick_marks(
            self.bend.blank,
            self.bend.stated,
            thickness_mm=self.job.part.thickness_mm,
            trims_mm=self.bend.trims_mm,
            ends=self.ends,
            witness_mm=self.witness_mm,
            own=self.own_marks,
            ring=laid_up.ring if laid_up else (),
            sheets=laid_up.sheets if laid_up else (),
        )

    @property
    def site(self) -> Site:
        """Where the form is built."""
        return self.form.site

    @property
    def face(self) -> FormFace:
        """The face of the form over the whole blank."""
        return self.site.face

    @cached_property
    def face_figures(self) -> CurveFigures:
        """The face of the form, and what a maker would check on it."""
        return CurveFigures(self.face.curve)

    @cached_property
    def held_to(self) -> Curve:
        """The centerline a piece is held to while it dries."""
        bend = self.bend
        return bend.target.with_curvature(self.way.jig_curvature(bend.target.curvature, bend.likely.curvature))

    @cached_property
    def overbend_mm(self) -> Estimate:
        """How much further in each end is on the form than on the finished piece, mm; what springs back has a range."""
        bend = self.bend
        further = float(tip_distance_mm(bend.target.lengths_mm, bend.on_form.curvature, bend.target.curvature))
        tip = bend.opens.tip_mm if isinstance(bend.opens, Springback) else None
        if tip is None or abs(further - tip.likely) > 0.01 * tip.likely:
            return Estimate(further, further, further, self.form_grade)
        return Estimate(min(tip.low, further), further, max(tip.high, further), self.form_grade)

    @property
    def finished_radius_mm(self) -> float:
        """The tightest radius of the finished piece on the face that lies on the form, mm."""
        face = self.geometry.inner if self.face.side == "inner" else self.geometry.outer
        return face.least_radius_mm or 0.0

    @property
    def form_grade(self) -> Grade:
        """How sure the form is: it has the springback in it; one that has the size wanted is geometry alone."""
        if np.array_equal(self.bend.on_form.curvature, self.bend.target.curvature):
            return "physics"
        return "learned" if self.bend.loss_ratio.grade == "learned" else "allowance"

    @property
    def is_one_arc(self) -> bool:
        """Whether the face is one arc, which a trammel draws."""
        return self.face_figures.curve.lengths_mm.size == 1

    @cached_property
    def glued_up(self) -> GluedUp | None:
        """The race of the glue-up and the order of its clamps; None where nothing is glued."""
        laid_up = self.laid_up
        return glued_up(self.job, self.shop, self.bend, laid_up, self.form) if laid_up else None

    @cached_property
    def prepared(self) -> Prepared | None:
        """The boards sawn into strips and these dealt out to the pieces; None where nothing is sawn."""
        return prepared(self.job, self.shop, self.quantities.stock)

    @cached_property
    def lies_on(self) -> tuple[Section, ...]:
        """What lies on what, wherever the order matters."""
        return self.way.lies_on(self.make, self.form)

    @cached_property
    def moves(self) -> tuple[Move, ...]:
        """The moves while hot stock cools, one after another; nothing where nothing is hot."""
        return self.way.moves(self.bend, self.make)

    @cached_property
    def tent_cure(self) -> TentCure | None:
        """The tent it cures in, where there is one."""
        laid_up, glued = self.laid_up, self.glued_up
        if laid_up is None or glued is None:
            return None
        return tent_cure(self.job, self.shop, laid_up.glue, hours=laid_up.warm_h, size_mm=self.size_mm)

    @cached_property
    def size_mm(self) -> tuple[float, float, float]:
        """Form and piece on it over all: long, high, and as wide as the stack."""
        half = self.job.part.thickness_mm / 2
        points = np.vstack((self.face.outline_points(8.0), self.bend.blank.parallel(self.site.sense * half).points_mm))
        long, high = np.ptp(points, axis=0)
        return float(long), float(high), self.site.stack_mm

    @cached_property
    def profiled(self) -> Profiled | None:
        """The profile cut for its laminae and put together; None where it has none."""
        laid_up = self.laid_up
        return profiled(self.job, self.shop, [x.thickness_mm for x in laid_up.laminae]) if laid_up else None

    @cached_property
    def wrapping(self) -> tuple[WrapPosition, ...]:
        """The way of a hot piece round its form, step by step; nothing where none is bent round one."""
        hot, start = self.hot, self.form.start_hold
        if not isinstance(hot, HotBlank):
            return ()
        return wrapping(
            self.bend.blank,
            thickness_mm=hot.thickness_mm,
            moment_nmm=hot.forces.holding_moment_nmm.value,
            lever_mm=hot.forces.lever_mm,
            has_stops=isinstance(hot.heat, SteamHeat) and hot.heat.strap is not None,
            from_end=start.end if start and start.kind != "clamps" else None,
        )

    @cached_property
    def by_hours(self) -> tuple[AfterHours, ...]:
        """Springback off this form against hours on it; nothing where it does not depend on them."""
        return self.way.by_hours(self.bend, CHART_HOURS)

    @cached_property
    def compared_hours(self) -> tuple[AfterHours, ...]:
        """The same at a few round hours, and last at those that are planned."""
        own = self.hot.drying.on_form_h if self.hot else 0.0
        return self.way.by_hours(self.bend, (*COMPARED_HOURS, own)) if own else ()

    @property
    def laid_up(self) -> GluedLayup | None:
        """The lay-up in what is made, if anything is glued."""
        return laid_up_of(self.make)

    @property
    def hot(self) -> HotBlank | StraightenedPiece | None:
        """What is bent hot in what is made, if anything is."""
        return hot_of(self.make)


@dataclass(frozen=True, eq=False)
class Plan(Sketch):
    """The whole answer for one job. What only some pages show is worked out when it is first asked for.

    rungs: gives the strip options, the same ones to every check and page.
    """

    rungs: Callable[[], tuple[LayupOption, ...]]
    build: FormBuild
    cautions: tuple[str, ...]
    assumptions: tuple[str, ...]
    kind: Literal["plan"] = "plan"

    @property
    def ladder(self) -> tuple[LayupOption, ...]:
        """The strip options; none where nothing is glued up of equal strips."""
        return self.rungs()

    @cached_property
    def operations(self) -> tuple[Operation, ...]:
        """What is done, in order. What cannot be done was refused with the plan."""
        return self.way.operations_with(self.quantities.stock, self.bend, self.make, self.form)

    @cached_property
    def form_work(self) -> FormWork:
        """Making the forms, which comes before the first bend where none is built."""
        return form_work(self.build, self.way.batches.forms)

    @cached_property
    def operations_with_form(self) -> tuple[Operation, ...]:
        """What is done, in order, from making the form on."""
        return after_form(self.operations, self.form_work)

    @cached_property
    def elapsed(self) -> Elapsed:
        """Days on the forms and in all, and hours at the bench."""
        return estimate_days(self.operations, self.way.batches, people=self.shop.week.people, owned=self.shop.owned)

    @cached_property
    def offsets(self) -> tuple[Offset, ...]:
        """Heights of the face over its base line, at round stations."""
        figures = self.face_figures
        return offsets_of(self.face, span_mm=max(figures.chord_mm, figures.length_mm / 2), shop=self.shop)
