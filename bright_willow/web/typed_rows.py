"""Shapes typed as lines of text: stretches of a chain, and points."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any

from ..core.errors import OutOfRange
from ..core.units import Unit, format_length, parse_length_mm, parse_number
from ..core.wood.sheets import sheet_table
from ..core.wood.species import species_table

MOST_POINTS = 20_000
WORDS = {"straight": 1, "arc": 2, "easing": 3}


def shown_stretch(row: Mapping[str, Any], unit: Unit) -> str:
    """A stretch as a line of text."""

    def length(mm: float | None) -> str:
        return format_length(mm or 0.0, unit, decimals=2, with_unit=False).replace(" ", "-").replace("−", "-")

    if row["kind"] == "straight":
        return f"straight {length(row['length_mm'])}"
    if row["kind"] == "arc":
        return f"arc {length(row['radius_mm'])} {float(row['angle_deg']):.4g}"
    return f"easing {length(row['length_mm'])} {length(row['from_radius_mm'])} {length(row['to_radius_mm'])}"


def read_stretches(text: str, unit: Unit, field: str) -> list[dict[str, Any]]:
    """Stretches out of lines of text. Raises: OutOfRange with the number of the line."""
    rows = []
    for number, line in enumerate(text.splitlines(), 1):
        parts = line.replace("°", "").split()
        if not parts:
            continue
        kind, figures = parts[0].lower().rstrip(":"), parts[1:]
        if kind not in WORDS:
            raise OutOfRange(field, f"Line {number} should begin with straight, arc or easing.")
        if len(figures) != WORDS[kind]:
            raise OutOfRange(field, f"Line {number}: {kind} takes {WORDS[kind]} figure{'s'[: WORDS[kind] - 1]}.")
        try:
            rows.append(_stretch(kind, figures, unit))
        except OutOfRange as error:
            raise OutOfRange(field, f"Line {number}: {error.says(unit)}") from None
    if not rows:
        raise OutOfRange(field, "Write at least one stretch, for example arc 300 90.")
    return rows


def _stretch(kind: str, figures: list[str], unit: Unit) -> dict[str, Any]:
    first = parse_length_mm(figures[0], unit)
    if kind == "straight":
        return {"kind": kind, "length_mm": first}
    if kind == "arc":
        return {"kind": kind, "radius_mm": first, "angle_deg": parse_number(figures[1], "angle", "an angle")}
    ends = [parse_length_mm(f, unit) or None for f in figures[1:]]
    return {"kind": kind, "length_mm": first, "from_radius_mm": ends[0], "to_radius_mm": ends[1]}


def read_points(text: str, unit: Unit, field: str) -> list[list[float]]:
    """Points out of lines, two lengths each, parted by a tab, semicolon, comma with space, or spaces.

    A first line of words is taken as a heading. Stations must run on in order. Raises: OutOfRange with the line.
    """
    lines = [(n, line.strip()) for n, line in enumerate(text.splitlines(), 1) if line.strip()]
    if lines and not any(c.isdigit() for c in lines[0][1]):
        lines = lines[1:]
    if len(lines) < 3:
        raise OutOfRange(field, "Three points or more are needed; two make a straight line.")
    if len(lines) > MOST_POINTS:
        raise OutOfRange(field, f"At most {MOST_POINTS} points, please; there are {len(lines)}.")
    points = []
    for number, line in lines:
        parts = [p for p in re.split(r"\t|;|,\s+|,(?=\S+$)(?!\d+$)", line) if p.strip()]
        if len(parts) != 2:
            parts = line.split()
        if len(parts) != 2:
            parts = line.split(",")
        if len(parts) != 2:
            raise OutOfRange(field, f"Line {number} should hold two lengths, across and up.")
        try:
            points.append([parse_length_mm(p.strip(" ,"), unit) for p in parts])
        except OutOfRange as error:
            raise OutOfRange(field, f"Line {number}: {error.says(unit)}") from None
    return points


def _materials() -> dict[str, str]:
    """Key by name and by key, in small letters."""
    rows = {**sheet_table(), **species_table()}
    return {**{row.name.lower(): key for key, row in rows.items()}, **{key: key for key in rows}}


def shown_layer(row: Mapping[str, Any], unit: Unit) -> str:
    """A layer as a line of text."""
    tables = {**sheet_table(), **species_table()}
    name = tables[row["material"]].name if row["material"] in tables else row["material"]
    text = f"{format_length(row['thickness_mm'], unit, decimals=2, with_unit=False)}, {name}"
    if row.get("bent_radius_mm"):
        text += f", bent {format_length(row['bent_radius_mm'], unit, decimals=2, with_unit=False)}"
    return text


def read_layers(text: str, unit: Unit, field: str) -> list[dict[str, Any]]:
    """Layers out of lines: thickness, material, and perhaps "bent" and a radius. Raises: OutOfRange with the line."""
    known, rows = _materials(), []
    for number, line in enumerate(text.splitlines(), 1):
        parts = [p.strip() for p in line.split(",") if p.strip()]
        if not parts:
            continue
        if len(parts) not in (2, 3):
            raise OutOfRange(field, f"Line {number} should hold a thickness and a wood or sheet, parted by a comma.")
        if parts[1].lower() not in known:
            raise OutOfRange(field, f"Line {number}: no wood or sheet called “{parts[1][:40]}” is in the tables.")
        row: dict[str, Any] = {"material": known[parts[1].lower()]}
        try:
            row["thickness_mm"] = parse_length_mm(parts[0], unit)
            if len(parts) == 3:
                if not parts[2].lower().startswith("bent"):
                    raise OutOfRange(field, "after the wood only “bent” and a radius can stand.")
                row["bent_radius_mm"] = parse_length_mm(parts[2][4:], unit)
        except OutOfRange as error:
            raise OutOfRange(field, f"Line {number}: {error.says(unit)}") from None
        rows.append(row)
    return rows
