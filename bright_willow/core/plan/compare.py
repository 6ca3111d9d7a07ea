"""The ways of bending side by side, for one curve and section. One table, one row a way."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

from ..experience.belief import NOTHING_LEARNT, Learnt
from ..ground.errors import OutOfRange
from ..ground.estimate import Estimate
from ..ground.findings import LEVELS, Level, worst
from ..job.job import Job
from ..shop.adhesive import adhesive
from ..shop.clamps import clamp_table, clamps_needed
from ..shop.shop import Shop
from ..ways.heat_bend import HEAT_WAYS, HeatWay
from ..ways.sheet_layup import as_laminae, as_sheets
from .plan import plan
from .result import Plan

LIKELY_CLAMP = "f_clamp"
# findings about tools that can be changed, which say nothing of the way itself
SET_UP = frozenset(
    f"heat.{name}"
    for name in ("window", "chamber_weak", "chamber_slow", "chamber_small", "stop_slides", "strap_thin", "heavy_pull")
)


@dataclass(frozen=True, slots=True)
class WayReading:
    """One way for this job: whether it can be done and why, what it opens, how long it takes, what it takes.

    `sets`: the job made that way, by top-level field; none where it cannot be made. `changes`: what else would become
    different. days: the last piece cured, one form.
    """

    key: str
    name: str
    says: str
    level: Level
    because: str
    tip_mm: Estimate | None
    days: float | None
    pieces: int | None
    wood_m3: float | None
    sheets_m2: float | None
    needs: tuple[str, ...]
    changes: str
    sets: dict[str, object] | None
    chosen: bool


@dataclass(frozen=True)
class Row:
    """A row of the table: the way, in words, and the job turned to it."""

    key: str
    name: str
    says: str
    turned: Callable[[Job], Job]
    needs: Callable[[Job, Plan], tuple[str, ...]]


def _pressed(job: Job, made: Plan) -> str:
    press = job.build_up.press
    if press == "vacuum":
        return "a vacuum bag and pump"
    if press == "band":
        return "a band clamp"
    count = clamps_needed(
        pressure_mpa=adhesive(job.build_up.adhesive).pressure_mpa_low,
        width_mm=job.part.width_mm,
        length_mm=made.curves.on_form.length_mm + 2 * made.quantities.trim_mm,
        clamp=clamp_table()[LIKELY_CLAMP],
    )
    return f"about {count} F-clamps"


def _for_laminae(job: Job, made: Plan) -> tuple[str, ...]:
    return (
        "a saw that rips thin strips",
        "a form",
        _pressed(job, made),
        f"{made.quantities.glue_g.value:.0f} g of glue",
    )


def _for_sheets(job: Job, made: Plan) -> tuple[str, ...]:
    bought = ", ".join(f"{c.sheets} × {c.sheet.name.lower()}" for c in made.quantities.sheets)
    return (bought, "a form", _pressed(job, made), f"{made.quantities.glue_g.value:.0f} g of glue")


def _as_heat(key: str, job: Job) -> Job:
    """The job bent with heat, with ends long enough to bend by where it is steamed."""
    ends = max(job.part.trim_mm, 150.0, 3 * job.part.thickness_mm) if HEAT_WAYS[key].source == "steam" else None
    part = job.part.model_copy(update={"trim_mm": ends}) if ends and key != "straighten" else job.part
    return job.model_copy(update={"way": key, "part": part})


def _for_heat(way: HeatWay, job: Job, made: Plan) -> tuple[str, ...]:
    heat = made.heat
    if heat is None:
        return ()
    if way.source == "steam":
        tools = [f"a vented chamber and {job.heat.power_kw:g} kW of steam"]
        tools += ["a steel strap with tight stops", "a lever or winch"] if way.has_strap else ["strong hands"]
    else:
        tools = ["a heat blanket and spring-steel slats"] if way.source == "blanket" else ["a hot iron or pipe"]
    tools.append("blocks and clamps" if way.key == "straighten" else "a form and a drying frame")
    return tuple(tools)


WAY_ROWS: tuple[Row, ...] = (
    Row(
        "cold_lamination",
        "Cold lamination",
        "Thin strips of the wood itself, bent dry and glued to one another on a form.",
        as_laminae,
        _for_laminae,
    ),
    Row(
        "sheet_layup",
        "Sheet lay-up",
        "Flexible plywood between veneers, glued on a form: light, quick, wide; its edges show.",
        as_sheets,
        _for_sheets,
    ),
    Row(
        "steam_laminae",
        "Steamed, dried in shape, laminated",
        "Laminae steamed and dried on the form, then glued: hardly any springback, thicker laminae.",
        lambda job: as_laminae(job).model_copy(update={"way": "steam_laminae"}),
        lambda job, made: ("a steam chamber", *_for_laminae(job, made), "days to dry in shape between"),
    ),
    *(Row(w.key, w.name, w.says, partial(_as_heat, w.key), partial(_for_heat, w)) for w in HEAT_WAYS.values()),
)


def compare_ways(job: Job, shop: Shop | None = None, learnt: Learnt = NOTHING_LEARNT) -> tuple[WayReading, ...]:
    """Every way for this job, in the order of the table. A way that cannot be is a row that says why."""
    shop = shop or Shop()
    return tuple(_reading(row, job, shop, learnt) for row in WAY_ROWS)


def _reading(row: Row, job: Job, shop: Shop, learnt: Learnt) -> WayReading:
    chosen = row.key == job.way
    try:
        turned = row.turned(job)
        made = plan(turned, shop, learnt)
    except OutOfRange as error:
        return WayReading(
            row.key, row.name, row.says, "stop", error.says(shop.units),
            None, None, None, None, None, (), "", None, chosen,
        )  # fmt: skip
    stages = [f for f in made.findings if f.stage in ("build_up", "stock") and f.code not in SET_UP]
    level = worst([f.level for f in stages])
    reason = max(stages, key=lambda f: LEVELS.index(f.level)).says if stages else "Nothing against it."
    quantities = made.quantities
    cure = made.heat.after.dry_days.likely if made.heat else adhesive(turned.build_up.adhesive).full_cure_h / 24
    if row.key == "steam_laminae":
        cure += 2 * turned.part.thickness_mm / max(2, turned.build_up.laminae) / 25 + 2
    return WayReading(
        key=row.key,
        name=row.name,
        says=row.says,
        level=level,
        because=reason,
        tip_mm=made.springback.tip_mm,
        days=quantities.press_days + cure,
        pieces=quantities.pieces + quantities.spares,
        wood_m3=quantities.stock.volume_m3,
        sheets_m2=quantities.sheet_m2,
        needs=row.needs(turned, made),
        changes=_changes(job, turned, shop),
        sets={name: getattr(turned, name).model_dump() for name in ("part", "build_up")} | {"way": row.key},
        chosen=chosen,
    )


def _changes(job: Job, turned: Job, shop: Shop) -> str:
    from ..ground.units import format_length

    if abs(turned.part.thickness_mm - job.part.thickness_mm) > 0.01:
        return f"The part becomes {format_length(turned.part.thickness_mm, shop.units)} thick, as the sheets add up."
    return ""
