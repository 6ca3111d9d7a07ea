"""Short cautions, shown where they apply and printed on the sheet."""

from __future__ import annotations

from ..job.job import Job
from ..shop.adhesive import adhesive

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


def heat_cautions(job: Job, source: str, has_strap: bool) -> list[str]:
    """What can hurt when bending hot, briefly."""
    said = []
    if source == "steam":
        said += [
            "Steam scalds: gloves, long sleeves, stand aside when opening.",
            "Never seal a chamber; keep its vent and drain clear.",
            "Flame, gas and cords near water: outdoors or as the local code says; gas fitting by licensed people.",
            "Never leave heat unattended, and never let it boil dry.",
        ]
    else:
        said += [
            "A hot iron burns and scorches: gloves, a stand, nothing that burns nearby; solvent and heat do not mix.",
            "Never leave the heat unattended.",
        ]
    if has_strap:
        said.append("Straps, winches and levers store force: rated gear, nobody in line with pull or stop.")
    said.append("Bent wood stores force until it is set: keep clear of the ends.")
    said += [CARRIES, FIRST]
    return said
