"""What is pointed at on the schedule: in words, with what can be done about it."""

from __future__ import annotations

from dataclasses import dataclass

from ..calendar.schedule_messages import of_whom, when, why_text
from ..core.scheduling.job_tasks import ScheduledTask
from ..drawing.days_drawing import bar_name
from ..drawing.steps import lasting, roughly
from ..services.schedule import ShopDays
from .forms.fields import Field
from .forms.form_spec import FieldView


@dataclass(frozen=True)
class BarDetails:
    """What is pointed at: in words, with what can be done about it. at: the beginning as an input has it."""

    name: str
    key: str
    number: int
    title: str
    whom: str
    lasts: str
    span: str
    why: str
    state: str
    at: str
    now: str
    is_next: bool
    takes: str
    then: tuple[str, ...]

    def pin_at(self, fault: str) -> FieldView:
        """Return the input of the time it is to begin at, with what is wrong with the time asked for."""
        return FieldView(Field("at", "Start at", "moment"), self.at, fault, prefix="pin")

    @property
    def done_at(self) -> FieldView:
        """The input of the time it began or ended."""
        return FieldView(Field("at", "When did it happen?", "moment"), self.now, prefix="done")


def bar_of(days: ShopDays, doing: ScheduledTask, *, is_next: bool = False) -> BarDetails:
    """A bar in words."""
    work, wall = days.works[doing.job], days.wall
    near = wall.at(doing.from_s).date()
    o = doing.operation
    lasts = [f"about {roughly(doing.hands_to_s - doing.from_s)} hands-on"] if o.attended_s.likely else []
    if doing.to_s > doing.hands_to_s:
        lasts.append(
            f"{lasting(doing.to_s - doing.hands_to_s)} unattended" + ("" if o.may_run_alone else ", someone nearby")
        )
    return BarDetails(
        bar_name(doing),
        o.key,
        doing.number,
        o.name,
        of_whom(doing, work),
        " and ".join(lasts) or "no time at all",
        f"{when(wall, doing.from_s, near=days.today)} to {when(wall, doing.to_s, near=near)}",
        why_text(doing, days.table, days.works, wall),
        doing.state,
        wall.written(doing.from_s),
        wall.written(days.now_s),
        is_next,
        ", ".join(hold.name for hold in o.takes),
        _then(days, doing),
    )


def _then(days: ShopDays, doing: ScheduledTask) -> tuple[str, ...]:
    """What follows without a wait, each with when it begins."""
    run = [d for d in days.table.doings if doing.run >= 0 and d.run == doing.run and d.from_s >= doing.to_s - 1]
    near = days.wall.at(doing.from_s).date()
    return tuple(
        f"{when(days.wall, d.from_s, near=near)} {d.operation.name[0].lower()}{d.operation.name[1:]}" for d in run
    )
