"""The ways of bending side by side, for one curve and section: one row a way, in the order of the registry."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..common.errors import PlanError
from ..common.estimate import Estimate
from ..common.findings import LEVELS, Finding, Level, worst
from ..common.units import format_length
from ..job.job import Job
from ..learning.belief import NOTHING_LEARNT, LearnedFigures
from ..methods.method import Method
from ..methods.method_registry import WAYS
from ..scheduling.estimate_days import estimate_days
from ..shape.curve import Curve
from ..shop.shop import Shop
from .plan import evaluate
from .result import Sketch

# findings about tools that can be changed, which say nothing of the way itself
SET_UP = frozenset(
    f"heat.{name}"
    for name in ("window", "chamber_weak", "chamber_slow", "chamber_small", "stop_slides", "strap_thin", "heavy_pull")
)
SHOWN_FIRST = 3  # methods
JUDGES_METHOD = ("build_up", "bend", "steam", "dry", "stock")  # stages whose findings judge a way


@dataclass(frozen=True, slots=True)
class MethodFigures:
    """What a way that can be done takes: what the tips open, days to the last piece, pieces, wood, sheets, tools.

    sets: the job made that way, by top-level field. wanted, on_form: mid-lines, between which it springs back.
    """

    tip_mm: Estimate
    days: float
    pieces: int
    wood_m3: float
    sheets_m2: float
    needs: tuple[str, ...]
    changes: str
    sets: dict[str, object]
    wanted: Curve
    on_form: Curve
    thickness_mm: float


@dataclass(frozen=True, slots=True)
class MethodRow:
    """One way for this job: whether it can be done and why, and what it takes; nothing where it cannot be done."""

    key: str
    name: str
    description: str
    level: Level
    reason: str
    made: MethodFigures | None
    chosen: bool


def compare_ways(job: Job, shop: Shop | None = None, learnt: LearnedFigures = NOTHING_LEARNT) -> tuple[MethodRow, ...]:
    """Every way for this job. A way that cannot be is a row that says why. A way that takes a bow out is no answer to a
    curve that is wanted: it is among them only where it is chosen."""
    offered = (way for way in WAYS.values() if way.bends_a_straight_piece or way.key == job.way)
    return tuple(_row(way, job, shop or Shop(), learnt) for way in offered)


@dataclass(frozen=True, slots=True)
class SuggestedMethod:
    """A method that suits, and what speaks for it. dry_tip_mm: of strips steamed before they are glued, what each end
    would spring back if they were glued dry; None of any other."""

    row: MethodRow
    why: tuple[str, ...]
    dry_tip_mm: Estimate | None = None


def suited(rows: tuple[MethodRow, ...]) -> tuple[tuple[SuggestedMethod, ...], tuple[MethodRow, ...]]:
    """Return the few methods that suit this curve best, those without checks first, and all others.

    The chosen one is always among the first. rows: of `compare_ways`.
    """
    able = [r for r in rows if r.made and r.level != "stop"]
    able.sort(key=lambda r: (LEVELS.index(r.level), r.made.days if r.made else 0.0))
    first = able[:SHOWN_FIRST]
    if chosen := [r for r in rows if r.chosen and r not in first]:
        first = first[: SHOWN_FIRST - 1] + chosen
    return tuple(_suits(r, first, rows) for r in first), tuple(r for r in rows if r not in first)


def _suits(row: MethodRow, first: list[MethodRow], rows: tuple[MethodRow, ...]) -> SuggestedMethod:
    made, others = row.made, [r.made for r in first if r.made]
    why = list[str]()
    if made and len(others) > 1:
        if made.tip_mm.likely <= min(m.tip_mm.likely for m in others):
            why.append("least springback")
        if made.days <= min(m.days for m in others):
            why.append("done soonest")
        if made.wood_m3 and made.wood_m3 <= min((m.wood_m3 for m in others if m.wood_m3), default=0.0):
            why.append("least wood")
        if all(len(made.needs) < len(m.needs) for m in others if m is not made):
            why.append("least equipment")
    return SuggestedMethod(row, tuple(why), _glued_dry(row, rows))


def _glued_dry(row: MethodRow, rows: tuple[MethodRow, ...]) -> Estimate | None:
    """What the same curve springs back glued of dry strips, for a method that steams them first."""
    if not {"laid_up", "steamed"} <= WAYS[row.key].traits:
        return None
    return next((r.made.tip_mm for r in rows if r.made and is_glued_dry(r)), None)


def is_glued_dry(row: MethodRow) -> bool:
    """Whether a method glues what was never heated."""
    traits = WAYS[row.key].traits
    return "laid_up" in traits and "hot" not in traits


def offered_apart(job: Job) -> tuple[type[Method], ...]:
    """Ways for a piece that has a bow already, and is to lose it; none of them where one is chosen."""
    return tuple(way for way in WAYS.values() if not way.bends_a_straight_piece and way.key != job.way)


def turned_to(job: Job, key: str) -> Job:
    """The job bent another way, as the comparison shows it. Raises: PlanError where it cannot be, or is not known."""
    if key not in WAYS:
        raise PlanError("way", "There is no such method.")
    return WAYS[key].turn(job)


def judging(findings: Sequence[Finding]) -> list[Finding]:
    """Return the findings that speak against a method itself, not against tools that can be changed."""
    return [f for f in findings if f.stage in JUDGES_METHOD and f.code not in SET_UP]


def _row(way: type[Method], job: Job, shop: Shop, learnt: LearnedFigures) -> MethodRow:
    chosen = way.key == job.way
    try:
        turned = way.turn(job)
        drawn, _ = evaluate(turned, shop, learnt)
    except PlanError as error:
        return MethodRow(way.key, way.name, way.description, "stop", error.message(shop.units), None, chosen)
    own = judging(drawn.findings)
    reason = max(own, key=lambda f: LEVELS.index(f.level)).message if own else "OK: nothing against it."
    return MethodRow(
        way.key, way.name, way.description, worst([f.level for f in own]), reason, _made(job, turned, drawn), chosen
    )


def _made(job: Job, turned: Job, drawn: Sketch) -> MethodFigures:
    quantities, way = drawn.quantities, drawn.way
    operations = way.operations_with(quantities.stock, drawn.bend, drawn.make, drawn.form)
    days = estimate_days(operations, way.batches, people=drawn.shop.week.people, owned=drawn.shop.owned).done_days
    return MethodFigures(
        tip_mm=drawn.bend.tip_mm,
        days=days,
        pieces=quantities.pieces + quantities.spares,
        wood_m3=quantities.stock.volume_m3,
        sheets_m2=drawn.laid_up.sheet_m2 if drawn.laid_up else 0.0,
        needs=way.needs(drawn.make, drawn.form),
        changes=_changes(job, turned, drawn.shop),
        sets={name: getattr(turned, name).model_dump() for name in ("part", "build_up")} | {"way": way.key},
        wanted=drawn.bend.target,
        on_form=drawn.bend.on_form,
        thickness_mm=turned.part.thickness_mm,
    )


def _changes(job: Job, turned: Job, shop: Shop) -> str:
    if abs(turned.part.thickness_mm - job.part.thickness_mm) > 0.01:
        return f"The part becomes {format_length(turned.part.thickness_mm, shop.rule)} thick, the sum of the sheets."
    return ""
