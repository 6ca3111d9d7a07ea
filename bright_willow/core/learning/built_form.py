"""A form as it was built, frozen: what its pieces are compared with, whatever the job or the book say later."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from pydantic import Field

from ..document import Document
from ..errors import OutOfRange
from ..estimate import Estimate, Grade
from ..job import Job
from ..plan_parts import Plan
from ..shape.arc import Arc, Face, curvature_from_chord_and_rise, face_offset_mm
from ..shape.curve import Curve, tip_distance_mm
from ..shop.adhesive import adhesive
from .experience import BendRecord, group_of, loss_ratio

MISHAPS: dict[str, str] = {
    "": "nothing",
    "slipped": "a clamp or lamina slipped",
    "early_release": "taken off the form early",
    "cracked": "cracked",
    "delaminated": "a glue line opened",
    "other": "something else, see note",
}


class BuiltForm(Document):
    """One form with the lay-up bent on it. Curvatures of the mid-line, 1/mm; length of the finished mid-line."""

    format: Literal["bright-willow-built-form"] = "bright-willow-built-form"
    version: Literal[1] = 1
    way: Literal["cold_lamination"] = "cold_lamination"
    group: str
    species: str
    adhesive: str
    laminae: int
    thickness_mm: float
    width_mm: float
    length_mm: float
    form_curvature: float = Field(description="on the form")
    predicted_curvature: float = Field(description="released, by mechanics alone")
    wanted_curvature: float
    expected_low: float = Field(description="released, the tight end of the 80 % band")
    expected: float
    expected_high: float = Field(description="released, the open end of the 80 % band")
    grade: Grade

    @classmethod
    def of(cls, job: Job, plan: Plan) -> BuiltForm:
        """The form of a plan, as it stands now."""
        on_form = plan.curves.on_form.curvature_per_mm[0]
        released = plan.curves.released.curvature_per_mm[0]
        creep = adhesive(job.build_up.adhesive).creep
        return cls(
            way=job.way,
            group=group_of(species_key=job.stock.species, creep=creep),
            species=job.stock.species,
            adhesive=job.build_up.adhesive,
            laminae=job.build_up.laminae,
            thickness_mm=job.part.thickness_mm,
            width_mm=job.part.width_mm,
            length_mm=plan.geometry.mid.length_mm,
            form_curvature=on_form,
            predicted_curvature=on_form - (on_form - released) / plan.springback.loss_ratio.likely,
            wanted_curvature=plan.curves.target.curvature_per_mm[0],
            expected_low=plan.curves.released_most_closed.curvature_per_mm[0],
            expected=released,
            expected_high=plan.curves.released_most_open.curvature_per_mm[0],
            grade=plan.springback.tip_mm.grade,
        )

    def arc_on(self, face: Face, curvature: float) -> Arc:
        """The finished piece as an arc of one face, for a mid-line curvature."""
        return Arc(1 / curvature, self.length_mm * curvature).moved_out(face_offset_mm(face, self.thickness_mm))

    def expected_on(self, face: Face) -> tuple[Estimate, Estimate]:
        """Chord and rise to expect on a face, each with its 80 % band."""
        arcs = [self.arc_on(face, k) for k in (self.expected_low, self.expected, self.expected_high)]
        chords, rises = sorted(a.chord_mm for a in arcs), sorted(a.rise_mm for a in arcs)
        return (
            Estimate(chords[0], chords[1], chords[2], self.grade),
            Estimate(rises[0], rises[1], rises[2], self.grade),
        )

    def mid_line(self, curvature: float) -> Curve:
        """The finished mid-line at a curvature."""
        return Curve.of([self.length_mm], [curvature])

    @property
    def expected_tip_mm(self) -> float:
        """How far each end was expected to open from form to release."""
        length = np.array([self.length_mm])
        return float(tip_distance_mm(length, np.array([self.form_curvature]), np.array([self.expected])))

    def matches(self, job: Job) -> bool:
        """Whether a job still asks for what this form was built for."""
        try:
            wanted = float(job.mid_line().curvature[0])
        except OutOfRange:
            return False
        same_curve = abs(wanted / self.wanted_curvature - 1) < 1e-6
        return same_curve and (
            job.part.thickness_mm,
            job.build_up.laminae,
            job.stock.species,
            job.build_up.adhesive,
        ) == (self.thickness_mm, self.laminae, self.species, self.adhesive)

    def record(
        self, *, chord_mm: float, rise_mm: float, face: Face, error_mm: float, left_out: bool = False, label: str = ""
    ) -> BendRecord:
        """A measured piece as a record to learn from."""
        return BendRecord(
            way=self.way,
            group=self.group,
            form_curvature=self.form_curvature,
            predicted_curvature=self.predicted_curvature,
            thickness_mm=self.thickness_mm,
            chord_mm=chord_mm,
            rise_mm=rise_mm,
            face=face,
            error_mm=error_mm,
            left_out=left_out,
            label=label,
        )


@dataclass(frozen=True, slots=True)
class Comparison:
    """One measurement against what was wanted and what was expected."""

    chord_expected: Estimate
    rise_expected: Estimate
    chord_off_mm: float
    rise_off_mm: float
    tip_off_mm: float
    opens: bool
    within_band: bool
    ratio: float
    ratio_error: float
    teaches: bool
    mid_line: Arc


def compare(built: BuiltForm, *, chord_mm: float, rise_mm: float, face: Face, error_mm: float) -> Comparison:
    """What a measured chord and rise say. Raises: OutOfRange when they cannot belong to this piece.

    chord_off and rise_off are measured − expected; tip_off is how far each tip lies from where it was wanted.
    """
    chord, rise = built.expected_on(face)
    seen = loss_ratio(built.record(chord_mm=chord_mm, rise_mm=rise_mm, face=face, error_mm=error_mm))
    on_face = curvature_from_chord_and_rise(chord_mm=chord_mm, rise_mm=rise_mm)
    if not on_face > 0:
        raise OutOfRange("rise_mm", "A rise of nothing: this piece came off straight. Note it and leave it out.")
    mid = Arc(1 / on_face, 1.0).moved_out(-face_offset_mm(face, built.thickness_mm)).radius_mm
    k = 1 / mid
    length = np.array([built.length_mm])
    off = float(tip_distance_mm(length, np.array([k]), np.array([built.wanted_curvature])))
    low, high = sorted((built.expected_low, built.expected_high))
    return Comparison(
        chord,
        rise,
        chord_mm - chord.likely,
        rise_mm - rise.likely,
        off,
        k < built.wanted_curvature,
        low <= k <= high,
        seen.ratio,
        seen.error,
        seen.says_something,
        Arc(mid, built.length_mm * k),
    )


def check_measured(built: BuiltForm, *, chord_mm: float, rise_mm: float, face: Face) -> None:
    """Refuse a measurement that cannot be of this piece: a slip of the rule or of the pen.

    Raises: OutOfRange with the field. The arc length chord and rise imply must be within 10 % of the piece.
    """
    if not chord_mm > 0 or not rise_mm > 0:
        raise OutOfRange("chord_mm" if not chord_mm > 0 else "rise_mm", "More than nothing, please.")
    arc = Arc.from_chord_and_rise(chord_mm=chord_mm, rise_mm=rise_mm)
    if arc.radius_mm - face_offset_mm(face, built.thickness_mm) <= built.thickness_mm / 2:
        raise OutOfRange("rise_mm", "A piece so thick cannot be bent so tight: check the rise.")
    wanted = built.arc_on(face, built.expected)
    if not 0.9 < arc.length_mm / wanted.length_mm < 1.1:
        raise OutOfRange(
            "chord_mm",
            "These two make a curve {seen} long, but the piece is {own} along that face.",
            hint="Check both, and which face you measured.",
            lengths_mm={"seen": arc.length_mm, "own": wanted.length_mm},
        )
