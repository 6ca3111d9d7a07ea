"""Lists a maker edits row by row: the stretches of a chain, the layers of a lay-up, the splits of a far half."""

from __future__ import annotations

import math
from typing import Any

from ...core.common.errors import PlanError
from ...core.job.job import Job
from ...core.methods.sheet_layup import VENEER_MM
from ...core.wood.sheets import is_sheet

NEW_BLANK_MM = 1_000.0
SPLIT_APART_MM = 80.0  # a new split from the last
LISTS = {  # that a stage edits, the first where none is named
    "shape": ("stretches", "marks"),
    "build_up": ("layers",),
    "form": ("splits_mm",),
    "bend": ("blanks_mm",),
    "prepare": ("flaws", "more", "inspected"),
}
HELD_IN = {"marks": "part", "blanks_mm": "heat"}  # lists a stage edits in another part of the document
LEAST = {"shape": 1, "build_up": 2, "form": 0, "bend": 0, "prepare": 0}  # rows that must be left


def rows_of(data: dict[str, Any], stage: str, which: str = "") -> list[Any]:
    """The rows a stage edits, as a list that can be changed. Raises: PlanError when it has none."""
    names = LISTS.get(stage, ())
    name = which or next(iter(names), "")
    holder = data[HELD_IN.get(name, stage)] if name in names else {}
    if name not in holder:
        raise PlanError("rows", "There is no list here.")
    holder[name] = list(holder[name])
    rows: list[Any] = holder[name]
    return rows


def edited(job: Job, stage: str, do: str, row: int, to: int, which: str = "") -> dict[str, Any]:
    """The job's data with a row added, moved, or taken out. Raises: PlanError for what cannot be done."""
    data = job.model_dump()
    rows = rows_of(data, stage, which)
    if do in ("reverse", "over") and stage == "shape":
        rows[:] = [_turned(r, do) for r in (reversed(rows) if do == "reverse" else rows)]
    elif do == "add":
        rows.append(_new_row(rows, which or stage, to, data))
    elif not 0 <= row < len(rows):
        raise PlanError("rows", "There is no such row.")
    elif do == "remove":
        if len(rows) <= (0 if which in HELD_IN else LEAST[stage]):
            raise PlanError("rows", "Something must be left to bend.")
        rows.pop(row)
    elif do == "move":
        rows.insert(max(0, min(to, len(rows) - 1)), rows.pop(row))
    else:
        raise PlanError("rows", "That is not possible with a row.")
    if stage == "build_up":
        _keep_total(data, job, do, row)
    if stage == "form":
        rows.sort()
    return data


def _turned(row: dict[str, Any], do: str) -> dict[str, Any]:
    """A stretch run from its other end, or bent the other way."""
    if do == "reverse":
        return {**row, "from_radius_mm": row["to_radius_mm"], "to_radius_mm": row["from_radius_mm"]}
    flipped = {n: -row[n] if row[n] else row[n] for n in ("angle_deg", "from_radius_mm", "to_radius_mm")}
    return {**row, **flipped}


def _new_row(rows: list[Any], stage: str, kind: int, data: dict[str, Any]) -> Any:
    if stage == "marks":
        return {"name": f"mark {len(rows) + 1}", "at_mm": 0.0, "counted_from": "center"}
    if stage == "more":
        first = {name: data["prepare"][name] for name in ("thickness_mm", "width_mm", "length_mm")}
        return dict(rows[-1]) if rows else {**first, "count": 1}
    if stage == "inspected":
        free = next(n for n in range(1, 201) if n not in {row["board"] for row in rows})
        return {"board": free, "verdict": "keep", "matched": "", "note": ""}
    if stage in ("prepare", "flaws"):
        return {"board": rows[-1]["board"] if rows else 1, "start_mm": 0.0, "end_mm": 100.0}
    if stage in ("bend", "blanks_mm"):  # as long as the last, or as the strap there is
        return rows[-1] if rows else data["heat"]["strap_length_mm"] or NEW_BLANK_MM
    if stage == "form":  # in the middle, or beside what is split already
        return round(rows[-1] + SPLIT_APART_MM, 1) if rows else 0.0
    if stage == "build_up":
        if not rows:
            raise PlanError("rows", "Choose custom plies first.")
        return {**rows[-1], "bent_radius_mm": None}
    length = 100.0
    return stretch_of(("straight", "arc", "easing")[kind % 3], length)


def stretch_of(kind: str, length_mm: float) -> dict[str, Any]:
    """A stretch of a kind, about as long as another was."""
    empty = {"length_mm": None, "radius_mm": None, "angle_deg": None, "from_radius_mm": None, "to_radius_mm": None}
    if kind == "arc":
        radius = max(5.0, round(length_mm))
        return {**empty, "kind": kind, "radius_mm": radius, "angle_deg": round(math.degrees(length_mm / radius))}
    if kind == "easing":
        return {**empty, "kind": kind, "length_mm": length_mm, "to_radius_mm": max(5.0, round(2 * length_mm))}
    return {**empty, "kind": "straight", "length_mm": length_mm}


def length_of(row: dict[str, Any]) -> float:
    """About how long a stretch is."""
    if row["kind"] == "arc" and row.get("radius_mm") and row.get("angle_deg"):
        return max(0.5, round(abs(row["radius_mm"] * math.radians(row["angle_deg"])), 1))
    return float(row.get("length_mm") or 100.0)


def _keep_total(data: dict[str, Any], job: Job, do: str, row: int) -> None:
    """A layer put in or taken out changes how thick the part is: sheets cannot give way."""
    data["part"]["thickness_mm"] = round(sum(x["thickness_mm"] for x in data["build_up"]["layers"]), 6)


def with_show_faces(job: Job) -> dict[str, Any]:
    """The layers with a show veneer of the stock on either face, the sawn layers between made thinner by as much."""
    data = job.model_dump()
    rows = rows_of(data, "build_up")
    sawn = [x for x in rows if not is_sheet(x["material"])]
    inside = sum(x["thickness_mm"] for x in sawn)
    veneer = {"thickness_mm": VENEER_MM, "material": job.stock.species, "bent_radius_mm": None, "grain": "along"}
    if sawn and inside > 4 * VENEER_MM:
        for x in sawn:
            x["thickness_mm"] *= 1 - 2 * VENEER_MM / inside
    rows.insert(0, dict(veneer))
    rows.append(dict(veneer))
    _keep_total(data, job, "add", 0)
    return data
