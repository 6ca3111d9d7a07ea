"""plan() for the ways by heat: the same Plan, one blank instead of laminae, and what heat has to say."""

from __future__ import annotations

import numpy as np

from . import readings as shared
from ..checks.cautions import heat_cautions
from ..checks.form import FormSituation, form_findings
from ..checks.heat import HeatSituation, heat_findings
from ..experience.belief import Learnt
from ..experience.yields import expected_yield, spares_for
from ..form.face import FormFace
from ..form.schools import SCHOOLS
from ..ground.errors import OutOfRange
from ..ground.estimate import Figure
from ..ground.findings import gravest_first
from ..heat.strap import leg_turns_deg
from ..job.job import Job
from ..shop.adhesive import adhesive
from ..shop.boards import board_use
from ..shop.shop import Shop
from ..shop.stock_use import Cutting, stock_use
from ..ways.heat_bend import HeatBend
from .heat_readings import heat_reading
from .result import Forces, Lamina, Plan, Press, Quantities

STOCK_YIELD = 0.6  # of steamed pieces, where the species has no figure. Grade: allowance.
DRY_YIELD = 0.85  # of thin strips bent over dry heat. Grade: allowance.


def heat_plan(job: Job, shop: Shop, learnt: Learnt, *, brief: bool) -> Plan:
    """How to bend what the job asks for with heat. Raises: OutOfRange when no such bend can be made."""
    bow = job.mid_line()
    if job.shape.is_closed:
        raise OutOfRange("shape.kind", "A closed ring is glued up of layers; bend an open hoop with heat.")
    way = HeatBend.for_job(job, shop, bow)
    straightens = job.way == "straighten"
    target = bow.with_curvature(np.zeros_like(bow.curvature)) if straightens else bow
    if job.form.school in ("by_angle", "by_distance") and not straightens:
        target = target.parted_in_the_middle()
        way = HeatBend.for_job(job, shop, target)
    belief = learnt.about(way=job.way, group=way.group)
    ratio = belief.next_bend()
    school = "computed" if straightens else job.form.school
    k_form = SCHOOLS[school].form_curvature(job.form, way, target, ratio.likely, belief)
    on_form = target.with_curvature(k_form)
    trim = job.part.trim_mm
    blank = on_form.lengthened(trim, trim)
    at_hand = job.model_copy(update={"form": job.form.model_copy(update={"kind": "in_place"})}) if straightens else job
    face = FormFace.under(
        blank,
        thickness_mm=job.part.thickness_mm,
        liner_mm=job.form.liner_mm,
        side=job.form.side,
        trim_mm=trim,
        depth_mm=job.form.depth_mm,
    )
    released = way.release(k_form, loss_ratio=np.array([ratio.low, ratio.likely, ratio.high])[:, None])
    springback = shared.springback(way, target, k_form, released, ratio, belief)
    use = way.use(k_form)
    worst = float(use.max())
    good, failed = learnt.made.get((job.way, way.group), (0, 0))
    whole = expected_yield(_yield(way, worst), good, failed)
    cut = Cutting(
        total_mm=job.part.thickness_mm,
        width_mm=job.part.width_mm,
        finished_length_mm=target.length_mm,
        blank_length_mm=blank.length_mm,
        pieces=job.part.count,
        spares=job.part.spares,
        kerf_mm=shop.kerf_mm,
        planing_mm=shop.planing_mm,
        clean_up_mm=shop.clean_up_mm,
    )
    stock = stock_use(1, cut)
    boards = board_use(job.stock.lot, stock, shop.kerf_mm) if job.stock.lot else None
    heat = heat_reading(job, shop, way, target, blank, k_form, released, ratio, use)
    moment = heat.strap.moment_nmm if heat.strap else _free_moment(way)
    lever = job.heat.lever_mm
    press = Press("clamps", None, None, None)
    pressure = adhesive(job.build_up.adhesive).pressure_mpa_low
    build = shared.form_build(at_hand, shop, pressure, face, blank, blank.with_curvature(released[1]), brief)
    spares = spares_for(job.part.count, whole.likely)
    situation = HeatSituation(
        job=job,
        shop=shop,
        wood_said=way.wood.said,
        blank_length_mm=blank.length_mm,
        spares_advised=spares,
        expected_yield=whole,
        boards=boards,
        ring=(),
        is_its_own_mirror=bool(np.allclose(target.curvature, target.curvature[::-1], rtol=1e-6, atol=1e-12)),
        way=way.way,
        heat=heat,
        use=worst,
        missed_mm=springback.missed_tip_mm.value,
        legs_turn_deg=leg_turns_deg(target.lengths_mm, k_form),
    )
    strain = job.part.thickness_mm * float(np.abs(k_form - way.law.start).max()) / 2
    return Plan(
        format="bright-willow-plan",
        version=1,
        job_name=job.name,
        way=job.way,
        group=way.group,
        species_name=way.wood.name,
        species_grade=way.wood.bend_grade or "allowance",
        species_source=way.wood.bend_source or "most steamed woods: 2 % stretch, 25 % shortening",
        breaking_strain=Figure(1 / (2 * way.needed_ratio + 1), way.wood.bend_grade or "allowance"),
        geometry=shared.geometry(job, bow),
        curves=shared.curves(target, on_form, released, way.settled(released[1])),
        use_of_strain=Figure(worst, way.wood.bend_grade or "allowance"),
        use_along=shared.along(on_form, use[None, :]),
        laminae=(
            Lamina(
                1,
                way.wood.name,
                job.part.thickness_mm,
                way.wood.moe_mpa,
                strain,
                worst,
                blank.length_mm,
                moment / lever,
            ),
        ),
        ring=(),
        ladder=(),
        springback=springback,
        forces=Forces(Figure(moment, "allowance"), lever, Figure(moment / lever, "allowance")),
        press=press,
        form=shared.form_reading(job, shop, face, ratio, brief),
        build=build,
        heat=heat,
        stick=shared.stick_marks(job, blank, trim, (), ()),
        quantities=Quantities(
            job.part.count,
            job.part.spares,
            trim,
            stock,
            0.0,
            Figure(0.0, "allowance"),
            whole,
            spares,
            boards,
            (),
            heat.after.form_days,
        ),
        findings=gravest_first(
            [
                *heat_findings(situation),
                *form_findings(FormSituation(at_hand, shop, build, 1 / max(1e-9, face.curve.tightest_curvature))),
            ]
        ),
        cautions=tuple(heat_cautions(job, way.way.source, way.way.has_strap and way.way.source == "steam")),
        assumptions=_assumptions(way),
    )


def _yield(way: HeatBend, use: float) -> float:
    """Share of pieces expected whole: the species' published share, less near and beyond the limit."""
    published = way.wood.steam_unbroken_pct
    share = (published or 100 * STOCK_YIELD) / 100 if way.way.source == "steam" else DRY_YIELD
    near = 1.0 if use < 0.85 else 0.8 if use < 1 else 0.4
    return float(min(0.97, max(0.05, share * near)))


def _free_moment(way: HeatBend) -> float:
    """Moment of a hot bar bent beyond yielding: σ_hot b T²/4, σ_hot 0.16 of the dry crushing strength. [allowance]"""
    part = way.job.part
    return 0.16 * way.wood.crush_mpa * part.width_mm * part.thickness_mm**2 / 4


def _assumptions(way: HeatBend) -> tuple[str, ...]:
    return (
        "Hot wood yields and keeps what is bent beyond a set strain; it loses the same curvature whatever the bend.",
        "Limits of R/T are for clear, straight, heated-through stock; grain and moisture lower them.",
        f"Figures of {way.wood.said}: {way.wood.bend_source or 'none for this way'}; {way.wood.stiffness_source}.",
        "Only plain water: nothing added to it has been shown to help.",
    )
