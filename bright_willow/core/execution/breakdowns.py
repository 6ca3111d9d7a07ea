"""Something breaks down in a run: what to do at once, and how long each piece stays usable, what to save first."""

from __future__ import annotations

import tomllib
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Literal

import numpy as np

from ..common.errors import PlanError
from ..common.operation import Operation
from .bench_status import Live, LoadStatus
from .core_temperature import HeatHistory, core_c
from .game import COLD_K
from .run_plan import RunPlan
from .run_state import State
from .simulated_chamber import Inside, stepped

Needs = Literal["steam", "glue", "bag", "strap", "iron", "any"]
LOOKED_S, STEP_S = 3_600.0, 30.0  # how far ahead the cooling of a shut box is followed, and how finely


@dataclass(frozen=True, slots=True)
class Breakdown:
    """Something that can break down: what it is called, what a run needs for it, what it costs, what to do at once."""

    key: str
    name: str
    of: Needs
    saves: Literal["heat", "glue", "people", "nothing"]
    do: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class TimeLeft:
    """How a load stands. until_s: by the run's clock, until when that holds; None where no time runs out."""

    name: str
    message: str
    until_s: float | None


@cache
def breakdowns() -> dict[str, Breakdown]:
    """Return everything that can break down, by key."""
    data = tomllib.loads((files(__package__) / "data" / "breakdowns.toml").read_text("utf-8"))
    return {key: Breakdown(key=key, **{**row, "do": tuple(row["do"])}) for key, row in data["breakdown"].items()}


def breakdowns_of(brief: RunPlan) -> tuple[Breakdown, ...]:
    """Return what can break down in a run, by what its steps use."""
    used = {hold.what for o in brief.operations for hold in o.takes}
    has = {
        "steam": any(o.warms for o in brief.operations),
        "glue": any(o.kind == "cure" for o in brief.operations),
        "bag": "bag" in used,
        "strap": "strap" in used,
        "iron": "iron" in used,
        "any": True,
    }
    return tuple(b for b in breakdowns().values() if has[b.of])


def time_left(key: str, brief: RunPlan, state: State, seen: Live) -> tuple[TimeLeft, ...]:
    """Return how long each load stays usable in a breakdown, that with the least time first.

    Raises: PlanError for a breakdown this run cannot have.
    """
    known = {b.key: b for b in breakdowns_of(brief)}
    if key not in known:
        raise PlanError("breakdown", "Choose what has gone wrong from the list.")
    told: list[TimeLeft] = []
    for load in seen.pieces:
        left = _load_left(known[key], brief, state, load)
        if left is not None:
            told.append(left)
    if known[key].saves == "people":
        told += [
            TimeLeft(t.whom[:1].upper() + t.whom[1:] or "All pieces", f"Wait with “{t.operation.name}”.", t.latest_s)
            for t in (seen.now, *seen.also, *seen.next)
            if t and t.operation.hands > 1 and not t.is_running
        ][:1]
    return tuple(sorted(told, key=lambda t: float("inf") if t.until_s is None else t.until_s))


def _load_left(what: Breakdown, brief: RunPlan, state: State, load: LoadStatus) -> TimeLeft | None:
    if load.phase in ("out", "done", "rest"):
        return None
    if what.saves in ("heat", "people") and load.core is not None and load.goal_c is not None:
        return _in_the_heat(what, brief, state, load)
    if load.over_s is not None:
        return TimeLeft(load.name, f"Go on with it first: {load.over_text} is running.", load.over_s)
    pressed = _pressed(brief, state, load) if what.saves == "glue" else None
    if pressed is not None:
        late = "Its glue has set too far to be pressed again: leave it alone until it is cured."
        message = "Press it again before its glue sets." if pressed > state.now_s else late
        return TimeLeft(load.name, message, pressed if pressed > state.now_s else None)
    return None


def _in_the_heat(what: Breakdown, brief: RunPlan, state: State, load: LoadStatus) -> TimeLeft:
    """How a load in the steam stands: heated through or not, and until when it can be bent."""
    assert load.core is not None and load.goal_c is not None
    is_hot = load.core.hot_s is not None and load.core.hot_s <= state.now_s
    if what.saves == "people":
        when = load.latest_s if is_hot else load.core.hot_s
        return TimeLeft(load.name, "Leave it in the steam." if is_hot else "Not heated through yet.", when)
    if not is_hot:
        return TimeLeft(load.name, "Not heated through: leave it in, door shut, and steam it on when you can.", None)
    until = usable_until_s(brief, state, load.number)
    return TimeLeft(load.name, "Heated through: bend it now, or leave it in the shut box no longer than this.", until)


def usable_until_s(brief: RunPlan, state: State, number: int) -> float | None:
    """Return until when a load can be bent that stays in a shut box without steam; None where it is not in the heat.

    The box cools from its planned heat as its stand-in does, the middle of the piece follows by conduction, until it is
    5 K below its goal; nothing is promised beyond an hour.
    Source: docs/model.md#breakdowns. Grade: physics on allowance.
    """
    mark, warms = _heated_since(brief, state, number)
    if mark is None or warms is None or warms.warms is None:
        return None
    bar, now = warms.warms, state.now_s
    times, shown = [mark], [bar.chamber_c]
    if brief.chamber is not None:
        inside = Inside(bar.chamber_c, bar.chamber_c, 0.0)
        for step in np.arange(now, now + LOOKED_S, STEP_S):
            inside = stepped(brief.chamber, inside, STEP_S, is_lit=False)
            times.append(float(step))
            shown.append(inside.air_c)
    else:  # a box nothing is known of: as cold as the wood was
        times.append(now)
        shown.append(bar.start_c)
    ahead = np.arange(now, now + LOOKED_S, STEP_S)
    warm = core_c(bar, HeatHistory(np.array(times), np.array(shown)), ahead)
    cold = np.flatnonzero(warm < bar.goal_c - COLD_K)
    return float(ahead[cold[0]] if cold.size else ahead[-1])


def _heated_since(brief: RunPlan, state: State, number: int) -> tuple[float | None, Operation | None]:
    for (key, own), mark in state.marks.items():
        if own == number and mark.to_s is None and brief.of[key].warms:
            return mark.from_s, brief.of[key]
    return None, None


def _pressed(brief: RunPlan, state: State, load: LoadStatus) -> float | None:
    """Until when the glue of a load under pressure may still be pressed anew: the closed time from its spreading."""
    for o in brief.operations:
        mark = state.marks.get((o.key, load.number))
        if o.window is not None and mark is not None and mark.to_s is not None:
            since = state.marks.get((o.window.since, load.number))
            if since is not None:
                return since.from_s + o.window.seconds
    return None
