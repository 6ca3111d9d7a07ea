"""How near a hot bend is to its limit, and what would bring it within: figures and fixes for every hot method."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np

from ..common.findings import Change
from ..heat.limits import COMFORT, HotLimit, LimitFigures, thickest_mm
from ..shape.gentler import gentler_figures
from ..wood.species import wood_table
from ..workpiece.bend import Bend

if TYPE_CHECKING:
    from .bent_on_form import BentOnForm

MOST_RADIUS_MM = 50_000.0


def limit_figures(way: BentOnForm, bend: Bend) -> LimitFigures:
    """Return how near a bend is to its limit, and which thickness and radius would do with ease."""
    T, limit = way.job.part.thickness_mm, way.limit
    change = np.abs(bend.on_form.curvature - way.law.start)
    uses = limit.use(change, T)
    cell = int(uses.argmax())
    inside = max(1e-6, 1 / max(float(change[cell]), 1e-12) - T / 2)
    wanted = abs(float(bend.target.curvature[cell] - np.broadcast_to(way.law.start, change.shape)[cell]))
    wanted_inside = 1 / max(wanted, 1e-9) - T / 2
    ratio = bend.loss_ratio.likely
    return LimitFigures(
        ratio=inside / T,
        table=limit.table,
        has_data=limit.has_data,
        needed=limit.needed,
        grain_factor=limit.grain,
        moisture_factor=limit.moisture,
        size_factor=limit.size,
        slow_factor=limit.slow,
        chance=limit.chance(float(uses[cell])),
        at_mm=float(bend.target.stations_mm[cell] + bend.target.lengths_mm[cell] / 2),
        thinner_mm=thickest_mm(
            lambda mm: _use_on_form(way, mm, wanted_inside, ratio),
            near_mm=T * COMFORT / max(float(uses[cell]), COMFORT / 4),
            up_to_mm=4 * T,
        ),
        gentler_mm=_gentler_mm(way, limit, ratio),
        unbroken_pct=way.wood.steam_unbroken_pct,
        grade=limit.grade,
        without_data=limit.without_data,
    )


def _use_on_form(way: BentOnForm, thickness_mm: float, inside_mm: float, loss_ratio: float) -> float:
    """Use of the limit by a piece of another thickness bent to an inside radius, its own springback allowed for."""
    limit = replace(way.limit_at(thickness_mm, moves_share=0.0), slow=way.limit.slow)
    target = np.array([1 / (inside_mm + thickness_mm / 2)])
    form = way.law_at(thickness_mm).form_curvature_for(target, loss_ratio=loss_ratio)
    return float(limit.use(form, thickness_mm)[0])


def _gentler_mm(way: BentOnForm, limit: HotLimit, loss_ratio: float) -> float:
    """The inside radius off the form that this thickness bends to with ease, its own springback allowed for."""
    T = way.job.part.thickness_mm
    form = np.array([1 / ((limit.ratio_at(COMFORT) + 0.5) * T)])
    released = float(way.law_at(T).release(form, loss_ratio=loss_ratio)[0])
    return min(MOST_RADIUS_MM, 1 / max(released, 1e-9) - T / 2)


def fixes(way: BentOnForm, limits: LimitFigures) -> tuple[Change, ...]:
    """Return what would bring a bend within its limit, each with how much.

    Another method, a thinner piece, a backing, a gentler bend, another wood: what asks least of the maker first.
    """
    T = way.job.part.thickness_mm
    made = [way.other_way, way.thinner(limits.thinner_mm, way.length(limits.thinner_mm))]
    if way.can_be_backed and way.job.heat.backing == "none":
        made.append(Change("Hold a backing strip tight on its outside.", {"heat.backing": "by_hand"}))
    figures = gentler_figures(way.job.shape, T, inside_mm=limits.gentler_mm)
    if figures:
        message = f"Bend it to an inside radius of {way.length(math.ceil(limits.gentler_mm))}."
        made.append(Change(message, {f"shape.{name}": value for name, value in figures.items()}))
    made.append(_better_wood(way, limits))
    return tuple(change for change in made if change is not None)


def _better_wood(way: BentOnForm, limits: LimitFigures) -> Change | None:
    """The wood of the tables that bends tightest this way, where that is tight enough and better than this one."""
    field = "rt_strap" if way.has_strap else "rt_free"
    woods = [w for w in wood_table(way.shop.woods).values() if getattr(w, field) is not None]
    best = min(woods, key=lambda w: (getattr(w, field), w.key))
    limit = replace(way.limit_at(way.job.part.thickness_mm, moves_share=0.0, wood=best), slow=limits.slow_factor)
    if best.key == way.wood.key or limit.needed > limits.ratio:
        return None
    return Change(f"Use {best.said}: it bends tightest of the woods in the tables.", {"stock.species": best.key})
