"""What plan() reads off the curves of a job, whatever the way it is bent: shapes, springback, form, stick."""

from __future__ import annotations

import math

import numpy as np

from ..experience.belief import Belief
from ..form.construction import FormBuild, Site, built
from ..form.face import FormFace
from ..ground.arrays import Array
from ..ground.estimate import Estimate, Figure
from ..ground.units import MM_PER_INCH
from ..job.job import Job
from ..laws.ring import RingLayer
from ..shape.curve import Curve, tip_distance_mm
from ..shop.shop import Shop
from ..ways.base import Way
from ..wood.sheet_cutting import SheetCut
from .result import (
    CurveReading,
    Curves,
    FormReading,
    Geometry,
    Offset,
    Plan,
    Springback,
    StickMark,
)

MOST_STATIONS = 30


def springback(way: Way, target: Curve, k_form: Array, released: Array, ratio: Estimate, belief: Belief) -> Springback:
    """`released` (3, n): at the low, likely and high end of the loss ratio."""
    opened = tip_distance_mm(target.lengths_mm, k_form, released)
    tight = int(np.argmax(np.abs(k_form)))
    lost = 1 - released[:, tight] / k_form[tight]
    tip, share = Estimate.around(opened, ratio.grade), Estimate.around(lost, ratio.grade)
    weeks_and_to_size = tip_distance_mm(
        target.lengths_mm,
        np.stack((released[1], target.curvature)),
        np.stack((way.settled(released[1]), way.release(target.curvature, loss_ratio=ratio.likely))),
    )
    settling, to_size = map(float, weeks_and_to_size)
    missed = float(tip_distance_mm(target.lengths_mm, released[1], target.curvature))
    if belief.bends:
        basis = f"learned from {belief.bends} measured bend{'s' if belief.bends > 1 else ''} of this kind or near it"
    else:
        basis = "by mechanics, with the spread usual before any bend of yours is measured"
    return Springback(
        tip,
        share,
        ratio,
        belief.bends,
        basis,
        Figure(settling, "allowance"),
        Figure(to_size, ratio.grade),
        Figure(missed, ratio.grade),
    )


def geometry(job: Job, target: Curve) -> Geometry:
    """The finished piece on its three faces, and its size over all."""
    half = job.part.thickness_mm / 2
    faces = [target.parallel(y) for y in (-half, 0.0, half)]
    inner, mid, outer = (CurveReading.of(c) for c in faces)
    points = np.vstack([c.at(np.linspace(0, c.length_mm, 129))[0] for c in (faces[0], faces[2])])
    across, up = np.ptp(points, axis=0)
    legs = abs(math.degrees(math.remainder(math.pi - abs(target.sweep_rad), math.tau)))
    return Geometry(inner, mid, outer, job.part.thickness_mm, job.part.width_mm, float(across), float(up), legs)


def curves(target: Curve, on_form: Curve, released: Array, settled: Array) -> Curves:
    """The shapes a piece goes through; `released` (3, n) at the low, likely and high end of the loss ratio."""
    off = (CurveReading.of(on_form.with_curvature(k)) for k in (released[1], released[2], released[0], settled))
    return Curves(CurveReading.of(target), CurveReading.of(on_form), *off)


def along(on_form: Curve, use: Array) -> tuple[float, ...]:
    """Use of strain of the worst lamina, one for each run of the curve on the form."""
    starts = on_form.merged().stations_mm[:-1]
    cells = np.searchsorted(on_form.stations_mm[:-1], starts + 1e-9, side="right") - 1
    return tuple(float(u) for u in use.max(axis=0)[cells])


def form_build(
    job: Job, shop: Shop, pressure_mpa: float, face: FormFace, blank: Curve, released: Curve, brief: bool
) -> FormBuild:
    """How the form is built: near and far face are parallels of the blank, half a stack and the liner off."""
    off = job.part.thickness_mm / 2 + job.form.liner_mm
    far = blank.parallel(off if face.side == "inner" else -off, "form.liner_mm" if job.form.liner_mm else "shape")
    return built(
        Site(
            job=job,
            shop=shop,
            face=face,
            far=far,
            stack_mm=job.part.width_mm + shop.clean_up_mm,
            pressure_mpa=pressure_mpa,
            released_headings_rad=released.headings_rad,
        ),
        brief=brief,
    )


def station_step_mm(chord_mm: float, shop: Shop) -> float:
    """A round distance between stations that leaves no more than about thirty of them."""
    inch = MM_PER_INCH
    steps = (5.0, 10.0, 20.0, 25.0, 50.0, 100.0, 200.0, 500.0, 1000.0)
    if shop.units == "in":
        steps = (inch / 4, inch / 2, inch, 2 * inch, 4 * inch, 6 * inch, 12 * inch, 24 * inch, 48 * inch)
    return next((s for s in steps if chord_mm / s <= MOST_STATIONS), steps[-1])


def form_reading(job: Job, shop: Shop, face: FormFace, ratio: Estimate, brief: bool) -> FormReading:
    """The face of the form with its marks and, unless brief, its offsets."""
    reading = CurveReading.of(face.curve)
    step = station_step_mm(max(reading.chord_mm, reading.length_mm / 2), shop)
    return FormReading(
        side=face.side,
        face=reading,
        part_start_mm=face.part_start_mm,
        middle_mm=face.middle_mm,
        part_end_mm=face.part_end_mm,
        liner_mm=job.form.liner_mm,
        depth_mm=face.depth_mm,
        has_straight_base=face.back is None,
        is_one_arc=len(reading.lengths_mm) == 1,
        stack_height_mm=job.part.width_mm + shop.clean_up_mm,
        offsets=tuple(Offset(x, y) for x, y in (() if brief else face.offsets(step))),
        grade="learned" if ratio.grade == "learned" else "allowance",
    )


def stick_marks(
    job: Job, blank: Curve, trim: float, ring: tuple[RingLayer, ...], sheets: tuple[SheetCut, ...]
) -> tuple[StickMark, ...]:
    """Marks on the blank as it lies on the form, measured from its centre along inner face, mid-line and outer face."""
    half, length = job.part.thickness_mm / 2, blank.length_mm
    places = [
        ("finished end", "part_end", trim),
        ("centre", "centre", length / 2),
        ("finished end", "part_end", length - trim),
    ]
    if trim > 0:
        places = [("blank end", "blank_end", 0.0), *places, ("blank end", "blank_end", length)]
    places += [(f"joint of layer {x.number}", "joint", x.joint_deg / 360 * length) for x in ring]
    for cut in sheets:
        for number, joints in enumerate(cut.joints_mm, 1):
            places += [(f"joint in {cut.sheet.name.lower()} {number}", "joint", at) for at in joints]
    places += [(name, kind, trim + station) for name, kind, station in bend_places(job.mid_line())]
    places.sort(key=lambda place: place[2])
    along = np.array([station for _, _, station in places])
    _, headings = blank.at(along)  # level at the centre, so this is how far the strip has turned since
    marks = []
    for (name, kind, station), heading in zip(places, headings, strict=True):
        from_centre, gain = station - length / 2, -half * float(heading)
        marks.append(StickMark(name, kind, from_centre - gain, from_centre, from_centre + gain))  # type: ignore[arg-type]
    return tuple(marks)


def bend_places(target: Curve) -> list[tuple[str, str, float]]:
    """Where bends start and end, and the tightest place of a bend that changes: name, kind, mm from the start."""
    curve = target.merged()
    if curve.lengths_mm.size == 1:
        return []
    bent = np.abs(curve.curvature) > 1e-7
    stations, found = curve.stations_mm, []
    for i in range(1, bent.size):
        if bent[i] and not bent[i - 1]:
            found.append(("bend starts", "bend_start", float(stations[i])))
        elif bent[i - 1] and not bent[i]:
            found.append(("bend ends", "bend_end", float(stations[i])))
        elif bent[i] and curve.curvature[i] * curve.curvature[i - 1] < 0:
            found.append(("bend turns", "bend_start", float(stations[i])))
    sizes = np.abs(curve.curvature)
    tight = int(sizes.argmax())
    if (sizes > sizes[tight] * (1 - 1e-6)).sum() < max(2, bent.sum()):
        found.append(("tightest", "tightest", float((stations[tight] + stations[tight + 1]) / 2)))
    return found


def form_face(plan: Plan) -> FormFace:
    """The face of a plan's form as geometry again, for drawings and templates."""
    f = plan.form
    return FormFace(f.face.curve, f.side, f.part_start_mm, f.middle_mm, f.part_end_mm, f.depth_mm)
