"""Lengths as people type them."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from bright_willow.core.common.errors import PlanError
from bright_willow.core.common.units import (
    format_force,
    format_length,
    format_wood,
    parse_count,
    parse_length_mm,
    parse_number,
)


@pytest.mark.parametrize(
    ("typed", "unit", "mm"),
    [
        ("45", "mm", 45.0),
        ("45", "in", 1143.0),
        ("1 3/4", "in", 44.45),
        ('1-3/4"', "mm", 44.45),
        ("9/32 in", "mm", 7.14375),
        ("45mm", "in", 45.0),
        ("4.5 cm", "in", 45.0),
        ("4,5cm", "mm", 45.0),
        ("1½ in", "mm", 38.1),
        ("2' 3 1/2\"", "mm", 698.5),
        ("2′ 3″", "mm", 685.8),
        ("1.2 m", "in", 1200.0),
        ("−3/4", "in", -19.05),
        (".5 in", "mm", 12.7),
    ],
)
def test_reads_what_is_typed(typed, unit, mm):
    assert parse_length_mm(typed, unit) == pytest.approx(mm, abs=1e-6)


@pytest.mark.parametrize(
    "typed", ["", "  ", "abc", "1/0", "1.5 1/2", "12 kg", "5 5", "1e5", "--4", "3 in 2 ft", "4mm5", "½½", "9" * 400]
)
def test_refuses_with_a_sentence(typed):
    with pytest.raises(PlanError) as caught:
        parse_length_mm(typed, "mm", "part.width_mm")
    assert caught.value.field == "part.width_mm"
    assert caught.value.message("mm").endswith(".")


@given(st.floats(0, 60_000), st.sampled_from(["mm", "in"]))
def test_formatting_then_parsing_comes_back(mm, unit):
    shown = format_length(mm, unit, decimals=2)
    assert parse_length_mm(shown, "mm") == pytest.approx(mm, abs=0.00501 if unit == "mm" else 25.4 / 128 + 1e-6)


@given(st.integers(1, 64 * 400))
def test_every_sixty_fourth_survives_exactly(sixty_fourths):
    mm = sixty_fourths * 25.4 / 64
    text = format_length(mm, "in")
    assert format_length(parse_length_mm(text, "mm"), "in") == text
    assert parse_length_mm(text, "mm") == pytest.approx(mm, abs=1e-6)


def test_formats_plainly():
    assert format_length(1810.0, "mm") == "1810 mm"
    assert format_length(-0.01, "mm") == "0 mm"
    assert format_length(-12.25, "mm", decimals=2) == "−12.25 mm"
    assert format_length(0.0, "in") == "0 in"
    assert format_length(float("nan"), "mm") == "no data"


def test_numbers_and_counts():
    assert parse_number("12,5°", "a", "an angle") == 12.5
    assert parse_count("7", "n", "a count") == 7
    for bad in ("2.5", "x", "", "1e3"):
        with pytest.raises(PlanError):
            parse_count(bad, "n", "a count")


def test_other_quantities_follow_the_unit():
    assert format_wood(0.02, "mm") == "20.0 l"
    assert format_wood(0.02, "in") == "8.5 bd ft"  # 20 / 2.359737
    assert format_force(100, "in") == "22 lbf"
