"""What the checks look at: one bend, what is made for it, and the form; whatever the way."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Generic, Protocol, TypeVar, cast

from ..common.errors import PlanError
from ..common.estimate import Estimate
from ..common.findings import Change, Finding
from ..common.fineness import format_about, format_estimate
from ..common.units import format_force, format_length, format_pressure, format_stress, format_temperature
from ..form.construction import FormSketch
from ..form.face import FormFace
from ..heat.limits import LimitFigures
from ..job.job import Job
from ..shop.shop import Shop
from ..stock.prepared_stock import Prepared, at_hand, prepared
from ..wood.species import Species
from ..workpiece.bend import Bend, Springback
from ..workpiece.glue_up import GluedUp, glued_up
from ..workpiece.quantities import Quantities
from ..workpiece.workpiece import LayupOption, Make, laid_up_of


class Advice(Protocol):
    """What a way can suggest in place of itself or of a thickness."""

    @property
    def other_way(self) -> Change | None:
        """Another way that takes more."""

    def thinner(self, thickness_mm: float, message: str) -> Change | None:
        """The job with what is bent no thicker than that; `message` is the thickness in the reader's unit."""

    def easier(self, limits: LimitFigures) -> tuple[Change, ...]:
        """What would bring a hot bend within its limit, each change with how much."""


M = TypeVar("M", bound=Make, covariant=True)
K = TypeVar("K", bound=Make)


@dataclass(frozen=True, eq=False, kw_only=True)
class CheckContext(Generic[M]):
    """Everything a check may look at. job: with the form as it is drawn; rungs: the ladder, worked out when asked."""

    job: Job
    shop: Shop
    wood: Species
    bend: Bend
    make: M
    quantities: Quantities
    form: FormSketch
    face: FormFace
    advice: Advice
    rungs: Callable[[], tuple[LayupOption, ...]]

    @cached_property
    def prepared(self) -> Prepared | None:
        """The strips out of the boards, worked out once for all checks; None where nothing is sawn, or nobody has said
        what boards there are."""
        return prepared(self.job, self.shop, self.quantities.stock) if at_hand(self.job) else None

    @cached_property
    def glued_up(self) -> GluedUp:
        """The race of what is laid up, and what is mixed for it, worked out once for all checks. Raises: PlanError."""
        own = laid_up_of(self.make)
        if own is None:
            raise PlanError("way", "Nothing is glued up in this job.")
        return glued_up(self.job, self.shop, self.bend, own, self.form)

    @property
    def ladder(self) -> tuple[LayupOption, ...]:
        """The rungs to choose from, worked out only when something is to be suggested."""
        return self.rungs()

    @property
    def blank_length_mm(self) -> float:
        """Length of the blank, trims and all, mm."""
        return self.bend.blank.length_mm

    @property
    def springback(self) -> Springback | None:
        """What it opens; none for a ring that cannot."""
        return self.bend.opens if isinstance(self.bend.opens, Springback) else None

    @property
    def missed_mm(self) -> float:
        """How far the released tips lie from where they are wanted."""
        return self.bend.opens.missed_tip_mm.value if isinstance(self.bend.opens, Springback) else 0.0

    def of(self, make: K) -> CheckContext[K]:
        """The same, looking at one part of what is made."""
        return cast("CheckContext[K]", replace(self, make=make))  # type: ignore[arg-type]

    def length(self, mm: float) -> str:
        """A length in the reader's unit."""
        return format_length(mm, self.shop.rule)

    def estimate(self, of: Estimate) -> str:
        return format_estimate(of, self.shop.rule)

    def about(self, mm: float) -> str:
        return format_about(mm, self.shop.rule)

    def leave(self, message: str, mm: float) -> Change:
        """So much left to trim, at both ends alike."""
        return Change(message, {"part.trim_mm": mm, "part.right_trim_mm": None})

    def temperature(self, celsius: float) -> str:
        """A temperature in the reader's unit."""
        return format_temperature(round(celsius), self.shop.units)

    def pressure(self, mpa: float) -> str:
        """A pressure in the reader's unit."""
        return format_pressure(mpa, self.shop.units)

    def stress(self, mpa: float) -> str:
        """A stress in steel in the reader's unit."""
        return format_stress(mpa, self.shop.units)

    def force(self, newtons: float) -> str:
        """A force in the reader's unit."""
        return format_force(newtons, self.shop.units)


Check = Callable[[CheckContext[K]], Finding | None]


def found(checks: tuple[Check[K], ...], at: CheckContext[K]) -> list[Finding]:
    """What the checks of a table find, in its order."""
    return [f for check in checks if (f := check(at))]
