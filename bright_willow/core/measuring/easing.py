"""Check a bend while it can still be changed: from gaps to its line, how far to ease or tighten it at which place."""

from __future__ import annotations

import json
import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Literal

import numpy as np
from pydantic import TypeAdapter, ValidationError

from ..common.arrays import Array
from ..common.errors import PlanError, check_range
from ..common.estimate import Estimate
from ..common.operation import CheckedOn
from ..execution.events import Event
from ..learning.kept_turn import EasedSample, kept_turn
from ..plan.result import Plan
from ..shape.curve import Curve
from ..workpiece.bend import Bend, Straight

MOST_PLACES = 8
MOST_GAP_MM = 500.0
AT_THE_END_MM = 2.0  # beyond the end, as a rule may read it, is the end
LEAST_DEG = 0.5  # a smaller change is not worth heating the wood for. Grade: allowance.
LEAST_KEPT = 0.05  # below which a push cannot be told: it springs back whole. Grade: allowance.
TELLING_DEG = 1.0  # from which a change tells how much of it the wood keeps. Grade: allowance.
CELLS = 240  # of the numeric integral on either side of the middle

Direction = Literal["tighter", "ease", "inward", "outward"]
_PassFields = tuple[list[tuple[float, float]], list[tuple[float, Direction, float]], float, float]
_PASS: TypeAdapter[_PassFields] = TypeAdapter(
    _PassFields
)  # gaps, turns, share kept, gap allowed, as in the text of an event


@dataclass(frozen=True, slots=True)
class Gap:
    """A gap read at a place.

    station_mm: along the piece from its left end; gap_mm: above 0 outside its line, below 0 inside.
    """

    station_mm: float
    gap_mm: float


@dataclass(frozen=True, slots=True)
class Turn:
    """A change of the bend.

    station_mm: its middle, from the left end; degrees: how much, above 0; direction: by how the piece is bent there,
    inward or outward where it is straight.
    """

    station_mm: float
    degrees: float
    direction: Direction


@dataclass(frozen=True)
class CurveCheck:
    """What a piece is checked on. curve: its centerline there; kept: the share of a further bend it keeps."""

    curve: Curve
    against: CheckedOn
    kept: Estimate
    tolerance_mm: float

    @property
    def places_mm(self) -> tuple[float, ...]:
        """Where gaps are read unless the maker says otherwise: both ends, and halfway to them from the middle."""
        long, middle = self.curve.length_mm, self.curve.anchored_at_mm
        return (0.0, middle / 2, (long + middle) / 2, long)


@dataclass(frozen=True)
class EasingPass:
    """One pass: the gaps read, the turns they asked for, the share expected to stay of each, and the gap allowed."""

    gaps: tuple[Gap, ...]
    turns: tuple[Turn, ...]
    kept: float
    allowed_mm: float

    @property
    def is_within(self) -> bool:
        """Whether every gap is as small as is allowed."""
        return self.largest_mm <= self.allowed_mm

    def pushed_deg(self, turn: Turn) -> float | None:
        """How far to push for a turn, degrees, so that it stays after springing back; None where nearly all is lost."""
        return turn.degrees / self.kept if self.kept >= LEAST_KEPT else None

    @property
    def largest_mm(self) -> float:
        """The largest gap, whichever way."""
        return max((abs(g.gap_mm) for g in self.gaps), default=0.0)

    @property
    def text(self) -> str:
        """The pass as an event of a run carries it; `passes_of` reads it."""
        turns = [[round(t.station_mm, 1), t.direction, round(t.degrees, 2)] for t in self.turns]
        gaps = [[round(g.station_mm, 1), round(g.gap_mm, 2)] for g in self.gaps]
        told = {"gaps": gaps, "turns": turns, "kept": round(self.kept, 3), "allowed": round(self.allowed_mm, 3)}
        return json.dumps(told, separators=(",", ":"))


def curve_check(plan: Plan, eased: Iterable[EasedSample] = ()) -> CurveCheck | None:
    """Return what a job's pieces are checked on, by its method's steps; None where they cannot be changed any more.

    eased: what earlier passes of this shop showed.
    """
    step = next((o for o in plan.operations if o.checked_on), None)
    if step is None or not step.checked_on:
        return None
    bend, tolerance = plan.bend, plan.job.part.mate_tolerance_mm
    if step.checked_on == "form":  # it lies against the form while it gives: what is pushed, stays
        return CurveCheck(bend.on_form, "form", Estimate(1.0, 1.0, 1.0, "physics"), tolerance)
    kept = kept_turn(eased, way=plan.job.way, group=plan.way.group, expected=_kept_by_springback(bend))
    return CurveCheck(bend.target, step.checked_on, kept, tolerance)


def _kept_by_springback(bend: Bend) -> Estimate:
    """The share of a bend that is left once it has sprung back, from what the plan expects of the whole piece."""
    before = bend.stated.curvature if isinstance(bend.opens, Straight) else np.zeros_like(bend.on_form.curvature)
    lengths = bend.on_form.lengths_mm
    given = float(lengths @ np.abs(bend.on_form.curvature - before))
    left = [float(lengths @ np.abs(c.curvature - before)) for c in bend.released]
    return Estimate.around((v / given if given else 1.0 for v in left), bend.loss_ratio.grade)


def easing_pass(check: CurveCheck, gaps: Sequence[Gap], allowed_mm: float) -> EasingPass:
    """Return the pass that gaps ask for; no turns where all of them are as small as is allowed.

    Valid: allowed 0.1 to 100 mm; gaps as for `turns_for`. Raises: PlanError.
    """
    check_range("allowed", allowed_mm, 0.1, 100, "mm")
    turns, made = turns_for(check.curve, gaps), EasingPass(tuple(gaps), (), check.kept.likely, allowed_mm)
    return made if made.is_within else replace(made, turns=turns)


def turns_for(curve: Curve, gaps: Sequence[Gap]) -> tuple[Turn, ...]:
    """Return the changes that bring a piece onto a curve, from the middle outward, each of 0.5° and more.

    The piece lies with the middle of its length on the middle of the curve and runs along it there. Between one place
    where a gap was read and the next further out its curvature is off by one amount, spread over the bent part there;
    the gap is the sum of what these turns move that place square to the curve: linear in the turns, so one equation
    for each gap, solved from the middle outward.
    Valid: 1 to 8 gaps at different places on the piece, of up to 500 mm, small against the piece. Raises: PlanError.
    Source: docs/model.md#easing. Grade: physics.

    >>> straight = Curve.of([1000.0], [0.0])
    >>> [(round(t.station_mm), round(t.degrees, 2), t.direction) for t in turns_for(straight, [Gap(1000.0, 10.0)])]
    [(750, 2.29, 'inward')]
    """
    if not 1 <= len(gaps) <= MOST_PLACES:
        raise PlanError("gaps", f"Enter the gap at one place at least, and at {MOST_PLACES} at most.")
    middle = curve.anchored_at_mm
    for gap in gaps:
        check_range("gaps", gap.gap_mm, -MOST_GAP_MM, MOST_GAP_MM, "mm")
        if not -AT_THE_END_MM <= gap.station_mm <= curve.length_mm + AT_THE_END_MM:  # nor where it is no number
            raise PlanError("gaps", "One of the places is beyond the end of the piece.")
    made: list[Turn] = []
    for side in (-1, 1):
        own = sorted((g for g in gaps if (g.station_mm - middle) * side > 0), key=lambda g: abs(g.station_mm - middle))
        made += _turns_of_side(curve, side, own)
    return tuple(sorted(made, key=lambda t: abs(t.station_mm - middle)))


def _turns_of_side(curve: Curve, side: int, gaps: Sequence[Gap]) -> list[Turn]:
    """The turns on one side of the middle: side -1 left, 1 right; gaps from the middle outward."""
    middle, inner, turns, excess = curve.anchored_at_mm, 0.0, list[Turn](), list[tuple[Array, Array, float]]()
    for gap in gaps:
        reach = abs(gap.station_mm - middle)
        if reach - inner < 1e-3 * curve.length_mm:
            raise PlanError("gaps", "Two of the places are too close together.")
        d = np.linspace(0.0, reach, CELLS + 1)
        _, headings = curve.at(middle + side * d)
        across = np.cos(headings - headings[-1])  # of each normal along the normal at the place
        weight, bent_rad = _where_it_bends(curve, middle, side, inner, reach)
        turned = np.interp(d, weight[0], weight[1])
        lever = float(np.trapezoid(turned * across, d))
        if abs(lever) < 0.02 * (reach - inner):
            raise PlanError(
                "gaps", "This gap tells nothing about the bend before it: measure at one more place between."
            )
        before = sum(a * float(np.trapezoid(np.interp(d, x, t) * across, d)) for x, t, a in excess)
        change = (gap.gap_mm + before) / lever  # more curvature by so much moves the place inside
        excess.append((weight[0], weight[1], -change))
        if abs(math.degrees(change)) >= LEAST_DEG:
            at = middle + side * float(np.interp(0.5, weight[1], weight[0]))
            turns.append(Turn(at, abs(math.degrees(change)), _direction(change, bent_rad)))
        inner = reach
    return turns


def _where_it_bends(
    curve: Curve, middle: float, side: int, inner: float, outer: float
) -> tuple[tuple[Array, Array], float]:
    """How a turn is spread from `inner` to `outer` mm from the middle: distances, and the share turned by then.

    Along the bent part by its own curvature; evenly where it is straight. Then how far it is bent there, radians.
    """
    d = np.linspace(inner, outer, CELLS + 1)
    _, headings = curve.at(middle + side * d)
    steps = np.abs(np.diff(headings))
    share = steps / steps.sum() if math.degrees(steps.sum()) >= 1.0 else np.full(CELLS, 1 / CELLS)
    turned = np.concatenate(([0.0], np.cumsum(share)))
    return (d, turned), float(headings[0] - headings[-1]) * side


def _direction(change_rad: float, bent_rad: float) -> Direction:
    if abs(math.degrees(bent_rad)) < 1.0:
        return "inward" if change_rad > 0 else "outward"
    return "tighter" if change_rad * bent_rad > 0 else "ease"


def passes_of(events: Iterable[Event], piece: int) -> tuple[EasingPass, ...]:
    """Return the passes of a piece (from 0) in a run, from its events that stand, the first first."""
    found = []
    for event in events:
        if event.kind == "ease" and event.number == piece:
            try:
                data = json.loads(event.text)
                told = (data["gaps"], data["turns"], data["kept"], data["allowed"])
                gaps, turns, kept, allowed = _PASS.validate_python(told)
            except (ValueError, ValidationError, KeyError, TypeError):
                continue  # written by hand, or by a later version: the run goes on without it
            asked = tuple(Turn(station, degrees, direction) for station, direction, degrees in turns)
            found.append(EasingPass(tuple(Gap(*g) for g in gaps), asked, kept, allowed))
    return tuple(found)


def samples_of(passes: Sequence[EasingPass], *, way: str, group: str) -> list[EasedSample]:
    """Return what passes of one piece show: how much of what was pushed stayed, by what the next pass still asks for.

    Only where both passes were read at the same places, and a degree and more was asked for.
    """
    made = []
    for first, then in pairwise(passes):
        if [g.station_mm for g in first.gaps] != [g.station_mm for g in then.gaps]:
            continue
        left = {t.station_mm: _signed(t) for t in then.turns}
        for turn in first.turns:
            pushed = first.pushed_deg(turn)
            if turn.degrees >= TELLING_DEG and pushed:
                asked = _signed(turn)
                stayed_deg = (asked - left.get(turn.station_mm, 0.0)) * math.copysign(1.0, asked)
                made.append(EasedSample(way, group, pushed, stayed_deg))
    return made


def _signed(turn: Turn) -> float:
    return turn.degrees if turn.direction in ("tighter", "inward") else -turn.degrees
