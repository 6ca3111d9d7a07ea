"""What is done, in order: a job's operations as lines to read, to print and to lay out by."""

from __future__ import annotations

from dataclasses import dataclass

from ..core.common.estimate import Grade
from ..core.common.operation import Operation
from ..core.plan.result import Plan

MINUTE_S, HOUR_S, DAY_S = 60.0, 3600.0, 86_400.0
SCOPES = {"job": "once", "batch": "for each batch", "piece": "for each piece"}


@dataclass(frozen=True)
class Step:
    """One operation in words."""

    number: int
    name: str
    scope: str
    is_per_piece: bool
    attended: str
    by_itself: str
    grade: Grade
    hands: str
    waits: str
    holds: str
    steps: tuple[str, ...]
    lay_out: tuple[str, ...]
    record: tuple[str, ...]
    cautions: tuple[str, ...]


def lasting(seconds: float) -> str:
    """A time as it is said: seconds, minutes, hours or days.

    >>> lasting(40), lasting(600), lasting(5 * 3600), lasting(2 * 86400)
    ('40 s', '10 min', '5 h', '2 days')
    """
    if seconds < 2 * MINUTE_S:
        return f"{seconds:.0f} s"
    if seconds < 2 * HOUR_S:
        return f"{seconds / MINUTE_S:.0f} min"
    if seconds < 1.5 * DAY_S:
        return f"{seconds / HOUR_S:.1f}".removesuffix(".0") + " h"
    return f"{seconds / DAY_S:.1f}".removesuffix(".0") + " days"


def roughly(seconds: float) -> str:
    """A planned time without false precision: 5 s below a minute, minutes below ten, then 5 min, then half hours.

    >>> roughly(8), roughly(62), roughly(275), roughly(2760), roughly(5300)
    ('10 s', '1 min', '5 min', '45 min', '90 min')
    """
    for below, step in ((55.0, 5.0), (570.0, MINUTE_S), (87 * MINUTE_S, 5 * MINUTE_S)):
        if seconds < below:
            return lasting(max(step, round(seconds / step) * step)).replace("60 s", "1 min")
    return lasting(round(seconds / (HOUR_S / 2)) * HOUR_S / 2)


def steps_of(plan: Plan) -> list[Step]:
    """Every operation of a plan, numbered."""
    numbers = {o.key: i for i, o in enumerate(plan.operations, 1)}
    return [_step(o, numbers) for o in plan.operations]


def summary_of(plan: Plan) -> str:
    """How long it all takes, in a sentence."""
    pieces, took = plan.quantities.pieces + plan.quantities.spares, plan.elapsed
    days = f"{took.done_days:.0f} days" if took.done_days >= 2 else f"{took.done_days:.1f} days"
    return (
        f"{pieces} piece{'s' if pieces > 1 else ''}: about {roughly(3600 * took.attended_h)} hands-on, "
        f"done after {days}, at ten working hours a day."
    )


def _step(o: Operation, numbers: dict[str, int]) -> Step:
    return Step(
        numbers[o.key],
        o.name,
        SCOPES[o.scope],
        o.scope != "job",
        roughly(o.attended_s.likely) if o.attended_s.likely else "",
        _alone(o),
        o.attended_s.grade,
        f"{o.hands} people" if o.hands > 1 else "",
        _waits(o, numbers),
        ", ".join(hold.name for hold in o.takes),
        o.steps,
        o.lay_out,
        o.record,
        o.cautions,
    )


def _alone(o: Operation) -> str:
    if not o.unattended_s.likely:
        return ""
    return f"{roughly(o.unattended_s.likely)} unattended{'' if o.may_run_alone else ', someone nearby'}"


def _waits(o: Operation, numbers: dict[str, int]) -> str:
    said = []
    for after in o.after:
        if after.most_s == 0:
            said.append(f"straight after {numbers[after.key]}")
        elif after.least_s:
            said.append(f"{lasting(after.least_s)} after {numbers[after.key]}")
    return ", ".join(said)
