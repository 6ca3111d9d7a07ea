"""The product's type on paper, embedded in every PDF so that a print reads as the screen does."""

from __future__ import annotations

from functools import cache
from importlib.resources import files

NAMES = ("Hyperlegible", "Hyperlegible-Bold")
FILES = ("atkinson-hyperlegible-regular.ttf", "atkinson-hyperlegible-bold.ttf")


@cache
def _registered() -> tuple[str, str]:
    """Read both weights in, once."""
    from reportlab.pdfbase import pdfmetrics
    from reportlab.pdfbase.ttfonts import TTFont

    for name, file in zip(NAMES, FILES, strict=True):
        pdfmetrics.registerFont(TTFont(name, str(files(__package__) / "font" / file)))
    pdfmetrics.registerFontFamily(NAMES[0], normal=NAMES[0], bold=NAMES[1], italic=NAMES[0], boldItalic=NAMES[1])
    return NAMES


def font(*, bold: bool = False) -> str:
    """Return the name of the type, read in and ready to be set."""
    return _registered()[bold]


def text_width(text: str, size: float, *, bold: bool = False) -> float:
    """Return the width of a text, in the unit of size."""
    from reportlab.pdfbase.pdfmetrics import stringWidth

    return float(stringWidth(text, font(bold=bold), size))
