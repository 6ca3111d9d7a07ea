"""The table of offsets as a file."""

from __future__ import annotations

import csv
import io

from ..core.plan.result import Plan


def offsets_csv(plan: Plan) -> str:
    """Stations from the middle and heights above the base line, mm, one row a station, left to right."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(["station_mm_from_middle", "height_mm_above_base_line"])
    for row in plan.offsets:
        writer.writerow([f"{row.station_mm:.2f}", f"{row.height_mm:.2f}"])
    return out.getvalue()
