"""Short cautions, shown where they apply and printed on the sheet."""

from __future__ import annotations

from ..job import Job
from .adhesive import adhesive

FIRST = "The maker's data sheet, local codes and licensed trades come first."
CARRIES = "A bend that carries people: test it, and have it judged by someone qualified."


def cautions(job: Job, lamina_mm: float) -> list[str]:
    """What can hurt in this job, briefly."""
    said = []
    if lamina_mm < 6:
        said.append(
            "Thin strips at a saw: push block, splitter, zero-clearance insert; nothing thin against the fence."
        )
    glue = adhesive(job.build_up.adhesive)
    said.append(f"{glue.name}: {glue.caution}.")
    said.append("Gloves with glue; mask with dust. Bent strips store force: keep clear of the ends while clamping.")
    said.append(CARRIES)
    said.append(FIRST)
    return said
