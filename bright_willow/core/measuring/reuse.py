"""The forms a shop has kept, against a job: which of them would do, as they are or with veneer on the face."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from ..common.errors import PlanError
from ..form.shims import OldFormFit, fit_on
from ..job.job import Job
from ..learning.belief import NOTHING_LEARNT, LearnedFigures
from ..methods.method import Method
from ..methods.method_registry import set_up
from ..shop.shop import Shop
from .built_form import BuiltForm

TOLERANCE_MM = 1.0


@dataclass(frozen=True, slots=True)
class Candidate:
    """One kept form for a job: how it fits, or why it cannot be tried; too_narrow_mm: by how much the part is wider."""

    form_id: int
    fit: OldFormFit | None
    too_narrow_mm: float
    problem: str

    def does(self, tolerance_mm: float) -> bool:
        """Whether the form serves as it is, within a tolerance in mm."""
        return bool(self.fit and self.too_narrow_mm <= 0 and self.fit.serves(tolerance_mm))

    def does_with_shims(self, tolerance_mm: float) -> bool:
        """Whether it serves with veneer on its face."""
        return bool(self.fit and self.too_narrow_mm <= 0 and self.fit.serves_with_shims(tolerance_mm))


def candidates(
    job: Job,
    forms: Iterable[tuple[int, BuiltForm]],
    shop: Shop | None = None,
    learnt: LearnedFigures = NOTHING_LEARNT,
    *,
    tolerance_mm: float = TOLERANCE_MM,
) -> Sequence[Candidate]:
    """Every kept form for this job, the best first: as they are, then with shims, then by how far off.

    Raises: PlanError where the job itself cannot be planned, or the tolerance is not above zero.
    """
    if not tolerance_mm > 0:
        raise PlanError("tolerance", "A tolerance above zero, please.")
    shop = shop or Shop()
    if job.shape.is_closed:
        raise PlanError("shape.kind", "A closed ring needs a round form of its own size.")
    way = set_up(job, shop)
    ratio = learnt.about(way=job.way, group=way.group).next_bend().likely
    found = [_try(way, ratio, tolerance_mm, form_id, built) for form_id, built in forms]

    def order(c: Candidate) -> tuple[int, float]:
        if c.fit is None:
            return 4, 0.0
        if c.does(tolerance_mm):
            return 0, c.fit.off_mm
        if c.does_with_shims(tolerance_mm):
            return 1, c.fit.off_mm
        return 3 if c.fit.too_short_mm else 2, c.fit.off_mm

    return sorted(found, key=order)


def _try(way: Method, ratio: float, tolerance_mm: float, form_id: int, built: BuiltForm) -> Candidate:
    part, choice = way.job.part, way.form_choice
    narrow = part.width_mm - built.width_mm
    if built.side != choice.side:
        return Candidate(form_id, None, narrow, "It is on the other side of the curve.")
    if built.kind == "ring":
        return Candidate(form_id, None, narrow, "It is the round form of a closed ring.")
    off = part.thickness_mm / 2 + choice.liner_mm
    try:
        fit = fit_on(
            built.face(),
            offset_mm=off if built.side == "inner" else -off,
            law=way.law,
            target=way.target,
            loss_ratio=ratio,
            blank_mm=way.target.length_mm + sum(way.trims_mm),
            tolerance_mm=tolerance_mm,
        )
    except PlanError as error:
        return Candidate(form_id, None, narrow, error.message("mm"))
    return Candidate(form_id, fit, narrow, "")
