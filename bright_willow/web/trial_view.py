"""Test bends in words: their blanks, what they take, what they show."""

from __future__ import annotations

import math
from typing import Any

from ..core.common.errors import PlanError
from ..core.common.estimate import Grade
from ..core.common.units import Unit
from ..core.plan.result import Plan
from ..core.trials.trial import GroupComparison, Trial
from ..core.trials.trial_run import blanks, trial_takes
from .formatting import Formatter


def blanks_text(trial: Trial, plan: Plan | PlanError, unit: Unit) -> list[str]:
    """What to cut, in words."""
    if isinstance(plan, PlanError):
        return []
    w = Formatter(unit)
    return [f"{b.count} of {w.size(b.thickness_mm, b.width_mm, b.length_mm)}" for b in blanks(trial, plan)]


def takes_text(trial: Trial, plan: Plan | PlanError) -> str:
    """How long the open pieces take, in words."""
    if isinstance(plan, PlanError) or trial.done == len(trial.pieces):
        return ""
    made = trial_takes(trial, plan)
    days = max(1, math.ceil(made.done_days))
    return f"{made.attended_h:.1f} hours of work, done in {days} day{'' if days == 1 else 's'}"


def versus_text(trial: Trial, v: GroupComparison, unit: Unit) -> str:
    """One kind against another, in words."""
    if v.safer is not None:
        one, other = (trial.question.said(e.likely, unit) for e in (v.of_first, v.of_other))
        whole = f"9 of 10 pieces of {v.first} come out whole at {one}, of {v.other} at {other}"
        return f"{whole}; {v.first} is easier with a probability of {v.safer:.0%}."
    if trial.is_two_sided:
        one, other = (f"{e.likely:.0f} min ({e.low:.0f} to {e.high:.0f})" for e in (v.of_first, v.of_other))
        return f"{v.first} is best steamed {one}, {v.other} {other}."
    w = Formatter(unit)
    one, other = (w.length(e.likely) for e in (v.of_first, v.of_other))
    apart = v.apart
    if apart is None:
        return ""
    low, high = sorted((apart.low, apart.high))
    told = "they differ" if low > 0 or high < 0 else "too few pieces to tell them apart"
    message = f"{v.first} springs back {one}, {v.other} {other}: {w.length(apart.likely)} apart"
    return f"{message}, likely {w.length(low)} to {w.length(high)}; {told}."


def loading_rows(trial: Trial) -> list[tuple[int, str, str, str]]:
    """When each piece goes into the steam and comes out, the first in first: its number, two times, its minutes."""
    w, rows = Formatter("mm"), sorted(trial.loading(), key=lambda p: p.in_min)
    return [(p.number, f"{w.number(p.in_min)} min", f"{w.number(p.out_min)} min", f"{p.setting:.3g}") for p in rows]


def growth_text(trial: Trial, unit: Unit) -> list[tuple[str, Grade]]:
    """How springback grew after, in words, and how sure that is; nothing where too few were measured twice."""
    made = trial.growth()
    if made is None:
        return []
    w = Formatter(unit)
    ends = [w.length(e.likely) for e in (made.at[0], made.at[-1])]
    settings = sorted({p.setting for p in trial.pieces})
    first, last = (trial.question.said(s, unit) for s in (settings[0], settings[-1]))
    return [(f"In the weeks after it grew by {ends[0]} at {first} and by {ends[1]} at {last}.", made.slope.grade)]


def best_text(trial: Trial) -> list[tuple[str, Grade]]:
    """The best steaming time and both edges, in words; nothing before a piece is graded."""
    made = trial.best_time
    if made is None:
        return []
    short, best, long = (f"{e.likely:.0f} min" for e in (made.too_short, made.best, made.too_long))
    likely = f"likely {made.best.low:.0f} to {made.best.high:.0f}"
    message = f"Best steamed {best} ({likely}). Under {short} half would splinter; over {long} half would break short."
    return [(message, made.best.grade)]


def own_limit_text(wood: Any, has_strap: bool) -> str:
    if wood is None:
        return ""
    return f"{wood.rt_strap if has_strap else wood.rt_free:g}"
