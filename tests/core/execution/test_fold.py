"""Where a run stands: any order of taps, take-backs, repeats and late arrivals gives one sane state."""

from __future__ import annotations

import dataclasses

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bright_willow.core.execution.events import KINDS, Event
from bright_willow.core.execution.run_plan import brief_of
from bright_willow.core.execution.run_state import State, state_of
from bright_willow.core.plan.plan import plan
from bright_willow.core.scheduling.job_tasks import CompletedTask
from bright_willow.core.shop.shop import Shop
from tests.core.methods.jobs import JOBS, job_for
from tests.searching import examples

from .runs import (
    GLUED,
    STEAMED,
    T0,
    Bench,
    brief,
    seconds,
)

BRIEFS = (brief(STEAMED), brief(GLUED))
NAMES = [[b.web.name(i) for i in range(len(b.web.tasks))] for b in BRIEFS]


@st.composite
def told(draw: st.DrawFn) -> tuple[int, list[Event], float]:
    """A brief, taps of every kind at any time (also before it began and after now), and now."""
    which = draw(st.integers(0, 1))
    times = st.floats(-1e5, 4e5)
    made: list[Event] = []
    for n in range(draw(st.integers(0, 25))):
        kind = draw(st.sampled_from([*KINDS, "done", "begin", "done", "back"]))
        key, number = draw(st.sampled_from(NAMES[which]))
        if kind == "broke":
            number = draw(st.integers(-2, 9))
        of = draw(st.sampled_from([e.client for e in made])) if made and draw(st.booleans()) else "nobody"
        client = draw(st.sampled_from([f"n{n}", f"n{max(0, n - 1)}"]))  # now and then the same name again
        made.append(Event(T0 + draw(times), kind, client, key, number, "water", value=1.0, of=of))
    return which, made, T0 + draw(times)


def check(which: int, state: State) -> None:
    """What is always true: nothing ends before it begins or in the future, nothing begins before what it waits for."""
    own = BRIEFS[which]
    for name, mark in state.marks.items():
        assert mark.from_s <= state.now_s
        if mark.to_s is not None:
            assert mark.from_s <= mark.to_s <= state.now_s
        for j in own.web.before[own.web.at[name]]:
            before = state.marks.get(own.web.name(j))
            assert before is not None and before.to_s is not None, (name, own.web.name(j))
            assert before.to_s <= mark.from_s + 1e-6
    assert all(0 <= p < own.pieces for p in state.out)


@settings(max_examples=examples(60))
@given(told(), st.randoms(use_true_random=False))
def test_any_order_of_taps_gives_one_sane_state(case, dice):
    which, events, now = case
    state = state_of(BRIEFS[which], events, now)
    check(which, state)
    again = [*events, *events]
    dice.shuffle(again)  # arrived in another order, some twice
    assert state_of(BRIEFS[which], again, now) == state


@settings(max_examples=examples(40))
@given(told(), st.floats(0, 2e5))
def test_time_alone_never_undoes_anything(case, later):
    which, events, now = case
    past = [e for e in events if e.at_s <= now]
    before, after = state_of(BRIEFS[which], past, now), state_of(BRIEFS[which], past, now + later)
    for name, mark in before.marks.items():
        assert after.marks[name].from_s == mark.from_s
        assert mark.to_s is None or after.marks[name].to_s == mark.to_s


@settings(max_examples=examples(40))
@given(told())
def test_what_is_taken_back_never_was(case):
    which, events, now = case
    plain = [e for e in events if e.kind != "back"]
    taken = Event(T0 + 10, "done", "taken", *NAMES[which][3])
    back = Event(T0 + 20, "back", "back", of="taken")
    assert state_of(BRIEFS[which], [*plain, taken, back], now).marks == state_of(BRIEFS[which], plain, now).marks


def test_a_take_back_can_be_taken_back():
    at = Bench(brief())
    done = at.tap("done", "look_over")
    back = at.tap("back", of=done.client)
    assert not at.state().is_done(("look_over", -1))
    at.tap("back", of=back.client)
    assert at.state().is_done(("look_over", -1))


def test_a_steamed_load_from_warming_up_to_the_frame():
    """By hand: what ends by itself ends when its time is over, and what follows it has begun then."""
    at = Bench(brief())
    at.all_before("warm_up")
    at.tap("begin", "warm_up", 0, at=100)
    at.tap("done", "warm_up", 0, at=1100)
    at.tap("done", "load", 0, at=1200)
    state = at.state(1300)
    assert seconds(state, "warm_up") == (100, 1100)
    assert seconds(state, "load") == (1192, 1200)  # nobody saw it begin: it took as long as planned
    assert seconds(state, "steam") == (1200, None)
    at.tap("begin", "bend", 0, at=2400)
    assert seconds(at.state(), "steam") == (1200, 2400)
    at.tap("done", "bend", 0, at=2450)
    cool = at.brief.of["cool"].lasts_s
    state = at.state(2450 + cool - 1)
    assert seconds(state, "cool") == (2450, None) and ("set", 0) not in state.marks
    state = at.state(2450 + cool + 1)
    assert seconds(state, "cool") == (2450, pytest.approx(2450 + cool))
    assert seconds(state, "set") == (pytest.approx(2450 + cool), None)
    assert not state.is_done(("load", 1))


def test_what_nobody_saw_took_no_time_and_teaches_nothing():
    at = Bench(brief(GLUED))
    at.tap("done", "close", 0, at=5000)
    state = at.state()
    assert state.is_done(("rip", -1)) and state.is_done(("mix", 0)) and not state.is_done(("mix", 1))
    assert not any(m.was_seen for m in state.marks.values())
    at.tap("not", "spread", 0, at=5100)
    state = at.state()
    assert state.is_done(("mix", 0))
    assert not {("spread", 0), ("close", 0), ("cure", 0)} & set(state.marks)


def test_a_clock_that_jumps_is_held_between_start_and_now():
    at = Bench(brief(GLUED))
    at.events.append(Event(T0 - 1e9, "done", "past", "look_over"))
    at.events.append(Event(T0 + 1e9, "done", "future", "rip"))
    state = at.state(500)
    assert seconds(state, "look_over", -1)[1] == 0
    assert seconds(state, "rip", -1)[1] == 500


def test_what_was_done_before_stands_and_what_was_begun_goes_on():
    own = dataclasses.replace(
        brief(GLUED),
        before=(CompletedTask("look_over", -1, T0 - 900, T0 - 800), CompletedTask("rip", -1, T0 - 100, None)),
    )
    at = Bench(own)
    assert at.state().is_done(("look_over", -1)) and at.state().running(("rip", -1))
    at.tap("done", "rip", at=60)
    assert seconds(at.state(), "rip", -1) == (-100, 60)


@pytest.mark.parametrize("way", sorted(JOBS))
def test_every_way_is_run_from_its_first_operation_to_its_last(way):
    """Whoever does what the page says, when it says, gets through: each operation of each piece done once."""
    at = Bench(brief_of(plan(job_for(way), Shop()), places=2, people=2, started_s=T0))
    clock = 0.0
    for _ in range(4 * len(at.brief.web.tasks)):
        seen = at.live(clock)
        check_window = [f.code for f in seen.findings if f.level == "stop"]
        assert not check_window, (check_window, clock)
        if seen.is_over:
            break
        if seen.now is None:
            assert seen.changes_s is not None and seen.changes_s > T0 + clock
            clock = seen.changes_s - T0
            continue
        o, (key, number) = seen.now.operation, seen.now.name
        if not seen.now.is_running:
            at.tap("begin", key, number, at=clock)
        clock = max(clock, at.state(clock).marks[key, number].from_s - T0 + o.attended_s.likely)
        if seen.now.is_running or not o.unattended_s.likely:
            at.tap("done", key, number, at=clock)
    state = at.state(clock)
    assert {n for n in at.brief.web.at if not state.is_done(n)} == set()


def test_a_piece_is_out_from_when_it_was_first_said():
    at = Bench(brief())
    first = at.tap("broke", number=1, at=600, text="splintered")
    at.tap("broke", number=1, at=900, text="broken across")
    seen = at.state(1000).out[1]
    assert (seen.at_s, seen.what) == (T0 + 600, "splintered")
    at.tap("back", of=first.client, at=950)
    assert at.state(1000).out[1].what == "broken across"
