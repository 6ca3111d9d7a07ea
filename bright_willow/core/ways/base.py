"""The contract of a way of bending: what every way answers, so that plan() need not know which it is."""

from __future__ import annotations

from typing import Protocol

from ..ground.arrays import Array
from ..ground.errors import OutOfRange


class Way(Protocol):
    """One way of bending, set up for one job. Curvatures are (n,) of the mid-line, 1/mm."""

    def release(self, form_curvature: Array, *, loss_ratio: float | Array = 1.0) -> Array:
        """What the bend opens to off the form."""

    def form_curvature_for(self, target: Array, *, loss_ratio: float = 1.0) -> Array:
        """What releases to the target. Raises: OutOfRange."""

    def settled(self, released: Array) -> Array:
        """What is left after some weeks."""

    @property
    def group(self) -> str:
        """The stock group under which its bends are learnt."""


def unknown_way(key: str) -> OutOfRange:
    """The error for a way that is not in the table."""
    return OutOfRange("way", f"No way of bending called “{key[:40]}” is known here.")
