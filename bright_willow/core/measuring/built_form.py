"""A form as it was built, frozen: what its pieces are compared with, whatever the job or the book say later."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Any, Literal

import numpy as np
from pydantic import Field, model_validator

from ..common.arrays import Array
from ..common.document import Document
from ..common.errors import PlanError
from ..common.estimate import Estimate, Grade
from ..job.job import Job
from ..learning.belief import BendRecord, FittedBend, LossRatio, MeasuredBend, loss_ratio
from ..plan.result import Sketch
from ..shape.arc import Arc, Face, face_offset_mm
from ..shape.curve import Curve, tip_distance_mm

MISHAPS: dict[str, str] = {
    "": "nothing",
    "slipped": "a clamp or strip slipped",
    "early_release": "taken off the form early",
    "broke": "broke on the form",
    "cracked": "cracked",
    "delaminated": "a glue joint opened",
    "other": "something else, see note",
}


LAW = 1  # of the laws of springback, the one whose predictions forms are frozen with
FAILED = frozenset(("broke", "cracked", "delaminated"))  # mishaps after which a piece cannot be used
Curvatures = Annotated[tuple[float, ...], Field(strict=False)]


class BuiltForm(Document):
    """One form with the lay-up bent on it: runs of the finished mid-line, and their curvatures, 1/mm."""

    format: Literal["bright-willow-built-form"] = "bright-willow-built-form"
    version: Literal[1] = 1
    way: str = Field(default="cold_lamination", max_length=40)
    group: str
    species: str
    adhesive: str
    laminae: int
    thickness_mm: float
    width_mm: float
    lengths_mm: Curvatures
    form_curvature: Curvatures = Field(description="on the form")
    predicted_curvature: Curvatures = Field(description="released, by mechanics alone")
    wanted_curvature: Curvatures
    side: Literal["inner", "outer"] = "inner"
    kind: str = Field(default="one_sided", max_length=40)
    build: str = Field(default="stack", max_length=40)
    liner_mm: float = 0.0
    trim_mm: float = 0.0
    right_trim_mm: float | None = Field(default=None, description="where the right end has another")
    expected_low: Curvatures = Field(description="released, the tight end of the 80 % range")
    expected: Curvatures
    expected_high: Curvatures = Field(description="released, the open end of the 80 % range")
    grade: Grade

    jig_keeps: float = Field(
        default=1.0, ge=0, le=1, description="share of its distance from the wanted shape that a piece keeps in its jig"
    )
    jig_curvature: Curvatures | None = Field(default=None, description="held to while it dried, if not as wanted")
    stated_curvature: Curvatures | None = Field(default=None, description="as the maker drew it, if not as wanted")
    law: int = Field(default=0, ge=0, description="springback rule it was predicted with")

    @model_validator(mode="before")
    @classmethod
    def made_whole(cls, data: Any) -> Any:
        """A ring frozen by an early version holds no figure for what mechanics predicts: it cannot open."""
        if isinstance(data, dict) and data.get("kind") == "ring":
            predicted = data.get("predicted_curvature") or ()
            if any(k is None for k in predicted):
                return {**data, "predicted_curvature": data.get("form_curvature")}
        return data

    @classmethod
    def of(cls, drawn: Sketch) -> BuiltForm:
        """The form of a plan, as it stands now."""
        job, bend = drawn.job, drawn.bend

        def frozen(curve: Curve) -> Curvatures:
            return tuple(curve.curvature.tolist())

        jig = drawn.way.jig_curvature(bend.target.curvature, bend.likely.curvature)
        as_wanted = np.array_equal(_over(bend.stated, bend.target), bend.target.curvature)
        return cls(
            way=job.way,
            group=drawn.way.group,
            species=job.stock.species,
            adhesive=job.build_up.adhesive,
            laminae=job.build_up.count,
            thickness_mm=job.part.thickness_mm,
            width_mm=job.part.width_mm,
            lengths_mm=tuple(bend.target.lengths_mm.tolist()),
            form_curvature=frozen(bend.on_form),
            predicted_curvature=frozen(bend.by_mechanics),
            wanted_curvature=frozen(bend.target),
            stated_curvature=None if as_wanted else _over(bend.stated, bend.target),
            side=job.form.side,
            kind=drawn.form.kind,
            build=job.form.build,
            liner_mm=job.form.liner_mm,
            trim_mm=bend.trims_mm[0],
            right_trim_mm=None if bend.trims_mm[0] == bend.trims_mm[1] else bend.trims_mm[1],
            expected_low=frozen(bend.dried[0]),
            expected=frozen(bend.dried[1]),
            expected_high=frozen(bend.dried[2]),
            jig_keeps=drawn.way.jig_keeps,
            jig_curvature=None if np.array_equal(jig, bend.target.curvature) else tuple(jig.tolist()),
            law=LAW,
            grade=bend.tip_mm.grade,
        )

    @property
    def mean_curvature(self) -> float:
        """On the form, over its whole length, 1/mm."""
        return self.mid_line(self.form_curvature).mean_curvature

    @property
    def can_open(self) -> bool:
        """Whether mechanics lets it open at all: a ring glued all round cannot."""
        return bool(np.abs(np.array(self.form_curvature) - np.array(self.predicted_curvature)).max() > 1e-12)

    def mid_line(self, curvature: Curvatures) -> Curve:
        """The finished mid-line at a curvature."""
        return Curve(np.array(self.lengths_mm), np.array(curvature))

    def face(self) -> Curve:
        """The face of the form, trims included, laid by its middle. Raises: PlanError where it would fold."""
        mid = self.mid_line(self.form_curvature)
        right = self.trim_mm if self.right_trim_mm is None else self.right_trim_mm
        blank = mid.lengthened(self.trim_mm, right) if self.trim_mm or right else mid
        off = self.thickness_mm / 2 + self.liner_mm
        face = blank.parallel(-off if self.side == "inner" else off)
        return Curve(face.lengths_mm, face.curvature)

    def bent_by(self, loss_ratio: float) -> Curve:
        """The mid-line as it would be measured at a loss ratio: off the form, and out of its jig where it has one."""
        on_form, by_mechanics = np.array(self.form_curvature), np.array(self.predicted_curvature)
        released = on_form - loss_ratio * (on_form - by_mechanics)
        return Curve(np.array(self.lengths_mm), self._out_of_jig(released, np.array(self._jig)))

    @property
    def _jig(self) -> Curvatures:
        """What its jig holds it to."""
        return self.jig_curvature or self.wanted_curvature

    def _out_of_jig(self, released: Array, jig: Array) -> Array:
        return released if self.jig_keeps == 1.0 else jig - self.jig_keeps * (jig - released)

    def bent_by_halves(self, left: float, right: float) -> Curve:
        """The mid-line as it would come off the form with either half at a loss ratio of its own."""
        whole = self.mid_line(self.form_curvature)
        parted = whole.parted_in_the_middle()
        middles = parted.stations_mm[:-1] + parted.lengths_mm / 2
        lost = np.array(_over(whole, parted)) - np.array(_over(self.mid_line(self.predicted_curvature), parted))
        k = np.where(middles < whole.length_mm / 2, left, right)
        jig = np.array(_over(self.mid_line(self._jig), parted))
        return Curve(parted.lengths_mm, self._out_of_jig(parted.curvature - k * lost, jig))

    def on_face(self, mid_line: Curve, face: Face) -> tuple[float, float, float]:
        """Chord, rise and length of a face of the piece bent so."""
        curve = mid_line.parallel(face_offset_mm(face, self.thickness_mm))
        return (*curve.chord_and_rise_mm(), curve.length_mm)

    @property
    def expected_tip_mm(self) -> float:
        """How far each end was expected to open from form to release."""
        on_form, released = np.array(self.form_curvature), np.array(self.expected)
        return float(tip_distance_mm(np.array(self.lengths_mm), on_form, released))

    def expected_on(self, face: Face) -> tuple[Estimate, Estimate]:
        """Chord and rise to expect on a face, each with its 80 % band."""
        seen = [self.on_face(self.mid_line(k), face) for k in (self.expected_low, self.expected, self.expected_high)]
        chords, rises = sorted(s[0] for s in seen), sorted(s[1] for s in seen)
        return Estimate(chords[0], chords[1], chords[2], self.grade), Estimate(rises[0], rises[1], rises[2], self.grade)

    def matches(self, job: Job) -> bool:
        """Whether a job still asks for what this form was built for."""
        try:
            wanted = job.mid_line()
        except PlanError:
            return False
        wanted, ours = wanted.merged(), self.mid_line(self.stated_curvature or self.wanted_curvature).merged()
        same = wanted.lengths_mm.size == ours.lengths_mm.size and bool(
            np.allclose(wanted.curvature, ours.curvature, rtol=1e-6, atol=1e-12)
            and np.allclose(wanted.lengths_mm, ours.lengths_mm, rtol=1e-6)
        )
        made_of = (job.part.thickness_mm, job.build_up.count, job.stock.species, job.build_up.adhesive)
        return same and made_of == (self.thickness_mm, self.laminae, self.species, self.adhesive)

    def record(
        self, *, chord_mm: float, rise_mm: float, face: Face, error_mm: float, left_out: bool = False, label: str = ""
    ) -> MeasuredBend:
        """A measured piece as a record to learn from: chord and rise of an arc, else the ratio that fits them best."""
        if len(self.lengths_mm) == 1 and self.form_curvature[0] > 0 and self.jig_keeps == 1.0:
            return BendRecord(
                way=self.way,
                group=self.group,
                form_curvature=self.form_curvature[0],
                predicted_curvature=self.predicted_curvature[0],
                thickness_mm=self.thickness_mm,
                chord_mm=chord_mm,
                rise_mm=rise_mm,
                face=face,
                error_mm=error_mm,
                left_out=left_out,
                label=label,
            )
        seen = self.fitted_ratio(chord_mm=chord_mm, rise_mm=rise_mm, face=face, error_mm=error_mm)
        return FittedBend(
            way=self.way, group=self.group, ratio=seen.ratio, error=seen.error, left_out=left_out, label=label
        )

    def fitted_ratio(self, *, chord_mm: float, rise_mm: float, face: Face, error_mm: float) -> LossRatio:
        """The loss ratio whose chord and rise lie nearest to those measured, by least squares, for any curve.

        Gauss–Newton on one unknown; its error from ±error_mm on both readings. Raises: PlanError when the curve does
        not answer to springback, or when no ratio between −20 and 20 comes near.
        """
        measured, k, step = np.array([chord_mm, rise_mm]), 1.0, 1e-3
        slope = np.zeros(2)
        for _ in range(20):
            here = np.array(self.on_face(self.bent_by(k), face)[:2])
            slope = (np.array(self.on_face(self.bent_by(k + step), face)[:2]) - here) / step
            if not float(slope @ slope) > 1e-12:
                raise PlanError("chord_mm", "The chord and rise of this curve do not change with springback.")
            change = float(slope @ (measured - here) / (slope @ slope))
            k += max(-2.0, min(2.0, change))
            if abs(change) < 1e-9:
                break
        if abs(k) > 20:
            raise PlanError("chord_mm", "No springback gives this chord and rise: check both.")
        return LossRatio(k, error_mm / float(np.hypot(*slope)))


def _over(curve: Curve, cells: Curve) -> Curvatures:
    """Curvature of a curve over the cells of another of the same length."""
    at = cells.stations_mm[:-1] + cells.lengths_mm / 2
    own = np.clip(np.searchsorted(curve.stations_mm, at, side="right") - 1, 0, curve.lengths_mm.size - 1)
    return tuple(curve.curvature[own].tolist())


@dataclass(frozen=True, slots=True)
class PieceComparison:
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
    mid_line: Curve

    @property
    def opened_mm(self) -> float:
        """How far its tips lie from where they were wanted: outwards above 0, inwards below."""
        return self.tip_off_mm if self.opens else -self.tip_off_mm


def compare(built: BuiltForm, *, chord_mm: float, rise_mm: float, face: Face, error_mm: float) -> PieceComparison:
    """What a measured chord and rise say. Raises: PlanError when they cannot belong to this piece.

    chord_off and rise_off are measured − expected; tip_off is how far each tip lies from where it was wanted.
    """
    chord, rise = built.expected_on(face)
    seen = loss_ratio(built.record(chord_mm=chord_mm, rise_mm=rise_mm, face=face, error_mm=error_mm))
    came = built.bent_by(seen.ratio)
    wanted = np.array(built.wanted_curvature)
    off = float(tip_distance_mm(came.lengths_mm, came.curvature, wanted))
    tight = int(np.argmax(np.abs(np.array(built.form_curvature))))
    k, low, high = (
        abs(float(v)) for v in (came.curvature[tight], built.expected_low[tight], built.expected_high[tight])
    )
    return PieceComparison(
        chord,
        rise,
        chord_mm - chord.likely,
        rise_mm - rise.likely,
        off,
        k < abs(float(wanted[tight])),
        min(low, high) <= k <= max(low, high),
        seen.ratio,
        seen.error,
        came,
    )


def check_measured(built: BuiltForm, *, chord_mm: float, rise_mm: float, face: Face) -> None:
    """Refuse a measurement that cannot be of this piece: a slip of the rule or of the pen.

    Raises: PlanError with the field. For an arc the length chord and rise imply must be within 10 % of the piece; for
    any other curve, and a piece that is to be straight, both must lie within 15 % of its length of what was expected.
    """
    straight = not np.any(np.array(built.wanted_curvature))
    if not chord_mm > 0 or not (rise_mm > 0 or (straight and rise_mm == 0)):
        raise PlanError("chord_mm" if not chord_mm > 0 else "rise_mm", "More than zero, please.")
    chord, rise, length = built.on_face(built.mid_line(built.expected), face)
    if len(built.lengths_mm) > 1 or straight:
        for field, seen, own in (("chord_mm", chord_mm, chord), ("rise_mm", rise_mm, rise)):
            if abs(seen - own) > 0.15 * length:
                raise PlanError(
                    field,
                    "About {own} was expected here.",
                    hint="Check it, and which face you measured.",
                    lengths_mm={"own": own},
                )
        return
    arc = Arc.from_chord_and_rise(chord_mm=chord_mm, rise_mm=rise_mm)
    if arc.radius_mm - face_offset_mm(face, built.thickness_mm) <= built.thickness_mm / 2:
        raise PlanError("rise_mm", "A piece this thick cannot be bent that tight: check the rise.")
    if not 0.9 < arc.length_mm / length < 1.1:
        raise PlanError(
            "chord_mm",
            "These two give a curve {seen} long, but the piece is {own} along that face.",
            hint="Check both, and which face you measured.",
            lengths_mm={"seen": arc.length_mm, "own": length},
        )
