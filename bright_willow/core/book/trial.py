"""A trial as it is kept: its question, its pieces, what came of each; and what it answers."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from pydantic import Field, model_validator

from ..experience.trials import (
    GRADES,
    WHOLE_UP_TO,
    Answer,
    Line,
    Piece,
    Sense,
    Tried,
    answer,
    grid,
    line,
    next_up_and_down,
    staggered,
)
from ..ground.document import Document
from ..ground.errors import OutOfRange
from ..ground.findings import Change
from ..ground.units import Unit, format_length, parse_length_mm, parse_number
from ..heat.steaming import SteamHeat
from ..plan.result import Plan
from ..wood.species import OwnWood

MOST_PIECES = 60
OVER = 1.6  # times beyond the settings tried that the curve is drawn
PROPOSED = (0.6, 0.8, 1.0, 1.25, 1.6)  # times what the plan says. Grade: allowance.
STEP = 1.25  # from one piece to the next where they go one at a time. Grade: allowance.
APART_MIN = 3.0  # between two pieces taken out of the heat. Grade: allowance.
Asks = Literal["minutes", "radius", "thickness", "hours"]
Design = Literal["grid", "one_at_a_time"]
DESIGNS: dict[str, str] = {
    "grid": "every setting, in an order by chance",
    "one_at_a_time": "one at a time from the first setting: harder after a whole one, easier after a failed one",
}


@dataclass(frozen=True, slots=True)
class Question:
    """What a trial can ask. unit: of its setting; sense: whether more is safer; asks_whole: of whole pieces, or of a
    measured figure; published: what the plan says of it, to start from; none where the plan has none such."""

    key: str
    name: str
    unit: str
    sense: Sense
    asks_whole: bool
    published: Callable[[Plan], float | None]

    @property
    def is_length(self) -> bool:
        return self.unit == "mm"

    def unit_said(self, unit: Unit) -> str:
        """The unit its settings are said in, in a shop of that unit."""
        return ("mm" if unit == "mm" else "in") if self.is_length else self.unit

    def said(self, setting: float, unit: Unit, *, with_unit: bool = True) -> str:
        """A setting as that shop reads it: a thickness by its rule, anything else to three figures.

        >>> QUESTIONS["thickness"].said(19.05, "in"), QUESTIONS["minutes"].said(9.171, "in")
        ('3/4 in', '9.17 min')
        """
        if self.is_length:
            return format_length(setting, unit, with_unit=with_unit)
        return f"{setting:.3g} {self.unit}" if with_unit else f"{setting:.3g}"

    def typed(self, text: str, unit: Unit) -> float:
        """A setting as it was typed in that shop. Raises: OutOfRange."""
        return (
            parse_length_mm(text, unit, "settings") if self.is_length else parse_number(text, "settings", "a setting")
        )

    def proposed(self, published: float, unit: Unit) -> list[str]:
        """Settings round what the plan says, from where it may fail to where it hardly does."""
        return [self.said(published * k, unit, with_unit=False) for k in PROPOSED]


def _minutes(plan: Plan) -> float | None:
    heat = plan.hot.heat if plan.hot else None
    return heat.steam.time.earliest_min if isinstance(heat, SteamHeat) else None


def _radius(plan: Plan) -> float | None:
    hot = plan.hot
    limits = getattr(hot, "limits", None)
    return limits.needed if limits else None


def _thickness(plan: Plan) -> float | None:
    if plan.laid_up is not None:
        return plan.laid_up.worst.thickness_mm / max(1e-6, plan.make.use.worst.value)
    return plan.hot.thickness_mm if plan.hot else None


def _hours(plan: Plan) -> float | None:
    return plan.hot.drying.on_form_h if plan.hot else plan.laid_up.press_h if plan.laid_up else None


QUESTIONS: dict[str, Question] = {
    q.key: q
    for q in (
        Question("minutes", "How long in the steam?", "min", 1, True, _minutes),
        Question("radius", "How tight? Inside radius over thickness", "R/T", 1, True, _radius),
        Question("thickness", "How thick?", "mm", -1, True, _thickness),
        Question("hours", "How long on the form, and what does it spring back?", "h", 1, False, _hours),
    )
}


class TrialPiece(Document):
    """One test piece: its setting; grade: 0 whole … 4 broken through; springback: at its tip, mm. None: not yet."""

    setting: float = Field(gt=0, le=100_000, allow_inf_nan=False)
    grade: int | None = Field(default=None, ge=0, le=4)
    springback_mm: float | None = Field(default=None, ge=-10_000, le=10_000, allow_inf_nan=False)
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
    was laid out; group: the stock."""

    format: Literal["bright-willow-trial"] = "bright-willow-trial"
    version: Literal[1] = 1
    name: str = Field(min_length=1, max_length=80, pattern=r"\S")
    asks: Asks
    design: Design = "grid"
    published: float = Field(gt=0, le=100_000, allow_inf_nan=False)
    group: str = Field(default="", max_length=120)
    species: str = Field(default="", max_length=60)
    has_strap: bool = False
    pieces: tuple[TrialPiece, ...] = Field(min_length=1, max_length=MOST_PIECES, strict=False)

    @model_validator(mode="after")
    def known(self) -> Trial:
        """Its question is one of the table."""
        if self.asks not in QUESTIONS:
            raise ValueError("Choose a question of the list")
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
        """What would be set by its answer: the job's minutes; none where nothing is told yet, or it asks another."""
        made = self.answer()
        if made is None or self.asks != "minutes":
            return None
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


def laid_out(
    plan: Plan, *, name: str, asks: str, settings: tuple[float, ...], repeats: int, seed: int, design: str = "grid"
) -> Trial:
    """A trial: every setting so many times, in an order by chance; or its first piece, where they go one at a time.
    Raises: OutOfRange."""
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
    if len(settings) * repeats > MOST_PIECES:
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
        pieces=tuple(TrialPiece(setting=s) for s in grid(settings, repeats, seed=seed)),
    )


def with_one_more(trial: Trial) -> Trial:
    """A trial with one more piece, where one is of use. Raises: OutOfRange."""
    setting = trial.one_more()
    if setting is None:
        raise OutOfRange("more", "Grade what is laid out first; then see whether one more is worth it.")
    return trial.model_copy(update={"pieces": (*trial.pieces, TrialPiece(setting=setting))})


def graded(trial: Trial, number: int, *, grade: int | None, springback_mm: float | None, note: str) -> Trial:
    """A trial with what came of a piece, counted from 1. Raises: OutOfRange."""
    if not 1 <= number <= len(trial.pieces):
        raise OutOfRange("number", "There is no such piece.")
    if grade is not None and not 0 <= grade < len(GRADES):
        raise OutOfRange("grade", "Choose how it came out.")
    pieces = list(trial.pieces)
    pieces[number - 1] = TrialPiece(
        setting=pieces[number - 1].setting, grade=grade, springback_mm=springback_mm, note=note
    )
    return trial.model_copy(update={"pieces": tuple(pieces)})
