"""A trial as it is kept: its question, its pieces, what came of each; and what it answers."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import Field, model_validator

from ..common.document import Document
from ..common.errors import PlanError
from ..common.estimate import Estimate
from ..common.findings import Change
from ..learning.belief import half_band
from ..wood.species import OwnWood
from .group_comparison import chance_lower, difference
from .questions import QUESTIONS, Question
from .threshold import (
    BRITTLE,
    GRADES,
    SPLINTERED,
    WHOLE_UP_TO,
    DesignPiece,
    FigureTrend,
    ThresholdEstimate,
    TrialOutcome,
    answer,
    line,
    next_up_and_down,
    staggered,
)
from .two_sided import BestTime, Came, SteamedPiece, best_time

MOST_PIECES = 60
OVER = 1.6  # times beyond the settings tried that the curve is drawn
STEP = 1.25  # from one piece to the next where they go one at a time. Grade: allowance.
NIGHT_H, DAYS_H = 16.0, 3.0  # up to which soaking is overnight, and below which it is none. Grade: allowance.
MOST_VARIANTS = 4
APART_MIN = 3.0  # between two pieces, where nothing better is known. Grade: allowance.
LATEST_OVER = 2.0  # times the planned minutes, where the plan knows no latest. Grade: allowance.
STIFFNESSES = ("", "easy", "firm", "stiff")
Asks = Literal["minutes", "soak", "radius", "thickness", "hours"]
Design = Literal["grid", "one_at_a_time"]
DESIGNS: dict[str, str] = {
    "grid": "every setting, in random order",
    "one_at_a_time": "one at a time: harder after a whole piece, easier after a failed one",
}


@dataclass(frozen=True, slots=True)
class GroupComparison:
    """One kind against another: the setting at 90 % of each, or its mean figure; safer: the chance that the first
    is the safer; of measured figures apart: how much larger the first's is. Of minutes both have their best time."""

    first: str
    other: str
    of_first: Estimate
    of_other: Estimate
    safer: float | None
    apart: Estimate | None = None


class TrialPiece(Document):
    """One test bend: its setting; variant: which of the kinds set against each other, from 0; grade: a place in the
    list of grades, 0 whole; springback: at its tip, mm; later: the same some weeks after; None: not yet. stiffness:
    how it pulled round; blank: which blank it is bent of, from 1, where two bends share one; 0 for one of its own."""

    setting: float = Field(gt=0, le=100_000, allow_inf_nan=False)
    grade: int | None = Field(default=None, ge=0, le=len(GRADES) - 1)
    springback_mm: float | None = Field(default=None, ge=-10_000, le=10_000, allow_inf_nan=False)
    later_mm: float | None = Field(default=None, ge=-10_000, le=10_000, allow_inf_nan=False)
    variant: int = Field(default=0, ge=0, lt=MOST_VARIANTS)
    stiffness: Literal["", "easy", "firm", "stiff"] = ""
    blank: int = Field(default=0, ge=0, le=MOST_PIECES)
    note: str = Field(default="", max_length=500)

    @property
    def is_done(self) -> bool:
        return self.grade is not None

    @property
    def is_whole(self) -> bool:
        """Whether it can be used; no while it is not graded."""
        return self.grade is not None and self.grade <= WHOLE_UP_TO

    @property
    def came(self) -> Came:
        """How it came out, for the steaming time."""
        if self.is_whole:
            return "whole"
        return "splintered" if self.grade == SPLINTERED else "brittle" if self.grade == BRITTLE else "broken"


class Trial(Document):
    """A trial of a job's stock. design: laid out beforehand, or piece by piece; published: where the plan stood when it
    was laid out; group: the stock; variants: kinds set against each other (a wood or a glue and another), by name;
    bends: how many are made of one blank."""

    format: Literal["bright-willow-trial"] = "bright-willow-trial"
    version: Literal[1] = 1
    name: str = Field(min_length=1, max_length=80, pattern=r"\S")
    asks: Asks
    design: Design = "grid"
    published: float = Field(gt=0, le=100_000, allow_inf_nan=False)
    group: str = Field(default="", max_length=120)
    species: str = Field(default="", max_length=60)
    has_strap: bool = False
    variants: tuple[Annotated[str, Field(min_length=1, max_length=40)], ...] = Field(
        default=(), max_length=MOST_VARIANTS, strict=False
    )
    pieces: tuple[TrialPiece, ...] = Field(min_length=1, max_length=MOST_PIECES, strict=False)
    earliest_min: float | None = Field(default=None, gt=0, le=100_000, description="heated through, by the plan")
    latest_min: float | None = Field(default=None, gt=0, le=100_000, description="the longest the plan allows")
    apart_min: float = Field(default=APART_MIN, ge=0.1, le=600, description="between two pieces")
    bends: Literal[1, 2] = 1
    in_days: int | None = Field(default=None, ge=1, description="the job that stands for it in the shop's days")

    @model_validator(mode="after")
    def known(self) -> Trial:
        """Its question is one of the table, and each piece of a kind there is."""
        if self.asks not in QUESTIONS:
            raise ValueError("Choose a question from the list")
        if any(p.variant >= max(1, len(self.variants)) for p in self.pieces):
            raise ValueError("A piece is of an unknown kind")
        return self

    @property
    def question(self) -> Question:
        return QUESTIONS[self.asks]

    @property
    def done(self) -> int:
        """How many pieces are graded."""
        return sum(p.is_done for p in self.pieces)

    @property
    def tried(self) -> list[TrialOutcome]:
        """Pieces that are graded, in their order."""
        return [TrialOutcome(p.setting, p.is_whole) for p in self.pieces if p.is_done]

    def of_kind(self, variant: int) -> Trial | None:
        """The pieces of one kind as a trial of their own; none where there are none."""
        own = tuple(TrialPiece(**p.model_dump() | {"variant": 0}) for p in self.pieces if p.variant == variant)
        return self.model_copy(update={"pieces": own, "variants": ()}) if own else None

    def versus(self) -> tuple[GroupComparison, ...]:
        """Each other kind against the first, where both say something."""
        if len(self.variants) < 2 or (first := self.of_kind(0)) is None:
            return ()
        made = []
        for n, name in enumerate(self.variants[1:], 1):
            other = self.of_kind(n)
            if other is None:
                continue
            if (one := first.best_time) and (its := other.best_time):
                made.append(GroupComparison(self.variants[0], name, one.best, its.best, None))
                continue
            a, b = first.answer(), other.answer()
            if a and b:
                p = chance_lower(a.at_90, b.at_90)
                safer = p if self.question.sense > 0 else 1 - p
                made.append(GroupComparison(self.variants[0], name, a.at_90, b.at_90, safer))
            elif not self.question.asks_whole and (apart := _apart(first, other)):
                made.append(GroupComparison(self.variants[0], name, apart[0], apart[1], None, apart[2]))
        return tuple(made)

    def growth(self) -> FigureTrend | None:
        """How much springback grew in the weeks after, against the setting; none before enough is measured twice."""
        seen = [
            (p.setting, p.later_mm - p.springback_mm)
            for p in self.pieces
            if p.later_mm is not None and p.springback_mm is not None
        ]
        try:
            return line([s for s, _ in seen], [g for _, g in seen], at=sorted({p.setting for p in self.pieces}))
        except PlanError:
            return None

    @property
    def is_two_sided(self) -> bool:
        """Whether pieces can fail for too much as well as for too little: minutes in the steam."""
        return self.asks == "minutes"

    @property
    def best_time(self) -> BestTime | None:
        """What pieces steamed for different times say of the best; none before the first, or where it asks another."""
        seen = [SteamedPiece(p.setting, p.came) for p in self.pieces if p.is_done]
        if not self.is_two_sided or not seen:
            return None
        earliest = self.earliest_min or self.published / LATEST_OVER
        latest = self.latest_min or self.published * LATEST_OVER
        own = (*(p.setting for p in self.pieces), earliest, latest)
        return best_time(seen, earliest_min=earliest, latest_min=latest, over=(min(own) / OVER, max(own) * OVER))

    def answer(self) -> ThresholdEstimate | None:
        """What whole pieces and others say; none before the first, where it asks for a figure, or of minutes: they
        have two sides."""
        tried = self.tried
        if not self.question.asks_whole or self.is_two_sided or not tried:
            return None
        own = [p.setting for p in self.pieces]
        over = min(*own, self.published) / OVER, max(*own, self.published) * OVER
        return answer(tried, published=self.published, sense=self.question.sense, over=over)

    def one_more(self) -> float | None:
        """The setting of one more piece: the next step where they go one at a time, where it tells most otherwise; none
        while pieces wait, where it would tell little, or where there are as many as may be."""
        if self.done < len(self.pieces) or len(self.pieces) >= MOST_PIECES:
            return None
        if self.is_two_sided:
            return self._longer_or_shorter()
        made = self.answer()
        if made is None:
            return None
        if self.design == "one_at_a_time":
            start = self.pieces[0].setting
            setting = next_up_and_down(self.tried, start=start, step=STEP, sense=self.question.sense)
        elif made.is_one_more_worth_it:
            setting = made.one_more
        else:
            return None
        return self.question.rounded(setting)

    def _longer_or_shorter(self) -> float | None:
        """Minutes of one more piece: longer after a splintered one, shorter after a brittle one, after a whole one
        towards the edge that none has shown yet; none once both are shown."""
        last, shown = self.pieces[-1], {p.came for p in self.pieces}
        if last.came == "whole" and {"splintered", "brittle"} <= shown:
            return None
        longer = last.came == "splintered" or (last.came != "brittle" and "brittle" not in shown)
        return self.question.rounded(last.setting * (STEP if longer else 1 / STEP))

    def line(self) -> FigureTrend | None:
        """Springback against the setting; none before there are enough measured pieces."""
        seen = [(p.setting, p.springback_mm) for p in self.pieces if p.springback_mm is not None]
        try:
            return line([s for s, _ in seen], [f for _, f in seen], at=sorted({p.setting for p in self.pieces}))
        except PlanError:
            return None

    def loading(self) -> tuple[DesignPiece, ...]:
        """When each piece not yet graded goes into the steam and comes out; nothing where the setting is another."""
        if self.asks != "minutes":
            return ()
        return self._staggered([n for n, p in enumerate(self.pieces) if not p.is_done])

    def _staggered(self, places: list[int]) -> tuple[DesignPiece, ...]:
        """When blanks with some pieces go in and come out; two bends of one blank go in and come out together."""
        by_blank: dict[int, list[int]] = {}
        for n in places:
            by_blank.setdefault(self.pieces[n].blank or -n - 1, []).append(n)
        own = list(by_blank.values())
        made = staggered([self.pieces[group[0]].setting for group in own], apart_min=self.apart_min * self.bends)
        return tuple(DesignPiece(n + 1, p.setting, p.in_min, p.out_min) for p in made for n in own[p.number - 1])

    @property
    def listed(self) -> tuple[int, ...]:
        """Places of all pieces in the order they go in, which is the order they are handled in."""
        if self.asks != "minutes":
            return tuple(range(len(self.pieces)))
        made = sorted(self._staggered(list(range(len(self.pieces)))), key=lambda p: (p.in_min, p.number))
        return tuple(p.number - 1 for p in made)

    def change(self) -> Change | None:
        """What would be set by its answer: minutes or soaking; none where nothing is told yet, or it asks another."""
        if best := self.best_time:
            minutes = float(max(1, round(best.best.likely)))
            return Change(f"Steam it {minutes:.0f} min.", {"heat.school": "own_trials", "heat.own_min": minutes})
        made = self.answer()
        if made is None:
            return None
        if self.asks == "soak":
            hours = made.at_90.likely
            soaked = "none" if hours < DAYS_H else "overnight" if hours <= NIGHT_H else "days"
            message = {
                "none": "Steam it without pre-soaking.",
                "overnight": "Pre-soak it overnight.",
                "days": "Pre-soak it for days.",
            }
            return Change(message[soaked], {"heat.soaked": soaked})
        return None

    def own_wood(self, woods: tuple[OwnWood, ...]) -> OwnWood | None:
        """The wood with the limit this trial found as the shop's own; none where it asked something else."""
        made = self.answer()
        if made is None or self.asks != "radius" or not self.species:
            return None
        field = "rt_strap" if self.has_strap else "rt_free"
        known = next((w for w in woods if w.key == self.species), OwnWood(key=self.species))
        return known.model_copy(update={field: round(made.at_90.likely, 1)})


def _apart(first: Trial, other: Trial) -> tuple[Estimate, Estimate, Estimate] | None:
    """Mean springback of two kinds with its band, and how far they are apart; none before two of each are measured."""
    figures = [[p.springback_mm for p in t.pieces if p.springback_mm is not None] for t in (first, other)]
    try:
        apart = difference(figures[0], figures[1])
    except PlanError:
        return None
    return _mean(figures[0]), _mean(figures[1]), apart


def _mean(figures: list[float]) -> Estimate:
    """A mean with the band it is known by, of two figures or more."""
    n = len(figures)
    mean = sum(figures) / n
    sd = math.sqrt(sum((f - mean) ** 2 for f in figures) / (n - 1))
    half = half_band(float(n - 1)) * sd / math.sqrt(n)
    return Estimate(mean - half, mean, mean + half, "learned")


def with_one_more(trial: Trial) -> Trial:
    """A trial with one more piece, where one is of use. Raises: PlanError."""
    setting = trial.one_more()
    if setting is None:
        raise PlanError("more", "Grade the planned pieces first, then decide whether one more is worth it.")
    return trial.model_copy(update={"pieces": (*trial.pieces, TrialPiece(setting=setting))})


def graded(
    trial: Trial,
    number: int,
    *,
    grade: int | None,
    springback_mm: float | None,
    note: str,
    later_mm: float | None = None,
    stiffness: str = "",
) -> Trial:
    """A trial with what came of a piece, counted from 1. Raises: PlanError."""
    if not 1 <= number <= len(trial.pieces):
        raise PlanError("number", "There is no such piece.")
    if grade is not None and not 0 <= grade < len(GRADES):
        raise PlanError("grade", "Choose how it came out.")
    pieces = list(trial.pieces)
    was = pieces[number - 1]
    if stiffness not in STIFFNESSES:
        raise PlanError("stiffness", "Choose how hard it was to bend.")
    said = {"grade": grade, "springback_mm": springback_mm, "later_mm": later_mm, "note": note, "stiffness": stiffness}
    pieces[number - 1] = TrialPiece(**was.model_dump() | said)
    return trial.model_copy(update={"pieces": tuple(pieces)})
