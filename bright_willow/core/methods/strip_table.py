"""The lay-up ladder: every lay-up of equal laminae worth thinking of, answered in one sweep."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from ..common.arrays import Array
from ..common.findings import Level
from ..job.job import Job
from ..job.job_rules import last_lamina_mm
from ..shape.curve import Curve, tip_distance_mm
from ..shop.shop import Shop
from ..springback.hot_set import hot_start
from ..springback.layup import Layup
from ..stock.stock_use import stock_use
from ..workpiece.quantities import cutting
from ..workpiece.workpiece import GOOD_LOSS, GOOD_USE, LayupOption, severity_of

MOST_RUNGS = 24  # or as many as are chosen
THINNEST_RUNG_MM = 0.5
SETTLED = 1e-9  # of the tightest curvature: a form that changes less is found
LEAST_KEPT = 0.1  # of the bend, below which no form can make up for the loss

LayUpRow = tuple[int, float, float]  # count, thickness mm, last mm


@dataclass(frozen=True, eq=False)
class StripTableInput:
    """What the rungs are worked out from.

    layups: all rows at once; target: the finished centerline; loss_ratio: likely, 0 for a ring; hot_set: of strips bent
    hot first, their yield strain and (rows,) the share of their moment that is left; glue_g: (rows,) grams.
    """

    job: Job
    shop: Shop
    rows: tuple[LayUpRow, ...]
    layups: Layup
    breaking_strain: float
    target: Curve
    blank_mm: float
    loss_ratio: float
    hot_set: tuple[float, Array] | None
    glue_g: Array


def lay_ups_to_try(job: Job, shop: Shop) -> tuple[LayUpRow, ...]:
    """Equal laminae from two up, and those of the thicknesses the shop makes with what is left as a thinner last one,
    by count."""
    total, build_up = job.part.thickness_mm, job.build_up
    most = max(int(min(MOST_RUNGS, max(2, total / THINNEST_RUNG_MM))), build_up.laminae)
    rows = {(n, total / n, total / n) for n in range(2, most + 1)}
    made = {*shop.thicknesses_mm, *([build_up.lamina_mm] if build_up.lamina_mm else [])}
    for each in made:
        count = math.ceil(total / each - 1e-6)
        last = total - (count - 1) * each
        if 2 <= count <= 120 and 0.2 <= last < each - 0.01:
            rows.add((count, each, last))
    if build_up.lamina_mm:
        rows.add((build_up.laminae, build_up.lamina_mm, last_lamina_mm(job)))
    return tuple(sorted(rows))


def ladder(of: StripTableInput) -> tuple[LayupOption, ...]:
    """The rungs. The form of each is the target bent further by its own loss; strain is taken on that form.

    Source: docs/model.md#cold-lamination.
    """
    target = of.target.curvature
    tight = int(np.argmax(np.abs(target)))
    workable, form, layups = _forms(of, target)
    lost = form - target
    tips = tip_distance_mm(of.target.lengths_mm, form, target)
    there = layups
    if layups.start_curvature.ndim == 3:
        there = layups.starting(layups.start_curvature[..., tight : tight + 1])
    use = there.strain(form[:, tight : tight + 1]).max(axis=(-1, -2)) / of.breaking_strain
    cut = cutting(of.job, of.shop, finished_mm=float(of.target.lengths_mm.sum()), blank_mm=of.blank_mm)
    stock = stock_use(np.array([row[0] for row in of.rows]), cut)
    taken = (stock.board_width_per_piece_mm, stock.volume_m3, stock.times_finished, stock.kerf_share, of.glue_g)
    columns = (np.asarray(c).tolist() for c in (workable, use, lost[:, tight] / form[:, tight], tips, *taken))
    made = zip(of.rows, *columns, strict=True)
    return tuple(_rung(of, lay_up, *row) for lay_up, can, *row in made if can)


def _forms(of: StripTableInput, target: Array) -> tuple[Array, Array, Layup]:
    """(rows,) which can be made up for, (rows, n) the curvature of each one's form, and the lay-ups as glued there."""
    kept = 1 - of.loss_ratio * (of.layups.thickness_mm**3).sum(-1) / of.layups.total_mm**3
    workable = kept > LEAST_KEPT
    form = target / np.where(workable, kept, 1.0)[:, None]
    layups = of.layups
    for _ in range(1 if of.hot_set is None else 6):
        # one step of κ_f ← target + k·loss(κ_f): it shrinks an error of some (T/R)² by the share lost
        if of.hot_set is not None:
            yields, left = of.hot_set
            own = of.layups.lamina_curvature(form)
            start = hot_start(own, of.layups.thickness_mm, yield_strain=yields, share_left=left[:, None])
            layups = of.layups.starting(start)
        before = form
        form = np.where(workable[:, None], target + form - layups.release(form, loss_ratio=of.loss_ratio), form)
        if np.abs(form - before).max() <= SETTLED * np.abs(target).max():
            break
    return workable, form, layups


def _rung(
    of: StripTableInput,
    lay_up: LayUpRow,
    use: float,
    loss: float,
    tip: float,
    board: float,
    wood: float,
    times: float,
    kerf: float,
    glue: float,
) -> LayupOption:
    n, thickness, last = lay_up
    feel, thinnest = severity_of(use), min(thickness, last)
    good = use < GOOD_USE and loss <= GOOD_LOSS and thinnest >= of.shop.thinnest_mm - 1e-9
    level: Level = "stop" if feel == "expect breaks" else "fit" if good else "watch"
    step = None if last == thickness else thickness
    own = of.job.build_up.lamina_mm
    chosen = n == of.job.build_up.laminae and (step == own or bool(step and own and abs(step - own) < 1e-6))
    return LayupOption(
        n, thickness, last, step, use, feel, level, loss, tip, board, wood, times, kerf, glue, chosen, good
    )
