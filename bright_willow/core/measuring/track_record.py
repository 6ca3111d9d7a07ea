"""The track record: every measured piece against what was promised for it, by bending method and thickness."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from ..common.arrays import Array
from ..common.errors import PlanError
from ..common.estimate import Estimate
from ..shape.curve import tip_distance_mm
from .built_form import BuiltForm, PieceComparison

EDGES_MM = (3.0, 8.0, 20.0)  # between the classes of thickness: veneer and strips, thin, middling, thick stock
FEWEST = 5  # pieces of a class before anything is said about bias or the range
SURE = 0.05  # chance of being wrong when a class is called biased, or its range too narrow
LEAST_BIAS = 0.05  # of what was predicted, below which a bias is too small to matter at the bench
PROMISED = 0.8  # of pieces are expected inside their range


@dataclass(frozen=True, slots=True)
class TrackedPiece:
    """One measured piece: how far each end was predicted to spring back, and how far it did, mm; below 0: it closed.

    predicted: with the range it was likely to fall in, as promised on the day. counts: False for a piece that is left
    out of the learning, which is shown and not counted. Grade of what was measured: measured.
    """

    way: str
    thickness_mm: float
    predicted: Estimate
    measured_mm: float
    is_inside: bool
    counts: bool
    message: str = ""

    @property
    def over(self) -> float:
        """How much more it sprang back than predicted, as a share of the prediction."""
        return self.measured_mm / self.predicted.likely - 1

    @property
    def thickness_class(self) -> int:
        """Which class of thickness it belongs to, from 0 for the thinnest."""
        return int(np.searchsorted(EDGES_MM, self.thickness_mm, side="right"))


@dataclass(frozen=True, slots=True)
class ThicknessClass:
    """Pieces of one bending method and class of thickness.

    low_mm, high_mm: its thicknesses, high 0 where it is open above. inside: how many fell inside their range. bias: the
    mean share by which they sprang back more than predicted. is_biased: whether so many pieces, so far apart, leave
    less than 5 % of doubt that it is not 0. is_too_narrow: whether so few inside would be rarer than that.
    """

    way: str
    low_mm: float
    high_mm: float
    pieces: int
    inside: int
    bias: float
    is_biased: bool
    is_too_narrow: bool

    @property
    def of_ten(self) -> int:
        """How many of ten fell inside."""
        return round(10 * self.inside / self.pieces)


def judged(built: BuiltForm, seen: PieceComparison, *, counts: bool, message: str = "") -> TrackedPiece:
    """Return a measured piece beside what its form promised.

    seen: what its first measurement says. Raises: PlanError where nothing was predicted to spring back.
    """
    lengths, on_form = np.array(built.lengths_mm), np.array(built.form_curvature)
    promised = (built.expected_low, built.expected, built.expected_high)
    predicted = Estimate.around(tip_distance_mm(lengths, on_form, np.array(promised)), built.grade)
    if not predicted.likely > 0:
        raise PlanError("chord_mm", "Nothing was predicted to spring back here.")
    opened = float(tip_distance_mm(lengths, on_form, seen.mid_line.curvature))
    return TrackedPiece(
        way=built.way,
        thickness_mm=built.thickness_mm,
        predicted=predicted,
        measured_mm=-opened if seen.ratio < 0 else opened,
        is_inside=seen.within_band,
        counts=counts,
        message=message,
    )


def classes(pieces: Iterable[TrackedPiece]) -> tuple[ThicknessClass, ...]:
    """Return the classes that have pieces which count, by method and rising thickness.

    >>> expected = Estimate(8.0, 10.0, 12.0, "allowance")
    >>> seen = [TrackedPiece("w", 5.0, expected, 10.0 + d, True, True) for d in (1, 2, 3, 2, 2)]
    >>> [(c.pieces, c.of_ten, round(c.bias, 3), c.is_biased) for c in classes(seen)]
    [(5, 10, 0.2, True)]
    """
    by: dict[tuple[str, int], list[TrackedPiece]] = {}
    for piece in pieces:
        if piece.counts:
            by.setdefault((piece.way, piece.thickness_class), []).append(piece)
    ends = (0.0, *EDGES_MM, 0.0)
    made = []
    for (way, n), own in sorted(by.items()):
        over, inside = np.array([p.over for p in own]), sum(p.is_inside for p in own)
        row = (way, ends[n], ends[n + 1], len(own), inside, float(over.mean()))
        made.append(ThicknessClass(*row, is_biased(over), is_too_narrow(inside, len(own))))
    return tuple(made)


def is_biased(over: Array) -> bool:
    """Whether pieces (n,) sprang back more, or less, than predicted by more than chance and the bench would explain.

    Student's t at 5 %, five pieces or more, and at least 5 % of the prediction. Source: any textbook of statistics.
    """
    if over.size < FEWEST or abs(float(over.mean())) < LEAST_BIAS:
        return False
    from scipy.special import stdtrit  # read in when it is asked for: it is a third of the time to start

    error = float(over.std(ddof=1)) / float(np.sqrt(over.size))
    return abs(float(over.mean())) > float(stdtrit(over.size - 1, 1 - SURE / 2)) * error


def is_too_narrow(inside: int, pieces: int) -> bool:
    """Whether so few of so many inside a range that holds eight in ten would be rarer than 1 in 20: the binomial."""
    from scipy.special import bdtr

    return pieces >= FEWEST and float(bdtr(inside, pieces, PROMISED)) < SURE
