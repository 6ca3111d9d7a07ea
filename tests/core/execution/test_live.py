"""What the page says to do now, in its order, with its bounds; what is wrong is said."""

from __future__ import annotations

import dataclasses
import random
from dataclasses import replace

import pytest

from bright_willow.core.execution.core_temperature import STALE_S
from bright_willow.core.execution.run_clock import said_s
from bright_willow.core.execution.run_plan import RunPlan
from bright_willow.demo.marrow_lane import EXAMPLES
from tools.yardstick import Measured

from .runs import GLUED, T0, Bench, brief


def in_steam() -> Bench:
    """The first load is in the steam since 1000 s."""
    at = Bench(brief())
    at.all_before("load")
    at.tap("done", "load", 0, at=1000)
    return at


def codes(seen) -> list[str]:
    return [f.code for f in seen.findings]


def test_in_the_order_of_the_work_at_first():
    at = Bench(brief(GLUED))
    assert at.live().now.name == ("look_over", -1)
    assert [t.name[0] for t in at.live().next[:2]] == ["rip", "plane"]
    at.tap("done", "look_over")
    assert at.live().now.name == ("rip", -1)
    assert at.live().done == 1


def test_bounds_of_a_load_in_the_steam():
    at, steam = in_steam(), brief().of["steam"]
    waiting = at.live(1010)
    assert waiting.now is None
    first = waiting.next[0]
    assert first.name == ("bend", 0)
    assert first.due_s == pytest.approx(T0 + 1000 + steam.unattended_s.likely)
    assert first.soonest_s == pytest.approx(T0 + 1000 + steam.earliest_s, abs=2)
    assert first.latest_s is None or first.latest_s == pytest.approx(T0 + 1000 + steam.latest_s)
    assert waiting.changes_s == first.due_s
    piece = waiting.pieces[0]
    assert (piece.message, piece.phase, piece.since_s) == ("in the steam", "wait", T0 + 1000)
    assert piece.core.at_c < 25 and piece.goal_c == steam.warms.goal_c
    due = at.live(1000 + steam.unattended_s.likely - 30)
    assert due.now.name == ("bend", 0)  # a minute before, so that everybody stands ready


def test_what_runs_out_comes_first_and_is_said_when_it_is_over():
    at, window = in_steam(), brief().of["bend"].window.seconds
    at.tap("begin", "bend", 0, at=2500)
    seen = at.live(2500 + window - 1)
    assert seen.now.name == ("bend", 0) and seen.now.is_running
    assert seen.now.over_s == T0 + 2500 + window and not seen.findings
    assert seen.pieces[0].phase == "hands"
    late = at.live(2500 + window + 30)
    assert codes(late) == ["bench.window"] and "by 30 s" in late.findings[0].message
    at.tap("done", "bend", 0, at=2600)
    assert at.live(2650).pieces[0].form_s == T0 + 2600
    assert not at.live(2650).findings


def test_what_runs_out_goes_before_what_is_due():
    at, steam = in_steam(), brief().of["steam"]
    at.tap("done", "load", 1, at=1010)
    due = 1010 + steam.unattended_s.likely
    at.tap("begin", "bend", 0, at=due - 30)
    seen = at.live(due)
    assert seen.now.name == ("bend", 0)
    assert ("bend", 1) in [t.name for t in (*seen.also, *seen.next)]
    at.tap("done", "bend", 0, at=due + 10)
    assert at.live(due + 11).now.name == ("bend", 1)


def test_a_cold_middle_is_said_and_the_thermometer_moves_it():
    at, steam = in_steam(), brief().of["steam"]
    planned = 1000 + steam.unattended_s.likely
    cool = [(T0 + t, steam.warms.goal_c + 0.1) for t in range(900, int(planned) + 1, 10)]
    plan, live = at.live(planned), at.live(planned, cool)
    assert plan.next[0].soonest_s is None or plan.now.soonest_s < T0 + planned
    first = live.now or live.next[0]
    assert first.soonest_s > T0 + planned  # hot through later than planned: so is the time to take it out
    assert first.due_s >= min(first.soonest_s, first.latest_s or first.soonest_s)


def test_a_silent_thermometer_and_a_cool_chamber_are_said():
    at, goal = in_steam(), brief().of["steam"].warms.goal_c
    shown = [(T0 + t, 97.0) for t in range(900, 1400, 10)]
    assert "bench.silent" not in codes(at.live(1390 + STALE_S - 1, shown, probe=True))
    silent = at.live(1390 + STALE_S + 5, shown, probe=True)
    assert codes(silent) == ["bench.silent"] and "35 s" in silent.findings[0].reason
    assert codes(at.live(1100, (), probe=True)) == ["bench.silent"]
    assert codes(at.live(1100, ())) == []  # without one it goes by the plan, and nobody misses it
    cool = [(T0 + t, goal - 4) for t in range(900, 1400, 10)]
    assert codes(at.live(1395, cool, probe=True)) == ["bench.cool"]


def test_too_long_in_the_heat_is_said():
    own = brief()
    steam = dataclasses.replace(own.of["steam"], latest_s=1800.0)
    at = Bench(dataclasses.replace(own, operations=tuple(steam if o.key == "steam" else o for o in own.operations)))
    at.all_before("load")
    at.tap("done", "load", 0, at=0)
    assert not at.live(1799).findings
    late = at.live(1900)
    assert (
        codes(late) == ["bench.latest"]
        and late.findings[0].level == "stop"
        and "1 min 40 s" in late.findings[0].message
    )


def test_a_piece_that_broke_is_let_go_and_gives_its_form_back():
    at = in_steam()
    at.tap("begin", "bend", 0, at=2500)
    for piece in (0, 1):
        at.tap("broke", number=piece, text="splintered", where="outer face", at=2530)
    seen = at.live(2540)
    assert seen.pieces[0].phase == "out" and seen.pieces[0].broke[0].what == "splintered"
    names = [t.name for t in (*([seen.now] if seen.now else []), *seen.also, *seen.next)]
    assert not any(n == 0 for _, n in names if _ in ("bend", "to_frame"))
    assert ("load", 1) in names  # the next one need not wait for a form until tomorrow
    bends = next(t for t in seen.next if t.name == ("bend", 1)) if ("bend", 1) in names else None
    assert bends is None or bends.from_s < T0 + 2540 + 2 * 3600


def test_one_of_two_broke_and_the_other_goes_on():
    at = in_steam()
    at.tap("broke", number=1, at=1500)
    seen = at.live(1600)
    assert seen.pieces[0].phase == "wait" and set(seen.pieces[0].broke) == {1}


def test_a_chamber_that_is_hot_sooner_than_planned_is_loaded():
    at = Bench(brief())
    at.all_before("warm_up")
    at.tap("begin", "warm_up", 0, at=0)
    assert at.live(400).now is None  # by the plan it still warms up
    hot = [(T0 + t, brief().ready_c + 0.5) for t in range(380, 401, 5)]
    seen = at.live(401, hot, probe=True)
    assert seen.now.name == ("warm_up", 0) and seen.now.is_running


def test_loads_follow_one_another_into_a_hot_chamber():
    """A second form: the next load goes in one cycle after the first, not after warming up anew."""
    at = Bench(dataclasses.replace(brief(), forms=2, places=2))
    at.all_before("warm_up")
    at.tap("begin", "warm_up", 0, at=0)
    at.tap("done", "warm_up", 0, at=900)
    at.tap("done", "load", 0, at=910)
    second = next(t for t in at.live(911).next if t.name == ("load", 1))
    assert second.from_s < T0 + 1100


@pytest.mark.parametrize(("seconds", "message"), [(99, "99 s"), (100, "1 min 40 s"), (3599, "59 min"), (-5, "0 s")])
def test_times_are_said_as_at_a_bench(seconds, message):
    assert said_s(seconds) == message


def many(number: int, loads: int) -> RunPlan:
    own = brief(number)
    return replace(own, pieces=loads * own.at_once)


@pytest.mark.parametrize("number", range(len(EXAMPLES)))
def test_what_is_next_does_not_depend_on_how_far_is_laid_out(number, monkeypatch):
    """Of many pieces only the near ones are laid out: what is to be done now, what else and what next stay the same,
    also where somebody takes a piece out of its turn, or one breaks."""
    own = many(number, 60)
    steps = [o for o in own.operations if o.attended_s.likely and o.scope != "job"]
    jobs = [o for o in own.operations if o.attended_s.likely and o.scope == "job"]
    if not steps:
        pytest.skip("nothing is done piece by piece")
    dice, seen, whole = random.Random(number), [], []
    taps = [("done", o.key, -1) for o in jobs[:-1]]
    for load in (0, 1, 2, 5):
        taps += [(dice.choice(("begin", "done")), o.key, load) for o in steps[: dice.randint(1, len(steps))]]
    taps.insert(len(taps) // 2, ("broke", "", 0))
    for laid_out in (seen, whole):
        if laid_out is whole:
            monkeypatch.setattr("bright_willow.core.execution.live._in_sight", lambda brief, state, work: work)
        at = Bench(own)
        for n, (kind, key, item) in enumerate(taps):
            at.tap(kind, key, item, at=600.0 * n)
            shown = at.live()
            tasks = (shown.now, *shown.also, *shown.next)
            laid_out.append([(t.name, t.from_s, t.due_s, t.over_s) for t in tasks if t] + [shown.count, shown.done])
    assert seen == whole


def test_a_tap_costs_no_more_for_many_pieces():
    """In the time of this thread: what is laid out stays as much whether sixty loads wait or six hundred."""
    taken = []
    for loads in (60, 600):
        own = many(GLUED, loads)
        at = Bench(own)
        at.tap("done", "dry_run")
        at.live()
        with Measured() as took:
            for _ in range(3):
                at.live()
        taken.append(took.seconds)
    assert taken[1] < 4 * taken[0] + 0.1
