"""A closed ring, layer by layer: what each is cut to, where its joint stands, what it does before it is closed."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from ..common.arrays import Array
from ..common.errors import ENDLESS, check_range
from .layup import Layup


@dataclass(frozen=True, slots=True)
class RingLayer:
    """One layer of a closed ring, counted from the inner face outwards.

    cut_length_mm: once around at its own middle. joint_deg: where its ends meet, from the mark, clockwise.
    opens_mm: gap between the ends of the open hoop that this layer and those under it would make if taken off the form
    before the ring is closed.
    """

    number: int
    cut_length_mm: float
    joint_deg: float
    opens_mm: float


def joint_places_deg(layers: int) -> list[float]:
    """Angles of the joints, evenly spread, those of neighbours about 0.38 of a turn apart.

    Any two stand at least 360°/layers apart. Valid: 1 to 1000 layers. Raises: PlanError. Source: geometry.

    >>> joint_places_deg(5)
    [0.0, 144.0, 288.0, 72.0, 216.0]
    """
    check_range("build_up.laminae", layers, 1, 1000)
    golden = 0.381966 * layers
    strides = [s for s in range(1, layers + 1) if math.gcd(s, layers) == 1]
    stride = min(strides, key=lambda s: abs(s - golden))
    return [(i * stride % layers) * 360.0 / layers for i in range(layers)]


def ring_layers(layup: Layup, mid_length_mm: float, form_curvature: float) -> tuple[RingLayer, ...]:
    """The layers of a ring whose mid-line runs once around a drum.

    Each is as long as the circle at its middle; a hoop of the layers glued so far, cut open, springs to the curvature
    the lay-up law gives (one flat layer springs straight). Valid: a length above 0, mm; curvature in 1/mm, above 0.
    Raises: PlanError. Source: geometry and docs/model.md#cold-lamination. Grade: physics.

    >>> two = Layup(np.full(2, 5.0), np.full(2, 12_000.0), np.zeros(2))
    >>> first = ring_layers(two, 1000.0, 0.00628)[0]
    >>> round(first.cut_length_mm, 1), round(first.opens_mm, 1)
    (984.3, 984.3)
    """
    check_range("shape.diameter_mm", mid_length_mm, 0, ENDLESS, "mm", above=True)
    check_range("shape.diameter_mm", form_curvature, 0, 1.0, "1/mm", above=True)
    lengths = mid_length_mm * (1 + form_curvature * layup.middles_mm)
    k = np.array([form_curvature])
    made = []
    for i, (length, joint) in enumerate(zip(lengths, joint_places_deg(lengths.size), strict=True)):
        under = layup.part(slice(None, i + 1))
        middle = float(lengths[: i + 1].mean())
        on_form = k * mid_length_mm / middle
        made.append(RingLayer(i + 1, float(length), joint, _opening(under.release(on_form), middle)))
    return tuple(made)


def _opening(curvature: Array, length_mm: float) -> float:
    """Distance between the ends of a strip of a length bent to a curvature."""
    half = length_mm * float(curvature[0]) / 2
    return length_mm * abs(math.sin(half) / half) if abs(half) > 1e-12 else length_mm
