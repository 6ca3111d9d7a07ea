"""Short cautions, shown where they apply and printed on the sheet."""

from __future__ import annotations

from ..gluing.adhesive import Adhesive

FIRST = "The maker's data sheet, local codes and licensed trades come first."
FORM_AT_SAW = "Cut the form with the guard down to the work and your fingers out of the line of the blade."
CURVED_AT_SAW = (
    "A curve at a table saw kicks back if it pivots: one point of its outside on the fence, push block, guard on, "
    "stand to the side."
)
CURVED_AT_BAND_SAW = "Band saw: guard down to the work, both hands out of the line of the blade, feed slowly."
ROUTER = "Router: clamp the work, feed against the cutter, both hands on it; eye, ear and dust protection."
DRUM = "A loaded drum turns back when let go: pin it or clamp it before you take your hand off the handle."
SEALER = "Sealer and finish: open windows, no flame, rags spread out to dry."
CARRIES = "A bend that carries people: test it, and have it judged by someone qualified."


BENT = "Bent wood stores force until it sets: keep clear of the ends."
STEAM = (
    "Steam scalds: wear gloves and long sleeves, and stand to the side when you open the box.",
    "Never seal a steam box; keep its vent and drain clear.",
    "Flame, gas and power cords near water: work outdoors or as local code requires; gas fitting is for licensed "
    "people.",
    "Never leave heat unattended, and never let the boiler run dry.",
)
DRY_HEAT = (
    "A hot iron burns and scorches: wear gloves, use a stand, keep anything that burns away. Keep solvents away from "
    "heat.",
    "Never leave the heat unattended.",
)
STRAP = (
    "Straps, winches and levers store force: use rated gear, and let nobody stand in line with the pull or an "
    "end stop.",
)
THIN_AT_SAW_MM = 6.0


def gluing(glue: Adhesive, thinnest_mm: float) -> tuple[str, ...]:
    """What can hurt when strips are sawn and glued. thinnest_mm: the thinnest lamina that is sawn."""
    saw = "Ripping thin strips: push block, splitter, zero-clearance insert. Keep the strip off the fence side."
    return (
        *((saw,) if thinnest_mm < THIN_AT_SAW_MM else ()),
        f"{glue.name}: {glue.caution}.",
        "Gloves for glue, a mask for dust. Bent strips store force: keep clear of the ends while clamping.",
    )
