"""What every stage's page answers: its fields, its figures, what it draws. One file a stage, one row in the table."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any

from markupsafe import Markup

from ...core.experience.belief import Learnt
from ...core.ground.units import Unit
from ...core.job.job import Job
from ...core.plan.result import Plan, Sketch
from ...core.shop.shop import Shop
from ...core.wood.species import OwnWood
from ...store.records import KeptForm
from ..figures import Item, Words
from ..forms.fields import Field


@dataclass(frozen=True)
class Look:
    """What a stage's page may look at. drawn: none where no such bend can be made; a whole Plan unless it is passing.

    typed, faults: what is typed into its own other forms, and what is wrong with that. more: what its page was given.
    """

    job: Job
    shop: Shop
    learnt: Learnt
    drawn: Sketch | None
    form: KeptForm | None
    more: Mapping[str, Any] = field(default_factory=dict)

    @property
    def unit(self) -> Unit:
        return self.shop.units

    @property
    def words(self) -> Words:
        return Words(self.shop.units)

    @property
    def plan(self) -> Plan | None:
        """The whole plan, where it was made."""
        return self.drawn if isinstance(self.drawn, Plan) else None


def _no_fields(job: Job, woods: tuple[OwnWood, ...]) -> tuple[Field, ...]:
    return ()


def _nothing(look: Look) -> list[Item]:
    return []


def _no_more(look: Look) -> dict[str, Any]:
    return {}


@dataclass(frozen=True)
class StagePage:
    """One stage: the inputs of its form, the figures beside it, what else its template shows, what its board shows.

    extra: by name, for its own template. under: drawn under the board. board: a template in place of the drawing.
    pulls: whether things on its drawing can be taken hold of, and where a pull is posted.
    """

    fields: Callable[[Job, tuple[OwnWood, ...]], tuple[Field, ...]] = _no_fields
    items: Callable[[Look], list[Item]] = _nothing
    extra: Callable[[Look], dict[str, Any]] = _no_more
    under: Callable[[Look], Markup] = lambda look: Markup("")
    board: str = ""
    sill: str = ""
    pulls: str | None = None
