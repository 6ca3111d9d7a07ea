"""Old forms by the present law: what mechanics predicts for them today; what they promised on the day stays."""

from __future__ import annotations

import numpy as np

from ..common.errors import PlanError
from ..job.job import Job
from ..methods.method_registry import set_up
from ..shop.shop import Shop
from ..wood.lot import DRYNESS
from .built_form import LAW, BuiltForm


def restated(built: BuiltForm, job: Job, shop: Shop, *, on_form_h: float | None = None) -> BuiltForm:
    """Return a form with its predicted release worked out by the present law, for what was bent on it.

    job: as it stood when the form was built; its dryness gives way to the one the form was frozen with. on_form_h: the
    hours on the form that were recorded at the bench, 0 or more; None: those of the job. What the form promised
    (expected, and its band) is never touched. A form that the present tables cannot work out stays as it is.
    """
    of_law = built.model_copy(update={"law": LAW})
    try:
        way = set_up(_as_built(built, job, on_form_h), shop)
        wanted = np.array(built.wanted_curvature)
        stated = np.array(built.stated_curvature or built.wanted_curvature)
        release = way.predicted_anew(np.array(built.form_curvature), wanted=wanted, stated=stated)
        if release is None or ("laid_up" in way.traits and built.laminae != job.build_up.count):
            return of_law
        return of_law.model_copy(update={"predicted_curvature": tuple(release.tolist()), "jig_keeps": way.jig_keeps})
    except PlanError:
        return of_law


def _as_built(built: BuiltForm, job: Job, on_form_h: float | None) -> Job:
    """The job with the method, stock and hours of what was bent on a form."""
    dryness = built.group.partition("|")[2]
    stock = {"species": built.species} | ({"dryness": dryness} if dryness in DRYNESS else {})
    heat = {} if on_form_h is None else {"on_form_h": on_form_h, "clamps_h": on_form_h}
    return job.model_copy(
        update={
            "way": built.way,
            "stock": job.stock.model_copy(update=stock),
            "part": job.part.model_copy(update={"thickness_mm": built.thickness_mm}),
            "heat": job.heat.model_copy(update=heat),
        }
    )
