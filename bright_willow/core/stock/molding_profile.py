"""A profile ripped into strips, bent and glued up again: out of how many mouldings, where each is cut, what is lost."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

import numpy as np

from ..common.arrays import Array
from ..common.errors import ENDLESS, PlanError, check_range
from ..job.job import Job
from ..job.stock_choice import Profile
from ..shop.shop import Shop

if TYPE_CHECKING:
    from shapely import Polygon

LEAST_LOST_MM = 0.05
EDGE_MM = 1e-9
CORNER_POINTS = 24  # of a quarter round
MOST_BLANKS = 8


@dataclass(frozen=True, slots=True)
class MoldingStrip:
    """One strip of the profile: its place from the inner face outward, the moulding it is ripped out of, and where its
    two sides lie off the saw, from that moulding's inner face, mm; lost_mm: of the profile between it and the next."""

    number: int
    blank: int
    from_mm: float
    to_mm: float
    lost_mm: float
    step_mm: float


@dataclass(frozen=True, eq=False)
class Profiled:
    """A profile cut and put together. blanks: mouldings ripped; blanks_true: as many as lose nothing; bands from the
    inner face outward; first_cut_mm: of each moulding; outline, together: (n, 2) points, mm, the section wanted and the
    section as it is glued up, band by band.

    missing: strips that lie beyond its depth; lost_mm: of its depth in all; worst_step_mm: between two strips.
    """

    blanks: int
    blanks_true: int
    bands: tuple[MoldingStrip, ...]
    first_cut_mm: tuple[float, ...]
    outline: Array
    together: tuple[tuple[Array, ...], ...]
    depth_mm: float
    laminae_mm: tuple[float, ...]
    problem: PlanError | None = None

    @property
    def missing(self) -> int:
        return sum(1 for b in self.bands if b.to_mm > self.depth_mm + 2 * LEAST_LOST_MM + (b.to_mm - b.from_mm) / 2)

    @property
    def lost_mm(self) -> float:
        return sum(b.lost_mm for b in self.bands)

    @property
    def worst_step_mm(self) -> float:
        return max((b.step_mm for b in self.bands), default=0.0)


def blanks_needed(*, kerf_mm: float, planing_mm: float, strip_mm: float) -> int:
    """Mouldings that give every strip of a profile with nothing lost: m = ceil(1 + (kerf + planing) / t).

    Of one moulding every m-th strip is kept; what lies between two of them, (m − 1) t, is cut away, and must hold the
    kerf and what is planed off. A kerf no wider than the strip takes two. Valid: kerf and planing 0 or more, the strip
    above 0. Raises: PlanError. Source: geometry.

    >>> [blanks_needed(kerf_mm=k, planing_mm=0, strip_mm=4) for k in (0.0, 3.0, 4.0, 4.5)]
    [1, 2, 2, 3]
    """
    check_range("shop.kerf_mm", kerf_mm, 0, ENDLESS, "mm")
    check_range("shop.planing_mm", planing_mm, 0, ENDLESS, "mm")
    check_range("build_up.laminae", strip_mm, 0, ENDLESS, "mm", above=True)
    return math.ceil(1 + (kerf_mm + planing_mm) / strip_mm - EDGE_MM)


def section(choice: Profile, thickness_mm: float, width_mm: float) -> Polygon:
    """The section of a profile: across the thickness from the inner face, up the width from its lower edge.

    Plain sections lie in the upper corner of the inner face. Raises: PlanError for points that make no section, or a
    size larger than the part.
    """
    from shapely import Polygon, box, unary_union
    from shapely.affinity import translate

    t, w, r = thickness_mm, width_mm, choice.size_mm
    whole = box(0, 0, t, w)
    if choice.kind == "points":
        if len(choice.points_mm) < 3:
            raise PlanError("prepare.profile.points_mm", "A section needs three points or more.")
        drawn = Polygon(choice.points_mm)
        if not drawn.is_valid or drawn.area < 1.0:
            raise PlanError("prepare.profile.points_mm", "This outline crosses itself or is empty.")
        x0, y0, x1, _ = drawn.bounds
        drawn = translate(drawn, -x0, -y0)
        if x1 - x0 > t + 0.5:
            raise PlanError(
                "prepare.profile.points_mm",
                "The section is {own} deep, the part {part} thick.",
                hint="Depth runs through the strips, from the inside face.",
                lengths_mm={"own": x1 - x0, "part": t},
            )
        return drawn
    if choice.kind != "none" and r > min(t, w):
        raise PlanError(
            "prepare.profile.size_mm",
            "The molding profile is {own}, larger than the part.",
            lengths_mm={"own": r},
        )
    turn = np.linspace(0, math.pi / 2, CORNER_POINTS)
    if choice.kind == "chamfer":
        return whole.difference(Polygon([(0, w), (r, w), (0, w - r)]))
    if choice.kind == "cove":
        return whole.difference(Polygon([(0, w), *zip(r * np.cos(turn), w - r * np.sin(turn), strict=True)]))
    if choice.kind == "round_over":
        rest = [(0, w), *zip(r - r * np.cos(turn), w - r + r * np.sin(turn), strict=True)]
        return whole.difference(Polygon(rest).buffer(0))
    if choice.kind == "bead":
        half = np.linspace(0, math.pi, 2 * CORNER_POINTS)
        bead = Polygon(
            [(r / 2 - r / 2 * math.cos(a), w + r / 2 * math.sin(a) - r / 2) for a in half] + [(r, 0), (0, 0)]
        )
        return unary_union([box(0, 0, t, w - r / 2), bead])
    return whole


def profiled(job: Job, shop: Shop, laminae_mm: Sequence[float]) -> Profiled | None:
    """The profile of a job cut for its laminae and put together; None where it has none, or is glued of one layer."""
    choice = job.prepare.profile
    if choice.kind == "none" or len(laminae_mm) < 2:
        return None
    try:
        drawn = section(choice, sum(laminae_mm), job.part.width_mm)
        made = cut_profile(
            drawn, laminae_mm, kerf_mm=shop.kerf_mm, planing_mm=shop.planing_mm, blanks=choice.blanks or None
        )
    except PlanError as error:
        nothing = np.zeros((0, 2))
        return Profiled(0, 0, (), (), nothing, (), sum(laminae_mm), (), error)
    return made


def cut_profile(
    drawn: Polygon, laminae_mm: Sequence[float], *, kerf_mm: float, planing_mm: float, blanks: int | None = None
) -> Profiled:
    """The strips of a profile out of so many mouldings (none: as many as lose nothing), and the profile glued up.

    Out of m mouldings the j-th strip comes from moulding (j − 1) mod m. Where they are too few, a strip begins a kerf
    and what is planed after the last one out of the same moulding, and what lies between is lost.
    Valid: laminae above 0. Raises: PlanError for a strip thinner than nothing is left of. Source: geometry.
    """
    from shapely import box
    from shapely.affinity import translate

    thin = min(laminae_mm)
    true = min(MOST_BLANKS, blanks_needed(kerf_mm=kerf_mm, planing_mm=planing_mm, strip_mm=thin))
    if true == MOST_BLANKS and blanks is None and (MOST_BLANKS - 1) * thin < kerf_mm + planing_mm:
        raise PlanError(
            "prepare.profile.blanks",
            "A strip of {strip} is too thin for a kerf of {kerf}: it would take more than 8 moldings.",
            lengths_mm={"strip": thin, "kerf": kerf_mm},
        )
    count = min(blanks or true, len(laminae_mm))
    eaten = kerf_mm + planing_mm
    last_end = [-math.inf] * count  # in the section, where the last strip of each moulding ends
    starts: list[float] = []
    at = 0.0
    for j, thick in enumerate(laminae_mm):
        own = j % count
        start = max(at, last_end[own] + eaten)
        starts.append(start)
        at = start + thick
        last_end[own] = at
    cuts = [(s, s + t) for s, t in zip(starts, laminae_mm, strict=True)]
    bands, together, lies = [], [], 0.0
    for j, (start, end) in enumerate(cuts):
        after = cuts[j + 1][0] if j + 1 < len(cuts) else end
        step = _step(drawn, end, after) if after > end + EDGE_MM else 0.0
        bands.append(
            MoldingStrip(j + 1, j % count + 1, start - planing_mm / 2, end + planing_mm / 2, after - end, step)
        )
        piece = drawn.intersection(box(start, -1e5, end, 1e5))
        together.append(_outlines(translate(piece, lies - start)))
        lies += end - start
    first = tuple(min(b.from_mm for b in bands if b.blank == n + 1) for n in range(count))
    points = np.asarray(drawn.exterior.coords)
    return Profiled(
        count, true, tuple(bands), first, points, tuple(together), float(drawn.bounds[2]), tuple(laminae_mm)
    )


def _step(drawn: Polygon, left: float, right: float) -> float:
    """How far the profile jumps where what lies between two places is lost."""
    return _farthest(_edges(drawn, left - EDGE_MM), _edges(drawn, right + EDGE_MM))


def _edges(drawn: Polygon, x: float) -> list[float]:
    """Heights at which the section begins and ends, at a depth."""
    from shapely import LineString

    low, high = drawn.bounds[1] - 1, drawn.bounds[3] + 1
    hit = drawn.intersection(LineString([(x, low), (x, high)]))
    parts = getattr(hit, "geoms", [hit])
    return sorted(v for part in parts if not part.is_empty for v in (part.bounds[1], part.bounds[3]))


def _farthest(a: list[float], b: list[float]) -> float:
    if not a or not b or len(a) != len(b):
        return max([*a, *b], default=0.0) - min([*a, *b], default=0.0)
    return max(abs(x - y) for x, y in zip(a, b, strict=True))


def _outlines(shape: Any) -> tuple[Array, ...]:
    """Closed outlines of a part of the section."""
    parts = getattr(shape, "geoms", [shape])
    return tuple(np.asarray(p.exterior.coords) for p in parts if p.geom_type == "Polygon" and not p.is_empty)
