"""How blanks are fitted between the stops of a strap: arched in tight, each with the shim its own length needs."""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..common.errors import ENDLESS, check_range
from ..common.units import Unit, format_length

BLOCK_MM = 20.0  # thicker than this it is a block
TAKEN_UP_MM = 0.25  # of play that needs no shim. Grade: allowance.


@dataclass(frozen=True, slots=True)
class BlankFit:
    """One measured blank in its strap. number: of the blank; load: it goes round the form with, from 1.

    shim_mm: to put behind it; below 0 it is too long by so much, and is sawn off. The gap is geometry: grade physics.
    """

    number: int
    load: int
    blank_mm: float
    shim_mm: float

    @property
    def is_too_long(self) -> bool:
        """Whether it does not go in."""
        return self.shim_mm < -TAKEN_UP_MM

    @property
    def is_tight(self) -> bool:
        """Whether it needs neither saw nor shim."""
        return abs(self.shim_mm) <= TAKEN_UP_MM

    def message(self, unit: Unit) -> str:
        """What goes behind it, or comes off it."""
        if self.is_too_long:
            return f"too long, saw off {format_length(-self.shim_mm, unit)}"
        goods = "block" if self.shim_mm > BLOCK_MM else "shim"
        return "no shim" if self.is_tight else f"{goods} {format_length(self.shim_mm, unit)} thick"


def arch_mm(stops_mm: float, preload_mm: float) -> float:
    """Return how high a blank arches that is so much longer than the strap it is pressed into, mm: √(3 L δ/8).

    A flat arc of chord L and length L + δ. Valid: stops above 0, 0 to 2 % longer. Raises: PlanError.
    Source: geometry; docs/model.md#strap. Grade: physics.

    >>> round(arch_mm(1000.0, 1.5), 1)
    23.7
    """
    check_range("heat.strap_length_mm", stops_mm, 0, ENDLESS, "mm", above=True)
    check_range("heat.preload_mm", preload_mm, 0, 0.02 * stops_mm, "mm")
    return math.sqrt(3 * stops_mm * preload_mm / 8)


def fits(blanks_mm: tuple[float, ...], *, stops_mm: float, preload_mm: float, at_once: int) -> tuple[BlankFit, ...]:
    """Return the shim of every blank: what is left between the stops, less its length, more the preload.

    blanks_mm: as measured, each above 0; stops_mm: between the stops, blocks taken off; at_once: pieces a load, 1 or
    more. Raises: PlanError. Source: geometry. Grade: physics.

    >>> [round(f.shim_mm, 2) for f in fits((998.0, 1001.5), stops_mm=1000.0, preload_mm=1.5, at_once=1)]
    [3.5, 0.0]
    """
    check_range("heat.at_once", at_once, 1, ENDLESS)
    check_range("heat.strap_length_mm", stops_mm, 0, ENDLESS, "mm", above=True)
    check_range("heat.preload_mm", preload_mm, 0, ENDLESS, "mm")
    made = []
    for i, blank in enumerate(blanks_mm):
        check_range("heat.blanks_mm", blank, 0, ENDLESS, "mm", above=True)
        made.append(BlankFit(i + 1, i // at_once + 1, blank, stops_mm - blank + preload_mm))
    return tuple(made)
