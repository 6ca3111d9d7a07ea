"""The ways of bending side by side, for one curve and section: one row a way, in the order of the registry."""

from __future__ import annotations

from dataclasses import dataclass

from ..days.elapsed import elapsed
from ..experience.belief import NOTHING_LEARNT, Learnt
from ..ground.errors import OutOfRange
from ..ground.estimate import Estimate
from ..ground.findings import LEVELS, Level, worst
from ..ground.units import format_length
from ..job.job import Job
from ..shape.curve import Curve
from ..shop.shop import Shop
from ..ways.base import WayOfBending
from ..ways.registry import WAYS
from .plan import weighed
from .result import Sketch

# findings about tools that can be changed, which say nothing of the way itself
SET_UP = frozenset(
    f"heat.{name}"
    for name in ("window", "chamber_weak", "chamber_slow", "chamber_small", "stop_slides", "strap_thin", "heavy_pull")
)
OF_THE_WAY = ("build_up", "bend", "steam", "dry", "stock")  # stages whose findings judge a way


@dataclass(frozen=True, slots=True)
class Made:
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
class WayRow:
    """One way for this job: whether it can be done and why, and what it takes; nothing where it cannot be done."""

    key: str
    name: str
    says: str
    level: Level
    because: str
    made: Made | None
    chosen: bool


def compare_ways(job: Job, shop: Shop | None = None, learnt: Learnt = NOTHING_LEARNT) -> tuple[WayRow, ...]:
    """Every way for this job. A way that cannot be is a row that says why. A way that takes a bow out is no answer to a
    curve that is wanted: it is among them only where it is chosen."""
    offered = (way for way in WAYS.values() if way.bends_a_straight_piece or way.key == job.way)
    return tuple(_row(way, job, shop or Shop(), learnt) for way in offered)


def offered_apart(job: Job) -> tuple[type[WayOfBending], ...]:
    """Ways for a piece that has a bow already, and is to lose it; none of them where one is chosen."""
    return tuple(way for way in WAYS.values() if not way.bends_a_straight_piece and way.key != job.way)


def turned_to(job: Job, key: str) -> Job:
    """The job bent another way, as the comparison shows it. Raises: OutOfRange where it cannot be, or is not known."""
    if key not in WAYS:
        raise OutOfRange("way", "There is no such way here.")
    return WAYS[key].turn(job)


def _row(way: type[WayOfBending], job: Job, shop: Shop, learnt: Learnt) -> WayRow:
    chosen = way.key == job.way
    try:
        turned = way.turn(job)
        drawn, _ = weighed(turned, shop, learnt)
    except OutOfRange as error:
        return WayRow(way.key, way.name, way.says, "stop", error.says(shop.units), None, chosen)
    own = [f for f in drawn.findings if f.stage in OF_THE_WAY and f.code not in SET_UP]
    reason = max(own, key=lambda f: LEVELS.index(f.level)).says if own else "Nothing against it."
    return WayRow(way.key, way.name, way.says, worst([f.level for f in own]), reason, _made(job, turned, drawn), chosen)


def _made(job: Job, turned: Job, drawn: Sketch) -> Made:
    quantities, way = drawn.quantities, drawn.way
    days = elapsed(way.operations(drawn.bend, drawn.make, drawn.form), way.batches).done_days
    return Made(
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
        return f"The part becomes {format_length(turned.part.thickness_mm, shop.rule)} thick, as the sheets add up."
    return ""
