"""What a run has to say of itself: what is late, too cool or too long in the heat."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from ..common.findings import Finding, gravest_first
from ..common.units import Unit, format_temperature
from .bench_status import BenchTask
from .core_temperature import STALE_S, CoreTemperature
from .run_clock import said_s
from .run_plan import RunPlan
from .run_state import State


def run_findings(
    brief: RunPlan,
    state: State,
    now: BenchTask | None,
    cores: Mapping[int, CoreTemperature],
    readings: Sequence[tuple[float, float]],
    probe: bool,
    unit: Unit,
) -> tuple[Finding, ...]:
    """Return what is not as it should be in a run now, the gravest first.

    Args:
        brief: the plan of the run.
        state: where the run stands.
        now: the one thing to do; None while there is nothing.
        cores: the middle of each load that is in the heat.
        readings: of the chamber's thermometer, time and °C, in order.
        probe: whether a thermometer belongs to the run.
        unit: of the reader.
    """
    made: list[Finding] = []
    if now is not None:
        made += _of_task(now, state.now_s)
    warms = next((o.warms for o in brief.operations if o.warms), None)
    last = next((r for r in reversed(readings) if r[0] <= state.now_s), None)
    if warms and cores and (probe or readings):
        if last is None or state.now_s - last[0] > STALE_S:
            age = f"for {said_s(state.now_s - last[0])}" if last else "since the start"
            message = "The steam box thermometer is silent: “heated through” follows the plan."
            made.append(Finding("bench.silent", "watch", "bench", message, f"No reading {age}."))
        elif last[1] < warms.goal_c:
            message = "The steam box is too cool to heat the wood through."
            goal = format_temperature(warms.goal_c, unit)
            reason = f"It reads {format_temperature(last[1], unit)}; the middle must reach {goal}."
            made.append(Finding("bench.cool", "stop", "bench", message, reason))
    return gravest_first(made)


def _of_task(task: BenchTask, now_s: float) -> list[Finding]:
    made = []
    if task.is_running and task.over_s is not None and now_s > task.over_s:
        message = f"Longer than {task.over_text} by {said_s(now_s - task.over_s)}."
        made.append(
            Finding("bench.window", "stop", "bench", message, "Carry on, and look for cracks or starved joints.")
        )
    if not task.is_running and task.due_s is not None:
        if task.latest_s is not None and now_s > task.latest_s:
            message = f"{said_s(now_s - task.latest_s)} past the latest time: it has been in the heat too long."
            made.append(Finding("bench.latest", "stop", "bench", message, "Thin wood gets brittle."))
        elif task.soonest_s is None and task.operation.window and task.latest_s is not None:
            message = "At this temperature it will not heat through."
            made.append(Finding("bench.never", "stop", "bench", message, "Check the water, the heat and the vent."))
        elif task.soonest_s is not None and now_s < task.soonest_s:
            message = f"Not heated through yet: {said_s(task.soonest_s - now_s)} more."
            made.append(
                Finding("bench.not_through", "watch", "bench", message, "Taken out now, it is cold in the middle.")
            )
    return made
