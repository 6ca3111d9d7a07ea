"""The order checks stand in, and the words of amounts and dates."""

import datetime as dt
import doctest

from bright_willow.calendar import time_format
from bright_willow.core.common import amounts
from bright_willow.core.common.findings import MINOR, Finding, gravest_first
from bright_willow.core.common.units import LengthFormat, format_difference


def found(code, level="watch"):
    return Finding(code, level, "bend", "", "")


def test_what_breaks_stands_before_what_stains():
    rows = [found("heat.stain"), found("heat.some_break"), found("form.no_bolts"), found("heat.breaks", "stop")]
    assert [f.code for f in gravest_first(rows)] == ["heat.breaks", "heat.some_break", "heat.stain", "form.no_bolts"]
    assert gravest_first([found("heat.stain", "stop"), found("heat.some_break")])[0].code == "heat.stain"
    assert "strain.breaks" not in MINOR


def test_the_examples_hold():
    for module in (time_format, amounts):
        tried = doctest.testmod(module)
        assert tried.attempted and not tried.failed


def test_noon_and_midnight_by_the_12_hour_clock():
    message = [time_format.format_time(dt.datetime(2026, 11, 30, h, 5), "in") for h in (0, 11, 12, 23)]
    assert message == ["12:05 AM", "11:05 AM", "12:05 PM", "11:05 PM"]


def test_a_difference_is_no_finer_than_the_rule_it_was_read_on():
    rule = LengthFormat("in", 16)
    assert [format_difference(mm, rule) for mm in (0.3, 0.9, 25.4 * 9 / 16)] == ["0", "1/16", "9/16"]
    assert [format_difference(mm, LengthFormat("mm", 0.5)) for mm in (0.2, 0.4, -3.1)] == ["0", "0.5", "−3"]
