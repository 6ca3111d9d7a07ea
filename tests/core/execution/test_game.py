"""Games: the chamber that is not there, what goes wrong, what comes of it. Records and rehearsals."""

from __future__ import annotations

import dataclasses

import pytest

from bright_willow.core.common.errors import PlanError
from bright_willow.core.common.operation import Move, Window
from bright_willow.core.execution.events import Event
from bright_willow.core.execution.game import TABLE, TROUBLES, WATER, drawn, played
from bright_willow.core.execution.run_clock import Clock, clock_of
from bright_willow.core.execution.run_records import own_times, records_of, takes_of, timed, went
from bright_willow.core.execution.simulated_chamber import SimulatedChamber, cold, stepped
from bright_willow.core.scheduling.job_tasks import CompletedTask

from .runs import GLUED, STEAMED, T0, Bench, brief


def game(number: int = STEAMED, seed: int = 0) -> Bench:
    own = brief(number)
    before = tuple(CompletedTask(o.key, -1, T0, T0) for o in own.operations if o.scope == "job")
    return Bench(dataclasses.replace(own, before=before, forms=3, places=3, seed=seed))


def seed_with(trouble: str, number: int = STEAMED) -> int:
    return next(s for s in range(500) if any(t.key == trouble and n[1] == 0 for t, n in drawn(game(number, s).brief)))


def steamed(seed: int = 0) -> Bench:
    at = game(seed=seed)
    at.tap("begin", "warm_up", 0, at=0)
    at.tap("done", "warm_up", 0, at=1100)
    at.tap("done", "load", 0, at=1120)
    return at


def warm_up_s(box: SimulatedChamber, to_c: float) -> float:
    now, at = cold(box), 0.0
    while now.wall_c < to_c - 0.01:
        now, at = stepped(box, now, 5.0, is_lit=True), at + 5
        assert at < 20_000
    return at


def test_the_simulated_chamber_warms_up_as_long_as_planned():
    box = brief().chamber
    planned = brief().of["warm_up"].unattended_s.likely
    assert warm_up_s(box, box.holds_c) == pytest.approx(planned, rel=0.12)  # the plan takes half the losses on the way


def test_the_chamber_loses_and_gains_what_it_must():
    """Energy: what the walls take up is what came in less what went out, over one short step."""
    box = SimulatedChamber(20.0, 100.0, 2.0, 10.0, 40_000.0, 50.0)
    now = stepped(box, cold(box), 300.0, is_lit=True)
    after = stepped(box, now, 1.0, is_lit=True)
    assert (after.wall_c - now.wall_c) * box.stores_j_k == pytest.approx(2000 - 10 * (now.wall_c - 20), rel=1e-6)
    hot = stepped(box, cold(box), 7200.0, is_lit=True)
    assert hot.wall_c == box.holds_c == 100.0
    opened = stepped(box, hot, 20.0, is_lit=True, is_open=True)
    assert opened.air_c < 70 and opened.wall_c > 99
    out = stepped(box, hot, 1800.0, is_lit=False)
    assert 20 < out.wall_c < 70 and out.water_l == hot.water_l
    dry = stepped(box, dataclasses.replace(hot, water_l=0.0), 1800.0, is_lit=True)
    assert dry.wall_c == out.wall_c  # a fire without water makes no steam
    weak = SimulatedChamber(20.0, 100.0, 0.5, 10.0, 40_000.0, 50.0)
    assert stepped(weak, cold(weak), 86_400.0, is_lit=True).wall_c == pytest.approx(70.0) == weak.holds_c
    with pytest.raises(PlanError):
        stepped(box, hot, -1.0, is_lit=True)
    with pytest.raises(PlanError):
        dataclasses.replace(box, power_kw=float("nan"))


def test_a_day_done_rightly_comes_out_whole():
    at = steamed()
    for _ in range(4):  # whatever goes wrong is dealt with rightly
        state = at.state(3000)
        waits = played(at.brief, state).waiting
        if waits is None:
            break
        right = next(c.key for c in waits.trouble.choices if c.is_right)
        at.tap("handle", of=waits.client, text=right, at=waits.at_s - T0 + 5)
    bend = at.brief.of["bend"]
    at.tap("begin", "bend", 0, at=3000)
    at.tap("done", "bend", 0, at=3000 + bend.window.seconds * 0.3)
    for _ in range(3):
        waits = played(at.brief, at.state(4000)).waiting
        if waits:
            right = next(c.key for c in waits.trouble.choices if c.is_right)
            at.tap("handle", of=waits.client, text=right, at=waits.at_s - T0 + 3)
    came = played(at.brief, at.state(4000)).came
    assert [(c.number, c.level, c.message) for c in came] == [(0, "fit", ())]


def test_out_too_soon_or_too_slowly_is_lost():
    cold_one, slow = steamed(), steamed()
    cold_one.tap("begin", "bend", 0, at=1300)
    cold_one.tap("done", "bend", 0, at=1310)
    came = played(cold_one.brief, cold_one.state(1400)).came
    assert came[0].level == "stop" and "it cracked" in came[0].message[0]
    window = brief().of["bend"].window.seconds
    for late, level in ((1.2, "watch"), (1.6, "stop")):
        own = dataclasses.replace(slow, events=list(slow.events))
        own.tap("begin", "bend", 0, at=3000)
        own.tap("done", "bend", 0, at=3000 + late * window)
        assert played(own.brief, own.state(4000)).came[0].level == level


def test_a_boiler_that_runs_dry_cools_the_chamber_until_it_is_filled():
    at = steamed(seed_with("dry"))
    trouble = next(h for h in played(at.brief, at.state(6000)).happened if h.trouble.key == "dry")
    when = trouble.at_s - T0
    lost = played(at.brief, at.state(when + 900))
    assert lost.chamber[-1][1] < 93 and lost.waiting is not None
    at.tap("handle", of=trouble.client, text="fill", at=when + 30)
    kept = played(at.brief, at.state(when + 900))
    assert kept.chamber[-1][1] > 97 and kept.happened[0].is_right
    wrong = steamed(seed_with("dry"))
    wrong.tap("handle", of=trouble.client, text="vent", at=when + 30)
    wrong.tap("handle", of=trouble.client, text="fill", at=when + 60)  # once chosen it stands
    assert not played(wrong.brief, wrong.state(when + 900)).happened[0].is_right


def test_water_runs_out_by_itself_and_is_topped_up():
    at = steamed()
    level = played(at.brief, at.state(2400)).water_l
    assert 0 < level < at.brief.chamber.reservoir_l
    at.tap("count", text=WATER, value=1.0, at=2400)
    assert played(at.brief, at.state(2420)).water_l > level


def test_what_goes_wrong_fits_the_day_and_is_the_same_for_a_seed():
    for number in (STEAMED, GLUED):
        kinds = set()
        for seed in range(40):
            own = game(number, seed).brief
            assert drawn(own) == drawn(own) and 0 < len(drawn(own)) <= TROUBLES
            kinds |= {t.key for t, _ in drawn(own)}
            assert all(t.comes_to(own.of[name[0]]) for t, name in drawn(own))
        assert {"dry", "stop", "helper"} <= kinds if number == STEAMED else {"slide", "visitor"} <= kinds
        assert "bag" not in kinds
    for trouble in TABLE.values():
        assert sum(c.is_right for c in trouble.choices) == 1, trouble.key
        assert len({c.key for c in trouble.choices}) == len(trouble.choices) >= 2


def test_the_clock_of_a_game():
    """By hand: ten seconds as it is, ten at sixty, then on to what is next, then it stands still."""
    events = [
        Event(0, "speed", "a", value=60.0, wall_s=110.0),
        Event(5000.0, "speed", "b", value=1.0, wall_s=120.0),
        Event(0, "speed", "c", value=0.0, wall_s=130.0),
    ]
    clock = clock_of(100.0, events)
    assert [clock.run_s(w) for w in (100, 110, 120, 125, 130, 500)] == [100, 110, 5000, 5005, 5010, 5010]
    assert clock.rate(115) == 60 and clock.rate(200) == 0
    back = clock_of(100.0, [Event(50.0, "speed", "x", value=-3.0, wall_s=200.0)])
    assert back.run_s(210.0) == 200.0  # never backwards
    assert Clock(((0.0, 0.0, 1.0),)).run_s(-5.0) == -5.0


def test_what_a_run_leaves_of_each_piece():
    at = Bench(brief())
    at.all_before("load")
    at.tap("begin", "load", 0, at=1000)
    at.tap("done", "load", 0, at=1010)
    at.tap("begin", "bend", 0, at=2210)
    at.tap("done", "bend", 0, at=2252)
    at.tap("broke", number=1, text="splintered", where="outer face", at=2260)
    at.tap("note", number=0, text="a small check", at=2270)
    at.tap("done", "to_frame", 0, at=2252 + 90_000)
    box = [(T0 + t, 96.0 if t < 1600 else 98.0) for t in range(900, 2300, 10)]
    first, second = records_of(at.brief, at.state(), box)
    assert first.steamed_s == 1200 and first.to_form_s == 42 and first.on_form_s == 90_000
    assert first.chamber_c == pytest.approx(97.0, abs=0.1)  # 590 s of 96, 610 s of 98
    assert first.broke == "" and first.notes == ("a small check",)
    assert second.broke == "splintered, outer face" and second.open_s is None
    guessed = Bench(brief())
    guessed.tap("done", "bend", 0, at=3000)  # nobody saw anything before
    assert all(r.steamed_s is None and r.to_form_s is None for r in records_of(guessed.brief, guessed.state()))


def test_what_a_glue_up_leaves_and_teaches():
    at = Bench(brief(GLUED))
    at.all_before("mix")
    for key, begin, end in (("mix", 0, 200), ("spread", 200, 500), ("close", 500, 900)):
        at.tap("begin", key, 0, at=1000 + begin)
        at.tap("done", key, 0, at=1000 + end)
    at.tap("done", "release", 0, at=40_000)
    gauge = [(T0 + t, 80.0) for t in range(2000, 39_000, 60)]
    record = records_of(at.brief, at.state(), (), gauge)[0]
    assert record.open_s == 700 and record.steamed_s is None and record.pressure_kpa == 80.0
    own = {t.key: t for t in timed(at.brief, at.state())}
    assert {k: t.seconds for k, t in own.items()} == {"mix": 200, "spread": 300, "close": 400}
    planned = at.brief.of["close"].attended_s
    assert own["close"].planned_s == planned.likely == sum(n * s for _, n, s in own["close"].made_of)


def test_takes_of_a_rehearsal():
    at = Bench(brief())
    moves = [m for o in at.brief.operations for m in o.moves]
    for begin in (0, 100):
        at.tap("again", at=begin)
        for n in range(len(moves)):
            at.tap("move", at=begin + 3 * (n + 1) + (begin > 0) * (n + 1))
    at.tap("again", at=200)
    at.tap("move", at=203)  # broken off: counts for nothing
    takes = takes_of(at.state(), len(moves))
    assert [t.total_s for t in takes] == [3 * len(moves), 4 * len(moves)]
    own = own_times(moves, takes)
    pulls = next(m for m in moves if m.sets == "heat.clamp_s")
    assert own["heat.carry_s"] == 3.5 and own["heat.clamp_s"] == 3.5 * pulls.times
    there = Window("working time", "bend", 50.0, "physics")
    assert [went(s, there).level for s in (40.0, 41.0, 50.0, 50.1)] == ["fit", "watch", "watch", "stop"]
    assert own_times([Move("x", "you", 0, 1)], takes) == {}
