"""Marrow Lane: an invented shop that works for a community orchard. Every job and figure here is made up."""

from __future__ import annotations

import datetime as dt

from ..calendar.shop_work import DoneAt
from ..core.job.job import Job
from ..core.job.schedule_choice import Days
from ..core.measuring.built_form import BuiltForm
from ..core.plan.plan import sketch
from ..core.shape.curve import Curve
from ..store.store import Store
from .demo_shop import LOTS, SHOP
from .examples import ExampleOutcome, examples

EXAMPLES = examples()


IN_WEEK = {5: 18, 14: None, 16: None, 18: 21}  # examples laid into the shop's days, and in how many days they are due
DONE_ALREADY = ("look_over", "rip", "plane")  # of the first of them


def fill(store: Store, today: dt.date | None = None) -> None:
    """Put the sample shop into an empty store. Needs a connection. today: what its days are laid out from."""
    store.shop_settings.save(SHOP)
    for lot in LOTS:
        store.rack.save(lot)
    today = today or dt.date.today()
    for number, example in enumerate(EXAMPLES, 1):
        job_id = store.jobs.add(_dated(example.job, number, today))
        for stage in example.settled:
            store.jobs.mark_done(job_id, stage)
        if example.form_built:
            built = BuiltForm.of(sketch(example.job, SHOP, store.training.learned()))
            form_id = store.logbook.save_form(job_id, built)
            for number, came in enumerate(example.came, 1):
                _piece(store, form_id, example.job, built, number, came)

    _begin(store, min(IN_WEEK), today)


def _dated(job: Job, number: int, today: dt.date) -> Job:
    """An example with its place in the shop's week, if it has one."""
    if number not in IN_WEEK:
        return job
    ahead = IN_WEEK[number]
    due = (today + dt.timedelta(days=ahead)).isoformat() if ahead else None
    return job.model_copy(update={"days": Days(in_week=True, due_day=due)})


def _begin(store: Store, job_id: int, today: dt.date) -> None:
    """The day before, its strips were sawn."""
    at = dt.datetime.combine(today - dt.timedelta(days=1), dt.time(10))
    hours = [(key, at + dt.timedelta(hours=n)) for n, key in enumerate(DONE_ALREADY)]
    store.progress.add(job_id, [DoneAt(key, -1, begun, begun + dt.timedelta(minutes=50)) for key, begun in hours])


def _piece(store: Store, form_id: int, job: Job, built: BuiltForm, number: int, came: ExampleOutcome) -> None:
    """A piece measured with a rule: to half a millimetre."""

    def measured(bent: Curve) -> tuple[float, float]:
        chord, rise, _ = built.on_face(bent, job.shape.face)
        return round(chord * 2) / 2, round(rise * 2) / 2

    released = built.bent_by(came.over_mechanics)
    chord, rise = measured(released)
    piece = store.logbook.add_piece(
        form_id,
        label=str(number),
        day=came.day,
        chord_mm=chord,
        rise_mm=rise,
        face=job.shape.face,
        error_mm=SHOP.measuring_error_mm,
        mishap=came.mishap,
        left_out=came.mishap == "early_release",
        note=came.note,
    )
    if came.later:
        chord, rise = measured(released.with_curvature(released.curvature * 0.994))
        store.logbook.measure_again(
            piece, day=came.later, chord_mm=chord, rise_mm=rise, face=job.shape.face, error_mm=SHOP.measuring_error_mm
        )
