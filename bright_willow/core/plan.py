"""plan(): the one pure function behind every page, print, command and test."""

from __future__ import annotations

import math
from functools import cache

import numpy as np

from .arrays import Array
from .errors import OutOfRange
from .estimate import Estimate, Figure
from .findings import gravest_first
from .form.construction import FormBuild, Site, built
from .form.face import FormFace
from .form.form_findings import FormSituation, form_findings
from .form.schools import SCHOOLS
from .job import Job
from .learning.experience import NOTHING_LEARNT, Belief, Learnt
from .learning.yields import LAMINATED_YIELD, expected_yield, spares_for
from .plan_parts import (
    CurveReading,
    Curves,
    Forces,
    FormReading,
    Geometry,
    Lamina,
    Offset,
    Plan,
    Press,
    Quantities,
    Rung,
    Springback,
    StickMark,
)
from .shape.curve import Curve, tip_distance_mm
from .shop.boards import board_use
from .shop.cautions import cautions
from .shop.press_days import press_days, press_hours
from .shop.pressing import band_mpa, open_end_gap_mm, open_end_mm, vacuum_mpa
from .shop.shop import Shop
from .units import MM_PER_INCH
from .ways.base import unknown_way
from .ways.cold_lamination import ColdLamination, feel_of
from .ways.lamination_findings import lamination_findings
from .ways.ring import RingLayer, ring_layers
from .ways.situation import Situation
from .wood.sheet_cutting import SheetCut

WAYS = {"cold_lamination": ColdLamination, "sheet_layup": ColdLamination}
MOST_STATIONS = 30


def plan(job: Job, shop: Shop | None = None, learnt: Learnt = NOTHING_LEARNT, *, brief: bool = False) -> Plan:
    """How to bend what the job asks for, in this shop, knowing what its bends have taught.

    Pure: the same three inputs give the same Plan. Raises: OutOfRange when no such bend can be made; a bend that can
    be made badly comes back with findings instead. `brief` leaves out the rungs of the
    ladder and the offsets of the form, for an answer while a shape is being dragged; nothing else is different.
    """
    shop = shop or Shop()
    if job.way not in WAYS:
        raise unknown_way(job.way)
    way = WAYS[job.way].for_job(job, shop)
    target, closed = job.mid_line(), job.shape.is_closed
    if job.is_right:  # its ends change places
        f = job.form
        swapped = {"left_deg": f.right_deg, "right_deg": f.left_deg, "left_mm": f.right_mm, "right_mm": f.left_mm}
        job = job.model_copy(update={"form": f.model_copy(update=swapped)})
    trim = 0.0 if closed else job.part.trim_mm
    if closed:
        pass
    elif job.form.school in ("by_angle", "by_distance"):  # each end may have its own
        target = target.parted_in_the_middle()
    belief = learnt.about(way=job.way, group=way.group)
    ratio = belief.next_bend()
    k_form = (
        target.curvature  # glued all round it cannot open: the drum has the size wanted
        if closed
        else SCHOOLS[job.form.school].form_curvature(job.form, way, target, ratio.likely, belief)
    )
    on_form = target.with_curvature(k_form)
    blank = on_form.lengthened(trim, trim) if trim else on_form
    face = FormFace.under(
        blank,
        thickness_mm=job.part.thickness_mm,
        liner_mm=job.form.liner_mm,
        side=job.form.side,
        trim_mm=trim,
        depth_mm=job.form.depth_mm,
    )
    if closed:
        released = np.repeat(k_form[None, :], 3, axis=0)
        springback = CANNOT_OPEN
    else:
        released = way.release(k_form, loss_ratio=np.array([ratio.low, ratio.likely, ratio.high])[:, None])
        springback = _springback(way, target, k_form, released, ratio, belief)

    press = _press(way, k_form, closed)
    build = _build(job, shop, way, face, blank, blank.with_curvature(released[1]), press, brief)

    @cache
    def rungs() -> tuple[Rung, ...]:
        if job.build_up.lay_up == "layers":
            return ()
        return way.rungs(
            lengths_mm=target.lengths_mm,
            target=target.curvature,
            blank_length_mm=blank.length_mm,
            loss_ratio=0.0 if closed else ratio.likely,
        )

    strain = way.layup.strain(k_form)
    use = strain / way.limits
    worst = float(use.max())
    good, failed = learnt.made.get((job.way, way.group), (0, 0))
    whole = expected_yield(LAMINATED_YIELD[feel_of(worst)], good, failed)
    stock = way.stock(part_length_mm=target.length_mm, blank_length_mm=blank.length_mm)
    boards = board_use(job.stock.lot, stock, shop.kerf_mm) if job.stock.lot and stock.strips else None
    sheets = () if brief else way.sheet_cuts(blank_length_mm=blank.length_mm)
    ring = ring_layers(way.layup, target.length_mm, float(k_form[0])) if closed else ()
    is_mirrored = bool(np.allclose(target.curvature, target.curvature[::-1], rtol=1e-6, atol=1e-12))
    situation = Situation(
        job=job,
        shop=shop,
        wood=way.wood,
        glue=way.glue,
        use=worst,
        worst_layer=way.materials[int(use.max(axis=1).argmax())],
        thinnest_sawn_mm=min(way.sawn_mm, default=math.inf),
        blank_length_mm=blank.length_mm,
        loss=springback.loss_share.likely,
        tip_mm=springback.tip_mm,
        bends=belief.bends,
        settling_tip_mm=springback.settling_tip_mm.value,
        missed_mm=springback.missed_tip_mm.value,
        press=press,
        form_sweep_deg=0.0 if closed else abs(float(np.degrees(blank.sweep_rad))),
        spares_advised=spares_for(job.part.count, whole.likely),
        expected_yield=whole,
        boards=boards,
        ring=ring,
        is_its_own_mirror=is_mirrored and bool(np.allclose(target.lengths_mm, target.lengths_mm[::-1], rtol=1e-6)),
        rungs=rungs,
    )
    return Plan(
        format="bright-willow-plan",
        version=1,
        job_name=job.name,
        way=job.way,
        group=way.group,
        species_name=way.wood.name,
        species_grade=way.wood.stiffness_grade,
        species_source=way.wood.stiffness_source,
        breaking_strain=Figure(way.breaking_strain, way.wood.stiffness_grade),
        geometry=_geometry(job, target),
        curves=_curves(way, target, on_form, released, closed),
        use_of_strain=Figure(worst, way.wood.stiffness_grade),
        use_along=_along(on_form, use),
        laminae=_laminae(way, blank, strain, use),
        ring=ring,
        ladder=() if brief else rungs(),
        springback=springback,
        forces=_forces(way, k_form, blank.length_mm),
        press=press,
        form=_form(job, shop, face, ratio, brief),
        build=build,
        stick=_stick(job, blank, trim, ring, sheets),
        quantities=Quantities(
            job.part.count,
            job.part.spares,
            trim,
            stock,
            way.sheet_m2(blank_length_mm=blank.length_mm),
            Figure(way.glue_for(job.build_up.count, blank_length_mm=blank.length_mm), "allowance"),
            whole,
            situation.spares_advised,
            boards,
            sheets,
            press_days(
                pieces=job.part.count + job.part.spares,
                hours=press_hours(way.glue, max(shop.temperature_c, way.glue.min_temp_c)),
            ),
        ),
        findings=gravest_first(
            [
                *lamination_findings(situation),
                *form_findings(FormSituation(job, shop, build, 1 / max(1e-9, face.curve.tightest_curvature))),
            ]
        ),
        cautions=tuple(cautions(job, situation.thinnest_sawn_mm)),
        assumptions=_assumptions(way),
    )


def _springback(
    way: ColdLamination, target: Curve, k_form: Array, released: Array, ratio: Estimate, belief: Belief
) -> Springback:
    """`released` (3, n): at the low, likely and high end of the loss ratio."""
    opened = tip_distance_mm(target.lengths_mm, k_form, released)
    tight = int(np.argmax(np.abs(k_form)))
    lost = 1 - released[:, tight] / k_form[tight]
    tip = Estimate(float(opened[0]), float(opened[1]), float(opened[2]), ratio.grade)
    share = Estimate(float(lost[0]), float(lost[1]), float(lost[2]), ratio.grade)
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


def _geometry(job: Job, target: Curve) -> Geometry:
    half = job.part.thickness_mm / 2
    faces = [target.parallel(y) for y in (-half, 0.0, half)]
    inner, mid, outer = (CurveReading.of(c) for c in faces)
    points = np.vstack([c.at(np.linspace(0, c.length_mm, 129))[0] for c in (faces[0], faces[2])])
    across, up = np.ptp(points, axis=0)
    legs = abs(math.degrees(math.remainder(math.pi - abs(target.sweep_rad), math.tau)))
    return Geometry(inner, mid, outer, job.part.thickness_mm, job.part.width_mm, float(across), float(up), legs)


def _curves(way: ColdLamination, target: Curve, on_form: Curve, released: Array, closed: bool) -> Curves:
    settled = released[1] if closed else way.settled(released[1])
    off = (CurveReading.of(on_form.with_curvature(k)) for k in (released[1], released[2], released[0], settled))
    return Curves(CurveReading.of(target), CurveReading.of(on_form), *off)


def _along(on_form: Curve, use: Array) -> tuple[float, ...]:
    """Use of strain of the worst lamina, one for each run of the curve on the form."""
    starts = on_form.merged().stations_mm[:-1]
    cells = np.searchsorted(on_form.stations_mm[:-1], starts + 1e-9, side="right") - 1
    return tuple(float(u) for u in use.max(axis=0)[cells])


def _laminae(way: ColdLamination, blank: Curve, strain: Array, use: Array) -> tuple[Lamina, ...]:
    cut = way.layup.lengths_mm(blank.lengths_mm, blank.curvature)
    rows = zip(way.layup.thickness_mm, way.layup.modulus_mpa, strain.max(-1), use.max(-1), cut, strict=True)
    made = zip(way.materials, rows, strict=True)
    return tuple(Lamina(i, name, *map(float, row)) for i, (name, row) in enumerate(made, 1))


def _build(
    job: Job, shop: Shop, way: ColdLamination, face: FormFace, blank: Curve, released: Curve, press: Press, brief: bool
) -> FormBuild:
    """How the form is built: near and far face are parallels of the blank, half a stack and the liner off."""
    off = job.part.thickness_mm / 2 + job.form.liner_mm
    far = blank.parallel(off if face.side == "inner" else -off, "form.liner_mm" if job.form.liner_mm else "shape")
    pressure = press.pressure_mpa.value if press.pressure_mpa else way.glue.pressure_mpa_low
    return built(
        Site(
            job=job,
            shop=shop,
            face=face,
            far=far,
            stack_mm=job.part.width_mm + shop.clean_up_mm,
            pressure_mpa=pressure,
            released_headings_rad=released.headings_rad,
        ),
        brief=brief,
    )


def _forces(way: ColdLamination, k_form: Array, blank_length_mm: float) -> Forces:
    moment = float(np.abs(way.layup.holding_moment(k_form)).max()) * way.job.part.width_mm
    lever = blank_length_mm / 2
    grade = way.wood.stiffness_grade
    return Forces(Figure(moment, grade), lever, Figure(moment / lever, grade))


def _press(way: ColdLamination, k_form: Array, closed: bool) -> Press:
    """Pressure of the press chosen, and the ends it cannot lay down. The moment is that of the bend at either end."""
    build_up, width, grade = way.job.build_up, way.job.part.width_mm, way.wood.stiffness_grade
    if build_up.press == "clamps":
        return Press("clamps", None, None, None)
    if build_up.press == "vacuum":
        pressure = vacuum_mpa(gauge_kpa=build_up.gauge_kpa, altitude_m=way.shop.altitude_m)
    else:
        flattest = float(np.abs(k_form[np.abs(k_form) > 1e-7]).min())
        pressure = band_mpa(tension_kn=build_up.band_kn, radius_mm=1 / flattest, width_mm=width)
    if closed:  # there is no end to stand off
        return Press(build_up.press, Figure(pressure, "physics"), None, None)
    moments = np.abs(way.layup.holding_moment(k_form))[[0, -1]] * width
    end = int(moments.argmax())
    open_end = open_end_mm(moment_nmm=float(moments[end]), pressure_mpa=pressure, width_mm=width)
    k = abs(float(k_form[[0, -1]][end]))
    gap = open_end_gap_mm(open_end_mm=open_end, radius_mm=1 / k) if k > 1e-7 else 0.0
    return Press(build_up.press, Figure(pressure, "physics"), Figure(open_end, grade), Figure(gap, grade))


def station_step_mm(chord_mm: float, shop: Shop) -> float:
    """A round distance between stations that leaves no more than about thirty of them."""
    inch = MM_PER_INCH
    steps = (5.0, 10.0, 20.0, 25.0, 50.0, 100.0, 200.0, 500.0, 1000.0)
    if shop.units == "in":
        steps = (inch / 4, inch / 2, inch, 2 * inch, 4 * inch, 6 * inch, 12 * inch, 24 * inch, 48 * inch)
    return next((s for s in steps if chord_mm / s <= MOST_STATIONS), steps[-1])


def _form(job: Job, shop: Shop, face: FormFace, ratio: Estimate, brief: bool) -> FormReading:
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


def _stick(
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


def _assumptions(way: ColdLamination) -> tuple[str, ...]:
    return (
        "Laminae slide freely on one another until the glue sets, and the glue lines carry fully after.",
        f"Stiffness and strength of {way.wood.said} at 12 % moisture: {way.wood.stiffness_source}.",
        "Springback is the same along the bend; width, twist and end effects are left out.",
        "Breaking strain is strength over stiffness, on the safe side for dry bending.",
    )


CANNOT_OPEN = Springback(
    Estimate(0.0, 0.0, 0.0, "physics"),
    Estimate(0.0, 0.0, 0.0, "physics"),
    Estimate(0.0, 0.0, 0.0, "physics"),
    0,
    "for a ring glued all round, which cannot open",
    Figure(0.0, "physics"),
    Figure(0.0, "physics"),
    Figure(0.0, "physics"),
)


def checked_plan(job: Job, shop: Shop, learnt: Learnt, *, brief: bool = False) -> Plan | OutOfRange:
    """A plan, or the one reason there can be none: for pages that must show either."""
    try:
        return plan(job, shop, learnt, brief=brief)
    except OutOfRange as error:
        return error
