"""Points typed or pasted as lines of text."""

from __future__ import annotations

import re

from ...core.common.errors import PlanError
from ...core.common.units import Unit, parse_length_mm

MOST_POINTS = 20_000


def read_points(text: str, unit: Unit, field: str) -> list[list[float]]:
    """Points out of lines, two lengths each, parted by a tab, semicolon, comma with space, or spaces.

    A first line of words is taken as a heading. Stations must run on in order. Raises: PlanError with the line.
    """
    lines = [(n, line.strip()) for n, line in enumerate(text.splitlines(), 1) if line.strip()]
    if lines and not any(c.isdigit() for c in lines[0][1]):
        lines = lines[1:]
    if len(lines) < 3:
        raise PlanError(field, "Three points or more are needed; two make a straight line.")
    if len(lines) > MOST_POINTS:
        raise PlanError(field, f"At most {MOST_POINTS} points, please; there are {len(lines)}.")
    points = []
    for number, line in lines:
        parts = [p for p in re.split(r"\t|;|,\s+|,(?=\S+$)(?!\d+$)", line) if p.strip()]
        if len(parts) != 2:
            parts = line.split()
        if len(parts) != 2:
            parts = line.split(",")
        if len(parts) != 2:
            raise PlanError(field, f"Line {number} should hold two lengths, across and up.")
        try:
            points.append([parse_length_mm(p.strip(" ,"), unit) for p in parts])
        except PlanError as error:
            raise PlanError(field, f"Line {number}: {error.message(unit)}") from None
    return points
