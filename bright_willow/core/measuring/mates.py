"""Left and right of a pair: which piece goes with which, and whether they are near enough."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np


@dataclass(frozen=True, slots=True)
class PairReading:
    """A piece of one hand as it was last measured."""

    label: str
    chord_mm: float
    rise_mm: float


@dataclass(frozen=True, slots=True)
class Mates:
    """A left and the right that comes nearest to it."""

    left: str
    right: str
    apart_mm: float
    matches: bool


def mated(lefts: Sequence[PairReading], rights: Sequence[PairReading], *, tolerance_mm: float) -> tuple[Mates, ...]:
    """Lefts and rights paired so that all pairs together differ least; apart is the larger of chord and rise.

    As many pairs as there are of the rarer hand. Source: assignment problem (Hungarian method, SciPy).

    >>> mated([PairReading("1", 500, 80)], [PairReading("2", 503, 80), PairReading("3", 501, 81)], tolerance_mm=2)
    (Mates(left='1', right='3', apart_mm=1.0, matches=True),)
    """
    from scipy.optimize import linear_sum_assignment

    if not lefts or not rights:
        return ()
    a, b = (np.array([(r.chord_mm, r.rise_mm) for r in side]) for side in (lefts, rights))
    apart = np.abs(a[:, None, :] - b[None, :, :]).max(axis=-1)
    rows, columns = linear_sum_assignment(apart)
    return tuple(
        Mates(lefts[i].label, rights[j].label, float(apart[i, j]), bool(apart[i, j] <= tolerance_mm + 1e-9))
        for i, j in zip(rows, columns, strict=True)
    )


def hands_say(lefts: int, rights: int) -> str:
    """What is wrong with so many lefts against so many rights; nothing while one mate can still follow.

    >>> hands_say(2, 0)
    'Two lefts and no right: bend rights next.'
    """
    if abs(lefts - rights) <= 1:
        return ""
    few = "right" if lefts > rights else "left"
    return f"{_counted(lefts, 'left').capitalize()} and {_counted(rights, 'right')}: bend {few}s next."


def _counted(n: int, what: str) -> str:
    words = ("no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine")
    return f"{words[n] if n < len(words) else n} {what}{'s' if n > 1 else ''}"
