"""What a trial can ask, and where the plan stands on it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from ..common.units import Unit, format_length, parse_length_mm, parse_number
from ..heat.steam_plan import SteamHeat
from ..plan.result import Plan
from .threshold import Sense

PROPOSED = (0.6, 0.8, 1.0, 1.25, 1.6)  # times what the plan says. Grade: allowance.
MINUTES_TRIED = (0.6, 1.0, 1.6)  # of the planned minutes: too short, planned, too long. Grade: allowance.
SOAK_H = 12.0  # overnight, from which a trial of soaking starts. Grade: allowance.


WHOLE_MIN = 10.0
FINE_MIN = 5.0  # below it, half a minute would be a step of a tenth and more


@dataclass(frozen=True, slots=True)
class Question:
    """What a trial can ask. unit: of its setting; sense: whether more is safer; asks_whole: of whole pieces, or of a
    measured figure; published: what the plan says of it, to start from; none where the plan has none such; tries: what
    to propose, of that."""

    key: str
    name: str
    unit: str
    sense: Sense
    asks_whole: bool
    published: Callable[[Plan], float | None]
    tries: tuple[float, ...] = PROPOSED

    @property
    def is_length(self) -> bool:
        return self.unit == "mm"

    def unit_said(self, unit: Unit) -> str:
        """The unit its settings are said in, in a shop of that unit."""
        return ("mm" if unit == "mm" else "in") if self.is_length else self.unit

    def said(self, setting: float, unit: Unit, *, with_unit: bool = True) -> str:
        """Return a setting as that shop reads it: a thickness by its rule, minutes rounded, else three figures.

        >>> QUESTIONS["thickness"].said(19.05, "in"), QUESTIONS["minutes"].said(9.171, "in")
        ('3/4 in', '9 min')
        """
        if self.is_length:
            return format_length(setting, unit, with_unit=with_unit)
        own = f"{self.rounded(setting):g}"
        return f"{own} {self.unit}" if with_unit else own

    def rounded(self, setting: float) -> float:
        """Return a setting as it can be kept: from ten minutes whole, from five to the half, else three figures.

        >>> QUESTIONS["minutes"].rounded(14.6), QUESTIONS["minutes"].rounded(2.34)
        (15.0, 2.34)
        """
        if self.unit == "min" and setting >= FINE_MIN:
            return float(round(setting)) if setting >= WHOLE_MIN else round(setting * 2) / 2
        return float(f"{setting:.3g}")

    def typed(self, text: str, unit: Unit) -> float:
        """A setting as it was typed in that shop. Raises: PlanError."""
        return (
            parse_length_mm(text, unit, "settings") if self.is_length else parse_number(text, "settings", "a setting")
        )

    def proposed(self, published: float, unit: Unit) -> list[str]:
        """Settings round what the plan says, from where it may fail to where it hardly does."""
        return [self.said(published * k, unit, with_unit=False) for k in self.tries]


def _minutes(plan: Plan) -> float | None:
    heat = plan.hot.heat if plan.hot else None
    return heat.steam.time.planned_min if isinstance(heat, SteamHeat) else None


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


def _soak(plan: Plan) -> float | None:
    return SOAK_H if plan.hot and isinstance(plan.hot.heat, SteamHeat) else None


QUESTIONS: dict[str, Question] = {
    q.key: q
    for q in (
        Question("minutes", "How long in the steam?", "min", 1, True, _minutes, MINUTES_TRIED),
        Question("soak", "How long to pre-soak?", "h", 1, True, _soak),
        Question("radius", "How tight? Inside radius ÷ thickness", "radius ÷ thickness", 1, True, _radius),
        Question("thickness", "How thick?", "mm", -1, True, _thickness),
        Question("hours", "How long on the form, and how much springback?", "h", 1, False, _hours),
    )
}
