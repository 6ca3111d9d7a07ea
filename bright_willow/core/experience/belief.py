"""What a shop's own bends say about its springback.

Every measured bend gives a loss ratio: what it really opened over what mechanics predicts. Logs of loss ratios are
normal on two levels: the shop (by way of bending), and within it the group of stock (species and class of glue).
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass, field
from typing import Literal

from pydantic import Field

from ..ground.document import Document
from ..ground.errors import OutOfRange, require
from ..ground.estimate import Estimate
from ..shape.arc import Face, curvature_error, curvature_from_chord_and_rise, face_offset_mm

# Spread of ln k. Grade: allowance, the belief before any bend is measured. Source: docs/model.md#learning.
SHOP_SD = 0.35
GROUP_SD = 0.20
SCATTER_SD = 0.25
Z_80 = 1.2815515655446004  # half of an 80 % band, in standard deviations


class BendRecord(Document):
    """One measured piece: the form it came off, what mechanics predicted, and what was found."""

    way: str = Field(default="cold_lamination", max_length=40)
    group: str = Field(max_length=120, description="species|class of glue")
    form_curvature: float = Field(ge=1e-6, le=1, allow_inf_nan=False, description="mid-line on the form, 1/mm")
    predicted_curvature: float = Field(
        ge=-1, le=1, allow_inf_nan=False, description="mid-line after release by mechanics alone, 1/mm"
    )
    thickness_mm: float = Field(ge=0.1, le=300, allow_inf_nan=False)
    chord_mm: float = Field(ge=1, le=100_000, allow_inf_nan=False)
    rise_mm: float = Field(ge=0, le=100_000, allow_inf_nan=False)
    face: Face = "inner"
    error_mm: float = Field(default=0.5, ge=1e-4, le=100, allow_inf_nan=False)
    left_out: bool = False
    label: str = Field(default="", max_length=200)


class FittedBend(Document):
    """One measured piece that is no plain arc: the loss ratio that fits it best, and the error measuring gives it."""

    way: str = Field(default="cold_lamination", max_length=40)
    group: str = Field(max_length=120, description="species|class of glue")
    ratio: float = Field(ge=-100, le=100, allow_inf_nan=False)
    error: float = Field(gt=0, le=1e9, allow_inf_nan=False)
    left_out: bool = False
    label: str = Field(default="", max_length=200)


Bend = BendRecord | FittedBend


class ExperienceFile(Document):
    """Bends of a shop, to carry from one place to another."""

    format: Literal["bright-willow-experience"] = "bright-willow-experience"
    version: Literal[1] = 1
    bends: list[Bend] = Field(default_factory=list, max_length=100_000)


def group_of(*, species_key: str, creep: str) -> str:
    """The stock group under which a lamination is learnt: species and class of glue."""
    return f"{species_key}|{creep}"


@dataclass(frozen=True, slots=True)
class LossRatio:
    """What one bend opened over what mechanics predicts, with the standard error the measuring gives it."""

    ratio: float
    error: float

    @property
    def says_something(self) -> bool:
        """False when the springback is lost in the measuring error, or the piece seems to have closed."""
        return self.ratio > 0 and self.error < self.ratio


def loss_ratio(bend: Bend) -> LossRatio:
    """k = (κ_f − κ_measured) / (κ_f − κ_predicted), with its propagated standard error.

    κ_measured is of the mid-line: 1/(R_face − y_face). Raises: OutOfRange when mechanics predicts no springback.
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
        raise OutOfRange("predicted_curvature", "Mechanics predicts no springback here, so nothing can be compared.")
    on_face = curvature_from_chord_and_rise(chord_mm=bend.chord_mm, rise_mm=bend.rise_mm)
    offset = face_offset_mm(bend.face, bend.thickness_mm)
    if on_face * offset >= 1:
        raise OutOfRange("rise_mm", "The measured curve is tighter than the part is thick.")
    to_mid = 1 / (1 - on_face * offset)
    error = curvature_error(chord_mm=bend.chord_mm, rise_mm=bend.rise_mm, error_mm=bend.error_mm) * to_mid**2
    return LossRatio((bend.form_curvature - on_face * to_mid) / lost, error / lost)


@dataclass(frozen=True, slots=True)
class Belief:
    """A normal belief about ln k, and how many bends it rests on."""

    mean: float
    variance: float
    bends: int = 0

    def next_bend(self) -> Estimate:
        """The loss ratio of the next piece: median, and the band that holds eight in ten.

        Valid: a finite mean, a variance of 0 or more. Raises: OutOfRange. Source: docs/model.md#learning.

        >>> round(Belief(0.0, 0.1625).next_bend().low, 2), round(Belief(0.0, 0.1625).next_bend().high, 2)
        (0.54, 1.84)
        """
        require("form.school", self.mean, -20, 20)
        require("form.school", self.variance, 0, 100)
        half = Z_80 * math.sqrt(self.variance + SCATTER_SD**2)
        grade: Literal["learned", "allowance"] = "learned" if self.bends else "allowance"
        return Estimate(math.exp(self.mean - half), math.exp(self.mean), math.exp(self.mean + half), grade)


@dataclass(frozen=True, slots=True)
class Learnt:
    """What the records say: of each way in this shop, and of each stock group within it."""

    shop: dict[str, Belief]
    group: dict[tuple[str, str], Belief]
    used: int
    unusable: int
    made: dict[tuple[str, str], tuple[int, int]] = field(default_factory=dict)  # pieces come out whole, and failed

    def about(self, *, way: str, group: str) -> Belief:
        """The belief that serves a job: its own group if there are bends of it, else the shop, else the prior."""
        own = self.group.get((way, group))
        if own:
            return own
        shop = self.shop.get(way, Belief(0.0, SHOP_SD**2))
        return Belief(shop.mean, shop.variance + GROUP_SD**2, shop.bends)


NOTHING_LEARNT = Learnt({}, {}, 0, 0)


def learn(bends: Iterable[Bend]) -> Learnt:
    """Two-level shrinkage in closed form (normal–normal). 10,000 records in well under 100 ms.

    ln k = shop + group + scatter: N(0, 0.35²), N(0, 0.20²), N(0, 0.25² + measuring error²). Bends left out by hand
    are skipped; those whose springback is smaller than the measuring error count as unusable. Source:
    conjugate updating of the normal mean; docs/model.md#learning.

    >>> one = learn([FittedBend(way="by_hand", group="ash|low", ratio=1.2, error=0.1)])
    >>> round(one.about(way="by_hand", group="ash|low").next_bend().likely, 2)
    1.14
    """
    sums: dict[tuple[str, str], list[float]] = defaultdict(lambda: [0.0, 0.0, 0.0])
    unusable = 0
    for bend in bends:
        if bend.left_out:
            continue
        try:
            seen = loss_ratio(bend)
        except OutOfRange:
            unusable += 1
            continue
        if not seen.says_something:
            unusable += 1
            continue
        weight = 1 / (SCATTER_SD**2 + (seen.error / seen.ratio) ** 2)
        cell = sums[bend.way, bend.group]
        cell[0] += weight
        cell[1] += weight * math.log(seen.ratio)
        cell[2] += 1
    return _settle(sums, unusable)


def _settle(sums: dict[tuple[str, str], list[float]], unusable: int) -> Learnt:
    shops: dict[str, list[float]] = defaultdict(lambda: [1 / SHOP_SD**2, 0.0, 0.0])
    for (way, _), (weight, weighted, count) in sums.items():
        across = 1 / (GROUP_SD**2 + 1 / weight)
        shop = shops[way]
        shop[0] += across
        shop[1] += across * weighted / weight
        shop[2] += count
    shop_belief = {way: Belief(m / w, 1 / w, int(n)) for way, (w, m, n) in shops.items()}
    groups = {}
    for (way, group), (weight, weighted, count) in sums.items():
        shop_mean, shop_variance = shop_belief[way].mean, shop_belief[way].variance
        own = weight / (weight + 1 / GROUP_SD**2)  # how far the group's own mean outweighs the shop's
        mean = own * weighted / weight + (1 - own) * shop_mean
        variance = 1 / (weight + 1 / GROUP_SD**2) + (1 - own) ** 2 * shop_variance
        groups[way, group] = Belief(mean, variance, int(count))
    used = int(sum(cell[2] for cell in sums.values()))
    return Learnt(shop_belief, groups, used, unusable)
