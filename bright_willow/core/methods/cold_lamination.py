"""Cold lamination: thin strips bent dry, glued to one another on a form."""

from __future__ import annotations

import math

from ..common.amounts import format_glue
from ..form.construction import FormSketch
from ..job.job import Job
from ..wood.sheets import is_sheet
from ..workpiece.bend import Bend
from ..workpiece.workpiece import GluedLayup
from .laminated import Laminated
from .method import M

EASY_STRAIN = 0.005  # of a lamina that goes on without cracking, in most woods. Grade: allowance.
LAID_UP_WAYS = ("cold_lamination", "sheet_layup", "steam_laminae")


class StripLayup(Laminated[M]):
    """Laminae of wood, sawn and glued to one another."""

    @classmethod
    def turn(cls, job: Job) -> Job:
        """The job built up of equal laminae of its own wood, as many as the bend asks for; laminae of wood, equal or
        not, stay as they are."""
        return in_laminae(job).model_copy(update={"way": cls.key})

    def needs(self, make: M, form: FormSketch) -> tuple[str, ...]:
        glue = f"{format_glue(self.glued(make).glue_g.value, self.shop.units)} of glue"
        return "a saw that rips thin strips", "a form", self._pressed(form), glue


class ColdLamination(StripLayup[GluedLayup]):
    """Laminae of wood bent dry."""

    key = "cold_lamination"
    name = "Glued strips (cold lamination)"
    asked_as = "glued"
    description = "Thin strips bent dry and glued together on a form."

    def make(self, bend: Bend) -> GluedLayup:
        return self.laid_up(bend)

    def glued(self, make: GluedLayup) -> GluedLayup:
        return make


def in_laminae(job: Job) -> Job:
    """A job of laminae of wood: as it is, or with equal ones in place of sheets or a solid blank."""
    of_sheets = job.build_up.lay_up == "layers" and any(is_sheet(x.material) for x in job.build_up.layers)
    if not of_sheets and job.way in LAID_UP_WAYS:
        return job
    strain = job.part.thickness_mm * job.mid_line().tightest_curvature / 2
    laminae = max(2, min(120, math.ceil(strain / EASY_STRAIN)))
    equal = {"lay_up": "equal", "laminae": laminae, "lamina_mm": None}
    return job.model_copy(update={"build_up": job.build_up.model_copy(update=equal)})
