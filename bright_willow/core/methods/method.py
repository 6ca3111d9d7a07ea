"""The contract of a way of bending: what every way answers, so that nothing else need know which it is."""

from __future__ import annotations

from abc import ABC, abstractmethod
from dataclasses import dataclass
from functools import cached_property
from typing import Any, ClassVar, Generic, Self, TypeAlias, TypeVar

from ..checks.check_context import CheckContext
from ..common.arrays import Array
from ..common.errors import PlanError
from ..common.estimate import Grade
from ..common.findings import Change, Finding
from ..common.operation import Batches, Move, Operation
from ..common.stages import Trait
from ..common.units import format_length
from ..form.construction import FormSketch
from ..form.schools import SCHOOLS, School
from ..form.site import PressedBy
from ..gluing.stack_section import Section
from ..heat.drying import AfterHours
from ..heat.limits import LimitFigures
from ..job.job import FormChoice, Job
from ..learning.belief import LearnedFigures
from ..shape.curve import Curve
from ..shop.shop import Shop
from ..springback.law import SpringbackLaw
from ..stock.board_count import boards_to_inspect
from ..stock.side_by_side import SideBySide, laid
from ..stock.stock_use import StockUse
from ..wood.species import Species, species
from ..workpiece.bend import Bend, NoSpringback, Straight
from ..workpiece.own_marks import mark_places, with_marks
from ..workpiece.quantities import Quantities
from ..workpiece.workpiece import LayupOption, Make
from .steps.shared_steps import inspecting

M = TypeVar("M", bound=Make)


@dataclass(frozen=True, eq=False)
class BendingMethod(ABC, Generic[M]):
    """One way of bending set up for one job, which makes an M. job: with its form as it is drawn."""

    key: ClassVar[str]
    name: ClassVar[str]
    description: ClassVar[str]
    traits: ClassVar[frozenset[Trait]]
    forms_field: ClassVar[str] = ""  # of the job: how many forms it has; empty where it takes none
    asked_as: ClassVar[str] = (
        ""  # what the quick answer calls it: "glued", "steamed", "iron"; empty where it is not asked for
    )
    bends_a_straight_piece: ClassVar[bool] = True  # False: the shape of its job is what the piece has, not what it gets

    job: Job
    shop: Shop

    @classmethod
    def set_up(cls, job: Job, shop: Shop) -> Self:
        """The way for a job. Raises: PlanError for a wood that is not in the tables."""
        species(job.stock.species, shop.woods)
        return cls(job, shop)

    @classmethod
    def turn(cls, job: Job) -> Job:
        """A job bent another way, turned to this one. Raises: PlanError where it cannot be."""
        return job.model_copy(update={"way": cls.key})

    # -- what it is ------------------------------------------------------------------------------------------------
    @cached_property
    def wood(self) -> Species:
        """The species, with the shop's own figures where there are any."""
        return species(self.job.stock.species, self.shop.woods)

    @cached_property
    def stated(self) -> Curve:
        """The mid-line as the maker drew it."""
        return self.job.mid_line()

    @cached_property
    def target(self) -> Curve:
        """The mid-line wanted, with a joint in the middle where the school of springback treats halves apart."""
        wanted = self._wanted(self.stated)
        return wanted.parted_in_the_middle() if self.school.needs_halves else wanted

    def _wanted(self, stated: Curve) -> Curve:
        return stated

    @property
    def school(self) -> School:
        """How springback is allowed for in the form. A finished part that is bent against is never overbent."""
        return SCHOOLS["to_size" if self.form_choice.kind == "in_place" else self.job.form.school]

    @property
    def form_choice(self) -> FormChoice:
        """The form's choices, as far as this way leaves them open."""
        return self.job.form

    @property
    def trims_mm(self) -> tuple[float, float]:
        """What is left at the left and the right end to trim, as drawn."""
        return self.job.part_as_drawn.trims_mm

    @property
    @abstractmethod
    def settles(self) -> tuple[str, float]:
        """Under what class pieces are learnt that go on opening over weeks, and the share allowed for."""

    @property
    def on_form(self) -> SideBySide:
        """How pieces lie on the form: one by itself."""
        return laid(self.job, self.shop, "alone", 1)

    @property
    def caul_mm(self) -> float:
        """Thickness of what is pressed on with the stock and not glued to it."""
        return 0.0

    @property
    def over_mm(self) -> float:
        """Thickness of what lies over the wood on the form: a strap."""
        return 0.0

    @property
    def is_wrapped_hot(self) -> bool:
        """Whether one hot piece is bent around its form before it cools."""
        return False

    @property
    @abstractmethod
    def group(self) -> str:
        """The stock group under which its bends are learnt."""

    @property
    @abstractmethod
    def law(self) -> SpringbackLaw:
        """What it loses off the form."""

    def predicted_anew(self, form: Array, *, wanted: Array, stated: Array) -> Array | None:
        """What comes off a form frozen under an earlier law, by the present one, 1/mm; None where that one stands.

        form, wanted, stated: (n,) curvature on it, wanted, and as the maker drew it, 1/mm. Raises: PlanError.
        """
        return None

    @property
    def cannot_open(self) -> NoSpringback | Straight | None:
        """Why nothing is said of springback: a ring glued all round; None for a piece that springs back."""
        return NoSpringback() if self.job.shape.is_closed else None

    @property
    def jig_keeps(self) -> float:
        """Share of its distance from the wanted shape that a piece keeps in its drying jig; 1 where it has none."""
        return 1.0

    @property
    def is_pulled(self) -> bool:
        """Whether it is pulled to size off the form and held there while it dries."""
        return False

    def jig_curvature(self, target: Array, released: Array) -> Array:
        """Return what a piece is held to while it dries, (n,) 1/mm. released: (n,) as it likely comes off the form."""
        return target

    def dried(self, released: Array, target: Array) -> Array:
        """What released curvatures (3, n) dry to in whatever holds the piece, 1/mm; the same where nothing does."""
        return released

    # -- what follows ----------------------------------------------------------------------------------------------
    @abstractmethod
    def make(self, bend: Bend) -> M:
        """What is made. Raises: PlanError."""

    @property
    def pressed_by(self) -> PressedBy:
        """What presses the stock to its form, or only holds it there."""
        return self.job.build_up.press

    @abstractmethod
    def pressure_mpa(self, make: M) -> float:
        """What the form is pressed with."""

    @abstractmethod
    def quantities(self, bend: Bend, make: M, learnt: LearnedFigures) -> Quantities:
        """What to cut and to have at hand."""

    def rungs(self, bend: Bend) -> tuple[LayupOption, ...]:
        """The lay-ups to choose from; none where nothing is laid up."""
        return ()

    @abstractmethod
    def lies_on(self, make: M, form: FormSketch) -> tuple[Section, ...]:
        """What lies on what, wherever the order matters."""

    def moves(self, bend: Bend, make: M) -> tuple[Move, ...]:
        """What is done while hot stock cools, who does it, and how long it takes; nothing where nothing is hot."""
        return ()

    @abstractmethod
    def operations(self, bend: Bend, make: M, form: FormSketch) -> tuple[Operation, ...]:
        """What is done, in order."""

    def operations_with(self, stock: StockUse, bend: Bend, make: M, form: FormSketch) -> tuple[Operation, ...]:
        """What is done, in order, with as many boards inspected as the stock takes."""
        boards = boards_to_inspect(self.job.stock.lot or self.job.prepare, stock, self.shop.kerf_mm)
        every = inspecting(boards, self.operations(bend, make, form), self.shop)
        return with_marks(every, mark_places(self.job, bend.target.length_mm), self.shop.rule)

    @abstractmethod
    def findings(self, at: CheckContext[M]) -> list[Finding]:
        """What there is to say about bend, make and stock."""

    @abstractmethod
    def cautions(self, make: M) -> tuple[str, ...]:
        """What can hurt, briefly."""

    @abstractmethod
    def needs(self, make: M, form: FormSketch) -> tuple[str, ...]:
        """The tools and goods it takes, in words."""

    @property
    @abstractmethod
    def assumptions(self) -> tuple[str, ...]:
        """What its figures rest on."""

    @property
    @abstractmethod
    def source(self) -> tuple[Grade, str]:
        """Grade and source of what the wood stands."""

    @property
    def batches(self) -> Batches:
        """How the pieces go through."""
        return Batches(self.job.part.count + self.job.part.spares)

    # -- advice ----------------------------------------------------------------------------------------------------
    @property
    def other_way(self) -> Change | None:
        """Another way that takes more."""
        return None

    def thinner(self, thickness_mm: float, message: str) -> Change | None:
        """The job with what is bent no thicker than that."""
        return Change(f"Make it {message} thick.", {"part.thickness_mm": round(thickness_mm, 1)})

    def by_hours(self, bend: Bend, hours: tuple[float, ...]) -> tuple[AfterHours, ...]:
        """Springback off the same form against hours on it; nothing where it does not depend on them."""
        return ()

    def easier(self, limits: LimitFigures) -> tuple[Change, ...]:
        """What would bring a hot bend within its limit, each change with how much; nothing where nothing is hot."""
        return ()

    def length(self, mm: float) -> str:
        """A length in the shop's unit."""
        return format_length(mm, self.shop.rule)


# What other rooms hold: some method. Only the plan hands one what it made itself, so none of them asks which it is.
Method: TypeAlias = BendingMethod[Any]


def unknown_way(key: str) -> PlanError:
    """The error for a way that is not in the registry."""
    return PlanError("way", f"There is no bending method called “{key[:40]}”.")
