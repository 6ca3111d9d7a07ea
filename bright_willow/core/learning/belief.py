"""What a shop's own bends say about its springback.

Every measured bend gives a loss ratio: what it really opened over what mechanics predicts. Logs of true loss ratios
are normal on two levels: the shop (by way of bending), and within it the group of stock (species and class of glue);
errors of measuring are normal in the ratio itself. Nothing is dropped for its result. How much bends of one kind
scatter is learnt as well.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Literal

import numpy as np
from pydantic import Field

from ..common.arrays import Array
from ..common.document import Document
from ..common.errors import ENDLESS, PlanError, check_range
from ..common.estimate import Estimate
from ..shape.arc import Face, curvature_error, curvature_from_chord_and_rise, face_offset_mm
from .settling import Settling

# Spread of ln k. Grade: allowance, the belief before any bend is measured. Source: docs/model.md#learning.
SHOP_SD = 0.35
GROUP_SD = 0.20
SCATTER_SD, SCATTER_BENDS = 0.25, 4.0  # of bends of one kind, until they say themselves; worth so many bends
LEAST_SCATTER, MOST_SCATTER = 0.03, 1.0
ROUNDS, STEP, STILL = 14, 0.7, 1e-5  # of working about the mean that is being found


class BendRecord(Document):
    """One measured piece: the form it came off, what mechanics predicted, and what was found."""

    way: str = Field(default="cold_lamination", max_length=40)
    group: str = Field(max_length=120, description="species|class of glue")
    form_curvature: float = Field(ge=1e-6, le=1, allow_inf_nan=False, description="centerline on the form, 1/mm")
    predicted_curvature: float = Field(
        ge=-1, le=1, allow_inf_nan=False, description="centerline after release, calculated, 1/mm"
    )
    thickness_mm: float = Field(ge=0.1, le=300, allow_inf_nan=False)
    chord_mm: float = Field(ge=1, le=100_000, allow_inf_nan=False)
    rise_mm: float = Field(ge=0, le=100_000, allow_inf_nan=False)
    face: Face = "inner"
    error_mm: float = Field(default=0.5, ge=1e-4, le=100, allow_inf_nan=False)
    left_out: bool = False
    share: float = Field(default=1.0, ge=0.001, le=1, description="how much it counts beside a bend of one's own")
    label: str = Field(default="", max_length=200)


class FittedBend(Document):
    """One measured piece that is no plain arc: the loss ratio that fits it best, and the error measuring gives it."""

    way: str = Field(default="cold_lamination", max_length=40)
    group: str = Field(max_length=120, description="species|class of glue")
    ratio: float = Field(ge=-100, le=100, allow_inf_nan=False)
    error: float = Field(gt=0, le=1e9, allow_inf_nan=False)
    left_out: bool = False
    share: float = Field(default=1.0, ge=0.001, le=1, description="how much it counts beside a bend of one's own")
    label: str = Field(default="", max_length=200)


MeasuredBend = BendRecord | FittedBend


class ExperienceFile(Document):
    """Bends of a shop, to carry from one place to another."""

    format: Literal["bright-willow-experience"] = "bright-willow-experience"
    version: Literal[1] = 1
    bends: list[MeasuredBend] = Field(default_factory=list, max_length=100_000)


def group_of(*, species_key: str, creep: str) -> str:
    """The stock group under which a lamination is learnt: species and class of glue."""
    return f"{species_key}|{creep}"


def class_of(group: str) -> str:
    """The class of glue, or the dryness, in the name of a stock group.

    >>> class_of("ash_white|rigid")
    'rigid'
    """
    return group.partition("|")[2]


@dataclass(frozen=True, slots=True)
class LossRatio:
    """What one bend opened over what mechanics predicts, with the standard error the measuring gives it."""

    ratio: float
    error: float


def loss_ratio(bend: MeasuredBend) -> LossRatio:
    """k = (κ_f − κ_measured) / (κ_f − κ_predicted), with its propagated standard error.

    κ_measured is of the mid-line: 1/(R_face − y_face). Raises: PlanError when mechanics predicts no springback.
    Source: docs/model.md#learning.

    >>> bend = BendRecord(group="ash|low", form_curvature=0.001, predicted_curvature=0.00095, thickness_mm=20,
    ...     chord_mm=1000, rise_mm=120, face="mid")
    >>> round(loss_ratio(bend).ratio, 2)
    1.85
    """
    if isinstance(bend, FittedBend):
        return LossRatio(bend.ratio, bend.error)
    lost = bend.form_curvature - bend.predicted_curvature
    if not lost > 1e-12:
        raise PlanError("predicted_curvature", "The calculated springback is zero here, so nothing can be compared.")
    on_face = curvature_from_chord_and_rise(chord_mm=bend.chord_mm, rise_mm=bend.rise_mm)
    offset = face_offset_mm(bend.face, bend.thickness_mm)
    if on_face * offset >= 1:
        raise PlanError("rise_mm", "The measured curve is tighter than the part is thick.")
    to_mid = 1 / (1 - on_face * offset)
    error = curvature_error(chord_mm=bend.chord_mm, rise_mm=bend.rise_mm, error_mm=bend.error_mm) * to_mid**2
    return LossRatio((bend.form_curvature - on_face * to_mid) / lost, error / lost)


@lru_cache(maxsize=512)
def half_band(degrees: float) -> float:
    """Half of an 80 % band of Student's t, in scales. degrees: of freedom, above 0. Raises: PlanError.

    >>> round(half_band(4.0), 3), round(half_band(1e6), 4)
    (1.533, 1.2816)
    """
    from scipy.special import stdtrit

    check_range("form.school", degrees, 0, 1e9, above=True)
    return float(stdtrit(degrees, 0.9))


@dataclass(frozen=True, slots=True)
class Belief:
    """A belief about ln k of a kind, and how many bends it rests on.

    scatter: standard deviation of ln k among pieces of one kind. known_by: how many bends say that, the prior's four
    included.
    """

    mean: float
    variance: float
    bends: int = 0
    scatter: float = SCATTER_SD
    known_by: float = SCATTER_BENDS

    def next_bend(self) -> Estimate:
        """The loss ratio of the next piece: median, and the band that holds eight in ten (Student's t).

        Valid: a finite mean, a variance of 0 or more. Raises: PlanError. Source: docs/model.md#learning.

        >>> round(Belief(0.0, 0.1625).next_bend().low, 2), round(Belief(0.0, 0.1625).next_bend().high, 2)
        (0.48, 2.07)
        """
        check_range("form.school", self.mean, -20, 20)
        check_range("form.school", self.variance, 0, 100)
        check_range("form.school", self.scatter, 0, 10)
        half = half_band(round(self.known_by, 2)) * math.sqrt(self.variance + self.scatter**2)
        grade: Literal["learned", "allowance"] = "learned" if self.bends else "allowance"
        return Estimate(math.exp(self.mean - half), math.exp(self.mean), math.exp(self.mean + half), grade)

    def weighs(self, error: float, share: float = 1.0) -> float:
        """What a bend of this kind weighs beside one of this shop's without error, from its error in k: 0 to 1.

        share: how much the bends of its shop count here. Valid: an error of 0 or more, a share from 0 to 1.
        Raises: PlanError. Source: docs/model.md#learning.

        >>> Belief(0.0, 0.1).weighs(0.0), round(Belief(0.0, 0.1).weighs(0.5), 2), Belief(0.0, 0.1).weighs(0.0, 0.5)
        (1.0, 0.21, 0.5)
        """
        check_range("form.school", error, 0, ENDLESS)
        check_range("form.school", share, 0, 1)
        check_range("form.school", self.mean, -20, 20)
        check_range("form.school", self.variance, 0, 100)
        own = self.scatter**2
        return share * own / (own + (error / math.exp(self.mean + own / 2)) ** 2)


@dataclass(frozen=True, slots=True)
class LearnedFigures:
    """What the records say: of each way in this shop, and of each stock group within it."""

    shop: dict[str, Belief]
    group: dict[tuple[str, str], Belief]
    used: int
    unusable: int
    made: dict[tuple[str, str], tuple[float, float]] = field(default_factory=dict)  # pieces come out whole, and failed
    settling: dict[str, Settling] = field(default_factory=dict)  # by class of glue, of hot bends by dryness

    def about(self, *, way: str, group: str) -> Belief:
        """The belief that serves a job: its own group if there are bends of it, else the shop, else the prior."""
        own = self.group.get((way, group))
        if own:
            return own
        shop = self.shop.get(way, Belief(0.0, SHOP_SD**2))
        return Belief(shop.mean, shop.variance + GROUP_SD**2, shop.bends, shop.scatter, shop.known_by)

    def without(self, kinds: Iterable[str]) -> LearnedFigures:
        """As if nothing of some kinds had been learnt: springback, settling, yields; others are none of its own."""
        left = set(kinds)
        if not left & {"springback", "settling", "yields"}:
            return self
        own = ({}, {}, 0, 0) if "springback" in left else (self.shop, self.group, self.used, self.unusable)
        made = {} if "yields" in left else self.made
        return LearnedFigures(*own, made, {} if "settling" in left else self.settling)

    def settles(self, name: str, allowed: float) -> Estimate:
        """The share a piece of a class gives up over weeks. Raises: PlanError."""
        return self.settling.get(name, Settling()).with_allowance(allowed)


NOTHING_LEARNT = LearnedFigures({}, {}, 0, 0)


def learn(bends: Iterable[MeasuredBend]) -> LearnedFigures:
    """Two-level shrinkage (normal–normal) of ln k, worked about its own mean. 10,000 records in well under 100 ms.

    ln k = shop + group + scatter: N(0, 0.35²), N(0, 0.20²), N(0, s²); k is measured with a normal error e. About the
    mean μ = exp(m + s²/2) found so far, z = m + (k − μ)/μ with variance s² + (e/μ)²; repeated until m stands still.
    s² is learnt beside it, from 0.25² worth four bends. A bend's share tells how much it counts. Bends left out by hand
    are skipped, none for its result; one of which mechanics predicts no springback cannot be compared and is counted.
    Source: docs/model.md#learning.

    >>> one = learn([FittedBend(way="by_hand", group="ash|low", ratio=1.2, error=0.1)])
    >>> round(one.about(way="by_hand", group="ash|low").next_bend().likely, 2)
    1.12
    """
    seen: dict[str, list[tuple[str, float, float, float]]] = defaultdict(list)
    unusable = 0
    for bend in bends:
        if bend.left_out:
            continue
        try:
            k = loss_ratio(bend)
        except PlanError:
            unusable += 1
            continue
        seen[bend.way].append((bend.group, k.ratio, k.error, bend.share))
    shop: dict[str, Belief] = {}
    group: dict[tuple[str, str], Belief] = {}
    for way, rows in seen.items():
        names = sorted({row[0] for row in rows})
        at = {name: i for i, name in enumerate(names)}
        of = np.array([at[row[0]] for row in rows])
        ratio, error, share = np.array([row[1:] for row in rows]).T
        shop[way], own = _settled(ratio, error, share, of, len(names))
        group |= {(way, name): belief for name, belief in zip(names, own, strict=True)}
    return LearnedFigures(shop, group, sum(map(len, seen.values())), unusable)


def _settled(ratio: Array, error: Array, counts_for: Array, of: Array, groups: int) -> tuple[Belief, list[Belief]]:
    """The shop's belief for one way and those of its groups. ratio, error, counts_for: (n,) k, e, how much each counts;
    of: (n,) which group."""
    mean, scatter2 = np.zeros(groups), SCATTER_SD**2
    for _ in range(ROUNDS):
        middle = np.exp(np.clip(mean, -4, 4) + scatter2 / 2)[of]
        z = mean[of] + (ratio - middle) / middle
        own_error2 = (error / middle) ** 2
        weight = counts_for / (scatter2 + own_error2)
        weights = np.bincount(of, weight, groups)
        found = np.bincount(of, weight * z, groups) / weights
        across = 1 / (GROUP_SD**2 + 1 / weights)
        shop_variance = 1 / (1 / SHOP_SD**2 + across.sum())
        shop_mean = float((across * found).sum() * shop_variance)
        share = weights / (weights + 1 / GROUP_SD**2)  # how far the group's own mean outweighs the shop's
        variance = 1 / (weights + 1 / GROUP_SD**2) + (1 - share) ** 2 * shop_variance
        better = share * found + (1 - share) * shop_mean
        tells = scatter2 * weight  # how much of a bend's distance is scatter and not measuring
        beyond = (z - better[of]) ** 2 - own_error2 + variance[of]
        told = float(tells.sum())
        wanted = (SCATTER_BENDS * SCATTER_SD**2 + float((tells * beyond).sum())) / (SCATTER_BENDS + told)
        change = min(max(wanted, LEAST_SCATTER**2), MOST_SCATTER**2) - scatter2
        moved = STEP * (better - mean)
        mean, scatter2 = mean + moved, scatter2 + STEP * change
        if float(np.abs(moved).max()) + abs(change) < STILL:
            break
    s, known = math.sqrt(scatter2), SCATTER_BENDS + told
    counts = np.bincount(of, minlength=groups)
    own = [Belief(float(m), float(v), int(n), s, known) for m, v, n in zip(mean, variance, counts, strict=True)]
    return Belief(shop_mean, float(shop_variance), int(counts.sum()), s, known), own
