"""A glued curve brought to its width: which edge first, at which machine, and when by hand instead."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ...checks import cautions as caution
from ...common.units import format_length
from ...job.job import Job
from ...shape.curve import Curve
from ...shop.shop import Shop

# What a curve may have to be swung past a fence on one point of its outside. Grade: allowance.
FENCE_DEG, FENCE_LONG_MM, FENCE_WIDE_MM = 90.0, 300.0, 100.0
BAND_SAW_DEG, BAND_SAW_LONG_MM = 180.0, 200.0
PROUD_MM = 1.0  # of the line, that is left for the plane. Grade: allowance.


@dataclass(frozen=True, slots=True)
class EdgeWork:
    """How both edges are worked. machine: the most a curve is safe on; by hand where that is none."""

    machine: str
    steps: tuple[str, ...]
    cautions: tuple[str, ...]
    lay_out: tuple[str, ...]


def safest_machine(blank: Curve, width_mm: float) -> str:
    """Return what a curved blank may be sawn to width with: "table_saw", "band_saw" or "hand".

    A table saw wants a bend one way of no more than 90°, 300 mm long and no wider than 100 mm, so that it rests flat
    and touches the fence at one point; a band saw no more than 180° in all and 200 mm. Grade: allowance.
    """
    turns, curvature = float(np.abs(blank.turns_rad).sum()), blank.curvature[np.abs(blank.curvature) > 1e-9]
    bends_one_way = bool(curvature.size == 0 or (curvature > 0).all() or (curvature < 0).all())
    degrees = float(np.degrees(turns))
    if bends_one_way and degrees <= FENCE_DEG and blank.length_mm >= FENCE_LONG_MM and width_mm <= FENCE_WIDE_MM:
        return "table_saw"
    return "band_saw" if degrees <= BAND_SAW_DEG and blank.length_mm >= BAND_SAW_LONG_MM else "hand"


def edge_work(job: Job, shop: Shop, blank: Curve) -> EdgeWork:
    """Return the steps that bring a glued blank to its width, its first edge first."""
    machine = "hand" if job.shape.is_closed else safest_machine(blank, job.part.width_mm + shop.clean_up_mm)
    wide, half, proud = (format_length(v, shop.rule) for v in (job.part.width_mm, shop.clean_up_mm / 2, PROUD_MM))
    scrape = "Scrape both edges to bare wood first: hard glue chips a cutter and throws the piece."
    if machine == "hand":
        by_hand = f"It bends too far for a fence: gauge {wide} from it and plane or sand the other edge to that line."
        flat = "Flatten the edge that lay on the platform by hand, flat on the bench or on a sheet of abrasive."
        return EdgeWork(machine, (scrape, flat, by_hand), (), ("scraper, plane, marking gauge",))
    joint = f"Joint the edge that lay on the platform first, about {half}, the outside of the bend against the fence."
    if machine == "table_saw":
        steps = (
            "Dry pass at the saw, blade down: swing it past with its outside on the fence at one point, a stand under "
            "the far end. If it rocks or binds, use a band saw.",
            f"Rip the other edge {proud} over {wide}, jointed edge down, and plane it to {wide}.",
        )
        cautions: tuple[str, ...] = (caution.CURVED_AT_SAW,)
    else:
        steps = (
            f"Gauge {wide} from that edge and saw {proud} outside the line at the band saw, jointed edge down; swing "
            "the piece so that the cut runs along the line. Not at a table saw: it would pivot off the fence.",
            "Plane to the line.",
        )
        cautions = (caution.CURVED_AT_BAND_SAW,)
    return EdgeWork(machine, (scrape, joint, *steps), cautions, ("scraper, push block, marking gauge",))
