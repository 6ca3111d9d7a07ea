"""plan(): the one pure function behind every page, print, command and test."""

from __future__ import annotations

import math
from functools import cache

import numpy as np

from ..checks.cautions import cautions
from ..checks.form import FormSituation, form_findings
from ..checks.lamination import lamination_findings
from ..checks.situation import Situation
from ..experience.belief import NOTHING_LEARNT, Learnt
from ..experience.yields import LAMINATED_YIELD, expected_yield, spares_for
from ..form.face import FormFace
from ..form.schools import SCHOOLS
from ..ground.arrays import Array
from ..ground.errors import OutOfRange
from ..ground.estimate import Estimate, Figure
from ..ground.findings import gravest_first
from ..job.job import Job
from ..laws.ring import ring_layers
from ..shape.curve import Curve
from ..shop.boards import board_use
from ..shop.press_days import press_days, press_hours
from ..shop.pressing import band_mpa, open_end_gap_mm, open_end_mm, vacuum_mpa
from ..shop.shop import Shop
from ..ways.base import unknown_way
from ..ways.cold_lamination import ColdLamination, feel_of
from ..ways.heat_bend import HEAT_WAYS
from .readings import along, curves, form_build, form_reading, geometry, springback, stick_marks
from .result import (
    Forces,
    Lamina,
    Plan,
    Press,
    Quantities,
    Rung,
    Springback,
)

WAYS = {"cold_lamination": ColdLamination, "sheet_layup": ColdLamination, "steam_laminae": ColdLamination}


def plan(job: Job, shop: Shop | None = None, learnt: Learnt = NOTHING_LEARNT, *, brief: bool = False) -> Plan:
    """How to bend what the job asks for, in this shop, knowing what its bends have taught.

    Pure: the same three inputs give the same Plan. Raises: OutOfRange when no such bend can be made; a bend that can
    be made badly comes back with findings instead. `brief` leaves out the rungs of the
    ladder and the offsets of the form, for an answer while a shape is being dragged; nothing else is different.
    """
    shop = shop or Shop()
    if job.way in HEAT_WAYS:
        from .heat_plan import heat_plan  # the other half of the product; loaded when it is asked for

        return heat_plan(job, shop, learnt, brief=brief)
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
    if job.way == "steam_laminae":
        way = way.bent_hot_first(target)
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
        opened = CANNOT_OPEN
    else:
        released = way.release(k_form, loss_ratio=np.array([ratio.low, ratio.likely, ratio.high])[:, None])
        opened = springback(way, target, k_form, released, ratio, belief)

    press = _press(way, k_form, closed)
    pressure = press.pressure_mpa.value if press.pressure_mpa else way.glue.pressure_mpa_low
    build = form_build(job, shop, pressure, face, blank, blank.with_curvature(released[1]), brief)

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
        wood_said=way.wood.said,
        glue=way.glue,
        use=worst,
        worst_layer=way.materials[int(use.max(axis=1).argmax())],
        thinnest_sawn_mm=min(way.sawn_mm, default=math.inf),
        blank_length_mm=blank.length_mm,
        loss=opened.loss_share.likely,
        tip_mm=opened.tip_mm,
        bends=belief.bends,
        settling_tip_mm=opened.settling_tip_mm.value,
        missed_mm=opened.missed_tip_mm.value,
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
        geometry=geometry(job, target),
        curves=curves(target, on_form, released, released[1] if closed else way.settled(released[1])),
        use_of_strain=Figure(worst, way.wood.stiffness_grade),
        use_along=along(on_form, use),
        laminae=_laminae(way, blank, strain, use),
        ring=ring,
        ladder=() if brief else rungs(),
        springback=opened,
        forces=_forces(way, k_form, blank.length_mm),
        press=press,
        form=form_reading(job, shop, face, ratio, brief),
        build=build,
        heat=None,
        stick=stick_marks(job, blank, trim, ring, sheets),
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


def _laminae(way: ColdLamination, blank: Curve, strain: Array, use: Array) -> tuple[Lamina, ...]:
    cut = way.layup.lengths_mm(blank.lengths_mm, blank.curvature)
    t, most = way.layup.thickness_mm, strain.max(-1)  # ε = t Δκ / 2, so M = E b t² ε / 6
    pull = way.layup.modulus_mpa * way.job.part.width_mm * t**2 * most / 6 / (blank.length_mm / 2)
    rows = zip(t, way.layup.modulus_mpa, most, use.max(-1), cut, pull, strict=True)
    made = zip(way.materials, rows, strict=True)
    return tuple(Lamina(i, name, *map(float, row)) for i, (name, row) in enumerate(made, 1))


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
