"""Reads outline files in a process of its own: files made by others may ask for any time and any memory.

Run as `python -m bright_willow.drawing.reading`; bright_willow.working says how it is asked.
"""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from ..core.common.errors import PlanError
from ..working import serve
from .outline_files import FIELD, FileOutline, outlines_in

MEMORY_BYTES, SECONDS = 512 * 2**20, 10
TOO_MUCH = "This file takes more memory than a drawing may. Save only the outline, and try again."


def answered(raw: bytes, name: str, which: int) -> dict[str, Any]:
    """The outline that is asked for, as plain data, how many there are and the unit; or the fault."""
    try:
        found, unit = outlines_in(raw, name)
        if not 1 <= which <= len(found):
            raise PlanError(
                "which", f"There are {len(found)} outlines in the file; choose from 1 to {len(found)}, longest first."
            )
    except PlanError as error:
        return {"field": error.field, "says": str(error)}
    except MemoryError:
        return {"field": FIELD, "says": TOO_MUCH}
    except Exception:
        return {"field": FIELD, "says": "The outlines of this file cannot be read."}
    chosen = found[which - 1]
    return {"outline": {**asdict(chosen), "points": chosen.points.tolist()}, "count": len(found), "unit": unit}


def outline_of(answer: dict[str, Any]) -> tuple[FileOutline, int, str]:
    """The outline, how many there are, and the unit, out of an answer. Raises: PlanError with what is wrong."""
    import numpy as np

    if "says" in answer:
        raise PlanError(str(answer["field"]), str(answer["says"]))
    told = answer["outline"]
    chain = tuple((float(length), float(k)) for length, k in told["chain"])
    found = FileOutline(
        str(told["name"]), np.array(told["points"], dtype=float).reshape(-1, 2), float(told["length"]), chain
    )
    return found, int(answer["count"]), str(answer["unit"])


if __name__ == "__main__":
    import ezdxf.path  # what reading needs is read in now, so that the first file does not wait for it
    import svgelements

    _ = ezdxf, svgelements
    serve(answered, memory_bytes=MEMORY_BYTES, seconds=SECONDS)
