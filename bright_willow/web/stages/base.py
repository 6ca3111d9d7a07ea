"""What every stage's page answers: its fields, its figures, what it draws. One file a stage, one row in the table."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any

from markupsafe import Markup

from ...core.common.units import Unit
from ...core.job.job import Job
from ...core.learning.belief import LearnedFigures
from ...core.plan.result import Plan, Sketch
from ...core.shop.shop import Shop
from ...store.records import KeptForm
from ..formatting import FoldedSentences, Formatter, Item
from ..forms.fields import Field
from ..summary_figures import Quantity


@dataclass(frozen=True)
class StageContext:
    """What a stage's page may look at. drawn: none where no such bend can be made; a whole Plan unless it is passing.

    typed, faults: what is typed into its own other forms, and what is wrong with that. more: what its page was given.
    """

    job: Job
    shop: Shop
    learnt: LearnedFigures
    drawn: Sketch | None
    form: KeptForm | None
    more: Mapping[str, Any] = field(default_factory=dict)
    today: str = ""  # the shop's day

    @property
    def unit(self) -> Unit:
        return self.shop.rule

    @property
    def words(self) -> Formatter:
        return Formatter(self.shop.rule)

    @property
    def plan(self) -> Plan | None:
        """The whole plan, where it was made."""
        return self.drawn if isinstance(self.drawn, Plan) else None


@dataclass(frozen=True)
class Slider:
    """Shows one of several steps of a drawing: how many there are, and which is shown first."""

    message: str
    steps: int
    at: int


@dataclass(frozen=True)
class BoardView:
    """One of the things the board of a stage can show: a drawing, and figures too many for the sill.

    svg: none for the board's own drawing, the strip and its form.
    """

    key: str
    name: str
    svg: Markup | None = None
    items: tuple[Item, ...] = ()
    under: Markup | None = None
    slider: Slider | None = None


@dataclass(frozen=True)
class Fold:
    """Decisions rarely changed, folded away under a plain name; `message`: what stands in them, seen when folded."""

    key: str
    name: str
    message: str
    fields: tuple[str, ...]
    hint: str = ""


PLAIN_FIGURES = "Figures without a tag are calculated or rules of thumb; point at one to see which."
THE_BOARD = BoardView("board", "The piece")


def _no_fields(job: Job, shop: Shop) -> tuple[Field, ...]:
    return ()


def _nothing(look: StageContext) -> list[Item]:
    return []


def _no_more(look: StageContext) -> dict[str, Any]:
    return {}


def _no_folds(look: StageContext) -> list[Fold]:
    return []


def _the_board(look: StageContext) -> list[BoardView]:
    return [THE_BOARD]


def _no_answer(look: StageContext) -> str:
    return ""


def _no_hints(look: StageContext) -> dict[str, str]:
    return {}


def _no_figures(look: StageContext) -> list[Quantity]:
    return []


@dataclass(frozen=True)
class StagePage:
    """One stage: the inputs of its form, the figures in its sill, what else its template shows, what its board shows.

    folds: groups of inputs that fold away. notes: what is said under them. extra: by name, for its own template.
    views: what the board shows, the stage's own subject first. board: a template in place of all that. foot: the
    button at the foot of the hand. pulls: whether things on its drawing can be taken hold of, and where a pull is
    posted. answer: one line that answers the question of the stage. figures: at most four that go with it.
    hints: by input, what stands under it instead of its own hint, as it depends on the plan.
    """

    fields: Callable[[Job, Shop], tuple[Field, ...]] = _no_fields
    items: Callable[[StageContext], list[Item]] = _nothing
    notes: Callable[[StageContext], list[Item]] = _nothing
    folds: Callable[[StageContext], list[Fold]] = _no_folds
    extra: Callable[[StageContext], dict[str, Any]] = _no_more
    views: Callable[[StageContext], list[BoardView]] = _the_board
    board: str = ""
    sill: str = ""
    foot: str = "parts/next.html"
    pulls: str | None = None
    answer: Callable[[StageContext], str] = _no_answer
    figures: Callable[[StageContext], list[Quantity]] = _no_figures
    hints: Callable[[StageContext], dict[str, str]] = _no_hints


def cautions(look: StageContext) -> list[Item]:
    """What to be careful of in this plan, and what the plan rests on."""
    if look.plan is None:
        return []
    return [
        FoldedSentences("Cautions", look.plan.cautions),
        FoldedSentences("What this is based on", (PLAIN_FIGURES, *look.plan.assumptions)),
    ]
