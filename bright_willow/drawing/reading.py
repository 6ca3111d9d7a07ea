"""Reads outline files in a process of its own: files made by others may ask for any time and any memory.

Run as `python -m bright_willow.drawing.reading`. On its input, for each file, a line of JSON {"name", "which", "size"}
and the bytes of the file; on its output, for each, a line of JSON: the outline asked for, or what is wrong.
"""

from __future__ import annotations

import json
import sys
from dataclasses import asdict
from typing import Any, BinaryIO

from ..core.ground.errors import OutOfRange
from .outline_files import FIELD, Found, outlines_in

MEMORY_BYTES, SECONDS = 512 * 2**20, 10
TOO_MUCH = "This file takes more memory than a drawing may. Save only the outline, and try again."


def answered(raw: bytes, name: str, which: int) -> dict[str, Any]:
    """The outline that is asked for, as plain data, how many there are and the unit; or the fault."""
    try:
        found, unit = outlines_in(raw, name)
        if not 1 <= which <= len(found):
            raise OutOfRange(
                "which", f"There are {len(found)} outlines in the file; choose from 1 to {len(found)}, longest first."
            )
    except OutOfRange as error:
        return {"field": error.field, "says": str(error)}
    except MemoryError:
        return {"field": FIELD, "says": TOO_MUCH}
    except Exception:
        return {"field": FIELD, "says": "The outlines of this file cannot be read."}
    chosen = found[which - 1]
    return {"outline": {**asdict(chosen), "points": chosen.points.tolist()}, "count": len(found), "unit": unit}


def outline_of(answer: dict[str, Any]) -> tuple[Found, int, str]:
    """The outline, how many there are, and the unit, out of an answer. Raises: OutOfRange with what is wrong."""
    import numpy as np

    if "says" in answer:
        raise OutOfRange(str(answer["field"]), str(answer["says"]))
    told = answer["outline"]
    chain = tuple((float(length), float(k)) for length, k in told["chain"])
    found = Found(str(told["name"]), np.array(told["points"], dtype=float).reshape(-1, 2), float(told["length"]), chain)
    return found, int(answer["count"]), str(answer["unit"])


def _limit_memory() -> None:
    """Not more than so much on top of what the program itself takes."""
    try:
        import resource
        from pathlib import Path

        pages = [int(n) for n in Path("/proc/self/statm").read_text().split()[:2]]
        taken, held = (n * resource.getpagesize() for n in pages)
        most = taken - held + MEMORY_BYTES
        resource.setrlimit(resource.RLIMIT_AS, (most, most))
    except (ImportError, OSError, ValueError):
        return  # not on this system: the time limit stands


def _limit_time() -> None:
    try:
        import resource

        used = resource.getrusage(resource.RUSAGE_SELF)
        most = int(used.ru_utime + used.ru_stime) + SECONDS + 2
        resource.setrlimit(resource.RLIMIT_CPU, (most, resource.getrlimit(resource.RLIMIT_CPU)[1]))
    except (ImportError, OSError, ValueError):
        return


def serve(asked: BinaryIO, told: BinaryIO) -> None:
    """Answer until the input ends."""
    import ezdxf.path  # what reading needs is read in now, so that the first file does not wait for it
    import svgelements

    _ = ezdxf, svgelements
    _limit_memory()
    while line := asked.readline():
        _limit_time()
        request = json.loads(line)
        raw = asked.read(request["size"])
        told.write(json.dumps(answered(raw, request["name"], request["which"]), allow_nan=False).encode() + b"\n")
        told.flush()


if __name__ == "__main__":
    serve(sys.stdin.buffer, sys.stdout.buffer)
