"""A trial as it is kept: its question, its pieces, what came of each; and what it answers."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import Field, model_validator

from ..experience.belief import half_band
from ..experience.trials import (
    GRADES,
    WHOLE_UP_TO,
    Answer,
    Line,
    Piece,
    Tried,
    answer,
    grid,
    line,
    next_up_and_down,
    staggered,
)
from ..experience.versus import chance_lower, difference
from ..ground.document import Document
from ..ground.errors import OutOfRange
from ..ground.estimate import Estimate
from ..ground.findings import Change
from ..heat.steaming import SteamHeat
from ..plan.result import Plan
from ..wood.species import OwnWood
from .questions import QUESTIONS, Question

MOST_PIECES = 60
OVER = 1.6  # times beyond the settings tried that the curve is drawn
STEP = 1.25  # from one piece to the next where they go one at a time. Grade: allowance.
NIGHT_H, DAYS_H = 16.0, 3.0  # up to which soaking is overnight, and below which it is none. Grade: allowance.
MOST_VARIANTS = 4
APART_MIN = 3.0  # between two pieces taken out of the heat. Grade: allowance.
Asks = Literal["minutes", "soak", "radius", "thickness", "hours"]
Design = Literal["grid", "one_at_a_time"]
DESIGNS: dict[str, str] = {
    "grid": "every setting, in an order by chance",
    "one_at_a_time": "one at a time from the first setting: harder after a whole one, easier after a failed one",
}


@dataclass(frozen=True, slots=True)
class Versus:
    """One kind against another: the setting at 90 % of each, or its mean figure; safer: the chance that the first
    is the safer; of measured figures apart: how much larger the first's is."""

    first: str
    other: str
    of_first: Estimate
    of_other: Estimate
    safer: float | None
    apart: Estimate | None = None


class TrialPiece(Document):
    """One test piece: its setting; variant: which of the kinds set against each other, from 0; grade: 0 whole … 4
    broken through; springback: at its tip, mm; later: the same some weeks after. None: not yet."""

    setting: float = Field(gt=0, le=100_000, allow_inf_nan=False)
    grade: int | None = Field(default=None, ge=0, le=4)
    springback_mm: float | None = Field(default=None, ge=-10_000, le=10_000, allow_inf_nan=False)
    later_mm: float | None = Field(default=None, ge=-10_000, le=10_000, allow_inf_nan=False)
    variant: int = Field(default=0, ge=0, lt=MOST_VARIANTS)
    note: str = Field(default="", max_length=500)

    @property
    def is_done(self) -> bool:
        return self.grade is not None

    @property
    def is_whole(self) -> bool:
        """Whether it can be used; no while it is not graded."""
        return self.grade is not None and self.grade <= WHOLE_UP_TO


class Trial(Document):
    """A trial of a job's stock. design: laid out beforehand, or piece by piece; published: where the plan stood when it
    was laid out; group: the stock; variants: kinds set against each other (a wood or a glue and another), by name."""

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
    in_days: int | None = Field(default=None, ge=1, description="the job that stands for it in the shop's days")

    @model_validator(mode="after")
    def known(self) -> Trial:
        """Its question is one of the table, and each piece of a kind there is."""
        if self.asks not in QUESTIONS:
            raise ValueError("Choose a question of the list")
        if any(p.variant >= max(1, len(self.variants)) for p in self.pieces):
            raise ValueError("A piece is of a kind that is not there")
        return self

    @property
    def question(self) -> Question:
        return QUESTIONS[self.asks]

    @property
    def done(self) -> int:
        """How many pieces are graded."""
        return sum(p.is_done for p in self.pieces)

    @property
    def tried(self) -> list[Tried]:
        """Pieces that are graded, in their order."""
        return [Tried(p.setting, p.is_whole) for p in self.pieces if p.is_done]

    def of_kind(self, variant: int) -> Trial | None:
        """The pieces of one kind as a trial of their own; none where there are none."""
        own = tuple(TrialPiece(**p.model_dump() | {"variant": 0}) for p in self.pieces if p.variant == variant)
        return self.model_copy(update={"pieces": own, "variants": ()}) if own else None

    def versus(self) -> tuple[Versus, ...]:
        """Each other kind against the first, where both say something."""
        if len(self.variants) < 2 or (first := self.of_kind(0)) is None:
            return ()
        made = []
        for n, name in enumerate(self.variants[1:], 1):
            other = self.of_kind(n)
            if other is None:
                continue
            a, b = first.answer(), other.answer()
            if a and b:
                p = chance_lower(a.at_90, b.at_90)
                safer = p if self.question.sense > 0 else 1 - p
                made.append(Versus(self.variants[0], name, a.at_90, b.at_90, safer))
            elif not self.question.asks_whole and (apart := _apart(first, other)):
                made.append(Versus(self.variants[0], name, apart[0], apart[1], None, apart[2]))
        return tuple(made)

    def growth(self) -> Line | None:
        """How much springback grew in the weeks after, against the setting; none before enough is measured twice."""
        seen = [
            (p.setting, p.later_mm - p.springback_mm)
            for p in self.pieces
            if p.later_mm is not None and p.springback_mm is not None
        ]
        try:
            return line([s for s, _ in seen], [g for _, g in seen], at=sorted({p.setting for p in self.pieces}))
        except OutOfRange:
            return None

    def answer(self) -> Answer | None:
        """What whole pieces and others say; none before the first, or where it asks for a figure."""
        tried = self.tried
        if not self.question.asks_whole or not tried:
            return None
        own = [p.setting for p in self.pieces]
        over = min(*own, self.published) / OVER, max(*own, self.published) * OVER
        return answer(tried, published=self.published, sense=self.question.sense, over=over)

    def one_more(self) -> float | None:
        """The setting of one more piece: the next step where they go one at a time, where it tells most otherwise; none
        while pieces wait, where it would tell little, or where there are as many as may be."""
        made = self.answer()
        if made is None or self.done < len(self.pieces) or len(self.pieces) >= MOST_PIECES:
            return None
        if self.design == "one_at_a_time":
            start = self.pieces[0].setting
            setting = next_up_and_down(self.tried, start=start, step=STEP, sense=self.question.sense)
        elif made.is_one_more_worth_it:
            setting = made.one_more
        else:
            return None
        return float(f"{setting:.3g}")

    def line(self) -> Line | None:
        """Springback against the setting; none before there are enough measured pieces."""
        seen = [(p.setting, p.springback_mm) for p in self.pieces if p.springback_mm is not None]
        try:
            return line([s for s, _ in seen], [f for _, f in seen], at=sorted({p.setting for p in self.pieces}))
        except OutOfRange:
            return None

    def loading(self) -> tuple[Piece, ...]:
        """When each piece not yet graded goes into the steam and comes out; nothing where the setting is another."""
        if self.asks != "minutes":
            return ()
        open_ = [(n, p.setting) for n, p in enumerate(self.pieces, 1) if not p.is_done]
        made = staggered([s for _, s in open_], apart_min=APART_MIN)
        return tuple(Piece(open_[p.number - 1][0], p.setting, p.in_min, p.out_min) for p in made)

    def change(self) -> Change | None:
        """What would be set by its answer: minutes or soaking; none where nothing is told yet, or it asks another."""
        made = self.answer()
        if made is None or self.asks not in ("minutes", "soak"):
            return None
        if self.asks == "soak":
            hours = made.at_90.likely
            soaked = "none" if hours < DAYS_H else "overnight" if hours <= NIGHT_H else "days"
            says = {"none": "Steam it without soaking.", "overnight": "Soak it overnight.", "days": "Soak it for days."}
            return Change(says[soaked], {"heat.soaked": soaked})
        minutes = float(math.ceil(made.at_90.likely))
        return Change(f"Steam it {minutes:.0f} min.", {"heat.school": "own_trials", "heat.own_min": minutes})

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
    except OutOfRange:
        return None
    return _mean(figures[0]), _mean(figures[1]), apart


def _mean(figures: list[float]) -> Estimate:
    """A mean with the band it is known by, of two figures or more."""
    n = len(figures)
    mean = sum(figures) / n
    sd = math.sqrt(sum((f - mean) ** 2 for f in figures) / (n - 1))
    half = half_band(float(n - 1)) * sd / math.sqrt(n)
    return Estimate(mean - half, mean, mean + half, "learned")


def laid_out(
    plan: Plan,
    *,
    name: str,
    asks: str,
    settings: tuple[float, ...],
    repeats: int,
    seed: int,
    design: str = "grid",
    variants: tuple[str, ...] = (),
) -> Trial:
    """A trial: every setting so many times of each kind, in an order by chance; or its first piece, where they go one
    at a time. Raises: OutOfRange."""
    if design not in DESIGNS:
        raise OutOfRange("design", "Choose how it is laid out.")
    if asks not in QUESTIONS:
        raise OutOfRange("asks", "Choose a question of the list.")
    published = QUESTIONS[asks].published(plan)
    if published is None or published <= 0:
        raise OutOfRange("asks", "That cannot be asked of this way of bending.")
    if not settings:
        raise OutOfRange("settings", "One setting at least, please.")
    if design == "one_at_a_time":
        if not QUESTIONS[asks].asks_whole:
            raise OutOfRange("design", "One at a time finds where pieces fail; for a measured figure lay out a grid.")
        settings, repeats = settings[:1], 1
    if variants and (len(set(variants)) < len(variants) or not 2 <= len(variants) <= MOST_VARIANTS):
        raise OutOfRange("variants", f"Two to {MOST_VARIANTS} kinds of different names, or none.")
    if any(len(v) > 40 for v in variants):
        raise OutOfRange("variants", "Names of 40 letters at most, please.")
    if variants and design == "one_at_a_time":
        raise OutOfRange("design", "Kinds are set against each other in a grid.")
    kinds = max(1, len(variants))
    if len(settings) * repeats * kinds > MOST_PIECES:
        raise OutOfRange("repeats", f"At most {MOST_PIECES} pieces in one trial, please.")
    heat = plan.hot.heat if plan.hot else None
    return Trial(
        name=name,
        asks=asks,  # type: ignore[arg-type]
        design=design,  # type: ignore[arg-type]
        published=published,
        group=plan.way.group,
        species=plan.job.stock.species,
        has_strap=isinstance(heat, SteamHeat) and heat.strap is not None,
        variants=variants,
        pieces=_laid(settings, repeats, kinds, seed),
    )


def _laid(settings: tuple[float, ...], repeats: int, kinds: int, seed: int) -> tuple[TrialPiece, ...]:
    """Pieces of every setting and kind, in an order by chance."""
    each = grid(tuple(range(1, len(settings) * kinds + 1)), repeats, seed=seed)
    places = [divmod(int(n) - 1, kinds) for n in each]
    return tuple(TrialPiece(setting=settings[s], variant=k) for s, k in places)


def with_one_more(trial: Trial) -> Trial:
    """A trial with one more piece, where one is of use. Raises: OutOfRange."""
    setting = trial.one_more()
    if setting is None:
        raise OutOfRange("more", "Grade what is laid out first; then see whether one more is worth it.")
    return trial.model_copy(update={"pieces": (*trial.pieces, TrialPiece(setting=setting))})


def graded(
    trial: Trial,
    number: int,
    *,
    grade: int | None,
    springback_mm: float | None,
    note: str,
    later_mm: float | None = None,
) -> Trial:
    """A trial with what came of a piece, counted from 1. Raises: OutOfRange."""
    if not 1 <= number <= len(trial.pieces):
        raise OutOfRange("number", "There is no such piece.")
    if grade is not None and not 0 <= grade < len(GRADES):
        raise OutOfRange("grade", "Choose how it came out.")
    pieces = list(trial.pieces)
    was = pieces[number - 1]
    pieces[number - 1] = TrialPiece(
        setting=was.setting,
        variant=was.variant,
        grade=grade,
        springback_mm=springback_mm,
        later_mm=later_mm,
        note=note,
    )
    return trial.model_copy(update={"pieces": tuple(pieces)})
