"""Marrow Lane: an invented shop that works for a community orchard. Every job and figure here is made up."""

from __future__ import annotations

from ..core.book.built_form import BuiltForm
from ..core.job.job import Job
from ..core.plan.plan import sketch
from ..core.shape.curve import Curve
from ..store.book import Store
from .examples import Came
from .hot_jobs import HOT
from .laid_up_jobs import LAID_UP
from .shop import LOTS, SHOP

EXAMPLES = (*LAID_UP, *HOT)


def fill(store: Store) -> None:
    """Put the sample shop into an empty store. Needs a connection."""
    store.save_shop(SHOP)
    for lot in LOTS:
        store.keep_lot(lot)
    for example in EXAMPLES:
        job_id = store.add_job(example.job)
        for stage in example.settled:
            store.settle(job_id, stage)
        if example.form_built:
            built = BuiltForm.of(sketch(example.job, SHOP, store.learnt()))
            form_id = store.keep_form(job_id, built)
            for number, came in enumerate(example.came, 1):
                _piece(store, form_id, example.job, built, number, came)


def _piece(store: Store, form_id: int, job: Job, built: BuiltForm, number: int, came: Came) -> None:
    """A piece measured with a rule: to half a millimetre."""

    def measured(bent: Curve) -> tuple[float, float]:
        chord, rise, _ = built.on_face(bent, job.shape.face)
        return round(chord * 2) / 2, round(rise * 2) / 2

    released = built.bent_by(came.over_mechanics)
    chord, rise = measured(released)
    piece = store.add_piece(
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
        store.measure_again(
            piece, day=came.later, chord_mm=chord, rise_mm=rise, face=job.shape.face, error_mm=SHOP.measuring_error_mm
        )
