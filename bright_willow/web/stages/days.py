"""Days: when each thing of this job happens among all the shop has to do, and how many forms pay."""

from __future__ import annotations

import contextlib
import datetime as dt
import json
from dataclasses import dataclass
from typing import Any

from markupsafe import Markup

from ...calendar.schedule_messages import day_of, of_whom, when
from ...calendar.shop_clock import week_of
from ...calendar.time_format import format_day
from ...core.common.errors import PlanError
from ...core.common.operation import AFTERWARDS, resource_name
from ...core.job.job import Job
from ...core.methods.method_registry import WAYS
from ...core.plan.what_if import CapacityChange, is_much, what_would_pay
from ...core.scheduling.job_tasks import JobTasks, ScheduledTask
from ...core.scheduling.peak_use import peak_use
from ...core.shop.shop import Shop
from ...drawing.days_drawing import ScheduleLanes, bar_name, days_svg, things_svg
from ...drawing.steps import lasting
from ...services.schedule import ShopDays
from ..bar_details import BarDetails, bar_of
from ..formatting import FigureGroup, FigureRow, Item, Note, TemplatePart
from ..forms.fields import Field, of_job
from ..summary_figures import Quantity
from .base import BoardView, StageContext, StagePage

FEWEST_DAYS, MOST_DAYS = 5, 14
FIELDS = (
    of_job("days.in_week", "On the shop's schedule"),
    of_job("days.begin_day", "Start no earlier than", "blank = now"),
    of_job("days.due_day", "Due by the end of", "blank = no due date"),
)
FORMS = {
    "glue_up.forms": of_job("glue_up.forms", "Forms"),
    "heat.forms": of_job("heat.forms", "Forms and straps"),
}


@dataclass(frozen=True)
class DayLine:
    """One thing on one day, as it is listed."""

    time: str
    until: str
    name: str
    whom: str
    hands: str
    state: str
    bar: str
    by_itself: str
    job: str = ""
    href: str = ""
    follows: bool = False
    is_work: bool = True


@dataclass(frozen=True)
class DayList:
    """A day with what begins on it."""

    day: str
    lines: tuple[DayLine, ...]
    iso: str
    has_heat: bool


@dataclass(frozen=True)
class PaysRow:
    """A choice of having more, in words."""

    message: str
    done: str
    sooner: str
    build: str
    pays: bool
    is_now: bool
    sets: str
    why_not: str
    share: float


def forms_field(job: Job) -> str:
    """The field that says how many forms a job has; empty where its way takes none."""
    return WAYS[job.way].forms_field


def _fields(job: Job, shop: Shop) -> tuple[Field, ...]:
    own = FORMS.get(forms_field(job))
    return (*FIELDS, own) if own else FIELDS


def days_of(look: StageContext) -> ShopDays | None:
    """The shop's days, where the page was given them."""
    made: ShopDays | None = look.more.get("days")
    return made


def lanes_of(days: ShopDays, jobs: tuple[int, ...], from_day: str, chosen: str, shown: int = 0) -> ScheduleLanes:
    """The days to draw: from the one asked for or today, as many as are needed and can be read, or as are shown."""
    own = [d for d in days.table.doings if d.job in jobs]
    counted = [d for d in own if d.operation.kind != AFTERWARDS] or own
    last = days.wall.at(max((d.to_s for d in counted), default=days.now_s)).date()
    first = days.today
    with contextlib.suppress(ValueError):
        first = dt.date.fromisoformat(from_day) if from_day else first
    first = min(max(first, days.wall.first - dt.timedelta(days=7)), days.today + dt.timedelta(days=480))
    count = min(MOST_DAYS, max(FEWEST_DAYS, (last - first).days + 1))
    return ScheduleLanes(days.table, days.works, days.wall, days.floor, jobs, first, shown or count, chosen)


def _lanes(look: StageContext, days: ShopDays) -> ScheduleLanes:
    more = look.more
    return lanes_of(days, (more["job_id"],), str(more.get("from", "")), str(more.get("bar", "")), more.get("shown", 0))


def _own(look: StageContext, days: ShopDays) -> list[ScheduledTask]:
    return [d for d in days.table.doings if d.job == look.more["job_id"]]


def _chosen(look: StageContext, days: ShopDays) -> BarDetails | None:
    """What is pointed at, or what is next."""
    own = _own(look, days)
    named = next((d for d in own if bar_name(d) == look.more.get("bar")), None)
    if named:
        return bar_of(days, named)
    coming = [d for d in own if d.state == "begun"] or [d for d in own if d.state in ("planned", "pinned")]
    return bar_of(days, coming[0], is_next=True) if coming else None


def listed(
    days: ShopDays, jobs: tuple[int, ...], first: dt.date, last: dt.date, *, names: bool = False
) -> list[DayList]:
    """What begins on each day from one to another, in order; names: with the job's."""
    made: dict[dt.date, list[DayLine]] = {}
    heat = set[dt.date]()
    for d in days.table.doings:
        day = days.wall.at(d.from_s).date()
        if d.job not in jobs or not first <= day <= last:
            continue
        o, work = d.operation, days.works[d.job]
        if o.keeps_s or any(t.what in ("chamber", "iron") for t in o.takes):
            heat.add(day)
        by_itself = lasting(d.to_s - d.hands_to_s) if d.to_s > d.hands_to_s else ""
        made.setdefault(day, []).append(
            DayLine(
                days.wall.time(d.from_s),
                when(days.wall, d.to_s, near=day),
                o.name,
                of_whom(d, work),
                f"{o.hands} people" if o.hands > 1 and o.attended_s.likely else "",
                d.state,
                bar_name(d),
                by_itself,
                work.name if names else "",
                f"/jobs/{d.job}/days?bar={bar_name(d)}",
                d.why.waits == "straight_on",
                o.attended_s.likely > 0,
            )
        )
    return [
        DayList(format_day(day, days.wall.unit, weekday="%A", month="%B"), tuple(lines), day.isoformat(), day in heat)
        for day, lines in sorted(made.items())
    ]


def due_soon(days: ShopDays) -> list[tuple[str, DayList | None]]:
    """What is due today and tomorrow, each day there even where nothing is."""
    tomorrow = days.today + dt.timedelta(days=1)
    by_day = {d.iso: d for d in listed(days, tuple(days.works), days.today, tomorrow, names=True)}
    return [("Today", by_day.get(days.today.isoformat())), ("Tomorrow", by_day.get(tomorrow.isoformat()))]


def _items(look: StageContext) -> list[Item]:
    days = days_of(look)
    if days is None:
        return []
    own = [d for d in _own(look, days) if d.operation.kind != AFTERWARDS]
    if not own:
        return []
    work = days.works[look.more["job_id"]]
    hands = days.table.hands_s(work.job)
    begins = min(d.from_s for d in own)
    rows = [
        FigureRow("begins", when(days.wall, begins, near=days.today), "allowance"),
        FigureRow("last piece done", day_of(days.wall, max(d.to_s for d in own)), "allowance"),
        FigureRow("hands-on time, all people", f"{hands / 3600:.1f} h", "allowance"),
    ]
    if work.due_s is not None:
        rows.append(FigureRow("due by the end of", day_of(days.wall, work.due_s)))
    return [FigureGroup("Its dates", tuple(rows))]


def _laid_out(days: ShopDays) -> list[JobTasks]:
    """The work that is laid out, of all jobs."""
    return [w for w in days.works.values() if w.job in days.table.done_of]


def _waits_to_be_asked(look: StageContext, days: ShopDays) -> bool:
    """Whether to compare more forms takes so long that it is done only when it is asked for."""
    return not look.more.get("pays") and is_much(_laid_out(days))


def _pays(look: StageContext, days: ShopDays) -> list[PaysRow]:
    job_id, plan = look.more["job_id"], look.plan
    if plan is None or job_id not in days.works or not _own(look, days) or _waits_to_be_asked(look, days):
        return []
    works = _laid_out(days)
    at = [w.job for w in works].index(job_id)
    try:
        made = what_would_pay(plan, look.learnt, works, days.floor, at, days.table.rule)
    except PlanError:
        return []
    latest = max((c.done_s for c in made), default=1.0) - days.now_s or 1.0
    return [_pays_row(c, days, latest) for c in made]


def _enough(look: StageContext, days: ShopDays) -> str:
    """How few of what the shop owns will do for the same days, all jobs together."""
    owned = days.floor.owned
    peaks = {what: n for what, n in peak_use(days.table.held, days.now_s).items() if what in owned and n < owned[what]}
    told = [f"{n} of {owned[what]} {resource_name(what, many=owned[what] > 1)}" for what, n in sorted(peaks.items())]
    if not told:
        return ""
    return f"Enough for the same days, all jobs together: {', '.join(told)}."


def _pays_row(c: CapacityChange, days: ShopDays, latest: float) -> PaysRow:
    hours = abs(c.sooner_s) / 3600
    said = f"{hours:.0f} h" if hours < 36 else f"{hours / 24:.1f} days"
    sooner = "" if c.key == "now" else f"{said} sooner" if c.pays else "no earlier" if not c.costs else f"{said} later"
    return PaysRow(
        c.message,
        when(days.wall, c.done_s, near=days.today) if c.done_s else "",
        sooner if c.done_s else "",
        lasting(c.build_s) if c.build_s else "",
        c.pays,
        c.key == "now",
        json.dumps(c.sets) if c.sets else "",
        c.why_not,
        round(max(0.0, min(1.0, (c.done_s - days.now_s) / latest)), 3),
    )


def _views(look: StageContext) -> list[BoardView]:
    days = days_of(look)
    job_id = look.more.get("job_id", 0)
    if days is None or not any(d.job == job_id for d in days.table.doings):
        return [BoardView("days", "Schedule", Markup(""), (TemplatePart("parts/no_days.html"),))]
    lanes = _lanes(look, days)
    under = TemplatePart("parts/days_turn.html")
    pays = BoardView("pays", "Would another form help?", Markup(""), (TemplatePart("parts/days_pays.html"),))
    views = [
        BoardView("days", "Piece by piece", Markup(days_svg(lanes)), (under,)),
        BoardView("things", "Equipment in use", Markup(things_svg(lanes) if look.plan else "")),
        BoardView("list", "Day by day", Markup(""), (TemplatePart("parts/days_list.html"),)),
    ]
    return [pays, *views] if look.more.get("pays") else [*views, pays]  # what was asked for is shown first


def _notes(look: StageContext) -> list[Item]:
    days = days_of(look)
    if days is None:
        return []
    made: list[Item] = []
    if days.unplanned:
        made.append(Note(f"Left out because it cannot be planned: {', '.join(days.unplanned)}."))
    return [*made, TemplatePart("parts/days_take.html")]


def job_days(days: ShopDays, job_id: int) -> tuple[list[DayList], dt.date, dt.date]:
    """Every day on which something of one job begins, and the first and the last of its work."""
    own = [d for d in days.table.doings if d.job == job_id]
    first = min((days.wall.at(d.from_s).date() for d in own), default=days.today)
    last = max((days.wall.at(d.to_s).date() for d in own), default=days.today)
    return listed(days, (job_id,), first, last), first, last


def _extra(look: StageContext) -> dict[str, Any]:
    days = days_of(look)
    if days is None:
        return {
            "bar": None,
            "bar_fault": "",
            "week": "",
            "others": 0,
            "lists": [],
            "pays": [],
            "enough": "",
            "pays_waits": False,
            "turn": None,
            "steam_days": [],
        }
    job_id = look.more["job_id"]
    lanes = _lanes(look, days)
    last = days.today + dt.timedelta(days=400)
    lists = [] if look.plan is None else listed(days, (job_id,), days.wall.first, last)
    week = week_of(days.today, look.shop.week)
    return {
        "bar": _chosen(look, days),
        "bar_fault": str(look.more.get("bar_fault", "")),
        "lists": lists,
        "pays": _pays(look, days) if look.plan else [],
        "enough": _enough(look, days),
        "pays_waits": _waits_to_be_asked(look, days),
        "turn": turn_of(lanes),
        "steam_days": [d for d in lists if d.has_heat],
        "week": week.isoformat(),
        "others": sum(1 for w in days.works if w != job_id),
    }


def turn_of(lanes: ScheduleLanes) -> dict[str, str]:
    """From which day to look when turning back or on."""
    step = dt.timedelta(days=max(1, lanes.days - 1))
    last = lanes.first + dt.timedelta(days=lanes.days - 1)
    return {
        "back": (lanes.first - step).isoformat(),
        "on": (lanes.first + step).isoformat(),
        "message": f"{lanes.wall.day(lanes.first)} to {lanes.wall.day(last)}",
    }


def _answer(look: StageContext) -> str:
    """When it is done and what is next."""
    days = days_of(look)
    own = [d for d in _own(look, days) if d.operation.kind != AFTERWARDS] if days else []
    if days is None or not own:
        return "Not scheduled yet."
    done = day_of(days.wall, max(d.to_s for d in own))
    coming = next((d for d in own if d.state in ("planned", "pinned")), None)
    if coming is None:
        return f"Done {done}."
    name = coming.operation.name
    return f"Done {done}; next: {name[0].lower()}{name[1:]}, {when(days.wall, coming.from_s, near=days.today)}."


def _figures(look: StageContext) -> list[Quantity]:
    days = days_of(look)
    own = [d for d in _own(look, days) if d.operation.kind != AFTERWARDS] if days else []
    if days is None or not own:
        return []
    begins = when(days.wall, min(d.from_s for d in own), near=days.today)
    hours = f"{days.table.hands_s(look.more['job_id']) / 3600:.1f} h"
    return [
        Quantity("Starts", begins, "allowance", ""),
        Quantity("Last piece done", day_of(days.wall, max(d.to_s for d in own)), "allowance", ""),
        Quantity("Hands-on", hours, "allowance", "all people together"),
    ]


PAGE = StagePage(
    fields=_fields,
    items=_items,
    notes=_notes,
    extra=_extra,
    views=_views,
    pulls="days/pull",
    answer=_answer,
    figures=_figures,
)
