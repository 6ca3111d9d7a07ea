"""How many forms pay: the same work with more or fewer of what it waits for, and what it takes to make that."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

from ..common.errors import PlanError
from ..common.operation import Operation
from ..job.job import Job
from ..learning.belief import LearnedFigures
from ..methods.steps.making_form import is_form_work
from ..scheduling.job_tasks import OF_THE_JOB, JobTasks, ShopCapacity, Timetable
from ..scheduling.timetable import timetable
from ..shop.shop import Shop
from ..shop.times import Times
from .plan import plan as plan_of
from .read_job import read_job
from .result import Plan

MOST_FORMS = 4
QUICK_TRIES = 3
MANY = 1_500  # operations of all pieces, beyond which only one order of work is tried
WORTH_S = 1800.0  # sooner by less than that is no sooner. Grade: allowance.


@dataclass(frozen=True, slots=True)
class CapacityChange:
    """One way to have more. says: what there would be; sets: by dotted field of the job, or of the shop (shop.week…).

    build_s: hours to make it; done_s: when the job's last piece would be done, 0 where it cannot be; why_not: why.
    """

    key: str
    message: str
    sets: dict[str, Any]
    build_s: float
    done_s: float
    sooner_s: float
    why_not: str = ""

    @property
    def pays(self) -> bool:
        """Whether the last piece is done sooner for it."""
        return self.sooner_s >= WORTH_S

    @property
    def costs(self) -> bool:
        """Whether it is done later for it."""
        return self.sooner_s <= -WORTH_S


def choices(plan: Plan, operations: Sequence[Operation]) -> list[CapacityChange]:
    """What else there could be for a job: a form fewer, more forms, frames, places, people, or two of them at once."""
    job, shop, way = plan.job, plan.shop, plan.way
    times, batches = Times(shop), way.batches
    build_form_s = plan.form_work.attended_s / batches.forms
    taken = {t.what for o in operations for t in o.takes}
    loads = batches.often("batch")
    made = [CapacityChange("now", "as it is", {}, 0.0, 0.0, 0.0)]
    if "form" in taken and way.forms_field:
        each = build_form_s + (times.seconds("build_strap") if "strap" in taken else 0.0)
        with_strap = " and straps" if "strap" in taken else ""
        for n in range(max(1, batches.forms - 1), min(loads, batches.forms + MOST_FORMS - 1) + 1):
            if n == batches.forms:
                continue
            message = f"{n} form{'s' if n > 1 else ''}{with_strap if n > 1 else with_strap.removesuffix('s')}"
            build = max(0, n - batches.forms) * each
            made.append(CapacityChange(f"forms{n}", message, {way.forms_field: n}, build, 0.0, 0.0))
        if "frame" in taken and batches.forms < loads:
            n, jigs = batches.forms + 1, shop.week.frames + 2
            both: dict[str, Any] = {way.forms_field: n, "shop.week.frames": jigs}
            build = each + 2 * times.seconds("build_frame")
            message = f"{n} forms{with_strap}, with {jigs} drying jigs"
            made.append(CapacityChange("forms_frames", message, both, build, 0.0, 0.0))
    if way.forms_field == "glue_up.forms" and job.prepare.abreast == 1 and batches.pieces > 1:
        wide: dict[str, Any] = {"prepare.abreast": 2, "prepare.abreast_as": "wide"}
        message = "a form twice as wide, the blank sawn in two"
        made.append(CapacityChange("wide", message, wide, build_form_s, 0.0, 0.0))
    if way.forms_field == "heat.forms" and batches.at_once == 1 and batches.pieces > 1:
        message = "a form twice as wide, two bent together"
        made.append(CapacityChange("wide", message, {"heat.at_once": 2}, build_form_s, 0.0, 0.0))
    week = shop.week
    if "frame" in taken:
        frames = {"shop.week.frames": week.frames + 2}
        build = 2 * times.seconds("build_frame")
        made.append(CapacityChange("frames", f"{week.frames + 2} drying jigs", frames, build, 0, 0))
    if "chamber" in taken:
        places = {"shop.week.places": week.places + 1}
        message = f"room for {week.places + 1} batches in the steam box"
        made.append(CapacityChange("places", message, places, times.seconds("build_place"), 0, 0))
    people = {"shop.week.people": week.people + 1}
    made.append(CapacityChange("people", f"{week.people + 1} people", people, 0.0, 0.0, 0.0))
    return made


def what_would_pay(
    plan: Plan,
    learnt: LearnedFigures,
    works: Sequence[JobTasks],
    floor: ShopCapacity,
    at: int,
    rule: int = 0,
) -> list[CapacityChange]:
    """Each choice with the day the job's last piece would be done.

    Args:
        plan: of the job asked about.
        learnt: what the shop's logbook shows.
        works: all of the shop's work.
        floor: its hours, people and things.
        at: which of `works` is this job's.
        rule: which order of work won for them, to be used again where there is very much.

    Pure. All are compared by the same few tries, so that one is not better for being looked at longer.
    """
    own, made, shop = works[at], list[CapacityChange](), plan.shop
    for choice in choices(plan, own.operations):
        try:
            case, owned = _with(choice, plan.job, shop, learnt, own)
        except PlanError as error:
            made.append(replace(choice, why_not=error.message(shop.units)))
            continue
        changed = replace(floor, owned={**floor.owned, **owned}, people=owned.get("people", floor.people))
        found = _quick([*works[:at], case, *works[at + 1 :]], changed, rule)
        if not found.doings:
            made.append(replace(choice, why_not="There is no schedule for it: see what is in the way."))
            continue
        done = found.done_of[own.job]
        now = made[0].done_s if made and made[0].done_s else done
        made.append(replace(choice, done_s=done, sooner_s=now - done))
    return made


def _quick(works: Sequence[JobTasks], floor: ShopCapacity, rule: int) -> Timetable:
    """A timetable found soon: by a few tries, or of very much work by the rule that won before."""
    return timetable(works, floor, rule=rule) if is_much(works) else timetable(works, floor, tries=QUICK_TRIES)


def is_much(works: Sequence[JobTasks]) -> bool:
    """Whether there is so much work that to compare choices takes seconds."""
    return sum(w.batches.often(o.scope) for w in works for o in w.operations) > MANY


def _with(
    choice: CapacityChange, job: Job, shop: Shop, learnt: LearnedFigures, own: JobTasks
) -> tuple[JobTasks, dict[str, int]]:
    """The job's work with a choice made, and what the shop would then own. Raises: PlanError."""
    owned = {}
    data = job.model_dump()
    for name, value in choice.sets.items():
        if name.startswith("shop.week."):
            what = name.removeprefix("shop.week.")
            owned[{"frames": "frame", "places": "chamber"}.get(what, what)] = value
        else:
            room, field = name.split(".")
            data[room][field] = value
    if not any(not n.startswith("shop.") for n in choice.sets):
        return own, owned
    made = plan_of(read_job(data, shop.units, shop.woods), shop, learnt)
    batches = made.way.batches
    forms = dict.fromkeys(OF_THE_JOB, batches.forms)
    makes_form = any(is_form_work(o.key) for o in own.operations)
    operations = made.operations_with_form if makes_form else made.operations
    return replace(own, operations=operations, batches=batches, own=forms), owned
