"""A figure is as fine as it is sure: by hand, and as a law for any band."""

import doctest

import pytest
from hypothesis import given
from hypothesis import strategies as st

from bright_willow.core.common import fineness, units
from bright_willow.core.common.estimate import Estimate
from bright_willow.core.common.fineness import format_about, format_band, format_estimate, format_sold, step_mm
from bright_willow.core.common.units import LengthFormat, format_length, parse_length_mm
from bright_willow.core.shop.shop import Shop


def test_the_examples_hold():
    for module in (fineness, units):
        assert doctest.testmod(module).failed == 0


@given(band=st.floats(0.5, 3000), unit=st.sampled_from(["mm", "in"]))
def test_an_estimate_is_rounded_to_about_a_tenth_of_its_band(band, unit):
    step = step_mm(band, unit)
    least = 0.1 if unit == "mm" else 25.4 / (32 if band < 3 else 16)
    assert step >= least - 1e-12
    assert step <= max(least, 0.2 * band) and (step == pytest.approx(least) or step >= 0.05 * band)


@given(low=st.floats(0, 500), up=st.floats(0.1, 300), more=st.floats(0.1, 300), unit=st.sampled_from(["mm", "in"]))
def test_what_is_said_lies_within_half_a_step_of_what_is_meant(low, up, more, unit):
    of = Estimate(low, low + up, low + up + more, "allowance")
    step = step_mm(of.high - of.low, unit)
    said = parse_length_mm(format_estimate(of, unit), unit)
    assert abs(said - of.likely) <= step / 2 + 1e-6
    band = format_band(of, unit)
    assert band.startswith("likely ")
    ends = band.removeprefix("likely ").split(" to ")
    assert abs(parse_length_mm(ends[-1], unit) - of.high) <= step / 2 + 1e-6


def test_a_length_is_read_to_the_marks_of_the_rule_and_thin_stock_by_caliper():
    coarse, fine = LengthFormat("in", 16), LengthFormat("in", 64)
    assert format_length(500.0, coarse) == "19 11/16 in" and format_length(500.0, fine) == "19 11/16 in"
    assert format_length(501.2, coarse) == "19 3/4 in" and format_length(501.2, fine) == "19 47/64 in"
    assert format_length(3.175, coarse) == "1/8 in" and format_length(3.57, coarse) == "9/64 in"
    assert (
        format_length(500.26, LengthFormat("mm", 0.5)) == "500.5 mm"
        and format_length(3.26, LengthFormat("mm", 0.5)) == "3.3 mm"
    )
    assert format_length(501.2, "in") == "19 47/64 in"  # a field and a file keep all of it
    assert coarse == "in" and {"in": 1}[coarse] == 1


def test_the_rule_of_a_shop_is_that_of_its_unit():
    shop = Shop(units="in", rule_in="16", rule_mm="0.5")
    assert (shop.rule, shop.rule.finest) == ("in", 16)
    assert shop.model_copy(update={"units": "mm"}).rule.finest == 0.5


@pytest.mark.parametrize(
    ("mm", "in_mm", "in_inches"),
    [
        (2440, "2440 mm", "96 in"),
        (1219.2, "1220 mm", "48 in"),
        (3050, "3050 mm", "120 in"),
        (18, "18 mm", "3/4 in"),
        (6, "6 mm", "1/4 in"),
        (6.5, "6.5 mm", "1/4 in"),
        (1000, "1000 mm", "39 3/8 in"),
    ],
)
def test_sheets_are_said_as_they_are_sold(mm, in_mm, in_inches):
    assert (format_sold(mm, "mm"), format_sold(mm, "in")) == (in_mm, in_inches)


def test_an_allowance_is_said_to_two_figures():
    assert [format_about(v, "mm") for v in (0.04, 7.23, 132.4)] == ["0 mm", "7 mm", "130 mm"]


@pytest.mark.parametrize(
    ("low", "high", "unit", "message"),
    [
        (47 * 25.4, 47.75 * 25.4, "in", "likely 47 to 47 3/4 in"),  # one begins as the other does
        (47 * 25.4, 47 * 25.4, "in", "likely 47 in"),
        (0.0, 12.7, "in", "likely 0 to 1/2 in"),
        (7.0, 15.0, "mm", "likely 7 to 15 mm"),
        (7.0, 7.0, "mm", "likely 7 mm"),
    ],
)
def test_both_ends_of_a_band_are_said_unless_they_read_alike(low, high, unit, message):
    assert format_band(Estimate(low, (low + high) / 2, high, "allowance"), unit) == message
