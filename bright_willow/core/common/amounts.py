"""Amounts in the reader's units: weights, glue, areas, bolts, and round figures to propose."""

from __future__ import annotations

import math

from .units import MM_PER_INCH, Unit

POUNDS_PER_KG, OUNCES_PER_GRAM, SQ_FT_PER_M2 = 2.2046226, 0.03527396, 10.7639104
BOLT: dict[str, str] = {"mm": "10 mm", "in": "3/8 in"}  # what forms are bolted with, by the units of the shop
ROUGH_MM, ROUGH_IN = 5.0, 0.5  # what rough sizes are proposed in


def format_weight(kg: float, unit: Unit) -> str:
    """Return a weight: kilograms or pounds.

    >>> format_weight(12.34, "mm"), format_weight(12.34, "in")
    ('12 kg', '27 lb')
    """
    value = kg * POUNDS_PER_KG if unit == "in" else kg
    return f"{value:.{0 if value >= 10 else 1}f} {'lb' if unit == 'in' else 'kg'}"


def format_glue(grams: float, unit: Unit) -> str:
    """Return an amount of glue by weight: grams or ounces.

    >>> format_glue(94.0, "mm"), format_glue(94.0, "in")
    ('94 g', '3.3 oz')
    """
    return f"{grams * OUNCES_PER_GRAM:.1f} oz" if unit == "in" else f"{grams:.0f} g"


def format_spread(g_m2: float, unit: Unit) -> str:
    """Return how much glue goes on an area: grams a square meter or ounces a square foot.

    >>> format_spread(200.0, "mm"), format_spread(200.0, "in")
    ('200 g/m²', '0.66 oz/sq ft')
    """
    return f"{g_m2 * OUNCES_PER_GRAM / SQ_FT_PER_M2:.2f} oz/sq ft" if unit == "in" else f"{g_m2:.0f} g/m²"


def format_area(m2: float, unit: Unit) -> str:
    """Return an area: square meters or square feet.

    >>> format_area(1.5, "mm"), format_area(1.5, "in")
    ('1.5 m²', '16.1 sq ft')
    """
    return f"{m2 * SQ_FT_PER_M2:.1f} sq ft" if unit == "in" else f"{m2:.1f} m²"


def rough_up(mm: float, unit: Unit) -> float:
    """Return the next rough size that is not smaller, mm: whole 5 mm, or half inches.

    >>> rough_up(26.0, "mm"), rough_up(26.0, "in")
    (30.0, 38.1)
    """
    step = ROUGH_IN * MM_PER_INCH if unit == "in" else ROUGH_MM
    return round(math.ceil(mm / step - 1e-6) * step, 4)


def format_run(m: float, unit: Unit) -> str:
    """Return how much of something sold by length: whole meters or feet, rounded up.

    >>> format_run(4.2, "mm"), format_run(4.2, "in")
    ('5 m', '14 ft')
    """
    return f"{math.ceil(m - 1e-9)} m" if unit == "mm" else f"{math.ceil(m / 0.3048 - 1e-9)} ft"


def format_fine(mm: float, unit: Unit) -> str:
    """Return a thickness measured with calipers: tenths of a mm, or thousandths of an inch.

    >>> format_fine(2.381, "mm"), format_fine(2.381, "in")
    ('2.4 mm', '0.094 in')
    """
    return f"{mm / MM_PER_INCH:.3f} in" if unit == "in" else f"{mm:.1f} mm"
