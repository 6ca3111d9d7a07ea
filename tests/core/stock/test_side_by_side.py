"""Ganged and from one wide blank: widths by hand, wood and goes as laws; glue mixed and warmed."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from bright_willow.core.gluing.adhesive import adhesive_table
from bright_willow.core.gluing.mix import batches, glue_times, mix, parts_of
from bright_willow.core.plan.plan import plan
from bright_willow.core.plan.read_job import read_job
from bright_willow.core.shop.shop import Shop
from bright_willow.core.stock.side_by_side import curl_mm, laid
from tests.conftest import RIB


def side(count, as_="strips", **more):
    return read_job({**RIB, "prepare": {"length_mm": 2600, "abreast": count, "abreast_as": as_, **more}})


def test_widths_by_hand():
    """The rib is 60 wide, 6 more to clean up, a cut 3: wide 3 · 60 + 2 · 3 + 6; strips 3 · 66 with 10 between."""
    job, shop = side(3), Shop()
    wide, strips, alone = (laid(job, shop, k, n) for k, n in (("wide", 3), ("strips", 3), ("alone", 1)))
    assert (wide.on_form_mm, wide.strip_wide_mm, wide.pitch_mm, wide.strips_a_layer) == (192, 192, 63, 1)
    assert (strips.on_form_mm, strips.strip_wide_mm, strips.wood_mm) == (218, 66, 198)
    assert (alone.on_form_mm, alone.goes) == (66, 7) and wide.goes == strips.goes == 3
    assert (wide.strips(8, 7), strips.strips(8, 7)) == (24, 56)


@given(pieces=st.integers(2, 9))
def test_a_wide_blank_takes_less_wood_than_as_many_strips(pieces):
    job, shop = side(2), Shop()
    wide, strips = laid(job, shop, "wide", pieces), laid(job, shop, "strips", pieces)
    assert wide.on_form_mm < strips.on_form_mm and wide.net_mm <= wide.on_form_mm
    assert wide.on_form_mm == pytest.approx(pieces * 60 + (pieces - 1) * shop.kerf_mm + shop.clean_up_mm)


def test_side_by_side_reaches_form_stock_glue_operations_and_days():
    alone, together, wide = plan(side(1)), plan(side(3)), plan(side(3, "wide"))
    assert wide.site.stack_mm >= 192 and together.site.stack_mm >= 218 and alone.site.stack_mm < 100
    assert wide.quantities.stock.strip_width_mm == 192 and wide.quantities.stock.strips == 8 * 3
    assert together.quantities.stock.strips == alone.quantities.stock.strips
    assert wide.laid_up.glue_g.value == pytest.approx(alone.laid_up.glue_g.value * 3 * 192 / (7 * 66))
    assert "saw_apart" in {o.kind for o in wide.operations} and "saw_apart" not in {o.kind for o in together.operations}
    assert {o.scope for o in together.operations if o.kind == "cure"} == {"batch"}
    assert together.elapsed.form_days < alone.elapsed.form_days
    assert "prepare.wide" in {f.code for f in wide.findings}


@given(width=st.floats(1, 2000), thick=st.floats(0.3, 40), radius=st.floats(50, 1e5))
def test_curl_grows_with_the_width_up_to_that_of_a_plate(width, thick, radius):
    curl = curl_mm(width_mm=width, thickness_mm=thick, curvature=1 / radius)
    assert 0 <= curl <= curl_mm(width_mm=2 * width, thickness_mm=thick, curvature=1 / radius) <= 0.126 * thick
    assert curl == curl_mm(width_mm=width, thickness_mm=thick, curvature=-1 / radius)


def test_a_glue_of_two_parts_wants_its_ratio():
    glue = next(a for a in adhesive_table().values() if a.parts == 2 and a.pot_life_min)
    job = read_job({**RIB, "build_up": {"laminae": 8, "adhesive": glue.key}})
    assert "press.ratio" in {f.code for f in plan(job).findings}
    known = read_job({**RIB, "build_up": {"laminae": 8, "adhesive": glue.key}, "glue_up": {"by_weight": 25}})
    made = plan(known)
    assert "press.ratio" not in {f.code for f in made.findings}
    own = made.glued_up.mix
    assert own.resin_g + own.hardener_g == pytest.approx(own.pot_g) and own.hardener_g == pytest.approx(own.resin_g / 4)
    assert own.mass_g == pytest.approx(made.laid_up.glue_g.value / 7)
    message = next(o for o in made.operations if o.kind == "mix").steps
    assert f"{own.resin_g:.0f} g of resin and {own.hardener_g:.0f} g of hardener" in " ".join(message)
    by_volume = mix(glue, known.glue_up.model_copy(update={"by_weight": None, "by_volume": 50.0}), 500)
    assert by_volume.problem is None and by_volume.resin_g is None


@given(mass=st.floats(0, 1e5), parts=st.floats(0.5, 900))
def test_parts_add_up_to_the_mix(mass, parts):
    resin, hardener = parts_of(mass, parts)
    assert resin + hardener == pytest.approx(mass) and hardener == pytest.approx(resin * parts / 100)
    assert (batches(mass, 900) - 1) * 900 < mass or mass == 0


def test_the_data_sheet_and_the_warmth_where_it_is_spread_count():
    job = read_job({**RIB, "glue_up": {"open_min": 7, "closed_min": 9, "pot_min": 30, "temperature_c": 30}})
    glue = plan(job).laid_up.glue
    cold = job.glue_up.model_copy(update={"temperature_c": 20.0})
    at20, at30 = glue_times(glue, cold, Shop()), glue_times(glue, job.glue_up, Shop())
    assert (at20.open_s, at20.closed_s, at20.pot_s) == (420, 540, 1800)
    assert at30.open_s == pytest.approx(210) and at30.pot_s == pytest.approx(900) and at30.from_sheet
    own = plan(job).glued_up.race
    assert (own.open_s, own.closed_s) == (pytest.approx(210), pytest.approx(270))
