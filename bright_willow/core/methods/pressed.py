"""What a band or a bag does along a curve: where it presses, how hard at the worst, which ends it cannot lay down."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..common.arrays import Array
from ..common.estimate import Figure
from ..form.construction import FormSketch
from ..form.site import LIKELY_CLAMP
from ..gluing.pressing import (
    BAND_FRICTION,
    band_mpa,
    band_pull_kn,
    clamps_on,
    clamps_wanted,
    open_end_gap_mm,
    open_end_mm,
    turned_from_ends,
)
from ..gluing.stack_section import Section, StackLayer
from ..job.job import BuildUp, Job
from ..shape.curve import Curve
from ..shop.clamps import clamp_table
from ..workpiece.workpiece import GluedLayup, Press

STRAIGHT = 1e-7  # 1/mm


def band_press(choice: BuildUp, blank: Curve, width_mm: float, *, needs_mpa: float) -> Press:
    """Bands round a blank: they press where the curve is convex, the least where pull times curvature is least; clamps
    press what is straight. needs_mpa: the least the glue wants."""
    run = blank.merged()
    k, lengths = run.curvature, run.lengths_mm
    sense = 1.0 if float((k * lengths).sum()) >= 0 else -1.0
    convex, flat = sense * k > STRAIGHT, np.abs(k) <= STRAIGHT
    turned = turned_from_ends(np.where(convex, np.abs(k) * lengths, 0.0), from_both=choice.band_pull == "both_ends")
    left = band_pull_kn(
        tension_kn=choice.bands * choice.band_kn, turned_rad=turned, friction=BAND_FRICTION[choice.band_on]
    )
    straight = _stretches(run, flat)
    lengths_mm = tuple(b - a for a, b in straight)
    clamp = {"pressure_mpa": needs_mpa, "width_mm": width_mm, "force_kn": clamp_table()[LIKELY_CLAMP].force_kn}
    on = clamps_on(lengths_mm, clamps=choice.band_clamps, **clamp)
    beside: dict[str, Any] = {
        "flat": tuple(s for s, n in zip(straight, on, strict=True) if not n),
        "bands": choice.bands,
        "clamps": sum(on),
        "clamps_wanted": sum(clamps_wanted(long, **clamp) for long in lengths_mm),
    }
    if not convex.any():
        return Press("band", lifts=_stretches(run, ~flat), **beside)
    worst = int(np.where(convex, left * np.abs(k), np.inf).argmin())
    pressure = band_mpa(tension_kn=float(left[worst]), radius_mm=1 / abs(float(k[worst])), width_mm=width_mm)
    return Press(
        "band",
        Figure(pressure, "allowance"),
        lifts=_stretches(run, ~flat & ~convex),
        **beside,
        left_kn=Figure(float(left[convex].min()), "allowance"),
        turns_deg=math.degrees(float(turned[convex].max())),
    )


def _stretches(curve: Curve, chosen: NDArray[np.bool_]) -> tuple[tuple[float, float], ...]:
    """Where a curve is one of the chosen cells, neighbours taken together, mm from its start."""
    edges = np.flatnonzero(np.diff(np.concatenate(([0], chosen.astype(int), [0]))))
    at = curve.stations_mm
    return tuple((float(at[a]), float(at[b])) for a, b in edges.reshape(-1, 2))


def open_ends(blank: Curve, moments_nmm: Array, *, pressure_mpa: float, width_mm: float) -> tuple[float, float]:
    """The longer of the two ends left open, and how far its tip stands off. moments_nmm: (n,) of the blank's cells."""
    found = []
    for way in (1, -1):
        cells = blank.lengths_mm[::way], moments_nmm[::way]
        length = open_end_mm(*cells, pressure_mpa=pressure_mpa, width_mm=width_mm)
        curvature = blank.curvature[::way]
        gap = open_end_gap_mm(*cells, curvature, pressure_mpa=pressure_mpa, width_mm=width_mm, open_mm=length)
        found.append((length, gap))
    return max(found)


def pressed_section(job: Job, make: GluedLayup, form: FormSketch, caul_mm: float) -> Section:
    """The glue-up on its form, from below."""
    choice, press, liner = job.form, make.press.kind, job.form.liner_mm
    made = [StackLayer("platen, flat and airtight", "platen", 18.0)] if press == "vacuum" else []
    made.append(StackLayer("form", "form", choice.depth_mm))
    made.append(StackLayer("liner" if liner else "film, tape or wax", "film", liner or None))
    for x in make.laminae:
        made.append(StackLayer(f"{x.number}: {x.material}", "wood", x.thickness_mm))
        if x.number == job.build_up.tape_after:
            made.append(StackLayer("tape, no glue: two pieces that mate", "tape", None))
    made.append(StackLayer("film", "film"))
    each = caul_mm / max(1, job.build_up.cauls)
    made += [StackLayer("caul, like the outermost ply, not glued", "caul", each)] * job.build_up.cauls
    message = "Film on every face that glue can reach; center marks lined up."
    if press == "vacuum":
        made += [StackLayer("breather, to the port", "breather", 3.0), StackLayer("bag, sealed all round", "bag")]
        message = "The breather reaches the port, sharp corners are covered, and no fold runs under the piece."
    elif press == "band":
        made.append(StackLayer("band", "band"))
    elif form.closing is not None:
        made += [StackLayer("liner" if liner else "film, tape or wax", "film", liner or None)]
        made.append(StackLayer("other half of the form", "form", choice.depth_mm))
    else:
        made.append(StackLayer("strip against marks, clamps on it", "caul", 6.0))
    return Section("Under pressure", tuple(made), message)
