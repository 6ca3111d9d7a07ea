"""A lay-up of bending sheets, with or without veneer on its faces, for a part of about a given thickness."""

from __future__ import annotations

import math
from itertools import product

from ..ground.errors import OutOfRange
from ..job.job import Job, Layer
from ..wood.sheets import sheet_table

VENEER_MM = 0.6
MOST_LAYERS = 24
EASY_STRAIN = 0.005  # of a lamina that goes on without cracking, in most woods. Grade: allowance.


def suggested_layers(*, total_mm: float, inner_radius_mm: float, veneer: str | None) -> tuple[Layer, ...]:
    """The fewest bending sheets, flexible kinds only, that come nearest to a thickness and all stand the radius.

    inner_radius_mm: the tightest radius of the inner face. veneer: a wood for both faces, or None. Raises: OutOfRange
    where no sheet bends so tight, or the part is thinner than any. Grade: allowance, as the sheet table is.
    """
    outside = 2 * VENEER_MM if veneer else 0.0
    kinds = [s for s in sheet_table().values() if s.key.startswith("flex_ply") and s.min_radius_mm <= inner_radius_mm]
    if not kinds:
        raise OutOfRange(
            "shape.radius_mm",
            "No bending sheet of the table stands an inside radius of {inner}.",
            lengths_mm={"inner": inner_radius_mm},
        )
    best: tuple[float, int, tuple[int, ...]] | None = None
    most = [min(MOST_LAYERS, int((total_mm - outside) / s.thickness_mm) + 1) for s in kinds]
    for counts in product(*(range(m + 1) for m in most)):
        layers = sum(counts)
        if layers < (1 if veneer else 2) or layers > MOST_LAYERS:
            continue
        thickness = outside + sum(n * s.thickness_mm for n, s in zip(counts, kinds, strict=True))
        found = (round(abs(thickness - total_mm), 3), layers, counts)
        if best is None or found < best:
            best = found
    if best is None:
        raise OutOfRange("part.thickness_mm", "Sheets enough for so thick a part are not planned here.")
    core = [
        Layer(thickness_mm=s.thickness_mm, material=s.key)
        for n, s in zip(best[2], kinds, strict=True)
        for _ in range(n)
    ]
    faces = [Layer(thickness_mm=VENEER_MM, material=veneer)] if veneer else []
    return (*faces, *core, *faces)


def as_sheets(job: Job) -> Job:
    """The job built up of bending sheets between veneers of its own wood; the thickness follows the sheets.

    A job that is laid up of sheets already stays as it is. Raises: OutOfRange.
    """
    sheets = sheet_table()
    if job.build_up.lay_up == "layers" and any(x.material in sheets for x in job.build_up.layers):
        return job.model_copy(update={"way": "sheet_layup"})
    tightest = job.mid_line().tightest_curvature
    layers = suggested_layers(
        total_mm=job.part.thickness_mm,
        inner_radius_mm=1 / tightest - job.part.thickness_mm / 2,
        veneer=job.stock.species,
    )
    total = round(sum(x.thickness_mm for x in layers), 6)
    return job.model_copy(
        update={
            "way": "sheet_layup",
            "build_up": job.build_up.model_copy(update={"lay_up": "layers", "layers": layers}),
            "part": job.part.model_copy(update={"thickness_mm": total}),
        }
    )


def as_laminae(job: Job) -> Job:
    """The job built up of equal laminae of its own wood, as many as the bend asks for; laminae of wood, equal or not,
    stay as they are."""
    sheets = sheet_table()
    of_sheets = job.build_up.lay_up == "layers" and any(x.material in sheets for x in job.build_up.layers)
    if of_sheets or job.way not in ("cold_lamination", "steam_laminae", "sheet_layup"):
        strain = job.part.thickness_mm * job.mid_line().tightest_curvature / 2
        laminae = max(2, min(120, math.ceil(strain / EASY_STRAIN)))
        changed = job.build_up.model_copy(update={"lay_up": "equal", "laminae": laminae, "lamina_mm": None})
        return job.model_copy(update={"way": "cold_lamination", "build_up": changed})
    return job.model_copy(update={"way": "cold_lamination"})
