"""What is written down when something has begun or is done: itself, and all that must have come before."""

from __future__ import annotations

from .blocks import tasks_of
from .job_tasks import CompletedTask, JobTasks, ScheduledTask


def implied_completions(work: JobTasks, doing: ScheduledTask, at_s: float, *, is_done: bool) -> list[CompletedTask]:
    """What is newly known, in the order of the work. What was never begun is done when this began, in no time: that it
    took none says that nobody saw it. Something done that nobody saw begin took as long as was planned.

    Valid: a doing of that work.
    """
    began = doing.from_s if doing.state == "begun" else at_s
    if is_done and doing.state != "begun":
        began = at_s - (doing.to_s - doing.from_s)
    tasks = tasks_of([work])
    at = next(i for i, t in enumerate(tasks) if (t.operation.key, t.number) == (doing.operation.key, doing.number))
    before, waiting = set[int](), [at]
    while waiting:
        for j, _ in tasks[waiting.pop()].after:
            if j not in before:
                before.add(j)
                waiting.append(j)
    made = []
    for task in (tasks[j] for j in sorted(before)):
        if task.done is None or task.done.to_s is None:
            since = began if task.done is None else min(began, task.done.from_s)
            made.append(CompletedTask(task.operation.key, task.number, since, began))
    return [*made, CompletedTask(doing.operation.key, doing.number, began, at_s if is_done else None)]
