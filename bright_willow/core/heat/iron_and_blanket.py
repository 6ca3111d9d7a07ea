"""Bending over dry heat: the order and the marks of the bends over an iron, the schedule of a blanket."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..common.document import Message
from ..common.errors import ENDLESS, check_range
from ..shape.curve import Curve

OWN_BEND_DEG, OTHER_RADIUS = 5.0, 0.02
HOTTEST_C = 180.0  # that a blanket is set to


@dataclass(frozen=True, slots=True)
class DryBend:
    """One bend of a thin strip over heat: in which order, between which marks on the flat strip, and how far.

    start, end: mm from the start of the finished piece. wanted_deg, bent_deg: turn wanted and turn to bend it to.
    side: towards which face the strip is bent.
    """

    order: int
    start_mm: float
    end_mm: float
    radius_mm: float
    wanted_deg: float
    bent_deg: float
    side: str


@dataclass(frozen=True, slots=True)
class BlanketStep:
    """A step of a blanket's schedule."""

    message: Message
    temperature_c: float
    minutes: float


@dataclass(frozen=True, slots=True)
class DryHeat:
    """The bends of a strip, tightest first; over a blanket its schedule as well, over an iron none."""

    surface_c: float
    bends: tuple[DryBend, ...]
    blanket: tuple[BlanketStep, ...]


def dry_bends(target: Curve, form: Curve) -> tuple[DryBend, ...]:
    """The bends of a strip, tightest first, then outward; marks on the flat strip from its start. Arcs of different
    radius stay apart.

    target, form: mid-lines of the same cells, as wanted and as bent to. Source: geometry.
    """
    at, bent, sign = target.stations_mm, np.abs(target.curvature) > 1e-6, np.sign(target.curvature)
    k, turns = np.abs(target.curvature), np.degrees(target.turns_rad)
    # arcs of different radius are bends of their own, where either is more than a step of an easing
    both = np.minimum(turns[:-1], turns[1:]) > OWN_BEND_DEG
    other = both & (np.abs(np.diff(k)) > OTHER_RADIUS * np.maximum(k[:-1], k[1:]))
    edges = np.flatnonzero((np.diff(np.where(bent, sign, 0.0)) != 0) | other) + 1
    runs = [(int(a), int(b)) for a, b in zip([0, *edges], [*edges, bent.size], strict=True) if bent[a]]

    def tight(run: tuple[int, int]) -> float:
        return float(np.abs(target.curvature[run[0] : run[1]]).max())

    def turn(curve: Curve, a: int, b: int) -> float:
        return float(np.degrees(abs((curve.lengths_mm[a:b] * curve.curvature[a:b]).sum())))

    return tuple(
        DryBend(
            order,
            float(at[a]),
            float(at[b]),
            1 / tight((a, b)),
            turn(target, a, b),
            turn(form, a, b),
            "toward the inside face" if sign[a] > 0 else "toward the outside face",
        )
        for order, (a, b) in enumerate(sorted(runs, key=tight, reverse=True), 1)
    )


def blanket_steps(*, surface_c: float, thickness_mm: float, cool_min: float) -> tuple[BlanketStep, ...]:
    """Start to bend near 80 % of the set temperature, finish at it, hold lower, cool in the mould.

    Valid: 0 to 300 °C, thickness above 0. Raises: PlanError. Grade: allowance. Source: docs/model.md#dry-heat.

    >>> [round(s.temperature_c) for s in blanket_steps(surface_c=165, thickness_mm=2, cool_min=45)]
    [132, 165, 150, 30]
    """
    check_range("heat.iron_c", surface_c, 0, 300, "°C")
    check_range("part.thickness_mm", thickness_mm, 0, ENDLESS, "mm", above=True)
    check_range("heat.iron_c", cool_min, 0, ENDLESS, "min")
    goal = min(surface_c, HOTTEST_C)
    return (
        BlanketStep(
            "Moisten, then stack slat, strip, slat and blanket. Heat up.", 0.8 * goal, 2.0 + 1.5 * thickness_mm
        ),
        BlanketStep("Pull it over the form from the middle, steadily.", goal, 3.0),
        BlanketStep("Hold it on the form.", goal - 15, 12.0),
        BlanketStep("Heat off. Let it cool fully on the form before you open anything.", 30.0, cool_min),
    )
