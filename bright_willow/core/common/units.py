"""Lengths, angles and counts as people type them, and back. Inside there are only millimetres and radians."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass
from fractions import Fraction
from typing import Literal

from .errors import PlanError

Unit = Literal["mm", "in"]
MM_PER_INCH = 25.4
MM_PER: dict[str, float] = {
    "mm": 1.0,
    "cm": 10.0,
    "m": 1000.0,
    "in": MM_PER_INCH,
    "inch": MM_PER_INCH,
    "inches": MM_PER_INCH,
    '"': MM_PER_INCH,
    "″": MM_PER_INCH,
    "ft": 12 * MM_PER_INCH,
    "feet": 12 * MM_PER_INCH,
    "foot": 12 * MM_PER_INCH,
    "'": 12 * MM_PER_INCH,
    "′": 12 * MM_PER_INCH,
}
_GLYPHS = {"¼": "1/4", "½": "1/2", "¾": "3/4", "⅛": "1/8", "⅜": "3/8", "⅝": "5/8", "⅞": "7/8"}
_NUMBER = r"\d{1,9}(?:[.,]\d{0,9})?|[.,]\d{1,9}"
_TERM = re.compile(
    rf"(?P<whole>{_NUMBER})?(?:(?:(?<=\d)\s*-\s*|(?<=\d)\s+|^\s*)?(?P<num>\d{{1,6}})\s*/\s*(?P<den>\d{{1,6}}))?"
    r"\s*(?P<unit>mm|cm|m|inches|inch|in|feet|foot|ft|″|\"|'|′)?(?![a-z])"
)
_BARE_FRACTION = re.compile(r"[-+]?(\d+[\s-]+)?\d+\s*/\s*\d+")
_PLAIN_FRACTION = re.compile(r"(?P<num>\d{1,6})\s*/\s*(?P<den>\d{1,6})\s*(?P<unit>[a-z\"″'′]+)?")


def parse_length_mm(text: str, unit: Unit, field: str = "length") -> float:
    """Millimetres for a typed length; a bare number is in `unit`.

    Takes `45`, `45mm`, `4.5 cm`, `4,5cm`, `1 3/4`, `1-3/4"`, `9/32 in`, `2' 3 1/2"`, `1½ in`, and a leading minus.
    A fraction without a unit is refused where the unit is mm: it would be read as a fraction of a mm.
    Raises: PlanError with a sentence when it cannot be read.

    >>> parse_length_mm('1-3/4"', "mm")
    44.45
    >>> parse_length_mm("4.5 cm", "in")
    45.0
    """
    cleaned = str(text).strip().lower().replace("−", "-").replace("’", "'").replace("”", '"').replace("''", '"')
    for glyph, plain in _GLYPHS.items():
        cleaned = cleaned.replace(glyph, " " + plain)
    cleaned = cleaned.replace("⁄", "/").strip()
    if not cleaned:
        raise PlanError(field, "Type a length here.", hint=_examples(unit))
    if unit == "mm" and _BARE_FRACTION.fullmatch(cleaned):
        raise PlanError(field, f'Inches? Type {_short(text)}".', hint="A bare number is in mm.")
    sign = -1.0 if cleaned.startswith("-") else 1.0
    rest = cleaned[1:].strip() if cleaned[0] in "+-" else cleaned
    total, position = 0.0, 0
    last_factor = math.inf
    while position < len(rest):
        value, given, end = _term(rest, position, text, unit, field)
        factor = MM_PER[given or unit]
        if position and (factor >= last_factor or (given is None and last_factor > 12 * MM_PER_INCH)):
            raise PlanError(field, f"“{_short(text)}” cannot be read as one length.", hint=_examples(unit))
        if position and given is None:  # 2' 3 means two feet three inches
            factor = MM_PER_INCH
        total += value * factor
        last_factor = factor
        position = end
        while position < len(rest) and rest[position] in " -,":
            position += 1
    return round(sign * total, 6)


def _term(rest: str, position: int, text: str, unit: Unit, field: str) -> tuple[float, str | None, int]:
    """One number with its unit out of a typed length: its value, the unit if one is written, where it ends."""
    plain = _PLAIN_FRACTION.match(rest, position)
    match = plain or _TERM.match(rest, position)
    if not match or match.end() == position or not (plain or match["whole"]):
        raise PlanError(field, f"“{_short(text)}” is not a length.", hint=_examples(unit))
    value = float(match["whole"].replace(",", ".")) if not plain and match["whole"] else 0.0
    if match["num"]:
        if int(match["den"]) == 0:
            raise PlanError(field, f"“{_short(text)}” divides by zero.", hint=_examples(unit))
        if not plain and not float(value).is_integer():
            raise PlanError(field, f"“{_short(text)}” mixes a decimal and a fraction.", hint=_examples(unit))
        value += int(match["num"]) / int(match["den"])
    given = match["unit"]
    if given is not None and given not in MM_PER:
        raise PlanError(field, f"“{given}” is not a known unit.", hint=_examples(unit))
    return value, given, match.end()


def _examples(unit: Unit) -> str:
    return 'For example 45, 4.5 cm or 1-3/4".' if unit == "mm" else "For example 1 3/4, 9/32, 2.5 or 45mm."


def _short(text: str) -> str:
    text = str(text).strip()
    return text if len(text) <= 24 else text[:23] + "…"


FINEST_IN = 64  # parts of an inch a caliper or a good rule is read to
ENTERED_IN, ENTERED_MM = 16, 0.001  # what an input shows of a length not entered in inches; how near a 64th is one
CALIPER_MM = MM_PER_INCH / 4  # what is thinner is measured with a caliper, not laid against a rule


class LengthFormat(str):
    """A unit of length with the finest mark of the rule a maker reads it on; to everything else it is its unit.

    finest: of mm, mm (0.5); of inches, parts of an inch (32).
    """

    __slots__ = ("finest",)
    finest: float

    def __new__(cls, unit: Unit, finest: float) -> Unit:  # type: ignore[misc]
        made = super().__new__(cls, unit)
        made.finest = finest
        return made  # type: ignore[return-value]


def _read_to(mm: float, unit: Unit) -> float:
    """The finest mark a length is read to: that of the maker's rule, and of what is thin that of a caliper; 0: none."""
    if not isinstance(unit, LengthFormat):
        return 0.0 if unit == "mm" else FINEST_IN
    fine = unit.finest
    if abs(mm) < CALIPER_MM:
        return min(fine, 0.1) if unit == "mm" else max(fine, FINEST_IN)
    return fine


def format_length(mm: float, unit: Unit, *, decimals: int = 1, with_unit: bool = True) -> str:
    """Return a length as this user reads it: mm to so many decimals, inches as a fraction to 1/64; on a
    `LengthFormat` to its marks.

    >>> sixteenths, halves = LengthFormat("in", 16), LengthFormat("mm", 0.5)
    >>> format_length(44.45, "in"), format_length(44.85, sixteenths), format_length(44.85, halves)
    ('1 3/4 in', '1 3/4 in', '45 mm')
    >>> format_length(1810.0, "mm"), format_length(3.57, LengthFormat("in", 16))
    ('1810 mm', '9/64 in')
    """
    if not math.isfinite(mm):
        return "no data"
    mark = _read_to(mm, unit)
    if unit == "mm":
        rounded = f"{round(mm / mark) * mark if mark and decimals <= 1 else mm:.{decimals}f}"
        if "." in rounded:
            rounded = rounded.rstrip("0").rstrip(".")
        number = "0" if rounded in ("-0", "") else rounded.replace("-", "−")
        return f"{number} mm" if with_unit else number
    number = _inch_fraction(mm / MM_PER_INCH, round(mark))
    return f"{number} in" if with_unit else number


def format_entry(mm: float, unit: Unit) -> str:
    """Return what stands in an input for a length, without its unit: mm to a hundredth, inches to a 64th where that is
    what was entered or where a caliper is used, else to a 16th. The exact length is kept while the text is not changed.

    >>> [format_entry(mm, "in") for mm in (52.0, 2.640625 * 25.4, 3.57)], format_entry(52.25, "mm")
    (['2 1/16', '2 41/64', '9/64'], '52.25')
    """
    if unit == "mm" or not math.isfinite(mm):
        return format_length(mm, unit, decimals=2, with_unit=False)
    is_64th = abs(round(mm / MM_PER_INCH * FINEST_IN) * MM_PER_INCH / FINEST_IN - mm) < ENTERED_MM
    return _inch_fraction(mm / MM_PER_INCH, FINEST_IN if is_64th or abs(mm) < CALIPER_MM else ENTERED_IN)


def format_difference(mm: float, unit: Unit) -> str:
    """The difference of two lengths read on a rule, to its marks, without its unit: a caliper never sees it.

    >>> sixteenths = LengthFormat("in", 16)
    >>> format_difference(0.4, sixteenths), format_difference(1.2, sixteenths), format_difference(-3.3, "mm")
    ('0', '1/16', '−3.3')
    """
    mark = unit.finest if isinstance(unit, LengthFormat) else _read_to(mm, unit)
    if unit == "in":
        return _inch_fraction(mm / MM_PER_INCH, round(mark))
    return format_length(round(mm / mark) * mark if mark else mm, "mm", with_unit=False)


def _inch_fraction(inches: float, denominator: int) -> str:
    sign = "−" if inches < 0 and round(abs(inches) * denominator) else ""
    fraction = Fraction(round(abs(inches) * denominator), denominator)
    whole, part = divmod(fraction, 1)
    if not part:
        return f"{sign}{whole}"
    text = f"{part.numerator}/{part.denominator}"
    return f"{sign}{whole} {text}" if whole else f"{sign}{text}"


LITERS_PER_BOARD_FOOT = 144 * MM_PER_INCH**3 * 1e-6
NEWTONS_PER_POUND = 4.4482216152605


def format_wood(cubic_m: float, unit: Unit) -> str:
    """An amount of wood: liters, or board feet of 144 cubic inches.

    >>> format_wood(0.0705, "mm"), format_wood(0.002359737216, "in")
    ('70.5 l', '1.0 bd ft')
    """
    liters = cubic_m * 1000
    return f"{liters:.1f} l" if unit == "mm" else f"{liters / LITERS_PER_BOARD_FOOT:.1f} bd ft"


def format_force(newtons: float, unit: Unit) -> str:
    """A force: newtons, and what that is as a weight.

    >>> format_force(50.0, "mm"), format_force(50.0, "in")
    ('50 N (5.1 kg)', '11 lbf')
    """
    if unit == "in":
        return f"{newtons / NEWTONS_PER_POUND:.0f} lbf"
    return f"{newtons:.0f} N ({newtons / 9.80665:.1f} kg)"


def format_temperature(celsius: float, unit: Unit, *, with_unit: bool = True) -> str:
    """A temperature: degrees Celsius, or Fahrenheit where lengths are in inches.

    >>> format_temperature(98.0, "mm"), format_temperature(100.0, "in")
    ('98 °C', '212 °F')
    """
    value = celsius * 9 / 5 + 32 if unit == "in" else celsius
    text = f"{round(value, 0 if unit == 'in' else 1) + 0.0:g}".replace("-", "−")
    return f"{text} °{'F' if unit == 'in' else 'C'}" if with_unit else text


def parse_temperature_c(text: str, unit: Unit, field: str) -> float:
    """A temperature as typed: in the unit that is on, or in the one written behind it. Raises: PlanError.

    >>> parse_temperature_c("212", "in", "t"), parse_temperature_c("98 C", "in", "t")
    (100.0, 98.0)
    """
    cleaned = str(text).strip().replace("°", "").rstrip()
    is_f = unit == "in"
    if cleaned[-1:].lower() in ("c", "f"):
        is_f, cleaned = cleaned[-1].lower() == "f", cleaned[:-1]
    value = parse_number(cleaned, field, "a temperature")
    return round((value - 32) * 5 / 9, 4) if is_f else value


def format_moment(newton_mm: float, unit: Unit) -> str:
    """A moment: newton metres, or pound-inches."""
    if unit == "in":
        return f"{newton_mm / NEWTONS_PER_POUND / MM_PER_INCH:.0f} lbf·in"
    return f"{newton_mm / 1000:.1f} N·m"


def format_pressure(mpa: float, unit: Unit) -> str:
    """A pressure: kilopascals, or pounds on the square inch.

    >>> format_pressure(0.085, "mm"), format_pressure(0.085, "in")
    ('85 kPa', '12.3 psi')
    """
    if unit == "in":
        return f"{mpa * MM_PER_INCH**2 / NEWTONS_PER_POUND:.1f} psi"
    return f"{mpa * 1000:.0f} kPa"


def format_stress(mpa: float, unit: Unit) -> str:
    """A stress in steel: megapascals, or pounds on the square inch.

    >>> format_stress(165.0, "mm"), format_stress(165.0, "in")
    ('165 MPa', '23,900 psi')
    """
    if unit == "in":
        return f"{round(mpa * MM_PER_INCH**2 / NEWTONS_PER_POUND, -2):,.0f} psi"
    return f"{mpa:.0f} MPa"


def parse_number(text: str, field: str, what: str) -> float:
    """A plain decimal number, comma or point. Raises: PlanError with a sentence."""
    cleaned = str(text).strip().replace("−", "-").replace(",", ".").rstrip("°% ").strip()
    if not re.fullmatch(r"[+-]?(\d{1,9}(\.\d{0,9})?|\.\d{1,9})", cleaned):
        typed = f"“{_short(text)}” is not a number." if cleaned else f"Type {what} here."
        raise PlanError(field, typed)
    return float(cleaned)


def parse_count(text: str, field: str, what: str) -> int:
    """A whole number. Raises: PlanError with a sentence."""
    number = parse_number(text, field, what)
    if not number.is_integer():
        raise PlanError(field, f"“{_short(text)}” is not a whole number.", hint=f"Type {what} without a fraction.")
    return int(number)


@dataclass(frozen=True)
class Measure:
    """A kind of quantity that is typed in whatever unit a dial or a label has it in.

    per: of each unit in lower case, how much it is in the unit it is kept in. shown: the unit it is shown in, by the
    units the shop works in; a bare number is in that.
    """

    what: str
    per: dict[str, float]
    shown: dict[Unit, str]

    def parse(self, text: str, unit: Unit, field: str) -> float:
        """A typed quantity, kept. Raises: PlanError with a sentence.

        >>> round(MEASURES["gauge"].parse("25 inHg", "mm", "g"), 2), MEASURES["gauge"].parse("0,8 bar", "in", "g")
        (84.66, 80.0)
        """
        found = re.fullmatch(r"\s*([-+−\d.,]+)\s*([a-z/°]*)\.?\s*", str(text).strip().lower())
        own = found[2] if found else ""
        if not found or (own and own not in self.per):
            units = ", ".join(sorted({*self.shown.values(), *SAID.get(self.what, ())}))
            typed = f"“{_short(text)}” is not {self.what}." if str(text).strip() else f"Type {self.what} here."
            raise PlanError(field, typed, hint=f"A number, and if it is another its unit: {units}.")
        return parse_number(found[1], field, self.what) * self.per[own or self.shown[unit].lower()]

    def format(self, value: float, unit: Unit) -> str:
        """The number alone, in the unit it is shown in.

        >>> MEASURES["gauge"].format(84.66, "in"), MEASURES["force"].format(2.5, "in")
        ('25', '562')
        """
        shown = value / self.per[self.shown[unit].lower()]
        return f"{shown:.0f}" if abs(shown) >= 100 else f"{shown:.2f}".rstrip("0").rstrip(".")


SAID = {"a gauge reading": ("mbar", "bar", "psi", "mmHg"), "a force": ("N", "kgf"), "a volume": ("l", "qt")}
MEASURES: dict[str, Measure] = {
    "gauge": Measure(
        "a gauge reading",
        {
            "kpa": 1.0,
            "inhg": 3.386389,
            "mbar": 0.1,
            "hpa": 0.1,
            "bar": 100.0,
            "psi": 1000 * NEWTONS_PER_POUND / MM_PER_INCH**2,
            "mmhg": 0.1333224,
            "torr": 0.1333224,
        },
        {"mm": "kPa", "in": "inHg"},
    ),
    "force": Measure(
        "a force",
        {
            "kn": 1.0,
            "n": 0.001,
            "lbf": NEWTONS_PER_POUND / 1000,
            "lb": NEWTONS_PER_POUND / 1000,
            "kgf": 0.00980665,
            "kg": 0.00980665,
        },
        {"mm": "kN", "in": "lbf"},
    ),
    "volume": Measure(
        "a volume", {"l": 1.0, "ml": 0.001, "gal": 3.785411784, "qt": 0.946352946}, {"mm": "l", "in": "gal"}
    ),
    "power": Measure("a power", {"kw": 1.0, "w": 0.001, "btu/h": 0.000293071}, {"mm": "kW", "in": "kW"}),
}
