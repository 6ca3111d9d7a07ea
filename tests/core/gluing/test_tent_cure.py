"""Warmth for a glue-up: the series against conduction stepped cell by cell; hours, heater, what a job is told."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bright_willow.core.common.errors import PlanError
from bright_willow.core.gluing.tent_cure import AIR_W_M2K, TENT_W_M2K, Slab
from bright_willow.core.heat.conduction import thermal
from bright_willow.core.plan.plan import plan
from bright_willow.core.plan.read_job import read_job
from tests.conftest import RIB
from tests.searching import examples

WOOD = thermal(specific_gravity=0.6, moisture_pct=10, temperature_c=20)


def stepped(thick_mm, start, air, until_s, cells=80):
    """The middle of a slab on its form (no heat through it), the other face in air: finite differences in time."""
    dx = thick_mm / 1000 / cells
    k, a = WOOD.conductivity, WOOD.diffusivity
    capacity = k / a
    dt = 0.4 * dx**2 / a
    steps = int(np.ceil(until_s / dt))
    dt = until_s / steps
    t = np.full(cells, float(start))
    for _ in range(steps):
        flow = k * np.diff(t) / dx
        face = (air - t[-1]) / (1 / AIR_W_M2K + dx / 2 / k)
        t[:-1] += flow * dt / dx / capacity
        t[1:] -= flow * dt / dx / capacity
        t[-1] += face * dt / dx / capacity
    return (t[cells // 2 - 1] + t[cells // 2]) / 2


@settings(max_examples=examples(5), deadline=None)
@given(thick=st.floats(15, 90), start=st.floats(-5, 15), air=st.floats(20, 45), hours=st.floats(0.3, 6))
def test_the_series_against_finite_differences(thick, start, air, hours):
    middle = Slab(thick, WOOD, start, air).middle_c(np.array([hours * 3600]))[0]
    assert middle == pytest.approx(stepped(thick, start, air, hours * 3600), abs=0.1)


def test_hours_until_the_middle_is_warm():
    slab = Slab(40.0, WOOD, 5.0, 30.0)
    least = slab.warm_s(18.0)
    assert stepped(40.0, 5.0, 30.0, least) == pytest.approx(18.0, abs=0.05)
    assert Slab(40.0, WOOD, 20.0, 30.0).warm_s(18.0) == 0
    assert Slab(60.0, WOOD, 5.0, 30.0).warm_s(18.0) > least > Slab(40.0, WOOD, 5.0, 40.0).warm_s(18.0)
    with pytest.raises(PlanError, match="never warms"):
        slab.warm_s(31.0)


def in_tent(**glue_up):
    return plan(read_job({**RIB, "glue_up": {"tent": "film", "tent_c": 30, "cold_c": 4, **glue_up}}))


def test_a_tent_reaches_press_hours_operations_and_the_heater():
    made, plain = in_tent(), plan(read_job(RIB))
    own, (long, high, deep) = made.tent_cure, made.size_mm
    assert own.hours > 0 and made.laid_up.press_h == plain.laid_up.press_h
    cure = next(o for o in made.operations if o.kind == "cure")
    assert cure.unattended_s.likely == pytest.approx((own.hours + own.press_h) * 3600)
    a, b, c = ((v + 300) / 1000 for v in (long, high, deep))
    area = 2 * (a * b + b * c + a * c)
    assert own.heater_w == pytest.approx(TENT_W_M2K["film"] * area * (30 - made.shop.temperature_c))
    assert in_tent(tent="blankets").tent_cure.heater_w == pytest.approx(own.heater_w / 2)
    assert plain.tent_cure is None and plain.laid_up.warm_h == 0


def test_a_tent_that_is_too_cool_is_said():
    glue = plan(read_job(RIB)).laid_up.glue
    cool = read_job({**RIB, "glue_up": {"tent": "film", "tent_c": glue.min_temp_c - 1, "cold_c": -5}})
    made = plan(cool)
    assert "press.tent" in {f.code for f in made.findings} and made.laid_up.warm_h == 0


def test_air_just_as_warm_as_is_needed_never_warms_the_wood_to_it():
    for air in (20.0, 19.0):
        with pytest.raises(PlanError):
            Slab(40, WOOD, 5, air).warm_s(20.0)
    assert Slab(40, WOOD, 20, 5).warm_s(20.0) == 0.0 < Slab(40, WOOD, 5, 20.5).warm_s(20.0)
