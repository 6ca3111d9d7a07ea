"""How fine a figure is said: as fine as it is sure. The one place for estimates and for sizes things are sold in."""

from __future__ import annotations

import math

from .estimate import Estimate
from .units import MM_PER_INCH, LengthFormat, Unit, format_length

BAND_IN = 10.0  # parts of its band an estimate is rounded to, about
FINEST_IN, FINEST_SMALL_IN = 1 / 16, 1 / 32  # of an estimate that is read on a rule, and of one hardly seen on it
SMALL_MM = 3.0  # of a band, below which an estimate is hardly seen on a rule
STEPS = (1.0, 2.0, 5.0, 10.0)
SOLD_WITHIN_MM = 3.0  # of a whole number of inches, or of 10 mm: then that is what it is sold as
NOMINAL_MM = 1.1  # what a sheet may be thinner than its name
THICK_MM = 40.0  # sheets are no thicker; they are sold by eighths of an inch
HOURS_BELOW_DAYS, WHOLE_FROM_DAYS = 2.0, 10.0


def step_mm(band_mm: float, unit: Unit) -> float:
    """The step an estimate with so wide a band is rounded to, mm: 1, 2 or 5 of a power of ten; halves of an inch.

    The nearest such step to a tenth of the band, never finer than 0.1 mm or 1/64 in. Valid: a band of 0 or more.

    >>> [step_mm(b, "mm") for b in (63.0, 8.0, 0.4)], step_mm(54.0, "in") / 25.4
    ([5.0, 1.0, 0.1], 0.25)
    """
    tenth = band_mm / BAND_IN
    if unit == "in":
        inches = max(tenth / MM_PER_INCH, FINEST_IN if band_mm >= SMALL_MM else FINEST_SMALL_IN)
        return MM_PER_INCH * 2.0 ** round(math.log2(inches))
    if tenth <= 0.1:
        return 0.1
    power = 10.0 ** math.floor(math.log10(tenth))
    return min((power * s for s in STEPS), key=lambda v: abs(math.log(v / tenth)))


def format_estimate(of: Estimate, unit: Unit, *, with_unit: bool = True) -> str:
    """The likely value of an uncertain length, rounded to about a tenth of its band.

    >>> format_estimate(Estimate(26.2, 54.4, 89.0, "allowance"), "mm")
    '55 mm'
    """
    return _rounded(of.likely, of, unit, with_unit=with_unit)


def format_as_sure(mm: float, of: Estimate, unit: Unit) -> str:
    """A length beside an uncertain one of its kind, rounded as that one is, so that the same length reads the same.

    >>> format_as_sure(54.4, Estimate(26.2, 54.4, 89.0, "allowance"), "mm")
    '55 mm'
    """
    return _rounded(mm, of, unit)


def format_band(of: Estimate, unit: Unit) -> str:
    """The band of an uncertain length, in words.

    >>> format_band(Estimate(26.2, 54.4, 89.0, "allowance"), "mm")
    'likely 25 to 90 mm'
    >>> format_band(Estimate(26.2, 54.4, 89.0, "allowance"), LengthFormat("in", 32))
    'likely 1 to 3 1/2 in'
    >>> format_band(Estimate(1193.8, 1200.2, 1212.9, "allowance"), "in")
    'likely 47 to 47 3/4 in'
    """
    low, high = (_rounded(v, of, unit, with_unit=False) for v in (of.low, of.high))
    said = _rounded(of.high, of, unit)
    return f"likely {said}" if low == high else f"likely {low} to {said}"


def format_about(mm: float, unit: Unit) -> str:
    """A length that is an allowance and has no band of its own: about two figures of it.

    >>> format_about(13.24, "mm"), format_about(1.62, "in")
    ('13 mm', '1/16 in')
    """
    return _rounded(mm, Estimate(0.0, abs(mm), abs(mm), "allowance"), unit)


def _rounded(mm: float, of: Estimate, unit: Unit, *, with_unit: bool = True) -> str:
    step = step_mm(of.high - of.low, unit)
    exactly: Unit = "in" if unit == "in" else "mm"
    return format_length(round(mm / step) * step, exactly, with_unit=with_unit)


def format_sold(mm: float, unit: Unit, *, with_unit: bool = True) -> str:
    """The size a sheet or a board is sold by: 2440 × 1220 × 18 mm is 96 × 48 × 3/4 in, and the other way.

    Thicknesses up to 40 mm by eighths of an inch and whole mm, lengths by whole inches and 10 mm where one lies within
    3 mm; what is not sold so is said as it is. Grade: allowance.

    >>> [format_sold(v, "in") for v in (2440.0, 1220.0, 18.0)], [format_sold(v, "mm") for v in (1219.2, 777.0)]
    (['96 in', '48 in', '3/4 in'], ['1220 mm', '777 mm'])
    """
    if mm <= THICK_MM:
        near = round(mm / MM_PER_INCH * 8) / 8 * MM_PER_INCH
        sold = near if unit == "in" and near and abs(near - mm) < NOMINAL_MM else mm
    else:
        whole = MM_PER_INCH if unit == "in" else 10.0
        near = round(mm / whole) * whole
        sold = near if abs(near - mm) <= SOLD_WITHIN_MM and (unit == "in" or round(mm, 1) != round(mm)) else mm
    return format_length(sold, unit, with_unit=with_unit)


def in_full(mm: float, unit: Unit) -> str:
    """A length in full, for whoever wants it: hundredths of a mm, thousandths of an inch.

    >>> in_full(54.371, "mm"), in_full(54.371, "in")
    ('54.37 mm', '2.141 in')
    """
    return f"{mm / MM_PER_INCH:.3f} in" if unit == "in" else f"{mm:.2f} mm"


def rule_of(unit: Unit, *, mm: float, inch: int) -> Unit:
    """The unit with the finest mark of the maker's rule in it."""
    return LengthFormat(unit, mm if unit == "mm" else inch)


def days_said(days: float) -> str:
    """Return a length of time in words: hours below two days, whole days from ten. Valid: 0 or more.

    >>> days_said(0.5), days_said(1.9), days_said(4.66), days_said(17.2)
    ('12 h', '46 h', '4.7 days', '17 days')
    """
    if days < HOURS_BELOW_DAYS:
        return f"{days * 24:.0f} h"
    return f"{days:.0f} days" if days >= WHOLE_FROM_DAYS else f"{days:.1f} days"
