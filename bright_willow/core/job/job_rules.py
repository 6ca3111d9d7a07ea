"""What single fields of a job cannot show: layers that do not add up, pairs in an odd number."""

from __future__ import annotations

from ..common.errors import PlanError
from ..wood.sheets import OwnSheet, is_sheet, sheet_table
from ..wood.species import OwnWood, wood_table
from .job import Job


def copies_fit(job: Job) -> None:
    """Raises: PlanError when pairs are wanted in an odd number."""
    if job.part.copies == "pairs" and job.part.count % 2:
        raise PlanError("part.count", "A pair is two pieces, a left and a right: make it an even number.")


def layers_fit(job: Job, woods: tuple[OwnWood, ...] = (), sheets: tuple[OwnSheet, ...] | None = None) -> None:
    """Raises: PlanError when layers are missing, are of nothing known, or do not add up to the part.

    sheets: the shop's own; None where they are not at hand, and what is said of one stands until they are.
    """
    if job.build_up.tape_after >= job.build_up.count:
        raise PlanError(
            "build_up.tape_after",
            f"Tape goes between two plies: after ply {job.build_up.count - 1} at the latest.",
            hint="0 for none.",
        )
    if job.build_up.lay_up != "layers":
        lamina, last = job.build_up.lamina_mm, last_lamina_mm(job)
        if lamina is not None and not 0.2 <= last <= lamina + 1e-6:
            raise PlanError(
                "build_up.laminae",
                f"{job.build_up.laminae} strips, all but the last {{own}} thick, would leave {{last}} for the last "
                "one.",
                hint="Pick another row of the strip options.",
                lengths_mm={"own": lamina, "last": last},
            )
        return
    field, layers = "build_up.layers", job.build_up.layers
    if len(layers) < 2:
        raise PlanError(field, "A layup needs two plies or more.")
    for number, layer in enumerate(layers, 1):
        sheet = sheet_table(sheets or ()).get(layer.material)
        if sheet is None and sheets is None and is_sheet(layer.material):
            continue
        if sheet is None and layer.material not in wood_table(woods):
            raise PlanError(field, f"Ply {number}: no wood or sheet called “{layer.material[:40]}” is in the tables.")
        if sheet is not None and abs(sheet.thickness_mm - layer.thickness_mm) > 0.05:
            raise PlanError(
                field, f"Ply {number}: {sheet.name} is {{own}} thick.", lengths_mm={"own": sheet.thickness_mm}
            )
        if layer.bent_radius_mm is not None and abs(layer.bent_radius_mm) < layer.thickness_mm:
            raise PlanError(field, f"Ply {number} cannot have been bent tighter than it is thick.")
    total = sum(layer.thickness_mm for layer in layers)
    if abs(total - job.part.thickness_mm) > 0.06:
        raise PlanError(
            field,
            "These plies add up to {total}; the part is {part} thick.",
            hint="Change a ply, or the thickness on the Shape page.",
            lengths_mm={"total": total, "part": job.part.thickness_mm},
        )


def last_lamina_mm(job: Job) -> float:
    """Thickness left for the outermost lamina of a lay-up of equal ones."""
    lamina = job.build_up.lamina_mm
    total, count = job.part.thickness_mm, job.build_up.laminae
    return total / count if lamina is None else total - (count - 1) * lamina
