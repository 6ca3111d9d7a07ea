"""The timetable: by hand, by every rule on shops made up at random, and against what the floor allows."""

from __future__ import annotations

import itertools
import random
from dataclasses import replace
from types import SimpleNamespace

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from bright_willow.core.common.operation import Batches, ResourceHold
from bright_willow.core.plan.plan import plan
from bright_willow.core.scheduling.job_tasks import CompletedTask, JobTasks, PinnedStart, ShopCapacity
from bright_willow.core.scheduling.schedule_builder import ScheduleBuilder
from bright_willow.core.scheduling.timetable import timetable
from bright_willow.demo.marrow_lane import EXAMPLES, SHOP
from tests.searching import examples

from .rules import (
    DAY,
    HOUR,
    broken,
    glue,
    op,
    steam,
    week,
    works_of,
)

OWNED = {"saw": 1, "chamber": 2, "clamps": 20, "bag": 1, "frame": 4}


@st.composite
def shops(draw):
    """A shop and its jobs."""

    def n(a, b):
        return draw(st.integers(a, b))

    ways = [
        lambda: glue(n(1, 2), n(4, 30), n(4, 12), n(0, 3000)),
        lambda: steam(n(10, 110), n(1, 30), n(5, 60), draw(st.booleans())),
        lambda: (op("cut", "job", n(60, 90_000)), op("do", "piece", n(0, 5000), n(0, 5000), after=("cut",), may_run_alone=draw(st.booleans())), op("end", "job", 300, after=(("do", n(0, 90_000)),))),
    ]  # fmt: skip
    works = []
    for job in range(n(1, 3)):
        ops = draw(st.sampled_from(ways))()
        at_once = 2 if ops[1].scope == "batch" else 1
        own = {"form": n(1, 3), "strap": n(1, 3)}
        works.append(JobTasks(job + 1, str(job), ops, Batches(n(1, 5), at_once), own, not_before_s=n(0, 3) * DAY))
    pause = draw(st.sampled_from([None, (12.0, 13.0), (12.0, 12.5)]))
    hours = week(120, n(6, 9), n(16, 20), pause)
    if draw(st.booleans()):
        hours = replace(hours, present=hours.hands)  # nobody stays through the break
    owned = OWNED | {"clamps": n(12, 30), "chamber": n(1, 3), "frame": n(1, 4)}
    return works, ShopCapacity(hours, n(2, 3), owned, now_s=n(0, 200) * 1000.0)


@settings(max_examples=examples(120), deadline=None, suppress_health_check=list(HealthCheck))
@given(shops())
def test_no_rule_is_broken(shop):
    works, floor = shop
    made = timetable(works, floor, tries=2)
    assert not made.clashes
    assert broken(works, floor, made) == []
    assert made.done_s == max(d.to_s for d in made.doings)
    held = [(h.what, u, h.from_s, h.to_s) for h in made.held for u in range(h.unit, h.unit + (h.count == 1))]
    for what, unit, a, b in held:
        assert not any((what, unit) == (w, u) and a < d - 1 and c < b - 1 and (a, b) != (c, d) for w, u, c, d in held)


def as_done(work: JobTasks, made, moment: float) -> tuple[CompletedTask, ...]:
    """What of a job is done or begun at a moment; heat that was there and not made is done in no time, as the bench
    concludes."""
    begun = {(d.operation.key, d.number): d for d in made.doings if d.job == work.job and d.from_s <= moment}
    done = [CompletedTask(*name, d.from_s, d.to_s if d.to_s <= moment else None) for name, d in begun.items()]
    for o in work.operations:
        if o.keeps_s:
            loads = {d.number: d for d in begun.values() if any(a.key == o.key for a in d.operation.after)}
            done += [CompletedTask(o.key, n, d.from_s, d.from_s) for n, d in loads.items() if (o.key, n) not in begun]
    return tuple(done)


@settings(max_examples=examples(120), deadline=None, suppress_health_check=list(HealthCheck))
@given(
    shops(),
    st.floats(0.0, 1.0),
    st.sampled_from([0.0, 0.0, 120.0, 7200.0]),
    st.sampled_from([None, 2]),
    st.sampled_from([None, None, 1, 7]),
)
def test_no_rule_is_broken_when_it_is_laid_out_anew(shop, share, overrun_s, rule, pin):
    """At any moment of a timetable, with work done and under way, on time or running over, some of the rest pinned to
    the day after: people, forms and boxes are booked once, what was begun goes straight on, and every other rule holds
    as for a first one."""
    works, floor = shop
    first = timetable(works, floor, rule=rule, tries=None if rule else 1)
    starts = sorted(d.from_s for d in first.doings)
    moment = starts[min(len(starts) - 1, int(share * len(starts)))] + 1.0
    now = moment + overrun_s
    again = [replace(w, done=as_done(w, first, moment)) for w in works]
    coming = [d for d in first.doings if d.from_s > moment and not d.operation.keeps_s]
    if pin and len(coming) > pin:
        moved = coming[pin]
        own = PinnedStart(moved.operation.key, moved.number, moved.from_s + DAY)
        again = [replace(w, pins=(own,)) if w.job == moved.job else w for w in again]
    new_floor = replace(floor, now_s=now)
    made = timetable(again, new_floor, rule=rule, tries=None if rule else 1)
    assert not [c for c in made.clashes if c.kind not in ("overrun", "too_far", "pin_late", "pin_early")]
    found = broken(again, new_floor, made) if made.doings else []
    if overrun_s:  # of two that must go straight on, with hands for one, the other waits
        found = [f for f in found if "wait" not in f]
    assert found == []


@pytest.mark.parametrize("number", range(len(EXAMPLES)))
def test_jobs_of_the_demo_are_laid_out_anew(number):
    """Real plans, begun at many moments: in the middle of a glue-up, of the steam, of a bend."""
    made = plan(EXAMPLES[number].job, SHOP)
    batches = replace(made.way.batches, pieces=min(4 * made.way.batches.at_once, made.way.batches.pieces))
    operations = made.operations
    work = JobTasks(1, "job", operations, batches, {"form": batches.forms, "strap": batches.forms})
    owned = {"saw": 1, "iron": 1, "oven": 1, "chamber": 2, "bag": 1, "frame": 10, "clamps": 60}
    people = max(2, *(o.hands for o in operations))
    floor = ShopCapacity(week(400, 8, 17), people, owned)
    first = timetable([work], floor, tries=1)
    assert broken([work], floor, first) == []
    rigid = [d for d in first.doings if any(a.most_s == 0 for a in d.operation.after)] or list(first.doings)
    for d in rigid[:: max(1, len(rigid) // 8)]:
        moment = d.from_s + 0.3 * (d.hands_to_s - d.from_s) + 0.5
        again = replace(work, done=as_done(work, first, moment))
        for rule in (None, 2):
            late = replace(floor, now_s=moment)
            assert broken([again], late, timetable([again], late, rule=rule, tries=None if rule else 1)) == [], d.name


def test_a_pin_gives_way_to_a_piece_in_the_steam():
    """One form, two pieces: piece 1 is on it, piece 2 in the steam. Taking piece 1 off is locked to tomorrow, which
    cannot be: piece 2 would wait in the steam for a day."""
    (work,) = works_of(steam(10, 1, 5), pieces=2, own={"form": 1, "strap": 1})
    floor = ShopCapacity(week(), 2, {"chamber": 1, "frame": 4}, now_s=8 * HOUR)
    first = timetable([work], floor, tries=1)
    off = next(d for d in first.doings if d.name == (work.job, "to_frame", 0))
    moment = next(d for d in first.doings if d.name == (work.job, "steam", 1)).from_s + 1.0
    assert moment < off.from_s
    pins = (PinnedStart("to_frame", 0, off.from_s + DAY), PinnedStart("trim", 1, off.from_s + 9 * DAY))
    again, late = replace(work, done=as_done(work, first, moment), pins=pins), replace(floor, now_s=moment)
    for rule in (None, 2):
        made = timetable([again], late, rule=rule, tries=None if rule else 1)
        assert broken([again], late, made) == []
        (clash,) = made.clashes
        assert (clash.kind, clash.key, clash.limit_s, clash.seconds) == (
            "pin_early",
            "to_frame",
            pins[0].at_s,
            off.from_s,
        )


def test_what_was_begun_has_its_form_before_anybody_else():
    """Two pieces, one form, one person; the glue of piece 1 is mixed first. Its spread and its press go first."""
    operations = (
        op("mix", "piece", 180),
        op("spread", "piece", 300, after=(("mix", 0, 0),)),
        op("close", "piece", 500, after=(("spread", 0, 0),), takes=(ResourceHold("form"),)),
        op("cure", "piece", 0, 10 * HOUR, after=(("close", 0, 0),), may_run_alone=True),
        op("release", "piece", 120, after=("cure",), frees=("form",)),
    )
    for number in (0, 1):
        (work,) = works_of(operations, pieces=2, own={"form": 1})
        work = replace(work, done=(CompletedTask("mix", number, 8 * HOUR, None),))
        for rule in (None, 2):
            floor = ShopCapacity(week(), 1, {}, now_s=8 * HOUR + 60)
            made = timetable([work], floor, rule=rule)
            assert broken([work], floor, made) == []
            spread = next(d for d in made.doings if (d.operation.key, d.number) == ("spread", number))
            assert spread.from_s == 8 * HOUR + 180


def test_work_over_more_than_a_day_has_its_saw_alone():
    """Two people and one saw; each job rips for eleven hours, a day holds nine."""
    cut = op("rip", "job", 11 * HOUR, takes=(ResourceHold("saw"),), frees=("saw",))
    short = op("rip", "job", 1 * HOUR, takes=(ResourceHold("saw"),), frees=("saw",))
    works = works_of((cut,), (cut,), (short,), pieces=1)
    floor = ShopCapacity(week(), 2, {"saw": 1})
    made = timetable(works, floor)
    assert broken(works, floor, made) == []
    spans = sorted((d.from_s, d.to_s) for d in made.doings)
    assert all(b <= c for (_, b), (c, _) in itertools.pairwise(spans))


def test_what_waits_for_other_work_says_so():
    """Overbend is set to “ free for a while before it is needed again: what fits in between still waits for the ripping."""
    for seed in range(40):
        dice = random.Random(seed)
        works = works_of(
            glue(1, dice.randint(4, 12), 10, dice.randint(0, 3000)), glue(2, 6, 10), steam(), pieces=3, own={"form": 1, "strap": 1}
        )  # fmt: skip
        now = dice.randint(0, 30) * HOUR
        made = timetable(works, ShopCapacity(week(), 2, OWNED, now_s=now), tries=3)
        ends = {d.name: d.to_s for d in made.doings}
        for d in made.doings:
            if d.why.waits == "now":
                assert abs(d.from_s - now) < 1 or d.operation.keeps_s, d
            if d.why.waits == "after":
                before = ends[d.why.job, d.why.what, d.why.number]
                assert before <= d.from_s + 1


def test_a_glue_up_by_hand():
    """One form, 10 h in the clamps: each night one piece; the last is cleaned 14 h after it is off."""
    floor = ShopCapacity(week(), 2, OWNED)
    made = timetable(works_of(glue(), pieces=3), floor)
    at = {d.name[1:]: d for d in made.doings}
    assert at["rip", -1].from_s == 8 * HOUR
    assert at["close", 0].from_s == 8 * HOUR + 3000 + 180
    assert at["release", 0].from_s == DAY + 8 * HOUR  # off at 19:03: nobody is there until the morning
    assert at["release", 0].why.waits == "hours"
    assert at["close", 1].from_s == pytest.approx(DAY + 8 * HOUR + 180)  # mixed while it comes off
    assert at["mix", 1].why.waits == "hours" and at["close", 1].why.what == "mix"
    assert made.done_s == pytest.approx(4 * DAY + 8 * HOUR + 600)  # off on the third morning, cleaned on the fourth
    assert {h.unit for h in made.held if h.what == "form@1"} == {0}
    assert made.hands_s(1) == 3000 + 3 * (180 + 2 * 500 + 120 + 600)
    two = timetable(works_of(glue(), pieces=3, own={"form": 2}), floor)
    assert two.done_s < made.done_s and {h.unit for h in two.held if h.what == "form@1"} == {0, 1}


def test_a_load_goes_into_a_chamber_that_is_hot_at_once_not_after_warming_it_anew():
    """The first is in since just now: the second follows as soon as hands are free for both, not 20 minutes on."""
    done = (
        CompletedTask("set_up", -1, 0, 8 * HOUR),
        CompletedTask("warm_up", 0, 8 * HOUR, 8.5 * HOUR),
        CompletedTask("load", 0, 8.5 * HOUR, 8.5 * HOUR + 8),
    )
    work = JobTasks(1, "a", steam(50.0), Batches(4, 2), {"form": 2, "strap": 2}, done=done)
    now = 8.5 * HOUR + 10
    made = timetable([work], ShopCapacity(week(), 2, OWNED, now_s=now))
    second = next(d for d in made.doings if d.name == (1, "load", 1))
    assert now <= second.from_s < now + 120
    assert not any(d.operation.key == "warm_up" and d.number == 1 for d in made.doings)


def test_what_is_ready_just_now_goes_into_a_hot_chamber_without_the_time_of_warming_it():
    """By hand: its setting up ends now; warmed up for it alone, it would be loaded 20 minutes later."""
    now = 8.5 * HOUR + 10
    hot = (
        CompletedTask("set_up", -1, 0, 8 * HOUR),
        CompletedTask("warm_up", 0, 8 * HOUR, 8.5 * HOUR),
        CompletedTask("load", 0, 8.5 * HOUR, now),
    )
    works = [
        JobTasks(1, "a", steam(50.0), Batches(1, 1), {"form": 1, "strap": 1}, done=hot),
        JobTasks(
            2,
            "b",
            steam(50.0),
            Batches(1, 1),
            {"form": 1, "strap": 1},
            done=(CompletedTask("set_up", -1, now - 1800, now),),
        ),
    ]
    made = timetable(works, ShopCapacity(week(), 4, OWNED | {"chamber": 2}, now_s=now))
    second = next(d for d in made.doings if d.name == (2, "load", 0))
    assert now <= second.from_s < now + 120


def test_heat_is_made_once_for_loads_that_follow():
    floor = ShopCapacity(week(), 2, OWNED)
    made = timetable(works_of(steam(), pieces=3, own={"form": 3, "strap": 3}), floor)
    heads = [d for d in made.doings if d.operation.key == "warm_up"]
    loads = sorted(d.from_s for d in made.doings if d.operation.key == "load")
    assert len(heads) == 1 and loads[0] == heads[0].to_s == 8 * HOUR + 1800 + 1200
    assert loads[1] - loads[0] == pytest.approx(60)  # staggered by what a bend takes, two hands at once
    alone = timetable(works_of(steam(), pieces=3), floor)  # one form: a load a day, and heat for each
    assert len([d for d in alone.doings if d.operation.key == "warm_up"]) == 3
    assert alone.heat_s == pytest.approx(3 * (1200 + 8 + 3000 + 60))


def test_what_is_done_stands_and_the_rest_goes_on():
    works = works_of(glue(), pieces=2)
    floor = ShopCapacity(week(), 2, OWNED, now_s=10 * HOUR)
    done = (
        CompletedTask("rip", -1, 8 * HOUR, 9 * HOUR),
        CompletedTask("mix", 0, 9 * HOUR, 9.2 * HOUR),
        CompletedTask("close", 0, 9.2 * HOUR, None),
    )
    made = timetable([replace(works[0], done=done)], floor)
    at = {d.name[1:]: d for d in made.doings}
    assert (at["rip", -1].state, at["close", 0].state, at["cure", 0].state) == ("done", "begun", "planned")
    assert at["close", 0].to_s == 10 * HOUR == at["cure", 0].from_s  # longer than planned: until now at least
    assert [c.kind for c in made.clashes] == ["overrun"]
    assert made.clashes[0].seconds == pytest.approx(10 * HOUR - 9.2 * HOUR - 500)
    assert at["close", 1].from_s >= at["release", 0].to_s  # its form is in use
    begun = CompletedTask("cure", 0, 8 * HOUR, None)
    assert timetable([replace(works[0], done=(begun,))], floor).clashes == ()


def test_pins_hold_and_say_what_they_break():
    works = works_of(glue(), glue(), pieces=2)
    floor = ShopCapacity(week(), 2, OWNED)
    held = [replace(works[0], pins=(PinnedStart("close", 0, 2 * DAY + 9 * HOUR),)), works[1]]
    made = timetable(held, floor)
    close = next(d for d in made.doings if d.name == (1, "close", 0))
    assert (close.from_s, close.state) == (2 * DAY + 9 * HOUR, "pinned") and made.clashes == ()
    assert broken(held, floor, made) == []
    early = [replace(works[0], pins=(PinnedStart("release", 0, 10 * HOUR),)), works[1]]
    clash = timetable(early, floor).clashes[0]
    assert (clash.kind, clash.key, clash.limit_s, clash.seconds) == ("pin_late", "release", 10 * HOUR, DAY + 8 * HOUR)
    past = [replace(works[0], pins=(PinnedStart("rip", -1, 9 * HOUR),)), works[1]]
    assert timetable(past, replace(floor, now_s=11 * HOUR)).clashes[0].kind == "not_begun"


def test_what_cannot_be_is_said_with_figures():
    hours = week()
    long = timetable(works_of(steam(minutes=500)), ShopCapacity(hours, 2, OWNED)).clashes[0]
    assert (long.kind, long.key, long.limit_s) == ("too_long", "warm_up", 9 * HOUR) and long.seconds > 9 * HOUR
    few = timetable(works_of(glue(clamps=30)), ShopCapacity(hours, 2, OWNED)).clashes[0]
    assert (few.kind, few.what, few.have, few.wants) == ("too_few", "clamps", 20, 30)
    assert timetable(works_of(glue()), ShopCapacity(hours, 1, OWNED)).clashes[0].what == "people"
    never = replace(hours, hands=replace(hours.hands, opens=(), closes=()))
    assert timetable(works_of(glue()), ShopCapacity(never, 2, OWNED)).clashes[0].kind == "no_hours"
    late = timetable(works_of(glue(), pieces=3, due_s=DAY), ShopCapacity(hours, 2, OWNED))
    assert (
        late.clashes[0].kind == "late" and late.clashes[0].seconds == late.done_s and late.late_s == late.done_s - DAY
    )


def test_the_same_again_is_the_same_and_one_rule_is_no_better():
    works = works_of(glue(), steam(), glue(cure_h=20), pieces=4)
    floor = ShopCapacity(week(), 2, OWNED)
    made = timetable(works, floor)
    assert made == timetable(works, floor)
    quick = timetable(works, floor, rule=made.rule)
    assert (made.late_s, made.done_s) <= (quick.late_s, quick.done_s) and broken(works, floor, quick) == []


def test_due_jobs_come_first_when_all_cannot():
    works = works_of(glue(), glue(), pieces=3)
    floor = ShopCapacity(week(), 2, OWNED | {"clamps": 10})  # clamps for one at a time
    for first in (0, 1):
        due = [replace(w, due_s=5 * DAY) if n == first else w for n, w in enumerate(works)]
        made = timetable(due, floor)
        assert made.done_of[first + 1] < made.done_of[2 - first] and made.late_s == 0


def test_heat_is_kept_only_where_somebody_is_there():
    """Within the hour a box is kept hot, but not over the closing of the shop at five."""
    placed = ScheduleBuilder.__new__(ScheduleBuilder)
    placed.runs, placed.hot = SimpleNamespace(keeps_s=HOUR, floor=SimpleNamespace(hours=week())), {}
    for begins, ends in ((9.0, 10.0), (10.5, 11.0), (16.5, 16.8), (17.3, 17.4)):
        placed._mark_hot("chamber", begins * HOUR, ends * HOUR)
    assert [(a / HOUR, b / HOUR) for a, b in placed.hot["chamber"]] == [(9, 11), (16.5, 16.8), (17.3, 17.4)]
