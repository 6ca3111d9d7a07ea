"""Short cautions, shown where they apply and printed on the sheet."""

from __future__ import annotations

from ..shop.adhesive import Adhesive

FIRST = "The maker's data sheet, local codes and licensed trades come first."
CARRIES = "A bend that carries people: test it, and have it judged by someone qualified."


BENT = "Bent wood stores force until it is set: keep clear of the ends."
STEAM = (
    "Steam scalds: gloves, long sleeves, stand aside when opening.",
    "Never seal a chamber; keep its vent and drain clear.",
    "Flame, gas and cords near water: outdoors or as the local code says; gas fitting by licensed people.",
    "Never leave heat unattended, and never let it boil dry.",
)
DRY_HEAT = (
    "A hot iron burns and scorches: gloves, a stand, nothing that burns nearby; solvent and heat do not mix.",
    "Never leave the heat unattended.",
)
STRAP = ("Straps, winches and levers store force: rated gear, nobody in line with pull or stop.",)
THIN_AT_SAW_MM = 6.0


def gluing(glue: Adhesive, thinnest_mm: float) -> tuple[str, ...]:
    """What can hurt when strips are sawn and glued. thinnest_mm: the thinnest lamina that is sawn."""
    saw = "Thin strips at a saw: push block, splitter, zero-clearance insert; nothing thin against the fence."
    return (
        *((saw,) if thinnest_mm < THIN_AT_SAW_MM else ()),
        f"{glue.name}: {glue.caution}.",
        "Gloves with glue; mask with dust. Bent strips store force: keep clear of the ends while clamping.",
    )
