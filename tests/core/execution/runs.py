"""Runs to try things on: a steamed job and a glue-up of the sample shop, and somebody who taps."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cache

from bright_willow.core.execution.bench_status import Live
from bright_willow.core.execution.events import Event
from bright_willow.core.execution.live import live
from bright_willow.core.execution.run_plan import RunPlan, brief_of
from bright_willow.core.execution.run_state import State, state_of
from bright_willow.core.plan.plan import plan
from bright_willow.demo.marrow_lane import EXAMPLES, SHOP

T0 = 1_764_000_000.0
GLUED, STEAMED = 4, 13


@cache
def brief(number: int = STEAMED) -> RunPlan:
    """Of a sample job."""
    return brief_of(plan(EXAMPLES[number].job, SHOP), places=2, people=2, started_s=T0)


@dataclass
class Bench:
    """Somebody at the bench: taps are told at their time, seconds from the start."""

    brief: RunPlan
    events: list[Event] = field(default_factory=list)
    at: float = 0.0

    def tap(self, kind: str, key: str = "", number: int = -1, *, at: float | None = None, **more: object) -> Event:
        self.at = self.at if at is None else at
        made = Event(T0 + self.at, kind, f"c{len(self.events):05}", key, number, **more)  # type: ignore[arg-type]
        self.events.append(made)
        return made

    def state(self, at: float | None = None) -> State:
        return state_of(self.brief, self.events, T0 + (self.at if at is None else at))

    def live(
        self, at: float | None = None, readings: Sequence[tuple[float, float]] = (), *, probe: bool = False
    ) -> Live:
        return live(self.brief, self.state(at), readings, probe=probe)

    def all_before(self, key: str) -> None:
        """Everything that comes before an operation of the first piece is done."""
        for o in self.brief.operations:
            if o.key == key:
                return
            if o.attended_s.likely:
                self.tap("done", o.key, -1 if o.scope == "job" else 0)


def seconds(state: State, key: str, number: int = 0) -> tuple[float, float | None]:
    """From when to when something was done, seconds from the start."""
    mark = state.marks[key, number]
    return mark.from_s - T0, None if mark.to_s is None else mark.to_s - T0
