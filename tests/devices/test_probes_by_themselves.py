"""Probes by themselves: what a message may be, what simulated ones show against what it should be, and their faults."""

import itertools
import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from bright_willow.core.common.errors import PlanError
from bright_willow.core.execution.core_temperature import HeatHistory, core_c
from bright_willow.devices.port import (
    AHEAD_S,
    BEHIND_S,
    KINDS,
    MOST_AT_ONCE,
    SensorReading,
    in_unit,
    taken,
)
from bright_willow.devices.simulated_probes import (
    BAR,
    BOX,
    DRY_PCT,
    FAULTS,
    HALF_S,
    PUMPS_TO_KPA,
    SOURCES,
    WET_PCT,
    readings,
)

NOW = 1_800_000_000.0


def first(kind: str, count: int, every_s: float = 10.0, fault: str = "") -> list[tuple[float, float]]:
    return [(s.at_s, s.value) for s in itertools.islice(readings(kind, every_s=every_s, fault=fault), count)]


# -- the message ----------------------------------------------------------------------------------------------------
@pytest.mark.parametrize(
    ("kind", "value", "unit", "kept"),
    [
        ("chamber", 212.0, "F", 100.0), ("chamber", 98.4, "", 98.4), ("wood", 32.0, "°F", 0.0),
        ("vacuum", 25.0, "inHg", 84.66), ("vacuum", 0.8, "bar", 80.0), ("vacuum", 847.0, "mbar", 84.7),
        ("vacuum", 12.0, "psi", 82.74), ("moisture", 12.345, "%", 12.35), ("chamber", 20.0, "C", 20.0),
    ],
)  # fmt: skip
def test_a_value_is_kept_in_its_kind_s_unit(kind, value, unit, kept):
    assert in_unit(KINDS[kind], value, unit) == pytest.approx(kept, abs=0.011)


def test_what_is_of_another_planet_another_unit_or_another_probe_is_refused():
    for kind in KINDS.values():
        assert in_unit(kind, kind.low, "") == kind.low and in_unit(kind, kind.high, "") == kind.high
        for beyond in (kind.low - 0.01, kind.high + 0.01):
            with pytest.raises(PlanError, match="outside that"):
                in_unit(kind, beyond, "")
    with pytest.raises(PlanError, match="sends °C, F"):
        in_unit(KINDS["chamber"], 300.0, "K")
    with pytest.raises(PlanError, match="does not belong to “the other”"):
        taken(KINDS["wood"], "mine", [SensorReading(value=20.0, probe="the other")], NOW)
    assert taken(KINDS["wood"], "mine", [SensorReading(value=20.0, probe="mine")], NOW).rows == ((NOW, 20.0),)
    assert len(taken(KINDS["wood"], "m", [SensorReading(value=20.0, at=NOW)] * MOST_AT_ONCE, NOW).rows) == MOST_AT_ONCE
    with pytest.raises(PlanError, match="At most 600"):
        taken(KINDS["wood"], "m", [SensorReading(value=20.0)] * (MOST_AT_ONCE + 1), NOW)


@pytest.mark.parametrize(
    ("at", "is_believed"),
    [(NOW - 5, True), (NOW + AHEAD_S, True), (NOW + AHEAD_S + 1, False), (NOW - BEHIND_S, True), (NOW - BEHIND_S - 1, False),
     (math.inf, False), (None, True)],
)  # fmt: skip
def test_a_clock_too_far_off_counts_no_more(at, is_believed):
    """Then the time it arrives is taken, and said; and never is a reading of the future."""
    reading = SensorReading.model_construct(value=50.0, unit="", at=at, probe="")
    made = taken(KINDS["chamber"], "box", [reading], NOW)
    ((kept, value),) = made.rows
    assert value == 50.0 and bool(made.message) == (not is_believed) and kept <= NOW + 1e-3
    if is_believed and at is not None:
        assert kept == min(at, NOW)
    else:
        assert kept == pytest.approx(NOW)


@given(st.lists(st.tuples(st.floats(-40, 130), st.floats(-1e6, 50)), min_size=1, max_size=40))
def test_rows_come_in_order_of_time_and_none_is_lost(sent):
    made = taken(KINDS["chamber"], "box", [SensorReading(value=v, at=NOW + at) for v, at in sent], NOW)
    times = [at for at, _ in made.rows]
    assert times == sorted(times) and len(made.rows) == len(sent)
    assert sorted(v for _, v in made.rows) == pytest.approx(sorted(round(v, 2) for v, _ in sent))


# -- what they show -------------------------------------------------------------------------------------------------
def test_a_chamber_warms_as_its_energy_text():
    """C dT/dt = P − UA (T − air) of its walls, its air after them, solved by another program; never beyond boiling."""
    rows = first("chamber", 361)

    def warming(_, t):
        loss = BOX.loss_w_k * (t[0] - BOX.air_c)
        walls = (BOX.power_kw * 1000 - loss) / BOX.stores_j_k if t[0] < BOX.boiling_c else 0.0
        return [walls, (t[0] - t[1]) / 40.0]

    at = [a for a, _ in rows]
    solved = solve_ivp(warming, (0, at[-1]), [BOX.air_c] * 2, t_eval=at, max_step=1.0)
    values = [v for _, v in rows]
    assert values == pytest.approx(solved.y[1], abs=0.6)
    assert rows[0] == (0.0, BOX.air_c) and values == sorted(values) and max(values) <= BOX.boiling_c


def test_the_middle_of_the_bar_follows_the_chamber_it_lies_in():
    """Against the core's own series over the chamber's readings, all of them."""
    chamber, wood = first("chamber", 240, 30.0), first("wood", 240, 30.0)
    heat = HeatHistory(
        np.array([0.0, *(at for at, _ in chamber[1:])]), np.array([BOX.air_c, *(v for _, v in chamber[1:])])
    )
    assert wood[0][1] == pytest.approx(BAR.start_c)
    for n in (20, 60, 120, 239):
        at, shown = wood[n]
        assert shown == pytest.approx(float(core_c(BAR, heat, np.array([at]))[0]), abs=0.3), at
    lag = [c - w for (_, c), (_, w) in zip(chamber, wood, strict=True)]
    assert max(lag) > 20 and abs(lag[-1]) < 1  # behind at first, nearly through after two hours


def test_a_bag_is_drawn_and_wood_dries_by_their_time_constants():
    bag = dict(first("vacuum", 100, 30.0))
    assert bag[0.0] == 0 and bag[30.0] == pytest.approx(PUMPS_TO_KPA * (1 - math.exp(-1)), rel=1e-6)
    assert bag[2970.0] == pytest.approx(PUMPS_TO_KPA, rel=1e-6)
    wood = dict(first("moisture", 8, 86_400.0))
    assert wood[0.0] == WET_PCT and wood[3 * 86_400.0] == pytest.approx(DRY_PCT + (WET_PCT - DRY_PCT) / math.e)
    assert list(wood.values()) == sorted(wood.values(), reverse=True)
    # how often it is asked does not change what it shows
    assert dict(first("vacuum", 40, 60.0))[600.0] == pytest.approx(bag[600.0])


@pytest.mark.parametrize("kind", sorted(SOURCES))
def test_all_they_show_without_a_fault_is_taken(kind):
    for _, value in first(kind, 200, 60.0):
        assert in_unit(KINDS[kind], value, "") == pytest.approx(value, abs=0.006)


def test_faults_to_order():
    plain = first("chamber", 400)
    half = int(HALF_S / 10)
    assert len(first("chamber", 400, fault="silent")) == half == 180
    stuck = first("chamber", 400, fault="stuck")
    assert stuck[:half] == plain[:half] and {v for _, v in stuck[half:]} == {plain[half][1]}
    absurd = first("chamber", 70, fault="absurd")
    assert [n for n, (_, v) in enumerate(absurd) if v == 9999.0] == list(range(6, 70, 7))
    with pytest.raises(PlanError):
        in_unit(KINDS["chamber"], 9999.0, "")
    mixed = first("chamber", 40, fault="disorder")
    assert sorted(mixed) == plain[:40] and mixed[0] == plain[1] and mixed[1] == plain[0]
    dry, leak = dict(first("chamber", 600, fault="dry")), dict(first("vacuum", 400, fault="leak"))
    assert dry[HALF_S] == pytest.approx(dict(plain)[HALF_S]) and dry[5990.0] < dry[HALF_S] - 20
    assert leak[HALF_S] == pytest.approx(PUMPS_TO_KPA, rel=1e-3)
    assert leak[HALF_S + 400] == pytest.approx(leak[HALF_S] / math.e, rel=0.03)
    for bad in (
        {"kind": "sonar"},
        {"kind": "wood", "fault": "lazy"},
        {"kind": "wood", "every_s": 0.0},
        {"kind": "wood", "every_s": 1e9},
    ):
        with pytest.raises(PlanError, match="please|choose one of"):
            next(readings(bad["kind"], every_s=bad.get("every_s", 1.0), fault=bad.get("fault", "")))
    assert set(FAULTS) == {"silent", "stuck", "absurd", "disorder", "dry", "leak"}
