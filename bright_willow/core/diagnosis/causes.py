"""Why did it fail? What is seen on a piece, and its causes ranked by what speaks for and against each in this plan and
this run. Symptoms, causes and their weights are a table (`data/causes.toml`)."""

from __future__ import annotations

import math
import tomllib
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Any

import numpy as np

from ..common.errors import PlanError
from ..common.estimate import Grade
from ..common.findings import Change
from ..common.units import format_pressure, format_temperature
from ..execution.run_records import PieceRecord
from ..form.kinds import KINDS
from ..heat.limits import moisture_of
from ..heat.steam_plan import SteamHeat
from ..plan.result import Plan
from ..workpiece.bend import Springback

SAID_WEIGHT = 2.5  # of what somebody saw with their own eyes
ABSENT = 0.5  # of a finding's weight, where the plan does not say it
LIKELY, POSSIBLE = 0.35, 0.12  # share of the odds from which a cause is called so. Grade: allowance.
CORNER = 0.1  # of a jump of curvature times thickness, from which it is a corner. Grade: allowance.
SCORCHES_C = 190.0
TRIM_MORE_MM, SPARES_MORE, LONGER, SHORTER = 50.0, 1, 1.25, 0.85


@dataclass(frozen=True, slots=True)
class Symptom:
    """Something seen on a piece. of: laid_up, hot, both, or matched for forms with an outer half; drawing: its key."""

    key: str
    name: str
    of: str
    drawing: str


@dataclass(frozen=True, slots=True)
class FactRow:
    """A figure that speaks for a cause: with full weight from `from_` on (above it or below it), and with full weight
    against where it is well clear."""

    fact: str
    weight: float
    is_above: bool
    from_: float
    clear: float

    def speaks(self, value: float) -> float:
        """−1 … 1: against, for, between them evenly."""
        span = self.from_ - self.clear
        return float(np.clip(2 * (value - self.clear) / span - 1, -1.0, 1.0))


@dataclass(frozen=True, slots=True)
class Cause:
    """One thing that brings symptoms about. Grade: allowance."""

    key: str
    name: str
    brings: Mapping[str, float]
    facts: tuple[FactRow, ...]
    findings: Mapping[str, float]
    said: str
    look: str
    next: str
    change: str
    of_trait: str  # “strap”, “bag”: only where there is one; “free”: only where there is no strap


@dataclass(frozen=True, slots=True)
class Fact:
    """A figure of this plan or run: its value, and what it says."""

    value: float
    message: str
    grade: Grade = "allowance"


@dataclass(frozen=True, slots=True)
class Evidence:
    """What speaks for a cause (above 0) or against it."""

    weight: float
    message: str


@dataclass(frozen=True, slots=True)
class RankedCause:
    """A cause with what is known of it here. share: of the odds of all causes of what was seen; said: what was
    answered."""

    cause: Cause
    share: float
    speaks: tuple[Evidence, ...]
    said: bool | None
    change: Change | None

    @property
    def word(self) -> str:
        """How likely, in a word."""
        return "likely" if self.share >= LIKELY else "possible" if self.share >= POSSIBLE else "less likely"


@cache
def table() -> tuple[dict[str, Symptom], dict[str, Cause]]:
    """Every symptom and every cause, by key. Grade: allowance; source: the file's own words."""
    data = tomllib.loads((files(__package__) / "data" / "causes.toml").read_text("utf-8"))
    seen = {k: Symptom(k, **row) for k, row in data["symptom"].items()}
    made = {}
    for key, row in data["cause"].items():
        facts = tuple(FactRow(f, w, side == "above", a, b) for f, w, side, a, b in row.get("facts", ()))
        made[key] = Cause(
            key,
            row["name"],
            row["brings"],
            facts,
            row.get("findings", {}),
            row.get("said", ""),
            row["look"],
            row["next"],
            row.get("change", ""),
            row.get("of_trait", ""),
        )
    return seen, made


def symptoms_of(plan: Plan) -> tuple[Symptom, ...]:
    """What can be seen on a piece bent this way."""
    own = {"both"} | ({"laid_up"} if plan.laid_up else set()) | ({"hot"} if plan.hot else set())
    own |= {"matched"} if KINDS[plan.form.kind].has_opposite else set()
    return tuple(s for s in table()[0].values() if s.of in own)


def causes_of(
    symptom: str,
    plan: Plan,
    record: PieceRecord | None = None,
    said: Mapping[str, bool] | None = None,
    facts: Mapping[str, Fact] | None = None,
) -> tuple[RankedCause, ...]:
    """Causes of what is seen, the likeliest first. record: of the piece, from its run; said: answers to what can only
    be seen, by cause; facts: in place of those of plan and record.

    Weights are logarithms of odds and add up. Raises: PlanError for a symptom there is not. Grade: allowance.
    """
    seen, causes = table()
    if symptom not in seen:
        raise PlanError("symptom", "Choose what you see from the list.")
    known = facts_of(plan, record) if facts is None else facts
    answers = said or {}
    traits = {"strap" if _strap(plan) is not None else "free"} | ({"bag"} if plan.site.press == "vacuum" else set())
    found = {f.code: f for f in plan.findings if f.level != "fit"}
    scored = []
    for cause in causes.values():
        often = cause.brings.get(symptom, 0.0)
        if not often or (cause.of_trait and cause.of_trait not in traits):
            continue
        speaks = [
            Evidence(row.weight * row.speaks(known[row.fact].value), known[row.fact].message)
            for row in cause.facts
            if row.fact in known
        ]
        for code, weight in cause.findings.items():
            if code in found:
                speaks.append(Evidence(weight, found[code].message.rstrip(".")))
            elif not any(s.weight > 0 for s in speaks):
                speaks.append(Evidence(-ABSENT * weight, ""))
        answer = answers.get(cause.key)
        if answer is not None:
            speaks.append(Evidence(SAID_WEIGHT if answer else -SAID_WEIGHT, cause.said or cause.look))
        score = math.log(often) + sum(s.weight for s in speaks)
        told = tuple(s for s in speaks if s.message and abs(s.weight) > 0.2)
        scored.append((score, cause, told, answer))
    scored.sort(key=lambda s: -s[0])
    whole = sum(math.exp(s[0]) for s in scored) or 1.0
    return tuple(
        RankedCause(c, math.exp(score) / whole, told, answer, change_for(c, plan)) for score, c, told, answer in scored
    )


# -- what is known -----------------------------------------------------------------------------------------------------
def facts_of(plan: Plan, record: PieceRecord | None = None) -> dict[str, Fact]:
    """Figures of a plan, and of a piece's run where there was one, that tell causes apart. A figure that is not known
    is left out."""
    made = {"use": Fact(plan.make.use.worst.value, f"{plan.make.use.worst.value:.0%} of breaking strain")}
    slope = plan.job.stock.grain_slope
    steep = f"grain run-out 1 in {1 / slope:.0f}" if slope else "straight grain"
    made["run_out"] = Fact(slope, steep)
    made["figured"] = Fact(float(plan.job.stock.figured), "figured wood" if plan.job.stock.figured else "plain wood")
    made["corner"] = _corner(plan)
    if plan.bend.loss_ratio.grade == "learned":
        made["believes"] = Fact(3.0, "springback from your own bends", "learned")
    else:
        made["believes"] = Fact(0.0, "springback without any bend of yours")
    made |= _of_the_heat(plan, record)
    made |= _of_the_glue(plan, record)
    return made


def _strap(plan: Plan) -> Any:
    heat = plan.hot.heat if plan.hot else None
    return heat.strap if isinstance(heat, SteamHeat) else None


def _corner(plan: Plan) -> Fact:
    """The largest jump of curvature within the piece, times its thickness."""
    curvature = plan.bend.target.merged().curvature
    jump = float(np.abs(np.diff(curvature)).max()) if curvature.size > 1 else 0.0
    value = jump * plan.job.part.thickness_mm / CORNER
    return Fact(
        value, "straight meets arc without a transition" if value > 0.5 else "no corner in the curve", "physics"
    )


def _of_the_heat(plan: Plan, record: PieceRecord | None) -> dict[str, Fact]:
    hot = plan.hot
    if hot is None:
        return {}
    made: dict[str, Fact] = {}
    unit = plan.way.shop.units
    moisture = moisture_of(plan.job.stock)
    made["moisture_hot"] = Fact(moisture, f"about {moisture:.0f} % moisture")
    on_form = hot.drying.on_form_h
    if record and record.on_form_s is not None:
        share = record.on_form_s / 3600 / on_form if on_form else 1.0
        made["on_form_share"] = Fact(share, f"{record.on_form_s / 3600:.1f} h on the form; {on_form:.0f} planned")
    heat = hot.heat
    if not isinstance(heat, SteamHeat):
        made["surface_over_k"] = Fact(
            heat.surface_c - SCORCHES_C, f"surface at {format_temperature(heat.surface_c, unit)}"
        )
        return made
    time, steam = heat.steam.time, heat.steam
    minutes = record.steamed_s / 60 if record and record.steamed_s is not None else time.planned_min
    how = "in the steam" if record and record.steamed_s is not None else "planned in the steam"
    message = f"{minutes:.0f} min {how}, heated through after {time.earliest_min:.0f}"
    made["steam_share"] = Fact(minutes / time.earliest_min if time.earliest_min else 2.0, message)
    latest = time.latest_min if time.latest_min is not None else 2 * max(time.planned_min, time.earliest_min)
    made["steam_long"] = Fact(minutes / latest, f"{minutes:.0f} min {how}; {latest:.0f} at the latest")
    if record and record.chamber_c is not None:
        over = record.chamber_c - steam.warms.goal_c
        made["chamber_over_k"] = Fact(over, f"the box averaged {format_temperature(record.chamber_c, unit)}", "physics")
        if record.chamber_low_c is not None:
            dip = record.chamber_c - record.chamber_low_c
            made["chamber_dip_k"] = Fact(
                dip, f"the box fell to {format_temperature(record.chamber_low_c, unit)}", "physics"
            )
    else:
        over = steam.chamber_c - steam.warms.goal_c
        made["chamber_over_k"] = Fact(over, f"the box is planned at {format_temperature(steam.chamber_c, unit)}")
    if not heat.in_bag:
        took = record.to_form_s if record and record.to_form_s is not None else steam.handling_s
        what = (
            "from the box to the last clamp"
            if record and record.to_form_s is not None
            else "planned from the box to the form"
        )
        made["window_used"] = Fact(took / steam.window_s, f"{took:.0f} s {what}; working time {steam.window_s:.0f} s")
    if heat.strap is None:
        made["free_use"] = Fact(
            plan.make.use.worst.value, f"bent without a strap, at {plan.make.use.worst.value:.0%} of its limit"
        )
    elif heat.strap.grip_n is not None:
        share = heat.strap.grip_n / heat.strap.thrust_n
        made["grip"] = Fact(share, f"the stops hold {share:.1f} × the end pressure")
    else:
        made["grip"] = Fact(3.0, "the stops are welded or bolted")
    return made


def _of_the_glue(plan: Plan, record: PieceRecord | None) -> dict[str, Fact]:
    made: dict[str, Fact] = {}
    laid_up, glued = plan.laid_up, plan.glued_up
    if laid_up is None or glued is None:
        return made
    close = next((o for o in plan.operations if o.window and o.window.since != o.key), None)
    if close and close.window:
        took = record.open_s if record and record.open_s is not None else glued.race.lasts_s
        what = "until there was pressure" if record and record.open_s is not None else "planned until there is pressure"
        share = took / close.window.seconds
        made["open_share"] = Fact(share, f"{took / 60:.0f} min {what}; the glue allows {close.window.seconds / 60:.0f}")
    unit = plan.way.shop.units
    over = glued.temperature_c - laid_up.glue.min_temp_c
    made["glue_over_k"] = Fact(
        over,
        f"glued at {format_temperature(glued.temperature_c, unit)}; the glue needs "
        f"{format_temperature(laid_up.glue.min_temp_c, unit)}",
    )
    planned = laid_up.press_h + laid_up.warm_h
    if record and record.on_form_s is not None and planned:
        share = record.on_form_s / 3600 / planned
        made["on_form_share"] = Fact(share, f"{record.on_form_s / 3600:.1f} h under pressure; {planned:.0f} planned")
    pressure = laid_up.press.pressure_mpa
    if pressure is not None:
        has = record.pressure_kpa / 1000 if record and record.pressure_kpa is not None else pressure.value
        glue = laid_up.glue
        wants = (
            f"the glue needs {format_pressure(glue.pressure_mpa_low, unit)} to "
            f"{format_pressure(glue.pressure_mpa_high, unit)}"
        )
        made["pressure_share"] = Fact(has / glue.pressure_mpa_low, f"{format_pressure(has, unit)}; {wants}")
        made["pressed_share"] = Fact(has / glue.pressure_mpa_high, f"{format_pressure(has, unit)}; {wants}")
        if record and record.pressure_kpa is not None:
            fell = 1 - has / pressure.value if pressure.value else 0.0
            made["vacuum_fell"] = Fact(fell, f"the gauge averaged {format_pressure(has, unit)}")
    stock = plan.job.stock
    moisture = stock.moisture_pct if stock.moisture_pct is not None else None
    if moisture is not None:
        made["moisture_glue"] = Fact(moisture, f"{moisture:.0f} % moisture when it was glued")
    opens = plan.bend.opens
    if isinstance(opens, Springback):
        made["loss"] = Fact(opens.loss_share.likely, f"planned to lose {opens.loss_share.likely:.1%} of its bend")
    return made


# -- what to change ----------------------------------------------------------------------------------------------------
def change_for(cause: Cause, plan: Plan) -> Change | None:
    """What one press would change of the job next time: what a finding of the plan suggests, else the cause's own."""
    for code in cause.findings:
        for f in plan.findings:
            if f.code == code and f.level != "fit" and f.fix is not None:
                return f.fix
    make = CHANGES.get(cause.change)
    return make(plan) if make else None


def _longer_steam(plan: Plan) -> Change | None:
    return _steam(plan, LONGER)


def _shorter_steam(plan: Plan) -> Change | None:
    return _steam(plan, SHORTER)


def _steam(plan: Plan, times: float) -> Change | None:
    heat = plan.hot.heat if plan.hot else None
    if not isinstance(heat, SteamHeat):
        return None
    minutes = float(round(max(heat.steam.time.planned_min * times, math.ceil(heat.steam.time.earliest_min))))
    return Change(f"Steam it {minutes:.0f} min.", {"heat.school": "own_trials", "heat.own_min": minutes})


def _more(field: str, message: str, by: float, most: float) -> Callable[[Plan], Change | None]:
    room, name = field.split(".")

    def made(plan: Plan) -> Change | None:
        value = getattr(getattr(plan.job, room), name) + by
        return Change(message.format(value=value), {field: value}) if value <= most else None

    return made


def _thinner(plan: Plan) -> Change | None:
    if plan.laid_up is None or plan.job.build_up.lay_up != "equal":
        return None
    count = plan.job.build_up.laminae + 2
    return Change(f"Use {count} strips.", {"build_up.laminae": count, "build_up.lamina_mm": None})


def _soak(plan: Plan) -> Change | None:
    if plan.hot is None or plan.job.heat.soaked == "days" or plan.job.stock.dryness == "green":
        return None
    return Change("Pre-soak it for days.", {"heat.soaked": "days"})


def _longer_on_form(plan: Plan) -> Change | None:
    if plan.hot is None or plan.laid_up is not None:
        return None
    hours = float(math.ceil(plan.hot.drying.on_form_h * 1.5))
    return Change(f"Leave it {hours:.0f} h on the form.", {"heat.on_form_h": hours})


CHANGES: dict[str, Callable[[Plan], Change | None]] = {
    "thinner": _thinner,
    "soak": _soak,
    "longer_steam": _longer_steam,
    "shorter_steam": _shorter_steam,
    "longer_on_form": _longer_on_form,
    "more_spares": _more("part.spares", "Prepare {value} spares.", SPARES_MORE, 50),
    "more_hands": _more("heat.hands", "Work with {value} people.", 1, 4),
    "more_glue_hands": _more("glue_up.hands", "Work with {value} people.", 1, 8),
    "more_trim": _more("part.trim_mm", "Leave {value:.0f} mm more to trim at each end.", TRIM_MORE_MM, 1_000),
}
