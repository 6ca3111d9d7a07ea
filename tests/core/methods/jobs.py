"""One job for every way of bending, as a maker might ask for it; and others the same with a change."""

from __future__ import annotations

from typing import Any

from bright_willow.core.job.job import Job
from bright_willow.core.methods.method_registry import WAYS
from bright_willow.core.plan.read_job import read_job

HOOK = {"kind": "hook", "face": "inner", "start_mm": 420, "radius_mm": 160, "angle_deg": 110, "end_mm": 190}
BOW = {"kind": "arc_by_chord", "face": "mid", "chord_mm": 1200, "rise_mm": 25}
RIB_SHAPE = {"kind": "hook", "face": "inner", "start_mm": 300, "radius_mm": 420, "angle_deg": 85, "end_mm": 120}
STOCK = {"species": "ash_white", "dryness": "air_dried", "moisture_pct": 20}
SOLID = {"thickness_mm": 16, "width_mm": 24, "count": 4, "spares": 3, "trim_mm": 150}
STRIP = {"thickness_mm": 2, "width_mm": 30, "count": 4, "spares": 2, "trim_mm": 30}
LAID = {"thickness_mm": 24, "width_mm": 40, "count": 4, "spares": 1, "trim_mm": 60}
SHEETS = {
    "lay_up": "layers",
    "layers": [{"thickness_mm": 0.6, "material": "ash_white"}]
    + [{"thickness_mm": 5.0, "material": "flex_ply_5"}] * 4
    + [{"thickness_mm": 0.6, "material": "ash_white"}],
}
JOBS: dict[str, dict[str, Any]] = {
    "cold_lamination": {"shape": RIB_SHAPE, "part": LAID, "build_up": {"laminae": 10}},
    "sheet_layup": {"shape": RIB_SHAPE, "part": {**LAID, "thickness_mm": 21.2}, "build_up": SHEETS},
    "steam_laminae": {"shape": RIB_SHAPE, "part": LAID, "build_up": {"laminae": 4}},
    "steam_free": {"shape": {**HOOK, "radius_mm": 420}, "part": SOLID},
    "steam_strap": {"shape": HOOK, "part": SOLID},
    "dry_heat": {"shape": HOOK, "part": STRIP},
    "blanket": {"shape": HOOK, "part": STRIP},
    "straighten": {"shape": BOW, "part": {**SOLID, "trim_mm": 0}},
}
assert set(JOBS) == set(WAYS)


def data_for(way: str, **changes: Any) -> dict[str, Any]:
    """The job of a way as data, rooms of it changed."""
    data: dict[str, Any] = {"name": way, "way": way, "stock": STOCK, **JOBS[way]}
    for room, value in changes.items():
        whole = not isinstance(value, dict) or room == "shape" or not isinstance(data.get(room, {}), dict)
        data[room] = value if whole else {**data.get(room, {}), **value}
    return data


def job_for(way: str, **changes: Any) -> Job:
    """The job of a way, rooms of it changed."""
    return read_job(data_for(way, **changes))
