"""Sheet lay-up: bending sheets, with or without veneer on their faces, glued on a form."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from ..common.amounts import format_glue
from ..common.errors import ENDLESS, PlanError, check_range
from ..form.construction import FormSketch
from ..job.job import Job, Layer
from ..wood.sheets import is_sheet, sheet_table
from ..workpiece.bend import Bend
from ..workpiece.workpiece import GluedLayup
from .laminated import Laminated

VENEER_MM = 0.6
MOST_LAYERS = 24


class SheetLayup(Laminated[GluedLayup]):
    """Flexible sheets between veneers."""

    key = "sheet_layup"
    name = "Sheet layup"
    description = "Flexible plywood between veneers, glued on a form: good for wide parts; ply edges show."

    @classmethod
    def turn(cls, job: Job) -> Job:
        """The job built up of bending sheets between veneers of its own wood; the thickness follows the sheets. One
        that is laid up of sheets already stays as it is. Raises: PlanError."""
        if job.build_up.lay_up == "layers" and any(is_sheet(x.material) for x in job.build_up.layers):
            return job.model_copy(update={"way": cls.key})
        tightest = job.mid_line().tightest_curvature
        layers = suggested_layers(
            total_mm=job.part.thickness_mm,
            inner_radius_mm=1 / tightest - job.part.thickness_mm / 2,
            veneer=job.stock.species,
        )
        total = round(sum(x.thickness_mm for x in layers), 6)
        return job.model_copy(
            update={
                "way": cls.key,
                "build_up": job.build_up.model_copy(update={"lay_up": "layers", "layers": layers}),
                "part": job.part.model_copy(update={"thickness_mm": total}),
            }
        )

    def make(self, bend: Bend) -> GluedLayup:
        return self.laid_up(bend)

    def glued(self, make: GluedLayup) -> GluedLayup:
        return make

    def needs(self, make: GluedLayup, form: FormSketch) -> tuple[str, ...]:
        bought = ", ".join(f"{c.sheets} × {c.sheet.name.lower()}" for c in make.sheets)
        return bought, "a form", self._pressed(form), f"{format_glue(make.glue_g.value, self.shop.units)} of glue"


@lru_cache(maxsize=64)
def suggested_layers(*, total_mm: float, inner_radius_mm: float, veneer: str | None) -> tuple[Layer, ...]:
    """The fewest bending sheets, flexible kinds only, that come nearest to a thickness and all stand the radius.

    inner_radius_mm: the tightest radius of the inner face. veneer: a wood for both faces, or None. Valid: thickness
    above 0. Raises: PlanError where no sheet bends so tight, or the part is thicker than 24 sheets.
    Source: the sheet table. Grade: allowance, as the table is.

    >>> [layer.thickness_mm for layer in suggested_layers(total_mm=16.2, inner_radius_mm=500, veneer="white_ash")]
    [0.6, 5.0, 5.0, 5.0, 0.6]
    """
    check_range("part.thickness_mm", total_mm, 0, ENDLESS, "mm", above=True)
    check_range("shape.radius_mm", inner_radius_mm, 0, ENDLESS, "mm")
    outside = 2 * VENEER_MM if veneer else 0.0
    kinds = [s for s in sheet_table().values() if s.key.startswith("flex_ply") and s.min_radius_mm <= inner_radius_mm]
    if not kinds:
        raise PlanError(
            "shape.radius_mm",
            "No bending sheet in the table can make an inside radius of {inner}.",
            lengths_mm={"inner": inner_radius_mm},
        )
    each = np.array([s.thickness_mm for s in kinds])
    most = np.clip((total_mm - outside) // each + 1, 0, MOST_LAYERS).astype(int)
    counts = np.stack(np.meshgrid(*(np.arange(m + 1) for m in most), indexing="ij"), axis=-1).reshape(-1, len(kinds))
    layers = counts.sum(axis=1)
    counts = counts[(layers >= (1 if veneer else 2)) & (layers <= MOST_LAYERS)]
    if not counts.size:
        raise PlanError("part.thickness_mm", "A part this thick needs more sheets than can be planned here.")
    off = np.round(np.abs(outside + counts @ each - total_mm), 3)
    best = counts[np.lexsort((*counts.T[::-1], counts.sum(axis=1), off))[0]]
    core = [
        Layer(thickness_mm=s.thickness_mm, material=s.key) for n, s in zip(best, kinds, strict=True) for _ in range(n)
    ]
    faces = [Layer(thickness_mm=VENEER_MM, material=veneer)] if veneer else []
    return (*faces, *core, *faces)
