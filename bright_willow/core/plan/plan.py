"""plan(): the one pure function behind every page, print, command and test; and the sketch of it for a drag."""

from __future__ import annotations

from dataclasses import fields, replace
from functools import cache

from ..checks.check_context import CheckContext, found
from ..checks.form import FORM, FORM_PARTS
from ..common.errors import PlanError
from ..common.findings import Change, Finding, gravest_first
from ..form.construction import FormSketch, form_build
from ..form.face import FormFace
from ..form.site import Site
from ..job.job import FormChoice, Job
from ..learning.belief import NOTHING_LEARNT, LearnedFigures
from ..methods.method import Method
from ..methods.method_registry import set_up
from ..shop.shop import Shop
from ..workpiece.bend import Bend, bend_on
from ..workpiece.quantities import Quantities
from ..workpiece.workpiece import LayupOption, Make
from .result import Plan, Sketch


def plan(job: Job, shop: Shop | None = None, learnt: LearnedFigures = NOTHING_LEARNT) -> Plan:
    """How to bend what the job asks for, in this shop, knowing what its bends have taught.

    Pure: the same three inputs give the same Plan. Raises: PlanError when no such bend can be made; a bend that can
    be made badly comes back with findings instead.
    """
    drawn, at = _sketched(job, shop or Shop(), learnt)
    way = drawn.way
    build = form_build(drawn.form)
    about_parts = [f for check in FORM_PARTS if (f := check(at, build))]
    own = {f.name: getattr(drawn, f.name) for f in fields(Sketch)}
    own["findings"] = gravest_first([*drawn.findings, *_as_stated(job, about_parts)])
    return Plan(
        **own,
        rungs=at.rungs,
        build=build,
        cautions=way.cautions(drawn.make),
        assumptions=way.assumptions,
    )


def sketch(job: Job, shop: Shop | None = None, learnt: LearnedFigures = NOTHING_LEARNT) -> Sketch:
    """As much of the plan as a drag shows: no ladder, no parts of the form, no offsets, no operations.

    What is in both is the same in both; findings about the form's parts come with the plan. Raises: PlanError.
    """
    return _sketched(job, shop or Shop(), learnt)[0]


def evaluate(job: Job, shop: Shop, learnt: LearnedFigures) -> tuple[Sketch, CheckContext[Make]]:
    """A sketch with what there is to say of the way alone, nothing of its form, and what the checks look at.

    Raises: PlanError.
    """
    way, learnt = set_up(job, shop), learnt.without(shop.by_allowance)
    bend = _bend(way, learnt)
    make = way.make(bend)
    quantities = way.quantities(bend, make, learnt)
    form = FormSketch(_site(way, bend, make))
    at = _at(way, bend, make, quantities, form)
    findings = tuple(_as_stated(job, way.findings(at)))
    return Sketch(way.job, shop, way, bend, make, quantities, form, findings), at


def _sketched(job: Job, shop: Shop, learnt: LearnedFigures) -> tuple[Sketch, CheckContext[Make]]:
    """The sketch, and what the checks looked at."""
    drawn, at = evaluate(job, shop, learnt)
    findings = gravest_first([*drawn.findings, *_as_stated(job, found(FORM, at))])
    return replace(drawn, findings=findings), at


def _bend(way: Method, learnt: LearnedFigures) -> Bend:
    """Every curve, from what this shop believes of this way and stock."""
    job = way.job
    belief = learnt.about(way=job.way, group=way.group)
    k_form = way.school.form_curvature(job.form, way.law, way.target, belief.next_bend().likely, belief)
    return bend_on(
        stated=way.stated,
        target=way.target,
        k_form=k_form,
        law=way.law,
        belief=belief,
        settles=learnt.settles(*way.settles),
        trims_mm=way.trims_mm,
        cannot_open=way.cannot_open,
        dried=way.dried,
        is_pulled=way.is_pulled,
    )


def _site(way: Method, bend: Bend, make: Make) -> Site:
    """Where the form is built: near and far face are parallels of the blank, half a stack and the liner off."""
    job, choice, shop = way.job, way.form_choice, way.shop
    face = FormFace.under(
        bend.blank,
        thickness_mm=job.part.thickness_mm,
        liner_mm=choice.liner_mm,
        side=choice.side,
        trims_mm=bend.trims_mm,
        depth_mm=choice.depth_mm,
    )
    off = job.part.thickness_mm / 2 + choice.liner_mm + way.caul_mm
    blame = "form.liner_mm" if choice.liner_mm else "shape"
    return Site(
        choice=choice,
        part=job.part.model_copy(update={"width_mm": way.on_form.net_mm}),
        press=way.pressed_by,
        closed=job.shape.is_closed,
        shop=shop,
        face=face,
        far=bend.blank.parallel(off if face.side == "inner" else -off, blame),
        stack_mm=way.on_form.on_form_mm,
        caul_mm=way.caul_mm,
        pressure_mpa=way.pressure_mpa(make),
        released_headings_rad=bend.blank.with_curvature(bend.likely.curvature).headings_rad,
        over_mm=way.over_mm,
        moment_nmm=make.forces.holding_moment_nmm.value,
        wrapped_hot=way.is_wrapped_hot,
    )


def _at(way: Method, bend: Bend, make: Make, quantities: Quantities, form: FormSketch) -> CheckContext[Make]:
    @cache
    def rungs() -> tuple[LayupOption, ...]:
        return way.rungs(bend)

    return CheckContext(
        job=way.job.model_copy(update={"form": way.form_choice}),
        shop=way.shop,
        wood=way.wood,
        bend=bend,
        make=make,
        quantities=quantities,
        form=form,
        face=form.site.face,
        advice=way,
        rungs=rungs,
    )


def _as_stated(job: Job, findings: list[Finding]) -> list[Finding]:
    """Findings whose advice about the form is for the job as it is stated, whichever hand is drawn."""
    return [_stated(job, f) for f in findings] if job.is_right else findings


def _stated(job: Job, finding: Finding) -> Finding:
    made = tuple(_change_stated(job, change) for change in finding.fixes)
    if not made:
        return finding
    return replace(finding, fix=made[0] if finding.fix else None, more=made[1:] if finding.fix else made)


def _change_stated(job: Job, change: Change) -> Change:
    own = {k.removeprefix("form."): v for k, v in change.sets.items() if k.startswith("form.")}
    if not own:
        return change
    drawn: FormChoice = job.form_as_drawn.model_copy(update=own)
    stated = drawn.mirrored
    sets = dict(change.sets)
    for name in FormChoice.model_fields:
        if getattr(stated, name) != getattr(job.form, name):
            sets[f"form.{name}"] = getattr(stated, name)
    return replace(change, sets=sets)


def checked_plan(job: Job, shop: Shop, learnt: LearnedFigures) -> Plan | PlanError:
    """A plan, or the one reason there can be none: for pages that must show either."""
    try:
        return plan(job, shop, learnt)
    except PlanError as error:
        return error


def checked_sketch(job: Job, shop: Shop, learnt: LearnedFigures) -> Sketch | PlanError:
    """A sketch, or the one reason there can be none."""
    try:
        return sketch(job, shop, learnt)
    except PlanError as error:
        return error
