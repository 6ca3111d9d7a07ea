"""A breakdown in a run: what to do, what is usable for how long, what comes first."""

import numpy as np
import pytest

from bright_willow.core.common.errors import PlanError
from bright_willow.core.execution.breakdowns import breakdowns, breakdowns_of, time_left, usable_until_s
from bright_willow.core.execution.core_temperature import HeatHistory, core_c
from bright_willow.core.execution.game import COLD_K
from bright_willow.core.execution.simulated_chamber import Inside, stepped
from tests.core.execution.runs import GLUED, STEAMED, T0, Bench, brief


def left(bench, what):
    return time_left(what, bench.brief, bench.state(), bench.live())


def in_the_steam(minutes, *, loads=1):
    """A steam run whose first loads went in together so many minutes ago."""
    bench = Bench(brief())
    bench.all_before("load")
    for number in range(loads):
        bench.tap("done", "load", number)
    bench.at += 60 * minutes
    return bench


def test_a_run_is_offered_only_what_its_steps_can_have():
    hot, glued = ({b.key for b in breakdowns_of(brief(job))} for job in (STEAMED, GLUED))
    assert {"dry", "drain", "leak", "helper", "power"} <= hot and not {"clamps", "iron"} & hot
    assert {"clamps", "helper", "power"} <= glued and not {"dry", "drain", "stop"} & glued
    assert ("stop" in hot) == any(t.what == "strap" for o in brief(STEAMED).operations for t in o.takes)
    with pytest.raises(PlanError):
        left(Bench(brief(STEAMED)), "clamps")


def test_a_piece_heated_through_is_usable_until_its_middle_has_cooled_in_the_shut_box():
    """Against the box cooled step by step and the middle by conduction, a second time and finer."""
    bench = in_the_steam(90)
    (one,) = left(bench, "dry")
    assert one.name == "Pieces 1 to 2" and "bend it now" in one.message
    warms = next(o.warms for o in bench.brief.operations if o.warms)
    began = bench.state().marks["steam", 0].from_s
    inside, times, shown = Inside(warms.chamber_c, warms.chamber_c, 0.0), [began], [warms.chamber_c]
    for second in range(0, 3600, 5):
        inside = stepped(bench.brief.chamber, inside, 5.0, is_lit=False)
        times.append(T0 + bench.at + second)
        shown.append(inside.air_c)
    middle = core_c(
        warms, HeatHistory(np.array(times), np.array(shown)), np.array([one.until_s - 45, one.until_s + 45])
    )
    assert middle[0] > warms.goal_c - COLD_K > middle[1]
    assert 60 < one.until_s - T0 - bench.at < 3600


def test_a_piece_not_heated_through_stays_in_and_has_no_time_to_lose():
    (one,) = left(in_the_steam(2), "dry")
    assert "Not heated through" in one.message and one.until_s is None
    assert usable_until_s(brief(), Bench(brief()).state(), 0) is None  # nothing is in the heat


def test_what_has_least_time_comes_first_and_what_is_done_is_not_told():
    bench = in_the_steam(90, loads=2)
    bench.tap("begin", "bend", 0)
    bench.at += 10
    told = left(bench, "stop" if "stop" in {b.key for b in breakdowns_of(bench.brief)} else "dry")
    assert [t.name for t in told] == ["Pieces 1 to 2", "Pieces 3 to 4"]  # the first is on its way to the form
    assert "running" in told[0].message and told[0].until_s < told[1].until_s
    bench.tap("done", "bend", 0)
    assert [t.name for t in left(bench, "dry")] == ["Pieces 3 to 4"]


def test_without_a_helper_the_steam_gives_time_until_its_latest():
    (piece, step) = left(in_the_steam(90), "helper")
    state = in_the_steam(90).live().pieces[0]
    assert piece.until_s == state.latest_s and "Leave it" in piece.message
    assert "Wait with" in step.message or step.until_s is None


def test_a_bag_that_leaks_must_be_tight_again_before_the_closed_time_is_over():
    bench = Bench(brief(GLUED))
    bench.all_before("spread")
    for key in ("spread", "close"):
        bench.tap("begin", key, 0)
        bench.at += 120
        bench.tap("done", key, 0)
    bench.at += 60
    window = next(o.window for o in bench.brief.operations if o.window)
    (one,) = left(bench, "clamps")
    spread = bench.state().marks[window.since, 0].from_s
    assert one.until_s - spread == pytest.approx(window.seconds) and "Press it again" in one.message
    bench.at += window.seconds
    (late,) = left(bench, "clamps")
    assert late.until_s is None and "leave it alone" in late.message


def test_nothing_ever_tells_to_seal_a_box():
    for one in breakdowns().values():
        text = " ".join(one.do).lower()
        assert "seal a steam box" not in text.replace("never seal a steam box", "")
        assert one.name and 1 <= len(one.do) <= 3 and all(step.endswith(".") for step in one.do)
