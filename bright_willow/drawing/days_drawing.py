"""The days as lanes: a bar for what may not be broken off, nights drawn narrow, a line for now."""

from __future__ import annotations

import datetime as dt
import itertools
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from html import escape

import numpy as np

from ..calendar.schedule_messages import of_whom, when
from ..calendar.shop_clock import ShopClock
from ..core.common.operation import RESOURCE_WORDS, resource_name
from ..core.scheduling.job_tasks import JobTasks, ScheduledTask, ShopCapacity, Timetable
from .svg import named, num, tag

WIDE_PX, LEFT_PX, RIGHT_PX, TOP_PX = 780.0, 96.0, 10.0, 44.0
WIDE_LEFT_PX = 168.0  # where lanes are named after a thing and whose it is
HEAD_PX = 22.0
LEAST_ROW_PX, MOST_ROW_PX, LANES_PX = 24.0, 44.0, 400.0
MOST_ROWS = 80
NIGHT, DAY_OFF = 0.3, 0.3  # how wide a night is against a working day, and a day off against a whole one
KNOB_APART_PX = 13.0
KNOB_PX, LETTER_PX = 6.0, 5.6  # half of a handle with its rim; a letter on a bar, on average


@dataclass(frozen=True)
class ScheduleLanes:
    """What is drawn: whose days, of which jobs, from which day, how many. chosen: the name of a bar."""

    table: Timetable
    works: Mapping[int, JobTasks]
    wall: ShopClock
    floor: ShopCapacity
    jobs: tuple[int, ...]
    first: dt.date
    days: int
    chosen: str = ""
    href: str = "?bar="

    @property
    def frame(self) -> str:
        """The days shown, as a drag says them."""
        return f"{self.first.isoformat()} {self.days}"


def bar_name(d: ScheduledTask) -> str:
    """What a bar is called: job, operation, piece."""
    return ".".join(map(str, d.name))


class Axis:
    """Seconds to pixels and back: working hours wide, nights and days off narrow."""

    def __init__(
        self, wall: ShopClock, floor: ShopCapacity, first: dt.date, days: int, left_px: float = LEFT_PX
    ) -> None:
        self.wall, self.first, self.days = wall, first, days
        opens = np.array(floor.hours.present.opens)
        closes = np.array(floor.hours.present.closes)
        seconds, widths = [wall.of(first)], list[float]()
        self.off: list[bool] = []
        for n in range(days):
            begin, end = wall.of(first + dt.timedelta(days=n)), wall.of(first + dt.timedelta(days=n + 1))
            inside = (opens >= begin) & (opens < end)
            self.off.append(not inside.any())
            if inside.any():
                a, b = float(opens[inside][0]), float(closes[inside][-1])
                seconds += [a, b, end]
                widths += [NIGHT / 2, 1.0, NIGHT / 2]
            else:
                seconds.append(end)
                widths.append(DAY_OFF)
        steps = np.concatenate(([0.0], np.cumsum(widths)))
        self._seconds = np.array(seconds)
        self._pixels = left_px + steps / steps[-1] * (WIDE_PX - left_px - RIGHT_PX)
        self.left_px = left_px

    def x(self, seconds: float) -> float:
        return float(np.interp(seconds, self._seconds, self._pixels))

    def at(self, x: float) -> float:
        """Seconds at a place across the drawing; outside it its ends."""
        return float(np.interp(x, self._pixels, self._seconds))

    def shows(self, a: float, b: float) -> bool:
        return b > self._seconds[0] and a < self._seconds[-1]


@dataclass(frozen=True)
class ScheduleRow:
    """A lane: its label and what lies in it; or how many of something are in use from when to when, of how many."""

    label: str
    doings: tuple[ScheduledTask, ...]
    is_head: bool = False
    used: tuple[tuple[float, float, int], ...] = ()
    most: int = 1


def days_svg(look: ScheduleLanes) -> str:
    """Lanes by piece and load, those of each job under its name."""
    rows = list[ScheduleRow]()
    for job in look.jobs:
        work = look.works[job]
        own = [d for d in look.table.doings if d.job == job]
        if len(look.jobs) > 1:
            rows.append(ScheduleRow(work.name, (), is_head=True))
        size = work.batches.at_once
        of_load: dict[int, list[ScheduledTask]] = {}
        for d in own:
            of_load.setdefault(-1 if d.number < 0 else _load(d, size), []).append(d)
        rows.append(ScheduleRow("all pieces", tuple(of_load.get(-1, ()))))
        for n in range(work.batches.often("batch")):
            rows.append(ScheduleRow(f"batch {n + 1}" if size > 1 else f"piece {n + 1}", tuple(of_load.get(n, ()))))
    return _drawn(look, rows, "The schedule, piece by piece", bars=True)


def _load(d: ScheduledTask, size: int) -> int:
    return d.number if d.operation.scope == "batch" or size == 1 else d.number // size


def things_svg(look: ScheduleLanes) -> str:
    """Lanes by what is taken: people, forms, places in the chamber, frames, one lane for each."""
    axis = Axis(look.wall, look.floor, look.first, look.days)
    rows = [_use("people", look.floor.people, _of_people(look))]
    if "clamps" in look.floor.owned:
        spans_of = [(h.from_s, h.to_s, h.count) for h in look.table.held if h.what == "clamps"]
        rows += [_use("clamps", look.floor.owned["clamps"], spans_of)] if spans_of else []
    names = sorted({h.what for h in look.table.held if h.job in look.jobs}, key=_thing_order)
    spans: dict[str, list[tuple[float, float, str, int]]] = {}
    for what in names:
        for h in (h for h in look.table.held if h.what == what and axis.shows(h.from_s, h.to_s)):
            work = look.works[h.job]
            label = resource_name(what).removeprefix("the ").removeprefix("a ")
            if what.split(":")[0] == "clamps":
                continue
            lane = f"{label} {h.unit + 1}"
            if "@" in what and len(look.jobs) > 1:
                lane = f"{lane}, {work.name}"
            message = f"{work.name}: {_of_held(h.number, work)}" + (f", {h.count} of them" if h.count > 1 else "")
            spans.setdefault(lane, []).append((h.from_s, h.to_s, message, h.job))
    lanes = list(spans.items())[:MOST_ROWS]
    return _drawn(look, rows, "The schedule, by equipment in use", bars=False, held=lanes)


def _thing_order(what: str) -> tuple[int, str]:
    order = list(RESOURCE_WORDS)
    name = what.split("@")[0].split(":")[0]
    return (order.index(name) if name in order else len(order), what)


def _of_held(number: int, work: JobTasks) -> str:
    return "all pieces" if number < 0 else f"{'batch' if work.batches.at_once > 1 else 'piece'} {number + 1}"


def _drawn(
    look: ScheduleLanes,
    rows: Sequence[ScheduleRow],
    title: str,
    *,
    bars: bool,
    held: Sequence[tuple[str, Sequence[tuple[float, float, str, int]]]] = (),
) -> str:
    axis = Axis(look.wall, look.floor, look.first, look.days, LEFT_PX if bars else WIDE_LEFT_PX)
    left_out = max(0, len(rows) - MOST_ROWS)
    rows = rows[:MOST_ROWS]
    lanes = sum(1 for r in rows if not r.is_head) + len(held)
    tall = min(MOST_ROW_PX, max(LEAST_ROW_PX, LANES_PX / max(1, lanes)))
    high = TOP_PX + HEAD_PX * (len(rows) + len(held) - lanes) + tall * lanes + 12
    parts = _ground(look, axis, high)
    y, names = TOP_PX, list[str]()
    for row in rows:
        if row.is_head:
            names.append(_text(6, y + 15, row.label, "days-job"))
            y += HEAD_PX
            continue
        parts.append(tag("line", x1=axis.left_px, x2=WIDE_PX - RIGHT_PX, y1=y + tall, y2=y + tall, class_="hair"))
        parts.append(_text(axis.left_px - 8, y + tall / 2 + 4, row.label, "days-label", "end"))
        parts += _bars(look, axis, row, (y, tall)) if bars else _in_use(axis, row, (y, tall))
        y += tall
    for label, spans in held:
        parts.append(tag("line", x1=axis.left_px, x2=WIDE_PX - RIGHT_PX, y1=y + tall, y2=y + tall, class_="hair"))
        parts.append(_text(axis.left_px - 8, y + tall / 2 + 4, _short(label, 27), "days-label", "end"))
        for a, b, message, job in spans:
            x0, x1 = axis.x(a), axis.x(b)
            shade = look.jobs.index(job) % 4 if job in look.jobs else 3
            size = {"x": x0, "y": y + 4, "width": max(2.0, x1 - x0), "height": tall - 8}
            parts.append(tag("rect", named(message), class_=f"held held-{shade}", rx=2, **size))
            room = int((x1 - x0) / 6.4)
            if room > 5:
                parts.append(_text(x0 + 4, y + tall / 2 + 4, _short(message.split(": ")[-1], room), "days-in"))
        y += tall
    parts += [_now(look, axis, high), *names]  # the line for now runs behind the names of the jobs
    if left_out:
        parts.append(_text(axis.left_px, high - 2, f"and {left_out} more lanes: see the list", "days-in"))
    box = f"0 0 {num(WIDE_PX)} {num(high)}"
    return tag(
        "svg",
        "".join(parts),
        viewBox=box,
        class_="board days",
        role="group",
        aria_label=title,
        data_frame=look.frame,
    )


def _text(x: float, y: float, message: str, class_: str, anchor: str = "start") -> str:
    return tag("text", escape(message), x=x, y=y, class_=class_, text_anchor=anchor)


def _short(message: str, letters: int) -> str:
    return message if len(message) <= letters else message[: max(1, letters - 1)].rstrip() + "…"


def _ground(look: ScheduleLanes, axis: Axis, high: float) -> list[str]:
    """Days with their names, hours where there is room, nights and days off shaded."""
    parts = []
    for n in range(look.days):
        day = look.first + dt.timedelta(days=n)
        begin, end = look.wall.of(day), look.wall.of(day + dt.timedelta(days=1))
        x0, x1 = axis.x(begin), axis.x(end)
        inside = [(a, b) for a, b in _opened(look.floor) if begin <= a < end]
        at, dark = begin, list[tuple[float, float]]()
        for a, b in inside:
            dark.append((at, a))
            at = b
        dark.append((at, end))
        for a, b in dark:
            if axis.x(b) > axis.x(a):
                size = {"x": axis.x(a), "y": TOP_PX - 6, "width": axis.x(b) - axis.x(a), "height": high - TOP_PX}
                parts.append(tag("rect", class_="days-off" if not inside else "days-night", **size))
        parts.append(tag("line", x1=x0, x2=x0, y1=TOP_PX - 22, y2=high - 6, class_="days-edge"))
        wide = x1 - x0
        name = look.wall.day(day, "%A") if wide > 150 else f"{day:%a} {day.day}" if wide > 44 else f"{day.day}"
        name = name if wide > 22 or inside else ""
        is_today = day == look.wall.at(look.floor.now_s).date()
        middle = (axis.x(inside[0][0]) + axis.x(inside[-1][1])) / 2 if inside else (x0 + x1) / 2
        parts.append(_text(middle, TOP_PX - 22, name, "days-day today" if is_today else "days-day", "middle"))
        if inside and wide > 90:
            step = 1 if wide > 420 else 2 if wide > 200 else 4
            for hour in range(24):
                at = look.wall.of(day, hour * 60)
                if hour % step == 0 and inside[0][0] < at < inside[-1][1]:
                    parts.append(_text(axis.x(at), TOP_PX - 9, _hour(hour, look.wall), "days-hour", "middle"))
    return parts


def _hour(hour: int, wall: ShopClock) -> str:
    return f"{hour % 12 or 12} {'AM' if hour < 12 else 'PM'}" if wall.unit == "in" else str(hour)


def _opened(floor: ShopCapacity) -> list[tuple[float, float]]:
    return list(zip(floor.hours.present.opens, floor.hours.present.closes, strict=True))


def _now(look: ScheduleLanes, axis: Axis, high: float) -> str:
    now = look.floor.now_s
    if not axis.shows(now, now + 1):
        return ""
    x = axis.x(now)
    line = tag("line", x1=x, x2=x, y1=TOP_PX - 16, y2=high - 6, class_="days-now")
    return line + _text(x + 3, high - 1, f"now, {look.wall.time(now)}", "days-now-says")


def _runs(doings: Sequence[ScheduledTask]) -> list[list[ScheduledTask]]:
    """What may not be broken off, together."""
    made: list[list[ScheduledTask]] = []
    for d in doings:
        if made and d.run >= 0 and made[-1][-1].run == d.run:
            made[-1].append(d)
        else:
            made.append([d])
    return made


def _bars(look: ScheduleLanes, axis: Axis, row: ScheduleRow, lane: tuple[float, float]) -> list[str]:
    """The bars of a lane, and a knob at the beginning of each that can be taken hold of."""
    parts, knobs, last = list[str](), list[str](), -1e9
    for run in _runs(row.doings):
        if not axis.shows(run[0].from_s, run[-1].to_s):
            continue
        parts.append(_bar(look, axis, run, lane))
        x = axis.x(run[0].from_s)
        own = next((d for d in run if d.state == "pinned"), run[0])
        is_pinned = own.state == "pinned"
        if own.state in ("planned", "pinned") and axis.shows(own.from_s, own.from_s + 1):
            if x - last < KNOB_APART_PX and not is_pinned and bar_name(run[0]) != look.chosen:
                continue
            last = x
            knobs.append(_knob(look, axis, own, (x, *lane), is_pinned))
    return parts + knobs


def _bar(look: ScheduleLanes, axis: Axis, run: Sequence[ScheduledTask], lane: tuple[float, float]) -> str:
    y, tall = lane
    body = [named(_bar_text(look, run))]
    chosen = any(bar_name(d) == look.chosen for d in run)
    edges = [(axis.x(d.from_s), axis.x(d.hands_to_s), axis.x(d.to_s), d) for d in run]
    for x0, x1, x2, d in edges:
        rest = {"x": x1, "y": y + 0.3 * tall, "width": max(0.0, x2 - x1), "height": 0.4 * tall}
        if x2 > x1:
            body.append(tag("rect", class_="by-itself" if d.operation.may_run_alone else "watched", **rest))
            room = int((x2 - x1 - 2 * KNOB_PX) / LETTER_PX)  # a handle may stand at either end
            if room >= 4 and d.operation.may_run_alone:
                body.append(
                    _text(
                        (x1 + x2) / 2,
                        y + tall / 2 + 3.5,
                        _short(d.operation.key.replace("_", " "), room),
                        "days-in",
                        "middle",
                    )
                )
        if d.hands_to_s > d.from_s:
            size = {"x": x0, "y": y + 0.22 * tall, "width": max(2.5, x1 - x0), "height": 0.56 * tall}
            body.append(tag("rect", class_="by-hand", **size))
    if chosen:
        x0, x2 = edges[0][0], edges[-1][2]
        size = {"x": x0 - 2, "y": y + 2, "width": max(6.0, x2 - x0 + 4), "height": tall - 4}
        body.append(tag("rect", class_="days-chosen", rx=3, **size))
    state = run[-1].state
    look_of = f"run run-{state}" + (" chosen" if chosen else "")
    return tag(
        "a", "".join(body), href=f"{look.href}{bar_name(run[0])}", class_=look_of, aria_label=_bar_text(look, run)
    )


def _bar_text(look: ScheduleLanes, run: Sequence[ScheduledTask]) -> str:
    first, last, wall = run[0], run[-1], look.wall
    whom = of_whom(first, look.works[first.job])
    near = wall.at(first.from_s).date()
    until = when(wall, last.to_s, near=near)
    names = first.operation.name if len(run) == 1 else f"{first.operation.name} … {last.operation.name.lower()}"
    return f"{names}; {whom}: {when(wall, first.from_s)} to {until}"


def _knob(look: ScheduleLanes, axis: Axis, d: ScheduledTask, place: tuple[float, float, float], is_pinned: bool) -> str:
    x, y, tall = place
    step = max(0.5, axis.x(d.from_s + 900) - axis.x(d.from_s))
    dot = tag("circle", cx=x, cy=y + tall / 2, r=4.5, class_="knob" + (" pinned" if is_pinned else ""))
    pin = tag("path", d=f"M{num(x)} {num(y + tall / 2)}v{num(-tall / 2 + 1)}", class_="pin-stem") if is_pinned else ""
    message = f"{d.operation.name}, {of_whom(d, look.works[d.job])}: begins {when(look.wall, d.from_s)}"
    return tag(
        "g",
        named(message + (", locked" if is_pinned else ", drag to lock")) + pin + dot,
        class_="handle",
        data_handle=f"bar-{bar_name(d)}",
        data_step=num(step),
        tabindex=0,
        role="slider",
        aria_label=message,
        aria_valuetext=when(look.wall, d.from_s),
        aria_valuenow=round(d.from_s / 60),
    )


def _of_people(look: ScheduleLanes) -> list[tuple[float, float, int]]:
    work = [d for d in look.table.doings if d.operation.attended_s.likely and d.job in look.jobs]
    return [(d.from_s, d.hands_to_s, d.operation.hands) for d in work]


def _use(label: str, most: int, spans: Sequence[tuple[float, float, int]]) -> ScheduleRow:
    """How many of something are in use, along time, as a lane."""
    changes: dict[float, int] = {}
    for a, b, count in spans:
        changes[a] = changes.get(a, 0) + count
        changes[b] = changes.get(b, 0) - count
    used, made = 0, list[tuple[float, float, int]]()
    for a, b in itertools.pairwise(sorted(changes)):
        used += changes[a]
        if used:
            made.append((a, b, used))
    return ScheduleRow(label, (), used=tuple(made), most=most)


def _in_use(axis: Axis, row: ScheduleRow, lane: tuple[float, float]) -> list[str]:
    """How many of something are in use: as high as the share of them."""
    (y, tall), parts = lane, list[str]()
    for a, b, used in row.used:
        if axis.shows(a, b):
            high = (tall - 6) * min(1.0, used / row.most)
            size = {"x": axis.x(a), "y": y + tall - 2 - high, "width": max(0.6, axis.x(b) - axis.x(a)), "height": high}
            parts.append(tag("rect", named(f"{used} of {row.most} {row.label}"), class_="by-hand", **size))
    return parts
