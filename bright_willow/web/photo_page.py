"""A picture that is measured on: what its marks come to, for the job's piece and for its shape."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import numpy as np
from markupsafe import Markup

from ..core.common.errors import PlanError
from ..core.common.units import Unit
from ..core.job.job import Job
from ..core.measuring.photo_measurement import PhotoMarks, Plane
from ..core.measuring.profile_readings import EdgePoints, KeptReading, beside, is_slip, traced_by
from ..core.measuring.traced import Trace
from ..core.plan.read_job import read_job
from ..core.shape.arc import Face
from ..core.shape.smooth_curve import fitted
from ..drawing.photo_drawing import marks_svg
from ..store.records import KeptForm
from ..store.repositories.kept_pictures import Picture
from .formatting import FigureGroup, FigureRow, Formatter, Item, Note

FEWEST_OF_A_SHAPE = 5
NEVER_BETTER_MM = 0.1  # a face of wood is no better than that. Grade: allowance.


@dataclass(frozen=True)
class PhotoMeasurement:
    """What is marked, in mm where that can be told; what stands in the way of the piece and of the shape, in words."""

    marks: PhotoMarks
    plane: Plane | None
    faults: dict[str, str]
    edge: EdgePoints | None = None
    trace: Trace | None = None
    svg: Markup = field(default_factory=Markup)

    @property
    def kept(self) -> KeptReading | None:
        return KeptReading(self.edge, 1.0) if self.edge else None


def sight_of(picture: Picture, form: KeptForm | None, face: Face, unit: Unit) -> PhotoMeasurement:
    """What a picture's marks come to, against the form its piece came off. Nothing is raised: faults are in words."""
    marks = picture.marks or PhotoMarks.sheet(unit)
    size, faults = (picture.wide, picture.high), dict[str, str]()
    plane = edge = trace = None
    try:
        plane = Plane.by(marks)
    except PlanError as fault:
        if marks.is_placed:
            faults["corners"] = fault.message(unit)
    if plane and marks.points:
        at = np.array(marks.points)
        try:
            errors = np.maximum(plane.errors_mm(at), NEVER_BETTER_MM)
            edge = EdgePoints(tuple(map(tuple, plane.mm(at).tolist())), tuple(errors.tolist()), face)
            if form and form.built.can_open:
                trace = traced_by(form.built, edge)
        except PlanError as fault:
            faults["points"] = fault.message(unit)
    fitted_px = plane.px(trace.fitted_mm) if plane and trace else None
    return PhotoMeasurement(marks, plane, faults, edge, trace, Markup(marks_svg(size, marks, plane, fitted_px)))


def asks_for(sight: PhotoMeasurement) -> str:
    """What to mark next, in a sentence."""
    marks = sight.marks
    if not marks.is_placed:
        done = len(marks.corners)
        if marks.by == "bar":
            return "Mark the other end of the bar." if done else "Mark one end of the bar."
        return (
            f"Mark corner {done + 1} of the rectangle, going around it." if done else "Mark a corner of the rectangle."
        )
    if len(marks.points) < 2:
        return "Now mark the edge of the piece from one end to the other."
    if len(marks.points) < 4:
        return "Continue along the edge to its other end."
    return "More points are better. Drag one that is off."


def piece_items(sight: PhotoMeasurement, form: KeptForm | None, w: Formatter) -> list[Item]:
    """The piece: chord and rise with their error, its springback, each end."""
    if form is None or not sight.trace or not sight.kept or not sight.edge:
        return []
    made, face = sight.trace.measured, sight.edge.face
    chord, rise = form.built.expected_on(face)

    def with_error(mm: float) -> str:
        return f"{w.length(mm)} ± {w.length(made.error_mm)}"

    rows = [
        FigureRow("chord", with_error(made.chord_mm), "physics", f"expected {w.length(chord.likely)}"),
        FigureRow("rise", with_error(made.rise_mm), "physics", f"expected {w.length(rise.likely)}"),
        FigureRow("measured ÷ calculated", f"{made.ratio.ratio:.2f} ± {made.ratio.error:.2f}", "physics"),
    ]
    own = beside(form.built, made.ratio.ratio, sight.kept)
    left, right = own.ends
    if left and right:
        rows.append(FigureRow("left half", f"{left.ratio:.2f} ± {left.error:.2f}", "physics"))
        rows.append(FigureRow("right half", f"{right.ratio:.2f} ± {right.error:.2f}", "physics"))
    items: list[Item] = [FigureGroup("", tuple(rows))]
    if is_slip(form.built, sight.kept, made):
        items.append(
            Note(f"These points are {made.misfit:.0f} × their error away from any such piece: look for a mistake.")
        )
    elif own.ends_differ:
        items.append(Note("One end sprang back more than the other, by more than the measuring error."))
    if sight.trace.is_mirrored:
        message = "It is seen from the other side: left and right are given for the side it was drawn from."
        items.append(Note(message, "hint"))
    return items


def shape_items(sight: PhotoMeasurement, w: Formatter) -> tuple[list[Item], str]:
    """The edge as a shape of its own, and what is wrong with it."""
    if not sight.edge:
        return [], ""
    if len(sight.edge.points_mm) < FEWEST_OF_A_SHAPE:
        return [], f"{FEWEST_OF_A_SHAPE} points or more along the edge, please."
    try:
        fit = fitted(sight.edge.points_mm, sight.edge.error_mm)
        chord, rise = fit.curve.chord_and_rise_mm()
    except PlanError as fault:
        return [], fault.message(w.unit)
    low, high = fit.radius_mm
    tight = f"{w.length(low)} to {w.length(high) if high < 1e6 else 'straight'}"
    rows = (
        FigureRow("length along it", w.length(fit.curve.length_mm), "physics"),
        FigureRow("chord, rise", f"{w.length(chord)}, {w.length(rise)}", "physics"),
        FigureRow("tightest radius, likely", tight, "physics"),
        FigureRow("points off the curve by", w.length(fit.error_mm, 2), "physics"),
    )
    return [FigureGroup("", rows)], ""


def job_shaped(job: Job, edge: EdgePoints, unit: Unit, woods: tuple[Any, ...]) -> Job:
    """The job with this edge as its shape. Raises: JobFaulty."""
    points = [[round(x, 2), round(y, 2)] for x, y in edge.points_mm]
    shape = {
        "kind": "outline",
        "face": edge.face,
        "points_mm": points,
        "slack_mm": round(edge.error_mm, 2),
        "source": "a picture",
    }
    return read_job({**job.model_dump(), "shape": shape}, unit, woods)
