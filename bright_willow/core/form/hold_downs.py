"""What holds a bend down on a single form: a cleat or a notch where it starts, and cauls shaped to the curve."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np

from ..common.arrays import Array
from ..common.errors import ENDLESS, PlanError, check_range
from ..shape.curve import Curve
from ..shop.clamps import CAUL_MM
from .parts import HOLE_MM, Edge, Hole, closed_by, dense, edge_of
from .site import Site

HoldKind = Literal["clamps", "cleat", "notch"]
HOLD_MM = 50.0  # of the strip's start that a cleat or a notch lies over. Grade: allowance.
SLOT_PLAY_MM = 1.0  # beside strip and strap: room for a thin wedge. Grade: allowance.
WALL_MM = 30.0  # of form left beyond the strip's end, which stops it. Grade: allowance.
CAUL_LONG_MM, CAUL_DEEP_MM = 80.0, 45.0  # along the curve, and out from it. Grade: allowance.
CLEAT_DEEP_MM = 60.0
BOLT_N = 3_000.0  # that one 10 mm bolt through sheet goods takes across. Grade: allowance.
MOST_BOLTS, LEAST_BOLTS = 4, 2
LEAST_HOOK_MM, MOST_HOOK_MM = 30.0, 120.0
BENT_MPA = {"plywood": 12.0, "mdf": 8.0, "chipboard": 5.0, "solid": 12.0}  # of form goods. Grade: allowance.
STRAIGHT_RADIUS_MM = 20_000.0  # beyond it an end counts as straight


@dataclass(frozen=True, slots=True)
class StartHold:
    """What holds the start of a bend on its form, and what it must hold. Lengths mm, forces N.

    start_mm, end_mm: the stretch of the face it lies over. lever_mm: over which the bend pries at it; force_n: with how
    much; holds_n: what it stands. bolts: of a cleat. hook_mm: how thick a notch's hook is. slot_mm: between it and the
    face. Grade of the forces: allowance.
    """

    kind: HoldKind
    end: Literal["left", "right"]
    start_mm: float
    end_mm: float
    lever_mm: float
    force_n: float
    holds_n: float
    slot_mm: float
    bolts: int = 0
    hook_mm: float = 0.0


@dataclass(frozen=True, slots=True)
class HoldDown:
    """A part that presses on a short stretch of the far side: a caul, or the cleat at the start."""

    name: str
    role: Literal["caul", "cleat"]
    edge: Edge
    outline: Edge
    holes: tuple[Hole, ...]
    start_mm: float
    end_mm: float


def lever_mm(straight_mm: float, hold_mm: float) -> float:
    """Return the lever over which a bend pries at what holds its start, mm.

    It is counted from where the bend begins to the middle of what holds it; where that lies over the bend itself, the
    strip pries between its middle and its edge. Valid: straight 0 or more, hold above 0. Raises: PlanError.
    Source: docs/model.md#hold-downs. Grade: allowance.

    >>> lever_mm(150.0, 50.0), lever_mm(0.0, 50.0)
    (125.0, 25.0)
    """
    check_range("part.trim_mm", straight_mm, 0, ENDLESS, "mm")
    check_range("form.start_hold", hold_mm, 0, ENDLESS, "mm", above=True)
    return max(straight_mm - hold_mm / 2, hold_mm / 2)


def start_force_n(moment_nmm: float, lever: float) -> float:
    """Return what the start of a bend must be held down with, N: the moment that bends it over the lever.

    Valid: moment 0 or more, lever above 0. Raises: PlanError. Source: statics; docs/model.md#hold-downs. Grade:
    physics on the moment's grade.

    >>> start_force_n(136_000.0, 90.0)
    1511.111111111111
    """
    check_range("heat.lever_mm", moment_nmm, 0, ENDLESS, "N mm")
    check_range("form.start_hold", lever, 0, ENDLESS, "mm", above=True)
    return moment_nmm / lever


def hook_mm(force_n: float, *, hold_mm: float, width_mm: float, stands_mpa: float) -> float:
    """Return how thick the hook of a notch must be, mm: a cantilever with the force at its tip, t = √(6 F l/(σ b)).

    Never below 30 mm. Valid: all above 0, the force 0 or more. Raises: PlanError. Source: beam theory;
    docs/model.md#hold-downs. Grade: physics on an allowed stress.

    >>> round(hook_mm(1500.0, hold_mm=50.0, width_mm=54.0, stands_mpa=8.0), 1)
    32.3
    """
    check_range("form.start_hold", force_n, 0, ENDLESS, "N")
    for value in (hold_mm, width_mm, stands_mpa):
        check_range("form.start_hold", value, 0, ENDLESS, above=True)
    return max(LEAST_HOOK_MM, math.sqrt(6 * force_n * hold_mm / (stands_mpa * width_mm)))


def bolts_for(force_n: float) -> int:
    """Return the 10 mm bolts that hold a cleat against a force, two at least. Valid: 0 N or more. Raises: PlanError.

    Grade: allowance.

    >>> bolts_for(1500.0), bolts_for(9100.0)
    (2, 4)
    """
    check_range("form.start_hold", force_n, 0, ENDLESS, "N")
    return max(LEAST_BOLTS, math.ceil(force_n / BOLT_N - 1e-9))


def straight_end_mm(curve: Curve, end: Literal["left", "right"]) -> float:
    """Return how far a curve runs straight from one of its ends, mm: flatter than a radius of 20 m. Source: geometry.

    Valid: any curve; one that is straight all along is so over its length. Raises: PlanError for an end that is none.

    >>> straight_end_mm(Curve.of([100.0, 300.0], [0.0, 0.002]), "left")
    100.0
    """
    if end not in ("left", "right"):
        raise PlanError("form.start_end", "An end is left or right.")
    bent = np.abs(curve.curvature) > 1 / STRAIGHT_RADIUS_MM
    lengths = curve.lengths_mm if end == "left" else curve.lengths_mm[::-1]
    bent = bent if end == "left" else bent[::-1]
    return float(lengths[: int(bent.argmax())].sum()) if bent.any() else float(lengths.sum())


def start_hold(site: Site) -> StartHold | None:
    """What holds the start of the bend, as it was chosen; None where nothing is bent around a single form from an end.

    From the middle outward both ends are pulled and nothing pries as long as two people pull together.
    """
    choice, moment, length = site.choice, site.moment_nmm, site.length_mm
    if site.kind != "one_sided" or not site.wrapped_hot:
        return None
    slot = site.part.thickness_mm + 2 * choice.liner_mm + site.over_mm + SLOT_PLAY_MM
    if choice.start_hold == "clamps":
        hold = CAUL_LONG_MM if choice.matched_cauls == "ends_and_middle" else site.clamp.jaw_mm + 2 * CAUL_MM
        lever = lever_mm(0.0, hold)
        low = max(0.0, site.face.middle_mm - hold / 2)
        return StartHold(
            "clamps",
            choice.start_end,
            low,
            low + hold,
            lever,
            start_force_n(moment, lever),
            site.clamp.force_kn * 1000,
            slot,
        )
    hold = min(HOLD_MM, length / 4)
    lever = lever_mm(straight_end_mm(site.face.curve, choice.start_end), hold)
    force = start_force_n(moment, lever)
    low, high = (0.0, hold) if choice.start_end == "left" else (length - hold, length)
    place: dict[str, Any] = {
        "end": choice.start_end,
        "start_mm": low,
        "end_mm": high,
        "lever_mm": lever,
        "force_n": force,
        "slot_mm": slot,
    }
    if choice.start_hold == "cleat":
        bolts = min(MOST_BOLTS, bolts_for(force))
        return StartHold(kind="cleat", holds_n=bolts * BOLT_N, bolts=bolts, **place)
    stands = BENT_MPA[choice.goods]
    thick = min(MOST_HOOK_MM, hook_mm(force, hold_mm=hold, width_mm=site.stack_mm, stands_mpa=stands))
    holds = stands * site.stack_mm * thick**2 / (6 * hold)
    return StartHold(kind="notch", holds_n=holds, hook_mm=thick, **place)


def hold_downs_of(site: Site, start: StartHold | None) -> tuple[HoldDown, ...]:
    """The cauls shaped to the curve, and the cleat. Raises: PlanError where the curve leaves no room for one."""
    if site.kind != "one_sided" or site.press not in ("clamps", "held"):
        return ()
    made: list[HoldDown] = []
    if start and start.kind == "cleat":
        edge, outline = _pressing(site, slot_curve(site), start.start_mm, start.end_mm, CLEAT_DEEP_MM)
        made.append(
            HoldDown(
                "start cleat", "cleat", edge, outline, _cleat_holes(edge, outline, start), start.start_mm, start.end_mm
            )
        )
    taken = start.end if start and start.kind != "clamps" else None
    for name, low, high in _caul_places(site, taken):
        edge, outline = _pressing(site, _over(site, 0.0, "form.matched_cauls"), low, high, CAUL_DEEP_MM)
        made.append(HoldDown(name, "caul", edge, outline, (), low, high))
    return tuple(made)


def _caul_places(site: Site, taken: str | None) -> list[tuple[str, float, float]]:
    """Name and stretch of every caul: one at either end that nothing else holds, and one at the middle."""
    if site.choice.matched_cauls == "none":
        return []
    length = site.length_mm
    long = min(CAUL_LONG_MM, length / 4)
    middle = min(max(site.face.middle_mm, 1.5 * long), length - 1.5 * long)
    places = [("left end caul", 0.0, long), ("right end caul", length - long, length)]
    if site.choice.matched_cauls == "ends_and_middle":
        places.insert(1, ("middle caul", middle - long / 2, middle + long / 2))
    return [p for p in places if not (taken and p[0].startswith(taken))]


def slot_curve(site: Site) -> Curve:
    """The far side of the slot for the strip's start: strip, strap and liners off the face, and room for a wedge.

    Raises: PlanError where it would fold.
    """
    return _over(site, SLOT_PLAY_MM, "form.start_hold")


def _over(site: Site, play_mm: float, field: str) -> Curve:
    """The line over all that lies on the form. field: the choice it is for. Raises: PlanError where it would fold."""
    away = site.over_mm + play_mm
    return site.far.parallel(site.sense * away, field) if away else site.far


def stretch_of(site: Site, curve: Curve, start_mm: float, end_mm: float) -> tuple[float, float]:
    """The stations of a parallel of the face that lie over a stretch of it."""
    face = site.face.curve.stations_mm
    low, high = np.interp([start_mm, end_mm], face, curve.stations_mm)
    return float(low), float(high)


def outward(site: Site, station_mm: float) -> Array:
    """Unit normal of the face at a station, from the form to the wood, in the form's own frame."""
    heading = float(site.face.curve.at(np.array([station_mm]))[1][0]) + site.face.tilt_rad
    return np.array([-math.sin(heading), math.cos(heading)]) * site.sense


def _pressing(site: Site, curve: Curve, start_mm: float, end_mm: float, deep_mm: float) -> tuple[Edge, Edge]:
    """Edge and closed outline of a part over a stretch of the face, its back square to the middle of the stretch."""
    line = edge_of("FACE", curve, site.face, *stretch_of(site, curve, start_mm, end_mm))
    return line, backed(line, outward(site, (start_mm + end_mm) / 2), deep_mm)


def backed(line: Edge, push: Array, deep_mm: float) -> Edge:
    """The outline between an edge and a straight back square to a push, at least so deep. push: (2,) unit vector."""
    level = float((dense(line) @ push).max()) + deep_mm
    first, last = np.array(line.points_mm[0]), np.array(line.points_mm[-1])
    corners = [tuple(map(float, p + push * (level - float(p @ push)))) for p in (last, first)]
    return closed_by(line, *corners)  # type: ignore[arg-type]


def _cleat_holes(edge: Edge, outline: Edge, start: StartHold) -> tuple[Hole, ...]:
    """The holes a cleat is bolted down through, in rows of two half way up its depth."""
    corners = np.array(outline.points_mm)
    last, first = corners[-2:]  # the back, above the end and the start of its edge
    along, base = first - last, np.array(edge.points_mm[-1])
    up = last - base
    rows = math.ceil(start.bolts / 2)
    spots = [base + up * (row + 1) / (rows + 1) + along * share for row in range(rows) for share in (0.25, 0.75)]
    return tuple(Hole(float(x), float(y), HOLE_MM, "bolt") for x, y in spots)
